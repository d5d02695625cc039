package results_test

import (
	"context"
	"errors"
	"strings"
	"sync/atomic"
	"testing"

	"cleverniche/core/sieve"
	"cleverniche/market"
	"cleverniche/study/ask"
	"cleverniche/study/jobs"
	"cleverniche/study/results"
	"cleverniche/study/studytest"
)

// registry knows some names as taken, and counts how often it is asked.
type registry struct {
	taken map[string]bool
	asked atomic.Int64
	fails error
}

func (r *registry) Registered(_ context.Context, domain string) (market.Registration, error) {
	r.asked.Add(1)
	return market.Registration{Taken: r.taken[domain]}, r.fails
}

// TestPagesAndNames are asked for at a stated price, kept, and sifted by.
func TestPagesAndNames(t *testing.T) {
	f := &studytest.Fake{}
	reg := &registry{taken: map[string]bool{"moonmap.example": true, "moon-map.example": true}}
	s, n := studytest.Begin(t, f, func(o *studytest.Setup) {
		o.Prices = map[ask.Question]int64{ask.Totals: 1000, ask.Names: 10}
		o.Market.Registry = reg
	})
	n.Endings = "example, test"
	n, _, err := s.Results.ChangeNiche(ctx, n)
	if err != nil || n.Endings != "example test" {
		t.Fatalf("%q, %v", n.Endings, err)
	}
	s.Imports.Take(ctx, n, "list", strings.NewReader("moon map\nstar chart\n"))
	b, _ := s.Ideas.Table(ctx, n)
	left := b.Pass(sieve.Sieve{})
	for key, want := range map[string]ask.Estimate{"pages": {Lookups: 4, Micros: 4000},
		"names": {Lookups: 24, Micros: 240}} {
		look := results.LookupOf(key)
		if open := look.Lacking(left); open.Count != 2 {
			t.Errorf("%s: %d are open", key, open.Count)
		}
		e, err := s.Results.Estimate(ctx, n, look, left.IDs(0, -1))
		most, err2 := s.Results.EstimateMost(ctx, n, look, 2)
		if err != nil || err2 != nil || e.Lookups != want.Lookups || e.Micros != want.Micros || most.Micros != e.Micros {
			t.Errorf("%s: %+v, at most %+v, %v", key, e, most, err)
		}
		job, err := s.Results.Start(ctx, n, look, left.IDs(0, -1), false)
		if err != nil {
			t.Fatal(err)
		}
		if v := studytest.Finish(t, s, job, nil); v.State != jobs.Done || v.Found != 2 {
			t.Fatalf("%s: %+v", key, v)
		}
	}
	b, _ = s.Ideas.Table(ctx, n)
	for text, want := range map[string]int{"exact=30000": 2, "exact=100": 0, "titles=30000": 2, "name-free=yes": 2} {
		key, value, _ := strings.Cut(text, "=")
		by, problems := sieve.Read([]sieve.Pair{{Key: key, Value: value}}, sieve.Sieve{})
		if got := b.Pass(by).Count; got != want || len(problems) > 0 {
			t.Errorf("%s leaves %d, not %d; %v", text, got, want, problems)
		}
	}
	story := studytest.Tell(t, s, n, studytest.Named(b, "moon map"))
	if free := story.Idea.FreeNames(); len(free) != 10 || free[0] != "moonmap.test" {
		t.Errorf("free are %v", free)
	}
	if left := results.LookupOf("names").Lacking(b.Pass(sieve.Sieve{})); left.Count != 0 {
		t.Errorf("%d are open still", left.Count)
	}
	asked := reg.asked.Load()
	job, _ := s.Results.Start(ctx, n, results.LookupOf("names"), b.Pass(sieve.Sieve{}).IDs(0, -1), false)
	if studytest.Finish(t, s, job, nil); reg.asked.Load() != asked {
		t.Error("what is at hand was asked again")
	}
}

// TestNamesThatCannotBeAskedFor say why, and stay open.
func TestNamesThatCannotBeAskedFor(t *testing.T) {
	refuses := &registry{fails: &market.Error{Source: "the registry", Trouble: market.Refused,
		Err: errors.New("403 Forbidden")}}
	s, n := studytest.Begin(t, &studytest.Fake{}, func(o *studytest.Setup) { o.Market.Registry = refuses })
	s.Imports.Take(ctx, n, "list", strings.NewReader("moon map\n"))
	b, _ := s.Ideas.Table(ctx, n)
	job, err := s.Results.Start(ctx, n, results.LookupOf("names"), b.Pass(sieve.Sieve{}).IDs(0, -1), false)
	if err != nil {
		t.Fatal(err)
	}
	studytest.Finish(t, s, job, nil)
	b, _ = s.Ideas.Table(ctx, n)
	story := studytest.Tell(t, s, n, studytest.Named(b, "moon map"))
	if !strings.Contains(story.Idea.CountError(), "403 Forbidden") || story.Idea.Value(sieve.FreeName).Known {
		t.Errorf("%q, %+v", story.Idea.CountError(), story.Idea.Value(sieve.FreeName))
	}
	for _, bad := range []string{"http://x", "com net org info dev app io"} {
		wrong := n
		wrong.Endings = bad
		if _, _, err := s.Results.ChangeNiche(ctx, wrong); err == nil {
			t.Errorf("endings %q are taken", bad)
		}
	}
}
