package jobs

import (
	"context"
	"errors"
	"time"

	"cleverniche/store"
	"cleverniche/study/input"
	"cleverniche/study/money"
)

// Job is a piece of long work with its progress.
type Job struct {
	ID, NicheID         uint
	Kind, Title         string
	State               string // Running and so on
	Message             string
	Brings              string // what Found counts
	Found, Lookups      int
	Cost                string
	CostMicros          int64
	Doubts              int    // calls of it that nobody knows the end of
	DoubtCost           string // what they cost, if they were paid
	Total, Done, Failed int
	Failures            []Failure
	Left                time.Duration // expected; 0 when not known
	Ended               time.Time     // zero while it has not
}

// Failure is a step of a job that could not be done, and why.
type Failure struct {
	Step  int
	Error string
}

// States of a job.
const (
	Running   = store.Running
	Stopped   = store.Stopped   // by a source that does not answer; can go on
	Paused    = store.Paused    // by the user; can go on
	Cancelled = store.Cancelled // by the user, for good
	Done      = store.Done
)

// Runs reports whether the job is being worked on.
func (j Job) Runs() bool { return j.State == Running }

// CanResume reports whether the job waits to be taken up again.
func (j Job) CanResume() bool { return j.State == Stopped || j.State == Paused }

// Lacks reports whether the job is done but for steps that failed, which can be tried again.
func (j Job) Lacks() bool { return j.State == Done && j.Failed > 0 }

// Get returns one job of a niche with its progress.
func (r *Runner) Get(ctx context.Context, niche, id uint) (Job, error) {
	j, err := r.jobOf(ctx, niche, id)
	if err != nil {
		return Job{}, err
	}
	return r.View(ctx, j)
}

func (r *Runner) jobOf(ctx context.Context, niche, id uint) (store.Job, error) {
	j, err := r.store.Job(ctx, id)
	if err == nil && j.NicheID != niche {
		err = input.ErrNotFound
	}
	return j, err
}

