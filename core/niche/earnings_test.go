package niche

import (
	"fmt"
	"math"
	"testing"
	"time"

	"cleverniche/core/worth"
)

var usual = Assumed{Begin: 1, WeekHours: 6, LeadMonths: 3, Months: 24, Chosen: 1, Tied: 0.3, BarAnHour: 5,
	VisitFactor: 1}

func pieces(n int, chance float64) []Piece {
	var out []Piece
	for i := range n {
		out = append(out, Piece{Lead: fmt.Sprint(i), Searches: 1000, PageOne: chance, TopFive: chance / 2,
			Clicks: 0.05, PerVisit: worth.Range{Low: 0.01, Likely: 0.02, High: 0.03}, Hours: 6})
	}
	return out
}

// TestCertainEarnings: where nothing is left to chance the sum is what a spreadsheet says: of one piece a week over 24
// months of 52/12 weeks each, a thousand searches, a certain place, 5 % of clicks at 2 cents.
func TestCertainEarnings(t *testing.T) {
	list := pieces(10, 1)
	for i := range list {
		list[i].TopFive, list[i].PerVisit = 1, worth.Range{Low: 0.02, Likely: 0.02, High: 0.02}
	}
	e, err := Earn(list, usual)
	if err != nil || e.Pieces != 10 || e.Hours != 60 {
		t.Fatalf("%+v, %v", e, err)
	}
	sum := 0.0
	for i := range list {
		ready := float64(6*(i+1)) / (6 * 52.0 / 12)
		for m := 1; m <= 24; m++ {
			if age := float64(m) - ready; age > 0 {
				sum += 1000 * 0.05 * 0.02 * min(1, age/3)
			}
		}
	}
	last := e.Months[23]
	if math.Abs(last.Sum.Likely-sum) > 1e-6 || last.Sum.Low != last.Sum.High || math.Abs(last.Income.Likely-10) > 1e-9 {
		t.Errorf("%+v, not %.4f in all and 10 a month", last, sum)
	}
	if math.Abs(e.Hour.Likely-sum/60) > 1e-9 || e.Never != 1 || e.Back.Likely != 25 ||
		math.Abs(e.Turn-30.0/21) > 1e-9 || e.Above != 0 {
		t.Errorf("%+v", e)
	}
	rich := usual
	rich.VisitFactor = e.Turn * 1.1
	if e, _ := Earn(list, rich); e.Never != 0 || e.Back.Likely > 24 || e.Hour.Likely < 5 || e.Above != 10 ||
		e.AboveHours != 60 || math.Abs(e.AboveIncome-10*rich.VisitFactor) > 1e-9 {
		t.Errorf("from the turn on it pays: %+v", e)
	}
}

// TestUntilTheBar: what is not expected to bring the bar is not written, unless somebody says how many hours; where
// nothing does, all is reckoned, to show how little that is.
func TestUntilTheBar(t *testing.T) {
	list := pieces(8, 0.5)
	for i := range list[:3] {
		list[i].Searches = 10_000
	}
	long := usual
	long.MostHours, long.EnoughHours = 48, 48
	e, err := Earn(list, usual)
	more, err2 := Earn(list, long)
	if err != nil || err2 != nil || e.Above != 3 || e.Pieces != 3 || e.Hours != 18 || more.Pieces != 8 {
		t.Errorf("%d and %d pieces, %v, %v", e.Pieces, more.Pieces, err, err2)
	}
	if e.Turn >= 1 || math.Abs(more.Turn-30.0/21) > 1e-9 {
		t.Errorf("it turns at %g, and for all hours at %g", e.Turn, more.Turn)
	}
	if none, _ := Earn(list[3:], usual); none.Above != 0 || none.Pieces != 5 {
		t.Errorf("%d of none that bring the bar are written", none.Pieces)
	}
}

// TestTiedOutcomes: what is tied has the same mean and a wider range; the mean is what chances and clicks say.
func TestTiedOutcomes(t *testing.T) {
	list := pieces(60, 0.3)
	loose, tight := usual, usual
	loose.Tied, tight.Tied = 0, 0.6
	a, err := Earn(list, loose)
	b, err2 := Earn(list, tight)
	if err != nil || err2 != nil {
		t.Fatal(err, err2)
	}
	wide := func(r Range) float64 { return (r.High - r.Low) / r.Likely }
	if wide(b.Months[23].Income) < 1.5*wide(a.Months[23].Income) {
		t.Errorf("tied %.2f wide, loose %.2f", wide(b.Months[23].Income), wide(a.Months[23].Income))
	}
	mean := 0.0
	for _, p := range list {
		mean += p.expected()
	}
	if got := a.Months[23].Income.Likely; math.Abs(got-mean) > 0.1*mean {
		t.Errorf("%.2f a month, expected %.2f", got, mean)
	}
	if again, _ := Earn(list, tight); fmt.Sprint(again) != fmt.Sprint(b) {
		t.Error("another figure the second time")
	}
}

