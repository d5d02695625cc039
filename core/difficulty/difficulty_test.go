package difficulty

import (
	"math"
	"testing"
	"testing/quick"
)

// steps that can be reckoned with by hand.
var steps = []Step{{1, 3}, {3, 1.5}, {5, 1}, {10, 0}, {20, -1}}

// plain is a model that can be reckoned by hand: one draw, and site standing as it is.
var plain = Model{Curve: 1, WellMade: 80, Made: Made{Title: 90, Text: 80, Kind: 100},
	Deep: Form{Slope: 2, Front: 1, All: 1, Steps: steps}, Shallow: Form{Slope: 2, Front: 2, Steps: steps},
	Leans: Leaning{Mean: vector{2, 4, 1, 2, 0.5}}, draws: []draw{{w: vector{2, 4, 1, 2, 0.5}, weight: 1}}}

func equals(n int, s Signals) Field {
	f := Field{}
	for range n {
		f.Rivals = append(f.Rivals, s)
	}
	return f
}

// field makes rivals of any signals.
func field(raw [10][5]uint8) Field {
	f := Field{}
	for _, r := range raw {
		f.Rivals = append(f.Rivals, Signals{float64(r[0] % 101), float64(r[1] % 101), float64(r[2] % 101),
			float64(r[3] % 101), float64(r[4] % 101), 0})
	}
	return f
}

// TestJudgeByHand: ten equal results are 2·0.4 + 4·0.5 + 0.6 + 2·0.5 + 0.5·1 = 4.9 strong. A page of a site of
// 20 that fits as a well-made one is 0.8 + 0.9 + 1.6 + 0.5 = 3.8 strong; each point of site standing adds
// 0.04. For the top five twice that must be 2·4.9 + 1: a strength of 5.4, which is a site standing of 60.
func TestJudgeByHand(t *testing.T) {
	f := equals(10, Signals{40, 50, 60, 50, 100, 0})
	mine := Mine{SiteStanding: 20, Fit: 80, LinkStanding: 35}
	v := plain.Judge(f, mine)
	for name, c := range map[string]struct{ got, want float64 }{
		"strength": {plain.Strength(plain.Signals(mine)), 3.8}, "reach": {v.Reach, 20}, "difficulty": {v.Difficulty, 60},
		"page one":  {v.PageOne.Mean, 1 / (1 + math.Exp(9.8-7.6))},
		"top five":  {v.TopFive.Mean, 1 / (1 + math.Exp(10.8-7.6))},
		"top three": {v.TopThree.Mean, 1 / (1 + math.Exp(11.3-7.6))},
		"least":     {v.TopFive.Low, v.TopFive.Mean},
		"seen":      {v.Seen[3], (4.9 - 3) / 0.04},
		"first":     {v.Stairs[0], (6.4 - 3) / 0.04}, "tenth": {v.Stairs[9], (4.9 - 3) / 0.04},
		"pass the fifth": {v.Pass[4], v.TopFive.Mean},
		"off page":       {v.Parts.OffPage, (5.4 - 2.1) / 0.04},
		// Standings of the middle are 2.8 strong; below the well-made 80 a point of fit brings 3/80.
		"on page": {v.Parts.OnPage, 2.6 * 80 / 3},
		"fit":     {v.FitNeeded, 100}, "needed": {plain.Needed(f, TopFive), 5.4},
	} {
		if math.Abs(c.got-math.Min(100, c.want)) > 2e-3 {
			t.Errorf("%s %v, by hand %v", name, c.got, c.want)
		}
	}
	if v.FitOK {
		t.Errorf("a fit of %v would be enough", v.FitNeeded)
	}
	mine.PlannedLinks = v.Links
	if !v.LinksOK || plain.Chance(f, plain.Signals(mine), TopFive) < 0.5 {
		t.Errorf("%d links are not enough for %v", v.Links, v.Difficulty)
	}
	if mine.PlannedLinks--; plain.Chance(f, plain.Signals(mine), TopFive) >= 0.5 {
		t.Errorf("one link fewer than %d would do", v.Links)
	}
	if len(v.Changes) != 3 || v.Changes[0].Gain < v.Changes[1].Gain || v.Changes[1].Gain < v.Changes[2].Gain {
		t.Errorf("changes %+v", v.Changes)
	}
}

