package study

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"sync"
	"time"

	"cleverniche/store"

	"golang.org/x/sync/errgroup"
)

// How many items of a job are worked on at once.
const (
	gatherWorkers = 4
	judgeWorkers  = 6
)

// A job is held by whoever works on it, and shows that it does, so that two programs on one data
// file never do the same work, and work of a killed one is taken up again: by one that has not
// seen it show for so long. No program asks the clock of the wall.
const (
	lease   = 3 * time.Second
	renewal = time.Second
	glance  = 200 * time.Millisecond // between two looks at what another program says of a job
)

// Runner does long work in the background: persisted, resumable, cancellable,
// with bounded concurrency.
type Runner struct {
	study *Study
	owner string
	ctx   context.Context
	stop  context.CancelFunc
	wg    sync.WaitGroup
	mu    sync.Mutex
	live  map[uint]*live
	seen  map[uint]seenJob
}

// live is a job that runs here. intent is the state it is to end in.
type live struct {
	cancel context.CancelFunc
	done   chan struct{}
	mu     sync.Mutex
	intent string
	reason string
}

func (l *live) end(state, reason string) {
	l.mu.Lock()
	if l.intent == "" {
		l.intent, l.reason = state, reason
	}
	l.mu.Unlock()
	l.cancel()
}

func newRunner(s *Study) *Runner {
	ctx, stop := context.WithCancel(context.Background())
	return &Runner{study: s, owner: rand.Text(), ctx: ctx, stop: stop, live: map[uint]*live{},
		seen: map[uint]seenJob{}}
}

func (r *Runner) close() {
	r.stop()
	r.wg.Wait()
}

// kind is how the items of one kind of job are done.
type kind struct {
	name    string
	workers int
	brings  string                    // what its finds are called: "12 judged"
	waits   func(payload string) bool // the item needs all before it to be done; nil when none does
	do      func(ctx context.Context, n Niche, payload string) (found int, err error)
	ended   func(ctx context.Context, n Niche, params string) error // once all items are done; may be nil
}

// kinds are the kinds of jobs there are.
func (s *Study) kinds() []kind {
	return []kind{gatherKind(s), judgeKind(s), countKind(s), reckonKind(s)}
}

func (s *Study) kindOf(name string) (kind, error) {
	for _, k := range s.kinds() {
		if k.name == name {
			return k, nil
		}
	}
	return kind{}, fmt.Errorf("there is no kind of job named %q", name)
}

func (r *Runner) start(ctx context.Context, n Niche, kindName, title string, payloads []string) (Job, error) {
	return r.startWith(ctx, n, kindName, title, payloads, "{}")
}

// startWith starts a job with parameters of its kind's own, as JSON.
func (r *Runner) startWith(ctx context.Context, n Niche, kindName, title string, payloads []string,
	params string) (Job, error) {
	row := store.Job{NicheID: n.ID, Kind: kindName, Title: title, State: store.Running, Params: params,
		Owner: r.owner}
	if err := r.study.store.CreateJob(ctx, &row, payloads); err != nil {
		return Job{}, err
	}
	r.launch(row)
	return r.study.viewJob(ctx, row)
}

func (r *Runner) launch(job store.Job) {
	r.mu.Lock()
	defer r.mu.Unlock()
	if r.live[job.ID] != nil || r.ctx.Err() != nil {
		return
	}
	ctx, cancel := context.WithCancel(r.ctx)
	l := &live{cancel: cancel, done: make(chan struct{})}
	r.live[job.ID] = l
	r.wg.Go(func() {
		defer close(l.done)
		defer cancel()
		r.run(ctx, job, l)
		r.mu.Lock()
		delete(r.live, job.ID)
		r.mu.Unlock()
	})
}

// Watch takes up running jobs that nobody works on, now and whenever the holder
// of one falls silent, until the study is closed.
func (s *Study) Watch() {
	s.runner.wg.Go(func() {
		for {
			s.runner.adopt()
			select {
			case <-s.runner.ctx.Done():
				return
			case <-time.After(renewal):
			}
		}
	})
}

