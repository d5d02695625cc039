package sieve

import (
	"slices"
	"testing"
)

// TestFold: wordings of one thing stand behind the one that is searched most, with their
// searches, and nothing is lost.
func TestFold(t *testing.T) {
	var list []Idea
	for i, f := range []struct {
		kind     float64
		searches int
	}{{1, 100}, {2, 50}, {1, 300}, {1, 20}, {-1, 5}, {2, 50}, {3, -1}} {
		one := bare(uint(i+1), string(rune('a'+i)), 1)
		one.Searches = f.searches
		idea := one.idea()
		if f.kind >= 0 {
			idea.Put(Variant, Of(f.kind))
		}
		list = append(list, idea)
	}
	table := NewTable("en", list)
	all := table.Pass(nil).Left
	strongest, behind := table.Fold(all)
	if got := slices.Collect(strongest.All()); !slices.Equal(got, []int{1, 2, 4, 6}) {
		t.Errorf("%v", got)
	}
	if f := behind[2]; f.Searches != 120 || !slices.Equal(slices.Sorted(slices.Values(f.More)), []int{0, 3}) {
		t.Errorf("%+v", f)
	}
	if f := behind[1]; f.Searches != 50 || len(f.More) != 1 || len(behind) != 2 {
		t.Errorf("%+v of %v", f, behind)
	}
	total := strongest.Count()
	for _, f := range behind {
		total += len(f.More)
	}
	if total != all.Count() {
		t.Errorf("%d of %d are there", total, all.Count())
	}
}
