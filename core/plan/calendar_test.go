package plan

import (
	"math"
	"math/rand/v2"
	"reflect"
	"slices"
	"testing"
	"time"

	"cleverniche/core/demand"
)

func on(text string) time.Time {
	if text == "" {
		return time.Time{}
	}
	t, err := time.Parse(time.DateOnly, text)
	if err != nil {
		panic(err)
	}
	return t
}

func TestSow(t *testing.T) {
	october := demand.Peak{First: time.October, Months: 2}
	for name, c := range map[string]struct {
		sowing                            Article
		ready, settled, season, last, due string
		late                              int
		misses                            bool
	}{
		"no place, no season": {Article{Hours: 8}, "", "", "", "", "", 0, false},
		"no place, a season":  {Article{Hours: 8, Peak: october}, "", "", "", "2027-07-03", "2027-07-03", 0, false},
		"a week's hours":      {Article{Hours: 8, Start: on("2026-12-01")}, "2026-12-08", "2027-03-08", "", "", "", 0, false},
		"half a week's":       {Article{Hours: 4, Start: on("2026-12-01")}, "2026-12-05", "2027-03-05", "", "", "", 0, false},
		"in time": {Article{Hours: 8, Start: on("2027-06-01"), Peak: october},
			"2027-06-08", "2027-09-06", "2027-10-01", "2027-07-03", "2027-07-03", 0, false},
		"late for the season": {Article{Hours: 8, Start: on("2027-07-01"), Peak: october},
			"2027-07-08", "2027-10-06", "2028-10-01", "2027-07-03", "2027-07-03", 5, true},
		"late for a deadline": {Article{Hours: 8, Start: on("2027-06-01"), Peak: october, Deadline: on("2027-06-01")},
			"2027-06-08", "2027-09-06", "2027-10-01", "2027-07-03", "2027-06-01", 7, false},
		"a deadline long past": {Article{Hours: 1, Start: on("2026-11-26"), Deadline: on("2026-11-01")},
			"2026-11-27", "2027-02-25", "", "", "2026-11-01", 26, false},
		"published": {Article{Hours: 8, Published: on("2026-11-20"), Peak: october},
			"2026-11-20", "2027-02-18", "2027-10-01", "2027-07-03", "2027-07-03", 0, false},
	} {
		got := ScheduleOf(c.sowing, on("2026-11-26"), 8, 90)
		if !got.Ready.Equal(on(c.ready)) || !got.Settled.Equal(on(c.settled)) || !got.Season.Equal(on(c.season)) ||
			!got.Last.Equal(on(c.last)) || !got.Due.Equal(on(c.due)) || got.Late != c.late || got.Misses != c.misses {
			t.Errorf("%s: %+v", name, got)
		}
	}
	// Between its last day and its end a peak is missed, and said to be; what is published has missed nothing.
	for today, want := range map[string][2]string{"2026-07-03": {"2026-07-03", ""}, "2026-07-04": {"2027-07-03",
		"2026-07-03"}, "2026-11-30": {"2027-07-03", "2026-07-03"}, "2026-12-01": {"2027-07-03", ""}} {
		got := ScheduleOf(Article{Hours: 8, Peak: october}, on(today), 8, 90)
		if !got.Last.Equal(on(want[0])) || !got.Missed.Equal(on(want[1])) {
			t.Errorf("on %s: last %v, missed %v", today, got.Last, got.Missed)
		}
		if out := ScheduleOf(Article{Published: on(today), Peak: october}, on(today), 8, 90); !out.Missed.IsZero() {
			t.Errorf("published on %s: missed %v", today, out.Missed)
		}
	}
}

func TestLoads(t *testing.T) {
	list := []Article{{Hours: 16, Start: on("2026-12-28")}, {Hours: 4, Start: on("2026-12-28")},
		{Hours: 9, Start: on("2026-12-01"), Published: on("2026-12-05")}, {Hours: 9}}
	weeks := Weeks(list, on("2026-12-30"), 3, 8, time.Monday)
	want := []Load{{on("2026-12-28"), 8, 12}, {on("2027-01-04"), 8, 8}, {on("2027-01-11"), 8, 0}}
	for i, w := range weeks {
		if !w.Begin.Equal(want[i].Begin) || w.Have != want[i].Have || math.Abs(w.Booked-want[i].Booked) > 1e-9 {
			t.Errorf("week %d: %+v, want %+v", i, w, want[i])
		}
	}
	if !weeks[0].Over() || weeks[1].Over() {
		t.Error("over: the first week only")
	}
	months := Months(list, on("2026-12-30"), 2, 8)
	booked := months[0].Booked + months[1].Booked
	if math.Abs(booked-20) > 1e-9 || math.Abs(months[0].Have-8*31.0/7) > 1e-9 {
		t.Errorf("months %+v", months)
	}
	if got := WeekOf(on("2026-11-26"), time.Sunday); !got.Equal(on("2026-11-22")) {
		t.Errorf("the week of a Thursday begins on Sunday %v", got)
	}
}

