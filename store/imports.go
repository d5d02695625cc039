package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// Import is a list of somebody's own that was read, or is being read.
type Import struct {
	Batch   string `gorm:"primaryKey"` // that it is undone by
	NicheID uint
	Name    string
	Added   int // ideas that came
	Changed int // ideas of which it brought figures
	Results int `gorm:"->"` // phrases whose results it brought
	Links   int `gorm:"->"` // pages whose links it brought
	Person  string
	At      time.Time
}

// Arrival is an idea of a list, and the line that it stands in.
type Arrival struct {
	Find
	Line int
}

// ImportIdeas puts ideas of somebody's own list in a niche, and notes what it did under a batch, so that it can be
// undone. What the list says of demand replaces what an earlier list said and fills gaps; what a source said stays. A
// slice that is put in once more changes nothing. The figures of one slice are one change: all or nothing.
func (s *Store) ImportIdeas(ctx context.Context, niche uint, list []Arrival, batchName, name string) (did Import,
	err error) {
	err = s.write(ctx, func(tx *gorm.DB) (err error) {
		did, err = importIdeas(tx, niche, list, batchName, s.now().UTC())
		if err != nil {
			return err
		}
		row := did
		row.Batch, row.NicheID, row.Name, row.Person, row.At = batchName, niche, name, personOf(ctx), s.now().UTC()
		return tx.Clauses(clause.OnConflict{DoUpdates: clause.Assignments(map[string]any{
			"added":   gorm.Expr("added + ?", did.Added),
			"changed": gorm.Expr("changed + ?", did.Changed)})}).Create(&row).Error
	})
	return did, err
}

func importIdeas(tx *gorm.DB, niche uint, list []Arrival, batchName string, now time.Time) (did Import, err error) {
	finds := make([]Find, len(list))
	for i, a := range list {
		finds[i] = a.Find
	}
	if err := onBranches(tx, niche, finds); err != nil {
		return did, err
	}
	known, err := listedOf(tx, niche, finds)
	if err != nil {
		return did, err
	}
	var fresh, again, changed []Idea
	at := map[string]int{} // of fresh ones
	before := map[string]Idea{}
	for _, f := range finds {
		if was, there := known[f.Idea.Phrase]; there {
			before[f.Idea.Phrase] = was
			continue
		}
		if i, twice := at[f.Idea.Phrase]; twice {
			fresh[i].fill(f.Idea)
			continue
		}
		f.Idea.NicheID = niche
		at[f.Idea.Phrase] = len(fresh)
		fresh = append(fresh, f.Idea)
	}
	touched := map[string]bool{}
	for _, f := range finds {
		if row, there := known[f.Idea.Phrase]; there && row.renew(f.Idea) {
			known[f.Idea.Phrase], touched[f.Idea.Phrase] = row, true
		}
	}
	for p, was := range before {
		if was.RemovedAt != nil {
			again = append(again, known[p])
		}
		if touched[p] {
			changed = append(changed, known[p])
		}
	}
	if len(fresh)+len(changed) > 0 {
		revision, err := nextRevision(tx, niche)
		if err != nil {
			return did, err
		}
		if err := insertListed(tx, fresh, revision, now); err != nil {
			return did, fmt.Errorf("inserting ideas: %w", err)
		}
		for _, row := range changed {
			row.Revision = revision
			if err := tx.Model(&Idea{}).Where("id = ?", row.ID).Select(columns(byFind, byDemand, byCost)).Updates(row).
				Error; err != nil {
				return did, err
			}
		}
	}
	if err := moveIdeas(tx, niche, again, nil); err != nil {
		return did, err
	}
	ids := map[string]uint{}
	for p, row := range known {
		ids[p] = row.ID
	}
	for _, row := range fresh {
		ids[row.Phrase] = row.ID
	}
	if err := noteOrigins(tx, list, ids); err != nil {
		return did, err
	}
	did.Added, did.Changed = len(fresh)+len(again), 0
	var moved []uint
	for _, row := range slices.Concat(fresh, again) {
		moved = append(moved, row.ID)
	}
	var rows []Decision
	for _, row := range changed {
		was := before[row.Phrase]
		if was.RemovedAt != nil {
			continue
		}
		did.Changed++
		text, err := json.Marshal(filledBefore{was, true})
		if err != nil {
			return did, err
		}
		rows = append(rows, Decision{NicheID: niche, IdeaID: was.ID, Batch: batchName, Was: was.Decision,
			Became: was.Decision, Filled: ref(string(text))})
	}
	return did, noteArrivals(tx, niche, batchName, moved, rows, now)
}

