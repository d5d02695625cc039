package store

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"time"

	"gorm.io/gorm"
)

// present is the condition of an idea that is in its niche. One that was taken out stays in the data file, so that this
// can be undone, and comes back where it is found again, as an idea nobody decided on.
const present = "removed_at IS NULL"

// ErrPlanned is returned for ideas that an article of the plan answers: they are not taken out.
var ErrPlanned = errors.New("an article of the plan answers them")

// RemoveIdeas takes ideas out of a niche, some hundred at a time, and returns how many. Nothing is taken out when one
// of them is ErrNotFound or ErrPlanned.
func (s *Store) RemoveIdeas(ctx context.Context, niche uint, ids []uint, batchName string) (removed int, err error) {
	ids = slices.Compact(slices.Sorted(slices.Values(ids)))
	for part := range slices.Chunk(ids, lookup) {
		var there int64
		err := s.read(ctx).Model(&Idea{}).Where(byIDs, niche, part).Count(&there).Error
		if err == nil && int(there) < len(part) {
			err = ErrNotFound
		}
		if err = cmp.Or(err, nonePlanned(s.read(ctx), "idea_id IN ?", part)); err != nil {
			return 0, err
		}
	}
	for part := range slices.Chunk(ids, lookup) {
		err := s.write(ctx, func(tx *gorm.DB) error {
			if err := nonePlanned(tx, "idea_id IN ?", part); err != nil { // another tab may have been faster
				return err
			}
			var ideas []Idea
			if err := tx.Select("id", "decision").Where(byIDs, niche, part).Find(&ideas).Error; err != nil {
				return err
			}
			rows := make([]Decision, len(ideas))
			for i, idea := range ideas {
				rows[i] = Decision{NicheID: niche, IdeaID: idea.ID, Batch: batchName, Was: idea.Decision, Became: idea.Decision,
					Moved: MovedOut}
			}
			removed += len(rows)
			if len(rows) == 0 {
				return nil
			}
			if err := tx.CreateInBatches(&rows, batch).Error; err != nil {
				return err
			}
			return moveIdeas(tx, niche, ideas, ref(s.now()))
		})
		if err != nil {
			return removed, err
		}
	}
	return removed, nil
}

// nonePlanned returns ErrPlanned when an article of the plan answers one of the ideas that a condition is of.
func nonePlanned(tx *gorm.DB, of string, args ...any) error {
	var planned int64
	err := tx.Model(&Membership{}).Joins("JOIN topics ON topics.id = topic_id AND topics.state <> ''").Where(of, args...).
		Count(&planned).Error
	if err == nil && planned > 0 {
		err = ErrPlanned
	}
	return err
}

// moveIdeas takes ideas out at a moment, or with none brings them back, undecided unless they say otherwise.
func moveIdeas(tx *gorm.DB, niche uint, ideas []Idea, out *time.Time) error {
	if len(ideas) == 0 {
		return nil
	}
	revision, err := nextRevision(tx, niche)
	if err != nil {
		return err
	}
	ids := make([]uint, len(ideas))
	for i, idea := range ideas {
		ids[i] = idea.ID
	}
	values := map[string]any{"removed_at": out, "revision": revision}
	if out == nil {
		values["decision"] = 0
	}
	for part := range slices.Chunk(ids, lookup) {
		if err := tx.Model(&Idea{}).Where("niche_id = ? AND id IN ?", niche, part).Updates(values).Error; err != nil {
			return err
		}
	}
	return tx.Model(&Niche{}).Where("id = ?", niche).Update("removals", revision).Error
}

// byKey is the condition of what is undone by one key: an import is undone by its name.
var byKey = fmt.Sprint("moved <> ", MovedIn, " AND filled IS NULL")

// UndoImport takes an import back: ideas that came by it leave, gaps that it filled are empty again.
func (s *Store) UndoImport(ctx context.Context, niche uint, batchName string) (int, error) {
	if _, err := first[Import](s.read(ctx).Where("niche_id = ? AND batch = ?", niche, batchName)); err != nil {
		return 0, err
	}
	err := nonePlanned(s.read(ctx),
		"idea_id IN (SELECT idea_id FROM decisions WHERE niche_id = ? AND batch = ? AND moved = ?)",
		niche, batchName, MovedIn)
	if err != nil {
		return 0, err
	}
	undone, err := s.undoBatch(ctx, niche, batchName)
	if err != nil {
		return 0, err
	}
	return len(undone), s.write(ctx, func(tx *gorm.DB) error {
		if err := tx.Where("niche_id = ? AND batch = ?", niche, batchName).Delete(&Brought{}).Error; err != nil {
			return err
		}
		return tx.Where("niche_id = ? AND batch = ?", niche, batchName).Delete(&Import{}).Error
	})
}

// moveBack takes back what decisions did besides: who left comes back as it was, who came leaves, what was filled is
// emptied.
func (s *Store) moveBack(tx *gorm.DB, niche uint, undone []Decision) error {
	var back, away, emptied []Idea
	var leaving []uint
	listed := map[uint]bool{}
	decided := map[int8][]Decision{}
	for _, d := range undone {
		switch {
		case d.Moved == MovedOut:
			back = append(back, Idea{ID: d.IdeaID})
			decided[d.Was] = append(decided[d.Was], d)
		case d.Moved == MovedIn:
			away, leaving = append(away, Idea{ID: d.IdeaID}), append(leaving, d.IdeaID)
		case d.Filled != nil:
			var was filledBefore
			if err := json.Unmarshal([]byte(*d.Filled), &was); err != nil {
				return err
			}
			emptied = append(emptied, was.Idea)
			listed[was.ID] = was.Listed
		}
	}
	err := cmp.Or(nonePlanned(tx, "idea_id IN ?", leaving), moveIdeas(tx, niche, back, nil),
		moveIdeas(tx, niche, away, ref(s.now())))
	if err != nil {
		return err
	}
	if delete(decided, 0); len(decided) > 0 {
		if err := s.setDecisions(tx, niche, decided); err != nil {
			return err
		}
	}
	if len(emptied) == 0 {
		return nil
	}
	return saveIdeas(tx, niche, emptied, func(i Idea) []string {
		if listed[i.ID] {
			return columns(byFind, byDemand, byCost)
		}
		return columns(byFind)
	})
}
