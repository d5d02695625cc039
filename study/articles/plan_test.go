package articles_test

import (
	"context"
	"errors"
	"math"
	"reflect"
	"testing"
	"time"

	"cleverniche/core/plan"
	"cleverniche/core/sieve"
	"cleverniche/market"
	"cleverniche/study/articles"
	"cleverniche/study/ask"
	"cleverniche/study/ideas"
	"cleverniche/study/input"
	"cleverniche/study/jobs"
	"cleverniche/study/studytest"
)

func TestSheet(t *testing.T) {
	s, n, ids := studytest.Planted(t)
	names, err := s.Articles.Add(ctx, n, []uint{ids["lunar moon map"], ids["star chart"]})
	if err != nil || !reflect.DeepEqual(names, []string{"lunar moon map", "star chart"}) { // which they were added by
		t.Fatalf("added %v, %v", names, err)
	}
	if _, err := s.Articles.Add(ctx, n, []uint{ids["moon map"]}); err == nil {
		t.Error("twice")
	}
	if _, err := s.Articles.LayOut(ctx, n); err != nil {
		t.Fatal(err)
	}
	sheet, err := s.Articles.Plan(ctx, n)
	if err != nil || len(sheet.Articles) != 2 || sheet.Articles[0].Start.IsZero() {
		t.Fatalf("%+v, %v", sheet, err)
	}
	moon, star := sheet.Articles[0], sheet.Articles[1]
	low, likely, high, known := moon.Worth()
	if !known || low > likely || likely > high || high == 0 || moon.Idea.Value(sieve.Searches).Number != 1100 {
		t.Errorf("worth %d–%d–%d %v of %v searches", low, likely, high, known, moon.Idea.Value(sieve.Searches))
	}
	for name, c := range map[string]articles.Change{
		"no hours": {Hours: studytest.Text("0")}, "ten thousand hours": {Hours: studytest.Text("10000")},
		"half an hour": {Hours: studytest.Text("0.5")},
		"no day":       {Start: studytest.Text("tomorrow")}, "the year 9999": {Deadline: studytest.Text("9999-01-01")},
		"somebody else's page": {Address: studytest.Text("https://other.example/x")},
		"no address":           {Address: studytest.Text("::")},
		"published nowhere":    {State: studytest.Text("published")},
		"published to come": {State: studytest.Text("published"), Address: studytest.Text("mine.example/x"),
			Published: studytest.Text("2026-12-24")},
		"sold":                 {State: studytest.Text("sold")},
		"a script for address": {Address: studytest.Text("javascript:alert(1)")},
		"before nobody":        {Before: new(uint)},
	} {
		if name == "before nobody" {
			*c.Before = 999
		}
		var wrong *input.Error
		if err := s.Articles.Change(ctx, n, moon.Key(), c); !errors.As(err, &wrong) {
			t.Errorf("%s: %v", name, err)
		}
	}
	deadline := articles.Change{Deadline: studytest.Text("2026-11-01"),
		Note: studytest.Text("a note,\nof two lines 🔭"), Hours: studytest.Text("16")}
	if err := s.Articles.Change(ctx, n, moon.Key(), deadline); err != nil {
		t.Fatal(err)
	}
	published := articles.Change{State: studytest.Text("published"), Address: studytest.Text("mine.example/charts"),
		Published: studytest.Text("2026-11-01")}
	if err := s.Articles.Change(ctx, n, star.Key(), published); err != nil {
		t.Fatal(err)
	}
	first := moon.Key()
	if err := s.Articles.Change(ctx, n, star.Key(), articles.Change{Before: &first}); err != nil {
		t.Fatal(err)
	}
	sheet, _ = s.Articles.Plan(ctx, n)
	a, b := sheet.Articles[1], sheet.Articles[0]
	if a.Key() != star.Key() || a.State() != plan.Published || a.Address != "https://mine.example/charts" ||
		len(a.Own) == 0 || b.Schedule.Late == 0 || b.Hours != 16 {
		t.Errorf("%+v\n%+v", a.Schedule, b.Schedule)
	}
	if months := sheet.Booked(s.Now(), 2); math.Abs(months[0].Booked+months[1].Booked-16) > 1e-9 {
		t.Errorf("booked %+v", months)
	}
	// An article whose ideas are all dropped stays on the sheet, and says so.
	if _, err := s.Ideas.Decide(ctx, n.ID, b.IDs(), sieve.Dropped); err != nil {
		t.Fatal(err)
	}
	sheet, _ = s.Articles.Plan(ctx, n)
	if len(sheet.Articles) != 2 || !sheet.Articles[0].Gone || sheet.Articles[0].Name != "lunar moon map" {
		t.Errorf("gone: %+v", sheet.Articles[0].Name)
	}
	if err := s.Articles.Remove(ctx, n, b.Key()); err != nil {
		t.Fatal(err)
	}
	if sheet, _ = s.Articles.Plan(ctx, n); len(sheet.Articles) != 1 {
		t.Error("it is not off the sheet")
	}
}