func (r *Runner) adopt() {
	jobs, err := r.study.store.Held(r.ctx)
	if err != nil {
		if r.ctx.Err() == nil {
			r.study.options.Log.Error("looking for jobs to go on with", "error", err)
		}
		return
	}
	for _, j := range jobs {
		if !r.silent(j) {
			continue
		}
		switch got, err := r.study.store.Claim(r.ctx, j, r.owner); {
		case err != nil || !got:
		case j.State != Running: // its holder was killed while it ended
			if err := r.study.store.Release(r.ctx, j.ID, r.owner); err != nil {
				r.study.options.Log.Error("releasing a job", "job", j.ID, "error", err)
			}
		default:
			r.study.options.Log.Info("going on with a job", "job", j.ID, "title", j.Title)
			r.launch(j)
		}
	}
}

// seenJob is how a job was when it was last seen to be worked on, and when that was.
type seenJob struct {
	owner string
	beat  int64
	at    time.Time // with the clock that only goes forward
}

// silent reports whether nobody works on a job: nobody holds it, or its holder has not shown for
// as long as a lease.
func (r *Runner) silent(j store.Job) bool {
	r.mu.Lock()
	defer r.mu.Unlock()
	if j.Owner == r.owner {
		return r.live[j.ID] == nil && j.State == Running
	}
	was, known := r.seen[j.ID]
	if !known || was.owner != j.Owner || was.beat != j.Beat {
		r.seen[j.ID] = seenJob{j.Owner, j.Beat, r.study.options.Forward()}
		return j.Owner == ""
	}
	return j.Owner == "" || r.study.options.Forward().Sub(was.at) >= lease
}

func (r *Runner) run(ctx context.Context, job store.Job, l *live) {
	go r.hold(ctx, job.ID, l)
	err := r.work(ctx, job, l)
	// What is noted at the end must be noted though the job's own context is over.
	bg, cancel := context.WithTimeout(context.WithoutCancel(ctx), 10*time.Second)
	defer cancel()
	l.mu.Lock()
	state, reason := l.intent, l.reason
	l.mu.Unlock()
	switch {
	case state != "":
	case r.ctx.Err() != nil: // the program ends: the job is still to be done
		state = store.Running
	case err != nil:
		state, reason = store.Stopped, err.Error()
	default:
		state, reason = r.outcome(bg, job)
	}
	if err := r.study.store.EndJob(bg, job.ID, state, reason); err != nil {
		r.study.options.Log.Error("noting a job's end", "job", job.ID, "error", err)
	}
	if err := r.study.store.Release(bg, job.ID, r.owner); err != nil {
		r.study.options.Log.Error("releasing a job", "job", job.ID, "error", err)
	}
	r.study.options.Log.Info("job ended", "job", job.ID, "title", job.Title, "state", state, "reason", reason)
}

// outcome is how a job ends whose items were all tried.
func (r *Runner) outcome(ctx context.Context, job store.Job) (state, reason string) {
	p, err := r.study.store.Progress(ctx, job.ID)
	if err == nil && p.Failed > 0 {
		return store.Done, fmt.Sprintf("done but for %d of %d", p.Failed, p.Total)
	}
	if err == nil {
		err = r.ended(ctx, job)
	}
	if err != nil {
		return store.Stopped, err.Error()
	}
	return store.Done, ""
}

// ended does what the kind of job has to do at the end.
func (r *Runner) ended(ctx context.Context, job store.Job) error {
	k, err := r.study.kindOf(job.Kind)
	if err != nil || k.ended == nil {
		return err
	}
	n, err := r.study.Niche(ctx, job.NicheID)
	if err != nil {
		return err
	}
	return k.ended(ctx, n, job.Params)
}

// hold shows that the job is worked on while it runs, and ends it when another program has
// ended it or taken it over.
func (r *Runner) hold(ctx context.Context, job uint, l *live) {
	tick := time.NewTicker(glance)
	defer tick.Stop()
	shown := r.study.options.Forward()
	for {
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
		}
		if now := r.study.options.Forward(); now.Sub(shown) >= renewal {
			if _, err := r.study.store.Beat(ctx, job, r.owner); errors.Is(err, ErrNotFound) {
				l.end(store.Running, "another program took it over")
			}
			shown = now
		}
		r.heed(ctx, job, l)
	}
}

