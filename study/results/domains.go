package results

import (
	"context"
	"strings"
	"time"

	"cleverniche/core/naming"
	"cleverniche/core/sieve"
	"cleverniche/market"
	"cleverniche/store"
	"cleverniche/study/ask"
	"cleverniche/study/niches"
)

const namesKey = "names"

// domains is the lookup of which domain names that a phrase could have are free.
var domains = func() Lookup {
	l := Lookup{Key: namesKey, From: sieve.FromNames, Tells: sieve.FreeName, Name: "with domains checked",
		Act: "check domains", job: "count", brings: "checked", title: "Check domains for %d %s", has: "%d answers",
		fails: "CountError", do: (*Researcher).askDomains}
	l.estimate, l.most = simple(ask.Names, func(n niches.Niche) int { return len(naming.Of("one two", endings(n))) },
		func(_ *Researcher, n niches.Niche, phrase string) (keys []string) {
			for _, name := range naming.Of(phrase, endings(n)) {
				keys = append(keys, name.Domain)
			}
			return keys
		})
	return l
}()

func endings(n niches.Niche) []string { return strings.Fields(n.Endings) }

func (s *Researcher) askDomains(ctx context.Context, n niches.Niche, idea store.Idea) error {
	now := s.store.Now().UTC()
	var free []string
	exact := false
	for _, name := range naming.Of(idea.Phrase, endings(n)) {
		found, err := s.asker.Registration(ctx, name.Domain)
		if err != nil {
			return err
		}
		if !found.Value.Taken {
			free = append(free, name.Domain)
			exact = exact || name.Exact
		}
	}
	idea.NamesAt, idea.CountError, idea.NameFree, idea.FreeNames = &now, "", &exact, strings.Join(free, " ")
	return s.store.SaveLookup(ctx, n.ID, idea, namesKey)
}

// Name is a domain that a phrase could have, and what its registry said when it was asked last.
type Name struct {
	naming.Name
	Known bool
	Taken bool
	Since time.Time // when it was registered; zero not said
	At    time.Time
}

// Names are the domains that an idea could have: exact and near ones, under the niche's endings. Nobody is asked.
func (s *Researcher) Names(ctx context.Context, n niches.Niche, normal string) (out []Name, err error) {
	for _, name := range naming.Of(normal, endings(n)) {
		one := Name{Name: name}
		kept, ok, err := ask.Kept[market.Registration](ctx, s.asker, ask.Names, name.Domain)
		if err != nil {
			return nil, err
		}
		if one.Known = ok; ok {
			one.Taken, one.Since, one.At = kept.Value.Taken, kept.Value.Since, kept.At
		}
		out = append(out, one)
	}
	return out, nil
}
