package demand

import (
	"math"
	"sort"
)

// Bars of a trend: it rises or fades when its chance under no trend is below
// TrendP and its slope at least TrendSlope a year (ours).
const (
	TrendP     = 0.05
	TrendSlope = 0.10
)

// Trend is where the searches go, apart from the season.
type Trend struct {
	Known bool
	Slope float64 // a year, as a share of the middle month: 0.2 is 20 % more a year
	P     float64 // two-sided, Mann–Kendall
}

// Rising and Fading tell a trend from chance.
func (t Trend) Rising() bool { return t.Known && t.P < TrendP && t.Slope >= TrendSlope }
func (t Trend) Fading() bool { return t.Known && t.P < TrendP && t.Slope <= -TrendSlope }

// TrendOf tests the deseasonalised series. It needs what SeasonOf needs.
func TrendOf(s Series) Trend {
	season := SeasonOf(s)
	if !season.Known {
		return Trend{}
	}
	first, x := s.values()
	var at, v []float64
	for i := range x {
		if !math.IsNaN(x[i]) {
			at = append(at, float64(i))
			v = append(v, x[i]/season.Index[int(first+Month(i))%12])
		}
	}
	_, p := MannKendall(v)
	middle := median(append([]float64(nil), v...))
	if middle <= 0 {
		return Trend{}
	}
	return Trend{Known: true, Slope: 12 * SenSlope(at, v) / middle, P: p}
}

// MannKendall returns Kendall's S of a series against its order, and the two-sided
// p of the normal approximation, with continuity and tie correction (Mann 1945,
// "Nonparametric tests against trend"; Kendall 1975). Without a difference p is 1.
func MannKendall(x []float64) (s int, p float64) {
	n := len(x)
	for i := range x {
		for j := i + 1; j < n; j++ {
			switch {
			case x[j] > x[i]:
				s++
			case x[j] < x[i]:
				s--
			}
		}
	}
	sorted := append([]float64(nil), x...)
	sort.Float64s(sorted)
	term := func(t int) float64 { return float64(t) * float64(t-1) * float64(2*t+5) }
	variance := term(n)
	for i := 0; i < n; {
		j := i
		for j < n && sorted[j] == sorted[i] {
			j++
		}
		variance -= term(j - i)
		i = j
	}
	variance /= 18
	if variance <= 0 || s == 0 {
		return s, 1
	}
	z := (math.Abs(float64(s)) - 1) / math.Sqrt(variance)
	return s, math.Erfc(z / math.Sqrt2)
}

// SenSlope is the median of the slopes of all pairs (Sen 1968, "Estimates of the
// regression coefficient based on Kendall's tau"). at must increase.
func SenSlope(at, x []float64) float64 {
	var slopes []float64
	for i := range x {
		for j := i + 1; j < len(x); j++ {
			slopes = append(slopes, (x[j]-x[i])/(at[j]-at[i]))
		}
	}
	return median(slopes)
}

// median sorts x.
func median(x []float64) float64 {
	if len(x) == 0 {
		return 0
	}
	sort.Float64s(x)
	return (x[(len(x)-1)/2] + x[len(x)/2]) / 2
}

// Lasting is how a demand lasts.
type Lasting string

// The ways to last.
const (
	TooFew    Lasting = "too few searches to tell"
	Evergreen Lasting = "evergreen"
	Seasonal  Lasting = "seasonal"
	Rise      Lasting = "rising"
	Fade      Lasting = "fading"
	Flash     Lasting = "a flash"
)

// FlashShare is the share of all searches within two months running that makes a
// flash, when they never come again (ours).
const FlashShare = 0.5

// LastingOf classes a series. A flash comes before a trend, a trend before a season.
func LastingOf(s Series) Lasting {
	if flash(s) {
		return Flash
	}
	season := SeasonOf(s)
	if !season.Known {
		return TooFew
	}
	switch t := TrendOf(s); {
	case t.Rising():
		return Rise
	case t.Fading():
		return Fade
	case season.Peak.Months > 0:
		return Seasonal
	}
	return Evergreen
}

func flash(s Series) bool {
	_, x := s.values()
	total, best, at := 0.0, 0.0, 0
	for i, v := range x {
		if math.IsNaN(v) {
			continue
		}
		total += v
		two := v
		if i+1 < len(x) && !math.IsNaN(x[i+1]) {
			two += x[i+1]
		}
		if two > best {
			best, at = two, i
		}
	}
	// A year must have passed since, or "never again" is not known.
	return len(x) >= at+2+12 && total >= SeasonAverage*2 && best >= FlashShare*total
}
