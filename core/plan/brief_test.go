package plan

import (
	"reflect"
	"strings"
	"testing"
	"time"

	"cleverniche/core/intent"
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
		{Type: serp.HowTo, Words: 1200},
		{Type: serp.Shelf, Words: 80},
		{Type: serp.HowTo},
	}}
	by := time.Date(2027, 3, 1, 0, 0, 0, 0, time.UTC)
	got := BriefOf(Subject{Lead: "clean a barlow lens", Lang: "en", Reading: reading, Links: 2, PublishBy: by,
		Siblings: []string{"store a lens"},
		Support: []string{"barlow lens cleaning", "how do you clean a barlow lens", "can you wash a barlow lens",
			"cleaning barlow lenses"},
		Related:   []string{"Can you wash a Barlow lens?", "What is a Barlow lens?"},
		Modifiers: []phrase.Modifier{{Word: "safely"}, {Word: "home"}}})
	want := Brief{Title: "Clean a barlow lens", Kind: serp.HowTo, Words: 900, Links: 2, PublishBy: by,
		Siblings:  []string{"store a lens"},
		Questions: []string{"can you wash a barlow lens", "what is a barlow lens"}, Mention: []string{"safely", "home"},
		Lack:    []string{"the phrase in the title (2 of 2 footholds lack it)", "a recent date (1 of 2 footholds lack it)"},
		Because: "of 5 results, 3 how-tos; 4 answer what most of them do, and the middle one of these has 900 words"}
	if !reflect.DeepEqual(got, want) {
		t.Errorf("got  %+v\nwant %+v", got, want)
	}
	if none := BriefOf(Subject{Lead: "élan", Lang: "fr"}); none.Title != "Élan" || none.Words != 0 ||
		!strings.HasPrefix(none.Because, "there are no results") {
		t.Errorf("without results: %+v", none)
	}
}