// filledBefore is what an idea was before a list changed it.
type filledBefore struct {
	Idea
	Listed bool // all that a list may change is in it; of earlier versions only what a find fills is
}

// renew takes over what a list says: over what an earlier list said, and where nothing is known.
func (i *Idea) renew(from Idea) (changed bool) {
	was := *i
	listed := i.DemandSource == "" || strings.HasPrefix(i.DemandSource, ImportSource)
	if listed && from.Searches != nil {
		i.Searches, i.Under, i.Range = nil, false, ""
	}
	if listed && from.CPCMicros != nil {
		i.CPCMicros = nil
	}
	changed = i.fill(from)
	if from.MyShown != nil || from.MyClicks != nil || from.MyPlace != nil { // the latest report counts
		i.MyPlace, i.MyClicks, i.MyShown, i.MyPage = from.MyPlace, from.MyClicks, from.MyShown, from.MyPage
		changed = true
	}
	if i.DemandSource == from.DemandSource || listed || i.DemandSource == "" {
		if from.Months != "" {
			i.Months, i.Season, i.Lasting = from.Months, from.Season, from.Lasting
		}
		if from.Competition != nil {
			i.Competition = from.Competition
		}
	}
	if i.same(was) { // the same list once more: when it was read last says nothing
		*i = was
		return false
	}
	return changed || i.Months != was.Months || !equal(i.Competition, was.Competition)
}

// same reports whether two states of an idea say the same of demand and lists.
func (i *Idea) same(was Idea) bool {
	return equal(i.Searches, was.Searches) && i.Under == was.Under && i.Range == was.Range &&
		equal(i.CPCMicros, was.CPCMicros) &&
		equal(i.MyPlace, was.MyPlace) && equal(i.MyClicks, was.MyClicks) && equal(i.MyShown, was.MyShown) &&
		i.MyPage == was.MyPage &&
		i.Currency == was.Currency && i.Lists == was.Lists && i.FoundIn == was.FoundIn && i.Months == was.Months &&
		equal(i.Competition, was.Competition)
}

func equal[T comparable](a, b *T) bool {
	return a == nil && b == nil || a != nil && b != nil && *a == *b
}

// listedOf returns, by phrase, what of the ideas that are there a list may change.
func listedOf(tx *gorm.DB, niche uint, finds []Find) (map[string]Idea, error) {
	phrases := make([]string, len(finds))
	for i, f := range finds {
		phrases[i] = f.Idea.Phrase
	}
	text, err := json.Marshal(phrases)
	if err != nil {
		return nil, err
	}
	var rows []Idea
	err = tx.Select("id", "phrase", "found_in", "demand_at", "demand_source", "demand_error", "searches", "under",
		"searches_range", "cpc_micros",
		"currency", "decision", "removed_at", "lists", "months", "season", "lasting", "competition", "phrase_match",
		"broad_match", "my_place", "my_clicks", "my_shown", "my_page").
		Where("niche_id = ? AND phrase IN (SELECT value FROM json_each(?))", niche, string(text)).Find(&rows).Error
	out := make(map[string]Idea, len(rows))
	for _, r := range rows {
		out[r.Phrase] = r
	}
	return out, err
}

