package sieve

import (
	"fmt"
	"testing"
)

// TestByFitting: a pattern's words in their order, and something in each gap.
func TestByFitting(t *testing.T) {
	phrases := []string{"can you see saturn with binoculars", "can you see with binoculars", "can you see mars",
		"what can you see with binoculars", "how to see the moon"}
	ideas := make([]Idea, len(phrases))
	for i, p := range phrases {
		ideas[i] = Unmeasured(uint(i+1), p, 3)
	}
	table := NewTable("en", ideas)
	for text, want := range map[string]string{"Can you see * with binoculars?": "[1]", "can you see *": "[1 2 3]",
		"* with binoculars": "[1 2 4]", "how * moon, can you see *": "[1 2 3 5]", "can you see mars": "[3]",
		"nothing * here": "[]"} {
		s, problems := Read([]Pair{{Key: "fits", Value: text}}, Sieve{})
		if len(problems) > 0 || len(s.Filters) != 1 || s.Filters[0].Check() != nil {
			t.Fatalf("%q: %+v, %v", text, s, problems)
		}
		got := []uint{}
		res := table.Pass(s.Filters)
		for at := range table.Len() {
			if res.Left.Has(at) {
				got = append(got, table.ID(at))
			}
		}
		if fmt.Sprint(got) != want {
			t.Errorf("%q leaves %v instead of %s", text, got, want)
		}
	}
	if s, _ := Read([]Pair{{Key: "fits", Value: "*, * *"}}, Sieve{}); len(s.Filters) != 0 {
		t.Errorf("gaps alone are a filter: %+v", s)
	}
}

// BenchmarkFitting is a pattern over a million ideas.
func BenchmarkFitting(b *testing.B) {
	ideas := make([]Idea, 1_000_000)
	for i := range ideas {
		ideas[i] = Unmeasured(uint(i+1), fmt.Sprintf("can you see star %d with binoculars", i), 7)
	}
	table := NewTable("en", ideas)
	table.Ready()
	k := 0
	for b.Loop() {
		k++ // another one each time, so that nothing is remembered
		table.Pass([]Filter{Holding(ByFitting, "can you see * with binoculars", fmt.Sprintf("star %d", k))})
	}
}
