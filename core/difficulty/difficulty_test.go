package difficulty

import (
	"math"
	"testing"
	"testing/quick"
)

// plain is a model that can be reckoned by hand.
var plain = Model{Weights: Weights{Page: 0.5, Site: 0.2, Fit: 0.3}, Tau: 5,
	Steps: []Step{{1, 8}, {3, 0}, {5, -4}, {10, -10}, {20, -16}}}

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

// TestJudgeByHand: ten equal results of 40·0.5 + 50·0.2 + 60·0.3 = 48, and a page of
// 10·0.2 + 85·0.3 = 27.5.
func TestJudgeByHand(t *testing.T) {
	f := even(10, Signals{40, 50, 60})
	mine := Mine{SiteStanding: 10, Fit: 85, LinkStanding: 35}
	v := plain.Judge(f, mine)
	for name, c := range map[string]struct{ got, want float64 }{
		"level": {v.Level, 48}, "reach": {v.Reach, 27.5}, "difficulty": {v.Difficulty, 44},
		"page one":  {v.PageOne, 1 / (1 + math.Exp((48-10-27.5)/5))},
		"top five":  {v.TopFive, 1 / (1 + math.Exp((48-4-27.5)/5))},
		"top three": {v.TopThree, 1 / (1 + math.Exp((48-27.5)/5))},
		"off page":  {v.Parts.OffPage, (44 - 18) / 0.7},
		"on page":   {v.Parts.OnPage, (44 - 20 - 10) / 0.3},
		"fit":       {v.FitNeeded, (44 - 2) / 0.3},
	} {
		if math.Abs(c.got-c.want) > 1e-9 {
			t.Errorf("%s %v, by hand %v", name, c.got, c.want)
		}
	}
	if v.FitOK {
		t.Errorf("a fit of %v is possible", v.FitNeeded)
	}
	mine.PlannedLinks = v.Links
	if !v.LinksOK || plain.Weights.Reach(mine) < v.Difficulty {
		t.Errorf("%d links are not enough for %v", v.Links, v.Difficulty)
	}
	if mine.PlannedLinks--; plain.Weights.Reach(mine) >= v.Difficulty {
		t.Errorf("one link fewer than %d would do", v.Links)
	}
	if len(v.Changes) != 3 || v.Changes[0].Gain < v.Changes[1].Gain || v.Changes[1].Gain < v.Changes[2].Gain {
		t.Errorf("changes %+v", v.Changes)
	}
}

func TestStepsBetweenRanks(t *testing.T) {
	for k, want := range map[int]float64{1: 8, 3: 0, 4: -4 * math.Log(4./3) / math.Log(5./3), 5: -4, 20: -16, 90: -16} {
		if got := plain.Step(k); math.Abs(got-want) > 1e-9 {
			t.Errorf("step of %d is %v, want %v", k, got, want)
		}
	}
	if (Model{}).Step(5) != 0 {
		t.Error("a model without steps has some")
	}
}

// TestEnginesAsk: an engine that asks more of newcomers makes everything harder by as
// much, and one that was not measured is taken for the mean.
func TestEnginesAsk(t *testing.T) {
	m, mine := plain, Mine{SiteStanding: 30, Fit: 80}
	m.Engines = map[string]float64{"strict": 3, "lenient": -3}
	f := even(10, Signals{40, 40, 60})
	mean := m.Judge(f, mine)
	for engine, more := range map[string]float64{"strict": 3, "lenient": -3, "other": 0} {
		f.Engine = engine
		v := m.Judge(f, mine)
		fit, _ := m.FitNeeded(f, mine, TheGoal)
		if v.Engine != more || math.Abs(v.Difficulty-mean.Difficulty-more) > 1e-9 ||
			math.Abs((fit-mean.FitNeeded)*m.Weights.Fit-more) > 1e-9 ||
			math.Abs(v.TopFive-m.Chance(even(10, Signals{40, 40, 60}), v.Reach-more, TopFive)) > 1e-9 {
			t.Errorf("%s: %+v", engine, v)
		}
	}
}

