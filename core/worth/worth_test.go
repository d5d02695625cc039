package worth

import (
	"math"
	"strings"
	"testing"
	"testing/quick"
)

var plain = Earning{PerThousand: Range{5, 10, 20}, ClickOn: Range{0.05, 0.1, 0.2}, Conversion: Range{0.01, 0.02, 0.04},
	Order: Range{50, 80, 120}, Commission: Range{0.03, 0.04, 0.05}}

func TestByHand(t *testing.T) {
	near := func(name string, got, want float64) {
		t.Helper()
		if math.Abs(got-want) > 1e-9*math.Max(1, math.Abs(want)) {
			t.Errorf("%s: %v, by hand %v", name, got, want)
		}
	}
	near("visits a day at no. 1", VisitsADay(6000), 6000*0.421/30.4)
	near("ceiling", float64(Ceiling(1000, 470_000)), 470e6)
	near("cautious", float64(Cautious(1000, 470_000)), 47e6)
	near("clicks until a sale", ClicksUntilSale(0.02), 50)
	if !math.IsInf(ClicksUntilSale(0), 1) {
		t.Error("nobody buys, and a sale comes")
	}
	// 10/1000 + 0.1·0.02·80·0.04 = 0.0164
	near("value of a visit", plain.PerVisit().Likely, 0.0164)
	near("left", Beside{Ads: 2, AnswerBox: true, ShoppingRow: true}.Left(), 0.9*0.75*0.9)
	near("left by many ads", Beside{Ads: 40}.Left(), 0.8)
	near("searches that click the second place", Searches.At(2), 0.53*0.119)
	// 2000 × (0.5·0.421 + 0.2·0.119) × 0.95 visits.
	f, err := Expect(2000, []float64{0.5, 0.2}, OfClicks, Beside{Ads: 1}, plain)
	if err != nil {
		t.Fatal(err)
	}
	visits := 2000 * (0.5*0.421 + 0.2*0.119) * 0.95
	near("visits", f.Visits, visits)
	near("likely", float64(f.Money.Likely), math.Round(visits*0.0164*1e6))
	if f.Money.Low >= f.Money.Likely || f.Money.Likely >= f.Money.High || !strings.Contains(f.Because, "2000 searches") {
		t.Errorf("%+v", f)
	}
	if got := f.Money.Add(f.Money); got.Likely != 2*f.Money.Likely || got.Low != 2*f.Money.Low ||
		got.High != 2*f.Money.High {
		t.Errorf("added: %+v", got)
	}
}

func TestBadInput(t *testing.T) {
	bad := plain
	bad.Commission = Range{0.1, 0.05, 0.2}
	if _, err := Expect(100, nil, OfClicks, Beside{}, bad); err == nil ||
		!strings.Contains(err.Error(), "commission") {
		t.Errorf("a range that falls: %v", err)
	}
	bad = plain
	bad.Conversion.High = 1.5
	if bad.Check() == nil {
		t.Error("more than all buy")
	}
	for _, chances := range [][]float64{{0.7, 0.7}, {-0.1}, {math.NaN()}} {
		if _, err := Expect(100, chances, OfClicks, Beside{}, plain); err == nil {
			t.Errorf("%v is a distribution", chances)
		}
	}
	for _, searches := range []float64{-1, math.NaN(), math.Inf(1)} {
		if _, err := Expect(searches, nil, OfClicks, Beside{}, plain); err == nil {
			t.Errorf("%v searches", searches)
		}
	}
}

// TestOwnCurve: few clicks change nothing, many replace the default by degrees, and what stands beside results is taken
// out of what was seen.
func TestOwnCurve(t *testing.T) {
	if got, _, _ := OwnCurve(nil); got.At(1) != Searches.At(1) {
		t.Errorf("without a report: %v", got)
	}
	if got, _, clicks := OwnCurve([]Observed{{1, 1000, 199, 0}}); clicks != 199 || got.At(1) != Searches.At(1) {
		t.Errorf("199 clicks are enough: %v", got)
	}
	if got, _, _ := OwnCurve([]Observed{{1, 10_000, 400, 0}}); math.Abs(got.At(1)-(Searches.At(1)+
		(400+200*Searches.At(1))/10_200)/2) > 1e-9 {
		t.Errorf("400 clicks count half: %v", got.At(1))
	}
	own, by, clicks := OwnCurve([]Observed{{1.2, 100_000, 30_000, 0}, {2, 20, 20, 0}, {3, 0, 5, 0}, {4, 10, 50, 0},
		{44, 1000, 3, 0}})
	if clicks != 30_020 || by[0] != (At{1, 100_000, 30_000}) || by[3].Clicks != 0 {
		t.Errorf("%d clicks, %v", clicks, by)
	}
	if math.Abs(own.At(1)-0.3) > 0.001 {
		t.Errorf("much seen is believed: %v", own.At(1))
	}
	if own.At(2) > 0.25 || own.At(2) < Searches.At(2) {
		t.Errorf("little seen is drawn to the default: %v", own.At(2))
	}
	if own.At(3) != Searches.At(3) || own.At(4) != Searches.At(4) || own.At(11) != 0 || own.At(0) != 0 {
		t.Errorf("what says nothing: %v", own)
	}
	if half, _, _ := OwnCurve([]Observed{{1, 100_000, 30_000, 0.5}}); math.Abs(half.At(1)-0.6) > 0.005 {
		t.Errorf("with half of the clicks left: %v", half.At(1))
	}
}

// TestBetterChancesNeverCost: moving chance to a better position, or more searches,
// never lowers what is expected.
func TestBetterChancesNeverCost(t *testing.T) {
	c := Curve{0.4, 0.15, 0.1, 0.08, 0.06, 0.05, 0.04, 0.03, 0.02, 0.01}
	check := func(raw [10]uint8, from uint8, searches uint16) bool {
		sum := 1.0
		for _, r := range raw {
			sum += float64(r)
		}
		chances := make([]float64, 10)
		for i, r := range raw {
			chances[i] = float64(r) / sum
		}
		before, err := Expect(float64(searches), chances, c, Beside{}, plain)
		if err != nil {
			return false
		}
		i := 1 + int(from)%9
		chances[i-1], chances[i] = chances[i-1]+chances[i], 0
		better, err := Expect(float64(searches), chances, c, Beside{}, plain)
		more, err2 := Expect(float64(searches)+10, chances, c, Beside{}, plain)
		return err == nil && err2 == nil && better.Money.Likely >= before.Money.Likely &&
			more.Money.Likely >= better.Money.Likely
	}
	if err := quick.Check(check, nil); err != nil {
		t.Error(err)
	}
}
