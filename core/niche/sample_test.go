package niche

import (
	"encoding/json"
	"math"
	"math/rand/v2"
	"os"
	"reflect"
	"testing"
)

// TestWilsonAndBootstrap against R: prop.test without correction, and the bootstrap of a mean over R's rivers
// (testdata/reference.R wrote it).
func TestWilsonAndBootstrap(t *testing.T) {
	data, err := os.ReadFile("testdata/reference.json")
	if err != nil {
		t.Fatal(err)
	}
	var ref struct {
		Wilson []struct {
			K, N      int
			Low, High float64
		}
		Rivers, Mean []float64
	}
	if err := json.Unmarshal(data, &ref); err != nil || len(ref.Wilson) < 6 {
		t.Fatal(err)
	}
	for _, w := range ref.Wilson {
		if low, high := Wilson(w.K, w.N); math.Abs(low-w.Low) > 1e-7 || math.Abs(high-w.High) > 1e-7 {
			t.Errorf("%d of %d: %.7f to %.7f, R says %.7f to %.7f", w.K, w.N, low, high, w.Low, w.High)
		}
	}
	// Of very many, the sum of those not seen is their number times the mean.
	const many = 1_000_000
	got, known := Total([]Stratum{{many, ref.Rivers}})
	for i, x := range []float64{got.Low, got.Likely, got.High} {
		if want := many * ref.Mean[i]; !known || math.Abs(x-want) > 0.02*want {
			t.Errorf("quantile %d: %.0f, R says %.0f", i, x/many, ref.Mean[i])
		}
	}
	if low, high := Wilson(0, 0); low != 0 || high != 1 {
		t.Error("nothing drawn tells something")
	}
}

// TestRangesHold: of wholes that are known, forty drawn ones tell the sum within the range about eight times in ten.
func TestRangesHold(t *testing.T) {
	rng := rand.New(rand.NewPCG(4, 5))
	for _, open := range []float64{0.05, 0.3, 0.7} {
		held, trials := 0, 400
		for range trials {
			units, values := make([]Unit, 600), make([]float64, 600)
			truth := 0.0
			for i := range units {
				searches := math.Exp(rng.NormFloat64()*1.2 + 4)
				units[i].Stratum = StratumOf(searches, 3+rng.IntN(2))
				if rng.Float64() < open {
					values[i] = 1
				}
				truth += values[i]
			}
			drawn := Draw(units, 40, rng.Uint64())
			list := map[int]*Stratum{}
			for _, u := range units {
				if list[u.Stratum] == nil {
					list[u.Stratum] = &Stratum{}
				}
				list[u.Stratum].All++
			}
			for _, i := range drawn {
				list[units[i].Stratum].Seen = append(list[units[i].Stratum].Seen, values[i])
			}
			var strata []Stratum
			for k := range 20 {
				if list[k] != nil {
					strata = append(strata, *list[k])
				}
			}
			r, known := Total(strata)
			if !known || len(drawn) != 40 {
				t.Fatal(known, len(drawn))
			}
			if r.Low <= truth && truth <= r.High {
				held++
			}
		}
		if share := float64(held) / float64(trials); share < 0.74 || share > 0.9 {
			t.Errorf("with %.0f %% open, ranges hold in %.0f %% of cases, 80 are meant", 100*open, 100*share)
		}
	}
}

// TestDraw: shares by strata, nothing twice, nothing that was seen, the same each time; no more than there are.
func TestDraw(t *testing.T) {
	var units []Unit
	for i := range 100 {
		units = append(units, Unit{Stratum: i / 80, Seen: i%10 == 0})
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
	if r, known := Total([]Stratum{{3, []float64{1, 2, 3}}}); !known || r != (Range{6, 6, 6}) {
		t.Errorf("what is all known is %+v", r)
	}
	if _, known := Total([]Stratum{{All: 9}}); known {
		t.Error("nothing seen tells something")
	}
}
