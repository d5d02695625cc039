package standin

import (
	"testing"
	"time"
)

// TestOneTimeOneWorld: how the clock came to where it stands leaves no trace.
func TestOneTimeOneWorld(t *testing.T) {
	onWorlds(t)
	straight, strolled := lively(t), grow(1)
	move := func(w *World, days int) {
		t.Helper()
		if err := w.MoveTo(clock.AddDate(0, 0, days)); err != nil {
			t.Fatal(err)
		}
	}
	move(straight, 70)
	for _, days := range []int{3, 30, 10, 69, 200, 70} {
		move(strolled, days)
	}
	later := digest(t, straight)
	if later != digest(t, strolled) {
		t.Error("the same day, reached in two ways, is two worlds")
	}
	if later == digest(t, grown()) {
		t.Error("ten weeks change nothing")
	}
	move(strolled, 0)
	if digest(t, strolled) != digest(t, grown()) {
		t.Error("moved back to its founding the world is another")
	}
}

func TestTimeChangesTheWorld(t *testing.T) {
	w := lively(t)
	before := w.Count()
	text := w.queryList[40].text
	past := func() (out []string) {
		hits, _ := w.Engine("").Search(Ask{Text: text, At: clock.AddDate(0, 0, -21)})
		for _, h := range hits {
			out = append(out, h.page.url())
		}
		return out
	}
	then := past()
	if err := w.MoveTo(clock.AddDate(0, 6, 0)); err != nil {
		t.Fatal(err)
	}
	after := w.Count()
	if after.Pages < before.Pages+100 || after.Links == before.Links {
		t.Errorf("from %+v to %+v in half a year", before, after)
	}
	lost, touched, waiting := 0, 0, 0
	for _, p := range w.pages {
		for _, l := range p.in {
			if !l.lost.IsZero() && l.lost.Before(w.now) {
				lost++
			}
		}
		if p.modifiedAt(w.now).After(w.Founded) && p.published.Before(w.Founded) {
			touched++
		}
		if p.standsAt(w.now) && p.indexed.After(w.now) {
			waiting++
		}
	}
	if lost < 500 || touched < 300 || waiting == 0 {
		t.Errorf("%d links lost, %d pages touched, %d not indexed yet", lost, touched, waiting)
	}
	for i, now := range past() {
		if now != then[i] {
			t.Errorf("the ranking of three weeks before the founding has changed at %d", i+1)
			break
		}
	}
	if got := len(w.demandOf(text, 48, home).Monthly); got != 48 ||
		w.demandOf(text, 1, home).Monthly[0].Month != "2027-04" {
		t.Errorf("the last complete month is %+v", w.demandOf(text, 1, home).Monthly)
	}
	for _, bad := range []time.Time{clock.AddDate(0, 0, -1), clock.AddDate(30, 0, 0)} {
		if w.MoveTo(bad) == nil {
			t.Errorf("the clock moves to %s", bad)
		}
	}
}

// TestRankingsDriftFromWeekToWeek: two weeks are alike, and two months less.
func TestRankingsDriftFromWeekToWeek(t *testing.T) {
	w := grown()
	shared := func(days int) float64 {
		sum, n := 0, 0
		for i := 0; i < len(w.queryList); i += 397 {
			now := tops(w, w.queryList[i].text, clock)
			for p := range tops(w, w.queryList[i].text, clock.AddDate(0, 0, -days)) {
				if now[p] {
					sum++
				}
			}
			n++
		}
		return float64(sum) / float64(n)
	}
	week, quarter := shared(7), shared(90)
	t.Logf("of ten results %.1f stay for a week, %.1f for a quarter", week, quarter)
	if week <= quarter || week < 7.5 || quarter < 4 {
		t.Errorf("of ten results %.1f stay for a week, %.1f for a quarter", week, quarter)
	}
}

// TestUnsteadyNeedsChangeTheirTen: what an ambiguous need is served turns over more.
func TestUnsteadyNeedsChangeTheirTen(t *testing.T) {
	w := grown()
	stays := map[bool][]int{}
	for _, n := range w.needs {
		ambiguous := n.template.Ambiguous
		if len(stays[ambiguous]) >= 40 || n.base < 300 {
			continue
		}
		now, same := tops(w, n.queries[0].text, clock), 0
		for p := range tops(w, n.queries[0].text, clock.AddDate(0, 0, -7)) {
			if now[p] {
				same++
			}
		}
		stays[ambiguous] = append(stays[ambiguous], same)
	}
	mean := func(list []int) (m float64) {
		for _, n := range list {
			m += float64(n) / float64(len(list))
		}
		return m
	}
	t.Logf("of ten results %.1f stay a week, %.1f for ambiguous needs", mean(stays[false]), mean(stays[true]))
	if mean(stays[true]) > mean(stays[false])-1 {
		t.Errorf("of ten results %.1f stay a week, %.1f for ambiguous needs", mean(stays[false]), mean(stays[true]))
	}
}

func tops(w *World, text string, at time.Time) map[*page]bool {
	m := map[*page]bool{}
	hits, _ := w.Engine("").Search(Ask{Text: text, At: at})
	for _, h := range hits[:min(10, len(hits))] {
		m[h.page] = true
	}
	return m
}
