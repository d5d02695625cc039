package sieve

import "slices"

// BranchSum is what the ideas of one branch are together. Dropped ones are counted, and nothing else of them.
type BranchSum struct {
	Path     string // down to it, as Branch has it; "" is none
	Ideas    int
	Searches float64 // as far as they are known
	Easy     int     // with a chance of page one that is even at least
	Kept     int
	Both     int // easy and kept
	Dropped  int
}

// even is a chance from which an idea is easy (ours).
const even = 0.5

// IsEasy reports whether the idea at a position is looked up, and has even odds of page one or better.
func (t *Table) IsEasy(at int) bool {
	chance, known := t.Number(at, PageOne)
	return known && chance >= even
}

// IsKept reports whether the idea at a position is kept.
func (t *Table) IsKept(at int) bool { return Decision(t.columns[Decided.column].at(at)) == Kept }

// OnlyFrom reports whether the idea at a position was found in one way alone, by its name.
func (t *Table) OnlyFrom(at int, way string) bool {
	return t.columns[FoundIn.column].at(at) == 1<<int64(FoundIn.Named(way).Number)
}

// BranchSums are the sums of all branches that have ideas. O(ideas).
func (t *Table) BranchSums() []BranchSum {
	var sums []BranchSum // by the number of a set of marks, and one more than that
	branch, decided := t.columns[Branch.column], t.columns[Decided.column]
	for at := range t.n {
		set := int(branch.at(at)) + 1
		if set >= len(sums) {
			sums = append(sums, make([]BranchSum, set+1-len(sums))...)
		}
		s := &sums[set]
		decision := Decision(decided.at(at))
		if decision == Dropped {
			s.Dropped++
			continue
		}
		s.Ideas++
		if x, known := t.Number(at, Searches); known {
			s.Searches += x
		}
		easy := t.IsEasy(at)
		if easy {
			s.Easy++
		}
		if decision == Kept {
			s.Kept++
		}
		if easy && decision == Kept {
			s.Both++
		}
	}
	for set := range sums {
		sums[set].Path = markSet(int64(set) - 1)
	}
	return slices.DeleteFunc(sums, func(s BranchSum) bool { return s.Ideas+s.Dropped == 0 })
}

// OnBranch returns which ideas, by their positions, are on a branch itself, and not on one below it.
func (t *Table) OnBranch(mark string) func(at int) bool {
	ends := endingIn(mark)
	branch := t.columns[Branch.column]
	return func(at int) bool { return ends(branch.at(at)) }
}
