package topics_test

import (
	"errors"
	"math"
	"slices"
	"strings"
	"testing"

	"cleverniche/core/plan"
	"cleverniche/core/sieve"
	"cleverniche/core/topic"
	"cleverniche/study/articles"
	"cleverniche/study/ideas"
	"cleverniche/study/input"
	"cleverniche/study/niches"
	"cleverniche/study/studytest"
	"cleverniche/study/topics"
)

func TestTopicsByHand(t *testing.T) {
	s, n, ids := studytest.Planted(t)
	found := studytest.Leads(t, s, n)
	if found != "moon map 3, star chart for beginners 2" {
		t.Fatalf("found %s", found)
	}
	topics, _ := s.Topics.Of(ctx, n)
	if moon := topics.List[0]; moon.Searches != 1100 { // map of the moon is a wording of moon map
		t.Errorf("the moon is searched %g times", moon.Searches)
	}
	steps := []struct {
		name string
		do   func() error
		want string
	}{
		{"split", func() error { return s.Topics.Split(ctx, n, []uint{ids["lunar moon map"]}) },
			"moon map 2, star chart for beginners 2, lunar moon map 1"},
		{"move", func() error { return s.Topics.Move(ctx, n, []uint{ids["star chart"]}, ids["lunar moon map"]) },
			"moon map 2, star chart for beginners 1, star chart 2"},
		{"lead", func() error { return s.Topics.Lead(ctx, n, ids["map of the moon"]) },
			"star chart for beginners 1, star chart 2, map of the moon 2"},
		{"name", func() error { return s.Topics.Name(ctx, n, ids["moon map"], " Moon,\n\"maps\" 🌙 ") },
			"star chart for beginners 1, star chart 2, Moon, \"maps\" 🌙 2"},
		{"join everything", func() error {
			return s.Topics.Join(ctx, n, []uint{ids["star chart for beginners"], ids["star chart"], ids["moon map"]})
		}, ""},
	}
	var states []string
	for _, step := range steps {
		states = append(states, studytest.Leads(t, s, n))
		if err := step.do(); err != nil {
			t.Fatalf("%s: %v", step.name, err)
		}
		if got := studytest.Leads(t, s, n); step.want != "" && got != step.want {
			t.Errorf("after %s: %s, want %s", step.name, got, step.want)
		}
	}
	if topics, _ = s.Topics.Of(ctx, n); len(topics.List) != 1 || len(topics.List[0].Ideas) != 5 {
		t.Errorf("joined: %s", studytest.Leads(t, s, n))
	}
	for i := len(states) - 1; i >= 0; i-- {
		undone, err := s.Ideas.Undo(ctx, n.ID)
		if err != nil || !undone.Topics || studytest.Leads(t, s, n) != states[i] {
			t.Errorf("undoing %s: %+v, %v: %s, want %s", steps[i].name, undone, err, studytest.Leads(t, s, n), states[i])
		}
	}
	if undone, _ := s.Ideas.Undo(ctx, n.ID); undone.Says != "" {
		t.Errorf("there was nothing to undo, and %s", undone.Says)
	}
}

// TestNewIdeasJoin: what was decided by hand stays when new ideas come, and they join it.
func TestNewIdeasJoin(t *testing.T) {
	s, n, ids := studytest.Planted(t)
	if err := s.Topics.Split(ctx, n, []uint{ids["lunar moon map"]}); err != nil {
		t.Fatal(err)
	}
	j, err := s.Results.LookUp(ctx, n, []uint{ids["not looked up moon map"]}, false)
	studytest.Finish(t, s, j, err)
	grouped, _ := s.Topics.Of(ctx, n)
	all := 0
	for _, one := range grouped.List {
		for _, idea := range one.Ideas {
			all++
			if idea.ByHand == (idea.ID == ids["not looked up moon map"]) && one.Changed {
				t.Errorf("%s: by hand %v", idea.Phrase, idea.ByHand)
			}
		}
	}
	a, _ := grouped.Of(ids["moon map"])
	b, _ := grouped.Of(ids["lunar moon map"])
	if all != 6 || a.At == b.At || len(grouped.List) != 3 {
		t.Errorf("%s", studytest.Leads(t, s, n))
	}
	// The whole niche: what is not looked up joins by its words, and says so.
	if n, err = s.Topics.Regroup(ctx, n, niches.ScopeAll, 8); err != nil {
		t.Fatal(err)
	}
	if _, err := s.Topics.Regroup(ctx, n, niches.ScopeAll, 9); err == nil {
		t.Error("nine shared pages")
	}
	if _, err := s.Imports.Take(ctx, n, "more", strings.NewReader("maps of moons")); err != nil {
		t.Fatal(err)
	}
	grouped, _ = s.Topics.Of(ctx, n)
	bd, _ := s.Ideas.Table(ctx, n)
	one, err := grouped.Of(studytest.Named(bd, "maps of moons"))
	if err != nil || !slices.ContainsFunc(one.Ideas, func(i topics.TopicIdea) bool {
		return i.Assumed && i.Phrase == "maps of moons"
	}) {
		t.Errorf("by words: %+v, %v", one.Ideas, err)
	}
}

