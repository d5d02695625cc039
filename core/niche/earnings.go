package niche

import (
	"errors"
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"time"

	"cleverniche/core/worth"

	"gonum.org/v1/gonum/stat/distuv"
)

// Piece is an article that can be written: what it may bring, and what it takes.
type Piece struct {
	Lead             string
	Searches         float64     // a month, of all its wordings
	PageOne, TopFive float64     // chances
	Clicks           float64     // share of the searches that my page gets, over all places it may take
	PerVisit         worth.Range // units of the currency
	Hours            float64
	Season           [12]float64 // a month's share of the year by twelve, January first; all zero is even
	Supposed         bool        // it is not looked up, and taken to be like one that was drawn
	Later            *Chances    // once my site has grown for GrowMonths; nil as now
}

// Chances are those of a piece at another time.
type Chances struct{ PageOne, TopFive, Clicks float64 }

// GrowMonths is after how many months the later chances of pieces hold.
const GrowMonths = 24

// grown is the piece once part of that growth is done, 0 to 1 and beyond.
func (p Piece) grown(part float64) Piece {
	if p.Later == nil || part == 0 {
		return p
	}
	to := func(now, later float64) float64 { return min(1, max(0, now+part*(later-now))) }
	p.PageOne, p.Clicks = to(p.PageOne, p.Later.PageOne), to(p.Clicks, p.Later.Clicks)
	p.TopFive = min(p.PageOne, to(p.TopFive, p.Later.TopFive))
	return p
}

// Grows is how much standing a young site gains in GrowMonths: the middle over sites of which standing and age are
// known, each taken to have gained evenly since its name was registered. It is not told by fewer than FewestDated.
func Grows(sites []Site) (gain float64, dated int) {
	var list []float64
	for _, s := range sites {
		if s.Months >= youngest && s.Months <= oldest {
			list = append(list, s.Standing/float64(s.Months)*GrowMonths)
		}
	}
	if len(list) < FewestDated {
		return 0, len(list)
	}
	slices.Sort(list)
	return list[(len(list)-1)/2], len(list)
}

// Sites that tell how a young site grows (ours).
const (
	FewestDated = 5
	youngest    = 6  // months
	oldest      = 72 // months
)

// expected is what it brings in a month, in units of the currency.
func (p Piece) expected() float64 { return p.Searches * p.Clicks * p.PerVisit.Likely }

// Suppose takes what is not looked up to be like what was drawn at random in its stratum, or where nothing was, among
// all: chances, clicks, what a visit brings and hours are those of the drawn one, searches and season its own. Of
// drawn ones that are nothing to write, pieces is nil. The choice is the same each time.
func Suppose(open []Piece, strata []int, drawn []*Piece, of []int) (out []Piece) {
	rng := rand.New(rand.NewPCG(uint64(len(open)), uint64(len(drawn))))
	byStratum := map[int][]*Piece{}
	for i, p := range drawn {
		byStratum[of[i]] = append(byStratum[of[i]], p)
	}
	for i, p := range open {
		list := byStratum[strata[i]]
		if len(list) == 0 {
			list = drawn
		}
		if len(list) == 0 {
			return nil
		}
		like := list[rng.IntN(len(list))]
		if like == nil || p.Searches < 0 {
			continue
		}
		one := *like
		one.Lead, one.Searches, one.Season, one.Supposed = p.Lead, p.Searches, p.Season, true
		out = append(out, one)
	}
	return out
}

// Assumed is what earnings rest on; all of it can be moved.
type Assumed struct {
	Begin       time.Month // of writing
	WeekHours   float64
	MostHours   float64 // in all; 0 as long as a piece is expected to bring the bar, or, where none is, all there are
	EnoughHours float64 // that must clear the bar for Turn
	LeadMonths  float64 // from publishing to the place
	Months      int     // that are looked at
	Chosen      float64 // share of its forecast that what is chosen for it brings, 0 to 1; see Promised
	Tied        float64 // how much the outcomes of pieces have in common, 0 to 1
	BarAnHour   float64 // units of the currency that an hour must bring, over the months
	VisitFactor float64 // by which what a visit brings is taken; 1 as it is
	Growth      float64 // by which the growth of my site is taken; 1 as such sites grew, 0 it stays as it is
}

