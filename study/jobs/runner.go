// Package jobs does long work in the background: persisted, resumable, cancellable, with bounded concurrency.
package jobs

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"log/slog"
	"runtime/debug"
	"slices"
	"sync"
	"sync/atomic"
	"time"

	"cleverniche/store"
	"cleverniche/study/ask"
	"cleverniche/study/input"
	"cleverniche/study/niches"

	"golang.org/x/sync/errgroup"
)

// A job is held by whoever works on it, and shows that it does, so that two programs on one data
// file never do the same work, and work of a killed one is taken up again: by one that has not
// seen it show for so long. No program asks the clock of the wall.
const (
	lease   = 3 * time.Second
	renewal = time.Second
	glance  = 200 * time.Millisecond // between two looks at what another program says of a job
)

// Store is what is asked of the data file.
type Store interface {
	AddLookups(ctx context.Context, job uint, lookups int) error
	BeginItem(ctx context.Context, item store.JobItem) error
	Heartbeat(ctx context.Context, job uint, owner string) (out store.Job, err error)
	Claim(ctx context.Context, seen store.Job, owner string) (got bool, err error)
	CreateJob(ctx context.Context, j *store.Job, payloads []string) error
	EndJob(ctx context.Context, id uint, state, message string) error
	FailedItems(ctx context.Context, job uint, most int) ([]store.JobItem, error)
	FinishItem(ctx context.Context, item store.JobItem, found, lookups int) error
	Held(ctx context.Context) ([]store.Job, error)
	Job(ctx context.Context, id uint) (store.Job, error)
	JobSpent(ctx context.Context, job uint) (store.Spent, error)
	Jobs(ctx context.Context, niche uint, most int) ([]store.Job, error)
	LeaveItem(ctx context.Context, item store.JobItem) error
	Now() time.Time
	OpenItems(ctx context.Context, job uint) ([]store.JobItem, error)
	Progress(ctx context.Context, job uint) (p store.Progress, err error)
	Release(ctx context.Context, job uint, owner string) error
	Retry(ctx context.Context, job uint, waits func(payload string) bool) error
	SetJob(ctx context.Context, id uint, state, message string) error
}

