package gather

import (
	"cmp"
	"context"
	"errors"
	"slices"
	"strings"
	"sync"

	"cleverniche/core/about"
	"cleverniche/core/phrase"
	"cleverniche/core/sieve"
	"cleverniche/core/topic"
	"cleverniche/market"
	"cleverniche/market/thesaurus"
	"cleverniche/study/ask"
	"cleverniche/study/ideas"
	"cleverniche/study/input"
	"cleverniche/study/niches"
)

// OtherWords are other words for a phrase.
type OtherWords struct {
	Of      string
	Senses  []Sense
	Same    []ideas.Idea // in other words, with the same results
	Titles  []about.Term // what titles of its results say, and it does not
	Missing string       // why there is nothing of a thesaurus, in words that end a sentence; "" there may be
	Judged  bool         // its results are known
}

// Sense is a meaning of a word of the phrase, with what the phrase becomes in other words.
type Sense struct {
	Word, Kind string
	Phrases    []string
}

// Bounds of what is offered (ours).
const (
	mostReworded = 12 // of a word and its kind
	mostSame     = 30
	mostTogether = 3 // words that are looked up as one
)

// thesauri are opened once, by their languages.
type thesauri struct {
	folder string
	mu     sync.Mutex
	of     map[string]*thesaurus.Thesaurus
}

func (t *thesauri) in(lang string) (*thesaurus.Thesaurus, error) {
	t.mu.Lock()
	defer t.mu.Unlock()
	if open := t.of[lang]; open != nil {
		return open, nil
	}
	if t.folder == "" {
		return nil, thesaurus.ErrNone
	}
	open, err := thesaurus.Open(t.folder, lang)
	if err != nil {
		return nil, err
	}
	if t.of == nil {
		t.of = map[string]*thesaurus.Thesaurus{}
	}
	t.of[lang] = open
	return open, nil
}

// OtherWords looks for other words for a phrase: in a thesaurus, and among ideas whose results are the same.
func (s *Gatherer) OtherWords(ctx context.Context, n niches.Niche, text string) (o OtherWords, err error) {
	if o.Of, err = phrase.Parse(text); err != nil {
		return o, input.Bad("of", "%s", input.Sentence(err.Error()))
	}
	switch t, err := s.thesauri.in(n.Language); {
	case errors.Is(err, thesaurus.ErrNone):
		o.Missing = err.Error()
	case err != nil:
		o.Missing = "the thesaurus cannot be read: " + err.Error()
	default:
		if o.Senses, err = reworded(t, o.Of, n.Language); err != nil {
			o.Missing = "the thesaurus cannot be read: " + err.Error()
		}
	}
	if o.Same, o.Judged, err = s.sameResults(ctx, n, o.Of); err != nil {
		return o, err
	}
	o.Titles, err = s.inTitles(ctx, n, o.Of)
	return o, err
}

// inTitles are the phrases that two titles or more of a phrase's kept results say, and that say something which the
// phrase does not.
func (s *Gatherer) inTitles(ctx context.Context, n niches.Niche, normal string) (out []about.Term, err error) {
	kept, ok, err := ask.Recall[market.Results](ctx, s.asker, ask.Results, s.asker.ResultsKey(normal, n.Locale(), n.Depth))
	if err != nil || !ok {
		return nil, err
	}
	var titles []about.Page
	for _, o := range kept.Value.Organic {
		titles = append(titles, about.Page{Title: o.Title})
	}
	own := phrase.ContentStems(normal, n.Language)
	for _, t := range about.Terms(titles, n.Language, mostTerms) {
		other := slices.ContainsFunc(phrase.ContentStems(t.Phrase, n.Language), func(stem string) bool {
			return !slices.Contains(own, stem)
		})
		if other && t.Pages > 1 && len(out) < mostReworded {
			out = append(out, t)
		}
	}
	return out, nil
}

