// Package worth says what a topic could bring: visits by position, a ceiling and a
// cautious share of it, and what is to be expected, as a range and never as one
// number. Money is whole micro-units of one currency (a millionth), never a float
// that is added up.
package worth

import (
	"fmt"
	"math"
	"slices"
)

// Micros is an amount of money in millionths of a unit of some currency.
type Micros int64

// times multiplies an amount by a number, to the nearest micro; half away from zero.
func (m Micros) times(x float64) Micros { return Micros(math.Round(float64(m) * x)) }

// DaysAMonth turns a month's searches into a day's.
const DaysAMonth = 30.4

// Curve is a share for each organic position, from the first on; nothing below the last.
type Curve []float64

// OfClicks is the share of clicks on each position in the log study of a large engine's searches of 2006 (the figures
// are from memory, and differ in the last digit between reports of it).
var OfClicks = Curve{0.421, 0.119, 0.085, 0.061, 0.049, 0.041, 0.034, 0.030, 0.028, 0.030}

// Clicking is the share of searches that end in a click at all: 19.4 of 36.4 million in the same log (from memory).
// Of later years smaller shares are told, so that this is rather too much.
const Clicking = 0.53

// Searches is the share of searches that click on each position.
var Searches = func() Curve {
	out := make(Curve, len(OfClicks))
	for i, share := range OfClicks {
		out[i] = Clicking * share
	}
	return out
}()

// At is the share of a position, from 1.
func (c Curve) At(position int) float64 {
	if position < 1 || position > len(c) {
		return 0
	}
	return c[position-1]
}

// Observed is one line of a search report: how often a phrase was shown at a mean
// position, and clicked; and what share of clicks is left beside ads and boxes, 0 all.
type Observed struct {
	Position    float64
	Impressions int
	Clicks      int
	Left        float64
}

// At is one place of a report: how often pages were shown there and clicked.
type At struct {
	Place, Impressions, Clicks int
}

// fewestShown is how many impressions a position needs before its own rate is
// believed as much as Searches (ours).
const fewestShown = 200

// FewestClicks is from how many clicks on a report's own curve begins to replace Searches (ours).
const FewestClicks = 200

// OwnCurve is the curve of one's own search report, by rounded position up to the tenth, and what it was made of. Below
// FewestClicks it is Searches; from there on it takes their place by degrees, half of it at twice as many, and what few
// have seen is drawn towards Searches, as if that had been seen fewestShown times. Lines without impressions, of
// impossible clicks or of positions past ten say nothing.
func OwnCurve(report []Observed) (curve Curve, by []At, clicks int) {
	shown, clicked := make([]float64, len(Searches)), make([]float64, len(Searches))
	by = make([]At, len(Searches))
	for i := range by {
		by[i].Place = i + 1
	}
	for _, o := range report {
		at := int(math.Round(o.Position)) - 1
		if at < 0 || at >= len(shown) || o.Impressions <= 0 || o.Clicks < 0 || o.Clicks > o.Impressions {
			continue
		}
		left := o.Left
		if !(left > 0 && left <= 1) {
			left = 1
		}
		shown[at] += left * float64(o.Impressions)
		clicked[at] += float64(o.Clicks)
		by[at].Impressions += o.Impressions
		by[at].Clicks += o.Clicks
		clicks += o.Clicks
	}
	curve = slices.Clone(Searches)
	if clicks < FewestClicks {
		return curve, by, clicks
	}
	part := float64(clicks-FewestClicks) / float64(clicks)
	for i := range curve {
		own := min(1, (clicked[i]+Searches[i]*fewestShown)/(shown[i]+fewestShown))
		curve[i] += part * (own - curve[i])
	}
	return curve, by, clicks
}

// Beside is what else is on a results page and takes clicks.
type Beside struct {
	Ads         int
	AnswerBox   bool
	ShoppingRow bool
}

// What stands beside the results takes this share of the clicks (ours; that it takes
// some is common practice).
const (
	adTakes     = 0.05 // each, four at most
	mostAds     = 4
	answerTakes = 0.25
	rowTakes    = 0.10
)

// Left is the share of clicks that is left for the organic results, 0 to 1.
func (b Beside) Left() float64 {
	left := 1 - adTakes*float64(max(0, min(mostAds, b.Ads)))
	if b.AnswerBox {
		left *= 1 - answerTakes
	}
	if b.ShoppingRow {
		left *= 1 - rowTakes
	}
	return left
}

// VisitsADay is the visits a day of the first place as the trade counts them, 42 of a hundred searches (common
// practice; 80 to 100 are asked for). Those are shares of clicks: fewer come.
func VisitsADay(searches float64) float64 { return searches * OfClicks.At(1) / DaysAMonth }

// cautiousShare of the ceiling (common practice, no source).
const cautiousShare = 0.10

