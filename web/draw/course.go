package draw

import (
	"fmt"
	"math"
	"strings"
)

// Course is a forecast band of places with the line of fact, along days. Places are drawn by their logarithm: from 3
// to 1 is as far as from 30 to 10.
type Course struct {
	Area, Line string
	Ten        string // the height of place 10
	Marks      []Mark
}

// Mark is a day along a strip.
type Mark struct{ X, Says string }

// Marked is a day that is marked, counted from the begin of a strip.
type Marked struct {
	Day  float64
	Says string
}

// Stood is a place on a day, counted from the begin of a strip.
type Stood struct{ Day, Place float64 }

// deepest is the place that a strip ends with.
const deepest = 101

// CourseOf draws a strip of so many days. low and high are the band from the first day on, each as far from the next as
// the others, both empty where there is none.
func CourseOf(days float64, low, high []float64, stood []Stood, marks []Marked, width,
	height float64) (out Course) {
	y := func(place float64) string {
		return tenth(height * math.Log(min(deepest, max(1, place))) / math.Log(deepest))
	}
	x := func(day float64) string { return tenth(width * min(1, max(0, day/max(1, days)))) }
	out.Ten = y(10)
	if len(low) > 1 && len(low) == len(high) {
		var up, down []string
		for i := range low {
			at := x(float64(i) * days / float64(len(low)-1))
			up = append(up, at+" "+y(low[i]))
			down = append([]string{at + " " + y(high[i])}, down...)
		}
		out.Area = fmt.Sprintf("M%s L%s Z", strings.Join(up, " L"), strings.Join(down, " L"))
	}
	var b strings.Builder
	for i, s := range stood {
		if i == 0 {
			fmt.Fprintf(&b, "M%s %s", x(s.Day), y(s.Place))
			continue
		}
		fmt.Fprintf(&b, " H%s V%s", x(s.Day), y(s.Place))
	}
	if len(stood) == 1 { // a point would not be seen
		fmt.Fprintf(&b, " h6")
	}
	out.Line = b.String()
	for _, m := range marks {
		out.Marks = append(out.Marks, Mark{x(m.Day), m.Says})
	}
	return out
}
