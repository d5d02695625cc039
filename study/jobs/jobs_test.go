package jobs_test

import (
	"context"
	"errors"
	"path/filepath"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"cleverniche/store"
	"cleverniche/study/gather"
	"cleverniche/study/input"
	"cleverniche/study/jobs"
	"cleverniche/study/niches"
	"cleverniche/study/studytest"
)

// TestWhatFailedIsTriedAgain when one goes on.
func TestWhatFailedIsTriedAgain(t *testing.T) {
	f := &studytest.Fake{Refuses: "one"}
	s, n := studytest.Begin(t, f, nil)
	s.Imports.Take(ctx, n, "list", strings.NewReader("one\ntwo\nthree"))
	b, _ := s.Ideas.Table(ctx, n)
	j, err := s.Results.LookUp(ctx, n, b.Named("one", "two", "three"), false)
	v := studytest.Finish(t, s, j, err)
	if v.Failed != 1 || v.Done != 2 || v.Message != "1 of 3 failed" || len(v.Failures) != 1 {
		t.Fatalf("%+v", v)
	}
	f.Refuses = ""
	if err := s.Jobs.Resume(ctx, n.ID, j.ID); err != nil {
		t.Fatal(err)
	}
	if v = studytest.Finish(t, s, j, nil); v.Failed != 0 || v.Done != 3 || strings.Contains(v.Message,
		"done but") || v.Ended.IsZero() {
		t.Errorf("after going on: %+v", v)
	}
}

// TestSourceStopsInTheMiddle: what was fetched is kept, the job says so, and goes on.
func TestSourceStopsInTheMiddle(t *testing.T) {
	f := &studytest.Fake{Slow: 3 * time.Millisecond}
	s, n := studytest.Begin(t, f, nil)
	j, err := s.Gathering.Gather(ctx, n, gather.Plan{Seeds: []string{"moon", "mars"}, Ways: gather.Usual})
	if err != nil {
		t.Fatal(err)
	}
	for f.Asked.Load() < 20 {
		time.Sleep(time.Millisecond)
	}
	f.Down.Store(true)
	v := studytest.Finish(t, s, j, nil)
	if v.State != store.Stopped || !strings.Contains(v.Message, "the fake cannot be reached") || v.Done == 0 ||
		v.Done == v.Total {
		t.Fatalf("stopped job: %+v", v)
	}
	b, _ := s.Ideas.Table(ctx, n)
	if b.Len() == 0 {
		t.Error("nothing was kept")
	}
	f.Down.Store(false)
	if err := s.Jobs.Resume(ctx, n.ID, j.ID); err != nil {
		t.Fatal(err)
	}
	if v = studytest.Finish(t, s, j, nil); v.State != store.Done || v.Done != v.Total {
		t.Errorf("after going on: %+v", v)
	}
}

// TestTakenUpAfterTheEnd: a job of a program that ended is taken up by the next.
func TestTakenUpAfterTheEnd(t *testing.T) {
	f := &studytest.Fake{Slow: 5 * time.Millisecond}
	path := filepath.Join(t.TempDir(), "d.db")
	s, st := studytest.Open(t, f, path, nil)
	n, _ := s.Niches.Create(ctx, niches.Niche{Name: "Sky", Country: "US", Language: "en"})
	j, _ := s.Gathering.Gather(ctx, n, gather.Plan{Seeds: []string{"moon"}, Ways: []gather.Way{gather.Letters}})
	for f.Asked.Load() < 8 {
		time.Sleep(time.Millisecond)
	}
	s.Close()
	if v, _ := st.Job(ctx, j.ID); v.State != store.Running {
		t.Fatalf("the interrupted job is %s", v.State)
	}
	done, _ := st.Progress(ctx, j.ID)
	next, _ := studytest.Open(t, f, path, nil)
	next.Jobs.Watch()
	for range 6000 {
		if v, _ := next.Jobs.Get(ctx, n.ID, j.ID); v.State == store.Done {
			if v.Done != v.Total || done.Done == 0 || done.Done == done.Total {
				t.Errorf("job %+v, was at %+v", v, done)
			}
			return
		}
		time.Sleep(5 * time.Millisecond)
	}
	t.Error("the job was not taken up")
}

// TestWaitedForElsewhere: who waits for a job waits also while another program works on
// it, and goes on with it when that one was killed.
func TestWaitedForElsewhere(t *testing.T) {
	t.Parallel()
	f := &studytest.Fake{Slow: 5 * time.Millisecond}
	path := filepath.Join(t.TempDir(), "d.db")
	s, st := studytest.Open(t, f, path, nil)
	n, _ := s.Niches.Create(ctx, niches.Niche{Name: "Sky", Country: "US", Language: "en"})
	next, _ := studytest.Open(t, f, path, nil)
	j, err := s.Gathering.Gather(ctx, n, gather.Plan{Seeds: []string{"moon"}, Ways: []gather.Way{gather.Letters}})
	if v := studytest.Finish(t, next, j, err); v.State != store.Done || v.Done != v.Total {
		t.Errorf("while the other works: %+v", v)
	}
	j, _ = s.Gathering.Gather(ctx, n, gather.Plan{Seeds: []string{"mars"}, Ways: []gather.Way{gather.Letters}})
	s.Close()
	row, _ := st.Job(ctx, j.ID)
	if held, err := st.Claim(ctx, row, "killed"); !held || err != nil {
		t.Fatal(held, err)
	}
	if v := studytest.Finish(t, next, j, nil); v.State != store.Done || v.Done != v.Total {
		t.Errorf("after the other was killed: %+v", v)
	}
}

