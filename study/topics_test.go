package study

import (
	"context"
	"errors"
	"fmt"
	"math"
	"reflect"
	"slices"
	"strings"
	"testing"
	"time"

	"cleverniche/core/plan"
	"cleverniche/core/sieve"
	"cleverniche/core/topic"
	"cleverniche/market"
)

// field is a world of two subjects: what says "moon" has one set of pages, all else another.
type field struct{ fake }

func (f *field) Search(c context.Context, q string, in market.Locale, depth int) (market.Results, error) {
	if strings.HasPrefix(q, "site:") {
		return market.Results{Engine: "fake", Total: 1, Organic: []market.Organic{
			{Position: 1, URL: "http://mine.example/charts", Title: "Star chart for beginners: mine"},
			{Position: 2, URL: "http://elsewhere.example/", Title: "Not mine"}}}, f.answer(c, q)
	}
	subject := "stars"
	if strings.Contains(q, "moon") {
		subject = "moon"
	}
	r := market.Results{Engine: "fake", Total: 5000, AnswerBox: q == "star chart"} // which takes clicks
	for i := range depth {
		r.Organic = append(r.Organic, market.Organic{Position: i + 1,
			URL: fmt.Sprintf("http://%s%d.example/", subject, i), Title: "About " + q})
	}
	return r, f.answer(c, q)
}

// planted is a niche with two subjects looked up: three wordings of the moon, two of the stars.
func planted(t *testing.T) (*Study, Niche, map[string]uint) {
	t.Helper()
	f := &field{}
	s, st := newStudy(t, &f.fake, t.TempDir()+"/d.db", func(o *setup) {
		o.Now = func() time.Time { return time.Date(2026, 11, 26, 9, 0, 0, 0, time.UTC) }
	})
	_ = st
	s.market.Search = f
	n, err := s.CreateNiche(ctx, Niche{Name: "Sky", Country: "us", Language: "en", OwnSite: "mine.example",
		VisitMicros: 50_000})
	if err != nil {
		t.Fatal(err)
	}
	list := "phrase,searches\nmoon map,900\nmap of the moon,300\nlunar moon map,200\nstar chart for beginners,500\n" +
		"star chart,400\nnot looked up moon map,50\n"
	if _, err := s.Import(ctx, n, "list", strings.NewReader(list)); err != nil {
		t.Fatal(err)
	}
	b, _ := s.Board(ctx, n)
	ids := map[string]uint{}
	var judged []uint
	for _, p := range []string{"moon map", "map of the moon", "lunar moon map", "star chart for beginners", "star chart",
		"not looked up moon map"} {
		ids[p] = ideaNamed(b, p)
		if !strings.HasPrefix(p, "not") {
			judged = append(judged, ids[p])
		}
	}
	j, err := s.Judge(ctx, n, judged, false)
	finish(t, s, j, err)
	if n, err = s.Regroup(ctx, n, ScopeLooked, topic.Shared); err != nil {
		t.Fatal(err)
	}
	return s, n, ids
}

// leads are the topics by their leads, each with how many ideas it has.
func leads(t *testing.T, s *Study, n Niche) string {
	t.Helper()
	topics, err := s.Topics(ctx, n)
	if err != nil {
		t.Fatal(err)
	}
	var out []string
	for _, one := range topics.List {
		out = append(out, fmt.Sprintf("%s %d", one.Name, len(one.Ideas)))
	}
	return strings.Join(out, ", ")
}

