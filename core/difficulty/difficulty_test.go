package difficulty

import (
	"math"
	"math/bits"
	"math/rand/v2"
	"testing"
	"testing/quick"
)

// TestCountOfBruteForce goes through all 2^n outcomes.
func TestCountOfBruteForce(t *testing.T) {
	rng := rand.New(rand.NewPCG(1, 2))
	for n := 0; n <= 12; n++ {
		p := make([]float64, n)
		for i := range p {
			p[i] = rng.Float64()
		}
		want := make([]float64, n+1)
		for outcome := range 1 << n {
			q := 1.0
			for i := range p {
				if outcome>>i&1 == 1 {
					q *= p[i]
				} else {
					q *= 1 - p[i]
				}
			}
			want[bits.OnesCount(uint(outcome))] += q
		}
		for k, got := range Count(p) {
			if math.Abs(got-want[k]) > 1e-12 {
				t.Errorf("n=%d: P(%d) = %v, by brute force %v", n, k, got, want[k])
			}
		}
	}
}

// TestCountOfBinomial: with equal chances it is the binomial distribution.
func TestCountOfBinomial(t *testing.T) {
	for k, want := range []float64{1, 10, 45, 120, 210, 252, 210, 120, 45, 10, 1} {
		if got := Count([]float64{.5, .5, .5, .5, .5, .5, .5, .5, .5, .5})[k]; math.Abs(got-want/1024) > 1e-12 {
			t.Errorf("P(%d) = %v", k, got)
		}
	}
}

func TestDifficultyIsEvenOdds(t *testing.T) {
	check := func(raw [10]uint8) bool {
		strengths := make([]float64, 10)
		for i, r := range raw {
			strengths[i] = 20 + float64(r%60)
		}
		for _, k := range []int{PageOne, TopFive, TopThree} {
			if d := For(strengths, k); d > 0 && d < 100 && math.Abs(Chance(strengths, d, k)-0.5) > 1e-6 {
				return false
			}
		}
		return For(strengths, TopThree) >= For(strengths, TopFive) && For(strengths, TopFive) >= For(strengths, PageOne)
	}
	if err := quick.Check(check, nil); err != nil {
		t.Error(err)
	}
}

func TestStrongerRivalNeverHelps(t *testing.T) {
	check := func(raw [10]uint8, which, more uint8, x uint8) bool {
		strengths := make([]float64, 10)
		for i, r := range raw {
			strengths[i] = float64(r % 100)
		}
		reach := float64(x % 100)
		before := Chance(strengths, reach, TopFive)
		wins := Chance(strengths, reach+1, TopFive)
		strengths[which%10] += float64(more)
		return Chance(strengths, reach, TopFive) <= before+1e-12 && wins >= before-1e-12
	}
	if err := quick.Check(check, nil); err != nil {
		t.Error(err)
	}
}

func TestFewResults(t *testing.T) {
	if c := Chance([]float64{90, 90}, 0, TopFive); c != 1 {
		t.Errorf("two results cannot fill five places, chance %v", c)
	}
	if d := For([]float64{90, 90}, TopFive); d != 0 {
		t.Errorf("difficulty %v where there is room", d)
	}
	wall := []float64{300, 300, 300, 300, 300, 300, 300, 300, 300, 300}
	if d := For(wall, TopFive); d != 100 {
		t.Errorf("difficulty %v against a wall", d)
	}
	if _, ok := LinksNeeded(DefaultWeights, Mine{Fit: 85, LinkStanding: 35}, wall, TopFive); ok {
		t.Error("links win against a wall")
	}
}

// TestJudgeByHand: ten equal results of 40, a page of 31.75 (0.20·10 + 0.35·85).
func TestJudgeByHand(t *testing.T) {
	strengths := []float64{40, 40, 40, 40, 40, 40, 40, 40, 40, 40}
	m := Mine{SiteStanding: 10, Fit: 85, LinkStanding: 35}
	v := Judge(DefaultWeights, m, strengths)
	if math.Abs(v.Reach-31.75) > 1e-9 {
		t.Errorf("reach %v", v.Reach)
	}
	p := 1 / (1 + math.Exp(-(40-31.75)/Tau))
	if want := 1 - math.Pow(p, 10); math.Abs(v.PageOne-want) > 1e-12 {
		t.Errorf("page one %v, by hand %v", v.PageOne, want)
	}
	if want := 1 + 10*p; math.Abs(v.Expected-want) > 1e-12 {
		t.Errorf("expected position %v, by hand %v", v.Expected, want)
	}
	m.PlannedLinks = v.Links
	if !v.LinksOK || DefaultWeights.Reach(m) < v.Difficulty {
		t.Errorf("%d links are not enough for %v", v.Links, v.Difficulty)
	}
	if m.PlannedLinks--; v.Links > 0 && DefaultWeights.Reach(m) >= v.Difficulty {
		t.Errorf("one link fewer than %d would do", v.Links)
	}
	m = Mine{SiteStanding: 10, Fit: v.FitNeeded, LinkStanding: 35}
	if v.FitOK && math.Abs(DefaultWeights.Reach(m)-v.Difficulty) > 1e-6 {
		t.Errorf("a fit of %v gives %v, not %v", v.FitNeeded, DefaultWeights.Reach(m), v.Difficulty)
	}
}

func BenchmarkJudge(b *testing.B) {
	strengths := []float64{78, 64, 57, 22, 49, 19, 27, 52, 25, 61}
	for b.Loop() {
		Judge(DefaultWeights, Mine{SiteStanding: 6, Fit: 85, LinkStanding: 35}, strengths)
	}
}
