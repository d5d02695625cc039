package difficulty

import "testing"

// TestSays: the first sentence is in plain figures, at the ends of the scale as well.
func TestSays(t *testing.T) {
	plainly := Mine{SiteStanding: 7, LinkStanding: 35, Fit: WellMade}
	two := plainly
	two.PlannedLinks = 2
	worse := two
	worse.PlannedLinks, worse.Fit = 1, 80
	bare := plainly
	bare.Fit = 80
	best := plainly
	best.SiteStanding = Most
	for _, c := range []struct {
		difficulty, reach float64
		mine              Mine
		chance            Range
		want              string
	}{
		{26, 21, two, Range{0.38, 0.25, 0.55},
			"The top five needs a site standing of 26; with two solid links your 7 counts as 21: 38 %, 25–55."},
		{25.5, 7, plainly, Range{0.2, 0.2, 0.2}, "The top five needs a site standing of 26; your site has 7: 20 %."},
		{26, 9, worse, Range{0.1, 0, 0.3},
			"The top five needs a site standing of 26; with one solid link and a fit of 80 your 7 counts as 9: 10 %, 0–30."},
		{0.4, 0, bare, Range{0.6, 0.5, 0.8},
			"Any well-made page has a 50% chance of the top five or better; with a fit of 80 your 7 counts as 0: 60 %, " +
				"50–80."},
		{100, 100, best, Range{0.3, 0.1, 0.5},
			"No site standing is enough for the top five without links to the page; your site has 100+: 30 %, 10–50."},
	} {
		if got := Says(c.difficulty, c.mine.Counts(), c.reach, c.chance); got != c.want {
			t.Errorf("got  %s\nwant %s", got, c.want)
		}
	}
	for n, want := range map[int]string{0: "no", 10: "ten", 11: "11", -1: "-1"} {
		if got := Number(n); got != want {
			t.Errorf("%d is %q", n, got)
		}
	}
}