func TestTopicsByHand(t *testing.T) {
	s, n, ids := planted(t)
	found := leads(t, s, n)
	if found != "moon map 3, star chart for beginners 2" {
		t.Fatalf("found %s", found)
	}
	topics, _ := s.Topics(ctx, n)
	if moon := topics.List[0]; moon.Searches != 1100 { // map of the moon is a wording of moon map
		t.Errorf("the moon is searched %g times", moon.Searches)
	}
	steps := []struct {
		name string
		do   func() error
		want string
	}{
		{"split", func() error { return s.Split(ctx, n, []uint{ids["lunar moon map"]}) },
			"moon map 2, star chart for beginners 2, lunar moon map 1"},
		{"move", func() error { return s.Move(ctx, n, []uint{ids["star chart"]}, ids["lunar moon map"]) },
			"moon map 2, star chart for beginners 1, star chart 2"},
		{"lead", func() error { return s.Lead(ctx, n, ids["map of the moon"]) },
			"star chart for beginners 1, star chart 2, map of the moon 2"},
		{"name", func() error { return s.Name(ctx, n, ids["moon map"], " Moon,\n\"maps\" 🌙 ") },
			"star chart for beginners 1, star chart 2, Moon, \"maps\" 🌙 2"},
		{"join everything", func() error {
			return s.Join(ctx, n, []uint{ids["star chart for beginners"], ids["star chart"], ids["moon map"]})
		}, ""},
	}
	var states []string
	for _, step := range steps {
		states = append(states, leads(t, s, n))
		if err := step.do(); err != nil {
			t.Fatalf("%s: %v", step.name, err)
		}
		if got := leads(t, s, n); step.want != "" && got != step.want {
			t.Errorf("after %s: %s, want %s", step.name, got, step.want)
		}
	}
	if topics, _ = s.Topics(ctx, n); len(topics.List) != 1 || len(topics.List[0].Ideas) != 5 {
		t.Errorf("joined: %s", leads(t, s, n))
	}
	for i := len(states) - 1; i >= 0; i-- {
		undone, err := s.Undo(ctx, n.ID)
		if err != nil || !undone.Topics || leads(t, s, n) != states[i] {
			t.Errorf("undoing %s: %+v, %v: %s, want %s", steps[i].name, undone, err, leads(t, s, n), states[i])
		}
	}
	if undone, _ := s.Undo(ctx, n.ID); undone.Says != "" {
		t.Errorf("there was nothing to undo, and %s", undone.Says)
	}
}

// TestNewIdeasJoin: what was decided by hand stays when new ideas come, and they join it.
func TestNewIdeasJoin(t *testing.T) {
	s, n, ids := planted(t)
	if err := s.Split(ctx, n, []uint{ids["lunar moon map"]}); err != nil {
		t.Fatal(err)
	}
	j, err := s.Judge(ctx, n, []uint{ids["not looked up moon map"]}, false)
	finish(t, s, j, err)
	topics, _ := s.Topics(ctx, n)
	all := 0
	for _, one := range topics.List {
		for _, idea := range one.Ideas {
			all++
			if idea.ByHand == (idea.ID == ids["not looked up moon map"]) && one.Changed {
				t.Errorf("%s: by hand %v", idea.Phrase, idea.ByHand)
			}
		}
	}
	a, _ := topics.Of(ids["moon map"])
	b, _ := topics.Of(ids["lunar moon map"])
	if all != 6 || a.At == b.At || len(topics.List) != 3 {
		t.Errorf("%s", leads(t, s, n))
	}
	// The whole niche: what is not looked up joins by its words, and says so.
	if n, err = s.Regroup(ctx, n, ScopeAll, 8); err != nil {
		t.Fatal(err)
	}
	if _, err := s.Regroup(ctx, n, ScopeAll, 9); err == nil {
		t.Error("nine shared pages")
	}
	if _, err := s.Import(ctx, n, "more", strings.NewReader("maps of moons")); err != nil {
		t.Fatal(err)
	}
	topics, _ = s.Topics(ctx, n)
	bd, _ := s.Board(ctx, n)
	one, err := topics.Of(ideaNamed(bd, "maps of moons"))
	if err != nil || !slices.ContainsFunc(one.Ideas, func(i TopicIdea) bool {
		return i.Assumed && i.Phrase == "maps of moons"
	}) {
		t.Errorf("by words: %+v, %v", one.Ideas, err)
	}
}

// TestTooManyToGroup: of more ideas than are grouped at once, those that are looked up and the most searched
// are, and what is put aside to write.
func TestTooManyToGroup(t *testing.T) {
	s, n, _ := planted(t)
	s.Import(ctx, n, "more", strings.NewReader("phrase,searches\nvenus,5000\nmars,4000\njupiter,3\nsaturn,2\n"))
	bd, _ := s.Board(ctx, n)
	if _, err := s.PutAside(ctx, n, []uint{ideaNamed(bd, "saturn")}); err != nil {
		t.Fatal(err)
	}
	s.groupings.most = 2
	n, err := s.Regroup(ctx, n, ScopeAll, topic.Shared)
	if err != nil {
		t.Fatal(err)
	}
	topics, err := s.Topics(ctx, n)
	if err != nil || topics.Ideas != 8 || topics.Left != 2 {
		t.Errorf("%d ideas are grouped, %d left out, %v: %s", topics.Ideas, topics.Left, err, leads(t, s, n))
	}
	for phrase, in := range map[string]bool{"venus": true, "mars": true, "jupiter": false, "saturn": true} {
		if _, err := topics.Of(ideaNamed(bd, phrase)); (err == nil) != in {
			t.Errorf("%s: %v", phrase, err)
		}
	}
}

