package results

import (
	"context"
	"slices"
	"sort"
	"sync"
	"time"

	"cleverniche/core/links"
	"cleverniche/core/serp"
	"cleverniche/store"
	"cleverniche/study/niches"
)

// Stander is a site that stands among the top tens of a niche's ideas.
type Stander struct {
	Site      string
	Kind      serp.SiteKind // most of the time
	Standing  float64
	Since     time.Time // when it was registered; zero not known
	Ideas     int       // in whose ten it stands
	Places    int       // that it holds there
	Best      int
	Middle    float64 // median of its places
	Footholds int     // of the places
	Above     float64 // its standing over that of the niche's own site
	Own       bool
	Stands    []Stand
}

// Stand is one place that a site holds.
type Stand struct {
	Idea     uint
	Place    int
	Page     string
	Foothold bool
}

// Within reports whether it is within reach of a small site: it is small itself, or at least half of the places that it
// holds are footholds (ours).
func (s Stander) Within() bool { return 2*s.Footholds >= s.Places || s.Standing <= serp.SmallSite }

// standers are those of a niche at a revision.
type standers struct {
	mu sync.Mutex
	of map[uint]standersAt
}

type standersAt struct {
	revision int64
	list     []Stander
	missed   []uint
}

// mostStanders is of how many niches standers are held.
const mostStanders = 8

// InTheWay are the sites that stand among the top tens of a niche's looked-up ideas: those within reach first, by
// footholds and then by places; the others by ideas. Nobody is asked.
func (s *Researcher) InTheWay(ctx context.Context, n niches.Niche, revision int64) ([]Stander, error) {
	held, err := s.standing(ctx, n, revision)
	return held.list, err
}

// MissedByTitles are the ideas of whose top ten no title says all words. Of those that were judged before that was
// noted, it is not known.
func (s *Researcher) MissedByTitles(ctx context.Context, n niches.Niche, revision int64) ([]uint, error) {
	held, err := s.standing(ctx, n, revision)
	return held.missed, err
}

func (s *Researcher) standing(ctx context.Context, n niches.Niche, revision int64) (standersAt, error) {
	s.standers.mu.Lock()
	held, is := s.standers.of[n.ID]
	s.standers.mu.Unlock()
	if is && held.revision == revision {
		return held, nil
	}
	list, missed, err := s.inTheWay(ctx, n)
	if err != nil {
		return held, err
	}
	s.standers.mu.Lock()
	defer s.standers.mu.Unlock()
	if s.standers.of == nil || len(s.standers.of) >= mostStanders {
		s.standers.of = map[uint]standersAt{}
	}
	held = standersAt{revision, list, missed}
	s.standers.of[n.ID] = held
	return held, nil
}

func (s *Researcher) inTheWay(ctx context.Context, n niches.Niche) (out []Stander, missed []uint, err error) {
	tens, err := s.store.Tens(ctx, n.ID)
	if err != nil {
		return nil, nil, err
	}
	own, bySite, kinds := 0.0, map[string]*Stander{}, map[string]map[serp.SiteKind]int{}
	for _, ten := range tens {
		f, ok := frontOf(store.Front{Body: ten.Front})
		if !ok {
			continue
		}
		if len(f.Kinds) == 0 { // kept before these were
			if f, err = s.renewed(ctx, n, ten.IdeaID, f); err != nil {
				return nil, nil, err
			}
		}
		if f.Titled != nil && *f.Titled == 0 {
			missed = append(missed, ten.IdeaID)
		}
		own = f.Standing
		seen := map[string]bool{}
		for i, page := range ten.Pages[:min(len(ten.Pages), serp.FirstPage, len(f.Results))] {
			site := s.suffixes.Site(links.Host(page))
			if site == "" {
				continue
			}
			x := bySite[site]
			if x == nil {
				x = &Stander{Site: site, Own: site == n.OwnSite && site != ""}
				bySite[site], kinds[site] = x, map[serp.SiteKind]int{}
			}
			if !seen[site] {
				seen[site] = true
				x.Ideas++
			}
			one := Stand{Idea: ten.IdeaID, Place: i + 1, Page: page, Foothold: slices.Contains(f.Footholds, i)}
			if one.Foothold {
				x.Footholds++
			}
			x.Stands = append(x.Stands, one)
			x.Standing = f.Results[i].Site
			if i < len(f.Kinds) {
				kinds[site][f.Kinds[i]]++
			}
		}
	}
	out = make([]Stander, 0, len(bySite))
	for site, x := range bySite {
		x.settle(kinds[site], own)
		if x.Since, err = s.Since(ctx, site); err != nil {
			return nil, nil, err
		}
		out = append(out, *x)
	}
	sort.Slice(out, func(i, j int) bool { return before(out[i], out[j]) })
	return out, missed, nil
}

// settle fills in what follows from all of a site's places.
func (s *Stander) settle(kinds map[serp.SiteKind]int, own float64) {
	places := make([]float64, len(s.Stands))
	for i, st := range s.Stands {
		places[i] = float64(st.Place)
		if s.Best == 0 || st.Place < s.Best {
			s.Best = st.Place
		}
	}
	s.Places, s.Above = len(s.Stands), s.Standing-own
	_, s.Middle, _ = Middle(places)
	for kind, n := range kinds {
		if n > kinds[s.Kind] || n == kinds[s.Kind] && kind < s.Kind {
			s.Kind = kind
		}
	}
}

// before is the order of sites.
func before(a, b Stander) bool {
	switch {
	case a.Within() != b.Within():
		return a.Within()
	case a.Within() && a.Footholds != b.Footholds:
		return a.Footholds > b.Footholds
	case a.Ideas != b.Ideas:
		return a.Ideas > b.Ideas
	case a.Places != b.Places:
		return a.Places > b.Places
	}
	return a.Site < b.Site
}

// renewed is a front as it is made now, of one that was kept before; where its evidence cannot be read, it stays.
func (s *Researcher) renewed(ctx context.Context, n niches.Niche, idea uint, was front) (front, error) {
	d, err := s.store.Evidences(ctx, []uint{idea})
	if err != nil {
		return was, err
	}
	ev, err := readEvidence(d[idea], niches.Unknown)
	if err != nil {
		return was, nil //nolint:nilerr // its kinds and footholds are not known
	}
	f := ev.front()
	was.Kinds, was.Footholds, was.Titled = f.Kinds, f.Footholds, ev.titled(n.Language)
	return was, nil
}

// StandsFor are the places of one site; ok is false where it holds none.
func (s *Researcher) StandsFor(ctx context.Context, n niches.Niche, revision int64, site string) (out Stander, ok bool,
	err error) {
	list, err := s.InTheWay(ctx, n, revision)
	if err != nil {
		return out, false, err
	}
	i := slices.IndexFunc(list, func(x Stander) bool { return x.Site == site })
	if i < 0 {
		return out, false, nil
	}
	return list[i], true, nil
}
