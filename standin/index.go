package standin

import (
	"math"
	"runtime"
	"strings"
	"sync"
)

// stem is the index's own, crude way to make plural and singular one: it is no
// stemmer anyone else uses.
func stem(s string) string {
	switch {
	case len(s) > 4 && strings.HasSuffix(s, "ies"):
		return s[:len(s)-3] + "y"
	case len(s) > 4 && (strings.HasSuffix(s, "sses") || strings.HasSuffix(s, "xes") || strings.HasSuffix(s, "ches")):
		return s[:len(s)-2]
	case len(s) > 3 && strings.HasSuffix(s, "s") && !strings.HasSuffix(s, "ss"):
		return s[:len(s)-1]
	}
	return s
}

var stopWords = func() map[string]bool {
	m := map[string]bool{}
	for _, s := range strings.Fields("a an the of for to in on at by with and or is are do does i you my it can be what how") {
		m[s] = true
	}
	return m
}()

// posting says how much a page holds a term: its frequency over fields, each
// weighed and damped by the field's length (as BM25F does).
type posting struct {
	page   int32
	weight float32
}

type index struct {
	terms  map[string][]posting
	titles []string // padded, tokenised
}

// Weights of the fields, ours.
const (
	inTitle   = 4.0
	inHeading = 2.2
	inSection = 1.3
	inPath    = 1.4
	inAnchor  = 1.6
)

type termWeights map[string]float64

func (t termWeights) add(text string, weight float64) int {
	n := 0
	for _, tok := range tokens(text) {
		t[stem(tok)] += weight
		n++
	}
	return n
}

// buildIndex writes every page once, to count its words.
func (w *World) buildIndex() *index {
	ix := &index{terms: map[string][]posting{}, titles: make([]string, len(w.pages))}
	found := make([][]weighted, len(w.pages))
	var wg sync.WaitGroup
	workers := runtime.GOMAXPROCS(0)
	for k := range workers {
		wg.Go(func() {
			for i := k; i < len(w.pages); i += workers {
				found[i] = w.weigh(w.pages[i])
			}
		})
	}
	wg.Wait()
	for i, p := range w.pages {
		ix.titles[i] = " " + strings.Join(tokens(p.title), " ") + " "
		if p.site.kind == linkRing || p.fault == gone || p.fault == broken {
			continue // not indexed
		}
		for _, t := range found[i] {
			ix.terms[t.term] = append(ix.terms[t.term], posting{int32(i), t.weight})
		}
		found[i] = nil
	}
	return ix
}

// weighted is a term of a page with its weight over all fields.
type weighted struct {
	term   string
	weight float32
}

func (w *World) weigh(p *page) []weighted {
	d := w.write(p)
	body, fields := termWeights{}, termWeights{}
	n := body.add(d.Intro, 1)
	for _, s := range d.Sections {
		fields.add(s.Heading, inSection)
		for _, text := range s.Paragraphs {
			n += body.add(text, 1)
		}
	}
	for _, text := range d.Steps {
		n += body.add(text, 1)
	}
	for _, text := range d.Replies {
		n += body.add(text, 0.7)
	}
	for _, pr := range d.Products {
		n += body.add(pr.Name, 1)
	}
	fields.add(d.Title, inTitle)
	fields.add(d.Heading, inHeading)
	fields.add(strings.NewReplacer("-", " ", "/", " ").Replace(p.path), inPath)
	for i, l := range p.in {
		if i == 30 {
			break
		}
		fields.add(l.anchor, inAnchor/float64(i+2))
	}
	damp := 1 / (0.4 + 0.6*float64(n)/700)
	for t := range body {
		fields[t] += body[t] * damp
	}
	out := make([]weighted, 0, len(fields))
	for _, t := range sortedKeys(fields) {
		// A copy, so that the whole page is not kept for the sake of one word.
		out = append(out, weighted{strings.Clone(t), float32(fields[t])})
	}
	return out
}

// relevance scores pages for the terms, by BM25 on the weighed frequencies.
// only holds when a page must have at least half of the terms' weight.
func (ix *index) relevance(terms []string) map[int32]float64 {
	scores := map[int32]float64{}
	most := 0.0
	for _, t := range terms {
		list := ix.terms[t]
		if len(list) == 0 {
			continue
		}
		n, N := float64(len(list)), float64(len(ix.titles))
		idf := math.Log(1 + (N-n+0.5)/(n+0.5))
		most += idf
		for _, p := range list {
			scores[p.page] += idf * float64(p.weight) / (float64(p.weight) + 1.6)
		}
	}
	for p, s := range scores {
		if s < 0.3*most {
			delete(scores, p)
		}
	}
	return scores
}