// What is measured in simulated worlds (go run ./cmd/calibrate case; docs/case-measured.md): of the best by their
// forecast among some hundred topics, Promised is the share of it that came, and Together how much outcomes have in
// common for ranges to hold eight times in ten.
const (
	Promised = 0.6
	Together = 0.2
)

// Check returns why assumptions cannot be used, or nil.
func (a Assumed) Check() error {
	switch {
	case !(a.WeekHours > 0 && a.WeekHours <= 168):
		return fmt.Errorf("%g hours a week: between 0 and 168 are needed", a.WeekHours)
	case !(a.MostHours >= 0 && a.MostHours <= 20_000):
		return fmt.Errorf("%g hours in all: between 0 and 20,000 can be spent", a.MostHours)
	case !(a.LeadMonths >= 0 && a.LeadMonths <= 36):
		return fmt.Errorf("%g months to the place: 0 to 36 can be", a.LeadMonths)
	case a.Months < 1 || a.Months > 60:
		return fmt.Errorf("%d months: 1 to 60 can be looked at", a.Months)
	case !(a.Chosen > 0 && a.Chosen <= 1):
		return fmt.Errorf("what is chosen cannot bring %g of its forecast: above 0, at most 1", a.Chosen)
	case !(a.Tied >= 0 && a.Tied <= 0.99):
		return fmt.Errorf("outcomes cannot be tied by %g: between 0 and 0.99", a.Tied)
	case !(a.BarAnHour >= 0 && a.BarAnHour <= 10_000):
		return fmt.Errorf("%g an hour is no bar: between 0 and 10,000", a.BarAnHour)
	case !(a.VisitFactor > 0 && a.VisitFactor <= 1000):
		return fmt.Errorf("a visit brings %g times as much: above 0, at most 1000", a.VisitFactor)
	case !(a.Growth >= 0 && a.Growth <= 5):
		return fmt.Errorf("a site cannot gain %g times what such sites gain: between 0 and 5", a.Growth)
	}
	return nil
}

// Month is one month of earnings: income by then a month, all income so far, and all hours so far.
type Month struct {
	Income, Sum Range
	Hours       float64
	Out         int // pieces that are out
}

// Earnings are what pieces bring over months.
type Earnings struct {
	Months []Month
	Pieces int // that are written in the hours there are
	Hours  float64
	Hour   Range   // what an hour brings by the last month, in units of the currency
	Back   Range   // months until the hours have earned the bar; past the last month where they do not
	Never  float64 // chance that they do not within the months
	Turn   float64 // factor on what a visit brings from which EnoughHours are expected to bring the bar; 0 nothing can
	Above  int     // of all pieces, those whose own expected hour is the bar or more
	// AboveHours is what these take, AboveIncome what they are expected to bring a month once they are settled.
	AboveHours, AboveIncome float64
}

// runs is how many courses are drawn.
const runs = 1000

var errNoPieces = errors.New("there is nothing to write")

