package demand

import (
	"encoding/json"
	"math"
	"math/rand/v2"
	"os"
	"testing"
	"time"
)

// reference is what R says; testdata/reference.R wrote it.
type reference struct {
	Series []struct {
		Name                  string
		Start                 string
		Values, Figure        []float64
		StrengthLogDecomposed float64
		P, Tau, Sen           float64
	}
}

// TestSeasonOfR compares with R's decompose and cor.test on four of its monthly
// series: AirPassengers, USAccDeaths, nottem and ten years of co2.
func TestSeasonOfR(t *testing.T) {
	data, err := os.ReadFile("testdata/reference.json")
	if err != nil {
		t.Fatal(err)
	}
	var ref reference
	if err := json.Unmarshal(data, &ref); err != nil {
		t.Fatal(err)
	}
	for _, r := range ref.Series {
		first, err := ParseMonth(r.Start)
		if err != nil {
			t.Fatal(err)
		}
		index, ok := decompose(first, r.Values)
		if !ok {
			t.Fatalf("%s is not decomposed", r.Name)
		}
		adjusted := make([]float64, len(r.Values))
		at := make([]float64, len(r.Values))
		for m := range index {
			if math.Abs(index[m]-r.Figure[m]) > 1e-6 {
				t.Errorf("%s: index of month %d is %.7f, R has %.7f", r.Name, m+1, index[m], r.Figure[m])
			}
		}
		if got := SeasonStrength(first, r.Values); math.Abs(got-r.StrengthLogDecomposed) > 1e-6 {
			t.Errorf("%s: strength %.7f, R has %.7f", r.Name, got, r.StrengthLogDecomposed)
		}
		for i, v := range r.Values {
			adjusted[i], at[i] = v/index[i%12], float64(i)
		}
		if _, p := MannKendall(adjusted); math.Abs(p-r.P) > 1e-6+1e-4*r.P {
			t.Errorf("%s: p %.9g, R's cor.test has %.9g", r.Name, p, r.P)
		}
		if got := SenSlope(at, adjusted); math.Abs(got-r.Sen) > 1e-5*math.Abs(r.Sen)+1e-9 {
			t.Errorf("%s: slope %.9f, R has %.9f", r.Name, got, r.Sen)
		}
	}
	if len(ref.Series) != 4 {
		t.Errorf("%d series were compared", len(ref.Series))
	}
}

// TestMannKendallByHand: of four rising values S = 6 and Var S = 4·3·13/18.
func TestMannKendallByHand(t *testing.T) {
	s, p := MannKendall([]float64{1, 2, 3, 4})
	z := 5 / math.Sqrt(4*3*13/18.0)
	if want := math.Erfc(z / math.Sqrt2); s != 6 || math.Abs(p-want) > 1e-12 {
		t.Errorf("S %d, p %v, by hand 6, %v", s, p, want)
	}
	if s, p := MannKendall([]float64{5, 5, 5}); s != 0 || p != 1 {
		t.Errorf("equal values: S %d, p %v", s, p)
	}
	if _, p := MannKendall(nil); p != 1 {
		t.Errorf("no values: p %v", p)
	}
}

// wave is four years of searches with a season, a growth a year, and noise.
func wave(base, amplitude, growth float64, peak time.Month) Series {
	rng := rand.New(rand.NewPCG(4, 4))
	first := MonthOf(time.Date(2022, 11, 1, 0, 0, 0, 0, time.UTC))
	var s Series
	for i := range 48 {
		m := first + Month(i)
		v := base * math.Exp(amplitude*math.Cos(2*math.Pi*float64(int(m.Of())-int(peak))/12)) * math.Pow(1+growth,
			float64(i)/12)
		s.Counts = append(s.Counts, Count{Month: m, Searches: int(v + math.Sqrt(v)*rng.NormFloat64())})
	}
	return s
}

func TestLasting(t *testing.T) {
	flash := wave(20, 0, 0, 1)
	flash.Counts[10].Searches, flash.Counts[11].Searches = 9000, 4000
	for i := 12; i < 48; i++ {
		flash.Counts[i].Searches = 3
	}
	for want, s := range map[Lasting]Series{
		Evergreen: wave(400, 0.05, 0, 6), Seasonal: wave(400, 0.8, 0, 12), Rise: wave(400, 0.3, 0.4, 6),
		Fade:   wave(900, 0.3, -0.3, 6),
		TooFew: wave(9, 0.8, 0, 12), Flash: flash,
	} {
		if got := LastingOf(s); got != want {
			t.Errorf("%q is taken for %q: %+v %+v", want, got, SeasonOf(s), TrendOf(s))
		}
	}
	short := Series{Counts: wave(400, 0.8, 0, 12).Counts[:23]}
	if SeasonOf(short).Known {
		t.Error("23 months have a season")
	}
	gaps := wave(400, 0.8, 0, 12)
	gaps.Counts = append(gaps.Counts[:20], gaps.Counts[21:]...)
	if s := SeasonOf(gaps); !s.Known || !s.Peak.Holds(time.December) {
		t.Errorf("one missing month: %+v", s)
	}
}

func TestPeakWrapsTheYear(t *testing.T) {
	p := SeasonOf(wave(400, 0.8, 0, time.December)).Peak
	if p.First != time.October && p.First != time.November || !p.Holds(time.December) || !p.Holds(time.January) ||
		p.Holds(time.June) || p.Last() > time.March {
		t.Errorf("peak %+v, last %s", p, p.Last())
	}
	if (Peak{}).Holds(time.January) {
		t.Error("no peak holds a month")
	}
}

func TestPublishBy(t *testing.T) {
	day := func(s string) time.Time { d, _ := time.Parse(time.DateOnly, s); return d }
	for _, c := range []struct {
		name, today, want string
		first             time.Month
		lead              int
	}{
		{"this year", "2026-03-10", "2026-08-03", time.November, 90},
		{"too late for this year", "2026-08-04", "2027-08-03", time.November, 90},
		{"on the very day", "2026-08-03", "2026-08-03", time.November, 90},
		{"across the year", "2026-09-01", "2026-10-03", time.January, 90},
		{"across a leap day", "2027-11-01", "2027-12-02", time.March, 90},
		{"not across one", "2026-11-01", "2026-12-01", time.March, 90},
		{"a short lead", "2026-03-10", "2026-10-02", time.November, 30},
	} {
		got, ok := Peak{First: c.first, Months: 2}.PublishBy(day(c.today), time.Duration(c.lead)*24*time.Hour)
		if !ok || !got.Equal(day(c.want)) {
			t.Errorf("%s: %s, want %s", c.name, got.Format(time.DateOnly), c.want)
		}
	}
	if _, ok := (Peak{}).PublishBy(day("2026-03-10"), Lead); ok {
		t.Error("no peak has a day")
	}
}

func BenchmarkLasting(b *testing.B) {
	s := wave(400, 0.8, 0, 12)
	for b.Loop() {
		LastingOf(s)
	}
}
