package rivals

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"sort"
	"strings"

	"cleverniche/market"
	"cleverniche/store"
	"cleverniche/study/ask"
	"cleverniche/study/input"
	"cleverniche/study/niches"
	"cleverniche/study/results"
)

// Neighbour is a site that stands where I stand or want to.
type Neighbour struct {
	results.Stander // among the tens that were looked up; its Site is always there
	Rival           store.Rival
	Shared          int      // phrases for which a service says that it stands beside my site; 0 none or not known
	Phrases         *int     // that it ranks for, by a service
	Visits          *float64 // a month, by a service
}

// Known reports whether some of its places were asked for.
func (s Neighbour) Known() bool { return !s.Rival.AskedAt.IsZero() }

// Who are the sites of a niche: those that are followed first, then those within reach as the tens say, then the others
// that a service says share my places.
type Who struct {
	Sites    []Neighbour
	Followed int
	SharedAt ask.Asked[market.Sharers]
	Shares   bool   // somebody was asked who shares my places
	Cost     string // of asking that; "" where nobody can be
}

// All is how many phrases it ranks for in all, as far as that is known: by a service that was asked who shares my
// places, or by one that was asked for its phrases without a filter.
func (s Neighbour) All() (int, bool) {
	if s.Phrases != nil {
		return *s.Phrases, true
	}
	var w Wanted
	if !s.Known() || json.Unmarshal([]byte(s.Rival.Asked), &w) != nil {
		return 0, false
	}
	w.Target, w.Order, w.Most = market.Target{}, "", 0
	return s.Rival.Total, w == Wanted{}
}

func site(name string) market.Target { return market.Target{Name: name, Scope: market.AllHosts} }

// Who lists them; nobody is asked.
func (s *Scout) Who(ctx context.Context, n niches.Niche, revision int64) (out Who, err error) {
	rows, err := s.store.Rivals(ctx, n.ID)
	if err != nil {
		return out, err
	}
	standers, err := s.results.InTheWay(ctx, n, revision)
	if err != nil {
		return out, err
	}
	at := map[string]int{}
	add := func(name string) *Neighbour {
		i, there := at[name]
		if !there {
			i = len(out.Sites)
			at[name] = i
			out.Sites = append(out.Sites, Neighbour{Stander: results.Stander{Site: name}})
		}
		return &out.Sites[i]
	}
	for _, st := range standers {
		if !st.Own {
			add(st.Site).Stander = st
		}
	}
	for _, r := range rows {
		if r.Site == n.OwnSite {
			continue
		}
		if add(r.Site).Rival = r; r.Followed {
			out.Followed++
		}
	}
	if s.asker.Knows(ask.Sharers) && n.OwnSite != "" {
		out.Cost = s.asker.Money(s.asker.Price(ask.Rankings))
	}
	if n.OwnSite != "" {
		out.SharedAt, out.Shares, err = ask.PartAtHand[market.Sharers](ctx, s.asker, ask.Sharers, site(n.OwnSite),
			n.Locale())
		if err != nil {
			return out, err
		}
	}
	for _, sh := range out.SharedAt.Value.List {
		name := s.suffixes.Site(sh.Site)
		if name == "" || name == n.OwnSite {
			continue
		}
		one := add(name)
		one.Shared, one.Phrases, one.Visits = sh.Shared, sh.Phrases, sh.Visits
	}
	sort.SliceStable(out.Sites, func(i, j int) bool {
		a, b := out.Sites[i], out.Sites[j]
		switch {
		case a.Rival.Followed != b.Rival.Followed:
			return a.Rival.Followed
		case (a.Places > 0) != (b.Places > 0):
			return a.Places > 0
		case a.Places > 0:
			return false // in the order in which they stand in the way
		}
		return a.Shared > b.Shared
	})
	return out, nil
}

// Seen tells two moments apart between which something became known of a niche's rivals.
func (s *Scout) Seen(ctx context.Context, n niches.Niche) (string, error) {
	rows, err := s.store.Rivals(ctx, n.ID)
	var out strings.Builder
	for _, r := range rows {
		fmt.Fprint(&out, r.ID, r.AskedAt.UnixNano(), r.Total, RecentOf(r).At.UnixNano(), " ")
	}
	if n.OwnSite == "" || err != nil {
		return out.String(), err
	}
	shared, _, err := ask.PartAtHand[market.Sharers](ctx, s.asker, ask.Sharers, site(n.OwnSite), n.Locale())
	return out.String() + shared.At.String(), err
}

// AskSharers asks who shares my site's places.
func (s *Scout) AskSharers(ctx context.Context, n niches.Niche) error {
	if n.OwnSite == "" {
		return input.Bad("own", "This niche has no site of yours. Name it in the settings.")
	}
	_, err := s.asker.Sharers(ctx, site(n.OwnSite), n.Locale())
	return err
}

// Rival is what is kept of a site; one that nothing is known of where there is none.
func (s *Scout) Rival(ctx context.Context, n niches.Niche, name string) (store.Rival, error) {
	r, err := s.store.RivalOf(ctx, n.ID, name)
	if errors.Is(err, input.ErrNotFound) {
		return store.Rival{NicheID: n.ID, Site: name}, nil
	}
	return r, err
}