// heed ends the work on a job that is not to be worked on any more, whoever said so.
func (r *Runner) heed(ctx context.Context, job uint, l *live) {
	if j, err := r.study.store.Job(ctx, job); err == nil && (j.State != Running || j.Owner != r.owner) {
		l.end(j.State, j.Message)
	}
}

func (r *Runner) work(ctx context.Context, job store.Job, l *live) error {
	k, err := r.study.kindOf(job.Kind)
	if err != nil {
		return err
	}
	items, err := r.study.store.OpenItems(ctx, job.ID)
	if err != nil {
		return err
	}
	var group errgroup.Group
	group.SetLimit(k.workers)
	tried := &seenIdeas{}
	for _, item := range items {
		if k.waits != nil && k.waits(item.Payload) {
			group.Wait()
		}
		if ctx.Err() != nil {
			break
		}
		group.Go(func() error {
			if r.heed(ctx, job.ID, l); ctx.Err() == nil {
				r.item(ctx, k, job.NicheID, item, l, &errand{job: job.ID, tried: tried})
			}
			return nil
		})
	}
	return group.Wait()
}

// item does one item. A failure of its own is noted with it and fails nothing
// else; one that says going on is of no use now stops the job. What the user says of the
// niche holds from the next item on.
func (r *Runner) item(ctx context.Context, k kind, niche uint, item store.JobItem, l *live, e *errand) {
	found := 0
	n, err := r.study.Niche(ctx, niche)
	if err == nil {
		found, err = k.do(withErrand(ctx, e), n, item.Payload)
	}
	lookups := int(e.lookups.Load())
	bg := context.WithoutCancel(ctx)
	if err != nil && (ctx.Err() != nil || errors.Is(err, context.Canceled) || stopsWork(err)) {
		if ctx.Err() == nil {
			l.end(store.Stopped, err.Error())
		}
		if lookups > 0 {
			if err := r.study.store.AddLookups(bg, item.JobID, lookups); err != nil {
				r.study.options.Log.Error("noting a job's lookups", "job", item.JobID, "error", err)
			}
		}
		return
	}
	item.State = "done"
	if err != nil {
		item.State, item.Error = "failed", err.Error()
	}
	if err := r.study.store.FinishItem(bg, item, found, lookups); err != nil {
		l.end(store.Stopped, err.Error())
	}
}

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

// CanGoOn reports whether the job waits to be taken up again.
func (j Job) CanGoOn() bool { return j.State == Stopped || j.State == Paused }

// Lacks reports whether the job is done but for steps that failed, which can be tried again.
func (j Job) Lacks() bool { return j.State == Done && j.Failed > 0 }

// Job returns one job of a niche with its progress.
func (s *Study) Job(ctx context.Context, niche, id uint) (Job, error) {
	j, err := s.jobOf(ctx, niche, id)
	if err != nil {
		return Job{}, err
	}
	return s.viewJob(ctx, j)
}

func (s *Study) jobOf(ctx context.Context, niche, id uint) (store.Job, error) {
	j, err := s.store.Job(ctx, id)
	if err == nil && j.NicheID != niche {
		err = ErrNotFound
	}
	return j, err
}

