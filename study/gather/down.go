package gather

import (
	"context"

	"cleverniche/core/branch"
	"cleverniche/core/sieve"
	"cleverniche/ideatable"
	"cleverniche/study/ideas"
	"cleverniche/study/niches"
)

// Down is where a niche's ideas came from.
type Down struct {
	*branch.Node       // all of them; its kids are seeds and lists
	Elsewhere    int64 // spent by the niche's jobs for no branch, in millionths
}

// Down makes the tree of where a niche's ideas came from, in an order.
func (s *Gatherer) Down(ctx context.Context, n niches.Niche, order branch.Order) (d Down, err error) {
	b, err := s.ideas.Table(ctx, n)
	if err != nil {
		return d, err
	}
	rows, err := s.store.Branches(ctx, n.ID)
	if err != nil {
		return d, err
	}
	costs, elsewhere, err := s.store.BranchCosts(ctx, n.ID)
	if err != nil {
		return d, err
	}
	d = Down{branch.Tree(b.Table.BranchSums(), branch.Paths(ideatable.Branches(rows)), costs), elsewhere}
	d.Sort(order)
	return d, nil
}

// shownUnder is how many ideas of a branch are shown under it, to dig from.
const shownUnder = 12

// Under are ideas that are on a branch itself and were not dug from yet, and how many there are: of those that are not
// dropped, the ones that are searched most.
func (s *Gatherer) Under(ctx context.Context, n niches.Niche, of *branch.Node) (list []ideas.Idea, all int, err error) {
	b, err := s.ideas.Table(ctx, n)
	if err != nil {
		return nil, 0, err
	}
	by := sieve.Sieve{Filters: []sieve.Filter{sieve.NotDropped(), sieve.Choosing(sieve.ByBranch, of.Mark)}}
	below := map[string]bool{of.Name: true}
	for _, kid := range of.Kids {
		below[kid.Name] = true
	}
	on := b.Table.OnBranch(of.Mark)
	var shown []uint
	left := b.Pass(by.By(sieve.Searches, true))
	for _, id := range left.IDs(0, left.Count) {
		if at, there := b.Table.Find(id); there && on(at) && !below[b.Table.Phrase(at)] {
			if all++; all <= shownUnder {
				shown = append(shown, id)
			}
		}
	}
	list, err = s.ideas.Ideas(ctx, n.ID, shown)
	return list, all, err
}

// DropUnder drops what is under a branch and is not decided yet: what somebody kept stays. It returns how many it
// dropped, and how many stay.
func (s *Gatherer) DropUnder(ctx context.Context, n niches.Niche, mark string) (dropped, kept int, err error) {
	b, err := s.ideas.Table(ctx, n)
	if err != nil {
		return 0, 0, err
	}
	under := sieve.Sieve{Filters: []sieve.Filter{sieve.NotDropped(), sieve.Choosing(sieve.ByBranch, mark)}}
	var open []uint
	for _, id := range b.Pass(under).IDs(0, -1) {
		if at, there := b.Table.Find(id); there && b.Table.IsKept(at) {
			kept++
		} else if there {
			open = append(open, id)
		}
	}
	if len(open) == 0 {
		return 0, kept, nil
	}
	dropped, err = s.ideas.Decide(ctx, n.ID, open, sieve.Dropped)
	return dropped, kept, err
}
