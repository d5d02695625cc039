package briefs

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"
	"unicode"

	"cleverniche/core/phrase"
	"cleverniche/core/plan"
	"cleverniche/core/serp"
	"cleverniche/core/sieve"
	"cleverniche/store"
	"cleverniche/study/articles"
	"cleverniche/study/input"
	"cleverniche/study/niches"
	"cleverniche/study/results"
	"cleverniche/study/topics"
)

// Section is a part of a brief: lines of text under a name, in words that every writer knows.
type Section struct {
	Key, Name string
	Lines     []string
	Edited    bool
	Asked     []string // as they were proposed
	Now       []string // as the results would have it now, where that is something else
}

// Brief is what a writer gets for one article.
type Brief struct {
	Article  articles.Article
	Lang     string
	Title    string
	Sections []Section
	Because  string
	Unread   string // why some of it is missing; "" when nothing is
	Made     time.Time
	Drawn    time.Time // since when it is as it is; zero is anew each time
}

// The keys of the sections that hold more than a list.
const (
	sectionTitle    = "title"
	sectionHeadings = "headings"
	sectionNote     = "note"
)

// MostSection is how long an edited section of a brief is at most, in characters.
const MostSection = 8000

// Of writes the brief of the topic that an idea is in, with what was edited.
func (s *Writer) Of(ctx context.Context, n niches.Niche, t *topics.Topics, one topics.Topic) (Brief, error) {
	articles, err := s.planner.Read(ctx, n, t, []topics.Topic{one})
	if err != nil {
		return Brief{}, err
	}
	a := articles[0]
	out := Brief{Article: a, Lang: n.Language, Made: s.planner.Now()}
	ev, err := s.results.Evidence(ctx, n, a.ID)
	switch {
	case errors.Is(err, input.ErrNotFound):
		out.Unread = "Look up the lead phrase to fill this brief."
	case errors.Is(err, results.ErrUnreadable):
		out.Unread = results.Unreadable(err)
	case err != nil:
		return out, err
	}
	pages, missing, err := s.pagesOf(ctx, ev.Reading)
	if err != nil {
		return out, err
	}
	if missing > 0 {
		out.Unread = fmt.Sprintf("%d of the top ten pages are not stored. Look up the lead phrase again.", missing)
	}
	subject := plan.Subject{Lead: a.Lead(), Related: ev.Results.Related, Lang: n.Language, Reading: ev.Reading,
		Pages: pages, Links: ev.Verdict.Links, PublishBy: a.Schedule.Due, Elsewhere: elsewhere(t, one)}
	var searched []phrase.Searched
	for _, idea := range a.Ideas {
		if idea.ID != a.ID {
			subject.Support = append(subject.Support, idea.Phrase)
			searched = append(searched, phrase.Searched{Phrase: idea.Phrase, Searches: max(0, idea.Searches)})
		}
	}
	searched = append(searched, about(t, a.Lead())...)
	subject.Modifiers = usefulModifiers(phrase.Modifiers(a.Lead(), searched, n.Language), n.Language)
	b := plan.BriefOf(subject)
	out.Because = b.Because
	out.Sections = draft{n, t, a, b, ev}.sections()
	if a.State() != plan.None {
		if err := s.hold(ctx, n, &out); err != nil {
			return out, err
		}
	}
	out.edit(a.Decided.Brief)
	out.Sections = slices.DeleteFunc(out.Sections, func(s Section) bool {
		return s.Key == "length" && len(s.Lines) == 0 && !s.Edited
	})
	for _, section := range out.Sections {
		if section.Key == sectionTitle && len(section.Lines) > 0 {
			out.Title = section.Lines[0]
		}
	}
	if out.Title == "" { // it was edited away
		out.Title = a.Name
	}
	return out, nil
}

// elsewhere tells which phrases other articles of the plan answer.
func elsewhere(t *topics.Topics, one topics.Topic) func(string) bool {
	lang, keys := t.Niche.Language, map[string]bool{}
	for _, other := range t.List {
		if other.At != one.At && other.State() != plan.None {
			for _, idea := range other.Ideas {
				keys[phrase.VariantKey(idea.Phrase, lang)] = true
			}
		}
	}
	return func(p string) bool { return keys[phrase.VariantKey(phrase.Normal(p), lang)] }
}

// Of how many ideas about the same thing one looks for words to mention, and by how many of a lead's words
// they are found.
const (
	mostAbout = 300
	mostTerms = 4
)

// about lists the most searched ideas of the niche that say two of a phrase's content words, or the only
// one: what else they say belongs to the subject.
func about(t *topics.Topics, lead string) (out []phrase.Searched) {
	var terms []string
	lang := t.Niche.Language
	for _, w := range phrase.Words(lead) {
		if !phrase.IsFunctionWord(w, lang) && !plan.Praises(w, lang) && !slices.Contains(terms, w) && len(terms) < mostTerms {
			terms = append(terms, w)
		}
	}
	seen := map[string]bool{}
	look := func(words ...string) {
		filters := []sieve.Filter{sieve.NotDropped()}
		for _, w := range words {
			filters = append(filters, sieve.Holding(sieve.ByHolding, w))
		}
		for _, p := range t.From.Pass(sieve.Sieve{Filters: filters}).Searched(mostAbout) {
			if !seen[p.Phrase] {
				seen[p.Phrase] = true
				out = append(out, p)
			}
		}
	}
	for i, a := range terms {
		for _, b := range terms[i+1:] {
			look(a, b)
		}
	}
	if len(terms) == 1 {
		look(terms[0])
	}
	return out
}