func TestPauseAndCancel(t *testing.T) {
	f := &studytest.Fake{Slow: 4 * time.Millisecond}
	s, n := studytest.Begin(t, f, nil)
	j, _ := s.Gathering.Gather(ctx, n, gather.Plan{Seeds: []string{"moon"}, Ways: []gather.Way{gather.Letters}})
	if err := s.Jobs.Pause(ctx, n.ID, j.ID); err != nil {
		t.Fatal(err)
	}
	if v, _ := s.Jobs.Get(ctx, n.ID, j.ID); v.State != store.Paused {
		t.Errorf("paused job is %s", v.State)
	}
	s.Jobs.Resume(ctx, n.ID, j.ID)
	s.Jobs.Cancel(ctx, n.ID, j.ID)
	if v, _ := s.Jobs.Get(ctx, n.ID, j.ID); v.State != store.Cancelled {
		t.Errorf("cancelled job is %s", v.State)
	}
	s.Jobs.Resume(ctx, n.ID, j.ID)
	if v, _ := s.Jobs.Get(ctx, n.ID, j.ID); v.State != store.Cancelled {
		t.Errorf("a cancelled job went on: %s", v.State)
	}
	if _, err := s.Jobs.Get(ctx, n.ID+1, j.ID); !errors.Is(err, input.ErrNotFound) {
		t.Errorf("a job of another niche: %v", err)
	}
}

// TestCancelledElsewhere: a job that another program works on heeds what is said here, stops
// spending, and does not end as done.
func TestCancelledElsewhere(t *testing.T) {
	t.Parallel()
	f := &studytest.Fake{Slow: 10 * time.Millisecond}
	path := filepath.Join(t.TempDir(), "d.db")
	s, _ := studytest.Open(t, f, path, nil)
	n, _ := s.Niches.Create(ctx, niches.Niche{Name: "Sky", Country: "US", Language: "en"})
	other, _ := studytest.Open(t, f, path, nil)
	for state, say := range map[string]func(context.Context, uint, uint) error{store.Cancelled: other.Jobs.Cancel,
		store.Paused: other.Jobs.Pause} {
		j, err := s.Gathering.Gather(ctx, n, gather.Plan{Seeds: []string{state, "x " + state, "y " + state, "z " + state},
			Ways: gather.Usual})
		if err != nil {
			t.Fatal(err)
		}
		if err := say(ctx, n.ID, j.ID); err != nil {
			t.Fatal(err)
		}
		asked := f.Asked.Load()
		for range 20 { // until it is heeded, on a loaded machine later
			time.Sleep(2 * jobs.Glance)
			if now := f.Asked.Load(); now != asked {
				asked = now
				continue
			}
			break
		}
		v, _ := s.Jobs.Get(ctx, n.ID, j.ID)
		if v.State != state || f.Asked.Load() != asked || v.Done == v.Total {
			t.Errorf("%s elsewhere it is %s, %d of %d done, and asks on: %d", state, v.State, v.Done, v.Total,
				f.Asked.Load()-asked)
		}
	}
}

// TestAClockSetBack strands no job of a killed program, and “go on” goes on.
func TestAClockSetBack(t *testing.T) {
	t.Parallel()
	f := &studytest.Fake{}
	path := filepath.Join(t.TempDir(), "d.db")
	var back atomic.Int64
	clock := func(o *studytest.Setup) {
		o.Now = func() time.Time { return time.Now().Add(-time.Duration(back.Load())) }
	}
	s, st := studytest.Open(t, f, path, clock)
	n, _ := s.Niches.Create(ctx, niches.Niche{Name: "Sky", Country: "US", Language: "en"})
	killed := store.Job{NicheID: n.ID, Kind: "gather", Title: "Look up searches", State: store.Running, Params: "{}",
		Owner: "killed"}
	if err := st.CreateJob(ctx, &killed, jobs.Encode([]map[string]bool{{"demand": true}})); err != nil {
		t.Fatal(err)
	}
	back.Store(int64(1000 * time.Hour))
	if v := studytest.Finish(t, s, jobs.Job{ID: killed.ID, NicheID: n.ID}, nil); v.State != jobs.Done {
		t.Errorf("the killed job is %s", v.State)
	}
	st.SetJob(ctx, killed.ID, store.Paused, "paused")
	st.Claim(ctx, store.Job{ID: killed.ID}, "killed again") // and never given back
	s.Jobs.Watch()
	if err := s.Jobs.Resume(ctx, n.ID, killed.ID); err != nil {
		t.Fatal(err)
	}
	if v := studytest.Finish(t, s, jobs.Job{ID: killed.ID, NicheID: n.ID}, nil); v.State != jobs.Done {
		t.Errorf("gone on with, it is %s", v.State)
	}
}

// TestWhatIsDoneStaysDone: it is neither cancelled nor paused.
func TestWhatIsDoneStaysDone(t *testing.T) {
	s, n := studytest.Begin(t, &studytest.Fake{}, nil)
	j := studytest.Gather(t, s, n, "moon")
	for name, end := range map[string]func() error{
		"cancelled": func() error { return s.Jobs.Cancel(ctx, n.ID, j.ID) },
		"paused":    func() error { return s.Jobs.Pause(ctx, n.ID, j.ID) },
	} {
		if err := end(); err != nil {
			t.Fatal(err)
		}
		if now, err := s.Jobs.Get(ctx, n.ID, j.ID); err != nil || now.State != jobs.Done || !now.Ended.Equal(j.Ended) {
			t.Errorf("%s: %s, %v", name, now.State, err)
		}
	}
}
