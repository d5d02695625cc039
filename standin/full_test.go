package standin

import (
	"slices"
	"strings"
	"testing"
)

// TestPagesWhereThereAreSearchers: a need that a hundred a month search has a dozen
// pages that set out to answer it, on eight sites; a head has forty; where hardly
// anybody asks there are none to five (ours: common practice, no source).
func TestPagesWhereThereAreSearchers(t *testing.T) {
	onWorlds(t)
	for _, w := range []*World{grown(), grow(2)} {
		on, sites := map[*need]int{}, map[*need]map[*site]bool{}
		for _, p := range w.pages {
			if p.need == nil || p.kind == pageHome {
				continue
			}
			if on[p.need]++; sites[p.need] == nil {
				sites[p.need] = map[*site]bool{}
			}
			sites[p.need][p.site] = true
		}
		for _, n := range w.needs {
			if n.template.Intent == "find" { // who types a name wants one site
				continue
			}
			least, most := 0, 1000
			switch {
			case n.base >= 5000:
				least = 40
			case n.base >= 100:
				least = 12
			case n.base < 50:
				most = 5 + 2 // and the maker's own, and one that an owner liked to write
			}
			if on[n] < least || on[n] > most || least > 0 && len(sites[n]) < 8 {
				t.Errorf("world %d: %q, %.0f searches: %d pages on %d sites", w.Number, n.queries[0].text, n.base, on[n],
					len(sites[n]))
			}
		}
	}
}

// TestHeadsAreInTitles: of the ten for a phrase of 5,000 searches, six and more say all
// its content words in the title (common practice, no source).
func TestHeadsAreInTitles(t *testing.T) {
	w := grown()
	heads, said := 0, 0
	for _, q := range w.queryList {
		if q.steady() < 5000 || q.need.template.Intent == "find" {
			continue
		}
		hits, _ := w.Engine("").Search(Ask{Text: q.text, At: clock})
		n := 0
		for _, h := range hits[:10] {
			all := true
			for _, term := range contentTerms(q.tokens) {
				all = all && strings.Contains(h.page.titleStems, " "+term+" ")
			}
			if all {
				n++
			}
		}
		heads++
		if n >= 6 {
			said++
		}
		t.Logf("%q (%.0f): %d of ten", q.text, q.steady(), n)
	}
	if heads < 8 || said < heads {
		t.Errorf("of %d heads %d have six titles that say it", heads, said)
	}
}

// TestTenResults wherever ten pages share a content word with what is asked.
func TestTenResults(t *testing.T) {
	w := grown()
	for i := 0; i < len(w.queryList); i += 37 {
		q := w.queryList[i]
		if q.typo {
			continue
		}
		for _, e := range w.engines {
			if hits, _ := e.Search(Ask{Text: q.text, At: clock}); len(hits) < 10 {
				t.Errorf("%s has %d results for %q", e.Name, len(hits), q.text)
			}
		}
	}
}

// TestNothingIsRepeated: no page says a sentence twice, heads two sections alike, or
// lists a product twice.
func TestNothingIsRepeated(t *testing.T) {
	w := grown()
	for i := 0; i < len(w.pages); i += 7 {
		p := w.pages[i]
		d := w.write(p)
		seen := map[string]bool{}
		once := func(what, text string) {
			if seen[what+text] {
				t.Errorf("%s says %s twice: %s", p.url(), what, text)
			}
			seen[what+text] = true
		}
		for _, s := range d.Sections {
			once("a heading", s.Heading)
			for _, text := range s.Paragraphs {
				for _, one := range text {
					once("a sentence", one.String())
				}
			}
		}
		for _, step := range d.Steps {
			once("a step", step.String())
		}
		for _, pr := range d.Products {
			once("a product", pr.Name)
		}
	}
}

// TestWeighedAsWritten: a page is weighed without being written; both hold the same words.
func TestWeighedAsWritten(t *testing.T) {
	w := grown()
	for i := 5; i < len(w.pages); i += 211 {
		p := w.pages[i]
		if !p.indexable() {
			continue
		}
		d := w.write(p)
		for _, text := range append([]paragraph{d.Intro}, allParagraphs(d)...) {
			for _, s := range text {
				if !w.index.says(p, tokens(s.String())) {
					t.Fatalf("%s was not weighed with %q", p.url(), s.String())
				}
			}
		}
	}
}

func allParagraphs(d document) (out []paragraph) {
	for _, s := range d.Sections {
		out = append(out, s.Paragraphs...)
	}
	return out
}

// TestOwnSites: each hobby has a site that a user owns, with pages that are found for what
// they are about, some on page one and some on page two.
func TestOwnSites(t *testing.T) {
	w := grown()
	for _, s := range w.scenarios {
		if s.Own == nil || w.sites[s.Own.Domain] == nil {
			t.Errorf("%s has no site of its own", s.Name)
			continue
		}
		st := w.sites[s.Own.Domain]
		first, second := 0, 0
		for _, p := range st.pages[1:] {
			for _, e := range w.engines {
				hits, _ := e.Search(Ask{Text: p.subject, At: clock})
				switch at := slices.IndexFunc(hits, func(h hit) bool { return h.page == p }); {
				case at >= 0 && at < 10:
					first++
				case at >= 10 && at < 20:
					second++
				}
			}
		}
		t.Logf("%s: %d pages; of %d positions %d are on page one, %d on page two", st.domain, len(st.pages)-1,
			(len(st.pages)-1)*len(w.engines), first, second)
		if len(st.pages) < 15 || first == 0 || second == 0 {
			t.Errorf("%s: %d pages, %d on page one, %d on page two", st.domain, len(st.pages), first, second)
		}
	}
}
