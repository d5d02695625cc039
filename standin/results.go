package standin

import (
	"encoding/xml"
	"fmt"
	"hash/fnv"
	"io"
	"math"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"time"
)

// Atom (RFC 4287) and OpenSearch 1.1 elements of a results page, and our own for
// what stands beside the organic results (docs/results.md).
type atomFeed struct {
	XMLName xml.Name    `xml:"http://www.w3.org/2005/Atom feed"`
	Title   string      `xml:"title"`
	ID      string      `xml:"id"`
	Updated string      `xml:"updated"`
	Author  string      `xml:"author>name"`
	Self    atomLink    `xml:"link"`
	Total   int         `xml:"http://a9.com/-/spec/opensearch/1.1/ totalResults"`
	Start   int         `xml:"http://a9.com/-/spec/opensearch/1.1/ startIndex"`
	PerPage int         `xml:"http://a9.com/-/spec/opensearch/1.1/ itemsPerPage"`
	Query   asked       `xml:"http://a9.com/-/spec/opensearch/1.1/ Query"`
	Ads     []ad        `xml:"urn:cleverniche:results ad"`
	Shop    *shopping   `xml:"urn:cleverniche:results shoppingRow"`
	Answer  *answerBox  `xml:"urn:cleverniche:results answerBox"`
	Related []question  `xml:"urn:cleverniche:results relatedQuestion"`
	Entries []atomEntry `xml:"entry"`
}

type asked struct {
	Role  string `xml:"role,attr"`
	Terms string `xml:"searchTerms,attr"`
}

type ad struct {
	Above      int    `xml:"above,attr"` // which organic result it stands
	Advertiser string `xml:"advertiser"`
	Title      string `xml:"title"`
	Text       string `xml:"text"`
	URL        string `xml:"url"`
}

type question struct {
	Above int    `xml:"above,attr"`
	Text  string `xml:",chardata"`
}

type shopping struct {
	Above  int     `xml:"above,attr"`
	Offers []offer `xml:"offer"`
}

type offer struct {
	Name     string `xml:"name"`
	Seller   string `xml:"seller"`
	Price    string `xml:"price"`
	Currency string `xml:"currency"`
}

type answerBox struct {
	Above int    `xml:"above,attr"`
	Text  string `xml:"text"`
	URL   string `xml:"url"`
}

type atomEntry struct {
	Title   string   `xml:"title"`
	Link    atomLink `xml:"link"`
	ID      string   `xml:"id"`
	Updated string   `xml:"updated"`
	Summary string   `xml:"summary"`
}

type atomLink struct {
	Rel  string `xml:"rel,attr,omitempty"`
	Href string `xml:"href,attr"`
}

// estimate is how many pages of the whole world one page of this sample stands for.
const estimate = 1730

// deepest is how far down a ranking can be read.
const deepest = 100

func (w *World) serveSearch(rw http.ResponseWriter, r *http.Request) {
	v := r.URL.Query()
	e := w.Engine(v.Get("engine"))
	if e == nil {
		problem(rw, http.StatusNotFound, "no engine %q; there are %s", v.Get("engine"), strings.Join(EngineNames, ", "))
		return
	}
	text := strings.TrimSpace(v.Get("q"))
	if text == "" {
		problem(rw, http.StatusBadRequest, "q is empty")
		return
	}
	at := w.now
	if date := v.Get("date"); date != "" {
		t, err := time.Parse(time.DateOnly, date)
		if err != nil || t.After(w.now) || w.now.Sub(t) > 4*366*day {
			problem(rw, http.StatusBadRequest, "date %q is no day of the last four years of the form 2006-01-02", date)
			return
		}
		at = t
	}
	count, start := within(v.Get("count"), 10, 1, deepest), within(v.Get("start"), 1, 1, deepest)
	ask := Ask{Text: text, Country: v.Get("country"), Language: v.Get("language"), At: at}
	hits, matches := e.Search(ask)
	if hits = hits[:min(deepest, len(hits))]; v.Get("engine") == "" {
		v.Set("engine", e.Name)
	}
	self := "http://" + r.Host + "/search?" + v.Encode()
	feed := atomFeed{Title: "Results for " + text, ID: self, Updated: at.Format(time.RFC3339), Author: e.Name,
		Self: atomLink{"self", self}, Total: matches * estimate, Start: start, PerPage: count, Query: asked{"request", text}}
	w.surround(&feed, text, hits, placeOf(ask.Country, ask.Language))
	feed.lay(min(10, len(hits)))
	for _, h := range hits[min(start-1, len(hits)):min(start-1+count, len(hits))] {
		feed.Entries = append(feed.Entries, atomEntry{Title: h.page.title, Link: atomLink{Href: h.page.url()},
			ID:      h.page.url(),
			Updated: h.page.modifiedAt(at).Format(time.RFC3339), Summary: w.write(h.page).describe()})
	}
	rw.Header().Set("Content-Type", "application/atom+xml; charset=utf-8")
	io.WriteString(rw, xml.Header)
	enc := xml.NewEncoder(rw)
	enc.Indent("", " ")
	enc.Encode(feed)
}