// TestScale: a site's well-made page without links amounts to the site's standing; links
// and a better fit lift it, a worse one lowers it; it ends at 0 and 100.
func TestScale(t *testing.T) {
	for _, m := range []Model{plain, Calibrated} {
		for _, standing := range []float64{0, 0.3, 3, 7, 26, 60, 100} {
			mine := Mine{SiteStanding: standing, Fit: m.WellMade, LinkStanding: 35}
			if got := m.Reach(mine); math.Abs(got-standing) > 1e-3 {
				t.Errorf("a site of %v amounts to %v", standing, got)
			}
			mine.PlannedLinks = 3
			if got := m.Reach(mine); got <= standing && standing < 100 {
				t.Errorf("three links make %v count as %v", standing, got)
			}
			mine.PlannedLinks, mine.Fit = 0, m.WellMade-20
			if got := m.Reach(mine); got >= standing && standing > 0 {
				t.Errorf("a worse page makes %v count as %v", standing, got)
			}
		}
		if got := m.OnScale(1e9); got != Most {
			t.Errorf("the scale goes on to %v", got)
		}
		if got := m.OnScale(-1e9); got != 0 {
			t.Errorf("the scale begins at %v", got)
		}
	}
}

// TestFirstLink: a site that nobody links to lacks more than the little that its first followed link is worth on the
// scale.
func TestFirstLink(t *testing.T) {
	m := Calibrated
	jump := m.Strength(m.bare(Linked)) - m.Strength(m.bare(0))
	next := m.Strength(m.bare(2*Linked)) - m.Strength(m.bare(Linked))
	if jump < m.Unlinked || jump <= next {
		t.Errorf("the first link is worth %v, as much again %v", jump, next)
	}
}

// TestFit: a fit is that of a well-made page in proportion, and above it what that lacks.
func TestFit(t *testing.T) {
	for fit, want := range map[float64]Signals{0: {}, 40: {Title: 45, Text: 40, Kind: 50},
		80: {Title: 90, Text: 80, Kind: 100}, 90: {Title: 95, Text: 90, Kind: 100}, 100: {Title: 100, Text: 100, Kind: 100}} {
		if got := plain.Signals(Mine{Fit: fit}); math.Abs(got.Title-want.Title)+math.Abs(got.Text-want.Text)+
			math.Abs(got.Kind-want.Kind) > 1e-9 {
			t.Errorf("a fit of %v is %+v", fit, got)
		}
	}
}

func TestStepsBetweenRanks(t *testing.T) {
	f := plain.Deep
	for k, want := range map[int]float64{1: 3, 3: 1.5, 4: 1.5 - 0.5*math.Log(4./3)/math.Log(5./3), 5: 1, 20: -1, 90: -1} {
		if got := f.Step(k); math.Abs(got-want) > 1e-9 {
			t.Errorf("step of %d is %v, want %v", k, got, want)
		}
	}
	if (Form{}).Step(5) != 0 {
		t.Error("a form without steps has some")
	}
}

// TestDraws: the chance is the mean over the draws and lies in its range; weights move
// both; what a position makes likelier is the draw that expected it.
func TestDraws(t *testing.T) {
	m := plain
	m.draws = []draw{{w: plain.Leans.Mean, offset: -1, weight: 0.5}, {w: plain.Leans.Mean, offset: 1, weight: 0.5}}
	f, s := equals(10, Signals{40, 50, 60, 50, 100, 0}), Signals{0, 40, 90, 80, 100, 0}
	r := m.Range(f, s, TopFive)
	strict, lenient := m.Weighed([]float64{1, 0}).Range(f, s, TopFive), m.Weighed([]float64{0, 3}).Range(f, s, TopFive)
	if math.Abs(r.Mean-(strict.Mean+lenient.Mean)/2) > 1e-12 || r.Low != strict.Mean || r.High != lenient.Mean {
		t.Errorf("%+v of %+v and %+v", r, strict, lenient)
	}
	if got := m.Chances(f, s, TopFive); math.Abs(got[0]-strict.Mean)+math.Abs(got[1]-lenient.Mean) > 1e-12 {
		t.Errorf("chances %v", got)
	}
	if got := m.Likelihoods(f, s, 1); got[1] <= got[0] {
		t.Errorf("a first place is likelier by the lenient draw: %v", got)
	}
	if got := m.Likelihoods(f, s, 0); got[0] <= got[1] {
		t.Errorf("no place is likelier by the strict draw: %v", got)
	}
	if got := m.Weighed([]float64{1}); len(got.draws) != 2 || got.draws[0].weight != 0.5 {
		t.Errorf("weights that fit no draw change it: %+v", got.draws)
	}
	low, high := m.Between(f, s, func(chances []float64) float64 { return chances[0] })
	if first := m.Distribution(f, s)[0]; low > first || high < first || low == high {
		t.Errorf("first place %v between %v and %v", first, low, high)
	}
}

