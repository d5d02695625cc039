package standin

import (
	"math"
	"testing"
)

// TestVocabularyGrowsByHeapsLaw: the number of distinct words in a collection
// grows as k·T^b of its T words, with k between 30 and 100 and b near 0.5 (Manning,
// Raghavan & Schütze, Introduction to Information Retrieval, §5.1.1, Heaps' law;
// their collection has k = 44 and b = 0.49). Here both are at the lower end: the
// world's sentences repeat. k may be 20, which is a little less than theirs.
func TestVocabularyGrowsByHeapsLaw(t *testing.T) {
	w := grown()
	seen := map[uint32]bool{}
	words := 0
	var x, y []float64
	next := 20_000.0
	// Pages in an order that mixes sites: a prime stride.
	for i := range w.pages {
		for _, n := range w.index.texts[(i*4931)%len(w.pages)] {
			if n != 0 {
				words++
				seen[n] = true
			}
		}
		if float64(words) > next {
			x, y = append(x, math.Log(float64(words))), append(y, math.Log(float64(len(seen))))
			next *= 1.25
		}
	}
	b, r2 := fitLine(x, y)
	mean := func(v []float64) (m float64) {
		for _, one := range v {
			m += one / float64(len(v))
		}
		return m
	}
	k := math.Exp(mean(y) - b*mean(x))
	t.Logf("%d words, %d distinct; k %.0f, b %.2f, r² %.4f", words, len(seen), k, b, r2)
	if b < 0.4 || b > 0.6 || k < 20 || k > 100 || r2 < 0.98 {
		t.Errorf("k %.1f, b %.3f, r² %.4f", k, b, r2)
	}
}
