package store

import (
	"context"
	"time"

	"gorm.io/gorm"
)

// AddGathering keeps a gathering, and gives it its ID.
func (s *Store) AddGathering(ctx context.Context, row *Gathering) error {
	row.CreatedAt = s.now()
	return s.write(ctx, func(tx *gorm.DB) error { return tx.Create(row).Error })
}

// Gatherings lists a niche's kept gatherings by name; of niche 0 those of all that are done every week.
func (s *Store) Gatherings(ctx context.Context, niche uint) (out []Gathering, err error) {
	q := s.read(ctx).Where("removed_at IS NULL")
	if niche > 0 {
		q = q.Where("niche_id = ?", niche)
	} else {
		q = q.Where("weekly AND niche_id IN (SELECT id FROM niches WHERE deleted_at IS NULL AND archived_at IS NULL AND " +
			"NOT staged)")
	}
	return out, q.Order("name, id").Find(&out).Error
}

// Gathering returns one of a niche, also where it was removed, or ErrNotFound.
func (s *Store) Gathering(ctx context.Context, niche, id uint) (Gathering, error) {
	return first[Gathering](s.read(ctx).Where("niche_id = ? AND id = ?", niche, id))
}

// ClaimGathering notes that a gathering is done now, unless somebody else noted that since it was read: then got is
// false.
func (s *Store) ClaimGathering(ctx context.Context, seen Gathering, after uint) (got bool, err error) {
	err = s.write(ctx, func(tx *gorm.DB) error {
		q := tx.Model(&Gathering{}).Where("id = ? AND removed_at IS NULL", seen.ID)
		if seen.RunAt == nil {
			q = q.Where("run_at IS NULL")
		} else {
			q = q.Where("run_at = ?", seen.RunAt)
		}
		done := q.Updates(map[string]any{"run_at": s.now().UTC(), "after": after})
		got = done.RowsAffected == 1
		return done.Error
	})
	return got, err
}

// ChangeGathering changes columns of one of a niche's gatherings, by their names, or is ErrNotFound.
func (s *Store) ChangeGathering(ctx context.Context, niche, id uint, to map[string]any) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		done := tx.Model(&Gathering{}).Where("niche_id = ? AND id = ?", niche, id).Updates(to)
		if done.Error == nil && done.RowsAffected == 0 {
			return ErrNotFound
		}
		return done.Error
	})
}

// RemoveGathering takes a gathering away, or brings it back.
func (s *Store) RemoveGathering(ctx context.Context, niche, id uint, away bool) error {
	var at *time.Time
	if away {
		at = ref(s.now())
	}
	return s.ChangeGathering(ctx, niche, id, map[string]any{"removed_at": at})
}
