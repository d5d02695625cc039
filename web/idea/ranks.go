package idea

import (
	"fmt"
	"net/url"
	"strings"

	"cleverniche/core/phrase"
	"cleverniche/core/serp"
	"cleverniche/study/ask"
	"cleverniche/study/input"
	"cleverniche/study/rivals"
	"cleverniche/web/frame"
)

// ranksPage is what one result of an idea ranks for beside.
type ranksPage struct {
	frame.Page
	Idea     uint
	Phrase   string
	Place    int
	Choices  []serp.Entry
	Ranks    rivals.PageRanks
	Says     string
	Modifier string // the word that the phrases shown hold; "" all
	Shown    []rivals.Phrase
	Words    []phrase.Modifier
	None     string // what to do where nobody can be asked
}

// mostModifiers is how many words are offered.
const mostModifiers = 16

// showRanks shows what a result ranks for.
func showRanks(r *frame.Request) error {
	d, e, err := resultAt(r)
	if err != nil {
		return err
	}
	b, err := r.Table()
	if err != nil {
		return err
	}
	v := ranksPage{Idea: d.Idea.ID, Phrase: d.Idea.Phrase, Place: e.Position, Choices: d.Evidence.Reading.Ten(),
		Modifier: r.Query("word")}
	if v.Ranks, err = r.Study.Rivals.Page(r.Context(), r.Niche, b, e.URL, d.Idea.Phrase); err != nil {
		return err
	}
	if v.Ranks.Cost == "" && !v.Ranks.Known {
		v.None = (&ask.MissingSourceError{Question: ask.Rankings}).Error()
	}
	v.Words = v.Ranks.Modifiers[:min(mostModifiers, len(v.Ranks.Modifiers))]
	for _, p := range v.Ranks.Phrases {
		if v.Modifier == "" || holds(p.Phrase, v.Modifier, r.Niche.Language) {
			v.Shown = append(v.Shown, p)
		}
	}
	v.Says = ranksWords(v.Ranks)
	if v.Page, err = r.Page("What no. "+fmt.Sprint(v.Place)+" ranks for: "+d.Idea.Phrase, "judge", -1); err != nil {
		return err
	}
	return r.Render("idea/ranks", v)
}

// holds reports whether a phrase says a word, in any of its forms.
func holds(text, word, lang string) bool {
	stem := phrase.Stem(word, lang)
	for _, w := range phrase.Words(phrase.Normal(text)) {
		if phrase.Stem(w, lang) == stem {
			return true
		}
	}
	return false
}

// ranksWords says what a page ranks for as a whole.
func ranksWords(p rivals.PageRanks) string {
	if !p.Known {
		return ""
	}
	if len(p.Phrases) == 0 {
		return "The service knows no phrase that this page ranks for. It does not follow every phrase."
	}
	first, visits, unknown := 0, 0.0, 0
	for _, one := range p.Phrases {
		if one.Place <= serp.FirstPage {
			first++
		}
		if one.Visits != nil {
			visits += *one.Visits
		} else {
			unknown++
		}
	}
	out := fmt.Sprintf("It ranks for %d %s, on page one for %d, and gets about %.0f visits a month by that.",
		p.Asked.Value.Total, frame.Plural(p.Asked.Value.Total, "phrase", "phrases"), first, visits)
	if unknown > 0 {
		out += fmt.Sprintf(" Of %d the visits are not known.", unknown)
	}
	return out
}

// resultAt is the result of an idea whose place the address names.
func resultAt(r *frame.Request) (d View, e serp.Entry, err error) {
	if d, err = looked(r); err != nil {
		return d, e, err
	}
	place := r.Query("place")
	if place == "" {
		place = r.FormValue("place")
	}
	for _, one := range d.Evidence.Reading.Entries {
		if fmt.Sprint(one.Position) == place {
			return d, one, nil
		}
	}
	return d, e, input.ErrNotFound
}

func ranksAddress(r *frame.Request, d View, e serp.Entry) string {
	return r.Path(fmt.Sprint("ideas/", d.Idea.ID, "/ranks")) + "?" +
		url.Values{"place": {fmt.Sprint(e.Position)}}.Encode()
}

// askRanks asks what a result ranks for.
func askRanks(r *frame.Request) error {
	d, e, err := resultAt(r)
	if err != nil {
		return err
	}
	if err := r.Study.Rivals.AskPage(r.Context(), r.Niche, e.URL); err != nil {
		return err
	}
	return r.To(ranksAddress(r, d, e))
}

// takeRanks makes ideas, or subheadings of the brief, of the phrases that were ticked.
func takeRanks(r *frame.Request) error {
	d, e, err := resultAt(r)
	if err != nil {
		return err
	}
	chosen := r.Posted("phrase")
	if len(chosen) == 0 {
		return input.Bad("phrases", "Tick at least one phrase.")
	}
	if r.FormValue("do") == "headings" {
		err = addHeadings(r, d.Idea.ID, chosen)
	} else {
		_, err = r.Study.Rivals.TakeFromPage(r.Context(), r.Niche, e.URL, chosen)
	}
	if err != nil {
		return err
	}
	return r.To(ranksAddress(r, d, e))
}

// addHeading makes a question around an idea a subheading of its brief.
func addHeading(r *frame.Request) error {
	id, err := r.ID("idea")
	if err != nil {
		return err
	}
	text := strings.TrimSpace(r.FormValue("heading"))
	if text == "" || len([]rune(text)) > mostHeading {
		return input.Bad("heading", "A subheading has 1 to %d characters.", mostHeading)
	}
	if err := addHeadings(r, id, []string{text}); err != nil {
		return err
	}
	return r.To(r.Path(fmt.Sprint("briefs/", id)))
}

// mostHeading is how long a subheading may be, in characters.
const mostHeading = 200

func addHeadings(r *frame.Request, id uint, texts []string) error {
	t, err := r.Topics()
	if err != nil {
		return err
	}
	return r.Study.Briefs.AddHeadings(r.Context(), r.Niche, t, id, texts)
}