func TestDifficultyIsEvenOdds(t *testing.T) {
	check := func(raw [10][5]uint8) bool {
		f := field(raw)
		for _, m := range []Model{plain, Calibrated} {
			for _, k := range []int{PageOne, TopFive, TopThree} {
				d := m.For(f, k)
				if d > 0 && d < 100 && math.Abs(m.Chance(f, m.bare(d), k)-0.5) > 1e-3 {
					return false
				}
				if on := m.OnScale(m.Needed(f, k)); len(m.draws) == 1 && math.Abs(on-d) > 1e-2 {
					return false
				}
			}
			if m.For(f, TopThree) < m.For(f, TopFive) || m.For(f, TopFive) < m.For(f, PageOne) {
				return false
			}
		}
		return true
	}
	if err := quick.Check(check, nil); err != nil {
		t.Error(err)
	}
}

// TestWhatAResultHolds: to pass the result at a place is to be among the first so many: the columns fall as the steps
// do, and the results that one expects to pass are those behind the expected position.
func TestWhatAResultHolds(t *testing.T) {
	check := func(raw [10][5]uint8, site uint8) bool {
		f := field(raw)
		v := Calibrated.Judge(f, Mine{SiteStanding: float64(site % 101), Fit: WellMade, LinkStanding: 35})
		first := 1.0 // expected position among the ten and one behind them
		for k := range FirstPage {
			if first += 1 - v.Pass[k]; k > 0 && (v.Stairs[k] > v.Stairs[k-1] || v.Pass[k] < v.Pass[k-1]) {
				return false
			}
		}
		sum, beyond := 0.0, 1.0
		for i, p := range Calibrated.Distribution(f, Calibrated.Signals(Mine{SiteStanding: float64(site % 101),
			Fit: WellMade}))[:FirstPage] {
			sum, beyond = sum+float64(i+1)*p, beyond-p
		}
		return math.Abs(sum+11*beyond-first) < 1e-9
	}
	if err := quick.Check(check, nil); err != nil {
		t.Error(err)
	}
}

func TestStrongerRivalNeverHelps(t *testing.T) {
	// With its weights for sure, as the spread of the ten can only be told for these.
	m := plain
	check := func(raw [10][5]uint8, which, more, x uint8) bool {
		f, s := field(raw), Signals{Site: float64(x % 100), Title: 90, Text: 80, Kind: 100}
		better := s
		better.Site++
		before, wins := m.Range(f, s, TopFive), m.Range(f, better, TopFive)
		f.Rivals[which%10].Page += float64(more)
		after := m.Range(f, s, TopFive)
		return after.Mean <= before.Mean && wins.Mean >= before.Mean && after.Low <= after.Mean && after.Mean <= after.High
	}
	if err := quick.Check(check, nil); err != nil {
		t.Error(err)
	}
}

func TestMoreNeverLowersReach(t *testing.T) {
	check := func(site, fit, standing, links uint8) bool {
		m := Mine{SiteStanding: float64(site % 101), Fit: float64(fit % 101), LinkStanding: float64(standing % 101),
			PlannedLinks: int(links % 60)}
		before := Calibrated.Reach(m)
		more := m
		more.PlannedLinks++
		better := m
		better.Fit++
		return Calibrated.Reach(more) >= before && Calibrated.Reach(better) >= before
	}
	if err := quick.Check(check, nil); err != nil {
		t.Error(err)
	}
}

func TestDistributionIsOne(t *testing.T) {
	check := func(raw [10][5]uint8, x uint8) bool {
		f, s := field(raw), Signals{Site: float64(x % 100), Title: 90, Text: 80, Kind: 100}
		sum, ten := 0.0, 0.0
		for i, p := range Calibrated.Distribution(f, s) {
			if p < 0 {
				return false
			}
			if sum += p; i < PageOne {
				ten += p
			}
		}
		e := Calibrated.Expected(f, s)
		return math.Abs(sum-1) < 1e-9 && math.Abs(ten-Calibrated.Chance(f, s, PageOne)) < 1e-9 && e >= 1 && e <= Ranks+1
	}
	if err := quick.Check(check, nil); err != nil {
		t.Error(err)
	}
}