func TestHandsRefuse(t *testing.T) {
	s, n, ids := planted(t)
	moon := []uint{ids["moon map"], ids["map of the moon"], ids["lunar moon map"]}
	before := leads(t, s, n)
	for name, do := range map[string]func() error{
		"all split off":       func() error { return s.Split(ctx, n, moon) },
		"nothing split off":   func() error { return s.Split(ctx, n, nil) },
		"of two topics":       func() error { return s.Split(ctx, n, []uint{moon[0], ids["star chart"]}) },
		"one joined":          func() error { return s.Join(ctx, n, moon) },
		"moved to itself":     func() error { return s.Move(ctx, n, moon[:1], moon[1]) },
		"moved to nobody":     func() error { return s.Move(ctx, n, moon[:1], 9999) },
		"a long name":         func() error { return s.Name(ctx, n, moon[0], strings.Repeat("x", MostNamed+1)) },
		"released for naught": func() error { return s.Release(ctx, n, moon[0]) },
		"its own hub":         func() error { return s.Hub(ctx, n, moon[0], moon[1], false) },
	} {
		var wrong *InputError
		if err := do(); !errors.As(err, &wrong) {
			t.Errorf("%s: %v", name, err)
		}
	}
	if leads(t, s, n) != before {
		t.Errorf("what was refused changed something: %s", leads(t, s, n))
	}
	if err := s.Name(ctx, n, 9999, "x"); !errors.Is(err, ErrNotFound) {
		t.Errorf("of no idea: %v", err)
	}
}

// TestJoinOnTheSheet: what is published stays so, and two of that kind are not joined.
func TestJoinOnTheSheet(t *testing.T) {
	s, n, ids := planted(t)
	if _, err := s.PutAside(ctx, n, []uint{ids["moon map"], ids["star chart"]}); err != nil {
		t.Fatal(err)
	}
	sheet, _ := s.Sheet(ctx, n)
	publish := func(i int) {
		t.Helper()
		change := SheetChange{State: text("published"), Address: text("mine.example/x"), Note: text("a note")}
		if err := s.ChangeSheet(ctx, n, sheet.Articles[i].Key(), change); err != nil {
			t.Fatal(err)
		}
	}
	publish(1)
	if err := s.Join(ctx, n, []uint{ids["moon map"], ids["star chart"]}); err != nil {
		t.Fatal(err)
	}
	joined, _ := s.Sheet(ctx, n)
	if len(joined.Articles) != 1 || joined.Articles[0].State() != plan.Published || joined.Articles[0].Note != "a note" ||
		joined.Articles[0].Address == "" || len(joined.Articles[0].Ideas) != 5 {
		t.Errorf("%+v", joined.Articles)
	}
	s.Undo(ctx, n.ID)
	publish(0)
	var wrong *InputError
	if err := s.Join(ctx, n, []uint{ids["moon map"], ids["star chart"]}); !errors.As(err, &wrong) {
		t.Errorf("two published ones: %v", err)
	}
}

func TestHubByHand(t *testing.T) {
	s, n, ids := planted(t)
	if err := s.Hub(ctx, n, ids["star chart"], ids["moon map"], false); err != nil {
		t.Fatal(err)
	}
	topics, _ := s.Topics(ctx, n)
	moon, _ := topics.Of(ids["moon map"])
	if len(moon.Spokes) != 1 || !topics.List[moon.Spokes[0]].HubHand {
		t.Errorf("spokes %v", moon.Spokes)
	}
	if err := s.Hub(ctx, n, ids["moon map"], ids["star chart"], false); err == nil {
		t.Error("a hub hangs on its spoke")
	}
	if err := s.Hub(ctx, n, ids["star chart"], 0, false); err != nil {
		t.Fatal(err)
	}
	topics, _ = s.Topics(ctx, n)
	if star, _ := topics.Of(ids["star chart"]); star.Hub != topic.NoHub || !star.HubHand {
		t.Errorf("on none: %+v", star.Hub)
	}
}

// TestAHubGoes: what hung on a topic that is none any more hangs as proposed, not on the next one that is made.
func TestAHubGoes(t *testing.T) {
	s, n, ids := planted(t)
	// the spoke is made first, so that the hub's ID is the highest and free for the next one
	for _, err := range []error{s.Name(ctx, n, ids["star chart"], "stars"),
		s.Hub(ctx, n, ids["star chart"], ids["moon map"], false), s.Release(ctx, n, ids["moon map"]),
		s.Split(ctx, n, []uint{ids["lunar moon map"]})} {
		if err != nil {
			t.Fatal(err)
		}
	}
	topics, _ := s.Topics(ctx, n)
	if star, _ := topics.Of(ids["star chart"]); star.Hub != topic.NoHub || star.HubHand {
		t.Errorf("it hangs on %q", topics.List[star.Hub].Name)
	}
	s.Undo(ctx, n.ID)
	s.Undo(ctx, n.ID)
	topics, _ = s.Topics(ctx, n)
	if star, _ := topics.Of(ids["star chart"]); !star.HubHand {
		t.Error("undone, it does not hang where it hung")
	}
}

