package standin

import (
	"math"
	"runtime"
	"slices"
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
	for _, s := range strings.Fields("a an the of for to in on at by with and or is are do does i you my it can be " +
		"what how") {
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

// termList is the pages that hold a term, and how many of them the world was
// founded with: a term's rarity stays what it was then, so that moving the clock
// back gives the rankings of before.
type termList struct {
	postings []posting
	first    int
}

type index struct {
	terms    map[string]*termList
	texts    [][]uint32 // by page: its words in order, as numbers
	founding int        // pages that the world was founded with
	boards   sync.Pool  // of *scoreboard
}

// Weights of the fields, ours.
const (
	inTitle   = 4.0
	inHeading = 2.2
	inSection = 1.3
	inPath    = 1.4
	inAnchor  = 1.6
)

// buildIndex weighs every page once: each worker a run of pages, one run joined to the next.
func (w *World) buildIndex() *index {
	workers := runtime.GOMAXPROCS(0)
	parts := make([]*index, workers)
	var wg sync.WaitGroup
	for k := range workers {
		parts[k] = &index{terms: map[string]*termList{}}
		wg.Go(func() {
			g := w.newWeigher()
			for _, p := range w.pages[k*len(w.pages)/workers : (k+1)*len(w.pages)/workers] {
				parts[k].add(p, w.weigh(p, g))
			}
		})
	}
	wg.Wait()
	ix := parts[0]
	ix.founding = len(w.pages)
	for _, part := range parts[1:] {
		for len(ix.texts) < len(part.texts) {
			ix.texts = append(ix.texts, part.texts[len(ix.texts)])
		}
		for text, more := range part.terms {
			if list := ix.terms[text]; list != nil {
				list.postings = append(list.postings, more.postings...)
			} else {
				ix.terms[text] = more
			}
		}
	}
	for _, list := range ix.terms {
		list.first = len(list.postings)
		list.postings = slices.Clip(list.postings)
	}
	return ix
}

// indexable reports whether engines keep the page at all.
func (p *page) indexable() bool {
	return p.site.kind != linkRing && p.fault != gone && p.fault != broken && p.fault != mistyped
}

// holds reports whether the page is in the index.
func (ix *index) holds(p *page) bool { return p.id < len(ix.texts) && ix.texts[p.id] != nil }

// add puts a page into the index.
func (ix *index) add(p *page, text written) {
	for len(ix.texts) <= p.id {
		ix.texts = append(ix.texts, nil)
	}
	if !p.indexable() {
		return
	}
	ix.texts[p.id] = text.words
	for _, t := range text.terms {
		if t.stem.list == nil {
			if t.stem.list = ix.terms[t.stem.text]; t.stem.list == nil {
				t.stem.list = &termList{}
				ix.terms[t.stem.text] = t.stem.list
			}
		}
		t.stem.list.postings = append(t.stem.list.postings, posting{int32(p.id), t.weight})
	}
}

// written is what the index keeps of a page.
type written struct {
	terms []weighted
	words []uint32
}

// weighted is a term of a page with its weight over all fields.
type weighted struct {
	stem   *stemmed
	weight float32
}

// stemmed is a stem that a weigher has met.
type stemmed struct {
	text         string
	list         *termList // once the index has it
	fields, body float64   // of the page that is weighed just now
}

// spelling is a word as it is spelt: its stem and the number that it has in texts.
type spelling struct {
	stem   *stemmed
	number uint32
}

// weigher counts the words of one page after another.
type weigher struct {
	known     []spelling // by number in the world's lexicon
	lexicon   *lexicon
	spellings map[string]spelling
	stems     map[string]*stemmed
	touched   []*stemmed
	words     []uint32
	length    float64
}

func (w *World) newWeigher() *weigher {
	return &weigher{lexicon: w.lexicon, known: make([]spelling, len(w.lexicon.words)),
		spellings: map[string]spelling{}, stems: map[string]*stemmed{}}
}

// look finds the spelling of a word that no scenario holds.
func (g *weigher) look(tok string) spelling {
	s, ok := g.spellings[tok]
	if !ok {
		tok = strings.Clone(tok) // so that the page is not kept for the sake of one word
		name := stem(tok)
		if s.stem = g.stems[name]; s.stem == nil {
			s.stem = &stemmed{text: name}
			g.stems[name] = s.stem
		}
		s.number = wordNumber(tok)
		g.spellings[tok] = s
	}
	return s
}

// numbered finds the spelling of a word by its number in the lexicon.
func (g *weigher) numbered(n int32) spelling {
	if g.known[n].stem == nil {
		g.known[n] = g.look(g.lexicon.words[n])
	}
	return g.known[n]
}

func (g *weigher) count(s spelling, weight float64) {
	if s.stem.fields == 0 && s.stem.body == 0 {
		g.touched = append(g.touched, s.stem)
	}
	s.stem.body += weight
	g.words = append(g.words, s.number)
	g.length++
}

func (g *weigher) text(s string, weight float64) {
	eachToken(s, func(tok string) { g.count(g.look(tok), weight) })
	g.words = append(g.words, 0) // no phrase runs from one paragraph into the next
}

// paragraph counts the words of sentences that are not written out.
func (g *weigher) paragraph(p paragraph, weight float64) {
	for _, s := range p {
		g.sentence(s, weight)
	}
	g.words = append(g.words, 0)
}

func (g *weigher) sentence(s said, weight float64) {
	at := 0
	for _, gap := range s.line {
		list := gap.tokens
		if gap.slot != "" {
			v := s.with[at]
			at++
			if gap.verb != "" || gap.my {
				var b strings.Builder
				gap.write(&b, v)
				eachToken(b.String(), func(tok string) { g.count(g.look(tok), weight) })
				continue
			}
			if list = v.tokens[0]; gap.plural {
				list = v.tokens[1]
			}
			if list == nil {
				eachToken(v.one, func(tok string) { g.count(g.look(tok), weight) })
				continue
			}
			if gap.article && v.one != v.many {
				g.count(g.look(strings.TrimSpace(v.withArticle()[:2])), weight)
			}
		}
		for _, n := range list {
			g.count(g.numbered(n), weight)
		}
	}
}

func (g *weigher) field(s string, weight float64) {
	eachToken(s, func(tok string) {
		one := g.look(tok)
		if one.stem.fields == 0 && one.stem.body == 0 {
			g.touched = append(g.touched, one.stem)
		}
		one.stem.fields += weight
	})
}

// typicalLength is the length at which a page's words count in full, damp how the rest do.
const typicalLength = 280

// finish hands out what was added up, and makes ready for the next page.
func (g *weigher) finish() written {
	damp := 1 / (0.4 + 0.6*g.length/typicalLength)
	out := written{words: slices.Clone(g.words), terms: make([]weighted, 0, len(g.touched))}
	for _, s := range g.touched {
		if s.fields+s.body > 0 {
			out.terms = append(out.terms, weighted{s, float32(s.fields + damp*s.body)})
			s.fields, s.body = 0, 0
		}
	}
	g.touched, g.words, g.length = g.touched[:0], g.words[:0], 0
	return out
}

// readTitle takes the title's words and stems apart.
func (p *page) readTitle() {
	words, stems := []byte{' '}, []byte{' '}
	eachToken(p.title, func(tok string) {
		words = append(append(words, tok...), ' ')
		stems = append(append(stems, stem(tok)...), ' ')
	})
	p.titleWords, p.titleStems = string(words), string(stems)
}

// weigh weighs the page's words. Anchors are those of the links that it has by then.
func (w *World) weigh(p *page, g *weigher) written {
	p.readTitle()
	d := w.write(p)
	g.paragraph(d.Intro, 1)
	for _, s := range d.Sections {
		g.field(s.Heading, inSection)
		g.text(s.Heading, 0)
		for _, text := range s.Paragraphs {
			g.paragraph(text, 1)
		}
	}
	for _, step := range d.Steps {
		g.paragraph(paragraph{step}, 1)
	}
	for _, r := range d.Replies {
		g.paragraph(r.Text, 0.7)
	}
	for _, pr := range d.Products {
		g.text(pr.Name, 1)
	}
	g.field(d.Title, inTitle)
	g.field(d.Heading, inHeading)
	g.text(d.Heading, 0)
	g.field(strings.NewReplacer("-", " ", "/", " ").Replace(p.path), inPath)
	for i, l := range p.in {
		if i == 30 {
			break
		}
		g.field(l.anchor, inAnchor/float64(i+2))
	}
	return g.finish()
}

// rarity is the inverse document frequency of BM25.
func (ix *index) rarity(list *termList) float64 {
	n, N := float64(list.first), float64(ix.founding)
	return math.Log(1 + (N-n+0.5)/(n+0.5))
}

// saturated is BM25's gain from a term's weight.
func saturated(weight float32) float64 { return float64(weight) / (float64(weight) + 1.6) }

// enough is the share of the terms' weight that a page must hold to be a match.
const enough = 0.3

// eachKnown goes through the terms that some page holds, and returns the sum of their
// rarities. A word that came up after the founding adds nothing to it: it makes no
// older page less of a match.
func (ix *index) eachKnown(terms []string, do func(t string, list *termList, idf float64)) (most float64) {
	for _, t := range terms {
		list := ix.terms[t]
		if list == nil {
			continue
		}
		idf := ix.rarity(list)
		if list.first > 0 {
			most += idf
		}
		do(t, list, idf)
	}
	return most
}

// relevance scores pages for the terms, by BM25 on the weighed frequencies. Where fewer
// than ten hold enough of them, the pages that hold any are matches too.
func (ix *index) relevance(terms []string) []scored {
	board, _ := ix.boards.Get().(*scoreboard)
	if board == nil {
		board = &scoreboard{}
	}
	if short := len(ix.texts) - len(board.scores); short > 0 {
		board.scores = append(board.scores, make([]float64, short)...)
	}
	most := ix.eachKnown(terms, func(_ string, list *termList, idf float64) {
		for _, p := range list.postings {
			if board.scores[p.page] == 0 {
				board.touched = append(board.touched, p.page)
			}
			board.scores[p.page] += idf * saturated(p.weight)
		}
	})
	out := make([]scored, 0, len(board.touched))
	for _, page := range board.touched {
		if s := board.scores[page]; s >= enough*most {
			out = append(out, scored{page, s})
		}
	}
	if len(out) < firstPage && len(board.touched) > len(out) {
		out = out[:0]
		for _, page := range board.touched {
			out = append(out, scored{page, board.scores[page]})
		}
	}
	for _, page := range board.touched {
		board.scores[page] = 0
	}
	board.touched = board.touched[:0]
	ix.boards.Put(board)
	return out
}

// firstPage is how many results the first page holds.
const firstPage = 10

// scored is a page with its relevance.
type scored struct {
	page  int32
	score float64
}

// scoreboard is where scores are added up, by page; all are 0 between two searches.
type scoreboard struct {
	scores  []float64
	touched []int32
}

// relevanceOf scores a page that stands in no index.
func (ix *index) relevanceOf(page []weighted, terms []string) (score float64, ok bool) {
	most := ix.eachKnown(terms, func(t string, _ *termList, idf float64) {
		if i := slices.IndexFunc(page, func(w weighted) bool { return w.stem.text == t }); i >= 0 {
			score += idf * saturated(page[i].weight)
		}
	})
	return score, score >= enough*most
}
