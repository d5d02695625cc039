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
		asks float64
		want string
	}{
		{result{Entry: entry(true, 5, 0), Seen: 3, Reasons: []string{"small site", "few links"}}, 6,
			"a.example looks like a site standing of 3, as its position suggests. A foothold within your reach: small site, " +
				"few links."},
		{result{Entry: entry(true, 60, 0), Seen: 60, Reasons: []string{"few links", "title miss"}}, 31,
			"looks like a site standing of 60, but ranks lower: 31 is enough to outrank it. " +
				"A foothold all the same: few links, title miss."},
		{result{Entry: entry(false, 60, 0), Seen: 12}, 40,
			"looks like a site standing of 12, but ranks like 40: something we cannot see helps it."},
		{result{Entry: entry(false, 60, 0), Seen: 50, Reasons: []string{"stale"}}, 50,
			"Weak, but no foothold by the rule: stale."},
		{result{Entry: entry(false, 60, 0), Seen: 100}, 100,
			"a.example looks like a site standing of 100+, as its position suggests."},
		{result{Entry: entry(true, 5, 0), Mine: true, Seen: 5}, 5, "This is your own page."},
	} {
		if got := c.r.against(c.asks, 20); !strings.HasSuffix(got, c.want) {
			t.Errorf("got  %s\nwant %s", got, c.want)
		}
	}
}

func TestWhichPlacesAreCovered(t *testing.T) {
	for covered, want := range map[int]string{0: "your reach 21 covers none of the top ten",
		1: "your reach 21 covers no. 10",
		4: "your reach 21 covers no. 7 to 10", 10: "your reach 21 covers all places"} {
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
		ev := results.Evidence{Verdict: difficulty.Verdict{Stairs: asks, Forecast: difficulty.Forecast{Reach: 20}}}
		for i := range n {
			ev.Reading.Entries = append(ev.Reading.Entries, serp.Entry{Position: i + 1, Site: "a.example"})
		}
		v := View{Story: results.Story{Evidence: &ev}}
		v.climb(ev)
		drawn := v.Stairs()
		if len(v.Places) != 10 || len(drawn.Steps) != 10 || len(v.Behind) != behind ||
			v.Covers != "your reach 20 covers no. 5 to 10" {
			t.Errorf("%d results: %d places, %d behind, %s", n, len(v.Places), len(v.Behind), v.Covers)
		}
		if empty := v.Places[9]; n < 10 && (empty.There != nil || empty.Says != "No. 10 needs a site standing of 4. "+
			"Nobody ranks there.") {
			t.Errorf("%d results: %s", n, empty.Says)
		}
	}
}
