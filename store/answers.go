package store

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// SaveAnswer keeps an answer in place of an older one to the same question, and enters that the
// calls it took are paid, together. Body is given plain and kept compressed.
func (s *Store) SaveAnswer(ctx context.Context, a Answer, paid ...Entry) error {
	return s.SaveAnswers(ctx, []Answer{a}, paid)
}

// SaveAnswers does it for several at once.
func (s *Store) SaveAnswers(ctx context.Context, list []Answer, paid []Entry) error {
	rows := slices.Clone(list)
	for i := range rows {
		var err error
		if rows[i].Body, err = packed(rows[i].Body); err != nil {
			return err
		}
	}
	return s.writeLater(ctx, func(tx *gorm.DB) error {
		if len(rows) > 0 {
			if err := tx.Clauses(clause.OnConflict{UpdateAll: true}).CreateInBatches(&rows, batch).Error; err != nil {
				return err
			}
		}
		if len(paid) == 0 {
			return nil
		}
		return settle(tx, paid, CallPaid, s.now())
	})
}

// Answer returns the kept answer to a question, with its body plain, or ErrNotFound: also
// when what was kept is damaged, so that it is asked again.
func (s *Store) Answer(ctx context.Context, kind, key string) (Answer, error) {
	a, err := first[Answer](s.read(ctx).Where("kind = ? AND key = ?", kind, key))
	if err != nil {
		return a, err
	}
	if a.Body, err = unpacked(a.Body); err != nil {
		return a, fmt.Errorf("%w: the kept answer to %s %s: %w", ErrNotFound, kind, key, err)
	}
	return a, nil
}

// AskedAt is when a question was asked whose answer is kept, or ErrNotFound.
func (s *Store) AskedAt(ctx context.Context, kind, key string) (time.Time, error) {
	a, err := first[Answer](s.read(ctx).Select("asked_at").Where("kind = ? AND key = ?", kind, key))
	return a.AskedAt, err
}

// FreshKeys returns which of the keys have an answer asked after a moment.
func (s *Store) FreshKeys(ctx context.Context, kind string, keys []string, after time.Time) (map[string]bool, error) {
	out := map[string]bool{}
	for len(keys) > 0 {
		n := min(len(keys), 500)
		var part []string
		err := s.read(ctx).Model(&Answer{}).Where("kind = ? AND key IN ? AND asked_at > ?", kind, keys[:n],
			after.UTC()).Pluck("key", &part).Error
		if err != nil {
			return nil, err
		}
		for _, k := range part {
			out[k] = true
		}
		keys = keys[n:]
	}
	return out, nil
}

// Pace is the mean time the latest answers of a kind took; known is false when
// there is none.
func (s *Store) Pace(ctx context.Context, kind string) (mean time.Duration, known bool, err error) {
	var row struct {
		N    int
		Mean float64
	}
	err = s.read(ctx).Raw(`SELECT count(*) n, coalesce(avg(took_ms), 0) mean FROM
		(SELECT took_ms FROM answers WHERE kind = ? ORDER BY asked_at DESC LIMIT 200)`, kind).Scan(&row).Error
	return time.Duration(row.Mean * float64(time.Millisecond)), row.N > 0, err
}

// LastAnswer is when the latest kept answer of a source to a question was asked for; zero where there is none.
func (s *Store) LastAnswer(ctx context.Context, kind, source string) (time.Time, error) {
	a, err := first[Answer](s.read(ctx).Select("asked_at").Where("kind = ? AND source = ?", kind, source).
		Order("asked_at DESC"))
	if errors.Is(err, ErrNotFound) {
		err = nil
	}
	return a.AskedAt, err
}
