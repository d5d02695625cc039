package watch

import (
	"math"
	"strings"
	"testing"
	"time"
)

var out = time.Date(2026, 3, 2, 0, 0, 0, 0, time.UTC)

func on(days int) time.Time { return out.AddDate(0, 0, days) }

// even is a forecast of even chances for the first n places, settled after 70 days.
func even(n int, all float64) Forecast {
	f := Forecast{Chances: make([]float64, 20), Days: 70}
	for i := range n {
		f.Chances[i] = all / float64(n)
	}
	return f
}

// TestBands by hand: of ten even places eight in ten lie from 1 to 9; what is mostly further down has no lower end.
func TestBands(t *testing.T) {
	for _, c := range []struct {
		f           Forecast
		best, worst int
	}{{even(10, 1), 1, 9}, {even(20, 1), 2, 18}, {even(10, 0.5), 2, 0}, {even(10, 0.05), 21, 0},
		{Forecast{Chances: []float64{1}}, 1, 1}} {
		if best, worst := c.f.Band(); best != c.best || worst != c.worst {
			t.Errorf("%v: %d to %d, by hand %d to %d", c.f.Chances, best, worst, c.best, c.worst)
		}
	}
	f := even(10, 1)
	if p := f.PageOne(); math.Abs(p-1) > 1e-9 {
		t.Errorf("page one %g", p)
	}
	if p := f.TopFive(); math.Abs(p-0.5) > 1e-9 {
		t.Errorf("top five %g", p)
	}
	b0, w0 := f.On(0)
	b1, w1 := f.On(35)
	b2, w2 := f.On(700)
	if b0 != 1 || math.Abs(w0-101) > 1e-9 || b1 != 1 || math.Abs(w1-3*math.Sqrt(101)) > 1e-9 || b2 != 1 ||
		math.Abs(w2-9) > 1e-9 {
		t.Errorf("on the way %g to %g, %g to %g, %g to %g", b0, w0, b1, w1, b2, w2)
	}
}

// TestJudge: nothing is told before it settles; the middle of the latest places counts, not one odd day; and below a
// hundred is worse than what likely stood among twenty.
func TestJudge(t *testing.T) {
	f := even(10, 1) // 1 to 9
	narrow := Forecast{Chances: []float64{0, 0, 0, 0.5, 0.5}, Days: 70}
	for _, c := range []struct {
		name  string
		f     Forecast
		line  Line
		want  Verdict
		place int
	}{{"never checked", f, nil, TooEarly, 0},
		{"on the way", f, Line{{on(10), 40}, {on(69), 3}}, TooEarly, 0},
		{"within", f, Line{{on(10), 0}, {on(71), 5}, {on(78), 6}, {on(85), 7}}, As, 6},
		{"one odd day", f, Line{{on(71), 5}, {on(78), 5}, {on(85), 60}}, As, 5},
		{"further down", f, Line{{on(71), 12}, {on(78), 14}, {on(85), 13}}, Worse, 13},
		{"nowhere", f, Line{{on(78), 0}}, Worse, 0},
		{"higher", narrow, Line{{on(80), 2}}, Better, 2},
		{"what was long ago", f, Line{{on(71), 50}, {on(200), 5}}, As, 5},
		{"nowhere, as was likely", even(10, 0.1), Line{{on(80), 0}}, As, 0}} {
		got, place, from := c.f.Judge(c.line, out)
		if got != c.want || place != c.place || !from.Equal(on(70)) {
			t.Errorf("%s: %s at %d from %s, not %s at %d", c.name, got, place, from, c.want, c.place)
		}
	}
}

func TestLines(t *testing.T) {
	l := Line{{on(0), 0}, {on(7), 30}, {on(14), 12}}
	if p, ok := l.At(on(9)); !ok || p.Place != 30 {
		t.Error(p, ok)
	}
	if _, ok := l.At(on(-1)); ok {
		t.Error("there is a place before the first")
	}
	if best := l.Best(); best != 12 {
		t.Error(best)
	}
	if l[:1].Best() != 0 || Says(0) != "below 100" || Says(7) != "7" || Moved(0, 12) != 89 || Moved(12, 0) != -89 {
		t.Error("below a hundred")
	}
}

// TestRight compares with scikit-learn 1.2 (brier_score_loss) on the same numbers as cmd/calibrate does; the
// calibration error is by hand.
func TestRight(t *testing.T) {
	list := []Outcome{{0.1, false}, {0.4, false}, {0.35, true}, {0.8, true}, {0.8, false}, {0.65, true}, {0.05, false},
		{0.9, true}}
	bins, brier, miss := Right(list)
	if math.Abs(brier-0.1759375) > 1e-12 {
		t.Errorf("Brier %v", brier)
	}
	if want := (0.05 + 0.1 + 0.65 + 0.4 + 0.35 + 2*0.3 + 0.1) / 8; math.Abs(miss-want) > 1e-12 {
		t.Errorf("calibration error %v, by hand %v", miss, want)
	}
	if bins[8].N != 2 || bins[8].Came != 0.5 || bins[9].N != 1 || bins[2].N != 0 {
		t.Errorf("%+v", bins)
	}
	if _, brier, miss := Right(nil); brier != 0 || miss != 0 {
		t.Error("something is right of nothing")
	}
}

// TestChosen: even odds of the top five become those of e to the −0.65, of page one of e to the −0.4; never and
// always stay.
func TestChosen(t *testing.T) {
	f := Forecast{Chances: Chosen([]float64{0.1, 0.1, 0.1, 0.1, 0.1, 0, 0, 0, 0, 0})}
	if got, want := f.TopFive(), 1/(1+math.Exp(0.65)); math.Abs(got-want) > 1e-12 {
		t.Errorf("top five %g, by hand %g", got, want)
	}
	if got, want := f.PageOne(), 1/(1+math.Exp(0.4)); math.Abs(got-want) > 1e-12 {
		t.Errorf("page one %g, by hand %g", got, want)
	}
	if got := Chosen([]float64{1}); math.Abs(got[0]-1) > 1e-6 {
		t.Errorf("what is sure has %g", got[0])
	}
	for _, c := range Chosen([]float64{0, 0, 0.3, 0, 0.6, 0.05}) {
		if c < 0 {
			t.Errorf("a chance of %g", c)
		}
	}
}

// TestDigest: the elements that RFC 4287 asks for, once a feed and once an entry, and IDs that differ. A reader that
// others wrote reads it in readers/.
func TestDigest(t *testing.T) {
	d := Digest{Title: "This week: Sky", Self: "http://127.0.0.1:8080/feed", Page: "http://127.0.0.1:8080/niches/1/watch",
		List: []ToDo{{"Look at “<moon> & map”.", "It fell.", "http://127.0.0.1:8080/niches/1/watch/1"},
			{"Keep one page.", "Two stand.", "http://127.0.0.1:8080/niches/1/watch/1"}}}
	var b strings.Builder
	if err := d.Write(&b, time.Date(2026, 3, 5, 22, 0, 0, 0, time.UTC)); err != nil {
		t.Fatal(err)
	}
	for part, n := range map[string]int{"<id>": 3, "<updated>2026-03-02T00:00:00Z</updated>": 3, "<author>": 1,
		`rel="self"`: 1, "<entry>": 2, "“&lt;moon&gt; &amp; map”": 1, "#2026-03-02-2</id>": 1} {
		if got := strings.Count(b.String(), part); got != n {
			t.Errorf("%s is there %d times, not %d:\n%s", part, got, n, b.String())
		}
	}
}
