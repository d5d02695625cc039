package store

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// History returns what the results of an idea were, or ErrNotFound: also where what was kept is damaged.
func (s *Store) History(ctx context.Context, idea uint) (string, error) {
	h, err := first[History](s.read(ctx).Where("idea_id = ?", idea))
	if err != nil {
		return "", err
	}
	body, err := unpacked(h.Body)
	if err != nil {
		return "", fmt.Errorf("%w: the history of idea %d: %w", ErrNotFound, idea, err)
	}
	return string(body), nil
}

// KeptHistory is what the results of a kept idea were.
type KeptHistory struct {
	IdeaID   uint
	Phrase   string
	JudgedAt time.Time
	Body     string
}

// KeptHistories are those of a niche's kept ideas that were looked up after a moment and have two snapshots at least,
// the most searched first, so many at most. Damaged ones are left out.
func (s *Store) KeptHistories(ctx context.Context, niche uint, after time.Time, most int) (out []KeptHistory,
	err error) {
	var rows []struct {
		ID       uint
		Phrase   string
		JudgedAt time.Time
		Body     []byte
	}
	err = s.read(ctx).Raw("SELECT i.id, i.phrase, i.judged_at, h.body FROM ideas i JOIN histories h ON h.idea_id = i.id "+
		"WHERE i.niche_id = ? AND i.decision = 1 AND i.weeks >= 2 AND i.judged_at >= ? AND i."+present+
		" ORDER BY coalesce(i.searches, 0) DESC, i.id LIMIT ?", niche, after.UTC(), most).Scan(&rows).Error
	for _, r := range rows {
		if body, err := unpacked(r.Body); err == nil {
			out = append(out, KeptHistory{r.ID, r.Phrase, r.JudgedAt, string(body)})
		}
	}
	return out, err
}

// KeptBefore counts the kept ideas of a niche that were looked up before a moment, and says when the first was.
func (s *Store) KeptBefore(ctx context.Context, niche uint, moment time.Time) (n int, first time.Time, err error) {
	var row struct {
		N     int
		First *time.Time
	}
	err = s.read(ctx).Model(&Idea{}).Select("count(*) AS n").Where("niche_id = ? AND decision = 1 AND judged_at < ? AND "+
		present, niche, moment.UTC()).Scan(&row).Error
	if err != nil || row.N == 0 {
		return 0, first, err
	}
	var one Idea
	err = s.read(ctx).Select("judged_at").Where("niche_id = ? AND decision = 1 AND judged_at IS NOT NULL AND "+present,
		niche).Order("judged_at").Take(&one).Error
	if err == nil && one.JudgedAt != nil {
		first = *one.JudgedAt
	}
	return row.N, first, err
}

// SaveHistory writes it with the idea's columns that follow from it.
func (s *Store) SaveHistory(ctx context.Context, idea Idea, body string) error {
	return s.writeLater(ctx, func(tx *gorm.DB) error {
		revision, err := nextRevision(tx, idea.NicheID)
		if err != nil {
			return err
		}
		if idea.Revision = revision; body != "" {
			if err := saveHistory(tx, idea.ID, body); err != nil {
				return err
			}
		}
		return tx.Model(&Idea{}).Where("id = ?", idea.ID).Select(columns(byWeeks)).Updates(idea).Error
	})
}

func saveHistory(tx *gorm.DB, idea uint, text string) error {
	body, err := packed([]byte(text))
	if err != nil {
		return err
	}
	return tx.Clauses(clause.OnConflict{UpdateAll: true}).Create(&History{idea, body}).Error
}

// Forget takes kept answers out that are held elsewhere by now.
func (s *Store) Forget(ctx context.Context, kind string, keys []string) error {
	return s.writeLater(ctx, func(tx *gorm.DB) error {
		return tx.Where("kind = ? AND key IN ?", kind, keys).Delete(&Answer{}).Error
	})
}

// FoundPages are the addresses of the top tens of ideas, in their order.
func (s *Store) FoundPages(ctx context.Context, ideas []uint) (map[uint][]string, error) {
	out := make(map[uint][]string, len(ideas))
	for part := range slices.Chunk(ideas, lookup) {
		var rows []Found
		if err := s.read(ctx).Select("idea_id, pages").Where("idea_id IN ?", part).Find(&rows).Error; err != nil {
			return nil, err
		}
		for _, row := range rows {
			if row.Pages != "" {
				out[row.IdeaID] = strings.Split(row.Pages, "\n")
			}
		}
	}
	return out, nil
}

// Ten is who stands for an idea's phrase, and what is known of them.
type Ten struct {
	IdeaID uint
	Pages  []string // of the first page, in their order
	Front  []byte   // as JSON
}

// Tens are those of the present ideas of a niche that were looked up.
func (s *Store) Tens(ctx context.Context, niche uint) (out []Ten, err error) {
	rows, err := s.read(ctx).Raw("SELECT i.id, d.pages, f.body FROM ideas i JOIN founds d ON d.idea_id = i.id "+
		"JOIN fronts f ON f.idea_id = i.id WHERE i.niche_id = ? AND i.judged_at IS NOT NULL AND i."+present+
		" ORDER BY i.id", niche).Rows()
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	for rows.Next() {
		var t Ten
		var pages string
		if err := rows.Scan(&t.IdeaID, &pages, &t.Front); err != nil {
			return nil, err
		}
		if pages != "" {
			t.Pages = strings.Split(pages, "\n")
		}
		out = append(out, t)
	}
	return out, rows.Err()
}