// TestTooManyToGroup: of more ideas than are grouped at once, those that are looked up and the most searched
// are, and what is put aside to write.
func TestTooManyToGroup(t *testing.T) {
	s, n, _ := studytest.PlantedWith(t, func(o *studytest.Setup) { o.Grouped = 2 })
	s.Imports.Take(ctx, n, "more", strings.NewReader("phrase,searches\nvenus,5000\nmars,4000\njupiter,3\nsaturn,2\n"))
	bd, _ := s.Ideas.Table(ctx, n)
	if _, err := s.Articles.Add(ctx, n, []uint{studytest.Named(bd, "saturn")}); err != nil {
		t.Fatal(err)
	}
	n, err := s.Topics.Regroup(ctx, n, niches.ScopeAll, topic.Shared)
	if err != nil {
		t.Fatal(err)
	}
	topics, err := s.Topics.Of(ctx, n)
	if err != nil || topics.Ideas != 8 || topics.Left != 2 {
		t.Errorf("%d ideas are grouped, %d left out, %v: %s", topics.Ideas, topics.Left, err, studytest.Leads(t, s, n))
	}
	for phrase, in := range map[string]bool{"venus": true, "mars": true, "jupiter": false, "saturn": true} {
		if _, err := topics.Of(studytest.Named(bd, phrase)); (err == nil) != in {
			t.Errorf("%s: %v", phrase, err)
		}
	}
}

func TestHandsRefuse(t *testing.T) {
	s, n, ids := studytest.Planted(t)
	moon := []uint{ids["moon map"], ids["map of the moon"], ids["lunar moon map"]}
	before := studytest.Leads(t, s, n)
	for name, do := range map[string]func() error{
		"all split off":     func() error { return s.Topics.Split(ctx, n, moon) },
		"nothing split off": func() error { return s.Topics.Split(ctx, n, nil) },
		"of two topics":     func() error { return s.Topics.Split(ctx, n, []uint{moon[0], ids["star chart"]}) },
		"one joined":        func() error { return s.Topics.Join(ctx, n, moon) },
		"moved to itself":   func() error { return s.Topics.Move(ctx, n, moon[:1], moon[1]) },
		"moved to nobody":   func() error { return s.Topics.Move(ctx, n, moon[:1], 9999) },
		"a long name": func() error {
			return s.Topics.Name(ctx, n, moon[0],
				strings.Repeat("x", topics.MostNamed+1))
		},
		"released for naught": func() error { return s.Topics.Release(ctx, n, moon[0]) },
		"its own hub":         func() error { return s.Topics.Hub(ctx, n, moon[0], moon[1], false) },
	} {
		var wrong *input.Error
		if err := do(); !errors.As(err, &wrong) {
			t.Errorf("%s: %v", name, err)
		}
	}
	if studytest.Leads(t, s, n) != before {
		t.Errorf("what was refused changed something: %s", studytest.Leads(t, s, n))
	}
	if err := s.Topics.Name(ctx, n, 9999, "x"); !errors.Is(err, input.ErrNotFound) {
		t.Errorf("of no idea: %v", err)
	}
}

// TestJoinOnTheSheet: what is published stays so, and two of that kind are not joined.
func TestJoinOnTheSheet(t *testing.T) {
	s, n, ids := studytest.Planted(t)
	if _, err := s.Articles.Add(ctx, n, []uint{ids["moon map"], ids["star chart"]}); err != nil {
		t.Fatal(err)
	}
	sheet, _ := s.Articles.Plan(ctx, n)
	publish := func(i int) {
		t.Helper()
		change := articles.Change{State: studytest.Text("published"), Address: studytest.Text("mine.example/x"),
			Note: studytest.Text("a note")}
		if err := s.Articles.Change(ctx, n, sheet.Articles[i].Key(), change); err != nil {
			t.Fatal(err)
		}
	}
	publish(1)
	if err := s.Topics.Join(ctx, n, []uint{ids["moon map"], ids["star chart"]}); err != nil {
		t.Fatal(err)
	}
	joined, _ := s.Articles.Plan(ctx, n)
	if len(joined.Articles) != 1 || joined.Articles[0].State() != plan.Published || joined.Articles[0].Note != "a note" ||
		joined.Articles[0].Address == "" || len(joined.Articles[0].Ideas) != 5 {
		t.Errorf("%+v", joined.Articles)
	}
	s.Ideas.Undo(ctx, n.ID)
	publish(0)
	var wrong *input.Error
	if err := s.Topics.Join(ctx, n, []uint{ids["moon map"], ids["star chart"]}); !errors.As(err, &wrong) {
		t.Errorf("two published ones: %v", err)
	}
}

