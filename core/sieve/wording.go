package sieve

import (
	"slices"
	"strings"
	"sync"

	"cleverniche/core/phrase"
)

// wording is the phrases of a table, word by word, with an inverted index from a word
// to the positions that hold it. It only grows, and the tables that were made from
// one another share it: each reads no further than its own ideas. Words are told when they
// are first asked for.
type wording struct {
	lang   string
	brands []string // the niche's brand words

	mu      sync.RWMutex
	numbers map[string]int32
	flat    []int32   // the words of all phrases, one after the other
	start   []int32   // where each phrase begins; one more than there are phrases
	holds   [][]int32 // by word: the positions that hold it, rising
	shapes  []uint32  // by position, as far as they were asked for
	phrases []string  // start may be behind them
}

func newWording(lang string, brands []string) *wording {
	return &wording{lang: lang, brands: brands, numbers: map[string]int32{}, start: []int32{0}}
}

// reach returns a wording that holds the phrases: itself, with what was missing, or
// a new one where another table has gone on with it in another way. The first so many
// are known to be the same.
func (w *wording) reach(phrases []string, same int) *wording {
	w.mu.Lock()
	defer w.mu.Unlock()
	both := min(len(w.phrases), len(phrases))
	if same < both && !slices.Equal(w.phrases[same:both], phrases[same:both]) {
		w = newWording(w.lang, w.brands)
		both = 0
	}
	if both < len(phrases) {
		w.phrases = slices.Clip(phrases) // nobody changes them
	}
	return w
}

// ready tells the words of all phrases.
func (w *wording) ready() {
	w.mu.Lock()
	defer w.mu.Unlock()
	for at := len(w.start) - 1; at < len(w.phrases); at++ {
		w.read(int32(at), w.phrases[at])
	}
}

// Ready prepares what is asked of phrases, which takes a while for very many; whoever asks
// before waits.
func (t *Table) Ready() { t.text.ready() }

func (w *wording) read(at int32, p string) {
	for rest, more := p, true; more; {
		var one string
		one, rest, more = strings.Cut(rest, " ")
		n, known := w.numbers[one]
		if !known {
			n = int32(len(w.holds))
			w.numbers[one] = n
			w.holds = append(w.holds, nil)
		}
		w.flat = append(w.flat, n)
		if list := w.holds[n]; len(list) == 0 || list[len(list)-1] != at {
			w.holds[n] = append(list, at)
		}
	}
	w.start = append(w.start, int32(len(w.flat)))
}

// place is where in a phrase a term has to stand.
type place int

const (
	anywhere place = iota
	atStart
	atEnd
)

// mark puts the positions below n that hold one of the terms, whole, at the place,
// into a set. Only phrases that hold a term's rarest word are looked at.
func (w *wording) mark(terms []string, where place, n int, out Set) {
	w.ready()
	w.mu.RLock()
	defer w.mu.RUnlock()
	for _, term := range terms {
		if numbers, ok := w.look(term); ok {
			w.markOne(numbers, where, n, out)
		}
	}
}

func (w *wording) look(term string) (numbers []int32, ok bool) {
	for _, one := range strings.Fields(term) {
		n, known := w.numbers[one]
		if !known {
			return nil, false
		}
		numbers = append(numbers, n)
	}
	return numbers, len(numbers) > 0
}

func (w *wording) markOne(term []int32, where place, n int, out Set) {
	rarest := w.holds[term[0]]
	for _, one := range term[1:] {
		if len(w.holds[one]) < len(rarest) {
			rarest = w.holds[one]
		}
	}
	for _, at := range rarest {
		if int(at) >= n {
			break
		}
		if len(term) == 1 && where == anywhere || w.has(w.flat[w.start[at]:w.start[at+1]], term, where) {
			out.put(int(at), true)
		}
	}
}

func (w *wording) has(phrase, term []int32, where place) bool {
	last := len(phrase) - len(term)
	if last < 0 {
		return false
	}
	switch where {
	case atStart:
		return slices.Equal(phrase[:len(term)], term)
	case atEnd:
		return slices.Equal(phrase[last:], term)
	}
	for i := 0; i <= last; i++ {
		if slices.Equal(phrase[i:i+len(term)], term) {
			return true
		}
	}
	return false
}

// shaped puts the positions below n of phrases of a shape into a set. Shapes are told
// once for each phrase.
func (w *wording) shaped(s phrase.Shape, n int, out Set) {
	w.mu.Lock()
	defer w.mu.Unlock()
	for i := len(w.shapes); i < n; i++ {
		var in uint32
		for _, has := range phrase.Shapes(w.phrases[i], w.lang, w.brands...) {
			in |= 1 << slices.Index(phrase.AllShapes, has)
		}
		w.shapes = append(w.shapes, in)
	}
	bit := slices.Index(phrase.AllShapes, s)
	for i, in := range w.shapes[:n] {
		out.put(i, bit >= 0 && in>>bit&1 == 1)
	}
}

// fit puts the positions below n that fit one of some patterns exactly into a set. Only phrases that hold a pattern's
// rarest word are looked at.
func (w *wording) fit(patterns []string, n int, out Set) {
	w.ready()
	w.mu.RLock()
	defer w.mu.RUnlock()
	for _, text := range patterns {
		p, err := phrase.ParsePattern(text, w.lang)
		if err != nil {
			continue
		}
		numbers, ok := w.look(strings.ReplaceAll(text, phrase.Gap, " "))
		if !ok {
			continue
		}
		parts := make([][]int32, len(p.Parts()))
		for i, part := range p.Parts() {
			parts[i], _ = w.look(strings.Join(part, " "))
		}
		rarest := w.holds[numbers[0]]
		for _, one := range numbers[1:] {
			if len(w.holds[one]) < len(rarest) {
				rarest = w.holds[one]
			}
		}
		for _, at := range rarest {
			if int(at) >= n {
				break
			}
			if phrase.Fits(w.flat[w.start[at]:w.start[at+1]], parts) {
				out.put(int(at), true)
			}
		}
	}
}

// terms reads the words of a criterion: those whose words may have gaps keep them.
func (c *Criterion) terms(s string) (out []string) {
	if !c.gaps {
		return Terms(s)
	}
	for _, t := range strings.FieldsFunc(s, func(r rune) bool { return r == ',' || r == '\n' || r == ';' }) {
		if p, err := phrase.ParsePattern(t, ""); err == nil && !slices.Contains(out, p.String()) {
			out = append(out, p.String())
		}
	}
	return out
}

// Terms reads words or phrases separated by commas, semicolons or line ends, in
// normal form, each once.
func Terms(s string) []string {
	var out []string
	for _, t := range strings.FieldsFunc(s, func(r rune) bool { return r == ',' || r == '\n' || r == ';' }) {
		if n := phrase.Normal(t); n != "" && !slices.Contains(out, n) {
			out = append(out, n)
		}
	}
	return out
}
