package idea

import (
	"strings"
	"testing"

	"cleverniche/core/difficulty"
	"cleverniche/core/links"
	"cleverniche/core/serp"
	"cleverniche/study/results"
)

// TestWhatIsSaidOfAResult: the rule and what it holds are told as one story, and where
// they differ, why.
func TestWhatIsSaidOfAResult(t *testing.T) {
	entry := func(foothold bool, site float64, solid int) serp.Entry {
		return serp.Entry{Site: "a.example", Foothold: foothold, SiteStanding: site, Profile: links.Profile{Solid: solid}}
	}
	for _, c := range []struct {
		r    result
		want string
	}{
		{result{Entry: entry(true, 5, 0), Holds: 3, Reasons: []string{"small site", "few links"}},
			"a.example holds 3, less than my page would. A foothold, too: small site, few links."},
		{result{Entry: entry(true, 60, 0), Holds: 60, Reasons: []string{"few links", "title miss"}},
			"a.example holds 60. A foothold all the same: few links, title miss. Its site’s standing of 60 carries it."},
		{result{Entry: entry(true, 5, 1), Holds: 30, Reasons: []string{"community"}}, "What it holds comes by 1 solid link."},
		{result{Entry: entry(true, 5, 0), Holds: 30, Reasons: []string{"community"}},
			"What it holds is how well it answers."},
		{result{Entry: entry(false, 60, 0), Holds: 3},
			"less than my page would. By the rule it is no foothold: nothing in it is weak."},
		{result{Entry: entry(false, 60, 0), Holds: 3, Reasons: []string{"title miss"}},
			"less than my page would. By the rule it is no foothold: weak in one thing only (title miss)."},
		{result{Entry: entry(false, 60, 0), Holds: 50, Reasons: []string{"stale"}},
			"Weak in one thing (stale), which makes no foothold."},
		{result{Entry: entry(false, 60, 0), Holds: 100}, "a.example holds 100+."},
		{result{Entry: entry(true, 5, 0), Mine: true, Holds: 5}, "a.example holds 5: it is my own page."},
	} {
		if got := c.r.against(20); !strings.HasSuffix(got, c.want) {
			t.Errorf("got  %s\nwant %s", got, c.want)
		}
	}
}

func TestWhichPlacesAreCovered(t *testing.T) {
	for covered, want := range map[int]string{0: "my reach 21 covers no place", 1: "my reach 21 covers place 10",
		4: "my reach 21 covers places 7 to 10", 10: "my reach 21 covers all places"} {
		if got := coverWords(covered, 10, 21, false); got != want {
			t.Errorf("%d: %s", covered, got)
		}
	}
	if got := coverWords(4, 10, 21, true); got != "locked" {
		t.Error(got)
	}
}

// TestFewResults: places where nobody stands are places all the same, and what is
// behind the ten is no place.
func TestFewResults(t *testing.T) {
	asks := []float64{50, 40, 30, 25, 20, 15, 10, 8, 6, 4}
	for n, behind := range map[int]int{0: 0, 3: 0, 10: 0, 14: 4} {
		ev := results.Evidence{Verdict: difficulty.Verdict{Stairs: asks, Reach: 20}}
		for i := range n {
			ev.Reading.Entries = append(ev.Reading.Entries, serp.Entry{Position: i + 1, Site: "a.example"})
		}
		v := View{Story: results.Story{Evidence: &ev}}
		v.climb(ev)
		drawn := v.Stairs()
		if len(v.Places) != 10 || len(drawn.Steps) != 10 || len(v.Behind) != behind ||
			v.Covers != "my reach 20 covers places 5 to 10" {
			t.Errorf("%d results: %d places, %d behind, %s", n, len(v.Places), len(v.Behind), v.Covers)
		}
		if empty := v.Places[9]; n < 10 && (empty.There != nil || empty.Says != "Place 10 asks for 4. Nobody stands there.") {
			t.Errorf("%d results: %s", n, empty.Says)
		}
	}
}