func TestHubByHand(t *testing.T) {
	s, n, ids := studytest.Planted(t)
	if err := s.Topics.Hub(ctx, n, ids["star chart"], ids["moon map"], false); err != nil {
		t.Fatal(err)
	}
	topics, _ := s.Topics.Of(ctx, n)
	moon, _ := topics.Of(ids["moon map"])
	if len(moon.Spokes) != 1 || !topics.List[moon.Spokes[0]].HubHand {
		t.Errorf("spokes %v", moon.Spokes)
	}
	if err := s.Topics.Hub(ctx, n, ids["moon map"], ids["star chart"], false); err == nil {
		t.Error("a hub hangs on its spoke")
	}
	if err := s.Topics.Hub(ctx, n, ids["star chart"], 0, false); err != nil {
		t.Fatal(err)
	}
	topics, _ = s.Topics.Of(ctx, n)
	if star, _ := topics.Of(ids["star chart"]); star.Hub != topic.NoHub || !star.HubHand {
		t.Errorf("on none: %+v", star.Hub)
	}
}

// TestAHubGoes: what hung on a topic that is none any more hangs as proposed, not on the next one that is made.
func TestAHubGoes(t *testing.T) {
	s, n, ids := studytest.Planted(t)
	// the spoke is made first, so that the hub's ID is the highest and free for the next one
	for _, err := range []error{s.Topics.Name(ctx, n, ids["star chart"], "stars"),
		s.Topics.Hub(ctx, n, ids["star chart"], ids["moon map"], false), s.Topics.Release(ctx, n, ids["moon map"]),
		s.Topics.Split(ctx, n, []uint{ids["lunar moon map"]})} {
		if err != nil {
			t.Fatal(err)
		}
	}
	topics, _ := s.Topics.Of(ctx, n)
	if star, _ := topics.Of(ids["star chart"]); star.Hub != topic.NoHub || star.HubHand {
		t.Errorf("it hangs on %q", topics.List[star.Hub].Name)
	}
	s.Ideas.Undo(ctx, n.ID)
	s.Ideas.Undo(ctx, n.ID)
	topics, _ = s.Topics.Of(ctx, n)
	if star, _ := topics.Of(ids["star chart"]); !star.HubHand {
		t.Error("undone, it does not hang where it hung")
	}
}

// What a topic brings is added up from what its wordings bring alone, each by its own chances; what is not
// looked up brings as much a search as the lead.
func TestTopicWorth(t *testing.T) {
	s, n, ids := studytest.Planted(t)
	if _, err := s.Imports.Take(ctx, n, "more", strings.NewReader("phrase,searches\nmoon maps,950\n")); err != nil {
		t.Fatal(err)
	}
	two := 2 // so that the ranges of the wordings differ
	if err := s.Results.Suppose(ctx, n, ids["lunar moon map"], ideas.Suppose{Links: &two}); err != nil {
		t.Fatal(err)
	}
	n, err := s.Topics.Regroup(ctx, n, niches.ScopeAll, topic.Shared)
	if err != nil {
		t.Fatal(err)
	}
	b, _ := s.Ideas.Table(ctx, n)
	alone := func(name string, f *sieve.Figure) float64 {
		at, _ := b.Table.Find(ids[name])
		v, known := b.Table.Number(at, f)
		if !known || v <= 0 {
			t.Fatalf("%s is worth %v, %v", name, v, known)
		}
		return v
	}
	grouped, err := s.Topics.Of(ctx, n)
	if err != nil {
		t.Fatal(err)
	}
	for name, by := range map[string]func(f *sieve.Figure) float64{
		"star chart for beginners": func(f *sieve.Figure) float64 {
			return alone("star chart for beginners", f) + alone("star chart", f)
		},
		// “map of the moon” and “moon maps” are “moon map” in other words, and the last is searched most.
		"moon map": func(f *sieve.Figure) float64 {
			return alone("moon map", f)/900*950 + alone("lunar moon map", f)
		},
	} {
		want := by(sieve.Worth)
		one, err := grouped.Of(ids[name])
		if err != nil {
			t.Fatal(err)
		}
		articles, err := s.Articles.Read(ctx, n, grouped, []topics.Topic{one})
		if err != nil {
			t.Fatal(err)
		}
		at, _ := grouped.Table().Table.Find(one.ID)
		shown, _ := grouped.Table().Table.Number(at, sieve.Worth)
		low, likely, high, known := articles[0].Worth()
		if math.Abs(shown-want) > 1e-4 || !known || math.Abs(float64(likely)/1e6-want) > 1e-4 {
			t.Errorf("%s: in the list %v, on the sheet %d, by hand %v", one.Name, shown, likely, want)
		}
		// All hang on the same engine, so that the ends are added up as well.
		if low > likely || likely > high || math.Abs(float64(low)/1e6-by(sieve.WorthLow)) > 1e-4 ||
			math.Abs(float64(high)/1e6-by(sieve.WorthHigh)) > 1e-4 {
			t.Errorf("%s: %d–%d–%d, by hand %v–%v", one.Name, low, likely, high, by(sieve.WorthLow), by(sieve.WorthHigh))
		}
	}
}
