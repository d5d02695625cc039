// Package draw is what is drawn: coordinates for SVG, from plain numbers. It knows no
// templates; what is drawn where, the screens say. Boxes have their origin at the top
// left, as in SVG.
package draw

import (
	"fmt"
	"math"
	"strings"

	"cleverniche/core/demand"
)

// Months draws the latest twelve months of counts as bars in a box, as the data of one
// SVG path. A missing month is a gap; one under the floor is half the floor high. "" when
// there are none.
func Months(counts []demand.Count, width, height float64) string {
	var b strings.Builder
	for _, bar := range Year(counts, width, height) {
		fmt.Fprintf(&b, "M%.1f %.1fh%.1fv%.1fh-%.1fz", bar.X, bar.Y, bar.Width-1, bar.Height, bar.Width-1)
	}
	return b.String()
}

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

// Ladder is ten rungs: as many stand as the chance has tenths.
func Ladder(chance float64) []bool {
	out := make([]bool, 10)
	for i := range out {
		out[i] = float64(i) < math.Round(10*chance)
	}
	return out
}

// Ten is results as columns, with my reach and the difficulty as lines across, in a box
// that is 100 on the scale high.
type Ten struct {
	Columns     []Column
	Reach, Odds float64 // of the two lines
}

// Column is one result's: its height, and where it begins.
type Column struct{ Y, Height float64 }

// TenHeight is the height of the box.
const TenHeight = 120

// Columns draws the strengths of results.
func Columns(strengths []float64, reach, difficulty float64) Ten {
	const unit = TenHeight / 100.0
	t := Ten{Reach: TenHeight - reach*unit, Odds: TenHeight - difficulty*unit}
	for _, s := range strengths {
		h := math.Max(least, s*unit)
		t.Columns = append(t.Columns, Column{TenHeight - h, h})
	}
	return t
}

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