// listedColumns are those of an idea that a list fills, and the value of each.
var listedColumns = []struct {
	name string
	of   func(i *Idea) any
}{
	{"niche_id", func(i *Idea) any { return i.NicheID }}, {"revision", func(i *Idea) any { return i.Revision }},
	{"created_at", func(i *Idea) any { return i.CreatedAt }}, {"phrase", func(i *Idea) any { return i.Phrase }},
	{"words", func(i *Idea) any { return i.Words }}, {"variant_key", func(i *Idea) any { return i.VariantKey }},
	{"searches", func(i *Idea) any { return orNull(i.Searches) }}, {"under", func(i *Idea) any { return i.Under }},
	{"searches_range", func(i *Idea) any { return i.Range }}, {"months", func(i *Idea) any { return i.Months }},
	{"season", func(i *Idea) any { return i.Season }}, {"lasting", func(i *Idea) any { return i.Lasting }},
	{"cpc_micros", func(i *Idea) any { return orNull(i.CPCMicros) }},
	{"currency", func(i *Idea) any { return i.Currency }},
	{"competition", func(i *Idea) any { return orNull(i.Competition) }},
	{"decision", func(i *Idea) any { return i.Decision }},
	{"decided_at", func(i *Idea) any { return orNull(i.DecidedAt) }},
	{"labels", func(i *Idea) any { return i.Labels }}, {"note", func(i *Idea) any { return i.Note }},
	{"found_in", func(i *Idea) any { return i.FoundIn }}, {"lists", func(i *Idea) any { return i.Lists }},
	{"my_place", func(i *Idea) any { return orNull(i.MyPlace) }},
	{"my_clicks", func(i *Idea) any { return orNull(i.MyClicks) }},
	{"my_shown", func(i *Idea) any { return orNull(i.MyShown) }}, {"my_page", func(i *Idea) any { return i.MyPage }},
	{"branch_id", func(i *Idea) any { return i.BranchID }},
	{"demand_source", func(i *Idea) any { return i.DemandSource }},
	{"demand_at", func(i *Idea) any { return orNull(i.DemandAt) }},
}

// orNull is what a pointer points to, or NULL.
func orNull[T any](p *T) any {
	if p == nil {
		return nil
	}
	return *p
}

// insertedAtOnce is how many ideas a statement inserts: with fewer, statements cost more than rows.
const insertedAtOnce = 100

// insertListed inserts ideas as a list brings them, by a statement that is made once, in which what is the same in all
// rows stands once: a fraction of what an insert costs that looks at each row's type. It notes their IDs, which follow
// each other.
func insertListed(tx *gorm.DB, fresh []Idea, revision int64, now time.Time) error {
	if len(fresh) == 0 {
		return nil
	}
	for i := range fresh {
		if fresh[i].Revision, fresh[i].CreatedAt = revision, now; fresh[i].Decision != 0 {
			fresh[i].DecidedAt = &now
		}
	}
	ctx := tx.Statement.Context
	in := newInsert(fresh)
	pool, ready := tx.Statement.ConnPool, false
	var statement *sql.Stmt
	for part := range slices.Chunk(fresh, insertedAtOnce) {
		args := in.args(part)
		var done sql.Result
		var err error
		switch {
		case len(part) < insertedAtOnce:
			done, err = pool.ExecContext(ctx, in.text(len(part)), args...)
		case !ready:
			// GORM would prepare it anew for each part.
			if statement, err = pool.PrepareContext(ctx, in.text(len(part))); err != nil {
				return err
			}
			defer statement.Close()
			ready = true
			fallthrough
		default:
			done, err = statement.ExecContext(ctx, args...)
		}
		if err != nil {
			return err
		}
		last, err := done.LastInsertId()
		if err != nil {
			return err
		}
		for i := range part {
			part[i].ID = uint(last) - uint(len(part)-1-i)
		}
	}
	return nil
}

// insert is a statement that inserts ideas of a list: which columns are the same in all of them, and which differ.
type insert struct {
	names  []string
	same   []any               // what stands once
	differ []func(i *Idea) any // what each row has
	at     []int               // of each column: which of same, or else −1
}

func newInsert(rows []Idea) (in insert) {
	for _, c := range listedColumns {
		in.names = append(in.names, c.name)
		first, k := c.of(&rows[0]), 1
		for k < len(rows) && c.of(&rows[k]) == first {
			k++
		}
		if k < len(rows) {
			in.at, in.differ = append(in.at, -1), append(in.differ, c.of)
		} else {
			in.at, in.same = append(in.at, len(in.same)), append(in.same, first)
		}
	}
	return in
}