func TestDifficultyIsEvenOdds(t *testing.T) {
	check := func(raw [10][3]uint8) bool {
		f := field(raw)
		for _, m := range []Model{plain, Calibrated} {
			for _, k := range []int{PageOne, TopFive, TopThree} {
				if d := m.For(f, k); d > 0 && d < 100 && math.Abs(m.Chance(f, d, k)-0.5) > 1e-9 {
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
		f, reach := field(raw), float64(x%100)
		before, wins := Calibrated.Chance(f, reach, TopFive), Calibrated.Chance(f, reach+1, TopFive)
		f.Rivals[which%10].Page += float64(more)
		return Calibrated.Chance(f, reach, TopFive) <= before && wins >= before
	}
	if err := quick.Check(check, nil); err != nil {
		t.Error(err)
	}
}

func TestMoreNeverLowersReach(t *testing.T) {
	check := func(site, fit, standing, links uint8) bool {
		m := Mine{SiteStanding: float64(site % 101), Fit: float64(fit % 101), LinkStanding: float64(standing % 101),
			PlannedLinks: int(links % 60)}
		before := Calibrated.Weights.Reach(m)
		more := m
		more.PlannedLinks++
		better := m
		better.Fit++
		return Calibrated.Weights.Reach(more) >= before && Calibrated.Weights.Reach(better) >= before
	}
	if err := quick.Check(check, nil); err != nil {
		t.Error(err)
	}
}

func TestDistributionIsOne(t *testing.T) {
	check := func(raw [10][3]uint8, x uint8) bool {
		f, reach := field(raw), float64(x%100)
		sum, ten := 0.0, 0.0
		for i, p := range Calibrated.Distribution(f, reach) {
			if p < 0 {
				return false
			}
			if sum += p; i < PageOne {
				ten += p
			}
		}
		e := Calibrated.Expected(f, reach)
		return math.Abs(sum-1) < 1e-9 && math.Abs(ten-Calibrated.Chance(f, reach, PageOne)) < 1e-9 && e >= 1 && e <= Ranks+1
	}
	if err := quick.Check(check, nil); err != nil {
		t.Error(err)
	}
}

// TestEdges: room, locks, walls.
func TestEdges(t *testing.T) {
	few := even(2, Signals{90, 90, 90})
	few.All = true
	if v := plain.Judge(few, Mine{Fit: 10}); v.TopFive != 1 || v.Difficulty != 0 || v.Links != 0 || v.FitNeeded != 0 ||
		v.Parts != (Parts{}) {
		t.Errorf("two results cannot fill five places: %+v", v)
	}
	if few.All = false; plain.Chance(few, 0, TopFive) > 0.5 {
		t.Error("two known of many leave no room")
	}
	if v := plain.Judge(Field{}, Mine{}); v.PageOne != 1 || v.Difficulty != 0 {
		t.Errorf("nothing in front: %+v", v)
	}
	wall := even(10, Signals{300, 300, 300})
	if v := plain.Judge(wall, Mine{Fit: 85, LinkStanding: 35}); v.Difficulty != 100 || v.LinksOK || v.FitOK {
		t.Errorf("against a wall: %+v", v)
	}
	locked := even(10, Signals{1, 1, 1})
	locked.Locked = "its own site leads"
	v := plain.Judge(locked, Mine{Fit: 100, SiteStanding: 100, LinkStanding: 50})
	if v.PageOne != 0 || v.Difficulty != 100 || v.LinksOK || v.FitOK || len(v.Changes) != 0 ||
		v.Parts != (Parts{100, 100}) || v.Expected != Ranks+1 {
		t.Errorf("locked: %+v", v)
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
	if w.Page <= 0 || w.Site <= 0 || w.Fit <= 0 || math.Abs(w.Page+w.Site+w.Fit-1) > 1e-3 || Calibrated.Tau <= 0 {
		t.Errorf("%+v", Calibrated)
	}
	all := 0.0
	for _, more := range Calibrated.Engines {
		all += more
	}
	if math.Abs(all) > 0.2 {
		t.Errorf("the engines ask %.1f more than their mean", all)
	}
	for i, s := range Calibrated.Steps {
		if i > 0 && (s.Rank <= Calibrated.Steps[i-1].Rank || s.Above >= Calibrated.Steps[i-1].Above) {
			t.Errorf("steps %+v", Calibrated.Steps)
		}
	}
}

func BenchmarkJudge(b *testing.B) {
	f := field([10][3]uint8{{78, 64, 57}, {22, 49, 19}, {27, 52, 25}, {61, 3, 70}, {5, 6, 7}, {78, 64, 57},
		{22, 49, 19}, {27, 52, 25}, {61, 3, 70}, {5, 6, 7}})
	for b.Loop() {
		Calibrated.Judge(f, Mine{SiteStanding: 6, Fit: 85, LinkStanding: 35})
	}
}