// reworded puts what a thesaurus has for words of a phrase in their places: for several words together first.
func reworded(t *thesaurus.Thesaurus, normal, lang string) (out []Sense, err error) {
	words := strings.Fields(normal)
	var done [][2]int
	for size := min(mostTogether, len(words)); size > 0; size-- {
		for from := 0; from+size <= len(words); from++ {
			part := words[from : from+size]
			covered := slices.ContainsFunc(done, func(d [2]int) bool { return from >= d[0] && from+size <= d[1] })
			if covered || size == 1 && (phrase.IsFunctionWord(part[0], lang) || phrase.IsLight(part[0], lang)) {
				continue
			}
			entry := strings.Join(part, " ")
			for _, plural := range []string{"s", "es"} { // of many words, in several languages
				if one := strings.TrimSuffix(entry, plural); !t.Has(entry) && t.Has(one) {
					entry = one
				}
			}
			meanings, err := t.Meanings(entry)
			if err != nil {
				return out, err
			}
			if len(meanings) > 0 {
				done = append(done, [2]int{from, from + size})
			}
			for _, m := range meanings {
				out = withSense(out, m, entry, words, from, size)
			}
		}
	}
	return out, nil
}

// withSense adds a meaning to those of the same kind of the same words. What is wider than the word, or its opposite,
// is no other word for it.
func withSense(list []Sense, m thesaurus.Meaning, entry string, words []string, from, size int) []Sense {
	at := slices.IndexFunc(list, func(s Sense) bool { return s.Word == entry && s.Kind == m.Kind })
	sense := Sense{Word: entry, Kind: m.Kind}
	if at >= 0 {
		sense = list[at]
	}
	same := strings.Join(words, " ")
	for _, w := range m.Words {
		if w.Note != "" && w.Note != "similar term" {
			continue
		}
		p, err := phrase.Parse(strings.Join(slices.Concat(words[:from], []string{w.Text}, words[from+size:]), " "))
		if err == nil && p != same && !slices.Contains(sense.Phrases, p) && len(sense.Phrases) < mostReworded {
			sense.Phrases = append(sense.Phrases, p)
		}
	}
	switch {
	case at >= 0:
		list[at] = sense
	case len(sense.Phrases) > 0:
		list = append(list, sense)
	}
	return list
}

// sameResults are ideas in other words whose results are the same as a phrase's, where both were looked up: those that
// share most first. judged is false where the phrase's own are not known.
func (s *Gatherer) sameResults(ctx context.Context, n niches.Niche, normal string) (out []ideas.Idea, judged bool,
	err error) {
	b, err := s.ideas.Table(ctx, n)
	if err != nil {
		return nil, false, err
	}
	founds, err := s.ideas.Founds(ctx, n)
	at, there := b.Table.Matching(normal)
	if err != nil || !there {
		return nil, false, err
	}
	mine, judged := founds.Of[b.Table.ID(at)]
	if !judged {
		return nil, false, nil
	}
	type near struct {
		id     uint
		shared int
	}
	var list []near
	key := phrase.VariantKey(normal, n.Language)
	for id, other := range founds.Of {
		at, there := b.Table.Find(id)
		if !there || phrase.VariantKey(b.Table.Phrase(at), n.Language) == key {
			continue
		}
		shared := 0
		for _, page := range other.Results {
			if slices.Contains(mine.Results, page) {
				shared++
			}
		}
		if shared >= topic.Shared && !b.Table.Lets(at, sieve.OnlyDecided(sieve.Dropped)) {
			list = append(list, near{id, shared})
		}
	}
	slices.SortFunc(list, func(a, b near) int { return cmp.Or(b.shared-a.shared, cmp.Compare(a.id, b.id)) })
	var ids []uint
	for _, one := range list[:min(len(list), mostSame)] {
		ids = append(ids, one.id)
	}
	out, err = s.ideas.Ideas(ctx, n.ID, ids)
	return out, true, err
}
