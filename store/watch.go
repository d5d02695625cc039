package store

import (
	"context"
	"database/sql"
	"slices"
	"strconv"
	"strings"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// Watched is a phrase whose place is looked for again and again.
type Watched struct {
	ID        uint
	NicheID   uint
	Site      string     `holds:"t300"`  // which of my sites; "" the niche's own
	Phrase    string     `holds:"t400"`  // normal form; once of a site
	Page      string     `holds:"t2000"` // of mine that is meant to stand for it; "" any
	TopicID   uint       // the article of the plan that is out for it; 0 it was added by hand
	OutAt     *time.Time // the page was published
	Forecast  string     `holds:"t20000"` // what was forecast when it began to be watched, as JSON; "" nothing
	Faced     string     `holds:"t20000"` // what stood in front of it then, as JSON; only OneWatched and Faced have it
	CreatedAt time.Time
	RemovedAt *time.Time // it is watched no more; its places stay
}

// Position is where a page of mine stood for a watched phrase.
type Position struct {
	ID        uint
	WatchedID uint
	At        time.Time
	Scene     string `holds:"t80"` // in which other engine, country or language; "" where the niche searches
	Engine    string `holds:"t80"`
	Place     int    `holds:"0..100"`  // from 1; 0 below Depth
	Depth     int    `holds:"0..1000"` // places that were looked at
	Page      string `holds:"t2000"`   // which page of mine; "" none
	Others    string `holds:"t20000"`  // of my pages further down, one a line
	Above     string `holds:"t20000"`  // sites above it, the first first, one a line
	Hand      bool   // somebody typed it
}

// Remark is what somebody noted about a watched page on a day: an edit, a link.
type Remark struct {
	ID        uint
	WatchedID uint
	Day       string `holds:"t10"` // 2006-01-02
	Says      string `holds:"t1000"`
	CreatedAt time.Time
}

// Watch is how often a niche's phrases are checked, and where beside its own engine.
type Watch struct {
	NicheID   uint   `gorm:"primaryKey;autoIncrement:false"`
	EveryDays int    // 0 when asked
	Scenes    string `holds:"t800"` // other engines, countries and languages, one a line
	CheckedAt *time.Time
}

// Watched are the phrases that a niche watches for all my sites, by phrase.
func (s *Store) Watched(ctx context.Context, niche uint) (out []Watched, err error) {
	return out, s.read(ctx).Omit("faced").Where("niche_id = ? AND removed_at IS NULL", niche).Order("phrase, site").
		Find(&out).Error
}

// Faced is what stood in front of the articles that a niche watches when they were forecast, by watched phrase.
func (s *Store) Faced(ctx context.Context, niche uint) (map[uint]string, error) {
	var list []Watched
	err := s.read(ctx).Select("id, faced").Where("niche_id = ? AND removed_at IS NULL AND faced <> ''", niche).
		Find(&list).Error
	out := make(map[uint]string, len(list))
	for _, w := range list {
		out[w.ID] = w.Faced
	}
	return out, err
}

// EverWatched are those, and those that are watched no more.
func (s *Store) EverWatched(ctx context.Context, niche uint) (out []Watched, err error) {
	return out, s.read(ctx).Omit("faced").Where("niche_id = ?", niche).Order("phrase").Find(&out).Error
}

// OneWatched returns one of a niche, or ErrNotFound.
func (s *Store) OneWatched(ctx context.Context, niche, id uint) (Watched, error) {
	return first[Watched](s.read(ctx).Where("niche_id = ? AND id = ? AND removed_at IS NULL", niche, id))
}

// AddWatched watches phrases; one that was watched before is watched again, with its places. What is known of one that
// is watched stays, but for a page, a topic and a day that were not.
func (s *Store) AddWatched(ctx context.Context, list []Watched) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		for _, w := range list {
			var old []Watched
			if err := tx.Where("niche_id = ? AND site = ? AND phrase = ?", w.NicheID, w.Site, w.Phrase).Limit(1).
				Find(&old).Error; err != nil {
				return err
			}
			if len(old) == 0 {
				w.CreatedAt = s.now().UTC()
				if err := tx.Create(&w).Error; err != nil {
					return err
				}
				continue
			}
			now := old[0]
			now.RemovedAt = nil
			if w.Page != "" {
				now.Page = w.Page
			}
			if w.TopicID != 0 {
				now.TopicID, now.OutAt = w.TopicID, w.OutAt
			}
			if now.Forecast == "" {
				now.Forecast, now.Faced = w.Forecast, w.Faced
			}
			if err := tx.Save(&now).Error; err != nil {
				return err
			}
		}
		return nil
	})
}

