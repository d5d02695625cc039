package topics_test

import (
	"testing"

	"cleverniche/core/sieve"
	"cleverniche/study/niches"
	"cleverniche/study/studytest"
)

func benchmarkTopics(b *testing.B, ideas int) {
	s, n := studytest.Crowded(b, ideas)
	t, err := s.Topics.Of(ctx, n)
	if err != nil {
		b.Fatal(err)
	}
	b.Logf("%d ideas in %d topics", t.Ideas, len(t.List))
	b.Run("cold", func(b *testing.B) { // what was found is read, grouped and put into columns
		for b.Loop() {
			s.Ideas.Forget(n.ID)
			s.Topics.Forget(n.ID)
			if _, err := s.Topics.Of(ctx, n); err != nil {
				b.Fatal(err)
			}
		}
	})
	b.Run("regrouped", func(b *testing.B) {
		shared := 2
		for b.Loop() {
			shared = 2 + (shared-1)%7
			if n, err = s.Topics.Regroup(ctx, n, niches.ScopeLooked, shared); err != nil {
				b.Fatal(err)
			}
			if _, err := s.Topics.Of(ctx, n); err != nil {
				b.Fatal(err)
			}
		}
	})
	b.Run("shown", func(b *testing.B) { // a screen of them, when nothing has changed
		for b.Loop() {
			t, err := s.Topics.Of(ctx, n)
			if err != nil {
				b.Fatal(err)
			}
			if _, err := t.Table().Pass(sieve.Sieve{}.By(sieve.Searches, true)).Ideas(ctx, 0, 30); err != nil {
				b.Fatal(err)
			}
		}
	})
}

func BenchmarkTopics5k(b *testing.B) { benchmarkTopics(b, 5_000) }

func BenchmarkTopics20k(b *testing.B) { benchmarkTopics(b, 20_000) }
