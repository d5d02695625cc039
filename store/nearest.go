package store

import (
	"context"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// SaveNearest keeps the wording of an idea that is searched.
func (s *Store) SaveNearest(ctx context.Context, row Nearest) error {
	return s.writeLater(ctx, func(tx *gorm.DB) error {
		return tx.Clauses(clause.OnConflict{UpdateAll: true}).Create(&row).Error
	})
}

// Nearests are the wordings that are searched of a niche's ideas, by their IDs.
func (s *Store) Nearests(ctx context.Context, niche uint) (map[uint]Nearest, error) {
	var rows []Nearest
	err := s.read(ctx).Where("idea_id IN (SELECT id FROM ideas WHERE niche_id = ?)", niche).Find(&rows).Error
	out := make(map[uint]Nearest, len(rows))
	for _, r := range rows {
		out[r.IdeaID] = r
	}
	return out, err
}
