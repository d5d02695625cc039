package store

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// Brought is an answer that somebody brought in a file. It is kept beside those that were asked for, so that it can be
// taken back.
type Brought struct {
	Kind    string `gorm:"primaryKey"`
	Key     string `gorm:"primaryKey"`
	Batch   string `gorm:"primaryKey"` // of the import that it came by
	NicheID uint
	Source  string
	Body    []byte // compressed
	AskedAt time.Time
}

// TableName is brought.
func (Brought) TableName() string { return "brought" }

// SaveBrought keeps answers of an import. Bodies are given plain. Once more changes nothing.
func (s *Store) SaveBrought(ctx context.Context, of Import, list []Brought) error {
	for i := range list {
		var err error
		if list[i].Body, err = packed(list[i].Body); err != nil {
			return err
		}
		list[i].Batch, list[i].NicheID = of.Batch, of.NicheID
	}
	return s.write(ctx, func(tx *gorm.DB) error {
		of.Person, of.At = personOf(ctx), s.now().UTC()
		if err := tx.Clauses(clause.OnConflict{DoNothing: true}).Create(&of).Error; err != nil || len(list) == 0 {
			return err
		}
		return tx.Clauses(clause.OnConflict{UpdateAll: true}).CreateInBatches(&list, batch).Error
	})
}

// Brought returns the latest answer that somebody brought, with its body plain, or ErrNotFound: also when it is
// damaged.
func (s *Store) Brought(ctx context.Context, kind, key string) (Brought, error) {
	b, err := first[Brought](s.read(ctx).Where("kind = ? AND key = ?", kind, key).Order("asked_at DESC"))
	if err != nil {
		return b, err
	}
	if b.Body, err = unpacked(b.Body); err != nil {
		return b, fmt.Errorf("%w: what was brought for %s %s: %w", ErrNotFound, kind, key, err)
	}
	return b, nil
}

// FreshBrought counts the keys of which somebody brought an answer after a moment.
func (s *Store) FreshBrought(ctx context.Context, kind string, keys []string, after time.Time) (n int, err error) {
	if len(keys) == 0 {
		return 0, nil
	}
	text, err := json.Marshal(keys)
	if err != nil {
		return 0, err
	}
	return n, s.read(ctx).Raw("SELECT count(DISTINCT key) FROM brought WHERE kind = ? AND asked_at > ? AND key IN "+
		"(SELECT value FROM json_each(?))", kind, after.UTC(), string(text)).Scan(&n).Error
}
