package results_test

import (
	"errors"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"cleverniche/core/sieve"
	"cleverniche/store"
	"cleverniche/study/ideas"
	"cleverniche/study/input"
	"cleverniche/study/jobs"
	"cleverniche/study/niches"
	"cleverniche/study/results"
	"cleverniche/study/studytest"
)

func TestALookupHasABound(t *testing.T) {
	s, n := studytest.Begin(t, &studytest.Fake{}, nil)
	many := make([]uint, results.MostLookedUp+1)
	for i := range many {
		many[i] = uint(i + 1)
	}
	var invalid *input.Error
	if _, err := s.Results.LookUp(ctx, n, many, false); !errors.As(err, &invalid) ||
		!strings.Contains(invalid.Reason, "20000") {
		t.Errorf("judge: %v", err)
	}
	if _, err := s.Results.Estimate(ctx, n, results.Top(), many); !errors.As(err, &invalid) {
		t.Errorf("estimate: %v", err)
	}
	if _, err := s.Results.LookUp(ctx, n, []uint{99}, false); !errors.Is(err, input.ErrNotFound) {
		t.Errorf("an idea that is not there: %v", err)
	}
}

// TestLockedIsMarked in the idea's columns, whatever the sum says.
func TestLockedIsMarked(t *testing.T) {
	var ev results.Evidence
	ev.Reading.Locked = "it names a brand"
	if row := results.Judged(store.Idea{}, ev); !row.Locked || row.JudgedAt == nil || row.PageOne != 0 {
		t.Errorf("%+v", row)
	}
	ev.Reading.Locked = ""
	if row := results.Judged(store.Idea{Locked: true}, ev); row.Locked {
		t.Errorf("%+v", row)
	}
}

// TestOneReckoningAtATime: what reckons with settings that no longer hold is ended.
func TestOneReckoningAtATime(t *testing.T) {
	s, st, n := studytest.BeginWith(t, &studytest.Fake{}, nil)
	s.Imports.Take(ctx, n, "list", strings.NewReader("star chart"))
	b, _ := s.Ideas.Table(ctx, n)
	j, err := s.Results.LookUp(ctx, n, b.Named("star chart"), false)
	studytest.Finish(t, s, j, err)
	old := store.Job{NicheID: n.ID, Kind: results.RecalcJob, State: store.Paused, Params: results.Recalculates(false)}
	if err := st.CreateJob(ctx, &old, []string{`{"ideas":[1]}`}); err != nil {
		t.Fatal(err)
	}
	n.Fit = 60
	_, job, err := s.Results.ChangeNiche(ctx, n)
	if err != nil {
		t.Fatal(err)
	}
	studytest.Finish(t, s, *job, nil)
	if v, _ := s.Jobs.Get(ctx, n.ID, old.ID); v.State != jobs.Cancelled {
		t.Errorf("the old one is %s", v.State)
	}
	if _, job, _ := s.Results.ChangeNiche(ctx, n); job == nil {
		t.Error("nothing is reckoned")
	}
}

// TestDamagedEvidence fails nothing but its own idea, which says so and can be looked up
// anew.
func TestDamagedEvidence(t *testing.T) {
	s, st, n := studytest.BeginWith(t, &studytest.Fake{}, nil)
	s.Imports.Take(ctx, n, "list", strings.NewReader("star chart\nmoon map\nred torch"))
	b, _ := s.Ideas.Table(ctx, n)
	ids := b.Named("star chart", "moon map", "red torch")
	j, err := s.Results.LookUp(ctx, n, ids, false)
	studytest.Finish(t, s, j, err)
	was := studytest.Tell(t, s, n, ids[2])
	for k, d := range []store.Document{{Version: 2, Body: []byte("{")}, {Version: 99, Body: []byte("{}")}} {
		row, _ := st.Idea(ctx, n.ID, ids[k])
		if err := st.SaveJudgements(ctx, n.ID, store.Judgement{Idea: row, Document: d}); err != nil {
			t.Fatal(err)
		}
	}
	n.Fit = 60
	_, job, err := s.Results.ChangeNiche(ctx, n)
	if err != nil {
		t.Fatal(err)
	}
	if v := studytest.Finish(t, s, *job, nil); v.State != jobs.Done || v.Failed != 0 {
		t.Errorf("%+v", v)
	}
	if now := studytest.Tell(t, s, n, ids[2]); now.Evidence.Verdict.PageOne.Mean >= was.Evidence.Verdict.PageOne.Mean {
		t.Errorf("the sound one has a chance of %v, before %v", now.Evidence.Verdict.PageOne,
			was.Evidence.Verdict.PageOne)
	}
	for _, id := range ids[:2] {
		st := studytest.Tell(t, s, n, id)
		if st.Evidence != nil || !strings.Contains(st.Idea.JudgeError, "cannot be read") {
			t.Errorf("%+v", st.Idea)
		}
		rows, _ := s.Ideas.Ideas(ctx, n.ID, []uint{id})
		if !strings.Contains(rows[0].JudgeError, "Look it up again") {
			t.Errorf("kept: %q", rows[0].JudgeError)
		}
		var wrong *input.Error
		if err := s.Results.Suppose(ctx, n, id, ideas.Suppose{}); !errors.As(err, &wrong) {
			t.Errorf("supposed: %v", err)
		}
	}
	j, err = s.Results.LookUp(ctx, n, ids, false)
	studytest.Finish(t, s, j, err)
	if st := studytest.Tell(t, s, n, ids[0]); st.Evidence == nil || st.Idea.JudgeError != "" {
		t.Errorf("after it was looked up anew: %+v", st.Idea)
	}
}

