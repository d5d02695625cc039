package store

import (
	"context"

	"gorm.io/gorm"
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

// SetColumns notes which columns a niche's list has.
func (s *Store) SetColumns(ctx context.Context, niche uint, columns string) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		return tx.Model(&Niche{}).Where("id = ?", niche).Update("columns", columns).Error
	})
}

// SetUsualSieve makes a sieve the usual one of a niche; 0 is none.
func (s *Store) SetUsualSieve(ctx context.Context, niche, id uint) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		return tx.Model(&Niche{}).Where("id = ?", niche).Update("usual_sieve", id).Error
	})
}
