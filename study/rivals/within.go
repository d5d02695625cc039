package rivals

import (
	"context"
	"math"
	"sort"

	"cleverniche/core/plan"
	"cleverniche/core/serp"
	"cleverniche/core/sieve"
	"cleverniche/study/ideas"
	"cleverniche/study/niches"
	"cleverniche/study/topics"
)

// Have is whether I have what somebody else has.
type Have string

// The answers.
const (
	Lacking   Have = "not planned"
	Planned   Have = "planned"
	Published Have = "published"
	Ranking   Have = "you rank"
)

// Within is a page of somebody else's within my reach: a foothold for an idea that was looked up.
type Within struct {
	ideas.Idea
	Site    string
	Kind    serp.SiteKind
	Place   int
	Page    string
	Weak    []serp.Reason // why it is weak
	Chance  float64       // of page one
	Pass    float64       // to outrank that page; −1 not known
	PerHour float64       // money a month for an hour of writing; −1 not known
	Have    Have
	Mine    int // my place in the ten; 0 none
}

// mostWithin is how many such pages are reckoned with.
const mostWithin = 5000

// Within are the pages within my reach, of the sites named or of all with none named: those that bring most for an hour
// of writing first; with lacking only what I neither have nor plan. One idea is named once, with the
// foothold that stands lowest: the easiest to outrank.
func (s *Scout) Within(ctx context.Context, n niches.Niche, revision int64, t *topics.Topics, sites map[string]bool,
	lacking bool, from, most int) (out []Within, total int, err error) {
	standers, err := s.results.InTheWay(ctx, n, revision)
	if err != nil {
		return nil, 0, err
	}
	best, mine := map[uint]Within{}, map[uint]int{}
	for _, st := range standers {
		for _, one := range st.Stands {
			if st.Own {
				if at := mine[one.Idea]; at == 0 || one.Place < at {
					mine[one.Idea] = one.Place
				}
				continue
			}
			if !one.Foothold || len(sites) > 0 && !sites[st.Site] {
				continue
			}
			if was, there := best[one.Idea]; !there || one.Place > was.Place {
				best[one.Idea] = Within{Site: st.Site, Kind: st.Kind, Place: one.Place, Page: one.Page}
			}
		}
	}
	var ids []uint
	for id := range best {
		ids = append(ids, id)
	}
	sort.Slice(ids, func(i, j int) bool { return ids[i] < ids[j] })
	rows, err := s.ideas.Ideas(ctx, n.ID, ids[:min(mostWithin, len(ids))])
	if err != nil {
		return nil, 0, err
	}
	for _, idea := range rows {
		w := best[idea.ID]
		w.Idea, w.Mine, w.Pass = idea, mine[idea.ID], -1
		if idea.Locked() || idea.Decision == sieve.Dropped {
			continue
		}
		w.Chance, w.PerHour, w.Have = idea.Value(sieve.PageOne).Number, perHour(n, idea), have(t, idea.ID, w.Mine)
		if lacking && w.Have != Lacking {
			continue
		}
		out = append(out, w)
	}
	sort.SliceStable(out, func(i, j int) bool {
		a, b := out[i], out[j]
		switch {
		case (a.Have == Ranking) != (b.Have == Ranking):
			return b.Have == Ranking
		case a.PerHour != b.PerHour:
			return a.PerHour > b.PerHour
		}
		return a.Chance > b.Chance
	})
	total = len(out)
	from = min(from, total)
	out = out[from:min(total, from+most)]
	return out, total, s.why(ctx, n, out)
}

// perHour is what an idea is worth a month for an hour of writing; −1 where that is not known.
func perHour(n niches.Niche, idea ideas.Idea) float64 {
	v := idea.Value(sieve.Worth)
	if !v.Known {
		return -1
	}
	hours := n.HoursOf(serp.PageType(idea.Row.Article))
	return v.Number / math.Max(1, float64(hours))
}

// have is whether I have an idea.
func have(t *topics.Topics, id uint, place int) Have {
	if place > 0 {
		return Ranking
	}
	one, err := t.Of(id)
	switch {
	case err != nil || one.State() == plan.None:
		return Lacking
	case one.State() == plan.Published:
		return Published
	}
	return Planned
}

// why fills in from the evidence why pages are weak.
func (s *Scout) why(ctx context.Context, n niches.Niche, list []Within) error {
	for i := range list {
		ev, err := s.results.Evidence(ctx, n, list[i].ID)
		if err != nil { // unreadable, or let go: the rest is told
			continue
		}
		for k, e := range ev.Reading.Entries {
			if e.URL != list[i].Page {
				continue
			}
			if list[i].Weak = e.Weak; k < len(ev.Verdict.Pass) {
				list[i].Pass = ev.Verdict.Pass[k]
			}
		}
	}
	return nil
}

// Missed is an idea that no title of its ten says.
type Missed struct {
	ideas.Idea
	Chance float64
	Have   Have
	First  string // the title that stands first; "" not known
}

// Missed are ideas of which no title of the ten says all words, those that are searched most first.
func (s *Scout) Missed(ctx context.Context, n niches.Niche, revision int64, t *topics.Topics,
	most int) (out []Missed, total int, err error) {
	ids, err := s.results.MissedByTitles(ctx, n, revision)
	if err != nil {
		return nil, 0, err
	}
	rows, err := s.ideas.Ideas(ctx, n.ID, ids[:min(mostWithin, len(ids))])
	if err != nil {
		return nil, 0, err
	}
	for _, idea := range rows {
		if idea.Locked() || idea.Decision == sieve.Dropped {
			continue
		}
		out = append(out, Missed{Idea: idea, Chance: idea.Value(sieve.PageOne).Number, Have: have(t, idea.ID, 0)})
	}
	searches := func(m Missed) float64 { return m.Value(sieve.Searches).Number }
	sort.SliceStable(out, func(i, j int) bool { return searches(out[i]) > searches(out[j]) })
	total, out = len(out), out[:min(most, len(out))]
	for i := range out {
		if ev, err := s.results.Evidence(ctx, n, out[i].ID); err == nil && len(ev.Reading.Entries) > 0 {
			out[i].First = ev.Reading.Entries[0].Title
		}
	}
	return out, total, nil
}
