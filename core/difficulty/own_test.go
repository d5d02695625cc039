package difficulty

import (
	"math"
	"math/rand/v2"
	"testing"
)

// settled are pages of mine that came to places as a model has it, if they had a luck in log odds.
func settled(m Model, n int, luck float64, seed uint64) (out []Outcome) {
	rng := rand.New(rand.NewPCG(seed, 5))
	for range n {
		var f Field
		for range FirstPage {
			f.Rivals = append(f.Rivals, Signals{Page: 40 * rng.Float64(), Site: 60 * rng.Float64(), Title: 100 * rng.Float64(),
				Text: 60 + 40*rng.Float64(), Kind: 100})
		}
		mine := m.Signals(Mine{SiteStanding: 10, Fit: WellMade})
		lucky := mine
		lucky.Luck = luck / m.Deep.Slope
		u, place := rng.Float64(), 0
		for i, p := range m.Distribution(f, lucky)[:Ranks] {
			if u -= p; u < 0 {
				place = i + 1
				break
			}
		}
		out = append(out, Outcome{f, mine, place})
	}
	return out
}

// TestOwnLuckIsFound: what pages have beside what is seen of them is found again, as surely as is said, and helps those
// that took no part; where there is none it is not offered, but for one time in six that chance alone makes likely.
func TestOwnLuckIsFound(t *testing.T) {
	m := Calibrated
	for _, luck := range []float64{-1.5, 0, 1.5} {
		within, better := 0, 0
		const times = 20
		for seed := range uint64(times) {
			list := settled(m, 60, luck, seed+1)
			o := m.LearnOwn(list, nil)
			if math.Abs(o.Luck-luck/m.Deep.Slope) <= 2*o.Deviation+0.02 {
				within++
			}
			if m.TryOwn(list, nil).Better {
				better++
			}
		}
		if within < 15 {
			t.Errorf("luck %g: within two deviations %d times of %d", luck, within, times)
		}
		if luck != 0 && better < times-2 || luck == 0 && better > times/2 {
			t.Errorf("luck %g: offered %d times of %d", luck, better, times)
		}
	}
}

// TestOwn: nobody's pages change nothing; each page makes it surer; the luck moves chances of mine and not what is
// thought of others.
func TestOwn(t *testing.T) {
	m := Calibrated
	if o := m.LearnOwn([]Outcome{{Field: Field{Locked: "an official page"}}}, nil); o.Pages != 0 ||
		m.Own(o).Luck != 0 {
		t.Errorf("%+v", o)
	}
	before := luckDeviation / m.Deep.Slope
	for _, n := range []int{5, 20, 80} {
		o := m.LearnOwn(settled(m, n, 1, 9), nil)
		if o.Pages != n || o.Deviation >= before {
			t.Errorf("%d pages: %+v after %g", n, o, before)
		}
		before = o.Deviation
		sum, squares := 0.0, 0.0
		for _, w := range o.Weights {
			sum, squares = sum+w, squares+w*w
		}
		if math.Abs(sum-1) > 1e-9 || 1/squares < fewestDraws-0.01 {
			t.Errorf("%d pages: weights sum to %g, and %g of them count", n, sum, 1/squares)
		}
	}
	list := settled(m, 80, 1, 9)
	now := m.Own(m.LearnOwn(list, nil))
	f, mine := list[0].Field, Mine{SiteStanding: 10, Fit: WellMade, Luck: now.Luck}
	if now.Luck <= 0 || now.Chance(f, now.Signals(mine), PageOne) <= m.Chance(f, list[0].Mine, PageOne) {
		t.Error("a lucky site has no better chances")
	}
	if now.Reach(mine) <= m.Reach(Mine{SiteStanding: 10, Fit: WellMade}) {
		t.Error("a lucky site does not count as more")
	}
	// That pages were chosen for their forecasts explains some of what they lack.
	less := func(int) float64 { return 0.5 }
	if a, b := m.LearnOwn(list, nil), m.LearnOwn(list, less); b.Luck <= a.Luck {
		t.Errorf("chosen pages: %g, otherwise %g", b.Luck, a.Luck)
	}
}

// TestUnsoundOutcomes: what a file may hold and no page has is not learnt from.
func TestUnsoundOutcomes(t *testing.T) {
	o := settled(Calibrated, 1, 0, 1)[0]
	if !o.Sound() {
		t.Error("a sound one is refused")
	}
	for name, change := range map[string]func(*Outcome){
		"too strong":  func(o *Outcome) { o.Mine.Site = 1e308 },
		"below 0":     func(o *Outcome) { o.Field.Rivals[0].Text = -1 },
		"no number":   func(o *Outcome) { o.Mine.Kind = math.NaN() },
		"lucky rival": func(o *Outcome) { o.Field.Rivals[1].Luck = 3 },
		"too many":    func(o *Outcome) { o.Field.Rivals = make([]Signals, 101) },
	} {
		bad := settled(Calibrated, 1, 0, 1)[0]
		if change(&bad); bad.Sound() {
			t.Errorf("%s is taken for sound", name)
		}
	}
}

// TestOwnByHand compares with Bayes summed by hand: one draw, one page that came first of ten alike.
func TestOwnByHand(t *testing.T) {
	m := Calibrated
	m.draws = []draw{{w: m.Leans.mean(), weight: 1}}
	o := settled(m, 1, 0, 3)[0]
	o.Place = 1
	got := m.LearnOwn([]Outcome{o}, nil)
	total, mean := 0.0, 0.0
	for x := -4.0; x <= 4.0; x += 0.001 {
		s := o.Mine
		s.Luck = x / m.Deep.Slope
		p := math.Exp(-x*x/2) * m.Distribution(o.Field, s)[0]
		total, mean = total+p, mean+p*x
	}
	if want := mean / total / m.Deep.Slope; math.Abs(got.Luck-want) > 0.01 {
		t.Errorf("%g, by hand %g", got.Luck, want)
	}
}
