package draw

import "time"

// Axis is one of whole months, drawn to scale: a day is as wide as any other.
type Axis struct {
	begin time.Time
	end   time.Time
	count int
	width float64
}

// NewAxis is an axis from the first of a month on, over so many months and pixels.
func NewAxis(begin time.Time, months int, width float64) Axis {
	return Axis{begin, begin.AddDate(0, months, 0), months, width}
}

// PerDay is how wide a day is, in pixels.
func (m Axis) PerDay() float64 { return m.width / (m.end.Sub(m.begin).Hours() / 24) }

// X is where a day begins, within the axis: what is before it or behind it is at its ends.
func (m Axis) X(day time.Time) float64 {
	x := day.Sub(m.begin).Hours() / 24 * m.PerDay()
	return max(0, min(m.width, x))
}

// Holds reports whether a day is within the axis.
func (m Axis) Holds(day time.Time) bool { return !day.Before(m.begin) && day.Before(m.end) }

// Tick is a month on the axis.
type Tick struct {
	X     float64
	Name  string
	Short string // "" where there is no room
}

// Heads are the months; the first one and each January bear their year.
func (m Axis) Heads() (out []Tick) {
	for i := range m.count {
		month := m.begin.AddDate(0, i, 0)
		h := Tick{X: m.X(month), Name: month.Format("January 2006"), Short: month.Format("Jan")}
		if i == 0 || month.Month() == time.January {
			h.Short = month.Format("Jan 06")
		}
		if m.count > 14 && i%2 == 1 {
			h.Short = ""
		}
		out = append(out, h)
	}
	return out
}

// Crop is a bar of a season: where it stands, and how high.
type Crop struct{ X, Y, Width, Height float64 }

// mostIndex is the seasonal index that is drawn as high as there is room.
const (
	mostIndex = 2.5
	barRoom   = 20
	barFoot   = 30 // where bars stand, from the top of their row
)

// Harvest are the bars of the months of a season within the axis, each as high as its index.
func (m Axis) Harvest(index [12]float64, in func(time.Month) bool) (out []Crop) {
	for i := range m.count {
		month := m.begin.AddDate(0, i, 0)
		if !in(month.Month()) {
			continue
		}
		x, end := m.X(month), m.X(month.AddDate(0, 1, 0))
		h := barRoom * min(1, index[month.Month()-1]/mostIndex)
		out = append(out, Crop{x + 1, barFoot - h, end - x - 2, h})
	}
	return out
}