// TestANewStandingChangesTheChance, from the graph at hand.
func TestANewStandingChangesTheChance(t *testing.T) {
	s, n := studytest.Begin(t, &studytest.Fake{}, nil)
	s.Imports.Take(ctx, n, "list", strings.NewReader("star chart"))
	b, _ := s.Ideas.Table(ctx, n)
	id := studytest.Named(b, "star chart")
	j, err := s.Results.LookUp(ctx, n, []uint{id}, false)
	studytest.Finish(t, s, j, err)
	was := studytest.Tell(t, s, n, id)
	n.OwnSite = "site1.example" // which two sites link to
	_, job, err := s.Results.ChangeNiche(ctx, n)
	if err != nil {
		t.Fatal(err)
	}
	studytest.Finish(t, s, *job, nil)
	now := studytest.Tell(t, s, n, id)
	if now.Evidence.SiteStanding <= was.Evidence.SiteStanding || studytest.Reach(now) <= studytest.Reach(was) {
		t.Errorf("standing %v, reach %v; before %v, %v", now.Evidence.SiteStanding, studytest.Reach(now),
			was.Evidence.SiteStanding,
			studytest.Reach(was))
	}
	if len(now.Evidence.MyPages) != 1 || slices.Equal(now.Evidence.MyPages, was.Evidence.MyPages) {
		t.Errorf("my pages stand at %v, before at %v", now.Evidence.MyPages, was.Evidence.MyPages)
	}
}

// TestReckoningGoesOnAfterTheEnd of a program, and is not begun again.
func TestReckoningGoesOnAfterTheEnd(t *testing.T) {
	path := filepath.Join(t.TempDir(), "d.db")
	s, st := studytest.Open(t, &studytest.Fake{}, path, nil)
	n, _ := s.Niches.Create(ctx, niches.Niche{Name: "Sky", Country: "US", Language: "en"})
	s.Imports.Take(ctx, n, "list", strings.NewReader("star chart"))
	st.SetCalibration(ctx, n.ID, "an old one", 85 /* what was well-made then */)
	old := store.Job{NicheID: n.ID, Kind: results.RecalcJob, State: store.Running, Params: results.Recalculates(true)}
	if err := st.CreateJob(ctx, &old, []string{`{"ideas":[1],"months":true}`}); err != nil {
		t.Fatal(err)
	}
	jobs, err := s.Results.Renew(ctx)
	if err != nil || len(jobs) != 1 || jobs[0].ID != old.ID {
		t.Fatalf("%+v, %v", jobs, err)
	}
	studytest.Finish(t, s, jobs[0], nil)
	if got, _ := s.Niches.Get(ctx, n.ID); got.Calibration != niches.CalibrationName {
		t.Errorf("reckoned with %q", got.Calibration)
	}
	if all, _ := s.Jobs.List(ctx, n.ID, 10); len(all) != 1 {
		t.Errorf("there are %d jobs", len(all))
	}
}

