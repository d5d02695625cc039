package plan

import (
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

// TestByDue: what is due first, then what brings most an hour.
func TestByDue(t *testing.T) {
	due := []time.Time{{}, on("2027-03-01"), {}, on("2027-02-01"), on("2027-03-01")}
	if got := ByDue(due, []float64{1, 2, 3, 4, 5}); !slices.Equal(got, []int{3, 4, 1, 2, 0}) {
		t.Errorf("%v", got)
	}
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
