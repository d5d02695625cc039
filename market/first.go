package market

import (
	"context"
	"errors"

	"cleverniche/core/demand"
)

// Several sources of one question are asked in their order: the first that answers. What one refuses or cannot be
// reached for, the next is asked; what it answers, also with nothing, holds.

// FirstSuggester asks one, else another. A nil one is left out.
func FirstSuggester(a, b Suggester) Suggester {
	if a == nil {
		return b
	}
	return firstOf{suggest: []Suggester{a, b}}
}

// FirstDemander asks one, else another. A nil one is left out.
func FirstDemander(a, b Demander) Demander {
	if a == nil {
		return b
	}
	return firstOf{demand: []Demander{a, b}}
}

// FirstSearcher asks one, else another. A nil one is left out.
func FirstSearcher(a, b Searcher) Searcher {
	if a == nil {
		return b
	}
	return firstOf{search: []Searcher{a, b}}
}

type firstOf struct {
	suggest []Suggester
	demand  []Demander
	search  []Searcher
}

// first returns the first answer; where none comes, all errors.
func first[S, T any](ctx context.Context, sources []S, ask func(S) (T, error)) (out T, err error) {
	for _, s := range sources {
		got, failed := ask(s)
		if failed == nil {
			return got, nil
		}
		if err = errors.Join(err, failed); ctx.Err() != nil {
			break
		}
	}
	return out, err
}

// Suggest implements Suggester.
func (f firstOf) Suggest(ctx context.Context, text string, in Locale) ([]string, error) {
	return first(ctx, f.suggest, func(s Suggester) ([]string, error) { return s.Suggest(ctx, text, in) })
}

// Demand implements Demander.
func (f firstOf) Demand(ctx context.Context, phrases []string, in Locale) (map[string]demand.Series, error) {
	return first(ctx, f.demand, func(s Demander) (map[string]demand.Series, error) { return s.Demand(ctx, phrases, in) })
}

// Search implements Searcher.
func (f firstOf) Search(ctx context.Context, phrase string, in Locale, depth int) (Results, error) {
	return first(ctx, f.search, func(s Searcher) (Results, error) { return s.Search(ctx, phrase, in, depth) })
}
