package demand

import (
	"math"
	"time"
)

// What a series needs before its season is believed (common practice, no source:
// a peak made of a handful of searches is noise).
const (
	SeasonMonths  = 24 // months that are there, at least
	SeasonAverage = 30 // searches a month, at least
)

// PeakIndex is the seasonal index from which a month belongs to the peak (ours).
const PeakIndex = 1.25

// Lead is how long before its peak an article has to be out, if nothing else is
// said (common practice, no source: one to three months).
const Lead = 90 * 24 * time.Hour

// Season is a yearly wave.
type Season struct {
	Known    bool        // the series is long and large enough
	Index    [12]float64 // by calendar month, January first; averages 1
	Strength float64     // 0 none to 1 all; see SeasonStrength
	Peak     Peak
}

// Peak is the run of calendar months around the highest index whose index is at
// least PeakIndex. It may wrap over the year's end. Months is 0 when there is none.
type Peak struct {
	First  time.Month
	Months int
}

// Holds reports whether the month lies in the peak.
func (p Peak) Holds(m time.Month) bool {
	return p.Months > 0 && (int(m)-int(p.First)+12)%12 < p.Months
}

// Last is the last month of the peak.
func (p Peak) Last() time.Month { return (p.First+time.Month(p.Months)-2)%12 + 1 }

// values lays a series out month by month; a missing month is NaN, one under the
// floor half the floor.
func (s Series) values() (first Month, out []float64) {
	counts := s.Latest(1200)
	if len(counts) == 0 {
		return 0, nil
	}
	first = counts[0].Month
	out = make([]float64, counts[len(counts)-1].Month-first+1)
	for i := range out {
		out[i] = math.NaN()
	}
	for _, c := range counts {
		v := float64(c.Searches)
		if c.Under {
			v /= 2
		}
		out[c.Month-first] = v
	}
	return first, out
}

// SeasonOf finds the yearly wave of a series.
func SeasonOf(s Series) Season {
	first, x := s.values()
	there, sum := 0, 0.0
	for _, v := range x {
		if !math.IsNaN(v) {
			there++
			sum += v
		}
	}
	if there < SeasonMonths || sum/float64(there) < SeasonAverage {
		return Season{}
	}
	index, ok := decompose(first, x)
	if !ok {
		return Season{}
	}
	return Season{Known: true, Index: index, Strength: SeasonStrength(first, x), Peak: peakOf(index)}
}

// decompose is the classical multiplicative decomposition: the trend is a moving
// average of 2×12 months, the index of a calendar month the mean of value over
// trend, and the indices are made to average 1 (R's stats::decompose does the
// same). ok is false when a calendar month never has a trend.
func decompose(first Month, x []float64) (index [12]float64, ok bool) {
	trend := movingAverage(x)
	ratios := make([]float64, len(x))
	for i := range x {
		ratios[i] = x[i] / trend[i]
	}
	index, ok = byMonth(first, ratios)
	mean := 0.0
	for _, v := range index {
		mean += v / 12
	}
	if !ok || !(mean > 0) {
		return index, false
	}
	for i := range index {
		index[i] /= mean
	}
	return index, true
}

// movingAverage is the centred 2×12 average: half weight for the months at both
// ends of thirteen. Where one of the thirteen is missing it is NaN.
func movingAverage(x []float64) []float64 {
	out := make([]float64, len(x))
	for i := range x {
		if i < 6 || i+6 >= len(x) {
			out[i] = math.NaN()
			continue
		}
		sum := (x[i-6] + x[i+6]) / 2
		for k := i - 5; k <= i+5; k++ {
			sum += x[k]
		}
		out[i] = sum / 12
	}
	return out
}

// byMonth averages values by calendar month, NaN and infinite ones left out.
func byMonth(first Month, x []float64) (mean [12]float64, ok bool) {
	var n [12]float64
	for i, v := range x {
		if !math.IsNaN(v) && !math.IsInf(v, 0) {
			m := int(first+Month(i)) % 12
			mean[m] += v
			n[m]++
		}
	}
	for m := range mean {
		if n[m] == 0 {
			return mean, false
		}
		mean[m] /= n[m]
	}
	return mean, true
}

// SeasonStrength is max(0, 1 − Var(R)/Var(S+R)) of the additive decomposition of
// the logarithms, S the season and R the rest: 0 is no season, 1 nothing else
// (Wang, Smith & Hyndman 2006; Hyndman & Athanasopoulos, "Forecasting: Principles
// and Practice", 3rd ed., §4.3). A month without searches counts as half a search.
func SeasonStrength(first Month, x []float64) float64 {
	logs := make([]float64, len(x))
	for i, v := range x {
		logs[i] = math.Log(math.Max(v, 0.5))
		if math.IsNaN(v) {
			logs[i] = v
		}
	}
	trend := movingAverage(logs)
	rest := make([]float64, len(x))
	for i := range x {
		rest[i] = logs[i] - trend[i]
	}
	season, ok := byMonth(first, rest)
	if !ok {
		return 0
	}
	mean := 0.0
	for _, v := range season {
		mean += v / 12
	}
	var r, both []float64
	for i, v := range rest {
		if !math.IsNaN(v) {
			both = append(both, v)
			r = append(r, v-(season[int(first+Month(i))%12]-mean))
		}
	}
	if spread := variance(both); spread > 0 {
		return math.Max(0, 1-variance(r)/spread)
	}
	return 0
}

func variance(x []float64) float64 {
	if len(x) < 2 {
		return 0
	}
	mean, sum := 0.0, 0.0
	for _, v := range x {
		mean += v / float64(len(x))
	}
	for _, v := range x {
		sum += (v - mean) * (v - mean)
	}
	return sum / float64(len(x)-1)
}

// peakOf grows the peak from the highest month to both sides.
func peakOf(index [12]float64) Peak {
	top := 0
	for m, v := range index {
		if v > index[top] {
			top = m
		}
	}
	if index[top] < PeakIndex {
		return Peak{}
	}
	first, months := top, 1
	for months < 12 && index[(first+11)%12] >= PeakIndex {
		first = (first + 11) % 12
		months++
	}
	for months < 12 && index[(first+months)%12] >= PeakIndex {
		months++
	}
	return Peak{First: time.Month(first + 1), Months: months}
}

// PublishBy is the day by which an article has to be out for the next peak that can
// still be met: the first day of the peak less the lead. ok is false without a peak.
func (p Peak) PublishBy(today time.Time, lead time.Duration) (day time.Time, ok bool) {
	if p.Months == 0 {
		return time.Time{}, false
	}
	for year := today.Year(); ; year++ {
		start := time.Date(year, p.First, 1, 0, 0, 0, 0, time.UTC)
		day = start.AddDate(0, 0, -int(lead.Hours()/24))
		if !day.Before(today.UTC().Truncate(24 * time.Hour)) {
			return day, true
		}
	}
}