func text(s string) *string { return &s }

// What a topic brings is added up from what its wordings bring alone, each by its own chances; what is not
// looked up brings as much a search as the lead.
func TestTopicWorth(t *testing.T) {
	s, n, ids := planted(t)
	if _, err := s.Import(ctx, n, "more", strings.NewReader("phrase,searches\nmoon maps,950\n")); err != nil {
		t.Fatal(err)
	}
	n, err := s.Regroup(ctx, n, ScopeAll, topic.Shared)
	if err != nil {
		t.Fatal(err)
	}
	b, _ := s.Board(ctx, n)
	alone := func(name string) float64 {
		at, _ := b.Table.Find(ids[name])
		v, known := b.Table.Number(at, sieve.Worth)
		if !known || v <= 0 {
			t.Fatalf("%s is worth %v, %v", name, v, known)
		}
		return v
	}
	topics, err := s.Topics(ctx, n)
	if err != nil {
		t.Fatal(err)
	}
	for name, want := range map[string]float64{
		"star chart for beginners": alone("star chart for beginners") + alone("star chart"),
		// “map of the moon” and “moon maps” are “moon map” in other words, and the last is searched most.
		"moon map": alone("moon map")/900*950 + alone("lunar moon map"),
	} {
		one, err := topics.Of(ids[name])
		if err != nil {
			t.Fatal(err)
		}
		articles, err := s.Articles(ctx, n, topics, []Topic{one})
		if err != nil {
			t.Fatal(err)
		}
		at, _ := topics.Board().Table.Find(one.ID)
		shown, _ := topics.Board().Table.Number(at, sieve.Worth)
		low, likely, high, known := articles[0].Worth()
		if math.Abs(shown-want) > 1e-4 || !known || math.Abs(float64(likely)/1e6-want) > 1e-4 {
			t.Errorf("%s: in the list %v, on the sheet %d, by hand %v", one.Name, shown, likely, want)
		}
		if low > likely || likely > high {
			t.Errorf("%s: %d–%d–%d", one.Name, low, likely, high)
		}
	}
}

