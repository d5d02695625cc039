// Package watch holds what was forecast for a page against what came: a band of places by week, whether the page stands
// better, as or worse than that, and over many pages whether chances were right.
package watch

import (
	"fmt"
	"math"
	"slices"
	"time"

	"cleverniche/core/serp"
)

// Depth is how far down places are looked for. A page that is not among so many is below, which is not place 0.
const Depth = 100

// Point is where a page stood on a day.
type Point struct {
	Day   time.Time
	Place int // from 1; 0 it was not among the first Depth
}

// Says is a place in words.
func Says(place int) string {
	if place == 0 {
		return fmt.Sprintf("below %d", Depth)
	}
	return fmt.Sprint(place)
}

// deep is a place as a number, below Depth just past it.
func deep(place int) int {
	if place == 0 {
		return Depth + 1
	}
	return place
}

// Moved is how many places a page rose from one place to another; below Depth counts as just past it.
func Moved(from, to int) int { return deep(from) - deep(to) }

// Line is where a page stood, by day.
type Line []Point

// At is the latest point on a day or before; ok is false where there is none.
func (l Line) At(day time.Time) (p Point, ok bool) {
	for _, one := range l {
		if one.Day.After(day) {
			break
		}
		p, ok = one, true
	}
	return p, ok
}

// Best is the best place ever; 0 where all were below.
func (l Line) Best() (best int) {
	for _, p := range l {
		if p.Place > 0 && (best == 0 || p.Place < best) {
			best = p.Place
		}
	}
	return best
}

// Forecast is what was thought before: the chance of each place from the first on; what is left of 1 is further down.
// The page settles so many days after it is out.
type Forecast struct {
	Chances []float64
	Days    int
}

// PageOne and TopFive are chances of a forecast.
func (f Forecast) PageOne() float64 { return f.within(serp.FirstPage) }

// TopFive is the chance of the first five.
func (f Forecast) TopFive() float64 { return f.within(5) }

// An article that is written was chosen for its high forecast, and some of that is luck: its chances are taken lower by
// so much of their log odds, down to the fifth place and from the tenth on; between them by even steps. Found on four
// worlds of the stand-in and measured on three others (go run ./cmd/calibrate case; docs/case-measured.md).
const (
	luckTopFive = 0.65
	luckPageOne = 0.4
)

// LuckOf is by how much the log odds of the first so many places are luck in an article that was chosen for them.
func LuckOf(places int) float64 {
	return luckTopFive + (luckPageOne-luckTopFive)*min(1, max(0, float64(places-5)/5))
}

// Chosen are the chances of places for an article that was chosen for them.
func Chosen(chances []float64) []float64 {
	out := make([]float64, len(chances))
	sum, before := 0.0, 0.0
	for i, c := range chances {
		sum = min(1-1e-9, sum+c)
		now := 0.0
		if sum > 0 {
			now = max(before, 1/(1+(1-sum)/sum*math.Exp(LuckOf(i+1))))
		}
		out[i], before = now-before, now
	}
	return out
}

func (f Forecast) within(places int) (sum float64) {
	for _, c := range f.Chances[:min(places, len(f.Chances))] {
		sum += c
	}
	return min(1, sum)
}

// Level is how many cases of one the band of a forecast holds.
const Level = 0.8

// rounding is how far a sum of chances may be off by the arithmetic.
const rounding = 1e-9

// Band is between which places the page stands once it has settled, eight times in ten; worst is 0 where it may be
// further down than was looked.
func (f Forecast) Band() (best, worst int) {
	sum := 0.0
	for k, c := range f.Chances {
		sum += c
		if best == 0 && sum >= (1-Level)/2-rounding {
			best = k + 1
		}
		if sum >= (1+Level)/2-rounding {
			return best, k + 1
		}
	}
	if best == 0 {
		best = len(f.Chances) + 1
	}
	return best, 0
}

// On is the band so many days after the page is out, as places that may lie between two. Before the page has settled it
// may stand anywhere between its best and below Depth: the lower end comes closer by even steps of the logarithm.
func (f Forecast) On(days float64) (best, worst float64) {
	b, w := f.Band()
	part := 1.0
	if f.Days > 0 {
		part = min(1, max(0, days/float64(f.Days)))
	}
	far := math.Log(Depth + 1)
	return float64(b), math.Exp(far + part*(math.Log(float64(deep(w)))-far))
}

// Verdict is how a page does beside its forecast.
type Verdict string

// The verdicts.
const (
	TooEarly Verdict = "too early to tell"
	Better   Verdict = "better than forecast"
	As       Verdict = "as forecast"
	Worse    Verdict = "worse than forecast"
)

// latest is over how many days of points a page's place is taken, so that one odd day tells nothing (ours).
const latest = 28 * 24 * time.Hour

// likely is from which chance of the places that a forecast tells apart on a page that is nowhere does worse (ours).
const likely = 0.5

// Judge holds the line of a page against its forecast: by the middle of its latest places, once it has settled. place
// is that middle one; from is the day from which one may tell.
func (f Forecast) Judge(l Line, out time.Time) (v Verdict, place int, from time.Time) {
	from = out.AddDate(0, 0, f.Days)
	if len(l) == 0 || l[len(l)-1].Day.Before(from) {
		return TooEarly, 0, from
	}
	last := l[len(l)-1].Day
	var places []int
	for _, p := range l {
		if !p.Day.Before(from) && last.Sub(p.Day) <= latest {
			places = append(places, deep(p.Place))
		}
	}
	slices.Sort(places)
	middle := places[(len(places)-1)/2]
	best, worst := f.Band()
	if place = middle; place > Depth {
		place = 0
	}
	switch {
	case middle < best:
		return Better, place, from
	case worst > 0 && middle > worst:
		return Worse, place, from
	case worst == 0 && middle > Depth && f.within(len(f.Chances)) >= likely: // though the band has no lower end
		return Worse, place, from
	}
	return As, place, from
}

// Outcome is a chance that was told, and whether it came.
type Outcome struct {
	Chance float64
	Came   bool
}

// Bin is outcomes of like chances.
type Bin struct {
	From, To float64
	N        int
	Mean     float64 // of the chances
	Came     float64 // share
}

// Enough is how many outcomes are enough to tell whether chances were right (ours).
const Enough = 20

// Right says how right chances were: ten bins of even width, and the Brier score (Brier, Verification of forecasts
// expressed in terms of probability, Monthly Weather Review 78, 1950), the mean of the squared miss. Error is the
// expected calibration error: how far the chances of bins lie from what came, by how many are in them.
func Right(list []Outcome) (bins [10]Bin, brier, miss float64) {
	var came [10]float64
	for i := range bins {
		bins[i].From, bins[i].To = float64(i)/10, float64(i+1)/10
	}
	for _, o := range list {
		x := 0.0
		if o.Came {
			x = 1
		}
		brier += (o.Chance - x) * (o.Chance - x)
		i := min(9, max(0, int(o.Chance*10)))
		bins[i].N++
		bins[i].Mean += o.Chance
		came[i] += x
	}
	if len(list) == 0 {
		return bins, 0, 0
	}
	for i := range bins {
		if n := float64(bins[i].N); n > 0 {
			bins[i].Mean, bins[i].Came = bins[i].Mean/n, came[i]/n
			miss += n / float64(len(list)) * math.Abs(bins[i].Mean-bins[i].Came)
		}
	}
	return bins, brier / float64(len(list)), miss
}
