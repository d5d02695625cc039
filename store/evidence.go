package store

import (
	"context"
	"slices"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// Document is evidence as its owner writes it: a body of a version, plain. Of one read,
// Damage says why there is no body.
type Document struct {
	Version int
	Body    []byte
	Damage  error
}

// firstPacked is the version from which bodies are compressed.
const firstPacked = 2

// Evidence returns the evidence of an idea, or ErrNotFound.
func (s *Store) Evidence(ctx context.Context, idea uint) (Document, error) {
	found, err := s.Evidences(ctx, []uint{idea})
	d, ok := found[idea]
	if err == nil && !ok {
		err = ErrNotFound
	}
	return d, err
}

// Evidences returns the evidence of the ideas that have one.
func (s *Store) Evidences(ctx context.Context, ideas []uint) (map[uint]Document, error) {
	out := make(map[uint]Document, len(ideas))
	for part := range slices.Chunk(ideas, lookup) {
		var rows []Evidence
		if err := s.read(ctx).Where("idea_id IN ?", part).Find(&rows).Error; err != nil {
			return nil, err
		}
		for _, row := range rows {
			d := Document{Version: row.Version, Body: row.Body}
			if d.Version >= firstPacked {
				d.Body, d.Damage = unpacked(row.Body)
			}
			out[row.IdeaID] = d
		}
	}
	return out, nil
}

// Judgement is an idea's columns and its evidence, which belong together. Without a
// body the evidence that is there is kept.
type Judgement struct {
	Idea     Idea
	Document Document
	Found    *Found // what grouping looks at; nil leaves what is there
	Front    *Front // what forecasts are reckoned from; nil leaves what is there
	Supposed bool   // what the user supposes is written, too
	History  string // what its results were, this time, too; "" leaves what is there
}

// SaveJudgements writes the judgements of several ideas of one niche at once.
func (s *Store) SaveJudgements(ctx context.Context, niche uint, list ...Judgement) error {
	if len(list) == 0 {
		return nil
	}
	bodies := make([][]byte, len(list))
	for n, j := range list {
		var err error
		if bodies[n] = j.Document.Body; j.Document.Body != nil && j.Document.Version >= firstPacked {
			if bodies[n], err = packed(j.Document.Body); err != nil {
				return err
			}
		}
	}
	write := s.writeLater
	if slices.ContainsFunc(list, func(j Judgement) bool { return j.Supposed }) {
		write = s.write
	}
	return write(ctx, func(tx *gorm.DB) error {
		revision, err := nextRevision(tx, niche)
		if err != nil {
			return err
		}
		for n, j := range list {
			fills := columns(byTop)
			if j.Supposed {
				fills = columns(byTop, bySupposed)
			}
			if j.History != "" {
				fills = append(fills, columns(byWeeks)...)
				if err := saveHistory(tx, j.Idea.ID, j.History); err != nil {
					return err
				}
			}
			j.Idea.Revision = revision
			if err := tx.Model(&Idea{}).Where("id = ?", j.Idea.ID).Select(fills).Updates(j.Idea).Error; err != nil {
				return err
			}
			if j.Found != nil {
				j.Found.IdeaID = j.Idea.ID
				if err := tx.Clauses(clause.OnConflict{UpdateAll: true}).Create(j.Found).Error; err != nil {
					return err
				}
			}
			if j.Front != nil {
				j.Front.IdeaID = j.Idea.ID
				if err := tx.Clauses(clause.OnConflict{UpdateAll: true}).Create(j.Front).Error; err != nil {
					return err
				}
			}
			if bodies[n] == nil {
				continue
			}
			row := Evidence{IdeaID: j.Idea.ID, Version: j.Document.Version, Body: bodies[n]}
			if err := tx.Clauses(clause.OnConflict{UpdateAll: true}).Create(&row).Error; err != nil {
				return err
			}
		}
		return nil
	})
}

// SaveForecasts writes what forecasts give of ideas of a niche that were read before. Of those that changed since,
// what they have stays; they are returned.
func (s *Store) SaveForecasts(ctx context.Context, niche uint, ideas []Idea) (changed []uint, err error) {
	if len(ideas) == 0 {
		return nil, nil
	}
	return changed, s.writeLater(ctx, func(tx *gorm.DB) error {
		changed = nil // of a try before
		revision, err := nextRevision(tx, niche)
		if err != nil {
			return err
		}
		for _, i := range ideas {
			read := i.Revision
			i.Revision = revision
			done := tx.Model(&Idea{}).Where("id = ? AND revision = ?", i.ID, read).Select(columns(byForecast)).Updates(i)
			if done.Error != nil {
				return done.Error
			}
			if done.RowsAffected == 0 {
				changed = append(changed, i.ID)
			}
		}
		return nil
	})
}

// ToReckon lists the ideas of a niche of which something is reckoned from what is at
// hand: those that are judged, and with months also those whose monthly searches are
// known.
func (s *Store) ToReckon(ctx context.Context, niche uint, months bool) (ids []uint, err error) {
	q := s.read(ctx).Model(&Idea{}).Where("niche_id = ? AND judged_at IS NOT NULL AND "+present, niche)
	if months {
		q = s.read(ctx).Model(&Idea{}).Where("niche_id = ? AND (judged_at IS NOT NULL OR months <> '') AND "+present,
			niche)
	}
	return ids, q.Order("id").Pluck("id", &ids).Error
}
