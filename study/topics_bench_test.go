package study

import (
	"fmt"
	"math/rand/v2"
	"os"
	"testing"
	"time"

	"cleverniche/board"
	"cleverniche/core/sieve"
	"cleverniche/core/topic"
	"cleverniche/store"
)

// crowded is a niche with so many ideas that are looked up: needs of a few wordings each, whose tens share
// most of their pages.
func crowded(b *testing.B, ideas int) (*Study, Niche) {
	b.Helper()
	path := b.TempDir() + "/d.db"
	if kept := os.Getenv("CROWD"); kept != "" { // make measure shows it in a browser
		if err := store.Remove(kept); err != nil {
			b.Fatal(err)
		}
		path = kept
	}
	st, err := store.Open(path, time.Now)
	if err != nil {
		b.Fatal(err)
	}
	s := New(st, Market{}, Options{})
	b.Cleanup(func() { s.Close(); st.Close() })
	n, err := s.CreateNiche(ctx, Niche{Name: "Crowd", Country: "us", Language: "en", VisitMicros: 50_000})
	if err != nil {
		b.Fatal(err)
	}
	rng := rand.New(rand.NewPCG(17, 17))
	now := time.Now()
	var finds []store.Find
	for i := range ideas {
		searches := 1 + rng.IntN(5000)
		need := i / 3
		finds = append(finds, store.Find{Idea: store.Idea{Phrase: fmt.Sprintf("need%d words %d", need, i), Words: 3,
			VariantKey: fmt.Sprint(i), Searches: &searches, DemandAt: &now, Clicks: 0.1, ClicksLow: 0.05, ClicksHigh: 0.2,
			Article: "how-to", Footholds: 3}, Origin: store.Origin{Kind: "list", Query: "q"}})
	}
	if _, err := st.AddIdeas(ctx, n.ID, finds); err != nil {
		b.Fatal(err)
	}
	all, err := s.Board(ctx, n)
	if err != nil {
		b.Fatal(err)
	}
	var list []store.Judgement
	for at := range all.Len() {
		id, p := all.Table.ID(at), all.Table.Phrase(at)
		var need, word int
		fmt.Sscanf(p, "need%d words %d", &need, &word)
		var urls, titles []string
		for k := range 10 {
			page := fmt.Sprintf("http://site%d.example/%d", (need*7+k)%600, need)
			if rng.IntN(3) == 0 {
				page = fmt.Sprintf("http://site%d.example/other/%d", k, rng.IntN(ideas))
			}
			urls, titles = append(urls, page), append(titles, p)
		}
		f := topic.FoundFor(p, "en", urls, titles)
		list = append(list, store.Judgement{Idea: store.Idea{ID: id, JudgedAt: &now, Clicks: 0.1, ClicksLow: 0.05,
			ClicksHigh: 0.2, Article: "how-to", Footholds: 3}, Found: board.FoundRow(f)})
	}
	if err := st.SaveJudgements(ctx, n.ID, list...); err != nil {
		b.Fatal(err)
	}
	if n, err = s.Regroup(ctx, n, ScopeLooked, topic.Shared); err != nil {
		b.Fatal(err)
	}
	return s, n
}

func benchmarkTopics(b *testing.B, ideas int) {
	s, n := crowded(b, ideas)
	t, err := s.Topics(ctx, n)
	if err != nil {
		b.Fatal(err)
	}
	b.Logf("%d ideas in %d topics", t.Ideas, len(t.List))
	b.Run("cold", func(b *testing.B) { // what was found is read, grouped and put into columns
		for b.Loop() {
			s.boards.Forget(n.ID)
			s.groupings.of = nil
			if _, err := s.Topics(ctx, n); err != nil {
				b.Fatal(err)
			}
		}
	})
	b.Run("regrouped", func(b *testing.B) {
		shared := 2
		for b.Loop() {
			shared = 2 + (shared-1)%7
			if n, err = s.Regroup(ctx, n, ScopeLooked, shared); err != nil {
				b.Fatal(err)
			}
			if _, err := s.Topics(ctx, n); err != nil {
				b.Fatal(err)
			}
		}
	})
	b.Run("shown", func(b *testing.B) { // a screen of them, when nothing has changed
		for b.Loop() {
			t, err := s.Topics(ctx, n)
			if err != nil {
				b.Fatal(err)
			}
			if _, err := t.Board().Pass(sieve.Sieve{}.By(sieve.Searches, true)).Ideas(ctx, 0, 30); err != nil {
				b.Fatal(err)
			}
		}
	})
}

func BenchmarkTopics5k(b *testing.B)  { benchmarkTopics(b, 5_000) }
func BenchmarkTopics20k(b *testing.B) { benchmarkTopics(b, 20_000) }

// BenchmarkChoice chooses among 300 topics for a year.
func BenchmarkChoice(b *testing.B) {
	s, n := crowded(b, 900)
	rules := ChoiceRules{Weeks: 52, SpokesWithHub: true, LearnFirst: true, Waits: true}
	c, err := s.Choose(ctx, n, rules)
	if err != nil {
		b.Fatal(err)
	}
	b.Logf("%d of %d topics, %d of %d hours", len(c.Taken), c.Asked, c.Hours, c.Have)
	for b.Loop() {
		if _, err := s.Choose(ctx, n, rules); err != nil {
			b.Fatal(err)
		}
	}
}
