package store

import (
	"context"
	"encoding/json"
	"errors"
	"slices"
	"strconv"
	"time"

	"cleverniche/core/plan"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// Found is what grouping looks at of what was found for an idea: the URLs of its results, a line each;
// content stems, and those that many titles say, with blanks between them.
type Found struct {
	IdeaID uint `gorm:"primaryKey;autoIncrement:false"`
	Pages  string
	Stems  string
	Said   string
}

// Hub is the overview that a topic is a spoke of, as somebody chose it.
type Hub string

// What a hub is besides another topic.
const (
	ProposedHub Hub = ""     // whichever is proposed
	NoHub       Hub = "none" // none, since somebody said so
)

// HubOf is a topic as a hub.
func HubOf(topic uint) Hub { return Hub(strconv.FormatUint(uint64(topic), 10)) }

// Topic is the topic that is the hub; ok is false when it is none.
func (h Hub) Topic() (id uint, ok bool) {
	n, err := strconv.ParseUint(string(h), 10, 32)
	return uint(n), err == nil && n > 0
}

// TopicEdit is what somebody decided by hand on ideas that one article answers, and how far that is.
type TopicEdit struct {
	ID        uint
	NicheID   uint
	Name      string     `holds:"t120"` // "" the lead's phrase
	LeadID    uint       // chosen by hand; 0 is the most searched
	Phrase    string     `holds:"t400"` // the lead's, as it was when the topic was last decided on
	Hub       Hub        `holds:"t20"`
	State     plan.State `holds:"t40"`
	Place     float64    `holds:"-1e15..1e15"` // on the sheet, the smallest first
	Hours     int        `holds:"0..400"`      // 0 is what its kind takes
	Start     plan.Date  `holds:"t10"`
	Deadline  plan.Date  `holds:"t10"`
	Address   string     `holds:"t2048"` // where it is published
	Published plan.Date  `holds:"t10"`
	Note      string     `holds:"t2000"`
	Brief     string     `holds:"t600000"` // what was edited of the brief, as JSON
	Drawn     string     `holds:"t400000"` // the brief as it was first read once it was planned, as JSON
	CreatedAt time.Time
	ChangedAt time.Time
}

// Membership is an idea put in a topic by hand.
type Membership struct {
	IdeaID  uint `gorm:"primaryKey;autoIncrement:false"`
	NicheID uint
	TopicID uint
}

// TableName is topics.
func (TopicEdit) TableName() string { return "topics" }

// TableName is placements.
func (Membership) TableName() string { return "placements" }

// TopicChange is what there was before a change to topics, for undoing.
type TopicChange struct {
	ID        uint
	NicheID   uint
	Says      string
	Before    string
	Person    string // whose it is
	CreatedAt time.Time
}

// OwnPage is a page of the niche's own site.
type OwnPage struct {
	NicheID uint   `gorm:"primaryKey;autoIncrement:false"`
	URL     string `gorm:"primaryKey" holds:"t2048"`
	Title   string `holds:"t1000"`
	At      time.Time
}

// Action is what was done about a phrase that a page of mine stands for.
type Action struct {
	IdeaID  uint `gorm:"primaryKey;autoIncrement:false"`
	NicheID uint
	Done    string `holds:"t2000"` // what was to be done
	At      time.Time
}

// before is what a change touched, as it was. Topics with no row then are taken out again.
type before struct {
	Topics []TopicEdit   `json:"topics"`
	Made   []uint        `json:"made"`
	Placed map[uint]uint `json:"placed"` // topic by idea; 0 is none
}

// mostChanges is how many changes of a niche can be undone.
const mostChanges = 200

// Topics returns what was decided by hand in a niche: topics in the order they were made, and the topic
// of each idea that was put in one.
func (s *Store) Topics(ctx context.Context, niche uint) (topics []TopicEdit, placed map[uint]uint, err error) {
	if err = s.read(ctx).Where("niche_id = ?", niche).Order("id").Find(&topics).Error; err != nil {
		return nil, nil, err
	}
	var rows []Membership
	err = s.read(ctx).Where("niche_id = ?", niche).Find(&rows).Error
	placed = make(map[uint]uint, len(rows))
	for _, p := range rows {
		placed[p.IdeaID] = p.TopicID
	}
	return topics, placed, err
}

// CountStates is how many topics of a niche that something was decided on are in each state.
func (s *Store) CountStates(ctx context.Context, niche uint) (map[plan.State]int, error) {
	var rows []struct {
		State plan.State
		N     int
	}
	err := s.read(ctx).Model(&TopicEdit{}).Select("state, count(*) AS n").Where("niche_id = ?", niche).Group("state").
		Scan(&rows).Error
	out := make(map[plan.State]int, len(rows))
	for _, r := range rows {
		out[r.State] = r.N
	}
	return out, err
}

// TopicTx changes topics within one transaction, and notes what was there before.
type TopicTx struct {
	tx     *gorm.DB
	niche  uint
	now    time.Time
	before before
}

// ErrMoved is returned for a change that was decided on topics as they are not any more.
var ErrMoved = errors.New("the topics were changed meanwhile")

// AnyRevision is of a change that holds whatever else was changed.
const AnyRevision = -1

// EditTopics does changes to the topics of a niche; either all are made or none. They were decided on the topics at a
// revision: where that is not the present one, nothing is done, and ErrMoved returned. says is told when they are
// undone.
func (s *Store) EditTopics(ctx context.Context, niche uint, at int64, says func() string,
	do func(e *TopicTx) error) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		if n, err := first[Niche](tx.Select("plans").Where("id = ?", niche)); err != nil {
			return err
		} else if at != AnyRevision && n.TopicsRevision != at {
			return ErrMoved
		}
		e := &TopicTx{tx: tx, niche: niche, now: s.now(), before: before{Placed: map[uint]uint{}}}
		if err := do(e); err != nil {
			return err
		}
		text, err := json.Marshal(e.before)
		if err != nil {
			return err
		}
		change := TopicChange{NicheID: niche, Says: says(), Before: string(text), CreatedAt: e.now}
		if err := tx.Create(&change).Error; err != nil {
			return err
		}
		err = tx.Exec("DELETE FROM topic_changes WHERE niche_id = ? AND id <= (SELECT id FROM topic_changes "+
			"WHERE niche_id = ? ORDER BY id DESC LIMIT 1 OFFSET ?)", niche, niche, mostChanges).Error
		if err != nil {
			return err
		}
		return nextPlans(tx, niche)
	})
}

