package store

import (
	"context"
	"errors"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// Front is what stands in front of a page for an idea's phrase, as small as it can be kept: what forecasts are
// reckoned from, and what an engine leans on is learnt from. It follows from the idea's evidence.
type Front struct {
	IdeaID uint   `gorm:"primaryKey;autoIncrement:false"`
	Engine string // who answered
	Body   []byte // as JSON
}

// Leaning is what is known of what an engine leans on, for a niche.
type Leaning struct {
	NicheID uint   `gorm:"primaryKey;autoIncrement:false"`
	Engine  string // who was asked
	Model   string // of the calibration with which it was learnt
	Pages   int    // from how many results pages
	Body    []byte // as JSON
	At      time.Time
}

// Fronts are those of the present ideas of a niche, the latest looked up first, at most so many.
func (s *Store) Fronts(ctx context.Context, niche uint, engine string, most int) (out []Front, err error) {
	return out, s.read(ctx).Raw("SELECT f.idea_id, f.engine, f.body FROM ideas i JOIN fronts f ON f.idea_id = i.id "+
		"WHERE i.niche_id = ? AND i.judged_at IS NOT NULL AND f.engine = ? AND i."+present+
		" ORDER BY i.judged_at DESC, i.id LIMIT ?", niche, engine, most).Scan(&out).Error
}

// FrontsOf are those of ideas that have one, by idea.
func (s *Store) FrontsOf(ctx context.Context, ideas []uint) (map[uint]Front, error) {
	out := make(map[uint]Front, len(ideas))
	var rows []Front
	err := s.read(ctx).Where("idea_id IN ?", ideas).Find(&rows).Error
	for _, row := range rows {
		out[row.IdeaID] = row
	}
	return out, err
}

// Leaning returns what was learnt for a niche last, or ErrNotFound.
func (s *Store) Leaning(ctx context.Context, niche uint) (l Leaning, err error) {
	err = s.read(ctx).Where("niche_id = ?", niche).Take(&l).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		err = ErrNotFound
	}
	return l, err
}

// SaveLeaning writes what was learnt for a niche. It can be learnt again.
func (s *Store) SaveLeaning(ctx context.Context, l Leaning) error {
	return s.writeLater(ctx, func(tx *gorm.DB) error {
		return tx.Clauses(clause.OnConflict{UpdateAll: true}).Create(&l).Error
	})
}