func TestJudge(t *testing.T) {
	f := &studytest.Fake{Refuses: "refused"}
	s, n := studytest.Begin(t, f, nil)
	s.Imports.Take(ctx, n, "list", strings.NewReader("star chart\nrefused phrase\nmoon map"))
	b, _ := s.Ideas.Table(ctx, n)
	ids := []uint{studytest.Named(b, "star chart"), studytest.Named(b, "refused phrase"), studytest.Named(b, "moon map")}
	e, err := s.Results.Estimate(ctx, n, results.Top(), ids)
	if err != nil || e.Lookups != 3+3*20 || e.Micros != 3*2000+30*1000 {
		t.Errorf("estimate %+v, %v", e, err)
	}
	j, err := s.Results.LookUp(ctx, n, ids, false)
	v := studytest.Finish(t, s, j, err)
	if v.State != store.Done || v.Failed != 1 || v.Found != 2 || v.CostMicros > e.Micros || v.CostMicros == 0 {
		t.Errorf("job %+v", v)
	}
	// Two of the three have results at hand, each with one page that could not be had.
	if e, err := s.Results.Estimate(ctx, n, results.Top(), ids); err != nil || e.Fresh != 2 || e.Lookups != 1+20+2 {
		t.Errorf("estimate of what is left %+v, %v", e, err)
	}
	story := studytest.Tell(t, s, n, ids[0])
	ev := story.Evidence
	if ev == nil || len(ev.Reading.Entries) != 10 || len(ev.Verdict.Seen) != 9 || len(ev.MyPages) != 1 ||
		!ev.MineKnown {
		t.Fatalf("evidence %+v", ev)
	}
	if bad := ev.Reading.Entries[7]; !strings.Contains(bad.PageError, "it is broken") || !bad.Fit.Partial {
		t.Errorf("the page that could not be read: %+v", bad)
	}
	if story := studytest.Tell(t, s, n, ids[1]); story.Evidence != nil ||
		!strings.Contains(story.Idea.JudgeError, "not that") {
		t.Errorf("the refused idea: %+v", story.Idea)
	}
	before := f.Asked.Load()
	j, err = s.Results.LookUp(ctx, n, ids[:1], false)
	if studytest.Finish(t, s, j, err); f.Asked.Load() != before {
		t.Error("what is at hand was asked again")
	}
	j, err = s.Results.LookUp(ctx, n, ids[:1], true)
	if studytest.Finish(t, s, j, err); f.Asked.Load() != before+1+10+1 { // results, ten pages' links, the graph
		t.Errorf("asking again asked %d questions", f.Asked.Load()-before)
	}
	was := studytest.Reach(story)
	asked := f.Asked.Load()
	n.PlannedLinks = 10
	_, job, err := s.Results.ChangeNiche(ctx, n)
	if err != nil || job == nil || job.Brings != "recalculated" {
		t.Fatalf("job %+v, %v", job, err)
	}
	if v := studytest.Finish(t, s, *job, nil); v.State != jobs.Done || v.Found != 2 {
		t.Errorf("reckoning anew: %+v", v)
	}
	if now := studytest.Reach(studytest.Tell(t, s, n, ids[0])); now <= was || f.Asked.Load() != asked {
		t.Errorf("ten links planned: reach %v, was %v", now, was)
	}
}

func TestBudgetAndMissingSource(t *testing.T) {
	s, n := studytest.Begin(t, &studytest.Fake{}, func(o *studytest.Setup) { o.Budget = 30_000 })
	s.Imports.Take(ctx, n, "list", strings.NewReader("a b\nc d e\nf g h i\nj"))
	b, _ := s.Ideas.Table(ctx, n)
	ids := b.Pass(sieve.Sieve{}).IDs(0, -1)
	j, err := s.Results.LookUp(ctx, n, ids, false)
	if v := studytest.Finish(t, s, j, err); v.State != store.Stopped || !strings.Contains(v.Message, "budget of $0.03") ||
		v.CostMicros > 30_000 {
		t.Errorf("job %s: %s, cost %d", v.State, v.Message, v.CostMicros)
	}
	s, n = studytest.Begin(t, &studytest.Fake{}, func(o *studytest.Setup) { o.Market.Search = nil })
	s.Imports.Take(ctx, n, "list", strings.NewReader("a b"))
	b, _ = s.Ideas.Table(ctx, n)
	j, err = s.Results.LookUp(ctx, n, b.Pass(sieve.Sieve{}).IDs(0, -1), false)
	if v := studytest.Finish(t, s, j, err); v.State != store.Stopped || !strings.Contains(v.Message, "--results") {
		t.Errorf("job %s: %s", v.State, v.Message)
	}
}