// List lists a niche's latest jobs, newest first.
func (r *Runner) List(ctx context.Context, niche uint, most int) ([]Job, error) {
	jobs, err := r.store.Jobs(ctx, niche, most)
	if err != nil {
		return nil, err
	}
	out := make([]Job, len(jobs))
	for i, j := range jobs {
		if out[i], err = r.View(ctx, j); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// Open lists those of a niche's latest jobs that are not finished, newest first.
func (r *Runner) Open(ctx context.Context, niche uint, most int) (out []Job, err error) {
	latest, err := r.store.Jobs(ctx, niche, most)
	for _, j := range latest {
		if err == nil && j.State != Done && j.State != Cancelled {
			var v Job
			v, err = r.View(ctx, j)
			out = append(out, v)
		}
	}
	return out, err
}

// shownFailures is how many failures a job tells of.
const shownFailures = 20

// View is a job with its progress.
func (r *Runner) View(ctx context.Context, j store.Job) (v Job, err error) {
	v = Job{ID: j.ID, NicheID: j.NicheID, Kind: j.Kind, Title: j.Title, State: j.State, Message: j.Message,
		Found: j.Found, Lookups: j.Lookups}
	spent, err := r.store.JobSpent(ctx, j.ID)
	if err != nil {
		return v, err
	}
	v.CostMicros = j.CostMicros + spent.Micros
	v.Cost = money.Text(v.CostMicros, r.currency)
	v.Doubts, v.DoubtCost = spent.Doubts, money.Text(spent.DoubtMicros, r.currency)
	if k, err := r.kindOf(j.Kind); err == nil {
		v.Brings = k.Brings
	}
	if j.FinishedAt != nil {
		v.Ended = *j.FinishedAt
	}
	p, err := r.store.Progress(ctx, j.ID)
	if err != nil {
		return v, err
	}
	v.Total, v.Done, v.Failed = p.Total, p.Done, p.Failed
	if v.Failed > 0 {
		failed, err := r.store.FailedItems(ctx, j.ID, shownFailures)
		if err != nil {
			return v, err
		}
		for _, item := range failed {
			v.Failures = append(v.Failures, Failure{item.Seq, item.Error})
		}
	}
	if tried := v.Done + v.Failed; v.Runs() && tried > 0 {
		v.Left = r.store.Now().Sub(j.CreatedAt) / time.Duration(tried) * time.Duration(v.Total-tried)
	}
	return v, nil
}

// Pause stops a job so that it can go on; CancelJob for good. What was fetched
// is kept either way.
func (r *Runner) Pause(ctx context.Context, niche, id uint) error {
	return r.End(ctx, niche, id, store.Paused, "Paused. Fetched data is saved.")
}

// Cancel ends a job for good.
func (r *Runner) Cancel(ctx context.Context, niche, id uint) error {
	j, err := r.jobOf(ctx, niche, id)
	if err != nil {
		return err
	}
	k, err := r.kindOf(j.Kind)
	if err != nil || k.Cancelled == nil {
		return r.End(ctx, niche, id, store.Cancelled, "Cancelled. Fetched data is saved.")
	}
	if j.State == store.Done || j.State == store.Cancelled {
		return nil
	}
	if err := r.End(ctx, niche, id, store.Cancelled, "Cancelled. What it brought was taken back."); err != nil {
		return err
	}
	n, err := r.niches.Get(ctx, niche)
	if err != nil {
		return err
	}
	return k.Cancelled(ctx, n, j.Params)
}

// CancelAll ends the jobs of a niche that are not done, for good.
func (r *Runner) CancelAll(ctx context.Context, niche uint) error {
	held, err := r.store.Held(ctx)
	if err != nil {
		return err
	}
	for _, j := range held {
		if j.NicheID == niche {
			err = errors.Join(err, r.Cancel(ctx, niche, j.ID))
		}
	}
	return err
}

// End ends a job in a state, for a reason.
func (r *Runner) End(ctx context.Context, niche, id uint, state, reason string) error {
	j, err := r.jobOf(ctx, niche, id)
	if err != nil {
		return err
	}
	if j.State == store.Done || j.State == store.Cancelled {
		return nil
	}
	if err := r.store.SetJob(ctx, id, state, reason); err != nil { // whoever works on it reads that
		return err
	}
	r.mu.Lock()
	l := r.live[id]
	r.mu.Unlock()
	if l == nil {
		return nil
	}
	l.end(state, reason)
	select {
	case <-l.done:
		return nil
	case <-ctx.Done():
		return ctx.Err()
	}
}

// Resume takes up a paused or stopped job where it was left; items that failed are
// tried again.
func (r *Runner) Resume(ctx context.Context, niche, id uint) error {
	row, err := r.jobOf(ctx, niche, id)
	if err != nil {
		return err
	}
	if row.State == Cancelled {
		return input.Bad("job", "“%s” was cancelled. Start it again.", row.Title)
	}
	p, err := r.store.Progress(ctx, id)
	if err != nil || row.State == Running || row.State == Done && p.Failed == 0 {
		return err
	}
	k, err := r.kindOf(row.Kind)
	if err != nil {
		return err
	}
	if err := r.store.Retry(ctx, id, k.Waits); err != nil {
		return err
	}
	if err := r.store.SetJob(ctx, id, Running, ""); err != nil {
		return err
	}
	// One that its last holder has not given back yet, or never will, is taken up by Watch.
	row.Owner = ""
	if got, err := r.store.Claim(ctx, row, r.owner); err != nil || !got {
		return err
	}
	r.launch(row)
	return nil
}

// Wait waits until a job is no longer worked on, here or by another program, or the
// study is closed. It goes on with one whose holder has fallen silent.
func (r *Runner) Wait(ctx context.Context, id uint) error {
	for {
		r.mu.Lock()
		l := r.live[id]
		r.mu.Unlock()
		if l != nil {
			select {
			case <-l.done:
			case <-ctx.Done():
				return ctx.Err()
			}
		}
		job, err := r.store.Job(ctx, id)
		if err != nil || job.State != Running || r.ctx.Err() != nil {
			return err
		}
		if r.silent(job) {
			got, err := r.store.Claim(ctx, job, r.owner)
			if err != nil {
				return err
			}
			if got {
				r.launch(job)
				continue
			}
		}
		select {
		case <-time.After(glance):
		case <-ctx.Done():
			return ctx.Err()
		}
	}
}