// Earn is what pieces bring that are written in their order, the best for an hour first, at so many hours a week.
// Each has a place on page one, among the first five or below, by its chances; that an engine is kind or unkind is
// common to all of them, so outcomes are tied: a one-factor Gaussian copula, as for loans of one portfolio (Vasicek,
// Probability of loss on loan portfolio, 1987; Li, On default correlation: a copula function approach, 2000). What a
// visit brings is one unknown for all, too. A page comes to its place in even steps over LeadMonths. The draws are
// the same each time.
func Earn(list []Piece, a Assumed) (out Earnings, err error) {
	if err := a.Check(); err != nil {
		return out, err
	}
	if len(list) == 0 {
		return out, errNoPieces
	}
	months := float64(a.Months)
	list = slices.Clone(list)
	for i := range list {
		list[i].PageOne, list[i].TopFive = list[i].PageOne*a.Chosen, list[i].TopFive*a.Chosen
		list[i].Clicks *= a.Chosen
		if l := list[i].Later; l != nil {
			list[i].Later = &Chances{l.PageOne * a.Chosen, l.TopFive * a.Chosen, l.Clicks * a.Chosen}
		}
	}
	middle := a.Growth * months / 2 / GrowMonths // of the growth, in the mean over the months
	clears := func(p Piece) bool {
		return p.grown(middle).expected()*a.VisitFactor*max(0, months-a.LeadMonths) >= a.BarAnHour*p.Hours
	}
	for _, p := range list {
		if !(p.Hours > 0) || p.Searches < 0 || p.PageOne < p.TopFive || !(p.PageOne <= 1 && p.TopFive >= 0) {
			return out, fmt.Errorf("“%s” cannot be reckoned: %g hours, %g searches, chances of %g and %g", p.Lead, p.Hours,
				p.Searches, p.PageOne, p.TopFive)
		}
		if clears(p) {
			out.Above++
			out.AboveHours += p.Hours
			out.AboveIncome += p.grown(middle).expected() * a.VisitFactor
		}
	}
	out.Turn = turn(list, a)
	perMonth := a.WeekHours * 52 / 12
	var bring [][]float64 // a month, of each piece that is written, at one click for each search and 1 a visit
	begun := 0.0
	for _, p := range list {
		if a.MostHours > 0 && begun+p.Hours > a.MostHours || begun+p.Hours > perMonth*months {
			break
		}
		if a.MostHours == 0 && out.Above > 0 && !clears(p) {
			break
		}
		begun += p.Hours
		bring = append(bring, p.course(begun/perMonth, a))
	}
	if out.Pieces, out.Hours = len(bring), begun; len(bring) == 0 {
		return out, errors.New("no article can be written in these hours")
	}
	list = list[:len(bring)]
	out.draw(list, bring, perMonth, a)
	return out, nil
}

// turn is the factor on what a visit brings from which pieces of enough hours are expected to bring the bar.
func turn(list []Piece, a Assumed) float64 {
	hours, factor := 0.0, 0.0
	for _, p := range list {
		got := p.grown(a.Growth*float64(a.Months)/2/GrowMonths).expected() * max(0, float64(a.Months)-a.LeadMonths)
		if got <= 0 {
			break
		}
		factor = max(factor, a.BarAnHour*p.Hours/got)
		if hours += p.Hours; hours >= a.EnoughHours {
			break
		}
	}
	return factor
}

// course is what a piece that is ready after some months could bring in each month.
func (p Piece) course(ready float64, a Assumed) []float64 {
	out := make([]float64, a.Months)
	for m := range out {
		age := float64(m+1) - ready
		if age <= 0 {
			continue
		}
		grown := 1.0
		if a.LeadMonths > 0 {
			grown = min(1, age/a.LeadMonths)
		}
		season := 1.0
		if p.Season != [12]float64{} {
			season = p.Season[(int(a.Begin)-1+m)%12]
		}
		out[m] = p.Searches * season * grown
	}
	return out
}

// shares are the shares of searches that a page gets among the first five and below them on page one, so that over the
// chances they come to what is expected. Of a page that has no chance what is expected is kept.
func (p Piece) shares() (five, ten, below float64) {
	mean := func(from, to int) (sum float64) {
		for k := from; k <= to; k++ {
			sum += worth.Searches.At(k)
		}
		return sum / float64(to-from+1)
	}
	five, ten = mean(1, 5), mean(6, 10)
	all := p.TopFive*five + (p.PageOne-p.TopFive)*ten
	if all < 1e-6 {
		return 0, 0, p.Clicks
	}
	return five * p.Clicks / all, ten * p.Clicks / all, 0
}

