package draw

import (
	"fmt"
	"strings"
)

// PlaceLine is the line of a page's places over snapshots: an SVG path with a gap wherever it was not among the ten,
// and the points that stand alone.
type PlaceLine struct {
	Path string
	Dots []Dot
}

// Dot is a point of a line.
type Dot struct{ X, Y float64 }

// Places draws places from 1, 0 for none, at x positions, each place in the middle of a row of a height.
func Places(places []int, at []float64, row float64) (out PlaceLine) {
	var b strings.Builder
	y := func(place int) float64 { return (float64(place) - 0.5) * row }
	for i, p := range places {
		if p == 0 {
			continue
		}
		before := i > 0 && places[i-1] > 0
		after := i+1 < len(places) && places[i+1] > 0
		if before {
			fmt.Fprintf(&b, "L%s %s", tenth(at[i]), tenth(y(p)))
		} else {
			fmt.Fprintf(&b, "M%s %s", tenth(at[i]), tenth(y(p)))
		}
		if !before && !after || i+1 == len(places) {
			out.Dots = append(out.Dots, Dot{at[i], y(p)})
		}
	}
	out.Path = b.String()
	return out
}
