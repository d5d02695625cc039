package sieve

// Folded is what stands behind the strongest of several wordings of one thing.
type Folded struct {
	More     []int // positions of the others
	Searches float64
}

// Fold keeps of wordings of one thing the one that is searched most, the first of those that
// are equal, and tells by its position what it stands for. What has no wording to go by
// stands for itself. O(set).
func (t *Table) Fold(set Set) (strongest Set, behind map[int]Folded) {
	strongest, behind = newSet(t.n), map[int]Folded{}
	kinds, searches := t.columns[Variant.column], t.columns[Searches.column]
	best := map[int64]int{}
	of := func(at int) float64 { return float64(max(0, searches.at(at))) }
	for at := range set.All() {
		kind := kinds.at(at)
		old, known := best[kind]
		switch {
		case kind < 0:
			strongest.put(at, true)
		case !known:
			best[kind] = at
			strongest.put(at, true)
		case of(at) > of(old):
			f := behind[old]
			delete(behind, old)
			behind[at] = Folded{append(f.More, old), f.Searches + of(old)}
			best[kind] = at
			strongest.put(old, false)
			strongest.put(at, true)
		default:
			f := behind[old]
			behind[old] = Folded{append(f.More, at), f.Searches + of(at)}
		}
	}
	return strongest, behind
}
