package difficulty

import (
	"math"
	"testing"
	"testing/quick"
)

// plain is a model that can be reckoned by hand: one taste, and site standing as it is.
var plain = Model{Curve: 1, WellMade: 80, Weights: Weights{Page: 0.5, Site: 0.2, Fit: 0.3},
	Engines: []EngineWeights{{Name: "one", Weight: 1, Ten: Weights{Page: 0.5, Site: 0.2, Fit: 0.3}, Tau: 5,
		Steps: []Step{{1, -6}, {3, -14}, {5, -18}, {10, -24}, {20, -30}}}}}

func even(n int, s Signals) Field {
	f := Field{}
	for range n {
		f.Rivals = append(f.Rivals, s)
	}
	return f
}

// field makes rivals of any signals.
func field(raw [10][3]uint8) Field {
	f := Field{}
	for _, r := range raw {
		f.Rivals = append(f.Rivals, Signals{float64(r[0] % 101), float64(r[1] % 101), float64(r[2] % 101)})
	}
	return f
}

// TestJudgeByHand: ten equal results ask 40·0.5 + 50·0.2 + 60·0.3 − 18 = 30 for the top
// five; a page of 10·0.2 + 85·0.3 is 27.5 strong. A well-made page is 24 strong by its fit,
// and each point of site standing adds 0.2.
func TestJudgeByHand(t *testing.T) {
	f := even(10, Signals{40, 50, 60})
	mine := Mine{SiteStanding: 10, Fit: 85, LinkStanding: 35}
	v := plain.Judge(f, mine)
	for name, c := range map[string]struct{ got, want float64 }{
		"strength": {v.Strength, 27.5}, "reach": {v.Reach, 3.5 / 0.2}, "difficulty": {v.Difficulty, 6 / 0.2},
		"page one":    {v.PageOne.Mean, 1 / (1 + math.Exp((24-27.5)/5))},
		"top five":    {v.TopFive.Mean, 1 / (1 + math.Exp((30-27.5)/5))},
		"top three":   {v.TopThree.Mean, 1 / (1 + math.Exp((34-27.5)/5))},
		"least":       {v.TopFive.Low, v.TopFive.Mean},
		"holds":       {v.Holds[3], (48 - 24) / 0.2},
		"third stair": {v.Stairs[2], (34 - 24) / 0.2}, "tenth stair": {v.Stairs[9], 0},
		"off page": {v.Parts.OffPage, (30 - 18) / 0.2}, "on page": {v.Parts.OnPage, (30 - 20 - 10) / 0.3},
		"fit": {v.FitNeeded, (30 - 2) / 0.3},
	} {
		if math.Abs(c.got-math.Min(100, c.want)) > 1e-6 {
			t.Errorf("%s %v, by hand %v", name, c.got, c.want)
		}
	}
	if !v.FitOK {
		t.Errorf("a fit of %v is not possible", v.FitNeeded)
	}
	mine.PlannedLinks = v.Links
	if !v.LinksOK || plain.Reach(mine) < v.Difficulty {
		t.Errorf("%d links are not enough for %v", v.Links, v.Difficulty)
	}
	if mine.PlannedLinks--; plain.Reach(mine) >= v.Difficulty {
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
		for _, standing := range []float64{0, 0.5, 3, 7, 26, 60, 100} {
			mine := Mine{SiteStanding: standing, Fit: m.WellMade, LinkStanding: 35}
			if got := m.Reach(mine); math.Abs(got-standing) > 1e-6 {
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

func TestStepsBetweenRanks(t *testing.T) {
	one := plain.Engines[0]
	for k, want := range map[int]float64{1: -6, 3: -14, 4: -14 - 4*math.Log(4./3)/math.Log(5./3), 5: -18, 20: -30,
		90: -30} {
		if got := one.Step(k); math.Abs(got-want) > 1e-9 {
			t.Errorf("step of %d is %v, want %v", k, got, want)
		}
	}
	if (EngineWeights{}).Step(5) != 0 {
		t.Error("a taste without steps has some")
	}
}

// TestTastes: the chance is the mean over the tastes and lies in its range; weights move
// both; what a position makes likelier is the taste that expected it.
func TestTastes(t *testing.T) {
	m := plain
	strict, lenient := plain.Engines[0], plain.Engines[0]
	strict.Steps, lenient.Steps = []Step{{1, 0}, {5, -8}, {10, -14}, {20, -20}}, []Step{{1, -20}, {5, -28}, {20, -40}}
	strict.Weight, lenient.Weight = 0.5, 0.5
	m.Engines = []EngineWeights{strict, lenient}
	f := even(10, Signals{40, 50, 60})
	r := m.Range(f, 30, TopFive)
	one := m.Weighed([]float64{1, 0}).Range(f, 30, TopFive)
	two := m.Weighed([]float64{0, 3}).Range(f, 30, TopFive)
	if math.Abs(r.Mean-(one.Mean+two.Mean)/2) > 1e-12 || r.Low != one.Mean || r.High != two.Mean || one.Low != one.High {
		t.Errorf("%+v of %+v and %+v", r, one, two)
	}
	if got := m.Chance(f, m.Needed(f, TopFive), TopFive); math.Abs(got-0.5) > 1e-9 {
		t.Errorf("even odds are %v", got)
	}
	if got := m.Likelihoods(f, 30, 1); got[1] <= got[0] {
		t.Errorf("a first place is likelier by the strict taste: %v", got)
	}
	if got := m.Likelihoods(f, 30, 0); got[0] <= got[1] {
		t.Errorf("no place is likelier by the lenient taste: %v", got)
	}
	if got := m.Weighed([]float64{1}); len(got.Engines) != 2 || got.Engines[0].Weight != 0.5 {
		t.Errorf("weights that fit no taste change it: %+v", got.Engines)
	}
}

func TestDifficultyIsEvenOdds(t *testing.T) {
	check := func(raw [10][3]uint8) bool {
		f := field(raw)
		for _, m := range []Model{plain, Calibrated} {
			for _, k := range []int{PageOne, TopFive, TopThree} {
				d := m.For(f, k)
				page := m.Strength(Signals{0, d, m.WellMade})
				if d > 0 && d < 100 && math.Abs(m.Chance(f, page, k)-0.5) > 1e-6 {
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

func TestStrongerRivalNeverHelps(t *testing.T) {
	check := func(raw [10][3]uint8, which, more, x uint8) bool {
		f, s := field(raw), float64(x%100)
		before, wins := Calibrated.Range(f, s, TopFive), Calibrated.Range(f, s+1, TopFive)
		f.Rivals[which%10].Page += float64(more)
		after := Calibrated.Range(f, s, TopFive)
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
	check := func(raw [10][3]uint8, x uint8) bool {
		f, s := field(raw), float64(x%100)
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
	few := even(2, Signals{90, 90, 90})
	few.All = true
	if v := plain.Judge(few, Mine{Fit: 10}); v.TopFive != (Range{1, 1, 1}) || v.Difficulty != 0 || v.Links != 0 ||
		v.FitNeeded != 0 || v.Parts != (Parts{}) || v.Stairs[0] != 100 || v.Stairs[4] != 0 {
		t.Errorf("two results cannot fill five places: %+v", v)
	}
	if few.All = false; plain.Chance(few, 0, TopFive) > 0.5 {
		t.Error("two known of many leave no room")
	}
	if v := plain.Judge(Field{}, Mine{}); v.PageOne.Mean != 1 || v.Difficulty != 0 {
		t.Errorf("nothing in front: %+v", v)
	}
	wall := even(10, Signals{300, 300, 300})
	if v := plain.Judge(wall, Mine{Fit: 85, LinkStanding: 35}); v.Difficulty != 100 || v.LinksOK || v.FitOK {
		t.Errorf("against a wall: %+v", v)
	}
	locked := even(10, Signals{1, 1, 1})
	locked.Locked = "its own site leads"
	v := plain.Judge(locked, Mine{Fit: 100, SiteStanding: 100, LinkStanding: 50})
	if v.PageOne != (Range{}) || v.Difficulty != 100 || v.LinksOK || v.FitOK || len(v.Changes) != 0 ||
		v.Parts != (Parts{100, 100}) || v.Expected != Ranks+1 {
		t.Errorf("locked: %+v", v)
	}
	if v := (Model{Curve: 1, Weights: plain.Weights}).Judge(wall, Mine{}); v.Expected != Ranks+1 {
		t.Errorf("without a taste: %+v", v)
	}
}

// TestOrderOfRivalsDoesNotMatter: nothing here can see a phrase or its length; what
// the model does see are the rivals only, and their order does not matter.
func TestOrderOfRivalsDoesNotMatter(t *testing.T) {
	f := Field{Rivals: []Signals{{10, 20, 30}, {40, 50, 60}, {70, 80, 90}}}
	g := Field{Rivals: []Signals{{70, 80, 90}, {10, 20, 30}, {40, 50, 60}}}
	if math.Abs(plain.For(f, 5)-plain.For(g, 5)) > 1e-9 {
		t.Errorf("%v and %v", plain.For(f, 5), plain.For(g, 5))
	}
}

// TestCalibratedIsSane holds what any calibration must have.
func TestCalibratedIsSane(t *testing.T) {
	w := Calibrated.Weights
	if w.Page <= 0 || w.Site <= 0 || w.Fit <= 0 || math.Abs(w.Page+w.Site+w.Fit-1) > 1e-3 || Calibrated.Curve <= 0 ||
		Calibrated.Curve > 1 || Calibrated.WellMade < 50 || Calibrated.WellMade > 100 || len(Calibrated.Engines) < 8 {
		t.Errorf("%+v", Calibrated)
	}
	weights := 0.0
	for _, taste := range Calibrated.Engines {
		weights += taste.Weight
		if taste.Tau <= 0 {
			t.Errorf("taste %s: τ is %v", taste.Name, taste.Tau)
		}
		for i, s := range taste.Steps {
			if i > 0 && (s.Rank <= taste.Steps[i-1].Rank || s.Above > taste.Steps[i-1].Above) {
				t.Errorf("taste %s: steps %+v", taste.Name, taste.Steps)
			}
		}
	}
	if math.Abs(weights-1) > 1e-9 {
		t.Errorf("the tastes' weights sum to %v", weights)
	}
}

func BenchmarkJudge(b *testing.B) {
	f := field([10][3]uint8{{78, 64, 57}, {22, 49, 19}, {27, 52, 25}, {61, 3, 70}, {5, 6, 7}, {78, 64, 57},
		{22, 49, 19}, {27, 52, 25}, {61, 3, 70}, {5, 6, 7}})
	for b.Loop() {
		Calibrated.Judge(f, Mine{SiteStanding: 6, Fit: 85, LinkStanding: 35})
	}
}
