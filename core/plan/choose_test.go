package plan

import (
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"testing"
	"time"
)

// bestByHand goes through all sets.
func bestByHand(topics []Candidate, hours int, withHub bool) (worth int64) {
next:
	for set := range 1 << len(topics) {
		var h int
		var w int64
		for i, t := range topics {
			if set>>i&1 == 0 {
				continue
			}
			if withHub && t.Hub != NoHub && set>>t.Hub&1 == 0 {
				continue next
			}
			h += t.Hours
			w += t.Worth
		}
		if h <= hours && w > worth {
			worth = w
		}
	}
	return worth
}

func TestChooseOfBruteForce(t *testing.T) {
	rng := rand.New(rand.NewPCG(7, 7))
	for n := range 300 {
		topics := make([]Candidate, rng.IntN(11))
		for i := range topics {
			topics[i] = Candidate{Name: fmt.Sprint(i), Hours: 1 + rng.IntN(8), Worth: int64(rng.IntN(30)), Hub: NoHub}
			if i > 2 && rng.IntN(2) == 0 {
				topics[i].Hub = rng.IntN(3)
			}
		}
		hours := rng.IntN(35)
		for _, withHub := range []bool{false, true} {
			got, err := Choose(topics, hours, Rules{SpokesWithHub: withHub})
			if err != nil {
				t.Fatal(err)
			}
			if want := bestByHand(topics, hours, withHub); got.Worth != want || got.Hours > hours ||
				len(got.Taken)+len(got.Left) != len(topics) {
				t.Fatalf("case %d, %v: worth %d in %d hours, by brute force %d in %d", n, withHub, got.Worth, got.Hours, want,
					hours)
			}
			in := map[int]bool{}
			for _, task := range got.Taken {
				if in[task.Candidate] || withHub && topics[task.Candidate].Hub != NoHub && !in[topics[task.Candidate].Hub] {
					t.Fatalf("case %d: %+v has a spoke before its hub, or a topic twice", n, got.Taken)
				}
				in[task.Candidate] = true
			}
		}
	}
}

func TestRules(t *testing.T) {
	today := time.Date(2026, 11, 23, 0, 0, 0, 0, time.UTC)
	topics := []Candidate{
		{Name: "best telescope", Hours: 10, Worth: 100, Hub: NoHub, Sells: true, Footholds: 1},
		{Name: "see saturn", Hours: 5, Worth: 10, Hub: NoHub, Footholds: 5},
		{Name: "see mars", Hours: 5, Worth: 12, Hub: NoHub, Footholds: 4, PublishBy: today.AddDate(0, 0, 21)},
		{Name: "comet tonight", Hours: 5, Worth: 50, Hub: NoHub, Footholds: 3, PublishBy: today.AddDate(0, 0, 3)},
	}
	names := func(c Choice) string {
		var out []string
		for _, task := range c.Taken {
			name := topics[task.Candidate].Name
			if task.Late {
				name += " (late)"
			}
			out = append(out, name)
		}
		return strings.Join(out, ", ")
	}
	for name, c := range map[string]struct {
		rules Rules
		hours int
		want  string
	}{
		"worth alone":         {Rules{}, 15, "comet tonight, best telescope"},
		"learn first":         {Rules{LearnFirst: true}, 15, "comet tonight, see mars, see saturn"},
		"the rest gets hours": {Rules{LearnFirst: true}, 25, "comet tonight, see mars, see saturn, best telescope"},
		"late is flagged":     {Rules{Today: today, PerWeek: 5}, 15, "best telescope, comet tonight (late)"},
		"late waits":          {Rules{Today: today, PerWeek: 5, LateWaits: true}, 15, "best telescope, see mars"},
		"nothing cheap":       {Rules{Floor: 9}, 25, "comet tonight, best telescope"},
		"nothing fits":        {Rules{}, 4, ""},
		"no hours":            {Rules{}, 0, ""},
		"by rate, dates in time": {Rules{Today: today, PerWeek: 10}, 25,
			"best telescope, comet tonight (late), see mars, see saturn"},
	} {
		got, err := Choose(topics, c.hours, c.rules)
		if err != nil || names(got) != c.want {
			t.Errorf("%s: %q, %v; want %q", name, names(got), err, c.want)
		}
	}
	first, _ := Choose(topics, 15, Rules{LearnFirst: true})
	if l := first.Left[0]; topics[l.Candidate].Name != "best telescope" ||
		!strings.Contains(l.Because, "use up the hours") {
		t.Errorf("why what sells waits: %+v", first.Left)
	}
	if first.Costs.LearnFirst != 150-72 || first.Costs.SpokesWithHub != 0 {
		t.Errorf("what the rule costs: %+v", first.Costs)
	}
	family := []Candidate{{Name: "saturn", Hours: 4, Worth: 3, Hub: NoHub}, {Name: "saturn by night", Hours: 4, Worth: 5,
		Footholds: 2}, {Name: "mars", Hours: 4, Worth: 2, Hub: NoHub, Footholds: 1}}
	if got, _ := Choose(family, 8, Rules{LearnFirst: true, SpokesWithHub: true}); got.Worth != 8 {
		t.Errorf("an overview without footholds does not go with its spoke: %+v", got)
	}
	got, _ := Choose(topics, 15, Rules{Today: today, PerWeek: 5, LateWaits: true})
	for _, l := range got.Left {
		if topics[l.Candidate].Name == "comet tonight" && !strings.Contains(l.Because, "26 November 2026") {
			t.Errorf("why it waits: %q", l.Because)
		}
	}
	if !got.Taken[0].Ready.Equal(today.AddDate(0, 0, 14)) || !got.Taken[1].Ready.Equal(today.AddDate(0, 0, 21)) {
		t.Errorf("ready %+v", got.Taken)
	}
	for name, bad := range map[string][]Candidate{"no hours": {{Name: "x", Hub: NoHub}},
		"less than nothing": {{Name: "x", Hours: 1, Worth: -1, Hub: NoHub}},
		"more than can be added up": {{Name: "x", Hours: 1, Worth: math.MaxInt64, Hub: NoHub},
			{Name: "y", Hours: 1, Worth: 1, Hub: NoHub}},
		"its own hub": {{Name: "x", Hours: 1}}, "hub of a hub": {{Name: "a", Hours: 1, Hub: 1},
			{Name: "b", Hours: 1, Hub: 2}, {Name: "c", Hours: 1, Hub: NoHub}}} {
		if _, err := Choose(bad, 10, Rules{}); err == nil {
			t.Errorf("%s is chosen from", name)
		}
	}
	if _, err := Choose(nil, -1, Rules{}); err == nil {
		t.Error("a negative budget")
	}
}

func BenchmarkChoose(b *testing.B) {
	rng := rand.New(rand.NewPCG(1, 7))
	topics := make([]Candidate, 300)
	for i := range topics {
		topics[i] = Candidate{Name: fmt.Sprint(i), Hours: 2 + rng.IntN(10), Worth: int64(rng.IntN(1e6)), Hub: NoHub}
		if i > 30 && i%2 == 0 {
			topics[i].Hub = rng.IntN(30)
		}
	}
	for b.Loop() {
		if _, err := Choose(topics, 500, Rules{SpokesWithHub: true}); err != nil {
			b.Fatal(err)
		}
	}
}
