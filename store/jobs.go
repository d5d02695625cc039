package store

import (
	"context"
	"errors"
	"slices"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// CreateJob inserts a job with its items, held by its owner.
func (s *Store) CreateJob(ctx context.Context, j *Job, payloads []string) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		if err := tx.Create(j).Error; err != nil {
			return err
		}
		return addItems(tx, j.ID, payloads)
	})
}

// AddItems adds items to a job that runs, behind its last one, and the seeds that they are of. Where the last one is
// another by now, they were added before.
func (s *Store) AddItems(ctx context.Context, job uint, behind string, payloads []string, seeds []Seed) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		last, err := first[JobItem](tx.Where("job_id = ?", job).Order("seq DESC"))
		if err != nil || last.Payload != behind {
			return err
		}
		if err := addSeeds(tx, seeds); err != nil {
			return err
		}
		return addItems(tx, job, payloads)
	})
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

// JobCount is how many jobs of a kind are in a state.
type JobCount struct {
	Kind, State string
	Jobs        int
}

// CountJobs counts all jobs.
func (s *Store) CountJobs(ctx context.Context) (out []JobCount, err error) {
	err = s.read(ctx).Raw("SELECT kind, state, count(*) jobs FROM jobs GROUP BY kind, state").Scan(&out).Error
	return out, err
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
// brought and asked, together.
func (s *Store) FinishItem(ctx context.Context, item JobItem, found, lookups int) error {
	return s.writeLater(ctx, func(tx *gorm.DB) error {
		if err := tx.Model(&JobItem{}).Where("id = ?", item.ID).Select("State", "Error").Updates(item).Error; err != nil {
			return err
		}
		return addLookups(tx, item.JobID, found, lookups)
	})
}

// BeginItem notes that an item is begun; a program that ends in the middle of it has not said otherwise.
func (s *Store) BeginItem(ctx context.Context, item JobItem) error {
	return s.countBegun(ctx, item.ID, +1)
}

// LeaveItem takes that back for an item that was left in good order, to be done again.
func (s *Store) LeaveItem(ctx context.Context, item JobItem) error {
	return s.countBegun(ctx, item.ID, -1)
}

func (s *Store) countBegun(ctx context.Context, item uint, by int) error {
	return s.writeLater(ctx, func(tx *gorm.DB) error {
		return tx.Model(&JobItem{}).Where("id = ?", item).Update("begun", gorm.Expr("max(0, begun + ?)", by)).Error
	})
}

// AddLookups notes lookups that no finished item accounts for.
func (s *Store) AddLookups(ctx context.Context, job uint, lookups int) error {
	return s.writeLater(ctx, func(tx *gorm.DB) error { return addLookups(tx, job, 0, lookups) })
}

func addLookups(tx *gorm.DB, job uint, found, lookups int) error {
	return tx.Exec("UPDATE jobs SET found = found + ?, lookups = lookups + ? WHERE id = ?", found, lookups, job).Error
}

// Retry opens a job's failed items again, and those behind the first of them that need all
// before them to be done. It is the user's word, too, that questions of the job in doubt may
// be asked again.
func (s *Store) Retry(ctx context.Context, job uint, waits func(payload string) bool) error {
	return s.write(ctx, func(tx *gorm.DB) error {
		var items []JobItem
		if err := tx.Where("job_id = ?", job).Order("seq").Find(&items).Error; err != nil {
			return err
		}
		var again []uint
		for _, i := range items {
			if i.State == "failed" || i.State == "done" && len(again) > 0 && waits != nil && waits(i.Payload) {
				again = append(again, i.ID)
			}
		}
		for part := range slices.Chunk(again, lookup) {
			err := tx.Model(&JobItem{}).Where("id IN ?", part).Updates(map[string]any{"state": "", "error": "",
				"begun": 0}).Error
			if err != nil {
				return err
			}
		}
		return acceptDoubts(tx, job, s.now())
	})
}

// SetJob changes a job's state and message.
func (s *Store) SetJob(ctx context.Context, id uint, state, message string) error {
	_, err := s.moveJob(ctx, state, message, "id = ?", id)
	return err
}

// EndJob does it for a job that still runs: one that somebody ended meanwhile stays as it is.
func (s *Store) EndJob(ctx context.Context, id uint, state, message string) error {
	_, err := s.moveJob(ctx, state, message, "id = ? AND state = ?", id, Running)
	return err
}

func (s *Store) moveJob(ctx context.Context, state, message, where string, args ...any) (moved bool, err error) {
	values := map[string]any{"state": state, "message": message, "finished_at": nil}
	if state != Running {
		values["finished_at"] = s.now()
	}
	err = s.write(ctx, func(tx *gorm.DB) error {
		r := tx.Model(&Job{}).Where(where, args...).Updates(values)
		moved = r.RowsAffected > 0
		return r.Error
	})
	return moved, err
}

// Heartbeat shows that a job's owner still works on it, and returns the job. One that somebody else
// has taken over is ErrNotFound.
func (s *Store) Heartbeat(ctx context.Context, job uint, owner string) (out Job, err error) {
	err = s.writeLater(ctx, func(tx *gorm.DB) error {
		r := tx.Model(&Job{}).Where("id = ? AND owner = ?", job, owner).Update("beat", gorm.Expr("beat + 1"))
		if r.Error == nil && r.RowsAffected == 0 {
			return ErrNotFound
		}
		if r.Error != nil {
			return r.Error
		}
		out, err = first[Job](tx.Where("id = ?", job))
		return err
	})
	return out, err
}

// Claim takes a job for an owner: one that nobody holds, or whose holder has not shown since the
// job was as it was seen. It reports whether it was got. No clock is asked: whoever claims has
// waited.
func (s *Store) Claim(ctx context.Context, seen Job, owner string) (got bool, err error) {
	err = s.write(ctx, func(tx *gorm.DB) error {
		r := tx.Model(&Job{}).Where("id = ? AND (owner IN ? OR owner = ? AND beat = ?)", seen.ID, []string{owner, ""},
			seen.Owner, seen.Heartbeat).Updates(map[string]any{"owner": owner, "beat": gorm.Expr("beat + 1")})
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

// Held lists the jobs that run, or that somebody holds though they do not.
func (s *Store) Held(ctx context.Context) ([]Job, error) {
	var out []Job
	return out, s.read(ctx).Where("state = ? OR owner <> ''", Running).Order("id").Find(&out).Error
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

// DropToken takes a token away.
func (s *Store) DropToken(ctx context.Context, key string) error {
	return s.write(ctx, func(tx *gorm.DB) error { return tx.Where("key = ?", key).Delete(&Token{}).Error })
}

// Token returns a live token's value, or nil.
func (s *Store) Token(ctx context.Context, key string) ([]byte, error) {
	t, err := first[Token](s.read(ctx).Where("key = ? AND (expires_at IS NULL OR expires_at > ?)", key, s.now()))
	if errors.Is(err, ErrNotFound) {
		return nil, nil
	}
	return t.Value, err
}
