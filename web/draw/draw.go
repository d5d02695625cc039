// Package draw is what is drawn: coordinates for SVG, from plain numbers. It knows no
// templates; what is drawn where, the screens say. Boxes have their origin at the top
// left, as in SVG.
package draw

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"cleverniche/core/demand"
)

// Months draws the latest twelve months of counts as bars in a box, as the data of one SVG path: upright lines, to be
// stroked as wide as a bar, Gap less than a month. A missing month is a gap; one under the floor is half the floor
// high. "" when there are none.
func Months(counts []demand.Count, width, height float64) string {
	var b strings.Builder
	for _, bar := range Year(counts, width, height) {
		fmt.Fprintf(&b, "M%s %sV%s", tenth(bar.X+(bar.Width-Gap)/2), tenth(height), tenth(bar.Y))
	}
	return b.String()
}

// Gap is what lies between two bars.
const Gap = 1

// tenth writes a number with a decimal, if that is not 0.
func tenth(x float64) string { return strconv.FormatFloat(math.Round(10*x)/10, 'f', -1, 64) }

// Bar is one month of a year. Width holds the gap behind it.
type Bar struct {
	demand.Count
	X, Y, Width, Height float64
}

// least is the height of the lowest bar.
const least = 1

// Year draws the latest twelve months up to the last count, the highest as high as the
// box.
func Year(counts []demand.Count, width, height float64) []Bar {
	if len(counts) == 0 {
		return nil
	}
	value := func(c demand.Count) float64 {
		if c.Under {
			return float64(c.Searches) / 2
		}
		return float64(c.Searches)
	}
	most := 1.0
	first := counts[len(counts)-1].Month - 11
	var out []Bar
	for _, c := range counts {
		if c.Month >= first {
			most = math.Max(most, value(c))
		}
	}
	slot := width / 12
	for _, c := range counts {
		if c.Month < first {
			continue
		}
		h := math.Max(least, height*value(c)/most)
		out = append(out, Bar{c, slot * float64(c.Month-first), height - h, slot, h})
	}
	return out
}

// Ramp is the points of a wedge as steep as a level of 0 to 100, in a box.
func Ramp(level, width, height float64) string {
	rise := height * math.Max(0, math.Min(100, level)) / 100
	return fmt.Sprintf("0,%g %g,%g %g,%.1f", height, width, height, width, height-rise)
}

// Rung is one of a ladder's.
type Rung int

// The rungs: none, one that may stand, one that stands on average, one that stands for sure.
const (
	NoRung Rung = iota
	Possible
	Likely
	Sure
)

// Class is what a rung is in a style sheet.
func (r Rung) Class() string { return [...]string{"off", "possible", "likely", "sure"}[r] }

// Rungs is the rungs of one class that follow each other, as one path: a line to be stroked with dashes three long, two
// apart.
type Rungs struct{ Class, Path string }

// Drawn draws rungs from the foot of a box on, those of a class as one path.
func Drawn(rungs []Rung, height float64) (out []Rungs) {
	for from := 0; from < len(rungs); {
		to := from
		for to < len(rungs) && rungs[to] == rungs[from] {
			to++
		}
		out = append(out, Rungs{rungs[from].Class(), fmt.Sprintf("M%d %sH%d", 5*from, tenth(height/2), 5*to)})
		from = to
	}
	return out
}

// Ladder is ten rungs: as many are sure as the least chance has tenths, as many likely as the
// chance itself, and as many possible as the most.
func Ladder(least, chance, most float64) []Rung {
	out := make([]Rung, 10)
	for i := range out {
		under := func(x float64) bool { return float64(i) < math.Round(10*x) }
		switch {
		case under(least):
			out[i] = Sure
		case under(chance):
			out[i] = Likely
		case under(most):
			out[i] = Possible
		}
	}
	return out
}

// Stairs are the places of the first page as steps as high as what each asks, with my
// reach as the water, in a box that is Top on the scale high.
type Stairs struct {
	Top, Height float64
	Reach       float64 // of the water's surface
	Locked      bool    // nobody passes anybody
	Steps       []Step
}

// Step is one place: where its step begins, which is as high as what the result there holds; where what can be seen of
// that begins, the rest of the column being what its place says beyond; whether that is more than its place needs; and
// whether my reach covers it. Label is where what it needs is written.
type Step struct {
	Asks, Seen float64
	Over       bool
	Covered    bool
	Label      float64
}

// labelGap is how far labels stand from what they belong to, labelHeight how high they are.
const (
	labelHeight = 11
	labelGap    = 4
)

// leastTop is the lowest that the top of stairs may be, aboveTop the room above it, and
// thinnest how much of the box is seen of nothing.
const (
	leastTop = 20
	aboveTop = 1.1
	thinnest = 0.006
)

// Climb draws stairs in a box of a height: what each place needs, what can be seen of the results
// that stand there, and my reach. There may be fewer results than places.
func Climb(asks, seen []float64, reach, height float64) Stairs {
	top := math.Max(leastTop, reach)
	for _, x := range slices.Concat(asks, seen) {
		top = math.Max(top, x)
	}
	s := Stairs{Top: aboveTop * top, Height: height}
	at := func(x float64) float64 { return math.Round(10*height*(1-math.Max(thinnest, x/s.Top))) / 10 }
	s.Reach = at(reach)
	for i, a := range asks {
		step := Step{Asks: at(a), Seen: height, Covered: a <= reach}
		if i < len(seen) {
			step.Seen, step.Over = at(seen[i]), seen[i] > a
		}
		step.Label = math.Max(labelHeight, step.Asks-labelGap)
		s.Steps = append(s.Steps, step)
	}
	return s
}

// Solid is where the solid part of a column begins: what can be seen, as far as the place needs it.
func (s Step) Solid() float64 { return math.Max(s.Seen, s.Asks) }

// Hidden is how high the part is that only the place tells of.
func (s Step) Hidden() float64 { return s.Solid() - s.Asks }

// Track is a line from 0 to a width on which a figure is drawn that lies between two ends, with the usual one.
type Track struct{ At, Low, High, Usual float64 }

// OnTrack draws shares on a line so wide, most being its end.
func OnTrack(at, low, high, usual, most, width float64) Track {
	x := func(v float64) float64 { return math.Round(10*width*math.Max(0, math.Min(1, v/most))) / 10 }
	return Track{x(at), x(low), x(high), x(usual)}
}

// Below is how much is left of the box below a line.
func (s Stairs) Below(y float64) float64 { return s.Height - y }

// Piece is a part of a strip.
type Piece struct{ X, Width float64 }

// Strip divides a width by shares that sum to 1, or are all 0.
func Strip(shares []float64, width float64) []Piece {
	out := make([]Piece, len(shares))
	x := 0.0
	for i, s := range shares {
		out[i] = Piece{x, width * s}
		x += width * s
	}
	return out
}

// Share is the length of a bar of part of all, at least one unit when there is a part.
func Share(part, all, width int) int {
	if all <= 0 || part <= 0 {
		return 0
	}
	return max(1, width*part/all)
}