// TestLoadsAddUp: however sowings lie, the weeks and the months of a long time hold all their hours.
func TestLoadsAddUp(t *testing.T) {
	rng := rand.New(rand.NewPCG(3, 9))
	for range 100 {
		begin, perWeek := on("2026-11-26"), 1+rng.IntN(40)
		var list []Article
		sum := 0.0
		for range rng.IntN(20) {
			s := Article{Hours: 1 + rng.IntN(30), Start: begin.AddDate(0, 0, rng.IntN(300))}
			sum += float64(s.Hours)
			list = append(list, s)
		}
		weeks, months := Weeks(list, begin, 100, perWeek, time.Monday), Months(list, begin, 24, perWeek)
		for _, loads := range [][]Load{weeks, months} {
			booked := 0.0
			for _, l := range loads {
				booked += l.Booked
			}
			if math.Abs(booked-sum) > 1e-6 {
				t.Fatalf("booked %g of %g hours", booked, sum)
			}
		}
	}
}

func TestLayOut(t *testing.T) {
	got := LayOut([]Article{{Hours: 8}, {Hours: 8, Start: on("2026-12-01")}, {Hours: 4},
		{Hours: 2, Published: on("2026-01-01")}}, on("2026-11-26"), 8)
	want := []time.Time{on("2026-12-08"), on("2026-12-01"), on("2026-12-15"), {}}
	if !reflect.DeepEqual(got, want) {
		t.Errorf("%v", got)
	}
}

func TestHeld(t *testing.T) {
	topics := []Candidate{{Name: "a", Hours: 5, Worth: 10, Hub: NoHub}, {Name: "b", Hours: 5, Worth: 8, Hub: NoHub},
		{Name: "c", Hours: 5, Worth: 1, Hub: NoHub}}
	topics[2].Held = In
	got, err := Choose(topics, 10, Rules{})
	if err != nil || got.Worth != 11 || got.Free != 18 || got.Hours != 10 {
		t.Errorf("with c: %+v, %v", got, err)
	}
	topics[2].Held, topics[0].Held = Free, Out
	got, _ = Choose(topics, 10, Rules{})
	if got.Worth != 9 || got.Free != 18 || got.Left[0].Because != "you left it out" {
		t.Errorf("without a: %+v", got)
	}
	topics[0].Held, topics[1].Held, topics[2].Held = In, In, In
	_, err = Choose(topics, 10, Rules{})
	if err == nil || err.Error() != "the articles you included take 15 hours, and you have 10" {
		t.Errorf("too much: %v", err)
	}
}

func TestNext(t *testing.T) {
	good := Shown{Read: true, Title: true, Description: true, Heading: true, Words: 900, Followed: 1}
	short, unsaid := good, good
	short.Words, unsaid.Title = 100, false
	nearly := unsaid
	nearly.Lacks = []string{"beginners"}
	for want, s := range map[string]Standing{
		"Ranks first: keep it up to date":                                   {Position: 1, Mine: good},
		"Add “beginners” to the title":                                      {Position: 13, Mine: nearly, Median: 800},
		"Look for its place below the top ten":                              {Mine: good, Median: 800},
		"Wait, or link to it from your other pages: it says what it should": {Below: 50, Mine: good, Median: 800},
		"Check why your page cannot be read":                                {Position: 4},
		"Use the phrase in the title":                                       {Position: 4, Mine: unsaid, Median: 800},
		"Write more: 100 words; the top ten have 800 (median)":              {Position: 4, Mine: short, Median: 800},
		"Get links: 1 linking site, no. 1 has 7": {Position: 4, Mine: good, First: Shown{Followed: 7},
			Median: 800},
		"Link to it from your other pages": {Position: 4, Mine: good, Median: 800},
		"Write another page: yours is a product, and the top ten has 7 comparisons": {Position: 8, Mine: unsaid,
			Kind: "a product", Kinds: "7 comparisons"},
	} {
		if got := s.Next(); got != want {
			t.Errorf("%+v: %q, want %q", s, got, want)
		}
	}
	s := ShownBy("clean a barlow lens", "en", "Cleaning the Barlow lens", "how to care",
		[]string{"Lens", "Clean your barlow lens"})
	lacking := ShownBy("barlow lens for beginners", "en", "The Barlow lens", "", nil).Lacks
	if !s.Title || s.Description || !s.Heading || s.Lacks != nil || !slices.Equal(lacking, []string{"beginners"}) {
		t.Errorf("shown %+v", s)
	}
}