func TestSheet(t *testing.T) {
	s, n, ids := planted(t)
	names, err := s.PutAside(ctx, n, []uint{ids["lunar moon map"], ids["star chart"]})
	if err != nil || !reflect.DeepEqual(names, []string{"moon map", "star chart for beginners"}) {
		t.Fatalf("put aside %v, %v", names, err)
	}
	if _, err := s.PutAside(ctx, n, []uint{ids["moon map"]}); err == nil {
		t.Error("twice")
	}
	if _, err := s.LayOut(ctx, n); err != nil {
		t.Fatal(err)
	}
	sheet, err := s.Sheet(ctx, n)
	if err != nil || len(sheet.Articles) != 2 || sheet.Articles[0].Start.IsZero() {
		t.Fatalf("%+v, %v", sheet, err)
	}
	moon, star := sheet.Articles[0], sheet.Articles[1]
	low, likely, high, known := moon.Worth()
	if !known || low > likely || likely > high || high == 0 || moon.Idea.Value(sieve.Searches).Number != 1100 {
		t.Errorf("worth %d–%d–%d %v of %v searches", low, likely, high, known, moon.Idea.Value(sieve.Searches))
	}
	for name, c := range map[string]SheetChange{
		"no hours": {Hours: text("0")}, "ten thousand hours": {Hours: text("10000")}, "half an hour": {Hours: text("0.5")},
		"no day": {Start: text("tomorrow")}, "the year 9999": {Deadline: text("9999-01-01")},
		"somebody else's page": {Address: text("https://other.example/x")}, "no address": {Address: text("::")},
		"published nowhere":    {State: text("published")},
		"published to come":    {State: text("published"), Address: text("mine.example/x"), Published: text("2026-12-24")},
		"sold":                 {State: text("sold")},
		"a script for address": {Address: text("javascript:alert(1)")},
		"before nobody":        {Before: new(uint)},
	} {
		if name == "before nobody" {
			*c.Before = 999
		}
		var wrong *InputError
		if err := s.ChangeSheet(ctx, n, moon.Key(), c); !errors.As(err, &wrong) {
			t.Errorf("%s: %v", name, err)
		}
	}
	deadline := SheetChange{Deadline: text("2026-11-01"), Note: text("a note,\nof two lines 🔭"), Hours: text("16")}
	if err := s.ChangeSheet(ctx, n, moon.Key(), deadline); err != nil {
		t.Fatal(err)
	}
	published := SheetChange{State: text("published"), Address: text("mine.example/charts"), Published: text("2026-11-01")}
	if err := s.ChangeSheet(ctx, n, star.Key(), published); err != nil {
		t.Fatal(err)
	}
	first := moon.Key()
	if err := s.ChangeSheet(ctx, n, star.Key(), SheetChange{Before: &first}); err != nil {
		t.Fatal(err)
	}
	sheet, _ = s.Sheet(ctx, n)
	a, b := sheet.Articles[1], sheet.Articles[0]
	if a.Key() != star.Key() || a.State() != plan.Published || a.Address != "https://mine.example/charts" ||
		len(a.Own) == 0 || b.Sown.Late == 0 || b.Hours != 16 {
		t.Errorf("%+v\n%+v", a.Sown, b.Sown)
	}
	if months := sheet.Booked(s.Now(), 2); math.Abs(months[0].Booked+months[1].Booked-16) > 1e-9 {
		t.Errorf("booked %+v", months)
	}
	// An article whose ideas are all dropped stays on the sheet, and says so.
	if _, err := s.Decide(ctx, n.ID, b.IDs(), sieve.Dropped); err != nil {
		t.Fatal(err)
	}
	sheet, _ = s.Sheet(ctx, n)
	if len(sheet.Articles) != 2 || !sheet.Articles[0].Gone || sheet.Articles[0].Name != "moon map" {
		t.Errorf("gone: %+v", sheet.Articles[0].Name)
	}
	if err := s.TakeOff(ctx, n, b.Key()); err != nil {
		t.Fatal(err)
	}
	if sheet, _ = s.Sheet(ctx, n); len(sheet.Articles) != 1 {
		t.Error("it is not off the sheet")
	}
}

func TestChoose(t *testing.T) {
	s, n, ids := planted(t)
	all, err := s.Choose(ctx, n, ChoiceRules{Weeks: 10})
	if err != nil || len(all.Taken) != 2 || all.Asked != 2 {
		t.Fatalf("%+v, %v", all, err)
	}
	some, err := s.Choose(ctx, n, ChoiceRules{Weeks: 10, Out: []uint{ids["moon map"]}})
	if err != nil || len(some.Taken) != 1 || some.Free != all.Worth || some.Worth >= some.Free {
		t.Errorf("%+v, %v", some, err)
	}
	for name, do := range map[string]func() error{
		"no weeks":       func() error { _, err := s.Choose(ctx, n, ChoiceRules{}); return err },
		"too many weeks": func() error { _, err := s.Choose(ctx, n, ChoiceRules{Weeks: MostWeeks + 1}); return err },
		"no hours a week": func() error {
			n := n
			n.WeekHours = 0
			_, err := s.Choose(ctx, n, ChoiceRules{Weeks: 1})
			return err
		},
	} {
		var wrong *InputError
		if err := do(); !errors.As(err, &wrong) {
			t.Errorf("%s: %v", name, err)
		}
	}
}

func TestOwnPagesAndActions(t *testing.T) {
	s, n, ids := planted(t)
	j, err := s.AskOwnPages(ctx, n)
	if v := finish(t, s, j, err); v.State != Done || v.Found != 1 {
		t.Fatalf("%+v", v)
	}
	topics, _ := s.Topics(ctx, n)
	star, _ := topics.Of(ids["star chart"])
	if len(star.Own) != 1 || star.Own[0].URL != "http://mine.example/charts" || star.Own[0].Position != 0 {
		t.Errorf("own pages %+v", star.Own)
	}
	list, all, err := s.Actions(ctx, n, 0)
	if err != nil || all != 1 || list[0].Idea.Phrase != "star chart for beginners" || list[0].Next == "" ||
		list[0].IsDone {
		t.Fatalf("%+v, %d, %v", list, all, err)
	}
	if err := s.DoAction(ctx, n, list[0].Idea.ID, list[0].Next); err != nil {
		t.Fatal(err)
	}
	if list, _, _ = s.Actions(ctx, n, 0); !list[0].IsDone {
		t.Error("what was done is not ticked")
	}
}
