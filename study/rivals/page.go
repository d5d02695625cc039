package rivals

import (
	"context"

	"cleverniche/core/phrase"
	"cleverniche/market"
	"cleverniche/study/ask"
	"cleverniche/study/ideas"
	"cleverniche/study/input"
	"cleverniche/study/niches"
)

// PageRanks is what one page ranks for, as far as somebody told.
type PageRanks struct {
	URL       string
	Known     bool // somebody was asked
	Asked     ask.Asked[market.Ranks]
	Phrases   []Phrase
	Modifiers []phrase.Modifier // what they add to the phrase of the idea
	New       int               // that are no ideas yet
	Cost      string            // of asking; "" where nobody can be asked
}

// Phrase is one that somebody ranks for, and the idea that it is.
type Phrase struct {
	market.Rank
	Idea uint // 0 none
}

// mostOfPage is how many phrases of a page are asked for.
const mostOfPage = 200

func ofPage(url string) market.RanksAsked {
	return market.RanksAsked{Target: market.Target{Name: url, Scope: market.OnePage}, Limit: mostOfPage}
}

// Page is what a page is known to rank for; nobody is asked. of is the phrase that brought one there.
func (s *Scout) Page(ctx context.Context, n niches.Niche, b ideas.Table, url, of string) (out PageRanks, err error) {
	out.URL = url
	if s.asker.Has(ask.Rankings) {
		out.Cost = s.asker.Money(s.asker.Price(ask.Rankings))
	}
	out.Asked, out.Known, err = s.asker.RanksAtHand(ctx, ofPage(url), n.Locale())
	if err != nil || !out.Known {
		return out, err
	}
	var searched []phrase.Searched
	for _, r := range out.Asked.Value.List {
		one := Phrase{Rank: r}
		if ids := b.Named(phrase.Normal(r.Phrase)); len(ids) > 0 {
			one.Idea = ids[0]
		} else {
			out.New++
		}
		out.Phrases = append(out.Phrases, one)
		with := phrase.Searched{Phrase: phrase.Normal(r.Phrase)}
		if r.Searches != nil {
			with.Searches = float64(*r.Searches)
		}
		searched = append(searched, with)
	}
	out.Modifiers = phrase.Modifiers(of, searched, n.Language)
	return out, nil
}

// AskPage asks what a page ranks for.
func (s *Scout) AskPage(ctx context.Context, n niches.Niche, url string) error {
	_, err := s.asker.Ranks(ctx, ofPage(url), n.Locale())
	return err
}

// TakeFromPage makes ideas of phrases that a page ranks for. It returns how many are new.
func (s *Scout) TakeFromPage(ctx context.Context, n niches.Niche, url string, phrases []string) (int, error) {
	kept, ok, err := s.asker.RanksAtHand(ctx, ofPage(url), n.Locale())
	if err != nil {
		return 0, err
	}
	if !ok {
		return 0, input.Bad("phrases", "What this page ranks for is not known yet. Ask first.")
	}
	return s.take(ctx, n, url, kept.Value.List, phrases)
}

// take makes ideas of those phrases that are in a list, or of all with none named.
func (s *Scout) take(ctx context.Context, n niches.Niche, from string, list []market.Rank, phrases []string) (int,
	error) {
	chosen := map[string]bool{}
	for _, p := range phrases {
		chosen[p] = true
	}
	var out []string
	for _, r := range list {
		if len(phrases) == 0 || chosen[r.Phrase] {
			out = append(out, r.Phrase)
		}
	}
	if len(out) == 0 {
		return 0, input.Bad("phrases", "Tick at least one phrase.")
	}
	return s.gatherer.AddRanked(ctx, n, from, out)
}