func nextPlans(tx *gorm.DB, niche uint) error {
	return tx.Exec("UPDATE niches SET plans = plans + 1 WHERE id = ?", niche).Error
}

// Edit returns a topic as it is, or ErrNotFound.
func (e *TopicTx) Edit(id uint) (TopicEdit, error) {
	return first[TopicEdit](e.tx.Where("niche_id = ? AND id = ?", e.niche, id))
}

// All returns the niche's topics.
func (e *TopicTx) All() (topics []TopicEdit, err error) {
	return topics, e.tx.Where("niche_id = ?", e.niche).Order("id").Find(&topics).Error
}

// Save writes a topic; one without an ID is made.
func (e *TopicTx) Save(t *TopicEdit) error {
	t.NicheID, t.ChangedAt = e.niche, e.now
	if t.ID == 0 {
		t.CreatedAt = e.now
		if err := e.tx.Create(t).Error; err != nil {
			return err
		}
		e.before.Made = append(e.before.Made, t.ID)
		return nil
	}
	if err := e.keep(t.ID); err != nil {
		return err
	}
	return e.tx.Select("*").Updates(t).Error
}

// Remove takes a topic out; its ideas are nobody's any more, and what hung on it hangs as proposed.
func (e *TopicTx) Remove(id uint) error {
	if err := e.keep(id); err != nil {
		return err
	}
	var spokes []TopicEdit // or another topic that gets its ID would be their hub
	err := e.tx.Where("niche_id = ? AND hub = ?", e.niche, HubOf(id)).Find(&spokes).Error
	if err != nil {
		return err
	}
	for i := range spokes {
		spokes[i].Hub = ""
		if err := e.Save(&spokes[i]); err != nil {
			return err
		}
	}
	var rows []Membership
	if err := e.tx.Where("topic_id = ?", id).Find(&rows).Error; err != nil {
		return err
	}
	for _, p := range rows {
		e.keepPlace(p.IdeaID, p.TopicID)
	}
	return e.tx.Where("id = ? AND niche_id = ?", id, e.niche).Delete(&TopicEdit{}).Error
}

