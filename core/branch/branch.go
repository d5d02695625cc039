// Package branch is the way down: where ideas came from, as a tree of seeds, the ways in which they grew, what was dug
// from there, and lists.
//
// Each idea is on one branch, the one by which it came first, so that what is told of branches adds up. A node of the
// tree has a mark, by which filters name it (sieve.ByBranch), and the set of an idea's marks is the path down to it.
package branch

import (
	"cmp"
	"slices"
	"strings"

	"cleverniche/core/phrase"
	"cleverniche/core/sieve"
)

// Branch is what brings ideas: a seed by one of its ways, or a list.
type Branch struct {
	ID   uint
	Kind string // one of sieve.FoundIn's names
	Seed string // in normal form; the name of a list
	From uint   // the branch of the idea that the seed was dug from; 0 none
}

// Kinds of branches that are no ways.
const (
	seedKind    = "seed"
	listKind    = "list"
	patternKind = "pattern"
	crossed     = "combination"
	pageKind    = "page"
)

// What marks are made of: neither stands in a phrase in normal form.
const (
	of          = " › "
	open, close = "“", "”"
)

// mostDeep is how many marks a path has at most: what is dug from there is on its last branch.
const mostDeep = 40

// own are the marks of a branch itself, below what its seed was dug from.
func (b Branch) own() []string {
	switch b.Kind {
	case listKind:
		return []string{open + b.Seed + close}
	case seedKind, patternKind, crossed, pageKind:
		return []string{b.Seed}
	}
	return []string{b.Seed, b.Seed + of + b.Kind}
}

// Paths are the paths down to branches, by their IDs: marks with sieve.LabelMark between them.
func Paths(list []Branch) map[uint]string {
	byID := make(map[uint]Branch, len(list))
	for _, b := range list {
		byID[b.ID] = b
	}
	out := make(map[uint]string, len(list))
	for _, b := range list {
		marks := b.own()
		seen := map[uint]bool{b.ID: true}
		for from := b.From; from != 0 && !seen[from]; {
			seen[from] = true
			up, there := byID[from]
			if !there {
				break
			}
			marks = slices.Concat(up.own(), marks)
			from = up.From
		}
		out[b.ID] = strings.Join(once(marks)[:min(mostDeep, len(once(marks)))], sieve.LabelMark)
	}
	return out
}

// once leaves out what stands in a path already.
func once(marks []string) (out []string) {
	for _, m := range marks {
		if !slices.Contains(out, m) {
			out = append(out, m)
		}
	}
	return out
}

// IsWay reports whether a mark is one of a way, and not of a seed or a list.
func IsWay(mark string) bool { return strings.Contains(mark, of) && !strings.HasPrefix(mark, open) }

// Node is a place in the tree, with all that is below it: dropped ideas are counted apart.
type Node struct {
	Mark     string // by which filters name it
	Name     string // what it is called where its parent is known
	Kind     string // seed, pattern, combination, page, list or a way
	Dug      bool   // it is a seed that was dug from an idea
	Ideas    int    // neither dropped
	Searches float64
	Easy     int
	Kept     int
	Both     int // easy and kept
	Dropped  int
	Micros   int64 // spent on its lookups and on those of its ideas
	Kids     []*Node
	kids     map[string]*Node
}

// IsSeed reports whether something can be gathered from it by its name.
func (n *Node) IsSeed() bool { return n.Kind == seedKind || n.Kind == patternKind }

// PerKept is what one kept idea cost, in millionths; ok is false where none is kept.
func (n *Node) PerKept() (micros int64, ok bool) {
	if n.Kept == 0 {
		return 0, false
	}
	return n.Micros / int64(n.Kept), true
}

// Rest is how many of its ideas are neither kept nor easy.
func (n *Node) Rest() int { return n.Ideas - n.Kept - n.Easy + n.Both }

// Find is the node of a mark; nil when there is none.
func (n *Node) Find(mark string) *Node {
	if n.Mark == mark && mark != "" {
		return n
	}
	for _, kid := range n.Kids {
		if found := kid.Find(mark); found != nil {
			return found
		}
	}
	return nil
}

// Tree makes the tree of what ideas of branches are together, and of what was spent for branches. Its root is all of
// them.
func Tree(sums []sieve.BranchSum, paths map[uint]string, micros map[uint]int64) *Node {
	root := &Node{}
	for _, s := range sums {
		root.each(s.Path, func(n *Node) {
			n.Ideas += s.Ideas
			n.Searches += s.Searches
			n.Easy += s.Easy
			n.Kept += s.Kept
			n.Both += s.Both
			n.Dropped += s.Dropped
		})
	}
	for id, path := range paths {
		root.each(path, func(n *Node) { n.Micros += micros[id] })
	}
	return root
}

// each does something with all nodes of a path, which it makes where they are not there.
func (n *Node) each(path string, do func(*Node)) {
	do(n)
	if path == "" {
		return
	}
	for mark := range strings.SplitSeq(path, sieve.LabelMark) {
		kid := n.kids[mark]
		if kid == nil {
			kid = named(mark)
			kid.Dug = kid.Kind == seedKind && n.Mark != ""
			if n.kids == nil {
				n.kids = map[string]*Node{}
			}
			n.kids[mark], n.Kids = kid, append(n.Kids, kid)
		}
		n = kid
		do(n)
	}
}

func named(mark string) *Node {
	if list, ok := strings.CutPrefix(mark, open); ok {
		return &Node{Mark: mark, Name: strings.TrimSuffix(list, close), Kind: listKind}
	}
	if _, way, ok := strings.Cut(mark, of); ok {
		return &Node{Mark: mark, Name: way, Kind: way}
	}
	kind := seedKind
	switch {
	case strings.Contains(mark, "://"):
		kind = pageKind
	case strings.Contains(mark, phrase.Times):
		kind = crossed
	case strings.Contains(mark, phrase.Gap):
		kind = patternKind
	}
	return &Node{Mark: mark, Name: mark, Kind: kind}
}

// Order is what the nodes of a tree are sorted by, the largest first.
type Order struct {
	Key, Name string
	of        func(*Node) float64
}

// Orders lists the orders; the first is the usual one.
var Orders = []Order{
	{"kept", "kept", func(n *Node) float64 { return float64(n.Kept) }},
	{"ideas", "ideas", func(n *Node) float64 { return float64(n.Ideas) }},
	{"searches", "searches", func(n *Node) float64 { return n.Searches }},
	{"easy", "easy", func(n *Node) float64 { return float64(n.Easy) }},
	{"cost", "cost", func(n *Node) float64 { return float64(n.Micros) }},
}

// OrderNamed is the order of a key; the usual one when there is none.
func OrderNamed(key string) Order {
	for _, o := range Orders {
		if o.Key == key {
			return o
		}
	}
	return Orders[0]
}

// Sort sorts a node's kids, and theirs. What is equal goes by easy ideas, by ideas, and then by name.
func (n *Node) Sort(o Order) {
	slices.SortFunc(n.Kids, func(a, b *Node) int {
		return cmp.Or(cmp.Compare(o.of(b), o.of(a)), cmp.Compare(b.Easy, a.Easy), cmp.Compare(b.Ideas, a.Ideas),
			cmp.Compare(a.Mark, b.Mark))
	})
	for _, kid := range n.Kids {
		kid.Sort(o)
	}
}
