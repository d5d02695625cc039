package store

import (
	"context"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// CreateJob inserts a job with its items, held by its owner until the lease ends.
func (s *Store) CreateJob(ctx context.Context, j *Job, payloads []string) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		if err := tx.Create(j).Error; err != nil {
			return err
		}
		return addItems(tx, j.ID, payloads)
	})
}

// AddItems appends items to a job.
func (s *Store) AddItems(ctx context.Context, job uint, payloads []string) error {
	return s.write(ctx, func(tx *gorm.DB) error { return addItems(tx, job, payloads) })
}

func addItems(tx *gorm.DB, job uint, payloads []string) error {
	if len(payloads) == 0 {
		return nil
	}
	var last int
	if err := tx.Raw("SELECT coalesce(max(seq), 0) FROM job_items WHERE job_id = ?", job).Scan(&last).Error; err != nil {
		return err
	}
	items := make([]JobItem, len(payloads))
	for i, p := range payloads {
		items[i] = JobItem{JobID: job, Seq: last + i + 1, Payload: p}
	}
	return tx.CreateInBatches(&items, batch).Error
}

// Job returns one job, or ErrNotFound.
func (s *Store) Job(ctx context.Context, id uint) (Job, error) {
	return first[Job](s.read(ctx).Where("id = ?", id))
}

// Jobs lists a niche's latest jobs, newest first.
func (s *Store) Jobs(ctx context.Context, niche uint, most int) ([]Job, error) {
	var out []Job
	return out, s.read(ctx).Where("niche_id = ?", niche).Order("id DESC").Limit(most).Find(&out).Error
}

// Progress counts a job's items.
type Progress struct{ Total, Done, Failed int }

// Progress returns how far a job is.
func (s *Store) Progress(ctx context.Context, job uint) (p Progress, err error) {
	err = s.read(ctx).Raw(`SELECT count(*) total, count(*) FILTER (WHERE state = 'done') done,
		count(*) FILTER (WHERE state = 'failed') failed FROM job_items WHERE job_id = ?`, job).Scan(&p).Error
	return p, err
}

// OpenItems returns the items that are still to be done, in order.
func (s *Store) OpenItems(ctx context.Context, job uint) ([]JobItem, error) {
	var out []JobItem
	return out, s.read(ctx).Where("job_id = ? AND state = ''", job).Order("seq").Find(&out).Error
}

// FailedItems returns the items that failed, with their reasons.
func (s *Store) FailedItems(ctx context.Context, job uint, most int) ([]JobItem, error) {
	var out []JobItem
	return out, s.read(ctx).Where("job_id = ? AND state = 'failed'", job).Order("seq").Limit(most).Find(&out).Error
}

// FinishItem notes that an item is done, or failed for a reason, and what it
// brought and cost, together.
func (s *Store) FinishItem(ctx context.Context, item JobItem, found, lookups int, costMicros int64) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		if err := tx.Model(&JobItem{}).Where("id = ?", item.ID).Select("State", "Error").Updates(item).Error; err != nil {
			return err
		}
		return tx.Exec("UPDATE jobs SET found = found + ?, lookups = lookups + ?, cost_micros = cost_micros + ? WHERE id = ?",
			found, lookups, costMicros, item.JobID).Error
	})
}

// AddCost notes lookups that no finished item accounts for.
func (s *Store) AddCost(ctx context.Context, job uint, lookups int, costMicros int64) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		return tx.Exec("UPDATE jobs SET lookups = lookups + ?, cost_micros = cost_micros + ? WHERE id = ?", lookups,
			costMicros, job).Error
	})
}

// RetryFailed opens a job's failed items again.
func (s *Store) RetryFailed(ctx context.Context, job uint) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		return tx.Model(&JobItem{}).Where("job_id = ? AND state = 'failed'",
			job).Updates(map[string]any{"state": "", "error": ""}).Error
	})
}

// SetJob changes a job's state and message.
func (s *Store) SetJob(ctx context.Context, id uint, state, message string) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		values := map[string]any{"state": state, "message": message, "finished_at": nil}
		if state != Running {
			values["finished_at"] = s.now()
		}
		return tx.Model(&Job{}).Where("id = ?", id).Updates(values).Error
	})
}

// Claim takes a job for an owner until the lease ends: one that nobody holds, or
// whose holder's lease has ended. It reports whether it was got.
func (s *Store) Claim(ctx context.Context, job uint, owner string, lease time.Duration) (bool, error) {
	var got bool
	err := s.write(ctx, func(tx *gorm.DB) error {
		now := s.now()
		r := tx.Model(&Job{}).Where("id = ? AND (owner = ? OR owner = '' OR lease_until < ?)", job, owner, now).
			Updates(map[string]any{"owner": owner, "lease_until": now.Add(lease)})
		got = r.RowsAffected > 0
		return r.Error
	})
	return got, err
}

// Release gives a job back.
func (s *Store) Release(ctx context.Context, job uint, owner string) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		return tx.Model(&Job{}).Where("id = ? AND owner = ?", job, owner).Update("owner", "").Error
	})
}

// Abandoned lists running jobs that nobody works on.
func (s *Store) Abandoned(ctx context.Context) ([]Job, error) {
	var out []Job
	return out, s.read(ctx).Where("state = ? AND (owner = '' OR lease_until < ?)", Running,
		s.now()).Order("id").Find(&out).Error
}

// Token keeps, reads and drops short-lived secrets of the web interface, so that
// an open page outlives a restart.
type Token struct {
	Key       string `gorm:"primaryKey"`
	Value     []byte
	ExpiresAt *time.Time
}

// SetToken keeps a token; zero life means for ever.
func (s *Store) SetToken(ctx context.Context, key string, value []byte, life time.Duration) error {
	t := Token{Key: key, Value: value}
	if life > 0 {
		end := s.now().Add(life)
		t.ExpiresAt = &end
	}
	return s.write(ctx, func(tx *gorm.DB) error {
		if err := tx.Where("expires_at < ?", s.now()).Delete(&Token{}).Error; err != nil {
			return err
		}
		return tx.Clauses(clause.OnConflict{UpdateAll: true}).Create(&t).Error
	})
}

// Token returns a live token's value, or nil.
func (s *Store) Token(ctx context.Context, key string) ([]byte, error) {
	t, err := first[Token](s.read(ctx).Where("key = ? AND (expires_at IS NULL OR expires_at > ?)", key, s.now()))
	if err == ErrNotFound {
		return nil, nil
	}
	return t.Value, err
}

// DropToken removes a token; with "", all.
func (s *Store) DropToken(ctx context.Context, key string) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		q := tx.Where("key = ?", key)
		if key == "" {
			q = tx.Where("1 = 1")
		}
		return q.Delete(&Token{}).Error
	})
}
