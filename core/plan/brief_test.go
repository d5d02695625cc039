package plan

import (
	"reflect"
	"strings"
	"testing"
	"time"

	"cleverniche/core/intent"
	"cleverniche/core/links"
	"cleverniche/core/phrase"
	"cleverniche/core/serp"
)

func TestBrief(t *testing.T) {
	weak := func(list ...serp.Weakness) (out []serp.Reason) {
		for _, w := range list {
			out = append(out, serp.Reason{Weakness: w})
		}
		return out
	}
	reading := serp.Reading{Majority: intent.Learn, Settled: true, Entries: []serp.Entry{
		{Type: serp.HowTo, Words: 900, Foothold: true, Weak: weak(serp.WeakTitle, serp.WeakSmall)},
		{Type: serp.Article, Words: 500, Foothold: true, Weak: weak(serp.WeakTitle, serp.WeakStale)},
		{Type: serp.HowTo, Words: 1200, Profile: links.Profile{Strongest: []links.Referrer{
			{Site: "moonclub.example", Standing: 30}, {Site: "clearlens.example", Standing: 44},
			{Site: "nobody.example", Standing: 3}}}},
		{Type: serp.Shelf, Words: 80},
		{Type: serp.HowTo},
	}}
	by := time.Date(2027, 3, 1, 0, 0, 0, 0, time.UTC)
	got := BriefOf(Subject{Lead: "clean a barlow lens", Lang: "en", Reading: reading, Links: 2, PublishBy: by,
		Pages: []*serp.Page{
			{Title: "Barlow care", Headings: []string{"What is a Barlow lens?", "Tools",
				"Cleaning the best Barlow lenses"}, Text: "clean it safely. Safely!", Steps: 4, Prices: 3,
				Tables: []string{"cloth, price"}},
			{Headings: []string{"The tools", "Storing", "Clean a Barlow lens"}, Text: "safely, safe", Steps: 5,
				Tables: []string{"cloth, price"}}},
		Support: []string{"barlow lens cleaning", "how do you clean a barlow lens", "can you wash a barlow lens",
			"cleaning barlow lenses", "barlow lens cleaning cloth", "clean a barlow lens with a cloth made of fibre"},
		Related:   []string{"Can you wash a Barlow lens?", "What is a Barlow lens?", "Can you was a Barlow lens?"},
		Modifiers: []phrase.Modifier{{Word: "safely", Stem: phrase.Stem("safely", "en")}}})
	want := Brief{Titles: []string{"Clean a Barlow Lens", "Clean a Barlow Lens: With a Cloth Made of Fibre",
		"Clean a Barlow Lens: Step by Step"},
		Kind: serp.HowTo, Words: 900, Least: 500, Most: 1200, Links: 2, PublishBy: by,
		Questions: []Heading{{"can you wash a barlow lens", 0}, {"what is a barlow lens", 1}},
		Headings:  []Heading{{"The tools", 2}}, Mention: []Mention{{"safely", 2}}, Read: 2,
		Lack: []string{"the phrase in the title (2 of the 2 weakest pages on page one lack it)",
			"a recent date (1 of the 2 weakest pages on page one lack it)"},
		Facts: []string{"a table (2 of 2 pages have it)", "a list of steps (2 of 2 pages have it)",
			"a table of: cloth, price (2 of 2)"},
		Linkers: []string{"clearlens.example", "moonclub.example"},
		Because: "of 5 results, 3 how-tos; 4 answer what most of them do, and the middle one of these has 900 words"}
	got.spelt = nil // see TestTitles
	if !reflect.DeepEqual(got, want) {
		t.Errorf("got  %+v\nwant %+v", got, want)
	}
	if one := BriefOf(Subject{Lead: "paint an éclair", Lang: "en"}); one.Titles[0] != "Paint an Éclair" {
		t.Errorf("%q", one.Titles)
	}
	if none := BriefOf(Subject{Lead: "élan", Lang: "fr"}); none.Titles[0] != "Élan" || none.Words != 0 ||
		!strings.HasPrefix(none.Because, "there are no results") {
		t.Errorf("without results: %+v", none)
	}
}

// A heading answers a question when it says what the question says, whatever says nothing around it.
func TestHaving(t *testing.T) {
	for _, c := range []struct {
		q, heading string
		want       int
	}{
		{"what magnification do i need to see saturn", "What Magnification for Saturn", 1},
		{"what is a barlow lens", "Clean a Barlow lens", 0},
		{"what is a barlow lens", "The Barlow lens", 1},
		{"how to see saturn", "Saturn moons", 0},
		{"where is saturn tonight", "Saturn", 0},
		{"", "Saturn", 0},
	} {
		texts := readTexts(Subject{Lang: "en", Pages: []*serp.Page{{Headings: []string{c.heading}}}})
		if got := having(c.q, "en", texts); got != c.want {
			t.Errorf("%q has %d headings of %q", c.q, got, c.heading)
		}
	}
}

func TestBesideTheSubject(t *testing.T) {
	for _, c := range []struct {
		lead, q string
		want    bool
	}{
		{"best telescope for beginners", "is baking good for beginners", true},
		{"good telescope for beginners", "is baking good for beginners", true},
		{"best telescope for beginners", "is a telescope good for beginners", false},
		{"best small telescope for viewing saturn", "how far away is saturn", false},
		{"how to see saturn", "can you see saturn with binoculars", false},
		{"how to see saturn", "which planet has rings", false},
		{"telescope", "", false},
	} {
		if got := besideTheSubject(c.lead, c.q, "en"); got != c.want {
			t.Errorf("%s beside %s: %v", c.q, c.lead, got)
		}
	}
}
