package store

import (
	"context"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// Sieves lists the saved sieves by name.
func (s *Store) Sieves(ctx context.Context) ([]Sieve, error) {
	var out []Sieve
	return out, s.read(ctx).Order("name, id").Find(&out).Error
}

// Sieve returns one saved sieve, or ErrNotFound.
func (s *Store) Sieve(ctx context.Context, id uint) (Sieve, error) {
	return first[Sieve](s.read(ctx).Where("id = ?", id))
}

// SieveNamed returns the saved sieve of a name, in any case, or ErrNotFound.
func (s *Store) SieveNamed(ctx context.Context, name string) (Sieve, error) {
	return first[Sieve](s.read(ctx).Where("name = ?", name))
}

// Long is what would be too long for an address, by a short key.
type Long struct {
	Key    string `gorm:"primaryKey"`
	Body   string
	UsedAt time.Time
}

// mostLongs is how many are kept: those that were used last.
const mostLongs = 5000

// KeepLong keeps a text for a key.
func (s *Store) KeepLong(ctx context.Context, key, body string) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		err := tx.Clauses(clause.OnConflict{UpdateAll: true}).Create(&Long{key, body, s.now()}).Error
		if err != nil {
			return err
		}
		return tx.Exec("DELETE FROM longs WHERE key NOT IN (SELECT key FROM longs ORDER BY used_at DESC LIMIT ?)",
			mostLongs).Error
	})
}

// Long returns the text of a key, or ErrNotFound.
func (s *Store) Long(ctx context.Context, key string) (string, error) {
	row, err := first[Long](s.read(ctx).Where("key = ?", key))
	return row.Body, err
}

// SaveSieves writes sieves: those with an ID in place of what they were, the others as new ones.
func (s *Store) SaveSieves(ctx context.Context, list ...*Sieve) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		for _, one := range list {
			one.ChangedAt = s.now()
			if one.CreatedAt.IsZero() {
				one.CreatedAt = one.ChangedAt
			}
			if err := tx.Save(one).Error; err != nil {
				return err
			}
		}
		return nil
	})
}

// DeleteSieve deletes a saved sieve, which is no niche's usual one any more.
func (s *Store) DeleteSieve(ctx context.Context, id uint) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		if err := tx.Model(&Niche{}).Where("usual_sieve = ?", id).Update("usual_sieve", 0).Error; err != nil {
			return err
		}
		return tx.Delete(&Sieve{}, id).Error
	})
}

// SetColumns notes which columns a niche's list has, where it has those that it was taken to have; nil is any.
func (s *Store) SetColumns(ctx context.Context, niche uint, was *string, columns string) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		n, err := first[Niche](tx.Select("columns").Where("id = ?", niche))
		if err == nil && was != nil && n.Columns != *was && n.Columns != columns {
			err = ErrChanged
		}
		if err != nil {
			return err
		}
		return tx.Model(&Niche{}).Where("id = ?", niche).Update("columns", columns).Error
	})
}

// SetTenColumns notes which columns the top ten of a niche's ideas has.
func (s *Store) SetTenColumns(ctx context.Context, niche uint, columns string) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		return tx.Model(&Niche{}).Where("id = ?", niche).Update("ten_columns", columns).Error
	})
}

// SetUsualSieve makes a sieve the usual one of a niche; 0 is none.
func (s *Store) SetUsualSieve(ctx context.Context, niche, id uint) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		return tx.Model(&Niche{}).Where("id = ?", niche).Update("usual_sieve", id).Error
	})
}