func TestChoose(t *testing.T) {
	s, n, ids := studytest.Planted(t)
	all, err := s.Articles.Choose(ctx, n, articles.Rules{Weeks: 10})
	if err != nil || len(all.Taken) != 2 || all.Asked != 2 {
		t.Fatalf("%+v, %v", all, err)
	}
	some, err := s.Articles.Choose(ctx, n, articles.Rules{Weeks: 10, Out: []uint{ids["moon map"]}})
	if err != nil || len(some.Taken) != 1 || some.Free != all.Worth || some.Worth >= some.Free {
		t.Errorf("%+v, %v", some, err)
	}
	for name, do := range map[string]func() error{
		"no weeks": func() error { _, err := s.Articles.Choose(ctx, n, articles.Rules{}); return err },
		"too many weeks": func() error {
			_, err := s.Articles.Choose(ctx, n, articles.Rules{Weeks: articles.MostWeeks + 1})
			return err
		},
		"no hours a week": func() error {
			n := n
			n.WeekHours = 0
			_, err := s.Articles.Choose(ctx, n, articles.Rules{Weeks: 1})
			return err
		},
	} {
		var wrong *input.Error
		if err := do(); !errors.As(err, &wrong) {
			t.Errorf("%s: %v", name, err)
		}
	}
}

// TestPlacesBelowTheTen: where a page of mine stands below the ten is told once it was looked for.
func TestPlacesBelowTheTen(t *testing.T) {
	s, n, _ := studytest.PlantedWith(t, func(o *studytest.Setup) { o.Market.Search = &deep{} })
	j, err := s.Articles.LookUpOwnPages(ctx, n)
	studytest.Finish(t, s, j, err)
	place := func() string {
		list, _, err := s.Articles.Actions(ctx, n, 0)
		if err != nil || len(list) != 1 {
			t.Fatalf("%+v, %v", list, err)
		}
		return list[0].Now.Place()
	}
	if got := place(); got != "not in the top ten" {
		t.Errorf("before: %s", got)
	}
	e, phrases, err := s.Articles.EstimatePlaces(ctx, n)
	if err != nil || phrases != 1 || e.Lookups != 1 || e.Micros != 2000 {
		t.Errorf("estimate %+v for %d, %v", e, phrases, err)
	}
	j, err = s.Articles.LookUpPlaces(ctx, n)
	if v := studytest.Finish(t, s, j, err); v.State != jobs.Done || v.Found != 1 {
		t.Fatalf("%+v", v)
	}
	if got := place(); got != "17" {
		t.Errorf("after: %s", got)
	}
}

// deep is a field where my page stands at 17.
type deep struct{ studytest.Field }

// Search implements market.Searcher.
func (d *deep) Search(c context.Context, q string, in market.Locale, depth int) (market.Results, error) {
	r, err := d.Field.Search(c, q, in, depth)
	if depth == ask.PlacesDepth {
		r.Organic[16].URL = "http://mine.example/charts"
	}
	return r, err
}

func TestOwnPagesAndActions(t *testing.T) {
	s, n, ids := studytest.Planted(t)
	j, err := s.Articles.LookUpOwnPages(ctx, n)
	if v := studytest.Finish(t, s, j, err); v.State != jobs.Done || v.Found != 1 {
		t.Fatalf("%+v", v)
	}
	topics, _ := s.Topics.Of(ctx, n)
	star, _ := topics.Of(ids["star chart"])
	if len(star.Own) != 1 || star.Own[0].URL != "http://mine.example/charts" || star.Own[0].Position != 0 {
		t.Errorf("own pages %+v", star.Own)
	}
	list, all, err := s.Articles.Actions(ctx, n, 0)
	if err != nil || all != 1 || list[0].Idea.Phrase != "star chart for beginners" || list[0].Next == "" ||
		list[0].IsDone {
		t.Fatalf("%+v, %d, %v", list, all, err)
	}
	if err := s.Articles.DoAction(ctx, n, list[0].Idea.ID, list[0].Next); err != nil {
		t.Fatal(err)
	}
	if list, _, _ = s.Articles.Actions(ctx, n, 0); !list[0].IsDone {
		t.Error("what was done is not ticked")
	}
}

