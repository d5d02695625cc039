package standin

import (
	"slices"
	"sort"
	"strings"
)

// hints finds queries by their beginnings and by their words.
type hints struct {
	sorted []*query            // by text
	words  map[string][]*query // by token, most searched first
	spelt  *vocabulary
}

func newHints(list []*query) *hints {
	h := &hints{sorted: append([]*query(nil), list...), words: map[string][]*query{},
		spelt: newVocabulary(list)}
	sort.Slice(h.sorted, func(i, j int) bool { return h.sorted[i].text < h.sorted[j].text })
	popular := append([]*query(nil), list...)
	sort.Slice(popular, func(i, j int) bool { return more(popular[i], popular[j]) })
	for _, q := range popular {
		for i, t := range q.tokens {
			if !contains(q.tokens[:i], t) {
				h.words[t] = append(h.words[t], q)
			}
		}
	}
	return h
}

func more(a, b *query) bool {
	if x, y := a.steady(), b.steady(); x != y {
		return x > y
	}
	return a.id < b.id
}

func contains(list []string, s string) bool {
	for _, x := range list {
		if x == s {
			return true
		}
	}
	return false
}

// Complete returns what people type that begins with the text, most searched first;
// after that what holds its words in that order, the last one begun; then what holds
// them in any order. A start that nobody types is mended. What people type by slip comes
// last of all.
func (w *World) Complete(text string, most int, in place) []string {
	toks := tokens(text)
	if len(toks) == 0 {
		return nil
	}
	open := !strings.HasSuffix(text, " ")
	found := w.hints.find(toks, open, most)
	if len(found) == 0 || found[0].typo {
		begun := open && len(found) == 0 // else the last word is one that people type
		for _, mended := range w.hints.spelt.mend(toks, begun) {
			if right := w.hints.find(mended, open, most); len(right) > 0 && !right[0].typo {
				found = append(right, found...)
				break
			}
		}
	}
	sort.SliceStable(found, func(i, j int) bool { return !found[i].typo && found[j].typo })
	var out []string
	for _, q := range found {
		if len(out) == most {
			break
		}
		if !contains(out, q.text) && q.steady()*w.appetite(q.need, in) >= 0.5 {
			out = append(out, q.text)
		}
	}
	return out
}

func (h *hints) find(toks []string, open bool, most int) []*query {
	found := h.begins(strings.Join(toks, " "), open)
	for _, fits := range []func(have, want []string, open bool) bool{inOrder, inAnyOrder} {
		if len(found) < most {
			found = append(found, h.holds(toks, open, most, fits)...)
		}
	}
	return found
}

func (h *hints) begins(prefix string, open bool) []*query {
	if !open {
		prefix += " "
	}
	i := sort.Search(len(h.sorted), func(i int) bool { return h.sorted[i].text >= prefix })
	var out []*query
	for ; i < len(h.sorted) && strings.HasPrefix(h.sorted[i].text, prefix); i++ {
		out = append(out, h.sorted[i])
	}
	sort.Slice(out, func(i, j int) bool { return more(out[i], out[j]) })
	return out
}

// holds returns queries whose tokens fit, others between them.
func (h *hints) holds(toks []string, open bool, most int, fits func(have, want []string, open bool) bool) []*query {
	rarest := ""
	for i, t := range toks {
		if open && i == len(toks)-1 && len(toks) > 1 {
			break // the last may be only begun
		}
		if list, ok := h.words[t]; ok && (rarest == "" || len(list) < len(h.words[rarest])) {
			rarest = t
		} else if !ok {
			return nil
		}
	}
	var out []*query
	for _, q := range h.words[rarest] {
		if fits(q.tokens, toks, open) {
			if out = append(out, q); len(out) == 2*most {
				break
			}
		}
	}
	return out
}

func inOrder(have, want []string, open bool) bool {
	i := 0
	for _, t := range have {
		if i < len(want) && (t == want[i] || open && i == len(want)-1 && strings.HasPrefix(t, want[i])) {
			i++
		}
	}
	return i == len(want)
}

// inAnyOrder reports whether each token wanted is there, the last one maybe only begun.
func inAnyOrder(have, want []string, open bool) bool {
	for i, t := range want {
		begun := open && i == len(want)-1
		if !slices.ContainsFunc(have, func(h string) bool { return h == t || begun && strings.HasPrefix(h, t) }) {
			return false
		}
	}
	return true
}

// nearest returns the query that shares most of the tokens, at least half of
// its own and of theirs, or nil.
func (h *hints) nearest(toks []string) *query {
	counts := map[*query]int{}
	for _, t := range toks {
		if list := h.words[t]; !stopWords[t] && len(list) < 4000 {
			for _, q := range list {
				counts[q]++
			}
		}
	}
	var best *query
	bestShare := 0.5
	for q, n := range counts {
		share := float64(n) / float64(len(contentTerms(q.tokens))+len(contentTerms(toks))-n)
		if share > bestShare || share == bestShare && best != nil && q.id < best.id {
			best, bestShare = q, share
		}
	}
	return best
}
