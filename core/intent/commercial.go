package intent

import (
	"fmt"
	"math"
)

// Commerce is what the commercial score is told from. What money is paid is whole
// micro-units of one currency.
type Commerce struct {
	Shares   Shares
	CPC      int64 // cost per click; −1 unknown
	Usual    int64 // the middle cost per click of the niche's ideas; −1 unknown
	Looked   bool  // the results are known, and with them:
	Ads      int   // ads beside the results
	Shopping bool  // a row of offers
	Sell     int   // pages of the ten that sell or compare
	Results  int
}

// Points of the commercial score (ours; they sum to 100). That cost per click, ads and
// shops tell of money is common practice; none of them says how hard page one is, and
// none is mixed into difficulty.
const (
	wantPoints = 40
	sellPoints = 25
	costPoints = 20
	adPoints   = 15
)

// manyAds is the number of ads from which more of them say no more (ours).
const manyAds = 4

// Part is one line of the score.
type Part struct {
	Name         string
	Points, Most float64
	Because      string
	Known        bool
}

// Commercial is how far money is in a phrase, 0 to 100, with what it is made of. What
// is not known is left out of both sides.
type Commercial struct {
	Score float64
	Parts []Part
}

// Score reckons how far money is in a phrase.
func (c Commerce) Score() Commercial {
	var out Commercial
	points, most := 0.0, 0.0
	part := func(name string, of, share float64, known bool, because string) {
		p := Part{Name: name, Most: of, Known: known, Because: because}
		if known {
			p.Points = of * math.Max(0, math.Min(1, share))
			points, most = points+p.Points, most+of
		}
		out.Parts = append(out.Parts, p)
	}
	after := c.Shares[Compare] + c.Shares[Buy]
	part("wants", wantPoints, after, c.Shares != Shares{}, fmt.Sprintf("%.0f %% want to compare or buy", 100*after))
	part("pages that sell or compare", sellPoints, float64(c.Sell)/math.Max(1, float64(c.Results)), c.Looked &&
		c.Results > 0,
		fmt.Sprintf("%d of %d results", c.Sell, c.Results))
	known := c.CPC >= 0 && c.Usual > 0
	because := "not known"
	if known {
		because = fmt.Sprintf("%.1f times the niche’s median", float64(c.CPC)/float64(c.Usual))
	}
	// The usual cost gives half of the points, twice as much two thirds.
	part("cost per click", costPoints, float64(c.CPC)/float64(c.CPC+c.Usual), known, because)
	ads, say := float64(c.Ads)/manyAds, fmt.Sprintf("%d ads", c.Ads)
	if c.Shopping {
		ads, say = ads+0.5, say+" and a shopping row"
	}
	part("ads on the page", adPoints, ads, c.Looked, say)
	if most > 0 {
		out.Score = 100 * points / most
	}
	return out
}
