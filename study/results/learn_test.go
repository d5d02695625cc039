package results_test

import (
	"context"
	"errors"
	"fmt"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"cleverniche/core/difficulty"
	"cleverniche/core/sieve"
	"cleverniche/store"
	"cleverniche/study/ask"
	"cleverniche/study/ideas"
	"cleverniche/study/jobs"
	"cleverniche/study/niches"
	"cleverniche/study/results"
	"cleverniche/study/studytest"
)

// TestLooksUpAndLearns: each look-up teaches what the engine leans on; all of the niche is forecast again when the job
// is done, columns and story alike; another niche has learnt nothing; what is learnt outlives the program; and an
// engine that is asked instead is another one.
func TestLooksUpAndLearns(t *testing.T) {
	path := filepath.Join(t.TempDir(), "d.db")
	s, st := studytest.Open(t, &studytest.Fake{}, path, nil)
	n, err := s.Niches.Create(ctx, niches.Niche{Name: "Sky", Country: "us", Language: "en"})
	if err != nil {
		t.Fatal(err)
	}
	other, _ := s.Niches.Create(ctx, niches.Niche{Name: "Sea", Country: "us", Language: "en"})
	s.Imports.Take(ctx, n, "list", strings.NewReader("star chart\nmoon map\nred torch\nlens cap"))
	b, _ := s.Ideas.Table(ctx, n)
	ids := b.Named("star chart", "moon map", "red torch", "lens cap")
	learnt := func(n niches.Niche) niches.Learnt {
		t.Helper()
		return studytest.Must(s.Niches.Learnt(ctx, n))
	}
	if l := learnt(n); l.Pages != 0 || l.Leaning != difficulty.Calibrated.Prior {
		t.Errorf("learnt from nothing: %+v", l)
	}
	j, err := s.Results.LookUp(ctx, n, ids[:1], false)
	studytest.Finish(t, s, j, err)
	first := learnt(n)
	if first.Pages != 1 || first.Of != 1 || first.Engine != "fake" || first.At.IsZero() {
		t.Errorf("after one page: %+v", first)
	}
	was := studytest.Tell(t, s, n, ids[0])
	j, err = s.Results.LookUp(ctx, n, ids[1:3], false)
	studytest.Finish(t, s, j, err)
	if l := learnt(n); l.Pages != 3 || l.Of != 3 || l.Leaning == first.Leaning {
		t.Errorf("after three pages: %+v", l)
	}
	now := studytest.Tell(t, s, n, ids[0])
	if now.Evidence.Verdict.Pages != 3 || now.Evidence.Verdict.PageOne == was.Evidence.Verdict.PageOne {
		t.Errorf("the first idea is as it was: %+v", now.Evidence.Verdict)
	}
	for _, id := range ids[:3] {
		st := studytest.Tell(t, s, n, id)
		for f, want := range map[*sieve.Figure]float64{sieve.PageOne: st.Evidence.Verdict.PageOne.Mean,
			sieve.Difficulty: st.Evidence.Verdict.Difficulty, sieve.Reach: st.Evidence.Verdict.Reach} {
			if got := st.Idea.Value(f).Number; got != want {
				t.Errorf("%s: %s is %v in the list and %v in the story", st.Idea.Phrase, f.Name, got, want)
			}
		}
	}
	if l := learnt(other); l.Pages != 0 {
		t.Errorf("another niche has learnt: %+v", l)
	}
	before := learnt(n)
	row := studytest.Must(st.Leaning(ctx, n.ID))
	row.Model = "of another calibration"
	if err := st.SaveLeaning(ctx, row); err != nil {
		t.Fatal(err)
	}
	if l := learnt(n); l.Pages != 0 {
		t.Errorf("what another calibration learnt is believed: %+v", l)
	}
	row.Model = niches.CalibrationName
	if err := st.SaveLeaning(ctx, row); err != nil {
		t.Fatal(err)
	}
	s.Close()
	s, _ = studytest.Open(t, &studytest.Fake{}, path, nil)
	if l := learnt(n); l != before {
		t.Errorf("%+v, before the program ended %+v", l, before)
	}
	s.Close()
	s, _ = studytest.Open(t, &studytest.Fake{}, path, func(o *studytest.Setup) { o.Market.Names[ask.Results] = "another" })
	j, err = s.Results.LookUp(ctx, n, ids[3:], false)
	studytest.Finish(t, s, j, err)
	if l := learnt(n); l.Pages != 1 || l.Engine != "another" {
		t.Errorf("another engine: %+v", l)
	}
}

// TestLearnsFromWhatIsThere: a job that was cancelled, or of which some could not be looked up, teaches what came; an
// idea that was taken out teaches nothing any more.
func TestLearnsFromWhatIsThere(t *testing.T) {
	f := &studytest.Fake{Refuses: "torch"}
	s, n := studytest.Begin(t, f, nil)
	s.Imports.Take(ctx, n, "list", strings.NewReader("star chart\nmoon map\nred torch"))
	b, _ := s.Ideas.Table(ctx, n)
	ids := b.Named("star chart", "moon map", "red torch")
	j, err := s.Results.LookUp(ctx, n, ids, false)
	if v := studytest.Finish(t, s, j, err); v.State != jobs.Done || v.Failed != 1 {
		t.Fatalf("%+v", v)
	}
	if l := studytest.Must(s.Niches.Learnt(ctx, n)); l.Pages != 2 {
		t.Errorf("two of three came: %+v", l)
	}
	if _, err := s.Ideas.Remove(ctx, n.ID, ids[:1]); err != nil {
		t.Fatal(err)
	}
	if err := s.Results.Learn(ctx, n); err != nil {
		t.Fatal(err)
	}
	if l := studytest.Must(s.Niches.Learnt(ctx, n)); l.Pages != 1 {
		t.Errorf("one is left: %+v", l)
	}
}

