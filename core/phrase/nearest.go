package phrase

import "slices"

// likest is how much of their content two wordings share at least to be of one thing (ours): half of the stems that
// either has.
const likest = 0.5

// Likeness is how much of their content two phrases share: the stems of both over those of either (Jaccard 1901), from
// 0 to 1. Function words do not count; phrases of nothing else are alike if they are the same.
func Likeness(a, b, lang string) float64 {
	left, right := ContentStems(a, lang), ContentStems(b, lang)
	slices.Sort(left)
	slices.Sort(right)
	left, right = slices.Compact(left), slices.Compact(right)
	if len(left)+len(right) == 0 {
		if a == b {
			return 1
		}
		return 0
	}
	both := 0
	for _, s := range left {
		if _, in := slices.BinarySearch(right, s); in {
			both++
		}
	}
	return float64(both) / float64(len(left)+len(right)-both)
}

// Like lists those of some phrases that are another wording of a phrase, the most alike first, at most so many. The
// phrase itself is none.
func Like(normal string, list []string, lang string, most int) (out []string) {
	likeness := map[string]float64{}
	for _, p := range list {
		if _, twice := likeness[p]; twice || p == normal {
			continue
		}
		if l := Likeness(normal, p, lang); l >= likest {
			likeness[p] = l
			out = append(out, p)
		}
	}
	slices.SortStableFunc(out, func(a, b string) int {
		switch {
		case likeness[a] > likeness[b]:
			return -1
		case likeness[a] < likeness[b]:
			return 1
		}
		return 0
	})
	return out[:min(len(out), most)]
}

// Nearest is the wording of a phrase that is searched: the most alike of some, and of equals the one that is searched
// most; ok is false where none is like it.
func Nearest(normal string, list []Searched, lang string) (best Searched, ok bool) {
	like := 0.0
	for _, p := range list {
		if p.Phrase == normal || p.Searches <= 0 {
			continue
		}
		l := Likeness(normal, p.Phrase, lang)
		if l >= likest && (l > like || l == like && p.Searches > best.Searches) {
			best, like, ok = p, l, true
		}
	}
	return best, ok
}
