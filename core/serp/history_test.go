package serp

import (
	"fmt"
	"strings"
	"testing"
	"time"
)

func day(i int) time.Time { return time.Date(2026, 1, 1, 9, 0, 0, 0, time.UTC).AddDate(0, 0, 28*i) }

func page(names ...string) (out []Shown) {
	for _, n := range names {
		t := Article
		if strings.HasPrefix(n, "shop") {
			t = Shelf
		}
		out = append(out, Shown{"http://" + n + ".example/", n, t})
	}
	return out
}

// TestHistory: one of a day takes the place of the one before, what stands twice counts once, order is by day, and
// it is read again as it was written.
func TestHistory(t *testing.T) {
	h := History{}.With(day(2), "e", page("a", "b", "a", "c")).With(day(0), "e", page("b")).
		With(day(2), "e", page("c", "a"))
	if len(h.Weeks) != 2 || h.Weeks[0].Day != "2026-01-01" || len(h.Weeks[1].Places) != 2 || len(h.Pages) != 3 {
		t.Fatalf("%+v", h)
	}
	lines := h.Lines()
	if lines[0].Title != "c" || lines[0].Now != 1 || lines[1].Title != "a" || lines[2].Now != 0 || lines[2].Best != 1 {
		t.Errorf("%+v", lines)
	}
	body, err := h.Body()
	again, err2 := ReadHistory(body)
	if err != nil || err2 != nil || fmt.Sprint(again) != fmt.Sprint(h) {
		t.Errorf("%v, %v, %v", again, err, err2)
	}
	other := h.With(day(3), "f", page("x"))
	if on := other.On(); len(on.Weeks) != 1 || len(on.Pages) != 1 || on.Pages[0].Title != "x" {
		t.Errorf("engines are mixed: %+v", on)
	}
	if !h.Near(day(2).AddDate(0, 0, 6), 7) || h.Near(day(1), 7) {
		t.Error("near")
	}
	for i := range MostWeeks + 40 {
		h = h.With(day(i), "e", page(fmt.Sprint("p", i)))
	}
	if len(h.Weeks) != MostWeeks || len(h.Pages) > MostWeeks+1 {
		t.Errorf("%d snapshots, %d pages", len(h.Weeks), len(h.Pages))
	}
}

func TestReadHistoryRefuses(t *testing.T) {
	for _, body := range []string{"{", `{"weeks":[{"day":"yesterday","places":[]}]}`,
		`{"pages":[{"url":"a"}],"weeks":[{"day":"2026-01-01","places":[1]}]}`,
		`{"pages":[{"url":"a"}],"weeks":[{"day":"2026-01-01","places":[-1]}]}`,
		`{"weeks":[{"day":"2026-01-02","places":[]},{"day":"2026-01-01","places":[]}]}`,
		`{"pages":[{"url":"a"}],"weeks":[{"day":"2026-01-01","places":[0,0,0,0,0,0,0,0,0,0,0]}]}`} {
		if err := CheckHistory(body); err == nil {
			t.Errorf("%s is taken", body)
		}
	}
	if err := CheckHistory(""); err != nil {
		t.Error(err)
	}
}

// TestCourse: steady results, slow turnover, an engine that is not content, and two meanings are told apart.
func TestCourse(t *testing.T) {
	same := []string{"a", "b", "c", "d", "e", "f", "g", "h", "i", "j"}
	shops := []string{"shop1", "shop2", "shop3", "shop4", "shop5", "shop6", "a", "b", "c", "d"}
	steady, slow, restless, two := History{}, History{}, History{}, History{}
	for i := range 13 {
		steady = steady.With(day(i), "e", page(same...))
		list := append([]string(nil), same...)
		list[4] = fmt.Sprint("new", i)
		slow = slow.With(day(i), "e", page(list...))
		var fresh []string
		for k := range 10 {
			fresh = append(fresh, fmt.Sprint("x", i, k))
		}
		restless = restless.With(day(i), "e", page(fresh...))
		two = two.With(day(i), "e", page([][]string{same, shops}[i%2]...))
	}
	for _, c := range []struct {
		h    History
		says string
	}{{History{}, "No snapshot is kept"}, {History{}.With(day(0), "e", page("a")), "One snapshot so far"},
		{steady, "have been the same over 11 months, and 10 of the ten stood there all the time: these results are steady"},
		{slow, "yet new pages get in"},
		{restless, "have changed at each look over 11 months, and what comes and goes is mostly articles: the engine " +
			"is not " +
			"satisfied yet"},
		{two, "the words seem to mean two things"}} {
		if got := CourseOf(c.h).Says(); !strings.Contains(got, c.says) {
			t.Errorf("%s\nwant %s", got, c.says)
		}
	}
	daily := History{}
	for i := range 6 {
		daily = daily.With(day(0).AddDate(0, 0, i), "e", page(same...))
	}
	if c := CourseOf(daily); c.Known || c.Snapshots != 1 {
		t.Errorf("six looks in a week count as %+v", c)
	}
	if c := CourseOf(daily.With(day(0).AddDate(0, 0, 12), "e", page(same...))); c.Snapshots != 2 || c.Days != 7 {
		t.Errorf("of a week and another %+v", c)
	}
	if c := CourseOf(steady); c.Overlap != 1 || c.Changed != 0 || c.Stayed != 10 || c.Days != 336 {
		t.Errorf("%+v", c)
	}
}

// TestFallen: who stood high and fell far between the latest two snapshots of one engine; and who went out of date.
func TestFallen(t *testing.T) {
	show := func(names string) (out []Shown) {
		for _, r := range names {
			out = append(out, Shown{URL: "http://" + string(r) + ".example/"})
		}
		return out
	}
	day := time.Date(2026, 3, 2, 0, 0, 0, 0, time.UTC)
	h := History{}.With(day, "one", show("abcdefghij"))
	if len(h.Fallen()) != 0 {
		t.Error("one snapshot tells of a fall")
	}
	h = h.With(day.AddDate(0, 0, 7), "other", show("k")) // another engine is not compared
	if _, _, ok := h.Between(); ok || len(h.Fallen()) != 0 {
		t.Errorf("%+v", h.Fallen())
	}
	h = h.With(day.AddDate(0, 0, 8), "one", show("bdefgcijkl"))
	got := h.Fallen()
	if len(got) != 1 || got[0] != (Fallen{"http://a.example/", 1, 0, "2026-03-10"}) {
		t.Errorf("%+v", got) // c fell by three places only, and h was no. 8
	}
	if was, is, ok := h.Between(); !ok || !was.Equal(day) || !is.Equal(day.AddDate(0, 0, 8)) {
		t.Errorf("%v, %v", was, is)
	}
	ten := []Entry{{Site: "old.example", Touched: day.AddDate(-3, 0, 0)}, {Site: "none.example"},
		{Site: "now.example", Touched: day.AddDate(0, 0, 4).Add(-staleDuration)}, {Site: "new.example", Touched: day}}
	if got := WentStale(ten, day, day.AddDate(0, 0, 8)); len(got) != 1 || got[0] != "now.example" {
		t.Errorf("%q", got)
	}
}