// Runner does the jobs of a data file.
type Runner struct {
	store    Store
	niches   *niches.Keeper
	currency string
	log      *slog.Logger
	forward  func() time.Time
	owner    string
	ctx      context.Context
	stop     context.CancelFunc
	wg       sync.WaitGroup
	kinds    []Kind
	mu       sync.Mutex
	live     map[uint]*live
	seen     map[uint]seenJob
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

// Options are the settings of a runner.
type Options struct {
	Currency string // of costs
	Log      *slog.Logger
	Forward  func() time.Time // a clock that is never set back
}

// New returns the runner of a data file's jobs. It does the kinds that are added to it.
func New(st Store, n *niches.Keeper, o Options) *Runner {
	ctx, stop := context.WithCancel(context.Background())
	return &Runner{store: st, niches: n, currency: o.Currency, log: o.Log, forward: o.Forward, owner: rand.Text(),
		ctx: ctx, stop: stop, live: map[uint]*live{}, seen: map[uint]seenJob{}}
}

// Add tells the runner how kinds of jobs are done, before it begins.
func (r *Runner) Add(kinds ...Kind) { r.kinds = append(r.kinds, kinds...) }

// Close ends the work on jobs, which go on when the program is started again, and waits for what Go began.
func (r *Runner) Close() {
	r.stop()
	r.wg.Wait()
}

// Go does something in the background until the runner is closed.
func (r *Runner) Go(do func(ctx context.Context)) { r.wg.Go(func() { do(r.ctx) }) }

func (r *Runner) kindOf(name string) (Kind, error) {
	for _, k := range r.kinds {
		if k.Name == name {
			return k, nil
		}
	}
	return Kind{}, fmt.Errorf("there is no kind of job named %q", name)
}

// Start starts a job of a kind.
func (r *Runner) Start(ctx context.Context, n niches.Niche, kindName, title string, payloads []string) (Job, error) {
	return r.StartWith(ctx, n, kindName, title, payloads, "{}")
}

// Params are what a job was started with.
func (r *Runner) Params(ctx context.Context, job uint) (string, error) {
	j, err := r.store.Job(ctx, job)
	return j.Params, err
}

// StartWith starts a job with parameters of its kind's own, as JSON.
func (r *Runner) StartWith(ctx context.Context, n niches.Niche, kindName, title string, payloads []string,
	params string) (Job, error) {
	row := store.Job{NicheID: n.ID, Kind: kindName, Title: title, State: store.Running, Params: params,
		Owner: r.owner}
	if err := r.store.CreateJob(ctx, &row, payloads); err != nil {
		return Job{}, err
	}
	r.launch(row)
	return r.View(ctx, row)
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
func (r *Runner) Watch() {
	r.wg.Go(func() {
		for {
			r.adopt()
			select {
			case <-r.ctx.Done():
				return
			case <-time.After(renewal):
			}
		}
	})
}

func (r *Runner) adopt() {
	jobs, err := r.store.Held(r.ctx)
	if err != nil {
		if r.ctx.Err() == nil {
			r.log.Error("looking for jobs to go on with", "error", err)
		}
		return
	}
	for _, j := range jobs {
		if !r.silent(j) {
			continue
		}
		switch got, err := r.store.Claim(r.ctx, j, r.owner); {
		case err != nil || !got:
		case j.State != Running: // its holder was killed while it ended
			if err := r.store.Release(r.ctx, j.ID, r.owner); err != nil {
				r.log.Error("releasing a job", "job", j.ID, "error", err)
			}
		default:
			r.log.Info("going on with a job", "job", j.ID, "kind", j.Kind)
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
	if !known || was.owner != j.Owner || was.beat != j.Heartbeat {
		r.seen[j.ID] = seenJob{j.Owner, j.Heartbeat, r.forward()}
		return j.Owner == ""
	}
	return j.Owner == "" || r.forward().Sub(was.at) >= lease
}

func (r *Runner) run(ctx context.Context, job store.Job, l *live) {
	ctx = store.As(ctx, job.Person)
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
	if says := r.after(context.WithoutCancel(ctx), job); state == store.Done && reason == "" {
		reason = says
	}
	if err := r.store.EndJob(bg, job.ID, state, reason); err != nil {
		r.log.Error("noting a job's end", "job", job.ID, "error", err)
	}
	if err := r.store.Release(bg, job.ID, r.owner); err != nil {
		r.log.Error("releasing a job", "job", job.ID, "error", err)
	}
	r.log.Info("job ended", "job", job.ID, "kind", job.Kind, "state", state, "reason", reason)
}

// outcome is how a job ends whose items were all tried.
func (r *Runner) outcome(ctx context.Context, job store.Job) (state, reason string) {
	p, err := r.store.Progress(ctx, job.ID)
	if err == nil && p.Failed > 0 {
		return store.Done, fmt.Sprintf("%d of %d failed", p.Failed, p.Total)
	}
	if err == nil {
		err = r.ended(ctx, job)
	}
	if err != nil {
		return store.Stopped, err.Error()
	}
	return store.Done, ""
}

// after does what the kind of job has to do when work on one ends, unless the program ends. It returns what it says.
func (r *Runner) after(ctx context.Context, job store.Job) (says string) {
	k, err := r.kindOf(job.Kind)
	if err != nil || k.After == nil || r.ctx.Err() != nil {
		return ""
	}
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	defer context.AfterFunc(r.ctx, cancel)()
	_, err = r.try(ctx, Kind{Name: k.Name, Do: func(ctx context.Context, n niches.Niche, _ string) (int, error) {
		says, err = k.After(ctx, n)
		return 0, err
	}}, job.NicheID, job.Params, &ask.Request{Job: job.ID})
	if err != nil && !errors.Is(err, context.Canceled) {
		r.log.Error("after a job", "job", job.ID, "kind", job.Kind, "error", err)
	}
	return says
}

// ended does what the kind of job has to do at the end.
func (r *Runner) ended(ctx context.Context, job store.Job) error {
	k, err := r.kindOf(job.Kind)
	if err != nil || k.Ended == nil {
		return err
	}
	_, err = r.try(ctx, Kind{Name: k.Name, Do: func(ctx context.Context, n niches.Niche, params string) (int, error) {
		return 0, k.Ended(ctx, n, params)
	}}, job.NicheID, job.Params, &ask.Request{Job: job.ID})
	return err
}

// hold shows that the job is worked on while it runs, and ends it when another program has
// ended it or taken it over.
func (r *Runner) hold(ctx context.Context, job uint, l *live) {
	tick := time.NewTicker(glance)
	defer tick.Stop()
	shown := r.forward()
	for {
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
		}
		if now := r.forward(); now.Sub(shown) >= renewal {
			if _, err := r.store.Heartbeat(ctx, job, r.owner); errors.Is(err, input.ErrNotFound) {
				l.end(store.Running, "another program has taken it over")
			}
			shown = now
		}
		r.heed(ctx, job, l)
	}
}

// heed ends the work on a job that is not to be worked on any more, whoever said so.
func (r *Runner) heed(ctx context.Context, job uint, l *live) {
	if j, err := r.store.Job(ctx, job); err == nil && (j.State != Running || j.Owner != r.owner) {
		l.end(j.State, j.Message)
	}
}

func (r *Runner) work(ctx context.Context, job store.Job, l *live) error {
	k, err := r.kindOf(job.Kind)
	if err != nil {
		return err
	}
	tried := &ask.SeenIdeas{}
	for last := 0; ; { // an item may add others
		items, err := r.store.OpenItems(ctx, job.ID)
		items = slices.DeleteFunc(items, func(i store.JobItem) bool { return i.Seq <= last })
		if err != nil || len(items) == 0 || ctx.Err() != nil {
			return err
		}
		last = items[len(items)-1].Seq
		for len(items) > 0 && ctx.Err() == nil {
			items = r.workOn(ctx, k, job, items, l, tried)
		}
	}
}

// workOn works on items of a job. Those it returns were left since there seemed to be enough: a call that was under
// way counted, and then failed.
func (r *Runner) workOn(ctx context.Context, k Kind, job store.Job, items []store.JobItem, l *live,
	tried *ask.SeenIdeas) (rest []store.JobItem) {
	var group errgroup.Group
	var enough atomic.Bool
	begun := make([]bool, len(items))
	group.SetLimit(k.Workers)
	for i, item := range items {
		if k.Waits != nil && k.Waits(item.Payload) {
			group.Wait()
		}
		if ctx.Err() != nil || enough.Load() {
			break
		}
		group.Go(func() error {
			if r.heed(ctx, job.ID, l); ctx.Err() != nil || enough.Load() {
				return nil
			}
			if _, ok := r.enough(ctx, k, job, l); ok {
				enough.Store(true)
			} else if ctx.Err() == nil {
				begun[i] = true
				r.item(ctx, k, job.NicheID, item, l, &ask.Request{Job: job.ID, Tried: tried})
			}
			return nil
		})
	}
	_ = group.Wait() // each notes its own end; what was under way when it was enough is paid for, and counts
	if !enough.Load() || ctx.Err() != nil {
		return nil
	}
	if says, ok := r.enough(ctx, k, job, l); ok {
		l.end(store.Done, says)
	}
	for i, item := range items {
		if !begun[i] {
			rest = append(rest, item)
		}
	}
	return rest
}

// enough reports whether the rest of a job need not be done, and why. What keeps that from being told stops the job.
func (r *Runner) enough(ctx context.Context, k Kind, job store.Job, l *live) (says string, ok bool) {
	if k.Enough == nil {
		return "", false
	}
	n, err := r.niches.Get(ctx, job.NicheID)
	if err == nil {
		says, ok, err = k.Enough(ctx, n, job.ID, job.Params)
	}
	if err != nil && ctx.Err() == nil {
		l.end(store.Stopped, err.Error())
	}
	return says, ok && err == nil
}

// mostDeaths is how often the program may end in the middle of an item before that is left out.
const mostDeaths = 2

// try does what an item asks for. That our code panics fails that item alone.
func (r *Runner) try(ctx context.Context, k Kind, niche uint, payload string, e *ask.Request) (found int, err error) {
	defer func() {
		if p := recover(); p != nil {
			r.log.Error("an item of a job panicked", "job", e.Job, "kind", k.Name, "panic", p, "stack", string(debug.Stack()))
			err = fmt.Errorf("a mistake in this program: %v; the log has the details", p)
		}
	}()
	n, err := r.niches.Get(ctx, niche)
	if err != nil {
		return 0, err
	}
	return k.Do(ask.WithRequest(ctx, e), n, payload)
}

// item does one item. A failure of its own is noted with it and fails nothing
// else; one that says going on is of no use now stops the job. What the user says of the
// niche holds from the next item on.
func (r *Runner) item(ctx context.Context, k Kind, niche uint, item store.JobItem, l *live, e *ask.Request) {
	bg := context.WithoutCancel(ctx)
	if item.Begun >= mostDeaths {
		item.State, item.Error = "failed", fmt.Sprintf("the program stopped %d times while doing this, so it was skipped",
			item.Begun)
		if err := r.store.FinishItem(bg, item, 0, 0); err != nil {
			l.end(store.Stopped, err.Error())
		}
		return
	}
	err := r.store.BeginItem(bg, item)
	var found int
	if err == nil {
		found, err = r.try(ctx, k, niche, item.Payload, e)
	}
	lookups := int(e.Lookups.Load())
	if err != nil && (ctx.Err() != nil || errors.Is(err, context.Canceled) || ask.StopsWork(err)) {
		if ctx.Err() == nil {
			l.end(store.Stopped, err.Error())
		}
		if err := r.store.LeaveItem(bg, item); err != nil {
			r.log.Error("leaving an item", "job", item.JobID, "error", err)
		}
		if lookups > 0 {
			if err := r.store.AddLookups(bg, item.JobID, lookups); err != nil {
				r.log.Error("noting a job's lookups", "job", item.JobID, "error", err)
			}
		}
		return
	}
	item.State = "done"
	if err != nil {
		item.State, item.Error = "failed", err.Error()
	}
	if err := r.store.FinishItem(bg, item, found, lookups); err != nil {
		l.end(store.Stopped, err.Error())
	}
}
