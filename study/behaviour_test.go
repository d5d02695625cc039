package study_test

import (
	"context"
	"errors"
	"fmt"
	"math"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"cleverniche/core/demand"
	"cleverniche/core/difficulty"
	"cleverniche/core/sieve"
	"cleverniche/market"
	"cleverniche/store"
	"cleverniche/study/ask"
	"cleverniche/study/files"
	"cleverniche/study/gather"
	"cleverniche/study/ideas"
	"cleverniche/study/input"
	"cleverniche/study/jobs"
	"cleverniche/study/niches"
	"cleverniche/study/results"
	"cleverniche/study/studytest"
)

// TestAnswersGrowOld by the clock that the study is given.
func TestAnswersGrowOld(t *testing.T) {
	f := &studytest.Fake{}
	now := time.Date(2026, 11, 26, 12, 0, 0, 0, time.UTC)
	s, n := studytest.Begin(t, f, func(o *studytest.Setup) {
		o.Now = func() time.Time { return now }
		o.Lifetimes = map[ask.Question]time.Duration{ask.Suggestions: time.Hour}
	})
	put := func() int64 {
		before := f.Asked.Load()
		if _, err := s.Ask.Suggest(ctx, "moon", n.Locale()); err != nil {
			t.Fatal(err)
		}
		return f.Asked.Load() - before
	}
	if put() != 1 || put() != 0 {
		t.Error("a fresh answer is asked for again")
	}
	now = now.Add(time.Hour)
	if put() != 0 {
		t.Error("an answer is old before its time")
	}
	if now = now.Add(time.Second); put() != 1 || put() != 0 {
		t.Error("an old answer is not asked for again")
	}
	usual, _ := studytest.Begin(t, f, nil)
	for _, a := range ask.Services() {
		if usual.Ask.Lifetime(a.Question) != a.Life || a.Life == 0 || a.Source == "" {
			t.Errorf("%s: %+v", a.Question, a)
		}
	}
}

// TestTheDayBegins at midnight for the budget.
func TestTheDayBegins(t *testing.T) {
	now := time.Date(2026, 11, 26, 23, 59, 0, 0, time.UTC)
	s, n := studytest.Begin(t, &studytest.Fake{}, func(o *studytest.Setup) { o.Budget, o.Now = 5000, func() time.Time { return now } })
	put := func(phrase string) error { _, err := s.Ask.Results(ctx, phrase, n.Locale()); return err }
	var over *ask.BudgetError
	if put("a") != nil || put("b") != nil || !errors.As(put("c"), &over) {
		t.Error("two lookups of $0.002 fit in a budget of $0.005, and a third one does not")
	}
	if now = now.Add(time.Minute); put("c") != nil {
		t.Error("a new day has no budget")
	}
}

// TestMoneyIsSetAside while a lookup is being made, and given back when it cost nothing.
func TestMoneyIsSetAside(t *testing.T) {
	s, _ := studytest.Begin(t, &studytest.Fake{}, func(o *studytest.Setup) {
		o.Budget = 5000
		o.Prices[ask.Links] = 4000
	})
	bill, err := s.Ask.Charge(ctx, ask.Links, "a")
	if err != nil {
		t.Fatal(err)
	}
	if _, err := s.Ask.Charge(ctx, ask.Links, "b"); err == nil {
		t.Error("money is given out twice")
	}
	bill.Fail(ctx, &market.Error{Trouble: market.Refused, Err: errors.New("no")})
	if _, err := s.Ask.Charge(ctx, ask.Links, "b"); err != nil {
		t.Error(err)
	}
}

