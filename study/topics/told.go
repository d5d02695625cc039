package topics

import (
	"slices"
	"strings"

	"cleverniche/core/phrase"
	"cleverniche/core/sieve"
	"cleverniche/core/topic"
	"cleverniche/core/worth"
	"cleverniche/ideatable"
	"cleverniche/store"
)

// hang proposes hubs, and follows those that were chosen by hand.
func (t *Topics) hang() {
	if len(t.List) > mostHung {
		return
	}
	subjects, given := make([]topic.Subject, len(t.List)), map[int]int{}
	for i := range t.List {
		one := &t.List[i]
		said := t.leads.stems(one.ID, one.Lead(), t.Niche.Language)
		one.stem, one.core = said.all, said.core
		subjects[i] = topic.Subject{Stems: one.core, Results: t.founds.Of[one.ID].Results, Searches: one.Searches}
		if one.Decided.Hub == store.NoHub {
			given[i], one.HubHand = topic.NoHub, true
		} else if id, chosen := one.Decided.Hub.Topic(); chosen {
			if h, there := t.byHand[id]; there && h != i {
				given[i], one.HubHand = h, true
			}
		}
	}
	for i, hub := range topic.Hubs(subjects, given) {
		t.List[i].Hub = hub
		if hub != topic.NoHub {
			t.List[hub].Spokes = append(t.List[hub].Spokes, i)
		}
	}
}

// mostHung is of how many topics hubs are told: more are nobody's plan, and take long.
const mostHung = 20_000

// answered notes which topics a page of my own answers.
func (t *Topics) answered() {
	own := t.own
	if t.Niche.OwnSite == "" {
		return
	}
	mine := map[uint32]bool{}
	for number, url := range t.founds.Pages {
		if strings.Contains(url, t.Niche.OwnSite) && t.study.niches.IsOwn(t.Niche, url) {
			mine[uint32(number)] = true
		}
	}
	titles := map[string]string{}
	said := make([]map[string]bool, len(own))
	for i, page := range own {
		titles[page.URL] = page.Title
		said[i] = map[string]bool{}
		for _, stem := range phrase.Stems(phrase.Normal(page.Title), t.Niche.Language) {
			said[i][stem] = true
		}
	}
	for i := range t.List {
		one := &t.List[i]
		seen := map[string]bool{}
		for _, idea := range one.Ideas {
			for place, page := range t.founds.Of[idea.ID].Results {
				if url := t.founds.Page(page); mine[page] && !seen[url] {
					seen[url] = true
					one.Own = append(one.Own, OwnAnswer{url, titles[url], idea.Phrase, place + 1})
				}
			}
		}
		for k, page := range own {
			if !seen[page.URL] && len(one.stem) > 1 &&
				!slices.ContainsFunc(one.stem, func(stem string) bool { return !said[k][stem] }) {
				one.Own = append(one.Own, OwnAnswer{URL: page.URL, Title: page.Title})
			}
		}
		if a := one.Decided.Address; a != "" && !seen[a] {
			one.Own = append(one.Own, OwnAnswer{URL: a, Title: titles[a]})
		}
	}
}

// fillTable puts the topics into columns, so that sieves go by them: each as its lead, with what is joined.
func (t *Topics) fillTable() {
	ideas := make([]sieve.Idea, len(t.List))
	from := t.From.Table
	for i, one := range t.List {
		at, _ := from.Find(one.ID)
		row := from.Idea(at)
		lead, known := from.Number(at, sieve.Searches)
		row.Put(sieve.Members, sieve.Of(float64(len(one.Ideas))))
		if one.Searches >= 0 && (!known || one.Searches != lead) {
			row.Put(sieve.Searches, sieve.Of(one.Searches))
			row.Put(sieve.FirstVisits, sieve.Of(worth.VisitsADay(one.Searches)))
			if v, there := from.Number(at, sieve.Ceiling); there && lead > 0 {
				row.Put(sieve.Ceiling, sieve.Of(v/lead*one.Searches))
			}
		}
		for k, f := range worths {
			if one.worth[k] >= 0 {
				row.Put(f, sieve.Of(one.worth[k]))
			}
		}
		ideas[i] = row
	}
	t.table = t.study.ideas.TableOf(t.Niche.ID, &ideatable.Snapshot{Revision: t.From.Revision,
		Table: sieve.NewTable(t.Niche.Language, ideas)}, t.Overlay)
}

// Near is another topic, and how alike it is.
type Near struct {
	Topic
	Alike float64
}

// Near lists the topics that are most alike to one.
func (t *Topics) Near(one Topic, most int) (out []Near) {
	for _, n := range t.grouping.Near(one.At, most) {
		out = append(out, Near{t.List[n.Topic], n.Alike})
	}
	return out
}

// Fitting lists the topics whose ideas would join an article in the plan if that were open, the most alike first.
func (t *Topics) Fitting(one Topic) (out []Topic) {
	for _, n := range t.fitting[one.At] {
		out = append(out, t.List[n.Topic])
	}
	return out
}

// OneSubject reports whether two topics are about one thing: their leads share a word that says the subject.
func (t *Topics) OneSubject(a, b Topic) bool {
	return slices.ContainsFunc(a.core, func(stem string) bool { return slices.Contains(b.core, stem) })
}

// Beside lists the topics about the same subject that ask why where this one asks how, or the other way:
// they link to each other.
func (t *Topics) Beside(one Topic) (out []Topic) {
	ask := asks(one.Lead())
	if ask == "" {
		return nil
	}
	for _, other := range t.List {
		if o := asks(other.Lead()); other.At != one.At && o != "" && o != ask && topic.OneSubject(one.core, other.core) {
			out = append(out, other)
		}
	}
	return out
}

// asks is what a phrase asks for: why, how, or "" for neither.
func asks(normal string) string {
	for i, w := range phrase.Words(normal) {
		if w == "why" || w == "how" {
			return w
		}
		if i == 2 {
			break
		}
	}
	return ""
}

// Grid is why ideas are one article: those of a topic, and of others beside it, against pages.
type Grid struct {
	topic.Grid
	Blocks []Topic
	URLs   []string
}

// GridOf lays a topic out with others beside it.
func (t *Topics) GridOf(most int, blocks ...Topic) Grid {
	lists := make([][]topic.Idea, len(blocks))
	for b, one := range blocks {
		for _, idea := range one.Ideas {
			lists[b] = append(lists[b], t.founds.Of[idea.ID])
		}
	}
	g := Grid{topic.GridOf(lists, most), blocks, nil}
	for _, page := range g.Pages {
		g.URLs = append(g.URLs, t.founds.Page(page))
	}
	return g
}