// keep notes what a topic was before its first change.
func (e *TopicTx) keep(id uint) error {
	if slices.Contains(e.before.Made, id) ||
		slices.ContainsFunc(e.before.Topics, func(t TopicEdit) bool { return t.ID == id }) {
		return nil
	}
	was, err := e.Edit(id)
	if err == nil {
		e.before.Topics = append(e.before.Topics, was)
	}
	return err
}

func (e *TopicTx) keepPlace(idea, topic uint) {
	if _, noted := e.before.Placed[idea]; !noted {
		e.before.Placed[idea] = topic
	}
}

// Put puts ideas of the niche in a topic; 0 is none. Those of other niches are ErrNotFound.
func (e *TopicTx) Put(topic uint, ideas []uint) error {
	ideas = slices.Compact(slices.Sorted(slices.Values(ideas)))
	for part := range slices.Chunk(ideas, lookup) {
		var there int64
		if err := e.tx.Model(&Idea{}).Where(byIDs, e.niche, part).Count(&there).Error; err != nil {
			return err
		}
		if int(there) < len(part) {
			return ErrNotFound
		}
		var rows []Membership
		if err := e.tx.Where("idea_id IN ?", part).Find(&rows).Error; err != nil {
			return err
		}
		was := map[uint]uint{}
		for _, p := range rows {
			was[p.IdeaID] = p.TopicID
		}
		for _, idea := range part {
			e.keepPlace(idea, was[idea])
		}
		if err := setPlaces(e.tx, e.niche, topic, part); err != nil {
			return err
		}
	}
	return nil
}

func setPlaces(tx *gorm.DB, niche, topic uint, ideas []uint) error {
	if topic == 0 {
		return tx.Where("idea_id IN ?", ideas).Delete(&Membership{}).Error
	}
	rows := make([]Membership, len(ideas))
	for i, idea := range ideas {
		rows[i] = Membership{idea, niche, topic}
	}
	return tx.Clauses(clause.OnConflict{UpdateAll: true}).CreateInBatches(&rows, batch).Error
}

// LastTopicChange is when topics of a niche were last changed, of what can be undone.
func (s *Store) LastTopicChange(ctx context.Context, niche uint) (time.Time, error) {
	c, err := first[TopicChange](s.read(ctx).Where("niche_id = ? AND person = ?", niche, personOf(ctx)).Order("id DESC"))
	if errors.Is(err, ErrNotFound) {
		return time.Time{}, nil
	}
	return c.CreatedAt, err
}

// LastDecision is when the latest decision, label or note of a niche was made, of what can be undone.
func (s *Store) LastDecision(ctx context.Context, niche uint) (time.Time, error) {
	d, err := first[Decision](s.read(ctx).Where("niche_id = ? AND person = ? AND "+byKey, niche,
		personOf(ctx)).Order("id DESC"))
	if errors.Is(err, ErrNotFound) {
		return time.Time{}, nil
	}
	return d.CreatedAt, err
}

// UndoTopics takes back the latest change to a niche's topics, and says which; "" when there is none.
func (s *Store) UndoTopics(ctx context.Context, niche uint) (says string, err error) {
	err = s.write(ctx, func(tx *gorm.DB) error {
		last, err := first[TopicChange](tx.Where("niche_id = ? AND person = ?", niche, personOf(ctx)).Order("id DESC"))
		if errors.Is(err, ErrNotFound) {
			return nil
		}
		if err != nil {
			return err
		}
		var since int64 // what was there before would write over what others did
		if err := tx.Model(&TopicChange{}).Where("niche_id = ? AND id > ?", niche, last.ID).Count(&since).Error; err != nil {
			return err
		}
		if since > 0 {
			return ErrSince
		}
		var was before
		if err := json.Unmarshal([]byte(last.Before), &was); err != nil {
			return err
		}
		if len(was.Made) > 0 {
			if err := tx.Where("niche_id = ? AND id IN ?", niche, was.Made).Delete(&TopicEdit{}).Error; err != nil {
				return err
			}
		}
		for _, t := range was.Topics {
			if err := keepDrawn(tx, &t); err != nil {
				return err
			}
			if err := tx.Clauses(clause.OnConflict{UpdateAll: true}).Create(&t).Error; err != nil {
				return err
			}
		}
		to := map[uint][]uint{}
		for idea, topic := range was.Placed {
			to[topic] = append(to[topic], idea)
		}
		for topic, ideas := range to {
			for part := range slices.Chunk(ideas, lookup) {
				if err := setPlaces(tx, niche, topic, part); err != nil {
					return err
				}
			}
		}
		says = last.Says
		if err := tx.Delete(&last).Error; err != nil {
			return err
		}
		return nextPlans(tx, niche)
	})
	return says, err
}

