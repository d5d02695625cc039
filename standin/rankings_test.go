package standin

import (
	"encoding/json"
	"net/url"
	"slices"
	"strings"
	"testing"
	"time"
)

type ranksSaid struct {
	AsOf    string       `json:"as_of"`
	Total   int          `json:"total"`
	Phrases []rankAnswer `json:"phrases"`
}

func ranksOf(t *testing.T, w *World, params string) (out ranksSaid) {
	t.Helper()
	if err := json.Unmarshal([]byte(body(t, w, "127.0.0.1", "/rankings/v1/phrases?"+params)), &out); err != nil {
		t.Fatal(err)
	}
	return out
}

// TestRankingsAreWhatTheEnginesDid: each place that the service tells is the one that the engine gave a week ago; rare
// phrases and some others are not followed, and some figures are not known.
func TestRankingsAreWhatTheEnginesDid(t *testing.T) {
	w := grown()
	all := ranksOf(t, w, "target=astronotes.example&scope=site&limit=1000&order=phrase")
	at, err := time.Parse(time.DateOnly, all.AsOf)
	if err != nil || w.now.Sub(at) < late || w.now.Sub(at) > late+day || len(all.Phrases) < 50 ||
		all.Total < len(all.Phrases) {
		t.Fatalf("%d of %d as of %q, %v", len(all.Phrases), all.Total, all.AsOf, err)
	}
	unknown := 0
	for i, p := range all.Phrases {
		q := w.queries[p.Phrase]
		if q == nil || !w.follows(q) || q.steady() < followedFrom {
			t.Fatalf("%q is followed", p.Phrase)
		}
		if p.Searches == nil {
			unknown++
		}
		if i%7 > 0 {
			continue
		}
		hits, _ := w.Engine("").Search(Ask{Text: p.Phrase, At: at})
		if hits[p.Place-1].page.url() != p.URL || slices.ContainsFunc(hits[:p.Place-1], func(h hit) bool {
			return h.page.site.domain == "astronotes.example"
		}) {
			t.Errorf("%q: no. %d is %s, told is %s", p.Phrase, p.Place, hits[p.Place-1].page.url(), p.URL)
		}
	}
	if unknown == 0 || unknown > len(all.Phrases)/5 {
		t.Errorf("of %d phrases the searches of %d are not known", len(all.Phrases), unknown)
	}
}

// TestRankingsSift: filters, order and pages at the source; a page and a part of a site; nobody and nonsense.
func TestRankingsSift(t *testing.T) {
	w := grown()
	const site = "target=astronotes.example&scope=site"
	for params, holds := range map[string]func(p rankAnswer) bool{
		"&contains=saturn&lacks=see": func(p rankAnswer) bool { return words(p, "saturn") && !words(p, "see") },
		"&starts=how+to&place_to=10": func(p rankAnswer) bool {
			return strings.HasPrefix(p.Phrase, "how to ") && p.Place <= 10
		},
		"&searches_from=100&searches_to=1000": func(p rankAnswer) bool { return *p.Searches >= 100 && *p.Searches <= 1000 },
		"&ends=telescope&place_from=3&limit=5": func(p rankAnswer) bool {
			return strings.HasSuffix(p.Phrase, " telescope") && p.Place >= 3
		},
	} {
		got := ranksOf(t, w, site+params)
		if len(got.Phrases) == 0 {
			t.Errorf("%s: nothing", params)
		}
		for _, p := range got.Phrases {
			if !holds(p) {
				t.Errorf("%s: %+v", params, p)
			}
		}
	}
	whole, second := ranksOf(t, w, site+"&order=place&limit=20"), ranksOf(t, w, site+"&order=place&limit=10&offset=10")
	if !slices.IsSortedFunc(whole.Phrases, func(a, b rankAnswer) int { return a.Place - b.Place }) ||
		second.Phrases[0].Phrase != whole.Phrases[10].Phrase {
		t.Error("the order or the pages are wrong")
	}
	page := whole.Phrases[0].URL
	one := ranksOf(t, w, "scope=page&target="+url.QueryEscape(page))
	for _, p := range one.Phrases {
		if p.URL != page {
			t.Errorf("of another page: %+v", p)
		}
	}
	part := ranksOf(t, w, "scope=part&limit=1000&target="+url.QueryEscape("http://astronotes.example/blog/"))
	for _, p := range part.Phrases {
		if !strings.HasPrefix(p.URL, "http://astronotes.example/blog/") {
			t.Errorf("of another part: %+v", p)
		}
	}
	if len(one.Phrases) == 0 || len(part.Phrases) == 0 {
		t.Error("a page or a part ranks for nothing")
	}
	if nobody := ranksOf(t, w, "target=nobody.example&scope=site"); nobody.Total != 0 || nobody.Phrases == nil {
		t.Errorf("nobody: %+v", nobody)
	}
	for params, status := range map[string]int{"target=x&scope=page": 400, "target=&scope=site": 400,
		"target=a.example":                        400,
		"target=a.example&scope=site&engine=none": 404} {
		if got := get(t, w, "127.0.0.1", "/rankings/v1/phrases?"+params).StatusCode; got != status {
			t.Errorf("%s: status %d", params, got)
		}
	}
}

func words(p rankAnswer, word string) bool { return slices.Contains(strings.Fields(p.Phrase), word) }

// TestRankingsOfASite: who shares its places stands beside it; top pages, months and countries sum to what the phrases
// bring; ads are those that the results show.
func TestRankingsOfASite(t *testing.T) {
	w := grown()
	const site = "?target=astronotes.example&scope=site&limit=1000"
	read := func(part, params string, into any) {
		t.Helper()
		if err := json.Unmarshal([]byte(body(t, w, "127.0.0.1", "/rankings/v1/"+part+params)), into); err != nil {
			t.Fatal(err)
		}
	}
	visits, phrases := 0.0, ranksOf(t, w, "target=astronotes.example&scope=site&limit=1000")
	for _, p := range phrases.Phrases {
		if p.Visits != nil {
			visits += *p.Visits
		}
	}
	var said struct {
		Sites     []sharerAnswer
		Pages     []topPageAnswer
		Months    []whenAnswer
		Countries []whenAnswer
		Ads       []paidAnswer
	}
	read("sites", site, &said)
	read("pages", site, &said)
	read("months", site, &said)
	read("countries", site, &said)
	if len(said.Sites) < 10 || said.Sites[0].Shared < said.Sites[9].Shared || said.Sites[0].Site == "astronotes.example" {
		t.Errorf("%+v", said.Sites[:min(3, len(said.Sites))])
	}
	sum := 0.0
	for _, p := range said.Pages {
		sum += p.Visits
	}
	if sum < 0.97*visits || phrases.Total == len(phrases.Phrases) && sum > 1.03*visits {
		t.Errorf("top pages bring %.0f, phrases %.0f", sum, visits)
	}
	if len(said.Months) < 12 || said.Countries[0].Country != "US" || said.Countries[0].Visits < said.Countries[1].Visits {
		t.Errorf("%d months, countries %+v", len(said.Months), said.Countries)
	}
	for _, q := range w.queryList {
		if ads := w.adsFor(q); len(ads) > 0 && w.follows(q) {
			host := hostOf(ads[0].URL)
			read("ads", "?target="+host+"&scope=site&limit=1000", &said)
			if !slices.ContainsFunc(said.Ads, func(a paidAnswer) bool { return a.Phrase == q.text }) {
				t.Errorf("%s advertises on %q", host, q.text)
			}
			return
		}
	}
	t.Error("nobody advertises")
}