// failing is a data file that fails to keep some forecasts, as when the program ends in the middle.
type failing struct {
	results.Store
	after int // so many were kept
}

func (f *failing) SaveForecasts(ctx context.Context, niche uint, list []store.Idea) ([]uint, error) {
	if f.after--; f.after < 0 {
		return nil, errors.New("killed")
	}
	return f.Store.SaveForecasts(ctx, niche, list)
}

// TestLearningIsCutOff: where forecasts are not all kept, what was learnt is not either, so that it is learnt
// again, and list and story agree then.
func TestLearningIsCutOff(t *testing.T) {
	s, st, n := studytest.BeginWith(t, &studytest.Fake{}, nil)
	s.Imports.Take(ctx, n, "list", strings.NewReader("star chart\nmoon map"))
	b, _ := s.Ideas.Table(ctx, n)
	ids := b.Named("star chart", "moon map")
	back := s.Results.Over(func(st results.Store) results.Store { return &failing{Store: st} })
	j, err := s.Results.LookUp(ctx, n, ids, false)
	if v := studytest.Finish(t, s, j, err); v.State != jobs.Done || v.Found != 2 {
		t.Fatalf("what cannot be learnt ends the job: %+v", v)
	}
	if l := studytest.Must(s.Niches.Learnt(ctx, n)); l.Pages != 0 {
		t.Errorf("learnt, though the list does not show it: %+v", l)
	}
	back()
	if err := s.Results.Learn(ctx, n); err != nil {
		t.Fatal(err)
	}
	if l := studytest.Must(s.Niches.Learnt(ctx, n)); l.Pages != 2 || l.Of != 2 {
		t.Errorf("learnt again: %+v", l)
	}
	for _, id := range ids {
		row := studytest.Must(st.Idea(ctx, n.ID, id))
		if story := studytest.Tell(t, s, n, id); row.PageOne != story.Evidence.Verdict.PageOne.Mean {
			t.Errorf("%s: %v in the list and %v in the story", row.Phrase, row.PageOne, story.Evidence.Verdict.PageOne)
		}
	}
}

// meanwhile is a data file in which somebody supposes otherwise between reading and keeping forecasts.
type meanwhile struct {
	results.Store
	do func()
}

func (m *meanwhile) SaveForecasts(ctx context.Context, niche uint, list []store.Idea) ([]uint, error) {
	if do := m.do; do != nil {
		m.do = nil
		do()
	}
	return m.Store.SaveForecasts(ctx, niche, list)
}

// TestChangedWhileLearning: what somebody changes while all is forecast again is not written over.
func TestChangedWhileLearning(t *testing.T) {
	s, st, n := studytest.BeginWith(t, &studytest.Fake{}, nil)
	s.Imports.Take(ctx, n, "list", strings.NewReader("star chart\nmoon map"))
	b, _ := s.Ideas.Table(ctx, n)
	ids := b.Named("star chart", "moon map")
	j, err := s.Results.LookUp(ctx, n, ids[:1], false)
	studytest.Finish(t, s, j, err)
	links := 5
	s.Results.Over(func(st results.Store) results.Store {
		return &meanwhile{st, func() {
			if err := s.Results.Suppose(ctx, n, ids[0], ideas.Suppose{Links: &links}); err != nil {
				t.Error(err)
			}
		}}
	})
	j, err = s.Results.LookUp(ctx, n, ids[1:], false)
	studytest.Finish(t, s, j, err)
	row, story := studytest.Must(st.Idea(ctx, n.ID, ids[0])), studytest.Tell(t, s, n, ids[0])
	if row.MyLinks == nil || *row.MyLinks != links || story.Evidence.Mine.PlannedLinks != links ||
		row.PageOne != story.Evidence.Verdict.PageOne.Mean || row.Reach != story.Evidence.Verdict.Reach {
		t.Errorf("with %v links a chance of %v in the list and %v in the story", row.MyLinks, row.PageOne,
			story.Evidence.Verdict.PageOne)
	}
}

// BenchmarkLearn is what it takes to learn from a thousand results pages, and to forecast them again.
func BenchmarkLearn(b *testing.B) {
	s, st, n := studytest.BeginWith(b, &studytest.Fake{}, nil)
	var list strings.Builder
	for i := range 1000 {
		fmt.Fprintf(&list, "phrase number %d\n", i)
	}
	if _, err := s.Imports.Take(ctx, n, "list", strings.NewReader(list.String())); err != nil {
		b.Fatal(err)
	}
	t := studytest.Must(s.Ideas.Table(ctx, n))
	ids := slices.Clone(t.Pass(sieve.Sieve{}).IDs(0, 1000))
	j, err := s.Results.LookUp(ctx, n, ids, false)
	studytest.Finish(b, s, j, err)
	b.ResetTimer()
	for b.Loop() {
		l := studytest.Must(st.Leaning(ctx, n.ID))
		l.Pages = 0 // as if nothing had been learnt
		if err := st.SaveLeaning(ctx, l); err != nil {
			b.Fatal(err)
		}
		if err := s.Results.Learn(ctx, n); err != nil {
			b.Fatal(err)
		}
	}
}