// text is the statement for so many rows.
func (in insert) text(rows int) string {
	var b strings.Builder
	b.WriteString("INSERT INTO ideas (" + strings.Join(in.names, ",") + ") VALUES ")
	next := len(in.same)
	for r := range rows {
		for c, at := range in.at {
			if at < 0 {
				next++
				at = next - 1
			}
			before := ","
			if c == 0 && r == 0 {
				before = "("
			} else if c == 0 {
				before = "),("
			}
			fmt.Fprintf(&b, "%s?%d", before, at+1)
		}
	}
	return b.String() + ")"
}

// args are what is filled into it.
func (in insert) args(part []Idea) []any {
	args := append(make([]any, 0, len(in.same)+len(part)*len(in.differ)), in.same...)
	for i := range part {
		for _, of := range in.differ {
			args = append(args, of(&part[i]))
		}
	}
	return args
}

// noteOrigins notes in which line of the list each idea stands.
func noteOrigins(tx *gorm.DB, list []Arrival, ids map[string]uint) error {
	if len(list) == 0 {
		return nil
	}
	rows := make([][]any, len(list))
	for i, a := range list {
		rows[i] = []any{ids[a.Idea.Phrase], a.Line}
	}
	text, err := json.Marshal(rows)
	if err != nil {
		return err
	}
	o := list[0].Origin
	return tx.Exec(`INSERT OR IGNORE INTO origins (idea_id, kind, query, seed, created_at)
		SELECT value ->> 0, ?, ?, 'line ' || (value ->> 1), ? FROM json_each(?)`, o.Kind, o.Query, o.CreatedAt,
		string(text)).Error
}

// noteArrivals notes what an import did, for undoing it.
func noteArrivals(tx *gorm.DB, niche uint, batchName string, moved []uint, filled []Decision, now time.Time) error {
	if len(moved) > 0 {
		text, err := json.Marshal(moved)
		if err != nil {
			return err
		}
		err = tx.Exec(`INSERT INTO decisions (niche_id, idea_id, batch, was, became, created_at, person, moved)
			SELECT ?, value, ?, 0, 0, ?, ?, ? FROM json_each(?)`, niche, batchName, now, personOf(tx.Statement.Context),
			MovedIn, string(text)).Error
		if err != nil {
			return err
		}
	}
	if len(filled) == 0 {
		return nil
	}
	return tx.CreateInBatches(&filled, batch).Error
}

// Imports lists the latest imports of a niche that can be undone, the last one first.
func (s *Store) Imports(ctx context.Context, niche uint, most int) (out []Import, err error) {
	count := func(kind string) string {
		return ", (SELECT count(*) FROM brought WHERE brought.batch = imports.batch AND kind = '" + kind + "') " + kind
	}
	return out, s.read(ctx).Select("*"+count("results")+count("links")).Where("niche_id = ?", niche).
		Order("at DESC, batch").Limit(most).Find(&out).Error
}

// Listed counts those of the phrases that are ideas of a niche.
func (s *Store) Listed(ctx context.Context, niche uint, phrases []string) (n int, err error) {
	text, err := json.Marshal(phrases)
	if err != nil {
		return 0, err
	}
	return n, s.read(ctx).Raw("SELECT count(*) FROM ideas WHERE niche_id = ? AND removed_at IS NULL AND phrase IN "+
		"(SELECT value FROM json_each(?))", niche, string(text)).Scan(&n).Error
}

// Beside is the name of something that is kept beside the data file.
func (s *Store) Beside(name string) string { return s.path + "." + name }

// Mapping is how columns of files of one shape are read, as somebody said.
type Mapping struct {
	Key  string `gorm:"primaryKey"`
	Body string
	At   time.Time
}

// Mapping returns how files of a shape are read; "" where nobody said.
func (s *Store) Mapping(ctx context.Context, key string) (body string, err error) {
	return body, s.read(ctx).Model(&Mapping{}).Where("key = ?", key).Select("body").Scan(&body).Error
}

// SaveMapping remembers it.
func (s *Store) SaveMapping(ctx context.Context, key, body string) error {
	return s.writeLater(ctx, func(tx *gorm.DB) error {
		return tx.Clauses(clause.OnConflict{UpdateAll: true}).Create(&Mapping{key, body, s.now().UTC()}).Error
	})
}
