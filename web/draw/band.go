package draw

import (
	"fmt"
	"math"
	"strings"
)

// Band is a range over time as an area with a line in it. Values lie between 0 and most, the first at the left edge.
type Band struct{ Area, Line string }

// Along draws one; all lists have the same length, of two or more.
func Along(low, likely, high []float64, most, width, height float64) Band {
	if len(likely) < 2 || most <= 0 {
		return Band{}
	}
	at := func(i int, x float64) string {
		return tenth(float64(i)*width/float64(len(likely)-1)) + " " + tenth(height-height*min(1, max(0, x/most)))
	}
	var up, down, line []string
	for i := range likely {
		up = append(up, at(i, high[i]))
		down = append([]string{at(i, low[i])}, down...)
		line = append(line, at(i, likely[i]))
	}
	return Band{fmt.Sprintf("M%s L%s Z", strings.Join(up, " L"), strings.Join(down, " L")), "M" + strings.Join(line, " L")}
}

// Ball is a point of a picture with a size.
type Ball struct{ X, Y, R float64 }

// Scattered is a point by two figures, x along even steps and y along powers of ten from 1 on; its area is as size is
// to the largest.
func Scattered(x, y, size, mostX, mostY, largest, width, height float64) Ball {
	up := 0.0
	if y > 1 && mostY > 1 {
		up = math.Log10(y) / math.Log10(mostY)
	}
	return Ball{math.Round(10*width*min(1, x/max(1, mostX))) / 10, math.Round(10*(height-height*min(1, up))) / 10,
		math.Round(10*(3+9*math.Sqrt(min(1, size/max(1, largest))))) / 10}
}