// Jobs lists a niche's latest jobs, newest first.
func (s *Study) Jobs(ctx context.Context, niche uint, most int) ([]Job, error) {
	jobs, err := s.store.Jobs(ctx, niche, most)
	if err != nil {
		return nil, err
	}
	out := make([]Job, len(jobs))
	for i, j := range jobs {
		if out[i], err = s.viewJob(ctx, j); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// shownFailures is how many failures a job tells of.
const shownFailures = 20

func (s *Study) viewJob(ctx context.Context, j store.Job) (v Job, err error) {
	v = Job{ID: j.ID, NicheID: j.NicheID, Kind: j.Kind, Title: j.Title, State: j.State, Message: j.Message,
		Found: j.Found, Lookups: j.Lookups}
	spent, err := s.store.JobSpent(ctx, j.ID)
	if err != nil {
		return v, err
	}
	v.CostMicros = j.CostMicros + spent.Micros
	v.Cost = Money(v.CostMicros, s.options.Currency)
	v.Doubts, v.DoubtCost = spent.Doubts, Money(spent.DoubtMicros, s.options.Currency)
	if k, err := s.kindOf(j.Kind); err == nil {
		v.Brings = k.brings
	}
	if j.FinishedAt != nil {
		v.Ended = *j.FinishedAt
	}
	p, err := s.store.Progress(ctx, j.ID)
	if err != nil {
		return v, err
	}
	v.Total, v.Done, v.Failed = p.Total, p.Done, p.Failed
	if v.Failed > 0 {
		failed, err := s.store.FailedItems(ctx, j.ID, shownFailures)
		if err != nil {
			return v, err
		}
		for _, item := range failed {
			v.Failures = append(v.Failures, Failure{item.Seq, item.Error})
		}
	}
	if tried := v.Done + v.Failed; v.Runs() && tried > 0 {
		v.Left = s.options.Now().Sub(j.CreatedAt) / time.Duration(tried) * time.Duration(v.Total-tried)
	}
	return v, nil
}

// PauseJob stops a job so that it can go on; CancelJob for good. What was fetched
// is kept either way.
func (s *Study) PauseJob(ctx context.Context, niche, id uint) error {
	return s.endJob(ctx, niche, id, store.Paused, "paused; what was fetched is kept")
}

// CancelJob ends a job for good.
func (s *Study) CancelJob(ctx context.Context, niche, id uint) error {
	return s.endJob(ctx, niche, id, store.Cancelled, "cancelled; what was fetched is kept")
}

func (s *Study) endJob(ctx context.Context, niche, id uint, state, reason string) error {
	j, err := s.jobOf(ctx, niche, id)
	if err != nil {
		return err
	}
	if j.State == store.Done || j.State == store.Cancelled {
		return nil
	}
	if err := s.store.SetJob(ctx, id, state, reason); err != nil { // whoever works on it reads that
		return err
	}
	s.runner.mu.Lock()
	l := s.runner.live[id]
	s.runner.mu.Unlock()
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

// GoOn takes up a paused or stopped job where it was left; items that failed are
// tried again.
func (s *Study) GoOn(ctx context.Context, niche, id uint) error {
	row, err := s.jobOf(ctx, niche, id)
	if err != nil {
		return err
	}
	p, err := s.store.Progress(ctx, id)
	if err != nil || row.State == Cancelled || row.State == Running || row.State == Done && p.Failed == 0 {
		return err
	}
	k, err := s.kindOf(row.Kind)
	if err != nil {
		return err
	}
	if err := s.store.Retry(ctx, id, k.waits); err != nil {
		return err
	}
	if err := s.store.SetJob(ctx, id, Running, ""); err != nil {
		return err
	}
	// One that its last holder has not given back yet, or never will, is taken up by Watch.
	row.Owner = ""
	if got, err := s.store.Claim(ctx, row, s.runner.owner); err != nil || !got {
		return err
	}
	s.runner.launch(row)
	return nil
}

// WaitJob waits until a job is no longer worked on, here or by another program, or the
// study is closed. It goes on with one whose holder has fallen silent.
func (s *Study) WaitJob(ctx context.Context, id uint) error {
	for {
		s.runner.mu.Lock()
		l := s.runner.live[id]
		s.runner.mu.Unlock()
		if l != nil {
			select {
			case <-l.done:
			case <-ctx.Done():
				return ctx.Err()
			}
		}
		job, err := s.store.Job(ctx, id)
		if err != nil || job.State != Running || s.runner.ctx.Err() != nil {
			return err
		}
		if s.runner.silent(job) {
			got, err := s.store.Claim(ctx, job, s.runner.owner)
			if err != nil {
				return err
			}
			if got {
				s.runner.launch(job)
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
