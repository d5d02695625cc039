package store

import (
	"context"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// Sent is an event of a calendar as it was last told to those who read it.
type Sent struct {
	NicheID  uint   `gorm:"primaryKey;autoIncrement:false"`
	UID      string `gorm:"primaryKey;column:uid"`
	Says     string // all that is told of it, or a digest of that
	Sequence int    // how often that changed
	At       time.Time
}

// Tell notes what is told of events now, by their UIDs, and returns for each how often and when that last changed.
func (s *Store) Tell(ctx context.Context, niche uint, says map[string]string) (map[string]Sent, error) {
	out := make(map[string]Sent, len(says))
	known := func(q *gorm.DB) error {
		var rows []Sent
		err := q.Where("niche_id = ?", niche).Find(&rows).Error
		for _, row := range rows {
			if _, told := says[row.UID]; told {
				out[row.UID] = row
			}
		}
		return err
	}
	if err := known(s.read(ctx)); err != nil {
		return nil, err
	}
	same := len(out) == len(says)
	for uid, text := range says {
		same = same && out[uid].Says == text
	}
	if same {
		return out, nil
	}
	return out, s.writeLater(ctx, func(tx *gorm.DB) error {
		if err := known(tx); err != nil {
			return err
		}
		for uid, text := range says {
			row, was := out[uid]
			if was && row.Says == text {
				continue
			}
			if was {
				row.Sequence++
			}
			row.NicheID, row.UID, row.Says, row.At = niche, uid, text, s.now().Truncate(time.Second)
			if err := tx.Clauses(clause.OnConflict{UpdateAll: true}).Create(&row).Error; err != nil {
				return err
			}
			out[uid] = row
		}
		return nil
	})
}