// usefulModifiers are those that more than one phrase says, or that somebody searches, and that say something
// of a subject.
func usefulModifiers(list []phrase.Modifier, lang string) []phrase.Modifier {
	return slices.DeleteFunc(list, func(m phrase.Modifier) bool {
		return m.Searches < 1 && m.Ideas < 2 || len([]rune(m.Word)) < 2 ||
			plan.Praises(m.Word, lang) || phrase.IsLight(m.Word, lang) || phrase.Asks(m.Stem, lang) ||
			phrase.IsFunctionWord(m.Word, lang) || phrase.Ahead(m.Word, lang) == "" || m.Word == "between" ||
			!strings.ContainsFunc(m.Word, unicode.IsLetter) ||
			phrase.Has(phrase.Shapes(m.Word, lang), phrase.Buying)
	})
}

// pagesOf reads the pages of the ten that are at hand, however old; missing is how many are not.
func (s *Writer) pagesOf(ctx context.Context, r serp.Reading) (out []*serp.Page, missing int, err error) {
	for _, e := range r.Ten() {
		p, err := s.results.PageAtHand(ctx, e.URL)
		if err != nil {
			return nil, 0, err
		}
		if p == nil {
			missing++
			continue
		}
		out = append(out, p)
	}
	return out, missing, nil
}

func splitLines(text string) (out []string) {
	for _, l := range strings.Split(text, "\n") {
		if l = strings.TrimSpace(l); l != "" {
			out = append(out, l)
		}
	}
	return out
}

// edit puts what was edited in the place of what was proposed.
func (b *Brief) edit(text string) {
	edits := readEdits(text)
	for i := range b.Sections {
		if e, some := edits[b.Sections[i].Key]; some {
			b.Sections[i].Lines, b.Sections[i].Edited = splitLines(e), true
		}
	}
}

// tidy is a text without what no one can see.
func tidy(text string) string { return strings.Join(splitLines(text), "\n") }

func readEdits(text string) map[string]string {
	out := map[string]string{}
	if text != "" && json.Unmarshal([]byte(text), &out) != nil {
		return map[string]string{}
	}
	return out
}

// Edit edits a section of a brief, or with nil takes the proposal again. The topic's ideas are held
// together from then on. was is what the section was for who edits it, nil whatever it is: where somebody else edited
// it meanwhile, an *input.Error says so.
func (s *Writer) Edit(ctx context.Context, n niches.Niche, id uint, key string, was, text *string) error {
	if text != nil {
		clean := strings.TrimSpace(strings.ReplaceAll(*text, "\r\n", "\n"))
		if k := len([]rune(clean)); k > MostSection {
			return input.Bad("text", "The text has %d characters, more than %d.", k, MostSection)
		}
		text = &clean
	}
	return s.topics.EditOne(ctx, n, "Editing a brief", id, func(_ *topics.Hands, _ topics.Topic,
		r *store.TopicEdit) error {
		edits := readEdits(r.Brief)
		now, edited := edits[key]
		if key == sectionNote {
			now, edited = r.Note, r.Note != ""
		}
		if edited && was != nil && tidy(now) != tidy(*was) && (text == nil || tidy(now) != tidy(*text)) {
			return input.Bad("text", "This has changed since, perhaps in another tab. That version: “%s”.", now)
		}
		if key == sectionNote && text != nil {
			r.Note = *text
			return nil
		}
		delete(edits, key)
		if text != nil {
			edits[key] = *text
		}
		r.Brief = ""
		if len(edits) == 0 {
			return nil
		}
		body, err := json.Marshal(edits)
		r.Brief = string(body)
		return err
	})
}

// All writes the briefs of all that is to write or being written.
func (s *Writer) All(ctx context.Context, n niches.Niche) (out []Brief, err error) {
	sheet, err := s.planner.Plan(ctx, n)
	if err != nil {
		return nil, err
	}
	for _, a := range sheet.Articles {
		if a.Gone || a.State() == plan.Published {
			continue
		}
		b, err := s.Of(ctx, n, sheet.Topics, a.Topic)
		if err != nil {
			return nil, err
		}
		out = append(out, b)
	}
	return out, nil
}

// AddHeadings puts subheadings behind those of the brief of an idea's topic, which are the editor's own from then on.
// What is there already is left out.
func (s *Writer) AddHeadings(ctx context.Context, n niches.Niche, t *topics.Topics, id uint, texts []string) error {
	one, err := t.Of(id)
	if errors.Is(err, input.ErrNotFound) {
		return input.Bad("heading", "Keep this idea first: its brief comes with its topic.")
	}
	if err != nil {
		return err
	}
	b, err := s.Of(ctx, n, t, one)
	if err != nil {
		return err
	}
	at := slices.IndexFunc(b.Sections, func(s Section) bool { return s.Key == sectionHeadings })
	was := strings.Join(b.Sections[at].Lines, "\n")
	lines := slices.Clone(b.Sections[at].Lines)
	for _, text := range texts {
		text = capital(topics.OneLine(text))
		there := func(l string) bool { return strings.HasPrefix(strings.ToLower(l), strings.ToLower(text)) }
		if text != "" && !slices.ContainsFunc(lines, there) {
			lines = append(lines, text)
		}
	}
	text := strings.Join(lines, "\n")
	if text == was {
		return nil
	}
	return s.Edit(ctx, n, one.ID, sectionHeadings, &was, &text)
}