func TestEstimateOfGathering(t *testing.T) {
	s, n := studytest.Begin(t, &studytest.Fake{}, func(o *studytest.Setup) { o.Prices[ask.Suggestions] = 10 })
	plan := gather.Plan{Seeds: []string{"moon", "mars"}, Letters: true}
	e, err := s.Gathering.Estimate(ctx, n, plan)
	// 27 suggestions a seed and one batch of demand, of 100 phrases at 100.
	if err != nil || e.Lookups != 2*28 || e.Micros != 2*27*10+2*market.DemandBatch*100 || e.Fresh != 0 || e.Timed {
		t.Errorf("%+v, %v", e, err)
	}
	studytest.Gather(t, s, n, "moon")
	if e, _ := s.Gathering.Estimate(ctx, n, plan); e.Lookups != 27+2 || e.Fresh != 27 || !e.Timed {
		t.Errorf("with the answers for one seed at hand: %+v", e)
	}
}

// seasonal demand has four years of a yearly wave.
type seasonal struct{ studytest.Fake }

func (f *seasonal) Demand(_ context.Context, phrases []string, _ market.Locale) (map[string]demand.Series, error) {
	out := map[string]demand.Series{}
	for _, p := range phrases {
		s := demand.Series{Competition: -1}
		for m := range 48 {
			s.Counts = append(s.Counts, demand.Count{Month: demand.Month(24264 + m),
				Searches: int(200 + 150*math.Sin(float64(m)*math.Pi/6))})
		}
		out[p] = s
	}
	return out, nil
}

func TestDemandFillsTheColumns(t *testing.T) {
	f := &seasonal{}
	s, n := studytest.Begin(t, &f.Fake, func(o *studytest.Setup) { o.Market.Demand = f })
	s.Ideas.Import(ctx, n, "list", strings.NewReader("phrase,cpc\nmoon,0.70\n"))
	j, err := s.Gathering.LookUpSearches(ctx, n)
	studytest.Finish(t, s, j, err)
	b, _ := s.Ideas.Table(ctx, n)
	idea := studytest.Tell(t, s, n, studytest.Named(b, "moon")).Idea
	if v := idea.Value(sieve.Coming); sieve.Coming.NameOf(v) != "seasonal" {
		t.Errorf("season %v", v)
	}
	if v := idea.Value(sieve.Trend); sieve.Trend.NameOf(v) != string(demand.Seasonal) {
		t.Errorf("trend %v", v)
	}
	// The source knows no cost: the list's stays.
	if v := idea.Value(sieve.CPC); v.Number != 0.7 {
		t.Errorf("cost %v", v)
	}
	if left := b.Pass(sieve.Sieve{Filters: []sieve.Filter{sieve.Choosing(sieve.BySeason, "seasonal")}}).Count; left != 1 {
		t.Errorf("%d ideas have a season", left)
	}
}

// TestFiguresFillGaps: a list's cost alone is taken, also for an idea that is there, and
// nothing that is known is overwritten.
func TestFiguresFillGaps(t *testing.T) {
	s, n := studytest.Begin(t, &studytest.Fake{}, nil)
	for _, list := range []string{"moon", "phrase,cpc\nmoon,0.30\n", "phrase,searches,cpc\nmoon,90,0.80\n",
		"phrase,searches\nmoon,50\n"} {
		if _, err := s.Ideas.Import(ctx, n, "list", strings.NewReader(list)); err != nil {
			t.Fatal(err)
		}
	}
	b, _ := s.Ideas.Table(ctx, n)
	idea := studytest.Tell(t, s, n, studytest.Named(b, "moon")).Idea
	if idea.Value(sieve.CPC).Number != 0.3 || idea.Value(sieve.Searches).Number != 90 {
		t.Errorf("cost %v, searches %v", idea.Value(sieve.CPC), idea.Value(sieve.Searches))
	}
	if source, at := idea.Said(sieve.CPC); source != store.ImportSource || at.IsZero() {
		t.Errorf("the cost is said by %q, %v", source, at)
	}
	if !b.Table.Lets(0, sieve.At(sieve.ByCost, 0.3)) {
		t.Error("the cost fills no column")
	}
}

