package results_test

import (
	"fmt"
	"strings"
	"testing"

	"cleverniche/core/sieve"
	"cleverniche/study/ask"
	"cleverniche/study/results"
	"cleverniche/study/studytest"
)

// TestHunt stops once so many are found, or so much is spent; what is looked up already counts, and what is wrong is
// refused before anything is asked.
func TestHunt(t *testing.T) {
	f := &studytest.Fake{}
	s, n := studytest.Begin(t, f, func(o *studytest.Setup) {
		o.Prices = map[ask.Question]int64{ask.Results: 1000}
	})
	var list strings.Builder
	for i := range 40 {
		fmt.Fprintf(&list, "star chart number %d\n", i)
	}
	s.Imports.Take(ctx, n, "list", strings.NewReader(list.String()))
	table := func() (ids []uint, looked int) {
		b, _ := s.Ideas.Table(ctx, n)
		ids = b.Pass(sieve.Sieve{}).IDs(0, -1)
		return ids, len(ids) - results.Top().Lacking(b.Pass(sieve.Sieve{})).Count
	}
	ids, _ := table()
	for what, h := range map[string]results.Hunt{"no end": {Ideas: ids}, "no ideas": {Want: 3, Difficulty: 20},
		"too many": {Ideas: ids, Want: results.MostWanted + 1}, "no difficulty": {Ideas: ids, Want: 3, Difficulty: 101},
		"a negative price": {Ideas: ids, Micros: -1}} {
		if _, err := s.Results.Hunt(ctx, n, h); err == nil {
			t.Errorf("%s is taken", what)
		}
	}
	if _, looked := table(); looked != 0 || f.Asked.Load() != 0 {
		t.Fatalf("%d looked up, %d asked", looked, f.Asked.Load())
	}
	job, err := s.Results.Hunt(ctx, n, results.Hunt{Ideas: ids, Want: 4, Difficulty: 100})
	done := studytest.Finish(t, s, job, err)
	_, looked := table()
	if looked < 4 || looked > 4+2 || !strings.Contains(done.Message, "of difficulty 100 or less") {
		t.Errorf("%d looked up: %q", looked, done.Message)
	}
	job, err = s.Results.Hunt(ctx, n, results.Hunt{Ideas: ids, Micros: 5000})
	done = studytest.Finish(t, s, job, err)
	_, more := table()
	if more-looked < 5 || more-looked > 5+2 || !strings.Contains(done.Message, "is spent") {
		t.Errorf("%d more looked up: %q", more-looked, done.Message)
	}
	job, err = s.Results.Hunt(ctx, n, results.Hunt{Ideas: ids, Want: 4, Difficulty: 100})
	studytest.Finish(t, s, job, err)
	if _, again := table(); again != more {
		t.Errorf("%d were looked up though enough was there", again-more)
	}
}

// TestHistoryIsKept: a look-up keeps a snapshot, past weeks are asked for once, and the answers are let go.
func TestHistoryIsKept(t *testing.T) {
	f := &studytest.Fake{}
	s, n := studytest.Begin(t, f, nil)
	s.Imports.Take(ctx, n, "list", strings.NewReader("star chart\n"))
	b, _ := s.Ideas.Table(ctx, n)
	id := studytest.Named(b, "star chart")
	job, err := s.Results.LookUp(ctx, n, []uint{id}, false)
	studytest.Finish(t, s, job, err)
	h, err := s.Results.History(ctx, id)
	if err != nil || len(h.Weeks) != 1 || len(h.Weeks[0].Places) != 10 {
		t.Fatalf("%+v, %v", h, err)
	}
	if s.Results.HasPast() {
		t.Fatal("the fake knows the past")
	}
	job, err = s.Results.Start(ctx, n, results.LookupOf("weeks"), []uint{id}, false)
	studytest.Finish(t, s, job, err)
	list, err := s.Ideas.Ideas(ctx, n.ID, []uint{id})
	if err != nil || !strings.Contains(list[0].Row.WeekError, "no source of results knows past weeks") {
		t.Errorf("%+v, %v", list[0].Row.WeekError, err)
	}
}

// TestHuntRetriesWhatFailed: ideas that could not be looked up are those that a retry looks up.
func TestHuntRetriesWhatFailed(t *testing.T) {
	f := &studytest.Fake{Refuses: "moon"}
	s, n := studytest.Begin(t, f, nil)
	s.Imports.Take(ctx, n, "list", strings.NewReader("star chart\nstar map\nmoon chart\nmoon map\n"))
	b, _ := s.Ideas.Table(ctx, n)
	job, err := s.Results.Hunt(ctx, n, results.Hunt{Ideas: b.Pass(sieve.Sieve{}).IDs(0, -1), Want: 4, Difficulty: 100})
	first := studytest.Finish(t, s, job, err)
	f.Refuses = ""
	err = s.Jobs.Resume(ctx, n.ID, job.ID)
	again := studytest.Finish(t, s, job, err)
	b, _ = s.Ideas.Table(ctx, n)
	if left := results.Top().Lacking(b.Pass(sieve.Sieve{})); first.Failed == 0 || left.Count != 0 {
		t.Errorf("%d failed, %d are left after a retry: %+v", first.Failed, left.Count, again)
	}
}
