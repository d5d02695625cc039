package store

import (
	"context"
	"errors"
	"reflect"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// CreateNiche inserts a niche and sets its ID.
func (s *Store) CreateNiche(ctx context.Context, n *Niche) error {
	n.Revision, n.OpenedAt = 1, s.now()
	return s.write(ctx, func(tx *gorm.DB) error { return tx.Create(n).Error })
}

// Niche returns one niche, or ErrNotFound.
func (s *Store) Niche(ctx context.Context, id uint) (Niche, error) {
	return first[Niche](s.read(ctx).Where("id = ? AND "+shown, id))
}

// shown is the condition of a niche that is there for its owner.
const shown = "NOT staged AND deleted_at IS NULL"

// NicheNamed returns the niche of that name, in any case, or ErrNotFound.
func (s *Store) NicheNamed(ctx context.Context, name string) (Niche, error) {
	return first[Niche](s.read(ctx).Where("name = ? COLLATE NOCASE AND "+shown, name))
}

// Niches lists the niches, the one opened last first; those that are put out of sight are behind the others.
func (s *Store) Niches(ctx context.Context) ([]Niche, error) {
	var out []Niche
	return out, s.read(ctx).Where(shown).Order("archived_at IS NOT NULL, opened_at DESC, id").Find(&out).Error
}

// DeletedNiches lists those that are deleted and not erased yet, the last one first.
func (s *Store) DeletedNiches(ctx context.Context) ([]Niche, error) {
	var out []Niche
	return out, s.read(ctx).Where("deleted_at IS NOT NULL").Order("deleted_at DESC, id").Find(&out).Error
}

// ArchiveNiche puts a niche out of sight, or back.
func (s *Store) ArchiveNiche(ctx context.Context, id uint, away bool) error {
	return s.stampNiche(ctx, id, "archived_at", away)
}

// DeleteNiche deletes a niche, or takes that back: all of it is kept until it is erased.
func (s *Store) DeleteNiche(ctx context.Context, id uint, away bool) error {
	return s.stampNiche(ctx, id, "deleted_at", away)
}

func (s *Store) stampNiche(ctx context.Context, id uint, column string, on bool) error {
	values := map[string]any{column: nil}
	if on {
		values[column] = s.now()
	}
	return s.write(ctx, func(tx *gorm.DB) error {
		r := tx.Model(&Niche{}).Where("id = ? AND NOT staged", id).Updates(values)
		if r.Error == nil && r.RowsAffected == 0 {
			return ErrNotFound
		}
		return r.Error
	})
}

// RenameNiche gives a niche another name, also one that is deleted.
func (s *Store) RenameNiche(ctx context.Context, id uint, name string) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		return tx.Model(&Niche{}).Where("id = ?", id).Update("name", name).Error
	})
}

// eraseSlice is how many ideas are erased at once, so that nobody waits for all.
const eraseSlice = 500

// EraseNiche erases a niche that is staged or deleted, for good.
func (s *Store) EraseNiche(ctx context.Context, id uint) error {
	for left := true; left; {
		err := s.writeLater(ctx, func(tx *gorm.DB) error {
			if err := tx.Where("id = ? AND NOT ("+shown+")", id).First(&Niche{}).Error; err != nil {
				return err
			}
			if err := tx.Where("niche_id = ?", id).Delete(&Seed{}).Error; err != nil { // they name ideas
				return err
			}
			r := tx.Exec("DELETE FROM ideas WHERE id IN (SELECT id FROM ideas WHERE niche_id = ? LIMIT ?)", id, eraseSlice)
			if left = r.RowsAffected > 0; left || r.Error != nil {
				return r.Error
			}
			r = tx.Exec("DELETE FROM rival_phrases WHERE (niche_id, phrase, rival_id) IN (SELECT niche_id, phrase, rival_id "+
				"FROM rival_phrases WHERE niche_id = ? LIMIT ?)", id, eraseSlice)
			left = r.RowsAffected > 0
			return r.Error
		})
		if errors.Is(err, gorm.ErrRecordNotFound) {
			return nil
		}
		if err != nil {
			return err
		}
	}
	return s.write(ctx, func(tx *gorm.DB) error { return tx.Delete(&Niche{}, id).Error })
}

// Outlived lists the niches to be erased: those that were deleted before a moment, and those that somebody began to
// read from a file and has not shown since another.
func (s *Store) Outlived(ctx context.Context, deleted, staged time.Time) (ids []uint, err error) {
	err = s.read(ctx).Model(&Niche{}).Where("deleted_at < ? OR staged AND opened_at < ?", deleted.UTC(), staged.UTC()).
		Pluck("id", &ids).Error
	return ids, err
}

// changeable is what the user may change of a niche in its settings.
var changeable = []string{"Name", "Country", "Language", "Currency", "OwnSite", "PlannedLinks", "LinkStanding", "Fit",
	"Endings", "Unwanted", "VisitMicros", "Earning", "WeekHours", "KindHours", "LeadDays", "WeekStart",
	"Depth", "Elsewhere"}

// SaveNiche writes what the user changed of a niche: where it differs from what it was. ErrChanged is returned when one
// of these was changed meanwhile.
func (s *Store) SaveNiche(ctx context.Context, was, n Niche) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		now, err := first[Niche](tx.Where("id = ?", n.ID))
		if err != nil {
			return err
		}
		var changed []string
		for _, name := range changeable {
			of := func(n Niche) any { return reflect.ValueOf(n).FieldByName(name).Interface() }
			if of(n) == of(was) {
				continue
			}
			if of(now) != of(was) && of(now) != of(n) {
				return ErrChanged
			}
			changed = append(changed, name)
		}
		if len(changed) == 0 {
			return nil
		}
		return tx.Model(&n).Select(changed).Updates(n).Error
	})
}

// ErrChanged is returned for a change of what somebody else changed meanwhile.
var ErrChanged = errors.New("it was changed meanwhile")

// SetCalibration notes with what a niche's ideas are reckoned.
func (s *Store) SetCalibration(ctx context.Context, id uint, name string, fit float64) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		return tx.Model(&Niche{}).Where("id = ?", id).Updates(map[string]any{"calibration": name, "fit": fit}).Error
	})
}

// TouchNiche remembers that a niche was opened now.
func (s *Store) TouchNiche(ctx context.Context, id uint) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		return tx.Model(&Niche{}).Where("id = ?", id).Update("opened_at", s.now()).Error
	})
}

// AddSeeds inserts the seeds that are not there yet.
func (s *Store) AddSeeds(ctx context.Context, seeds []Seed) error {
	return s.write(ctx, func(tx *gorm.DB) error { return addSeeds(tx, seeds) })
}

func addSeeds(tx *gorm.DB, seeds []Seed) error {
	if len(seeds) == 0 {
		return nil
	}
	return tx.Clauses(clause.OnConflict{DoNothing: true}).Create(&seeds).Error
}

// Seeds lists a niche's seeds in the order they were put in.
func (s *Store) Seeds(ctx context.Context, niche uint) ([]Seed, error) {
	var out []Seed
	return out, s.read(ctx).Where("niche_id = ?", niche).Order("id").Find(&out).Error
}

// Pen is what was written down for a niche's prompts; "" nothing.
func (s *Store) Pen(ctx context.Context, niche uint) (text string, err error) {
	return text, s.read(ctx).Model(&Niche{}).Where("id = ?", niche).Select("pen").Scan(&text).Error
}

// SetPen keeps it.
func (s *Store) SetPen(ctx context.Context, niche uint, text string) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		return tx.Model(&Niche{}).Where("id = ?", niche).Update("pen", text).Error
	})
}
