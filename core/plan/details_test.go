package plan

import (
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"cleverniche/core/serp"
)

// taken are the names that are chosen, in their order.
func taken(t *testing.T, topics []Candidate, hours int, rules Rules) []string {
	t.Helper()
	c, err := Choose(topics, hours, rules)
	if err != nil {
		t.Fatal(err)
	}
	var out []string
	for _, task := range c.Taken {
		out = append(out, topics[task.Candidate].Name)
	}
	return out
}

// TestChoiceInDetail: what is chosen where one rule decides.
func TestChoiceInDetail(t *testing.T) {
	today := time.Date(2026, 11, 23, 0, 0, 0, 0, time.UTC)
	for name, c := range map[string]struct {
		topics []Candidate
		hours  int
		rules  Rules
		want   []string
	}{
		"a spoke of a hub that is held in": {[]Candidate{{Name: "hub", Hours: 5, Worth: 1, Hub: NoHub, Held: In},
			{Name: "spoke", Hours: 5, Worth: 9}}, 10, Rules{SpokesWithHub: true}, []string{"hub", "spoke"}},
		"a new site begins where somebody is weak": {[]Candidate{{Name: "strong", Hours: 5, Worth: 100, Hub: NoHub},
			{Name: "weak", Hours: 5, Worth: 1, Hub: NoHub, Footholds: 2}}, 5, Rules{LearnFirst: true}, []string{"weak"}},
		"of as much worth in fewer hours": {[]Candidate{{Name: "long", Hours: 8, Worth: 10, Hub: NoHub},
			{Name: "short", Hours: 5, Worth: 10, Hub: NoHub}}, 10, Rules{}, []string{"short"}},
		"ready on its last day": {[]Candidate{{Name: "comet", Hours: 5, Worth: 1, Hub: NoHub,
			PublishBy: today.AddDate(0, 0, 7)}}, 5, Rules{Today: today, PerWeek: 5, LateWaits: true}, []string{"comet"}},
	} {
		if got := taken(t, c.topics, c.hours, c.rules); !slices.Equal(got, c.want) {
			t.Errorf("%s: %q", name, got)
		}
	}
}

// TestInOrder: what brings most an hour comes first; what is due comes earlier only where it would be too late
// otherwise.
func TestInOrder(t *testing.T) {
	today := time.Date(2026, 11, 29, 0, 0, 0, 0, time.UTC)
	in := func(weeks int) time.Time { return today.AddDate(0, 0, 7*weeks) }
	names := func(works []Work, perWeek int) string {
		out := ""
		for _, i := range InOrder(works, today, perWeek) {
			out += works[i].Name
		}
		return out
	}
	for want, works := range map[string][]Work{
		"bac": {{"a", 5, 10, in(9), false}, {"b", 5, 20, time.Time{}, false}, {"c", 5, 5, time.Time{}, false}},
		"abc": {{"a", 5, 10, in(1), false}, {"b", 5, 20, time.Time{}, false}, {"c", 5, 5, time.Time{}, false}},
		"bca": {{"a", 10, 1, in(1), false}, {"b", 5, 20, time.Time{}, false}, {"c", 5, 5, time.Time{}, false}},
		// d and c would be late behind a.
		"dcab": {{"a", 5, 9, time.Time{}, false}, {"b", 5, 8, in(9), false}, {"c", 5, 1, in(2), false},
			{"d", 5, 2, in(1), false}},
		"acb": {{"a", 5, 1, time.Time{}, false}, {"b", 5, 90, time.Time{}, true}, {"c", 5, 0, time.Time{}, false}},
	} {
		if got := names(works, 5); got != want {
			t.Errorf("%s, and not %s", got, want)
		}
	}
	if got := names([]Work{{"a", 5, 9, time.Time{}, false}, {"b", 5, 8, in(9), false}}, 0); got != "ba" {
		t.Errorf("without hours a week %s", got)
	}
	// Against all orders: no order has more in time, and of those none has its worth earlier.
	rng := rand.New(rand.NewPCG(3, 9))
	for range 300 {
		works := make([]Work, 2+rng.IntN(5))
		for i := range works {
			works[i] = Work{Name: string(rune('a' + i)), Hours: 1 + rng.IntN(6), Worth: int64(rng.IntN(50))}
			if rng.IntN(2) == 0 {
				works[i].Due = in(1 + rng.IntN(4))
			}
		}
		inTime := func(order []int) (n int) {
			hours := 0
			for _, i := range order {
				hours += works[i].Hours
				if w := works[i]; !w.Due.IsZero() && !(Rules{Today: today, PerWeek: 4}).readyAfter(hours).After(w.Due) {
					n++
				}
			}
			return n
		}
		most := 0
		permute(len(works), func(order []int) { most = max(most, inTime(order)) })
		if got := inTime(InOrder(works, today, 4)); got != most {
			t.Fatalf("%d in time of %d that could be: %+v", got, most, works)
		}
	}
}

// permute calls do for every order of n.
func permute(n int, do func([]int)) {
	order := make([]int, n)
	for i := range order {
		order[i] = i
	}
	var from func(k int)
	from = func(k int) {
		if k == n {
			do(order)
			return
		}
		for i := k; i < n; i++ {
			order[k], order[i] = order[i], order[k]
			from(k + 1)
			order[k], order[i] = order[i], order[k]
		}
	}
	from(0)
}

// TestPublishedTakesNoRoom: what is out is laid out around by nobody.
func TestPublishedTakesNoRoom(t *testing.T) {
	got := LayOut([]Article{{Hours: 8, Start: on("2026-11-26"), Published: on("2026-12-01")}, {Hours: 8}},
		on("2026-11-26"), 8)
	if !got[1].Equal(on("2026-11-26")) {
		t.Errorf("begins on %v", got[1])
	}
}

// TestQuestionsInDetail: the engine's questions that share only the audience with the lead are not asked, and what is
// asked does not stand among the headings again.
func TestQuestionsInDetail(t *testing.T) {
	page := &serp.Page{Title: "Telescopes", Headings: []string{"What can a beginner see?", "Mounts of telescopes"}}
	b := BriefOf(Subject{Lead: "best telescope for beginners", Lang: "en", Pages: []*serp.Page{page, page},
		Related: []string{"Is baking good for beginners?", "What can a beginner see?"}})
	if len(b.Questions) != 1 || b.Questions[0].Text != "what can a beginner see" {
		t.Errorf("questions %+v", b.Questions)
	}
	for _, h := range b.Headings {
		if h.Text == "What can a beginner see?" {
			t.Errorf("headings %+v", b.Headings)
		}
	}
}
