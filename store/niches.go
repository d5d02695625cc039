package store

import (
	"context"

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
	return first[Niche](s.read(ctx).Where("id = ?", id))
}

// NicheNamed returns the niche of that name, in any case, or ErrNotFound.
func (s *Store) NicheNamed(ctx context.Context, name string) (Niche, error) {
	return first[Niche](s.read(ctx).Where("name = ? COLLATE NOCASE", name))
}

// Niches lists the niches, the one opened last first.
func (s *Store) Niches(ctx context.Context) ([]Niche, error) {
	var out []Niche
	return out, s.read(ctx).Order("opened_at DESC, id").Find(&out).Error
}

// SaveNiche writes what the user may change of a niche.
func (s *Store) SaveNiche(ctx context.Context, n Niche) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		return tx.Model(&n).Select("Name", "Country", "Language", "Currency", "OwnSite", "PlannedLinks",
			"LinkStanding", "Fit", "Endings", "VisitMicros", "WeekHours", "KindHours", "LeadDays", "WeekStart").Updates(n).Error
	})
}

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
	if len(seeds) == 0 {
		return nil
	}
	return s.write(ctx, func(tx *gorm.DB) error {
		return tx.Clauses(clause.OnConflict{DoNothing: true}).Create(&seeds).Error
	})
}

// Seeds lists a niche's seeds in the order they were put in.
func (s *Store) Seeds(ctx context.Context, niche uint) ([]Seed, error) {
	var out []Seed
	return out, s.read(ctx).Where("niche_id = ?", niche).Order("id").Find(&out).Error
}
