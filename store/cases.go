package store

import (
	"context"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// Case is what a niche is held against, and which of its ideas were drawn to tell something of the whole, as JSON.
type Case struct {
	NicheID uint   `gorm:"primaryKey;autoIncrement:false"`
	Body    string `holds:"t200000"`
}

// Verdict is what somebody decided about a niche, in their own words, with the figures of that day as JSON.
type Verdict struct {
	ID      uint
	NicheID uint
	Said    string `holds:"t20"` // yes, no or not yet
	Words   string `holds:"t4000"`
	Figures string `holds:"t20000"`
	Person  string `holds:"t200"`
	At      time.Time
}

// Case is what is kept of a niche's case; an empty body where nothing is.
func (s *Store) Case(ctx context.Context, niche uint) (out Case, err error) {
	list := []Case{}
	err = s.read(ctx).Where("niche_id = ?", niche).Limit(1).Find(&list).Error
	if len(list) > 0 {
		return list[0], err
	}
	return Case{NicheID: niche}, err
}

// ChangeCase changes what is kept of a niche's case, as it is then.
func (s *Store) ChangeCase(ctx context.Context, niche uint, change func(body string) (string, error)) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		list := []Case{}
		if err := tx.Where("niche_id = ?", niche).Limit(1).Find(&list).Error; err != nil {
			return err
		}
		row := Case{NicheID: niche}
		if len(list) > 0 {
			row = list[0]
		}
		body, err := change(row.Body)
		if err != nil {
			return err
		}
		row.Body = body
		return tx.Clauses(clause.OnConflict{UpdateAll: true}).Create(&row).Error
	})
}

// Verdicts of a niche, the latest first.
func (s *Store) Verdicts(ctx context.Context, niche uint) (out []Verdict, err error) {
	return out, s.read(ctx).Where("niche_id = ?", niche).Order("id DESC").Limit(100).Find(&out).Error
}

// SaveVerdict keeps one.
func (s *Store) SaveVerdict(ctx context.Context, v Verdict) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		v.At, v.Person = s.now().UTC(), personOf(ctx)
		return tx.Create(&v).Error
	})
}

// DeleteVerdict takes one out.
func (s *Store) DeleteVerdict(ctx context.Context, niche, id uint) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		return tx.Where("niche_id = ? AND id = ?", niche, id).Delete(&Verdict{}).Error
	})
}