func TestARefusedPhraseSaysWhy(t *testing.T) {
	s, n := studytest.Begin(t, &studytest.Fake{Refuses: "forbidden"}, nil)
	s.Ideas.Import(ctx, n, "list", strings.NewReader("forbidden fruit"))
	j, err := s.Gathering.LookUpSearches(ctx, n)
	if v := studytest.Finish(t, s, j, err); v.Failed != 1 || !strings.Contains(v.Message, "done but for 1 of 1") {
		t.Errorf("%+v", v)
	}
	b, _ := s.Ideas.Table(ctx, n)
	if idea := studytest.Tell(t, s, n, studytest.Named(b, "forbidden fruit")).Idea; !strings.Contains(idea.DemandError, "not that") {
		t.Errorf("%+v", idea)
	}
}

// TestWhatFailedIsTriedAgain when one goes on.
func TestWhatFailedIsTriedAgain(t *testing.T) {
	f := &studytest.Fake{Refuses: "one"}
	s, n := studytest.Begin(t, f, nil)
	s.Ideas.Import(ctx, n, "list", strings.NewReader("one\ntwo\nthree"))
	b, _ := s.Ideas.Table(ctx, n)
	j, err := s.Results.LookUp(ctx, n, b.Named("one", "two", "three"), false)
	v := studytest.Finish(t, s, j, err)
	if v.Failed != 1 || v.Done != 2 || v.Message != "done but for 1 of 3" || len(v.Failures) != 1 {
		t.Fatalf("%+v", v)
	}
	f.Refuses = ""
	if err := s.Jobs.Resume(ctx, n.ID, j.ID); err != nil {
		t.Fatal(err)
	}
	if v = studytest.Finish(t, s, j, nil); v.Failed != 0 || v.Done != 3 || v.Message != "" || v.Ended.IsZero() {
		t.Errorf("after going on: %+v", v)
	}
}

