package results_test

import (
	"context"
	"fmt"
	"strings"
	"testing"

	"cleverniche/market"
	"cleverniche/study/niches"
	"cleverniche/study/results"
	"cleverniche/study/studytest"
)

// many is a fake with several engines, of which another shows half of what the usual one does, and another order in
// Britain.
type many struct{ *studytest.Fake }

type engine struct {
	many
	name string
}

func (m many) On(name string) market.Searcher { return engine{m, name} }

func (m many) Search(ctx context.Context, q string, in market.Locale, depth int) (market.Results, error) {
	r, err := m.Fake.Search(ctx, q, in, depth)
	if in.Country == "GB" {
		r.Organic[0].URL, r.Organic[1].URL = r.Organic[1].URL, r.Organic[0].URL
	}
	return r, err
}

func (e engine) Search(ctx context.Context, q string, in market.Locale, depth int) (market.Results, error) {
	if e.name == "none" {
		return market.Results{}, &market.Error{Source: "fake", Trouble: market.Refused, Err: fmt.Errorf("no engine")}
	}
	r, err := e.Fake.Search(ctx, q, in, depth)
	for i := range r.Organic {
		if i%2 == 0 && i != 2 {
			r.Organic[i].URL = "http://other.example/" + fmt.Sprint(i)
		}
	}
	return r, err
}

// TestElsewhere: each scene is asked once, what differs is told, the mean goes into the list; a scene that fails says
// why, and the others count.
func TestElsewhere(t *testing.T) {
	f := &studytest.Fake{}
	s, n := studytest.Begin(t, f, func(o *studytest.Setup) { o.Market.Search = many{f} })
	s.Imports.Take(ctx, n, "list", strings.NewReader("star chart\n"))
	b, _ := s.Ideas.Table(ctx, n)
	id := studytest.Named(b, "star chart")
	was := n
	n.Elsewhere = niches.Elsewhere{Engines: []string{" Other ", "other"}, Countries: []string{"United Kingdom", "US"}}
	n, _, err := s.Results.ChangeFrom(ctx, was, n)
	if err != nil || len(n.Scenes()) != 2 {
		t.Fatalf("%+v, %v", n.Scenes(), err)
	}
	if n, err = s.Niches.Get(ctx, n.ID); err != nil || len(n.Scenes()) != 2 || n.Scenes()[1].Name != "United Kingdom" {
		t.Fatalf("kept: %+v, %v", n.Scenes(), err)
	}
	look := func() results.Story {
		t.Helper()
		job, err := s.Results.Start(ctx, n, results.LookupOf("elsewhere"), []uint{id}, false)
		studytest.Finish(t, s, job, err)
		return studytest.Tell(t, s, n, id)
	}
	if st := look(); !strings.Contains(st.Idea.Row.ElsewhereError, "look up its results first") {
		t.Errorf("before the ten: %q", st.Idea.Row.ElsewhereError)
	}
	job, err := s.Results.LookUp(ctx, n, []uint{id}, false)
	studytest.Finish(t, s, job, err)
	st := look()
	asked := f.Asked.Load()
	if again := look(); again.Idea.Row.ElsewhereError != "" || f.Asked.Load() != asked {
		t.Errorf("asked %d more, %q", f.Asked.Load()-asked, again.Idea.Row.ElsewhereError)
	}
	got, err := s.Results.Scenes(ctx, n, st.Evidence)
	if err != nil || len(got) != 2 {
		t.Fatal(got, err)
	}
	other, britain := got[0], got[1]
	if len(other.Same) != 6 || len(other.Only) != 4 || other.Mine != 3 {
		t.Errorf("the other engine: %+v", other)
	}
	if len(britain.Same) != 10 || !(britain.Overlap < 1) || !(britain.Overlap > other.Overlap) {
		t.Errorf("Britain: %+v", britain)
	}
	if row := st.Idea.Row; row.Alike == nil || *row.Alike != 0.8 {
		t.Errorf("in the list: %v", row.Alike)
	}
	was = n
	n.Elsewhere.Engines = []string{"none"}
	if n, _, err = s.Results.ChangeFrom(ctx, was, n); err != nil {
		t.Fatal(err)
	}
	if st := look(); !strings.Contains(st.Idea.Row.ElsewhereError, "no engine") ||
		*st.Idea.Row.Alike != 1 { // Britain is known
		t.Errorf("an engine that is none: %q", st.Idea.Row.ElsewhereError)
	}
	if err := s.Results.AskScene(ctx, n, id, "gone||"); err == nil {
		t.Error("a scene that is gone is asked")
	}
	for field, e := range map[string]niches.Elsewhere{"other-countries": {Countries: []string{"Nowhere"}},
		"other-languages": {Languages: []string{"Gibberish"}}, "other-engines": {Engines: []string{"a|b"}}} {
		bad := n
		bad.Elsewhere = e
		if _, _, err := s.Results.ChangeFrom(ctx, n, bad); err == nil {
			t.Errorf("%s: %+v is taken", field, e)
		}
	}
}

// TestDeeper: a niche may look up more results than the settings say; pages are read of the first twenty.
func TestDeeper(t *testing.T) {
	f := &studytest.Fake{}
	s, n := studytest.Begin(t, f, nil)
	s.Imports.Take(ctx, n, "list", strings.NewReader("star chart\n"))
	b, _ := s.Ideas.Table(ctx, n)
	was := n
	n.Depth = 100
	n, _, err := s.Results.ChangeFrom(ctx, was, n)
	if err != nil {
		t.Fatal(err)
	}
	job, err := s.Results.LookUp(ctx, n, []uint{studytest.Named(b, "star chart")}, false)
	studytest.Finish(t, s, job, err)
	ev := studytest.Tell(t, s, n, studytest.Named(b, "star chart")).Evidence
	if len(ev.Results.Organic) != 100 || len(ev.Reading.Entries) != 20 {
		t.Errorf("%d results, %d read", len(ev.Results.Organic), len(ev.Reading.Entries))
	}
	was = n
	n.Depth = 30
	if _, _, err := s.Results.ChangeFrom(ctx, was, n); err == nil {
		t.Error("30 results are looked up")
	}
}
