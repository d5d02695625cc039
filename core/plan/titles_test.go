package plan

import (
	"slices"
	"strings"
	"testing"

	"cleverniche/core/serp"
)

// ten is a results page of these titles.
func ten(titles ...string) (r serp.Reading) {
	for _, t := range titles {
		r.Entries = append(r.Entries, serp.Entry{Title: t, Type: serp.Article})
	}
	return r
}

// TestTitles: a proposal says the lead, and nothing twice; names are written as the pages write them.
func TestTitles(t *testing.T) {
	saturn := &serp.Page{Text: "In the evening Saturn stands low. You see Saturn best at night, and Saturn has rings. " +
		"Find Saturn Yourself"}
	for _, c := range []struct {
		subject Subject
		want    string
	}{
		{Subject{Lead: "how to find saturn", Reading: ten("Saturn tonight", "Find Saturn", "Saturn"),
			Pages:   []*serp.Page{saturn},
			Support: []string{"seeing saturn in the city", "can you see saturn in the city"}},
			"How to Find Saturn | How to Find Saturn: Seeing It in the City | " +
				"How to Find Saturn: Can You See It in the City?"},
		{Subject{Lead: "how far away is saturn", Reading: ten("Saturn", "How far is Saturn?", "About Saturn"),
			Support: []string{"how far is saturn from earth"}, Related: []string{"how far away is jupiter"}},
			"How Far Away Is Saturn? | How Far Away Is Saturn? What to Know First"},
		{Subject{Lead: "telescope vs binoculars", Reading: ten("Telescope or binoculars", "Binoculars vs telescope"),
			Support: []string{"difference between a telescope and binoculars", "telescope vs binoculars for kids"}},
			"Telescope vs Binoculars | Telescope vs Binoculars: For Kids | Telescope vs Binoculars: Which One Suits You"},
		{Subject{Lead: "cheese press leaking how to fix", Reading: ten("Cheese press leaking")},
			"Cheese Press Leaking: How to Fix It"},
		{Subject{Lead: "do you need a telescope", Reading: ten("Telescope", "Telescopes"),
			Support: []string{"what to know before buying a telescope"}},
			"Do You Need a Telescope? | Do You Need a Telescope? What to Know Before Buying One?"},
		{Subject{Lead: "diy cheese press plans", Reading: ten("Cheese press plans")}, "DIY Cheese Press Plans"},
	} {
		c.subject.Lang = "en"
		got := strings.Join(BriefOf(c.subject).Titles, " | ")
		if !strings.HasPrefix(got, c.want) {
			t.Errorf("got  %s\nwant %s", got, c.want)
		}
	}
}

// TestQuestionsAreOfTheSubject: what shares only how it is asked with the lead is asked elsewhere.
func TestQuestionsAreOfTheSubject(t *testing.T) {
	for _, c := range []struct {
		lead    string
		reading serp.Reading
		related []string
		want    []string
	}{
		{"do you really need a telescope", ten("Who needs a telescope", "Telescopes", "Is a telescope worth it"),
			[]string{"is a telescope worth it", "do you really need a cheese press"}, []string{"is a telescope worth it"}},
		{"how many moons does saturn have", ten("Saturn", "Moons of Saturn", "Saturn's moons"),
			[]string{"how many moons does jupiter have", "what are the moons of saturn"},
			[]string{"what are the moons of saturn"}},
		{"is letterpress better than engraving", ten("Letterpress or engraving", "Engraving and letterpress"),
			[]string{"which is better a telescope or binoculars", "what does letterpress cost"},
			[]string{"what does letterpress cost"}},
		{"how to print with black ink", ten("Print with black ink", "Black ink prints"),
			[]string{"why is my telescope showing nothing but black"}, nil},
	} {
		var got []string
		for _, q := range BriefOf(Subject{Lead: c.lead, Lang: "en", Reading: c.reading, Related: c.related}).Questions {
			got = append(got, q.Text)
		}
		if !slices.Equal(got, c.want) {
			t.Errorf("%s: %q", c.lead, got)
		}
	}
}

// TestOutlineSaysSomething: what may stand on any page is no part of an outline, nor is what another article answers.
func TestOutlineSaysSomething(t *testing.T) {
	page := &serp.Page{Headings: []string{"Further reading", "About Saturn", "Saturn explained", "The rings of Saturn",
		"Saturn and its moons"}}
	b := BriefOf(Subject{Lead: "how to find saturn", Lang: "en", Reading: ten("Saturn"), Pages: []*serp.Page{page, page},
		Elsewhere: func(p string) bool { return strings.Contains(p, "moons") }})
	if len(b.Headings) != 1 || b.Headings[0].Text != "The rings of Saturn" {
		t.Errorf("%+v", b.Headings)
	}
}