// TestEarnRefuses what cannot be, and keeps to the hours there are.
func TestEarnRefuses(t *testing.T) {
	for _, spoil := range []func(*Assumed){func(a *Assumed) { a.WeekHours = 0 }, func(a *Assumed) { a.MostHours = -1 },
		func(a *Assumed) { a.LeadMonths = math.NaN() }, func(a *Assumed) { a.Months = 0 }, func(a *Assumed) { a.Tied = 1 },
		func(a *Assumed) { a.Chosen = 0 },
		func(a *Assumed) { a.BarAnHour = -1 }, func(a *Assumed) { a.VisitFactor = 0 }, func(a *Assumed) { a.MostHours = 3 }} {
		a := usual
		spoil(&a)
		if _, err := Earn(pieces(3, 0.5), a); err == nil {
			t.Errorf("%+v is taken", a)
		}
	}
	if _, err := Earn(nil, usual); err == nil {
		t.Error("nothing to write earns something")
	}
	bad := pieces(1, 0.5)
	bad[0].TopFive = 0.9
	if _, err := Earn(bad, usual); err == nil {
		t.Error("a chance of the first five over that of the first ten is taken")
	}
	few := usual
	few.MostHours = 20
	if e, err := Earn(pieces(30, 0.5), few); err != nil || e.Pieces != 3 || e.Hours != 18 {
		t.Errorf("%+v, %v", e, err)
	}
	var season [12]float64
	season[11] = 12
	winter := pieces(1, 1)
	winter[0].Season = season
	e, _ := Earn(winter, usual)
	if e.Months[10].Income.High != 0 || e.Months[11].Income.Likely == 0 {
		t.Errorf("what is searched in December only brings %+v in November", e.Months[10].Income)
	}
}

func BenchmarkEarn(b *testing.B) {
	list := pieces(300, 0.3)
	a := usual
	a.WeekHours = 40
	for b.Loop() {
		if _, err := Earn(list, a); err != nil {
			b.Fatal(err)
		}
	}
}

// TestAGrowingSite: later chances count step by step, half of the growth counts half, and without any nothing changes.
func TestAGrowingSite(t *testing.T) {
	var list []Piece
	for i := range 30 {
		list = append(list, Piece{Lead: fmt.Sprint(i), Searches: 1000, PageOne: 0.3, TopFive: 0.1, Clicks: 0.02,
			PerVisit: worth.Range{Low: 0.1, Likely: 0.1, High: 0.1}, Hours: 4})
	}
	a := Assumed{Begin: time.January, WeekHours: 10, LeadMonths: 3, Months: 24, Chosen: 1, Tied: 0.2, VisitFactor: 1}
	still, err := Earn(list, a)
	if err != nil {
		t.Fatal(err)
	}
	for i := range list {
		list[i].Later = &Chances{PageOne: 0.9, TopFive: 0.6, Clicks: 0.1}
	}
	last := func(growth float64) float64 {
		a.Growth = growth
		e, err := Earn(list, a)
		if err != nil {
			t.Fatal(err)
		}
		return e.Months[23].Income.Likely
	}
	if got := last(0); got != still.Months[23].Income.Likely {
		t.Errorf("%g without growth, and %g where later chances are not known", got, still.Months[23].Income.Likely)
	}
	if none, half, all := last(0), last(0.5), last(1); !(none < half && half < all) {
		t.Errorf("%g, %g with half the growth, %g with all", none, half, all)
	}
	a.Growth = -1
	if _, err := Earn(list, a); err == nil {
		t.Error("a site that gains −1 times as much")
	}
}

// TestGrows: the middle of evenly grown sites; too few tell nothing, nor do old ones.
func TestGrows(t *testing.T) {
	sites := []Site{{Months: 12, Standing: 6}, {Months: 24, Standing: 6}, {Months: 36, Standing: 6}, {Months: 12,
		Standing: 1},
		{Months: 200, Standing: 90}, {Months: -1, Standing: 40}}
	if gain, dated := Grows(sites); gain != 0 || dated != 4 {
		t.Errorf("%g by %d", gain, dated)
	}
	if gain, dated := Grows(append(sites, Site{Months: 48, Standing: 4})); gain != 4 || dated != 5 {
		t.Errorf("%g by %d; 2, 2, 4, 6 and 12 are what they gain", gain, dated)
	}
}

// TestNarrows: four times as many of very many halve a range; all of them leave none.
func TestNarrows(t *testing.T) {
	r := Range{40, 60, 100}
	if got := r.Narrows(40, 120, 1_000_000); math.Abs(got.Low-50) > 0.01 || math.Abs(got.High-80) > 0.01 {
		t.Errorf("%+v", got)
	}
	if got := r.Narrows(40, 50, 30); got != (Range{60, 60, 60}) {
		t.Errorf("%+v once all are looked up", got)
	}
	if got := r.Narrows(0, 40, 100); got != r {
		t.Errorf("%+v of nothing drawn", got)
	}
}
