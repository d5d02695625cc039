package store

import (
	"context"
	"errors"
	"slices"

	"gorm.io/gorm"
)

// Decide sets the decision of ideas, remembers what it was, and returns how many
// changed. One that is not in the niche is ErrNotFound, and nothing changes.
func (s *Store) Decide(ctx context.Context, niche uint, ids []uint, became int8,
	batchName string) (changed int, err error) {
	ids = slices.Compact(slices.Sorted(slices.Values(ids)))
	err = s.write(ctx, func(tx *gorm.DB) error {
		var rows []Decision
		there := 0
		for part := range slices.Chunk(ids, lookup) {
			var ideas []Idea
			err := tx.Select("id", "decision").Where(byIDs, niche, part).Order("id").Find(&ideas).Error
			if err != nil {
				return err
			}
			there += len(ideas)
			for _, i := range ideas {
				if i.Decision != became {
					rows = append(rows, Decision{NicheID: niche, IdeaID: i.ID, Batch: batchName, Was: i.Decision,
						Became: became})
				}
			}
		}
		if there < len(ids) {
			return ErrNotFound
		}
		if changed = len(rows); changed == 0 {
			return nil
		}
		if err := tx.CreateInBatches(&rows, batch).Error; err != nil {
			return err
		}
		return s.setDecisions(tx, niche, map[int8][]Decision{became: rows})
	})
	return changed, err
}

// setDecisions gives ideas their decisions, under one revision.
func (s *Store) setDecisions(tx *gorm.DB, niche uint, to map[int8][]Decision) error {
	revision, err := nextRevision(tx, niche)
	if err != nil {
		return err
	}
	now := s.now()
	for became, rows := range to {
		for part := range slices.Chunk(rows, lookup) {
			ids := make([]uint, len(part))
			for i, d := range part {
				ids[i] = d.IdeaID
			}
			err := tx.Model(&Idea{}).Where("id IN ?", ids).Select("Decision", "DecidedAt", "Revision").
				Updates(Idea{Decision: became, DecidedAt: &now, Revision: revision}).Error
			if err != nil {
				return err
			}
		}
	}
	return nil
}

// SaveLabels writes the labels of ideas, and remembers what they were; SaveNote does it for a
// note.
func (s *Store) SaveLabels(ctx context.Context, niche uint, ideas []Idea, batchName string) error {
	return s.remark(ctx, niche, ideas, batchName, "Labels",
		func(was Idea) Decision { return Decision{Labels: &was.Labels} })
}

func (s *Store) SaveNote(ctx context.Context, niche uint, idea Idea, batchName string) error {
	return s.remark(ctx, niche, []Idea{idea}, batchName, "Note",
		func(was Idea) Decision { return Decision{Note: &was.Note} })
}

func (s *Store) remark(ctx context.Context, niche uint, ideas []Idea, batchName, column string,
	kept func(was Idea) Decision) error {
	if len(ideas) == 0 {
		return nil
	}
	return s.write(ctx, func(tx *gorm.DB) error {
		var rows []Decision
		for part := range slices.Chunk(ideas, lookup) {
			ids := make([]uint, len(part))
			for i := range part {
				ids[i] = part[i].ID
			}
			var before []Idea
			if err := tx.Select("id", "labels", "note", "decision").Where(byIDs, niche, ids).Find(&before).Error; err != nil {
				return err
			}
			for _, was := range before {
				d := kept(was)
				d.NicheID, d.IdeaID, d.Batch, d.Was, d.Became = niche, was.ID, batchName, was.Decision, was.Decision
				rows = append(rows, d)
			}
		}
		if err := tx.CreateInBatches(&rows, batch).Error; err != nil {
			return err
		}
		return saveIdeas(tx, niche, ideas, func(Idea) []string { return []string{column, "Revision"} })
	})
}

// UndoDecision takes back the latest batch of decisions, labels or notes of a niche and returns
// it; it is empty when there is nothing to undo.
func (s *Store) UndoDecision(ctx context.Context, niche uint) (undone []Decision, err error) {
	err = s.write(ctx, func(tx *gorm.DB) error {
		last, err := first[Decision](tx.Where("niche_id = ?", niche).Order("id DESC"))
		if errors.Is(err, ErrNotFound) {
			return nil
		}
		if err != nil {
			return err
		}
		of := tx.Where("niche_id = ? AND batch = ?", niche, last.Batch).Session(&gorm.Session{})
		if err := of.Order("id DESC").Find(&undone).Error; err != nil {
			return err
		}
		back := map[int8][]Decision{}
		var marked []Idea
		for _, d := range undone {
			switch {
			case d.Labels != nil:
				marked = append(marked, Idea{ID: d.IdeaID, Labels: *d.Labels})
			case d.Note != nil:
				marked = append(marked, Idea{ID: d.IdeaID, Note: *d.Note})
			default:
				back[d.Was] = append(back[d.Was], d)
			}
		}
		if len(marked) > 0 {
			column := "Note"
			if last.Labels != nil {
				column = "Labels"
			}
			err = saveIdeas(tx, niche, marked, func(Idea) []string { return []string{column, "Revision"} })
		} else {
			err = s.setDecisions(tx, niche, back)
		}
		if err != nil {
			return err
		}
		return of.Delete(&Decision{}).Error
	})
	return undone, err
}
