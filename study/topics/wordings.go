package topics

import (
	"context"
	"fmt"
	"slices"
	"sort"
	"strings"

	"cleverniche/core/phrase"
	"cleverniche/core/sieve"
	"cleverniche/study/ideas"
	"cleverniche/study/niches"
)

// Wording is another wording of an idea, with what is known of it.
type Wording struct {
	Idea     uint
	Phrase   string
	Words    int
	Relation phrase.Relation
	Searches float64 // −1 not known
	Under    bool    // too rare for their source to measure
	// Difficulty, and the visits a month that my page would get; −1 where it is not looked up.
	Difficulty, Visits float64
	One                bool // one article answers both
}

// Wordings are an idea and what is a word away from it.
type Wordings struct {
	Self   Wording
	Others []Wording // by relation, then by searches
	Longer string    // whether longer is easier here
	Title  string    // which wording belongs into the title, and why
}

// fewestLonger wordings must be looked up before it is told whether longer is easier (ours).
const fewestLonger = 3

// fewestVisits a month are worth a word (ours).
const fewestVisits = 2

// mostWordings is how many of each relation are told.
const mostWordings = 8

// Wordings are the niche's wordings that are a word more, a word less or a word exchanged away from an idea. Nobody is
// asked.
func (s *Grouper) Wordings(ctx context.Context, n niches.Niche, b ideas.Table, id uint) (out Wordings, err error) {
	at, ok := b.Table.Find(id)
	if !ok {
		return out, nil
	}
	out.Self = wordingAt(b, at, phrase.Rearrange)
	stems := phrase.ContentStems(out.Self.Phrase, n.Language)
	words := phrase.Words(out.Self.Phrase)
	near := func(text string) bool { // cheap: it says the beginning of one of the words at least
		for _, w := range words {
			if !phrase.IsFunctionWord(w, n.Language) && strings.Contains(text, w[:max(1, len(w)*2/3)]) {
				return true
			}
		}
		return false
	}
	by := map[phrase.Relation][]Wording{}
	for i := range b.Table.Len() {
		text := b.Table.Phrase(i)
		if i == at || !near(text) {
			continue
		}
		if how := phrase.RelatedStems(stems, phrase.ContentStems(text, n.Language)); how != phrase.Unrelated {
			by[how] = append(by[how], wordingAt(b, i, how))
		}
	}
	ids := []uint{id}
	for _, how := range []phrase.Relation{phrase.Rearrange, phrase.Shorter, phrase.Exchanged, phrase.Longer} {
		list := by[how]
		sort.SliceStable(list, func(i, j int) bool { return list[i].Searches > list[j].Searches })
		for _, w := range list[:min(mostWordings, len(list))] {
			out.Others = append(out.Others, w)
			ids = append(ids, w.Idea)
		}
	}
	if err := s.markOne(ctx, n, b, ids, &out); err != nil {
		return out, err
	}
	if err := s.visits(ctx, n, ids, &out); err != nil {
		return out, err
	}
	out.Longer, out.Title = out.longer(), out.title()
	return out, nil
}

func wordingAt(b ideas.Table, at int, how phrase.Relation) Wording {
	number := func(f *sieve.Figure) float64 {
		if x, known := b.Table.Number(at, f); known {
			return x
		}
		return -1
	}
	text := b.Table.Phrase(at)
	return Wording{Idea: b.Table.ID(at), Phrase: text, Words: len(phrase.Words(text)), Relation: how,
		Searches: number(sieve.Searches), Under: b.Table.Under(at, sieve.Searches), Difficulty: number(sieve.Difficulty),
		Visits: -1}
}

// visits fills in what each wording would bring a month.
func (s *Grouper) visits(ctx context.Context, n niches.Niche, ids []uint, out *Wordings) error {
	list, err := s.ideas.Ideas(ctx, n.ID, ids)
	if err != nil {
		return err
	}
	by := map[uint]float64{}
	for _, i := range list {
		if i.LookedUp() && i.Row.Searches != nil && !i.Row.Under && i.Row.ClickShare >= 0 {
			by[i.ID] = float64(*i.Row.Searches) * i.Row.ClickShare
		}
	}
	fill := func(w *Wording) {
		if v, known := by[w.Idea]; known {
			w.Visits = v
		}
	}
	fill(&out.Self)
	for i := range out.Others {
		fill(&out.Others[i])
	}
	return nil
}

// markOne marks which of the wordings one article answers with the idea itself.
func (s *Grouper) markOne(ctx context.Context, n niches.Niche, b ideas.Table, ids []uint, out *Wordings) error {
	pairs, err := s.Compare(ctx, n, b, ids)
	if err != nil {
		return err
	}
	for _, p := range pairs {
		if p.A != ids[0] || !p.One {
			continue
		}
		if i := slices.IndexFunc(out.Others, func(w Wording) bool { return w.Idea == p.B }); i >= 0 {
			out.Others[i].One = true
		}
	}
	return nil
}

// longer says whether longer wordings are easier here, of those that are looked up.
func (w Wordings) longer() string {
	if w.Self.Difficulty < 0 {
		return ""
	}
	easier, all := 0, 0
	for _, o := range w.Others {
		if o.Relation == phrase.Longer && o.Difficulty >= 0 {
			if all++; o.Difficulty < w.Self.Difficulty {
				easier++
			}
		}
	}
	switch {
	case all >= fewestLonger && 2*easier > all:
		return fmt.Sprintf("Longer is easier here: true of %d of %d longer wordings.", easier, all)
	case all >= fewestLonger:
		return fmt.Sprintf("Longer is not easier here: true of %d of %d longer wordings only.", easier, all)
	}
	return fmt.Sprintf("Longer wordings that are looked up: %d, too few to tell whether longer is easier here.", all)
}

// title says which wording belongs into the title: of those that one article answers, the one that would bring most
// visits.
func (w Wordings) title() string {
	best := w.Self
	for _, o := range w.Others {
		if o.One && o.Visits > best.Visits {
			best = o
		}
	}
	switch {
	case best.Visits < 0:
		return ""
	case best.Visits < fewestVisits:
		return "No wording that the same article answers would bring you more than a visit or two, so none is proposed for " +
			"the title."
	case best.Idea == w.Self.Idea:
		return fmt.Sprintf("Into the title: this wording. No other that the same article answers would bring more (about "+
			"%.0f visits a month).", best.Visits)
	}
	return fmt.Sprintf("Into the title: “%s”. The same article answers it, and it would bring about %.0f visits a "+
		"month instead of %.0f.", best.Phrase, best.Visits, max(0, w.Self.Visits))
}
