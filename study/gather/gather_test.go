package gather_test

import (
	"context"
	"fmt"
	"math"
	"strings"
	"testing"

	"cleverniche/core/demand"
	"cleverniche/core/sieve"
	"cleverniche/market"
	"cleverniche/store"
	"cleverniche/study/ask"
	"cleverniche/study/gather"
	"cleverniche/study/studytest"
)

func TestEstimateOfGathering(t *testing.T) {
	s, n := studytest.Begin(t, &studytest.Fake{}, func(o *studytest.Setup) { o.Prices[ask.Suggestions] = 10 })
	plan := gather.Plan{Seeds: []string{"moon", "mars"}, Ways: []gather.Way{gather.Letters}}
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
	s.Imports.Take(ctx, n, "list", strings.NewReader("phrase,cpc\nmoon,0.70\n"))
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

func TestGather(t *testing.T) {
	f := &studytest.Fake{}
	s, n := studytest.Begin(t, f, nil)
	v := studytest.Gather(t, s, n, "moon")
	if v.State != store.Done || v.Total != 1+26+14+1 || v.Done != v.Total {
		t.Fatalf("job %+v", v)
	}
	b, _ := s.Ideas.Table(ctx, n)
	if want := 1 + 2*41 + 1; b.Len() != want { // the seed, two for each question, one shared
		t.Errorf("%d ideas, want %d", b.Len(), want)
	}
	story := studytest.Tell(t, s, n, studytest.Named(b, "shared idea"))
	if story.Idea.Value(sieve.Searches).Known || !strings.Contains(story.Idea.DemandError, "no figures") {
		t.Errorf("an idea the source does not know: %+v", story.Idea)
	}
	if got := sieve.FoundIn.NameOf(story.Idea.Value(sieve.FoundIn)); len(story.Origins) != 41 ||
		got != "completion, letter, question" {
		t.Errorf("an idea found in 41 ways remembers %d: %s", len(story.Origins), got)
	}
	before := f.Asked.Load()
	if studytest.Gather(t, s, n, "moon"); f.Asked.Load() != before {
		t.Errorf("%d fresh answers were asked for again", f.Asked.Load()-before)
	}
}

func TestReadSeeds(t *testing.T) {
	for _, bad := range []string{"", " \n\n", "🔭", strings.Repeat("a", 10000), "\u202e",
		strings.Repeat("seed of many words\n", 1) + strings.Repeat("x\ny\n", 0) + "\xff"} {
		seeds, ignored, err := gather.ReadSeeds(bad)
		if err == nil && len(ignored) == 0 {
			t.Errorf("%.20q is taken as %q", bad, seeds)
		}
	}
	many := ""
	for i := range gather.MostSeeds + 1 {
		many += fmt.Sprintf("seed %d\n", i)
	}
	if _, _, err := gather.ReadSeeds(many); err == nil {
		t.Error("more seeds than allowed are taken")
	}
	if seeds, ignored, err := gather.ReadSeeds("Moon\r\nמפת כוכבים\n<b>x</b>\n🔭\nmoon"); err != nil ||
		len(seeds) != 3 || len(ignored) != 1 || ignored[0].Line != 4 {
		t.Errorf("%q, %+v, %v", seeds, ignored, err)
	}
}

func TestARefusedPhraseSaysWhy(t *testing.T) {
	s, n := studytest.Begin(t, &studytest.Fake{Refuses: "forbidden"}, nil)
	s.Imports.Take(ctx, n, "list", strings.NewReader("forbidden fruit"))
	j, err := s.Gathering.LookUpSearches(ctx, n)
	if v := studytest.Finish(t, s, j, err); v.Failed != 1 || !strings.Contains(v.Message, "1 of 1 failed") {
		t.Errorf("%+v", v)
	}
	b, _ := s.Ideas.Table(ctx, n)
	if idea := studytest.Tell(t, s, n, studytest.Named(b, "forbidden fruit")).Idea; !strings.Contains(idea.DemandError,
		"not that") {
		t.Errorf("%+v", idea)
	}
}