// TestEdges: room, locks, walls.
func TestEdges(t *testing.T) {
	few := equals(2, Signals{90, 90, 90, 90, 90, 0})
	few.All = true
	if v := plain.Judge(few, Mine{Fit: 10}); v.TopFive != (Range{1, 1, 1}) || v.Difficulty != 0 || v.Links != 0 ||
		v.FitNeeded != 0 || v.Parts != (Parts{}) || v.Stairs[0] != 100 || v.Stairs[4] != 0 {
		t.Errorf("two results cannot fill five places: %+v", v)
	}
	if few.All = false; plain.Chance(few, Signals{}, TopFive) > 0.5 {
		t.Error("two known of many leave no room")
	}
	if v := plain.Judge(Field{}, Mine{}); v.PageOne.Mean != 1 || v.Difficulty != 0 {
		t.Errorf("nothing in front: %+v", v)
	}
	wall := equals(10, Signals{900, 900, 900, 900, 900, 0})
	if v := plain.Judge(wall, Mine{Fit: 85, LinkStanding: 35}); v.Difficulty != 100 || v.LinksOK || v.FitOK {
		t.Errorf("against a wall: %+v", v)
	}
	locked := equals(10, Signals{1, 1, 1, 1, 1, 0})
	locked.Locked = "its own site leads"
	v := plain.Judge(locked, Mine{Fit: 100, SiteStanding: 100, LinkStanding: 50})
	if v.PageOne != (Range{}) || v.Difficulty != 100 || v.LinksOK || v.FitOK || len(v.Changes) != 0 ||
		v.Parts != (Parts{100, 100}) || v.Expected != Ranks+1 {
		t.Errorf("locked: %+v", v)
	}
	if v := (Model{Curve: 1}).Judge(wall, Mine{}); v.Expected != Ranks+1 || v.Difficulty != 100 || v.FitOK {
		t.Errorf("without a draw: %+v", v)
	}
}

// TestThoseBehindTheTen: the stronger they are, the more the ten of the same strength take.
func TestThoseBehindTheTen(t *testing.T) {
	weak, strong := equals(Depth, Signals{20, 30, 60, 50, 100, 0}), equals(Depth, Signals{20, 30, 60, 50, 100, 0})
	for i := FirstPage; i < Depth; i++ {
		weak.Rivals[i].Site, strong.Rivals[i].Site = 1, 80
	}
	for _, m := range []Model{plain, Calibrated} {
		if a, b := m.For(weak, TopFive), m.For(strong, TopFive); a >= b {
			t.Errorf("with weak ones behind it takes %v, with strong ones %v", a, b)
		}
	}
}

// TestOrderOfTheTenDoesNotMatter: nothing here can see a phrase or its length; what
// the model does see are the results only, and the order of the ten tells nothing by itself.
func TestOrderOfTheTenDoesNotMatter(t *testing.T) {
	f := Field{Rivals: []Signals{{10, 20, 30, 40, 50, 0}, {40, 50, 60, 70, 80, 0}, {70, 80, 90, 100, 0, 0}}}
	g := Field{Rivals: []Signals{f.Rivals[2], f.Rivals[0], f.Rivals[1]}}
	if math.Abs(plain.For(f, 5)-plain.For(g, 5)) > 1e-9 {
		t.Errorf("%v and %v", plain.For(f, 5), plain.For(g, 5))
	}
}

// TestCalibratedIsSane holds what any calibration must have.
func TestCalibratedIsSane(t *testing.T) {
	m := Calibrated
	if m.Curve <= 0 || m.Curve > 1 || m.WellMade < 50 || m.WellMade > 100 || len(m.draws) != drawn || !m.Prior.Sound() ||
		m.Temper <= 0 || m.Temper > 1 || m.TenShow <= 0 || m.TenShow > 1.2 || m.Unlinked < 0 || m.Offset < 0 {
		t.Errorf("%+v", m)
	}
	for i := range Traits {
		if w, d := m.Prior.Of(i); w <= 0 || d <= 0 {
			t.Errorf("%s counts %v, ±%v", TraitNames[i], w, d)
		}
	}
	for name, f := range map[string]Form{"deep": m.Deep, "shallow": m.Shallow} {
		if f.Slope <= 0 || f.Front+f.All <= 0 {
			t.Errorf("%s: %+v", name, f)
		}
		for i, s := range f.Steps {
			if i > 0 && (s.Rank <= f.Steps[i-1].Rank || s.Above > f.Steps[i-1].Above) {
				t.Errorf("%s: steps %+v", name, f.Steps)
			}
		}
	}
}

// deep are twenty results of any signals.
func deep() (f Field) {
	for i := range Depth {
		f.Rivals = append(f.Rivals, Signals{float64(i * 37 % 90), float64(i * 53 % 90), float64(30 + i*29%70),
			float64(40 + i*17%60),
			float64(100 * (i % 2)), 0})
	}
	return f
}

func BenchmarkJudge(b *testing.B) {
	f := deep()
	for b.Loop() {
		Calibrated.Judge(f, Mine{SiteStanding: 6, Fit: 85, LinkStanding: 35})
	}
}
