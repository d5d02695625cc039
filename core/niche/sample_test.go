package niche

import (
	"encoding/json"
	"math"
	"math/rand/v2"
	"os"
	"reflect"
	"strings"
	"testing"
)

// TestSharesOfSamples against R: prop.test without correction, and qbeta (testdata/reference.R wrote it).
func TestSharesOfSamples(t *testing.T) {
	data, err := os.ReadFile("testdata/reference.json")
	if err != nil {
		t.Fatal(err)
	}
	var ref struct {
		Wilson []struct {
			K, N      int
			Low, High float64
		}
		Beta []struct {
			K, N int
			Q    [3]float64
		}
	}
	if err := json.Unmarshal(data, &ref); err != nil || len(ref.Wilson) < 6 {
		t.Fatal(err)
	}
	for _, w := range ref.Wilson {
		if low, high := Wilson(w.K, w.N); math.Abs(low-w.Low) > 1e-7 || math.Abs(high-w.High) > 1e-7 {
			t.Errorf("%d of %d: %.7f to %.7f, R says %.7f to %.7f", w.K, w.N, low, high, w.Low, w.High)
		}
	}
	// Of very many, those that count are their number times the share, whose posterior R tells (qbeta).
	others := make([]float64, 1_000_000)
	for i := range others {
		others[i] = 1
	}
	for _, b := range ref.Beta {
		got, known := Open([]Stratum{{b.N, b.K, others}})
		for i, x := range []float64{got.Low, got.Likely, got.High} {
			if want := 1e6 * b.Q[i]; !known || math.Abs(x-want) > 0.015*1e6 {
				t.Errorf("%d of %d, quantile %d: %.0f, R says %.0f", b.K, b.N, i, x, want)
			}
		}
	}
	if low, high := Wilson(0, 0); low != 0 || high != 1 {
		t.Error("nothing drawn tells something")
	}
}

// TestRangesHold: of wholes that are known, forty drawn ones tell the sum within the range about eight times in ten;
// with sizes as unlike as searches are, and where few count, somewhat less often. On worlds it is measured by
// cmd/calibrate.
func TestRangesHold(t *testing.T) {
	rng := rand.New(rand.NewPCG(4, 5))
	for _, open := range []float64{0.05, 0.3, 0.7} {
		held, trials := 0, 150
		for range trials {
			units, list, in := make([]Unit, 600), make([]Topic, 600), make([]bool, 600)
			truth := 0.0
			for i := range units {
				searches := math.Exp(rng.NormFloat64()*1.2 + 4)
				list[i] = Topic{Lead: "a b c" + strings.Repeat(" d", rng.IntN(2)), Searches: searches, Ideas: i}
				units[i].Stratum, units[i].Weight = list[i].Stratum(), WeightOf(searches)
				if in[i] = rng.Float64() < open; in[i] {
					truth += searches
				}
			}
			drawn := Draw(units, 40, rng.Uint64())
			for _, i := range drawn {
				list[i].Judged, list[i].Drawn = true, true
			}
			r, known := Whole(list, func(t Topic) bool { return in[t.Ideas] }, func(t Topic) float64 { return t.Searches })
			if !known || len(drawn) != 40 {
				t.Fatal(known, len(drawn))
			}
			if r.Low <= truth && truth <= r.High {
				held++
			}
		}
		if share := float64(held) / float64(trials); share < 0.68 || share > 0.92 {
			t.Errorf("with %.0f %% open, ranges hold in %.0f %% of cases, 80 are meant", 100*open, 100*share)
		}
	}
}

// TestEnoughDrawn: twenty drawn ones tell of any whole, eight of one of which they are a third; fewer, or what one
// chose oneself, of none.
func TestEnoughDrawn(t *testing.T) {
	for _, c := range []struct {
		all, drawn, chosen int
		told               bool
	}{{500, 20, 0, true}, {500, 19, 0, false}, {24, 8, 0, true}, {25, 8, 0, false}, {20, 7, 0, false}, {60, 0, 59, false},
		{60, 0, 60, true}} {
		list := make([]Topic, c.all)
		for i := range list {
			list[i].Judged = i < c.drawn+c.chosen
			list[i].Drawn = i < c.drawn
		}
		_, told := Whole(list, func(Topic) bool { return true }, func(Topic) float64 { return 1 })
		if told != c.told {
			t.Errorf("%+v: told is %v", c, told)
		}
	}
}

// TestDraw: shares by strata, nothing twice, nothing that was seen, the same each time; no more than there are.
func TestDraw(t *testing.T) {
	var units []Unit
	for i := range 100 {
		units = append(units, Unit{Stratum: i / 80, Weight: 1, Seen: i%10 == 0})
	}
	got := Draw(units, 20, 7)
	count := map[int]int{}
	for i, k := range got {
		if units[k].Seen || i > 0 && got[i-1] == k {
			t.Errorf("%d is drawn", k)
		}
		count[units[k].Stratum]++
	}
	if len(got) != 20 || count[0] != 16 || !reflect.DeepEqual(got, Draw(units, 20, 7)) {
		t.Errorf("%d of %v", len(got), count)
	}
	if all := Draw(units, 500, 7); len(all) != 90 {
		t.Errorf("%d of 90 are drawn", len(all))
	}
	if list := Draw(nil, 5, 1); list != nil {
		t.Error("something is drawn of nothing")
	}
	if _, known := Open([]Stratum{{Open: []float64{1}}}); known {
		t.Error("nothing seen tells something")
	}
}
