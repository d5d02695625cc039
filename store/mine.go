package store

import (
	"context"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// What is known of one's own sites beside where they stand: their names, what became of faults, what their pages tell.

// OwnSite is a site of mine beside the niche's own, by a name.
type OwnSite struct {
	NicheID uint   `gorm:"primaryKey;autoIncrement:false"`
	Site    string `gorm:"primaryKey" holds:"t300"` // registrable domain
	Name    string `holds:"t80"`
}

// OwnSites of a niche, by name.
func (s *Store) OwnSites(ctx context.Context, niche uint) (out []OwnSite, err error) {
	return out, s.read(ctx).Where("niche_id = ?", niche).Order("name, site").Find(&out).Error
}

// SaveOwnSite keeps one, or its new name.
func (s *Store) SaveOwnSite(ctx context.Context, one OwnSite) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		return tx.Clauses(clause.OnConflict{UpdateAll: true}).Create(&one).Error
	})
}

// DeleteOwnSite keeps one no more; its phrases are watched no more, and their places stay.
func (s *Store) DeleteOwnSite(ctx context.Context, niche uint, site string) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		done := tx.Where("niche_id = ? AND site = ?", niche, site).Delete(&OwnSite{})
		if done.Error != nil || done.RowsAffected == 0 {
			return done.Error
		}
		return tx.Model(&Watched{}).Where("niche_id = ? AND site = ? AND removed_at IS NULL", niche, site).
			Update("removed_at", s.now().UTC()).Error
	})
}

// Mending is what somebody says of a fault of a page: done, or ignored.
type Mending struct {
	NicheID uint   `gorm:"primaryKey;autoIncrement:false"`
	URL     string `gorm:"primaryKey" holds:"t2000"`
	Fault   string `gorm:"primaryKey" holds:"t40"`
	State   string `holds:"t20"`
	At      time.Time
}

// Mendings of a niche.
func (s *Store) Mendings(ctx context.Context, niche uint) (out []Mending, err error) {
	return out, s.read(ctx).Where("niche_id = ?", niche).Find(&out).Error
}

// SetMending says what became of a fault; an empty state takes that back.
func (s *Store) SetMending(ctx context.Context, m Mending) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		if m.State == "" {
			return tx.Where("niche_id = ? AND url = ? AND fault = ?", m.NicheID, m.URL, m.Fault).Delete(&Mending{}).Error
		}
		m.At = s.now().UTC()
		return tx.Clauses(clause.OnConflict{UpdateAll: true}).Create(&m).Error
	})
}