func TestALookupHasABound(t *testing.T) {
	s, n := studytest.Begin(t, &studytest.Fake{}, nil)
	many := make([]uint, results.MostLookedUp+1)
	for i := range many {
		many[i] = uint(i + 1)
	}
	var invalid *input.Error
	if _, err := s.Results.LookUp(ctx, n, many, false); !errors.As(err, &invalid) || !strings.Contains(invalid.Reason, "20000") {
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
	ev := results.Evidence{Verdict: difficulty.Verdict{Locked: "it names a brand", Links: 4}}
	if row := results.Judged(store.Idea{}, ev); !row.Locked || row.JudgedAt == nil {
		t.Errorf("%+v", row)
	}
	ev.Verdict.Locked = ""
	if row := results.Judged(store.Idea{Locked: true}, ev); row.Locked || row.LinksNeeded != 4 {
		t.Errorf("%+v", row)
	}
}

// TestOneReckoningAtATime: what reckons with settings that no longer hold is ended.
func TestOneReckoningAtATime(t *testing.T) {
	s, st, n := studytest.BeginWith(t, &studytest.Fake{}, nil)
	s.Ideas.Import(ctx, n, "list", strings.NewReader("star chart"))
	b, _ := s.Ideas.Table(ctx, n)
	j, err := s.Results.LookUp(ctx, n, b.Named("star chart"), false)
	studytest.Finish(t, s, j, err)
	old := store.Job{NicheID: n.ID, Kind: results.ReckonJob, State: store.Paused, Params: results.Reckoning(false)}
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
	s.Ideas.Import(ctx, n, "list", strings.NewReader("star chart\nmoon map\nred torch"))
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
	if now := studytest.Tell(t, s, n, ids[2]); now.Evidence.Verdict.Strength >= was.Evidence.Verdict.Strength {
		t.Errorf("the sound one has a strength of %v, before %v", now.Evidence.Verdict.Strength,
			was.Evidence.Verdict.Strength)
	}
	for _, id := range ids[:2] {
		st := studytest.Tell(t, s, n, id)
		if st.Evidence != nil || !strings.Contains(st.Idea.JudgeError, "cannot be read") {
			t.Errorf("%+v", st.Idea)
		}
		rows, _ := s.Ideas.Ideas(ctx, n.ID, []uint{id})
		if !strings.Contains(rows[0].JudgeError, "look it up anew") {
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
	s.Ideas.Import(ctx, n, "list", strings.NewReader("star chart"))
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
		t.Errorf("standing %v, reach %v; before %v, %v", now.Evidence.SiteStanding, studytest.Reach(now), was.Evidence.SiteStanding,
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
	s.Ideas.Import(ctx, n, "list", strings.NewReader("star chart"))
	st.SetCalibration(ctx, n.ID, "an old one", niches.FormerlyWellMade[0])
	old := store.Job{NicheID: n.ID, Kind: results.ReckonJob, State: store.Running, Params: results.Reckoning(true)}
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

// TestEurosAreNoDollars: a cost in another currency is shown, and compared with nothing.
func TestEurosAreNoDollars(t *testing.T) {
	s, n := studytest.Begin(t, &studytest.Fake{}, nil)
	s.Ideas.Import(ctx, n, "list", strings.NewReader("phrase,searches,cpc\nmoon,100,€0.50\nmars,100,$0.20\n"))
	b, _ := s.Ideas.Table(ctx, n)
	for phrase, known := range map[string]bool{"moon": false, "mars": true} {
		st := studytest.Tell(t, s, n, studytest.Named(b, phrase))
		if part := st.Commercial.Parts[2]; part.Known != known {
			t.Errorf("%s: %+v", phrase, part)
		}
		if st.Ceiling <= 0 {
			t.Errorf("%s has no ceiling", phrase)
		}
	}
	if b.UsualCPC() != 200_000 {
		t.Errorf("usual cost %d", b.UsualCPC())
	}
}

// TestNoFormulas: what a stranger could write into a cell begins with no sign of one.
func TestNoFormulas(t *testing.T) {
	s, n := studytest.Begin(t, &studytest.Fake{}, func(o *studytest.Setup) {
		o.Market.Names[ask.Demand] = "=cmd|' /C calc'!A0"
	})
	s.Ideas.Import(ctx, n, "list", strings.NewReader("moon"))
	j, err := s.Gathering.LookUpSearches(ctx, n)
	studytest.Finish(t, s, j, err)
	if out := studytest.Export(t, s, n, sieve.Sieve{}, "csv"); strings.Contains(out, ",=cmd") || !strings.Contains(out, "'=cmd") {
		t.Error(out)
	}
}

// TestExportsAreWhole: many ideas, all there, in the sieve's order, each column named.
func TestExportsAreWhole(t *testing.T) {
	s, n := studytest.Begin(t, &studytest.Fake{}, nil)
	var list strings.Builder
	list.WriteString("phrase,searches\n")
	for i := range files.ReadAtOnce + 7 {
		fmt.Fprintf(&list, "phrase %d,%d\n", i, i+1)
	}
	s.Ideas.Import(ctx, n, "list", strings.NewReader(list.String()))
	lines := strings.Split(strings.TrimSpace(studytest.Export(t, s, n, sieve.Sieve{}.By(sieve.Searches, true), "csv")), "\r\n")
	if len(lines) != files.ReadAtOnce+8 ||
		!strings.HasPrefix(lines[1], fmt.Sprintf("phrase %d,,%d,", files.ReadAtOnce+6, files.ReadAtOnce+7)) ||
		!strings.HasPrefix(lines[len(lines)-1], "phrase 0,,1,") {
		t.Errorf("%d lines, %q to %q", len(lines), lines[1], lines[len(lines)-1])
	}
	want := "phrase,decision,searches,under floor,cpc,currency,ad competition,difficulty,reach,page-one " +
		"chance,footholds," +
		"wants,looked up,searches from,locked,"
	if !strings.HasPrefix(lines[0], want) { // what was there first keeps its place
		t.Errorf("columns %s", lines[0])
	}
	if out := studytest.Export(t, s, n, sieve.Sieve{Filters: []sieve.Filter{sieve.OnlyDecided(sieve.Kept)}}, "json"); out != "[]\n" {
		t.Errorf("nothing is written %q", out)
	}
}
