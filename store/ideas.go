package store

import (
	"context"
	"fmt"
	"slices"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// Find is an idea to be put in, with the way it was found. Figures that the row brings
// fill gaps.
type Find struct {
	Idea   Idea
	Origin Origin
}

// AddIdeas puts ideas into a niche: those whose phrase is new are inserted, and
// every one remembers its origin. A figure that a Find brings fills a gap and
// never overwrites what is known. It returns how many are new. All or nothing; where
// nothing changes the niche's revision stays.
func (s *Store) AddIdeas(ctx context.Context, niche uint, finds []Find) (added int, err error) {
	if len(finds) == 0 {
		return 0, nil
	}
	err = s.write(ctx, func(tx *gorm.DB) error {
		fresh, err := addIdeas(tx, niche, finds)
		added = len(fresh)
		return err
	})
	return added, err
}

func ref[T any](x T) *T { return &x }

const (
	batch  = 200 // rows a statement that inserts: well under a database's limit of variables
	lookup = 500 // keys a statement that reads
)

// addIdeas returns the ideas that are new, or are again.
func addIdeas(tx *gorm.DB, niche uint, finds []Find) (fresh []Idea, err error) {
	if _, err := first[Niche](tx.Select("id").Where("id = ?", niche)); err != nil {
		return nil, err
	}
	phrases := make([]string, len(finds))
	for i, f := range finds {
		phrases[i] = f.Idea.Phrase
	}
	known, err := gapsOf(tx, niche, phrases)
	if err != nil {
		return nil, err
	}
	var again []Idea // that had been taken out
	for _, row := range known {
		if row.RemovedAt != nil {
			again = append(again, row)
		}
	}
	if err := onBranches(tx, niche, finds); err != nil {
		return nil, err
	}
	changed := map[string]bool{} // by phrase
	for _, f := range finds {
		if _, ok := known[f.Idea.Phrase]; ok {
			continue
		}
		f.Idea.NicheID = niche
		known[f.Idea.Phrase] = f.Idea
		fresh = append(fresh, f.Idea)
	}
	for _, f := range finds {
		if row := known[f.Idea.Phrase]; row.fill(f.Idea) {
			known[f.Idea.Phrase] = row
			changed[f.Idea.Phrase] = true
		}
	}
	if len(fresh) > 0 || len(changed) > 0 {
		revision, err := nextRevision(tx, niche)
		if err != nil {
			return nil, err
		}
		if err := insertFresh(tx, fresh, known, changed, revision); err != nil {
			return nil, err
		}
		for phrase := range changed {
			if err := saveFilled(tx, known[phrase], revision); err != nil {
				return nil, err
			}
		}
	}
	if err := moveIdeas(tx, niche, again, nil); err != nil {
		return nil, err
	}
	origins := make([]Origin, len(finds))
	for i, f := range finds {
		origins[i] = f.Origin
		origins[i].IdeaID = known[f.Idea.Phrase].ID
	}
	if err := tx.Clauses(clause.OnConflict{DoNothing: true}).CreateInBatches(&origins, batch).Error; err != nil {
		return nil, fmt.Errorf("inserting origins: %w", err)
	}
	return append(fresh, again...), nil
}

// insertFresh inserts ideas as they are in known, with all that later finds of the same
// phrase filled in, and notes their IDs there.
func insertFresh(tx *gorm.DB, fresh []Idea, known map[string]Idea, changed map[string]bool, revision int64) error {
	for i := range fresh {
		delete(changed, fresh[i].Phrase)
		fresh[i] = known[fresh[i].Phrase]
		fresh[i].Revision = revision
	}
	if len(fresh) == 0 {
		return nil
	}
	if err := tx.CreateInBatches(&fresh, batch).Error; err != nil {
		return fmt.Errorf("inserting ideas: %w", err)
	}
	for _, row := range fresh {
		known[row.Phrase] = row
	}
	return nil
}

// IdeaNamed returns the present idea of a phrase, or ErrNotFound.
func (s *Store) IdeaNamed(ctx context.Context, niche uint, phrase string) (Idea, error) {
	return first[Idea](s.read(ctx).Where("niche_id = ? AND phrase = ? AND "+present, niche, phrase))
}

// gapsOf returns, by phrase, what of the ideas that are there a find may fill.
func gapsOf(tx *gorm.DB, niche uint, phrases []string) (map[string]Idea, error) {
	out := make(map[string]Idea, len(phrases))
	for part := range slices.Chunk(phrases, lookup) {
		var rows []Idea
		err := tx.Select("id", "phrase", "found_in", "demand_at", "demand_source", "demand_error", "searches", "under",
			"cpc_micros", "currency", "decision", "removed_at", "lists", "my_place", "my_clicks", "my_shown",
			"my_page").Where("niche_id = ? AND phrase IN ?", niche, part).
			Find(&rows).Error
		if err != nil {
			return nil, err
		}
		for _, r := range rows {
			out[r.Phrase] = r
		}
	}
	return out, nil
}

func saveFilled(tx *gorm.DB, row Idea, revision int64) error {
	row.Revision = revision
	return tx.Model(&Idea{}).Where("id = ?", row.ID).Select(columns(byFind)).Updates(row).Error
}

// SaveDemand writes the demand figures of ideas of one niche. A cost that is not known
// leaves the one that is there.
func (s *Store) SaveDemand(ctx context.Context, niche uint, ideas []Idea) error {
	return s.update(ctx, niche, ideas, func(i Idea) []string {
		if i.CPCMicros == nil {
			return columns(byDemand)
		}
		return columns(byDemand, byCost)
	})
}

// SaveLasting writes how the searches of ideas last.
func (s *Store) SaveLasting(ctx context.Context, niche uint, ideas []Idea) error {
	return s.update(ctx, niche, ideas, func(Idea) []string { return columns(byMonths) })
}

const sideColumns = "id, phrase, decision, judged_at, searches, side, part, side_why, side_hand"

// Sides are the ideas of a niche, with what tells whether they are about its subject. Of a niche of more than so many
// they are those that are looked up, or of which something is told or said.
func (s *Store) Sides(ctx context.Context, niche uint, most int) (out []Idea, err error) {
	var all int64
	if err := s.read(ctx).Model(&Idea{}).Where("niche_id = ? AND "+present, niche).Count(&all).Error; err != nil {
		return nil, err
	}
	q := s.read(ctx).Select(sideColumns).Where("niche_id = ? AND "+present, niche)
	if all > int64(most) {
		q = q.Where("judged_at IS NOT NULL OR side <> 0 OR side_hand <> 0")
	}
	return out, q.Order("id").Find(&out).Error
}

// Strays are the ideas of a niche that are off its subject or of which somebody said something, some other phrases, and
// how many ideas are looked up.
func (s *Store) Strays(ctx context.Context, niche uint, some int) (out []Idea, others []string, lookedUp int,
	err error) {
	if err = s.read(ctx).Select(sideColumns).Where("niche_id = ? AND (side = 2 OR side_hand <> 0) AND "+present, niche).
		Order("id").Find(&out).Error; err != nil {
		return nil, nil, 0, err
	}
	if err = s.read(ctx).Model(&Idea{}).Where("niche_id = ? AND side <> 2 AND side_hand <> 2 AND "+present, niche).
		Order("id").Limit(some).Pluck("phrase", &others).Error; err != nil {
		return nil, nil, 0, err
	}
	var n int64
	err = s.read(ctx).Model(&Idea{}).Where("niche_id = ? AND judged_at IS NOT NULL AND "+present, niche).Count(&n).Error
	return out, others, int(n), err
}

// SaveTold writes what is told of the subjects of ideas.
func (s *Store) SaveTold(ctx context.Context, niche uint, ideas []Idea) error {
	return s.update(ctx, niche, ideas, func(Idea) []string { return columns(bySubject) })
}

// MarkSets are the sets of marks that ideas of a niche have in a column, labels or lists.
func (s *Store) MarkSets(ctx context.Context, niche uint, column string) ([]string, error) {
	var out []string
	if column != "labels" && column != "lists" {
		return nil, fmt.Errorf("%s holds no marks", column)
	}
	return out, s.read(ctx).Model(&Idea{}).Where("niche_id = ? AND "+column+" <> '' AND "+present, niche).
		Distinct(column).Pluck(column, &out).Error
}

// SaveLookup writes the columns of an idea that a lookup fills, by its key.
func (s *Store) SaveLookup(ctx context.Context, niche uint, idea Idea, key string) error {
	return s.update(ctx, niche, []Idea{idea}, func(Idea) []string { return columns(key) })
}

// SaveLookupError notes in a column why a lookup failed for an idea; what an earlier one said stays.
func (s *Store) SaveLookupError(ctx context.Context, niche, idea uint, column, reason string) error {
	return s.writeLater(ctx, func(tx *gorm.DB) error {
		revision, err := nextRevision(tx, niche)
		if err != nil {
			return err
		}
		return tx.Model(&Idea{ID: idea}).Updates(map[string]any{column: reason, "Revision": revision}).Error
	})
}

// update writes some columns of ideas of one niche under one revision.
func (s *Store) update(ctx context.Context, niche uint, ideas []Idea, fills func(Idea) []string) error {
	if len(ideas) == 0 {
		return nil
	}
	return s.writeLater(ctx, func(tx *gorm.DB) error { return saveIdeas(tx, niche, ideas, fills) })
}

func saveIdeas(tx *gorm.DB, niche uint, ideas []Idea, fills func(Idea) []string) error {
	revision, err := nextRevision(tx, niche)
	if err != nil {
		return err
	}
	for _, i := range ideas {
		i.Revision = revision
		if err := tx.Model(&Idea{}).Where("id = ?", i.ID).Select(fills(i)).Updates(i).Error; err != nil {
			return err
		}
	}
	return nil
}

// Idea returns one idea of a niche, or ErrNotFound.
func (s *Store) Idea(ctx context.Context, niche, id uint) (Idea, error) {
	return first[Idea](s.read(ctx).Where("niche_id = ? AND id = ? AND "+present, niche, id))
}

// Ideas returns the ideas of the IDs that are in the niche, in the order of the IDs.
func (s *Store) Ideas(ctx context.Context, niche uint, ids []uint) ([]Idea, error) {
	place := make(map[uint]int, len(ids))
	for at, id := range ids {
		place[id] = at
	}
	out := make([]Idea, 0, len(ids))
	for part := range slices.Chunk(ids, lookup) {
		var rows []Idea
		if err := s.read(ctx).Where(byIDs, niche, part).Find(&rows).Error; err != nil {
			return nil, err
		}
		out = append(out, rows...)
	}
	slices.SortFunc(out, func(a, b Idea) int { return place[a.ID] - place[b.ID] })
	return out, nil
}

// Origins lists how an idea was found, the first way first.
func (s *Store) Origins(ctx context.Context, idea uint) ([]Origin, error) {
	var out []Origin
	return out, s.read(ctx).Where("idea_id = ?", idea).Order("created_at, kind, query").Find(&out).Error
}

const undemanded = "niche_id = ? AND demand_at IS NULL AND demand_error <> '" + NoFigures + "' AND " + present

// NoFigures is why an idea has no demand figures though it was asked for. Whoever asks again
// asks for the others without figures only.
const NoFigures = "the source has no figures for it"

// Undemanded returns ideas without demand figures, oldest first.
func (s *Store) Undemanded(ctx context.Context, niche uint) ([]Idea, error) {
	var out []Idea
	return out, s.read(ctx).Select("id", "phrase", "branch_id").Where(undemanded, niche).Order("id").Find(&out).Error
}

// CountUndemanded is how many ideas have no demand figures.
func (s *Store) CountUndemanded(ctx context.Context, niche uint) (n int64, err error) {
	return n, s.read(ctx).Model(&Idea{}).Where(undemanded, niche).Count(&n).Error
}

// ImportSource is the demand source of figures that a user's own list brought.
const ImportSource = "your list"

// LastIdea is the ID of a niche's latest idea; 0 where it has none.
func (s *Store) LastIdea(ctx context.Context, niche uint) (id uint, err error) {
	return id, s.read(ctx).Raw("SELECT coalesce(max(id), 0) FROM ideas WHERE niche_id = ?", niche).Scan(&id).Error
}