// quarter is how many months chances are taken to stay as they are while a site grows.
const quarter = 3

func (e *Earnings) draw(list []Piece, bring [][]float64, perMonth float64, a Assumed) {
	rng := rand.New(rand.NewPCG(uint64(len(list)), 31))
	quantile := func(p float64) float64 { return distuv.UnitNormal.Quantile(min(1-1e-12, max(1e-12, p))) }
	type bounds struct{ five, ten, s5, s10, below float64 }
	of := make([][]bounds, len(list)) // by quarter, where my site grows
	for i, p := range list {
		quarters := 1
		if p.Later != nil && a.Growth > 0 {
			quarters = (a.Months + quarter - 1) / quarter
		}
		for q := range quarters {
			at := p
			if quarters > 1 {
				at = p.grown(a.Growth * (float64(q) + 0.5) * quarter / GrowMonths)
			}
			s5, s10, below := at.shares()
			of[i] = append(of[i], bounds{quantile(at.TopFive), quantile(at.PageOne), s5, s10, below})
		}
	}
	common, own := math.Sqrt(a.Tied), math.Sqrt(1-a.Tied)
	income, sums := make([][]float64, a.Months), make([][]float64, a.Months)
	for m := range income {
		income[m], sums[m] = make([]float64, runs), make([]float64, runs)
	}
	back, hour := make([]float64, runs), make([]float64, runs)
	row, never := make([]float64, a.Months), 0
	for r := range runs {
		clear(row)
		engine, value := rng.NormFloat64(), rng.Float64()
		for i, p := range list {
			x := common*engine + own*rng.NormFloat64()
			brings := between(p.PerVisit, value) * a.VisitFactor
			for q, b := range of[i] {
				share := b.below
				switch {
				case x < b.five:
					share = b.s5
				case x < b.ten:
					share = b.s10
				}
				if share == 0 {
					continue
				}
				from, to := q*quarter, min(len(row), (q+1)*quarter)
				if len(of[i]) == 1 {
					to = len(row)
				}
				for m, n := range bring[i][from:to] {
					row[from+m] += n * share * brings
				}
			}
		}
		sum := 0.0
		back[r] = float64(a.Months + 1)
		for m, x := range row {
			sum += x
			income[m][r], sums[m][r] = x, sum
			if spent := min(e.Hours, perMonth*float64(m+1)); back[r] > float64(m+1) && spent >= e.Hours &&
				sum >= a.BarAnHour*e.Hours {
				back[r] = float64(m + 1)
			}
		}
		if back[r] > float64(a.Months) {
			never++
		}
		hour[r] = sum / e.Hours
	}
	for m := range income {
		out := 0
		for i := range bring {
			if bring[i][m] > 0 || list[i].Searches == 0 {
				out++
			}
		}
		e.Months = append(e.Months, Month{quantiles(income[m]), quantiles(sums[m]), min(e.Hours, perMonth*float64(m+1)), out})
	}
	e.Never = float64(never) / runs
	e.Hour, e.Back = quantiles(hour), quantiles(back)
}

// between is a value of a range by a share of 0 to 1: the likely one in the middle, even steps to the ends.
func between(r worth.Range, u float64) float64 {
	if u < 0.5 {
		return r.Low + (r.Likely-r.Low)*2*u
	}
	return r.Likely + (r.High-r.Likely)*(2*u-1)
}

// quantiles are the range at Level of what was drawn, and its middle.
func quantiles(list []float64) Range {
	list = slices.Clone(list)
	slices.Sort(list)
	at := func(q float64) float64 { return list[int(q*float64(len(list)-1)+0.5)] }
	return Range{at((1 - Level) / 2), at(0.5), at((1 + Level) / 2)}
}
