package topics

import (
	"context"
	"fmt"
	"slices"

	"cleverniche/core/topic"
	"cleverniche/study/ideas"
	"cleverniche/study/niches"
)

// Compared is whether two ideas are one article.
type Compared struct {
	A, B   uint
	Known  bool // both are looked up
	Shared int  // pages that their top tens have in common
	One    bool
	Why    string
}

// Compare tells of each two of some ideas whether one article answers both, as grouping would: from the pages that
// their top tens share, how rare these are in the niche, and their words. Nobody is asked.
func (s *Grouper) Compare(ctx context.Context, n niches.Niche, b ideas.Table, ids []uint) ([]Compared, error) {
	founds, err := s.ideas.Founds(ctx, n)
	if err != nil {
		return nil, err
	}
	all := make([]topic.Idea, 0, b.Table.Len())
	at := map[uint]int{}
	for i := range b.Table.Len() {
		id := b.Table.ID(i)
		if chosen := slices.Contains(ids, id); chosen || len(founds.Of[id].Results) > 0 {
			if chosen {
				at[id] = len(all)
			}
			all = append(all, groupedIdea(b, founds, i, n.Language))
		}
	}
	chances := map[[2]int]topic.Pair{}
	for _, p := range topic.Among(all, indexes(at, ids)) {
		chances[[2]int{min(p.A, p.B), max(p.A, p.B)}] = p
	}
	var out []Compared
	for i, a := range ids {
		for _, c := range ids[i+1:] {
			x, okA := at[a]
			y, okB := at[c]
			if !okA || !okB {
				continue
			}
			out = append(out, compared(n, a, c, all[x], all[y], chances[[2]int{min(x, y), max(x, y)}]))
		}
	}
	return out, nil
}

func indexes(at map[uint]int, ids []uint) (out []int) {
	for _, id := range ids {
		if i, ok := at[id]; ok {
			out = append(out, i)
		}
	}
	return out
}

func compared(n niches.Niche, a, b uint, x, y topic.Idea, p topic.Pair) Compared {
	c := Compared{A: a, B: b, Known: len(x.Results) > 0 && len(y.Results) > 0}
	if !c.Known {
		if c.One = x.Variant == y.Variant; c.One {
			c.Why = "Perhaps one: the same words. Look both up to know."
		} else {
			c.Why = "Not known: not both are looked up."
		}
		return c
	}
	c.Shared = p.Shared
	chance := 0.0
	if p.Shared >= max(n.Shared, topic.FewestShared) {
		chance = topic.Calibrated.Chance(p)
	}
	c.One = chance >= 0.5
	pages := fmt.Sprintf("they share %d of ten pages", c.Shared)
	switch {
	case c.One:
		c.Why = fmt.Sprintf("One article: %s, and the chance that they are one need is %.0f%%.", pages, 100*chance)
	case p.Shared < max(n.Shared, topic.FewestShared):
		c.Why = fmt.Sprintf("Two articles: %s; this niche asks for %d.", pages, n.Shared)
	case !p.SameIntent:
		c.Why = fmt.Sprintf("Two articles: %s, but their words ask for something else.", pages)
	default:
		c.Why = fmt.Sprintf("Two articles: %s, which many ideas here have; the chance that they are one need is "+
			"%.0f%%.", pages, 100*chance)
	}
	return c
}