// RemoveWatched watches one no more, or again.
func (s *Store) RemoveWatched(ctx context.Context, niche, id uint, away bool) error {
	var at *time.Time
	if away {
		now := s.now().UTC()
		at = &now
	}
	return s.write(ctx, func(tx *gorm.DB) error {
		done := tx.Model(&Watched{}).Where("niche_id = ? AND id = ?", niche, id).Update("removed_at", at)
		if done.Error == nil && done.RowsAffected == 0 {
			return ErrNotFound
		}
		return done.Error
	})
}

// SavePosition adds where a page stood. What was there before stays, also where it says something else of the same
// moment.
func (s *Store) SavePosition(ctx context.Context, p Position) error {
	save, again := s.writeLater, clause.OnConflict{DoNothing: true}
	if p.Hand { // what was typed is typed again
		save, again = s.write, clause.OnConflict{Columns: []clause.Column{{Name: "watched_id"}, {Name: "scene"},
			{Name: "at"}, {Name: "engine"}}, DoUpdates: clause.AssignmentColumns([]string{"place"})}
	}
	return save(ctx, func(tx *gorm.DB) error { return tx.Clauses(again).Create(&p).Error })
}

// SavePositions adds many that somebody brought; one of the same moment, scene and engine takes the place of that.
func (s *Store) SavePositions(ctx context.Context, list []Position) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		again := clause.OnConflict{Columns: []clause.Column{{Name: "watched_id"}, {Name: "scene"}, {Name: "at"},
			{Name: "engine"}}, DoUpdates: clause.AssignmentColumns([]string{"place", "page"})}
		return tx.Clauses(again).CreateInBatches(&list, batch).Error
	})
}

// Positions are all places of a niche's watched phrases where it searches, by phrase and time: the latest of each
// phrase with all that is known of it, the others as day, engine and place alone.
func (s *Store) Positions(ctx context.Context, niche uint) (out map[uint][]Position, err error) {
	// One row for each phrase and engine, its days and places between blanks: a row each would take thrice as long.
	rows, err := s.read(ctx).Raw("SELECT watched_id, engine, group_concat(unixepoch(at) || ' ' || place, ' ') FROM "+
		"positions WHERE watched_id IN (SELECT id FROM watcheds WHERE niche_id = ? AND removed_at IS NULL) AND scene = '' "+
		"GROUP BY watched_id, engine", niche).Rows()
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out = map[uint][]Position{}
	for rows.Next() {
		var id uint
		var engine string
		var all sql.RawBytes
		if err := rows.Scan(&id, &engine, &all); err != nil {
			return nil, err
		}
		out[id] = appendPlaces(out[id], Position{WatchedID: id, Engine: engine}, string(all))
	}
	if err := rows.Err(); err != nil {
		return nil, err
	}
	for _, list := range out {
		slices.SortStableFunc(list, func(a, b Position) int { return a.At.Compare(b.At) })
	}
	last, err := s.LatestPositions(ctx, niche, "", 0)
	for id, p := range last {
		if list := out[id]; len(list) > 0 {
			list[len(list)-1] = p
		}
	}
	return out, err
}

// appendPlaces adds positions like one, of seconds since 1970 and places between blanks.
func appendPlaces(list []Position, one Position, text string) []Position {
	list = slices.Grow(list, strings.Count(text, " ")/2+1)
	for text != "" {
		at, rest, _ := strings.Cut(text, " ")
		place, rest, _ := strings.Cut(rest, " ")
		text = rest
		seconds, err := strconv.ParseInt(at, 10, 64)
		if err != nil {
			continue
		}
		if one.Place, err = strconv.Atoi(place); err == nil {
			one.At = time.Unix(seconds, 0).UTC()
			list = append(list, one)
		}
	}
	return list
}

// LatestPositions are the places of a niche's watched phrases in a scene, by phrase: the latest, or so many before
// that, with all that is known of each.
func (s *Store) LatestPositions(ctx context.Context, niche uint, scene string, before int) (map[uint]Position, error) {
	var list []Position
	err := s.read(ctx).Raw("SELECT id, watched_id, at, scene, engine, place, depth, page, others, above, hand FROM "+
		"positions "+
		"WHERE id IN (SELECT (SELECT p.id FROM positions p WHERE p.watched_id = w.id AND p.scene = ? "+
		"ORDER BY p.at DESC, p.id DESC LIMIT 1 OFFSET ?) "+
		"FROM watcheds w WHERE w.niche_id = ? AND w.removed_at IS NULL)", scene, before, niche).Scan(&list).Error
	out := make(map[uint]Position, len(list))
	for _, p := range list {
		out[p.WatchedID] = p
	}
	return out, err
}