// keepDrawn leaves the brief of what is planned as it is by now, where it was first read after the change that is
// undone.
func keepDrawn(tx *gorm.DB, t *TopicEdit) error {
	if t.Drawn != "" || t.State == plan.None {
		return nil
	}
	return tx.Model(&TopicEdit{}).Where("id = ?", t.ID).Select("drawn").Scan(&t.Drawn).Error
}

// Drawn is a topic's brief as it was first read, "" when it never was.
func (s *Store) Drawn(ctx context.Context, niche, topic uint) (text string, err error) {
	return text, s.read(ctx).Model(&TopicEdit{}).Where("niche_id = ? AND id = ?", niche, topic).Select("drawn").
		Scan(&text).Error
}

// Draw keeps a planned topic's brief as it is read, unless it has changed from was meanwhile. That is no change of the
// topic: nothing is there to undo.
func (s *Store) Draw(ctx context.Context, niche, topic uint, was, text string) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		return tx.Model(&TopicEdit{}).Where("niche_id = ? AND id = ? AND drawn = ? AND state <> ?", niche, topic, was,
			plan.None).Update("drawn", text).Error
	})
}

// TopicsRevision is the number that grows with every change to a niche's topics.
func (s *Store) TopicsRevision(ctx context.Context, niche uint) (n int64, err error) {
	return n, s.read(ctx).Raw("SELECT plans FROM niches WHERE id = ?", niche).Scan(&n).Error
}

// SetGrouping notes which ideas of a niche are grouped, and how.
func (s *Store) SetGrouping(ctx context.Context, niche uint, scope string, shared int) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		err := tx.Model(&Niche{}).Where("id = ?", niche).Updates(map[string]any{"scope": scope, "shared": shared}).Error
		if err != nil {
			return err
		}
		return nextPlans(tx, niche)
	})
}

// SaveOwnPages notes the pages of a niche's own site, in place of those known before.
func (s *Store) SaveOwnPages(ctx context.Context, niche uint, pages []OwnPage) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		if err := tx.Where("niche_id = ?", niche).Delete(&OwnPage{}).Error; err != nil {
			return err
		}
		now := s.now()
		for i := range pages {
			pages[i].NicheID, pages[i].At = niche, now
		}
		if len(pages) > 0 {
			if err := tx.CreateInBatches(&pages, batch).Error; err != nil {
				return err
			}
		}
		return nextPlans(tx, niche)
	})
}

// OwnPages lists them.
func (s *Store) OwnPages(ctx context.Context, niche uint) (out []OwnPage, err error) {
	return out, s.read(ctx).Where("niche_id = ?", niche).Order("url").Find(&out).Error
}

// SetAction notes what was done about an idea's page; "" takes that back.
func (s *Store) SetAction(ctx context.Context, niche, idea uint, done string) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		if done == "" {
			return tx.Where("niche_id = ? AND idea_id = ?", niche, idea).Delete(&Action{}).Error
		}
		row := Action{idea, niche, done, s.now()}
		return tx.Clauses(clause.OnConflict{UpdateAll: true}).Create(&row).Error
	})
}

// Actions are what was done, by idea.
func (s *Store) Actions(ctx context.Context, niche uint) (map[uint]Action, error) {
	var rows []Action
	err := s.read(ctx).Where("niche_id = ?", niche).Find(&rows).Error
	out := make(map[uint]Action, len(rows))
	for _, a := range rows {
		out[a.IdeaID] = a
	}
	return out, err
}

// FoundsSince reads what was found for a niche's ideas that changed after a revision.
func (s *Store) FoundsSince(ctx context.Context, niche uint, after int64, each func(Found)) error {
	rows, err := s.read(ctx).Raw("SELECT f.idea_id, f.pages, f.stems, f.said FROM ideas i "+
		"JOIN founds f ON f.idea_id = i.id WHERE i.niche_id = ? AND i.revision > ? AND i."+present, niche, after).Rows()
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		var f Found
		if err := rows.Scan(&f.IdeaID, &f.Pages, &f.Stems, &f.Said); err != nil {
			return err
		}
		each(f)
	}
	return rows.Err()
}
