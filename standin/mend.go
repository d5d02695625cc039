package standin

import (
	"slices"
	"sort"
)

// A start that nobody types is taken for the nearest one that people do type: each word
// that is unknown becomes the known word one slip away (Damerau 1964: a letter left out,
// put in, exchanged, or two swapped). Of several the most searched is tried first, and
// the first that leads to something is taken.

// vocabulary is the words of well-spelt queries, by length.
type vocabulary struct {
	byLength map[int][]string   // by length in bytes
	weight   map[string]float64 // searches of the queries that hold it
}

// The shortest word that is mended, the shortest beginning of one, and the longest.
const shortest, shortestBegun, longest = 2, 3, 24

func newVocabulary(list []*query) *vocabulary {
	weight := map[string]float64{}
	for _, q := range list {
		if q.typo {
			continue
		}
		for _, t := range q.tokens {
			weight[t] += q.steady()
		}
	}
	v := &vocabulary{byLength: map[int][]string{}, weight: weight}
	for t := range weight {
		v.byLength[len(t)] = append(v.byLength[len(t)], t)
	}
	return v
}

// mostMended is how many ways to mend a start are tried.
const mostMended = 8

// mend returns the tokens with unknown ones replaced by known ones, the likeliest way
// first; none when nothing is to be mended, or one cannot be. The last one may be only
// begun.
func (v *vocabulary) mend(toks []string, open bool) [][]string {
	ways := [][]string{nil}
	mended := false
	for i, t := range toks {
		near := []string{t}
		begun := open && i == len(toks)-1
		if _, known := v.weight[t]; !known && !(begun && v.begins(t)) {
			near, mended = v.near(t, begun), true
		}
		var next [][]string
		for _, way := range ways {
			for _, n := range near {
				next = append(next, append(slices.Clip(way), n))
			}
		}
		ways = next[:min(len(next), mostMended)]
	}
	if !mended {
		return nil
	}
	return ways
}

func (v *vocabulary) begins(start string) bool {
	for _, words := range v.byLength {
		for _, w := range words {
			if len(w) >= len(start) && w[:len(start)] == start {
				return true
			}
		}
	}
	return false
}

// near is the known words one slip away, most searched first; of a word that is only
// begun, also those whose beginning is.
func (v *vocabulary) near(t string, begun bool) (out []string) {
	if len(t) < shortest || begun && len(t) < shortestBegun || len(t) > longest {
		return nil
	}
	last := len(t) + 1
	if begun {
		last = longest
	}
	for n := len(t) - 1; n <= last; n++ {
		for _, w := range v.byLength[n] {
			is := oneSlip(t, w)
			for _, cut := range []int{len(t) - 1, len(t), len(t) + 1} {
				is = is || begun && cut < n && oneSlip(t, w[:cut])
			}
			if is {
				out = append(out, w)
			}
		}
	}
	sort.Slice(out, func(i, j int) bool {
		a, b := out[i], out[j]
		return v.weight[a] > v.weight[b] || v.weight[a] == v.weight[b] && a < b
	})
	return out[:min(len(out), mostMended)]
}

// oneSlip reports whether a is b with one slip of typing.
func oneSlip(a, b string) bool {
	if len(a) > len(b) {
		a, b = b, a
	}
	i := 0
	for i < len(a) && a[i] == b[i] {
		i++
	}
	switch len(b) - len(a) {
	case 0:
		if i == len(a) {
			return false // no slip
		}
		swapped := i+1 < len(a) && a[i] == b[i+1] && a[i+1] == b[i] && a[i+2:] == b[i+2:]
		return swapped || a[i+1:] == b[i+1:]
	case 1:
		return a[i:] == b[i+1:]
	}
	return false
}