// Ceiling is what advertisers would pay for every search: searches × cost per click.
func Ceiling(searches float64, cpc Micros) Micros { return cpc.times(searches) }

// Cautious is a tenth of the ceiling.
func Cautious(searches float64, cpc Micros) Micros {
	return Ceiling(searches, cpc).times(cautiousShare)
}

// ClicksUntilSale is how many clicks one sale takes: 1 over the share that buys.
// Infinity when nobody does.
func ClicksUntilSale(conversion float64) float64 { return 1 / math.Max(0, conversion) }

// Range is a figure from a low over a likely to a high one. Low ≤ Likely ≤ High.
type Range struct{ Low, Likely, High float64 }

func (r Range) check(name string, most float64) error {
	if !(r.Low >= 0 && r.Low <= r.Likely && r.Likely <= r.High && r.High <= most) {
		return fmt.Errorf("%s is %g – %g – %g: not rising, or not between 0 and %g", name, r.Low, r.Likely, r.High, most)
	}
	return nil
}

// Earning is how visits become money, by advertisements and as an affiliate.
type Earning struct {
	PerThousand Range // units of the currency for a thousand visits, from advertisements
	ClickOn     Range // share of visitors that goes on to a shop
	Conversion  Range // share of these that buys
	Order       Range // units of the currency
	Commission  Range // share of the order
}

// Check says what is wrong with an earning.
func (e Earning) Check() error {
	for _, c := range []struct {
		name string
		r    Range
		most float64
	}{{"revenue per thousand visits", e.PerThousand, 1e6}, {"click-through", e.ClickOn, 1},
		{"conversion", e.Conversion, 1},
		{"order", e.Order, 1e7}, {"commission", e.Commission, 1}} {
		if err := c.r.check(c.name, c.most); err != nil {
			return err
		}
	}
	return nil
}

// PerVisit is what a visit brings, in units of the currency.
func (e Earning) PerVisit() Range {
	f := func(of func(Range) float64) float64 {
		return of(e.PerThousand)/1000 + of(e.ClickOn)*of(e.Conversion)*of(e.Order)*of(e.Commission)
	}
	return Range{f(func(r Range) float64 { return r.Low }), f(func(r Range) float64 { return r.Likely }),
		f(func(r Range) float64 { return r.High })}
}

// Money is an expected amount a month, with a range.
type Money struct{ Low, Likely, High Micros }

// Add adds two amounts of one currency.
func (m Money) Add(o Money) Money {
	return Money{m.Low + o.Low, m.Likely + o.Likely, m.High + o.High}
}

// Visits are what a page is visited a month, and what that is made of.
type Visits struct {
	Number  float64
	Because string
}

// Share is the share of searches that click, by the chances of each position from the first on.
func (c Curve) Share(chances []float64, b Beside) (share float64) {
	for i, p := range chances {
		share += p * c.At(i+1)
	}
	return share * b.Left()
}

// Expected multiplies out: searches a month × Σ P(position) × share of clicks × what is
// left for organic results. chances holds the probability of each position from the
// first on; what is missing to 1 brings nothing. The error says which input cannot be.
func Expected(searches float64, chances []float64, c Curve, b Beside) (Visits, error) {
	if !(searches >= 0) || math.IsInf(searches, 0) {
		return Visits{}, fmt.Errorf("searches are %g", searches)
	}
	share, sum := 0.0, 0.0
	for i, p := range chances {
		if sum += p; !(p >= 0) || sum > 1+1e-9 {
			return Visits{}, fmt.Errorf("the chances of positions are no distribution: %g at %d", p, i+1)
		}
		share += p * c.At(i+1)
	}
	n := searches * share * b.Left()
	return Visits{n,
		fmt.Sprintf("%.0f searches × %.1f %% clicks over all positions × %.0f %% left beside ads and boxes = %.1f "+
			"visits a month",
			searches, 100*share, 100*b.Left(), n)}, nil
}

// Forecast is what is expected of one topic, and what went in.
type Forecast struct {
	Visits  float64 // a month, over all positions
	Money   Money
	Because string
}

// Expect is what expected visits bring, by what a visit is worth. The error says
// which input cannot be.
func Expect(searches float64, chances []float64, c Curve, b Beside, e Earning) (Forecast, error) {
	if err := e.Check(); err != nil {
		return Forecast{}, err
	}
	visits, err := Expected(searches, chances, c, b)
	if err != nil {
		return Forecast{}, err
	}
	value := e.PerVisit()
	amount := func(perVisit float64) Micros { return Micros(math.Round(visits.Number * perVisit * 1e6)) }
	return Forecast{Visits: visits.Number, Money: Money{amount(value.Low), amount(value.Likely), amount(value.High)},
		Because: fmt.Sprintf("%s, at %.3f to %.3f each", visits.Because, value.Low, value.High)}, nil
}
