package store

import (
	"context"
	"errors"
	"slices"

	"gorm.io/gorm"
)

// Decide sets the decision of ideas, some hundred at a time, so that nobody waits for all, remembers what it was, and
// returns how many changed. One that is not in the niche is ErrNotFound, and nothing changes.
func (s *Store) Decide(ctx context.Context, niche uint, ids []uint, became int8,
	batchName string) (changed int, err error) {
	ids = slices.Compact(slices.Sorted(slices.Values(ids)))
	there := 0
	for part := range slices.Chunk(ids, lookup) {
		var n int64
		if err := s.read(ctx).Model(&Idea{}).Where(byIDs, niche, part).Count(&n).Error; err != nil {
			return 0, err
		}
		there += int(n)
	}
	if there < len(ids) {
		return 0, ErrNotFound
	}
	for part := range slices.Chunk(ids, lookup) {
		n, err := s.decideSome(ctx, niche, part, became, batchName)
		if changed += n; err != nil {
			return changed, err
		}
	}
	return changed, nil
}

func (s *Store) decideSome(ctx context.Context, niche uint, ids []uint, became int8,
	batchName string) (changed int, err error) {
	err = s.write(ctx, func(tx *gorm.DB) error {
		var ideas []Idea
		if err := tx.Select("id", "decision").Where(byIDs, niche, ids).Order("id").Find(&ideas).Error; err != nil {
			return err
		}
		if len(ideas) < len(ids) { // one was taken out just now
			return ErrNotFound
		}
		var rows []Decision
		for _, i := range ideas {
			if i.Decision != became {
				rows = append(rows, Decision{NicheID: niche, IdeaID: i.ID, Batch: batchName, Was: i.Decision,
					Became: became})
			}
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

// SaveLabels writes the labels of ideas, and remembers what they were.
func (s *Store) SaveLabels(ctx context.Context, niche uint, ideas []Idea, batchName string) error {
	return s.remark(ctx, niche, ideas, batchName, "Labels",
		func(was Idea) (Decision, error) { return Decision{Labels: &was.Labels}, nil })
}

// SaveNote writes the note of an idea where it is what it was taken for, and returns what it is; otherwise ErrChanged.
func (s *Store) SaveNote(ctx context.Context, niche uint, idea Idea, was *string, batchName string) error {
	return s.remark(ctx, niche, []Idea{idea}, batchName, "Note", func(now Idea) (Decision, error) {
		if was != nil && now.Note != *was && now.Note != idea.Note {
			return Decision{}, ErrChanged
		}
		return Decision{Note: &now.Note}, nil
	})
}

// SaveSides writes what somebody says of the subject of ideas, and remembers what was said.
func (s *Store) SaveSides(ctx context.Context, niche uint, ideas []Idea, batchName string) error {
	return s.remark(ctx, niche, ideas, batchName, "SideHand",
		func(was Idea) (Decision, error) { return Decision{Side: &was.SideHand}, nil })
}

func (s *Store) remark(ctx context.Context, niche uint, ideas []Idea, batchName, column string,
	kept func(was Idea) (Decision, error)) error {
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
			err := tx.Select("id", "labels", "note", "side_hand", "decision").Where(byIDs, niche, ids).Find(&before).Error
			if err != nil {
				return err
			}
			for _, was := range before {
				d, err := kept(was)
				if err != nil {
					return err
				}
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

// ErrSince says that somebody else changed since what is to be undone.
var ErrSince = errors.New("somebody else changed that since")

// UndoDecision takes back the latest batch of decisions, labels, notes or removals of a niche, some hundred at
// a time, and returns it; it is empty when there is nothing to undo. Whoever is interrupted goes on by undoing again.
func (s *Store) UndoDecision(ctx context.Context, niche uint) (undone []Decision, err error) {
	last, err := first[Decision](s.read(ctx).Where("niche_id = ? AND person = ? AND "+byKey, niche, personOf(ctx)).
		Order("id DESC"))
	if errors.Is(err, ErrNotFound) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	var since int64
	err = s.read(ctx).Raw("SELECT count(*) FROM decisions d WHERE d.niche_id = ? AND d.batch = ? AND EXISTS (SELECT "+
		"1 FROM "+
		"decisions o WHERE o.idea_id = d.idea_id AND o.id > d.id AND o.person <> d.person)", niche, last.Batch).
		Scan(&since).Error
	if err == nil && since > 0 {
		err = ErrSince
	}
	if err != nil {
		return nil, err
	}
	return s.undoBatch(ctx, niche, last.Batch)
}

func (s *Store) undoBatch(ctx context.Context, niche uint, batchName string) (undone []Decision, err error) {
	for more := true; more && err == nil; {
		var some []Decision
		err = s.write(ctx, func(tx *gorm.DB) error {
			some, err = s.undoSome(tx, niche, batchName)
			return err
		})
		undone = append(undone, some...)
		more = len(some) > 0
	}
	return undone, err
}

// undoSome takes back the latest of a batch.
func (s *Store) undoSome(tx *gorm.DB, niche uint, batchName string) (undone []Decision, err error) {
	of := tx.Where("niche_id = ? AND batch = ?", niche, batchName).Order("id DESC").Limit(lookup)
	if err := of.Find(&undone).Error; err != nil || len(undone) == 0 {
		return nil, err
	}
	back := map[int8][]Decision{}
	var marked []Idea
	ids := make([]uint, len(undone))
	for i, d := range undone {
		switch ids[i] = d.ID; {
		case d.Labels != nil:
			marked = append(marked, Idea{ID: d.IdeaID, Labels: *d.Labels})
		case d.Note != nil:
			marked = append(marked, Idea{ID: d.IdeaID, Note: *d.Note})
		case d.Side != nil:
			marked = append(marked, Idea{ID: d.IdeaID, SideHand: *d.Side})
		default:
			back[d.Was] = append(back[d.Was], d)
		}
	}
	switch {
	case len(marked) > 0:
		column := "Note"
		switch {
		case undone[0].Labels != nil:
			column = "Labels"
		case undone[0].Side != nil:
			column = "SideHand"
		}
		err = saveIdeas(tx, niche, marked, func(Idea) []string { return []string{column, "Revision"} })
	case undone[0].Moved != 0 || undone[0].Filled != nil:
		err = s.moveBack(tx, niche, undone)
	default:
		err = s.setDecisions(tx, niche, back)
	}
	if err != nil {
		return nil, err
	}
	return undone, tx.Where("id IN ?", ids).Delete(&Decision{}).Error
}