// Reported is what the latest search report said of a watched phrase, and the latest place that was kept of reports.
type Reported struct {
	WatchedID uint
	Place     float64
	Page      string
	Last      int // −1 none
}

// Reports are what the latest search report said of a niche's watched phrases.
func (s *Store) Reports(ctx context.Context, niche uint, engine string) (out []Reported, err error) {
	return out, s.read(ctx).Raw("SELECT w.id AS watched_id, i.my_place AS place, i.my_page AS page, coalesce((SELECT "+
		"p.place "+
		"FROM positions p WHERE p.watched_id = w.id AND p.engine = ? ORDER BY p.at DESC LIMIT 1), -1) AS last "+
		"FROM watcheds w JOIN ideas i ON i.niche_id = w.niche_id AND i.phrase = w.phrase AND i."+present+
		" WHERE w.niche_id = ? AND w.site = '' AND w.removed_at IS NULL AND i.my_place IS NOT NULL", engine,
		niche).Scan(&out).Error
}

// PositionsOf are those of one phrase, with all that is known.
func (s *Store) PositionsOf(ctx context.Context, watched uint) (out []Position, err error) {
	return out, s.read(ctx).Where("watched_id = ?", watched).Order("at, id").Find(&out).Error
}

// AddRemark notes something about a watched page.
func (s *Store) AddRemark(ctx context.Context, r Remark) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		r.CreatedAt = s.now().UTC()
		return tx.Create(&r).Error
	})
}

// Remarks of a watched phrase, by day.
func (s *Store) Remarks(ctx context.Context, watched uint) (out []Remark, err error) {
	return out, s.read(ctx).Where("watched_id = ?", watched).Order("day, id").Find(&out).Error
}

// DeleteRemark takes one out.
func (s *Store) DeleteRemark(ctx context.Context, watched, id uint) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		return tx.Where("watched_id = ? AND id = ?", watched, id).Delete(&Remark{}).Error
	})
}

// Watch is how often a niche is checked.
func (s *Store) Watch(ctx context.Context, niche uint) (Watch, error) {
	var list []Watch
	err := s.read(ctx).Where("niche_id = ?", niche).Limit(1).Find(&list).Error
	if len(list) == 0 {
		return Watch{NicheID: niche}, err
	}
	return list[0], err
}

// SetWatch says how often it is, and in which other scenes.
func (s *Store) SetWatch(ctx context.Context, w Watch) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		return tx.Clauses(clause.OnConflict{Columns: []clause.Column{{Name: "niche_id"}},
			DoUpdates: clause.AssignmentColumns([]string{"every_days", "scenes"})}).Create(&w).Error
	})
}

// WatchesDue are the niches that are to be checked: once, however long ago they should have been.
func (s *Store) WatchesDue(ctx context.Context) (out []Watch, err error) {
	var all []Watch
	err = s.read(ctx).Where("every_days > 0 AND niche_id IN (SELECT id FROM niches WHERE deleted_at IS NULL AND " +
		"archived_at IS NULL AND NOT staged)").Find(&all).Error
	for _, w := range all {
		if w.CheckedAt == nil || s.now().Sub(*w.CheckedAt) >= time.Duration(w.EveryDays)*24*time.Hour-time.Hour {
			out = append(out, w)
		}
	}
	return out, err
}

// ClaimCheck notes that a niche is checked now, unless somebody noted that since it was read: then got is false.
func (s *Store) ClaimCheck(ctx context.Context, seen Watch) (got bool, err error) {
	err = s.write(ctx, func(tx *gorm.DB) error {
		now := s.now().UTC()
		row := Watch{NicheID: seen.NicheID, EveryDays: seen.EveryDays, Scenes: seen.Scenes}
		if err := tx.Clauses(clause.OnConflict{DoNothing: true}).Create(&row).Error; err != nil {
			return err
		}
		q := tx.Model(&Watch{}).Where("niche_id = ?", seen.NicheID)
		if seen.CheckedAt == nil {
			q = q.Where("checked_at IS NULL")
		} else {
			q = q.Where("checked_at = ?", seen.CheckedAt)
		}
		done := q.Update("checked_at", now)
		got = done.RowsAffected == 1
		return done.Error
	})
	return got, err
}
