package plan

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"cleverniche/core/phrase"
	"cleverniche/core/serp"
)

// Brief is what a writer needs for one article.
type Brief struct {
	Title     string // holds the lead phrase
	Kind      serp.PageType
	Also      serp.PageType // a second kind that searchers want; "" when there is none
	Words     int           // median of the ten that fit; 0 when none could be read
	Questions []string      // subheadings, in the searchers' own words
	Mention   []string      // modifiers
	Lack      []string      // what the footholds lack, that this article should have
	Siblings  []string      // leads of articles to link to and from
	Links     int           // solid links to aim for
	PublishBy time.Time
	Because   string // what length and kind were told from
}

// Subject is what a brief is made of.
type Subject struct {
	Lead      string   // normal form
	Support   []string // the topic's other phrases
	Related   []string // questions that the engine shows beside the results
	Lang      string
	Reading   serp.Reading
	Modifiers []phrase.Modifier
	Siblings  []string
	Links     int
	PublishBy time.Time
}

// How much goes into a brief.
const (
	mostQuestions = 8
	mostMentions  = 12
)

// BriefOf writes the brief.
func BriefOf(s Subject) Brief {
	b := Brief{Title: titled(s.Lead), Siblings: slices.Clone(s.Siblings), Links: s.Links, PublishBy: s.PublishBy}
	var fitting []serp.Entry
	advice := s.Reading.Article()
	b.Kind, b.Also = advice.Kind, advice.Also
	for _, e := range s.Reading.Ten() {
		if e.Type.Want() == s.Reading.Majority {
			fitting = append(fitting, e)
		}
	}
	var lengths []int
	for _, e := range fitting {
		if e.Words > 0 {
			lengths = append(lengths, e.Words)
		}
	}
	if n := len(lengths); n > 0 {
		slices.Sort(lengths)
		b.Words = (lengths[(n-1)/2] + lengths[n/2]) / 2
	}
	b.Because = fmt.Sprintf("%s; %d answer what most of them do, and the middle one of these has %d words",
		advice.Because, len(fitting), b.Words)
	b.Questions = questions(s)
	for _, m := range s.Modifiers[:min(mostMentions, len(s.Modifiers))] {
		b.Mention = append(b.Mention, m.Word)
	}
	b.Lack = lacks(s.Reading)
	return b
}

// titled sets the first letter in capitals: the rest stays as people type it.
func titled(lead string) string {
	for i, r := range lead {
		return strings.ToUpper(string(r)) + lead[i+len(string(r)):]
	}
	return lead
}

// questions are the topic's phrases that ask, and those the engine shows, without
// variants of one another.
func questions(s Subject) []string {
	var out []string
	seen := map[string]bool{phrase.VariantKey(s.Lead, s.Lang): true}
	for _, q := range slices.Concat(s.Support, s.Related) {
		q = phrase.Normal(q)
		key := phrase.VariantKey(q, s.Lang)
		if seen[key] || !phrase.Has(phrase.Shapes(q, s.Lang), phrase.Question) {
			continue
		}
		seen[key] = true
		if out = append(out, q); len(out) == mostQuestions {
			break
		}
	}
	return out
}

// lackWords say what a weak reason means for whoever writes against it. Weaknesses of
// a site are no advice for an article.
var lackWords = []struct {
	weak serp.Weakness
	say  string
}{
	{serp.WeakTitle, "the phrase in the title"},
	{serp.WeakElse, "an answer to just this"},
	{serp.WeakThin, "enough text"},
	{serp.WeakStale, "a recent date"},
}

// lacks counts what the footholds of the ten are weak in.
func lacks(r serp.Reading) []string {
	var out []string
	for _, l := range lackWords {
		n, all := 0, 0
		for _, e := range r.Ten() {
			if !e.Foothold {
				continue
			}
			all++
			if e.Has(l.weak) {
				n++
			}
		}
		if n > 0 {
			out = append(out, fmt.Sprintf("%s (%d of %d footholds lack it)", l.say, n, all))
		}
	}
	return out
}