// TestReadyAfterWhatIsBooked: what was put into the plan before it was looked up has its days as well, each once.
func TestReadyAfterWhatIsBooked(t *testing.T) {
	s, n, ids := studytest.Planted(t)
	if _, err := s.Articles.Add(ctx, n, []uint{ids["not looked up moon map"], ids["moon map"]}); err != nil {
		t.Fatal(err)
	}
	sheet, _ := s.Articles.Plan(ctx, n)
	change(t, s, n, sheet.Articles[0].Key(), articles.Change{Hours: studytest.Text("80")})
	if laid, err := s.Articles.LayOut(ctx, n); err != nil || laid != 2 {
		t.Fatalf("%d laid out, %v", laid, err)
	}
	c, err := s.Articles.Choose(ctx, n, articles.Rules{Weeks: 10})
	if err != nil || len(c.Taken) != 2 {
		t.Fatalf("%+v, %v", c, err)
	}
	if sheet, err = s.Articles.Plan(ctx, n); err != nil {
		t.Fatal(err)
	}
	var last time.Time
	days := map[string]time.Time{}
	for _, a := range sheet.Articles {
		days[a.Name] = a.Schedule.Ready
		if last.Before(a.Schedule.Ready) {
			last = a.Schedule.Ready
		}
	}
	for _, a := range c.Taken {
		if day, booked := days[a.Name]; booked && !a.Ready.Equal(day) || !booked && !a.Ready.After(last) {
			t.Errorf("%s is ready on %s; in the calendar on %s, where all is booked until %s", a.Name, a.Ready, day, last)
		}
	}
}

// BenchmarkChoice chooses among 300 topics for a year.
func BenchmarkChoice(b *testing.B) {
	s, n := studytest.Crowded(b, 900)
	rules := articles.Rules{Weeks: 52, SpokesWithHub: true, LearnFirst: true, Waits: true}
	c, err := s.Articles.Choose(ctx, n, rules)
	if err != nil {
		b.Fatal(err)
	}
	b.Logf("%d of %d topics, %d of %d hours", len(c.Taken), c.Asked, c.Hours, c.Have)
	for b.Loop() {
		if _, err := s.Articles.Choose(ctx, n, rules); err != nil {
			b.Fatal(err)
		}
	}
}

// TestWhatCanRankIsProposed: an article whose most searched wording is out of reach is proposed for one that is not.
func TestWhatCanRankIsProposed(t *testing.T) {
	s, n, id := studytest.Planted(t)
	strong := 95.0
	if err := s.Results.Suppose(ctx, n, id["lunar moon map"], ideas.Suppose{Standing: &strong}); err != nil {
		t.Fatal(err)
	}
	chances := map[string]float64{}
	rows, err := s.Ideas.Ideas(ctx, n.ID, []uint{id["moon map"], id["lunar moon map"]})
	if err != nil {
		t.Fatal(err)
	}
	for _, i := range rows {
		chances[i.Phrase] = i.Value(sieve.PageOne).Number
	}
	lead, better := chances["moon map"], chances["lunar moon map"]
	if better <= lead {
		t.Fatalf("chances %v", chances)
	}
	for bar, want := range map[float64]string{lead: "moon map", (lead + better) / 2: "lunar moon map",
		(1 + better) / 2: ""} {
		c, err := s.Articles.Choose(ctx, n, articles.Rules{Weeks: 50, LeastChance: bar})
		if err != nil {
			t.Fatal(err)
		}
		proposed := ""
		for _, a := range c.Taken {
			if a.ID == id[a.Name] && (a.Name == "moon map" || a.Name == "lunar moon map") {
				proposed = a.Name
			}
		}
		if proposed != want {
			t.Errorf("at least %v: “%s” is proposed, want “%s”", bar, proposed, want)
		}
	}
	names, err := s.Articles.Add(ctx, n, []uint{id["lunar moon map"]})
	if err != nil || names[0] != "lunar moon map" {
		t.Fatalf("%v, %v", names, err)
	}
	c, err := s.Articles.Choose(ctx, n, articles.Rules{Weeks: 50})
	if err != nil || c.Taken[0].Name != "lunar moon map" && c.Taken[1].Name != "lunar moon map" {
		t.Errorf("what is in the plan is another article: %+v, %v", c.Taken, err)
	}
}