// surround adds what stands beside the organic results.
func (w *World) surround(feed *atomFeed, text string, hits []hit, in place) {
	q := w.understand(parseQuery(text).words)
	if q == nil {
		return
	}
	switch q.need.template.Intent {
	case "buy":
		feed.Shop = w.shoppingRow(q, in)
	case "learn":
		h := fnv.New32a()
		h.Write([]byte(q.text))
		if h.Sum32()%3 == 0 && len(hits) > 0 {
			feed.Answer = &answerBox{Text: w.write(hits[0].page).Intro.String(), URL: hits[0].page.url()}
		}
	}
	feed.Ads = w.adsFor(q)
	for _, other := range q.need.queries {
		if other != q && len(other.tokens) > 2 && isQuestion(other.tokens[0]) {
			feed.Related = append(feed.Related, question{Text: other.text})
		}
	}
	for _, other := range w.hints.words[rarest(w.hints, q.tokens)] {
		if len(feed.Related) >= 4 {
			break
		}
		if other.need != q.need && isQuestion(other.tokens[0]) && !slices.Contains(feed.Related, question{Text: other.text}) {
			feed.Related = append(feed.Related, question{Text: other.text})
		}
	}
}

// lay says where on a page of so many results each thing stands: the first ads, shops and answers at the top, questions
// after the third, the other ads below.
func (f *atomFeed) lay(results int) {
	const topAds, questionsAfter = 2, 3
	for i := range f.Ads {
		if f.Ads[i].Above = 1; i >= topAds {
			f.Ads[i].Above = results + 1
		}
	}
	for i := range f.Related {
		f.Related[i].Above = min(questionsAfter, results) + 1
	}
	if f.Shop != nil {
		f.Shop.Above = 1
	}
	if f.Answer != nil {
		f.Answer.Above = 1
	}
}

func isQuestion(first string) bool {
	return slices.Contains(strings.Fields("how what why is can do does where when which are"), first)
}

// rarest is the word of a query that the fewest others hold.
func rarest(h *hints, toks []string) string {
	best := ""
	for _, t := range toks {
		if n := len(h.words[t]); !stopWords[t] && n > 0 && (best == "" || n < len(h.words[best])) {
			best = t
		}
	}
	return best
}

var adCopy = []string{"%s at fair prices. Sent the same day.", "Everything for %s under one roof.",
	"%s: see what is new this season.",
	"We answer the telephone when you ask about %s."}

// adsFor are those that stand beside the results of a query: where somebody buys or compares, more the dearer a click.
func (w *World) adsFor(q *query) []ad {
	switch q.need.template.Intent {
	case "buy":
		return w.ads(q, min(4, 1+int(q.need.cpc/0.4)))
	case "compare":
		return w.ads(q, min(4, int(q.need.cpc/0.4)))
	}
	return nil
}

// ads draws who pays for a place beside the results: shops and makers of the hobby,
// those that the phrase names first.
func (w *World) ads(q *query, n int) []ad {
	var sellers []*site
	for _, st := range w.siteList {
		if (st.kind == marketplace || st.kind == maker) && slices.Contains(st.hobbies, q.need.hobby) {
			sellers = append(sellers, st)
		}
	}
	rng := w.random("ads", q.text)
	var out []ad
	for i := range min(n, len(sellers)) {
		j := i + rng.IntN(len(sellers)-i)
		sellers[i], sellers[j] = sellers[j], sellers[i]
		out = append(out, ad{Advertiser: sellers[i].title, Title: headline(q.text) + " – " + sellers[i].title,
			Text: fmt.Sprintf(adCopy[rng.IntN(len(adCopy))], q.text), URL: sellers[i].pages[0].url()})
	}
	return out
}

func (w *World) shoppingRow(q *query, in place) *shopping {
	rng := w.random("row", q.text)
	row := &shopping{}
	sellers := w.ads(q, 5)
	for i, pr := range w.productsFor(&page{hobby: q.need.hobby, need: q.need, site: &site{}}, len(sellers), rng) {
		row.Offers = append(row.Offers, offer{pr.Name, sellers[i].Advertiser,
			strconv.FormatFloat(math.Round(float64(pr.Price)*in.rate), 'f', 2, 64), in.currency})
	}
	return row
}

// description is the OpenSearch 1.1 description document: how to ask.
const description = xml.Header + `<OpenSearchDescription xmlns="http://a9.com/-/spec/opensearch/1.1/"
 xmlns:x="http://a9.com/-/spec/opensearch/extensions/parameters/1.0/">
 <ShortName>Stand-in web</ShortName>
 <Description>A small simulated internet. Engines: %s. ` +
	`Operators: quotes, intitle:, site: and a minus before a word.</Description>
 <Url type="application/atom+xml"
  template="http://%[2]s/search?q={searchTerms}&amp;count={count?}&amp;start={startIndex?}&amp;language={language?}"/>
 <Url type="application/x-suggestions+json" rel="suggestions"
  template="http://%[2]s/suggest?q={searchTerms}&amp;language={language?}"/>
 <Query role="example" searchTerms="stargazing binoculars"/>
 <Language>en</Language>
 <OutputEncoding>UTF-8</OutputEncoding>
 <InputEncoding>UTF-8</InputEncoding>
</OpenSearchDescription>
`

func serveDescription(rw http.ResponseWriter, r *http.Request) {
	rw.Header().Set("Content-Type", "application/opensearchdescription+xml")
	var host strings.Builder
	xml.EscapeText(&host, []byte(r.Host))
	fmt.Fprintf(rw, description, strings.Join(EngineNames, ", "), host.String())
}
