package standin

import (
	"encoding/json"
	"encoding/xml"
	"errors"
	"fmt"
	"hash/fnv"
	"io"
	"math"
	"net"
	"net/http"
	"strconv"
	"strings"
	"time"
)

// Options say how the stand-in serves.
type Options struct {
	Latency time.Duration // added to every answer
}

// Handler serves the world. Requests whose Host is a site of the world get its
// pages; all others get the protocols:
//
//	GET  /suggest?q=                OpenSearch Suggestions 1.1
//	POST /demand/v1/phrases         docs/demand.openapi.yaml
//	GET  /search?q=&count=&start=   OpenSearch 1.1 response in Atom
//	GET  /links/v1/page?url=        docs/links.openapi.yaml
//	GET  /links/v1/graph/vertices   the site graph: number, name
//	GET  /links/v1/graph/edges      the site graph: from, to
//	GET  /health                    what the world holds
func (w *World) Handler(o Options) http.Handler {
	api := http.NewServeMux()
	api.HandleFunc("GET /suggest", w.serveSuggest)
	api.HandleFunc("POST /demand/v1/phrases", w.serveDemand)
	api.HandleFunc("GET /search", w.serveSearch)
	api.HandleFunc("GET /links/v1/page", w.serveLinks)
	api.HandleFunc("GET /links/v1/graph/vertices", w.serveVertices)
	api.HandleFunc("GET /links/v1/graph/edges", w.serveEdges)
	api.HandleFunc("GET /health", func(rw http.ResponseWriter, _ *http.Request) { writeJSON(rw, w.Count()) })
	return http.HandlerFunc(func(rw http.ResponseWriter, r *http.Request) {
		if o.Latency > 0 {
			select {
			case <-time.After(o.Latency):
			case <-r.Context().Done():
				return
			}
		}
		host, _, err := net.SplitHostPort(r.Host)
		if err != nil {
			host = r.Host
		}
		if st := w.sites[host]; st != nil {
			w.serveSite(rw, r, st)
			return
		}
		for _, suffix := range []string{".example", ".test", ".invalid"} {
			if strings.HasSuffix(host, suffix) {
				http.Error(rw, "no such site in this world", http.StatusNotFound)
				return
			}
		}
		api.ServeHTTP(rw, r)
	})
}

func writeJSON(rw http.ResponseWriter, v any) {
	rw.Header().Set("Content-Type", "application/json")
	if err := json.NewEncoder(rw).Encode(v); err != nil {
		http.Error(rw, err.Error(), http.StatusInternalServerError)
	}
}

// problem answers with RFC 9457 problem details.
func problem(rw http.ResponseWriter, status int, format string, args ...any) {
	rw.Header().Set("Content-Type", "application/problem+json")
	rw.WriteHeader(status)
	json.NewEncoder(rw).Encode(map[string]any{"title": http.StatusText(status), "status": status,
		"detail": fmt.Sprintf(format, args...)})
}

func (w *World) serveSuggest(rw http.ResponseWriter, r *http.Request) {
	q := r.URL.Query().Get("q")
	found := w.Complete(q, 10)
	if found == nil {
		found = []string{}
	}
	rw.Header().Set("Content-Type", "application/x-suggestions+json")
	json.NewEncoder(rw).Encode([]any{q, found})
}

// demandRequest and demandAnswer follow docs/demand.openapi.yaml.
type demandRequest struct {
	Phrases  []string `json:"phrases"`
	Country  string   `json:"country"`
	Language string   `json:"language"`
	Months   int      `json:"months"`
}

type demandAnswer struct {
	Results []demandResult `json:"results"`
}

type demandResult struct {
	Phrase      string        `json:"phrase"`
	Monthly     []demandMonth `json:"monthly"`
	CPC         *demandMoney  `json:"cpc,omitempty"`
	Competition *float64      `json:"competition,omitempty"`
	PhraseMatch int           `json:"phrase_match"`
	BroadMatch  int           `json:"broad_match"`
}

type demandMonth struct {
	Month string `json:"month"`
	Count *int   `json:"count,omitempty"`
	Under *int   `json:"under,omitempty"`
}

type demandMoney struct {
	Micros   int64  `json:"micros"`
	Currency string `json:"currency"`
}

// Limits of the demand protocol.
const (
	mostPhrases = 200
	mostMonths  = 48
	floor       = 10
)

func (w *World) serveDemand(rw http.ResponseWriter, r *http.Request) {
	var req demandRequest
	if err := json.NewDecoder(io.LimitReader(r.Body, 1<<20)).Decode(&req); err != nil {
		problem(rw, http.StatusBadRequest, "the request is not the JSON object of the protocol: %v", err)
		return
	}
	if len(req.Phrases) == 0 || len(req.Phrases) > mostPhrases {
		problem(rw, http.StatusUnprocessableEntity, "phrases must hold 1 to %d", mostPhrases)
		return
	}
	if req.Months < 1 || req.Months > mostMonths {
		req.Months = 12
	}
	ans := demandAnswer{Results: []demandResult{}}
	for _, p := range req.Phrases {
		ans.Results = append(ans.Results, w.demandOf(p, req.Months))
	}
	writeJSON(rw, ans)
}

func (w *World) demandOf(text string, months int) demandResult {
	toks := tokens(text)
	res := demandResult{Phrase: text}
	q := w.queries[strings.Join(toks, " ")]
	last := time.Date(w.Clock.Year(), w.Clock.Month(), 1, 0, 0, 0, 0, time.UTC)
	for i := months; i >= 1; i-- {
		month := last.AddDate(0, -i, 0)
		n := 0
		if q != nil {
			n = w.searches(q, month)
		}
		m := demandMonth{Month: month.Format("2006-01")}
		if n < floor {
			under := floor
			m.Under = &under
		} else {
			m.Count = &n
		}
		res.Monthly = append(res.Monthly, m)
	}
	if q == nil {
		return res
	}
	rng := w.random("bids", q.text)
	cpc := q.need.cpc * math.Exp(0.15*rng.NormFloat64())
	res.CPC = &demandMoney{int64(math.Round(cpc*100)) * 10000, "USD"}
	competition := math.Round(100*math.Min(1, cpc/(cpc+0.8)+0.1*rng.Float64())) / 100
	res.Competition = &competition
	res.PhraseMatch, res.BroadMatch = w.matches(toks)
	return res
}

// matches counts searches a month of queries that hold the tokens as a phrase,
// and in any order.
func (w *World) matches(toks []string) (phrase, broad int) {
	rarest := ""
	for _, t := range toks {
		if rarest == "" || len(w.hints.words[t]) < len(w.hints.words[rarest]) {
			rarest = t
		}
	}
	joined := " " + strings.Join(toks, " ") + " "
	var inPhrase, inAny float64
	for _, q := range w.hints.words[rarest] {
		all := true
		for _, t := range toks {
			all = all && contains(q.tokens, t)
		}
		if all {
			inAny += q.steady()
		}
		if strings.Contains(" "+q.text+" ", joined) {
			inPhrase += q.steady()
		}
	}
	return int(inPhrase), int(inAny)
}

// Atom and OpenSearch elements of a results page.
type atomFeed struct {
	XMLName xml.Name    `xml:"http://www.w3.org/2005/Atom feed"`
	Title   string      `xml:"title"`
	ID      string      `xml:"id"`
	Updated string      `xml:"updated"`
	Author  string      `xml:"author>name"`
	Total   int         `xml:"http://a9.com/-/spec/opensearch/1.1/ totalResults"`
	Start   int         `xml:"http://a9.com/-/spec/opensearch/1.1/ startIndex"`
	PerPage int         `xml:"http://a9.com/-/spec/opensearch/1.1/ itemsPerPage"`
	Ads     int         `xml:"urn:cleverniche:results ads"`
	Shop    bool        `xml:"urn:cleverniche:results shoppingRow"`
	Answer  bool        `xml:"urn:cleverniche:results answerBox"`
	Related []string    `xml:"urn:cleverniche:results relatedQuestion"`
	Entries []atomEntry `xml:"entry"`
}

type atomEntry struct {
	Title   string   `xml:"title"`
	Link    atomLink `xml:"link"`
	ID      string   `xml:"id"`
	Updated string   `xml:"updated"`
	Summary string   `xml:"summary"`
}

type atomLink struct {
	Href string `xml:"href,attr"`
}

// estimate is how many pages of the whole world one page of this sample stands for.
const estimate = 1730

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
	at := w.Clock
	if day := v.Get("date"); day != "" {
		t, err := time.Parse("2006-01-02", day)
		if err != nil || t.After(w.Clock) {
			problem(rw, http.StatusBadRequest, "date %q is no past day of the form 2006-01-02", day)
			return
		}
		at = t
	}
	count, start := within(v.Get("count"), 10, 1, 100), within(v.Get("start"), 1, 1, 100)
	hits, matches := e.Search(text, at)
	feed := atomFeed{Title: "Results for " + text, ID: "urn:world:" + strconv.Itoa(w.Number) + ":" + e.Name + ":" + r.URL.RawQuery,
		Updated: at.Format(time.RFC3339), Author: e.Name, Total: matches * estimate, Start: start, PerPage: count}
	w.surround(&feed, text)
	for i := start - 1; i < len(hits) && i < start-1+count; i++ {
		p := hits[i].page
		feed.Entries = append(feed.Entries, atomEntry{Title: p.title, Link: atomLink{p.url()}, ID: p.url(),
			Updated: p.modified.Format(time.RFC3339), Summary: w.write(p).Description})
	}
	rw.Header().Set("Content-Type", "application/atom+xml; charset=utf-8")
	io.WriteString(rw, xml.Header)
	enc := xml.NewEncoder(rw)
	enc.Indent("", " ")
	enc.Encode(feed)
}

// surround adds what stands beside the organic results.
func (w *World) surround(feed *atomFeed, text string) {
	q := w.understand(tokens(text))
	if q == nil {
		return
	}
	t := q.need.template
	switch t.Intent {
	case "buy":
		feed.Ads, feed.Shop = min(4, 1+int(q.need.cpc/0.4)), true
	case "compare":
		feed.Ads = min(4, int(q.need.cpc/0.4))
	case "learn":
		h := fnv.New32a()
		h.Write([]byte(q.text))
		feed.Answer = h.Sum32()%3 == 0
	}
	for _, other := range q.need.queries {
		if other != q && len(other.tokens) > 2 && strings.Contains("how what why is can do does where when which are", other.tokens[0]) {
			feed.Related = append(feed.Related, other.text)
		}
	}
}

func within(s string, otherwise, low, high int) int {
	n, err := strconv.Atoi(s)
	if err != nil {
		return otherwise
	}
	return max(low, min(high, n))
}

type linksAnswer struct {
	Target string       `json:"target"`
	Total  int          `json:"total"`
	Links  []linkAnswer `json:"links"`
}

type linkAnswer struct {
	From      string `json:"from"`
	Anchor    string `json:"anchor"`
	Rel       string `json:"rel,omitempty"`
	FirstSeen string `json:"first_seen"`
}

func (w *World) serveLinks(rw http.ResponseWriter, r *http.Request) {
	target := r.URL.Query().Get("url")
	limit := within(r.URL.Query().Get("limit"), 1000, 1, 1000)
	p, err := w.lookup(target)
	if err != nil {
		problem(rw, http.StatusBadRequest, "%v", err)
		return
	}
	ans := linksAnswer{Target: target, Links: []linkAnswer{}}
	if p != nil {
		ans.Total = len(p.in)
		for _, l := range p.in[:min(limit, len(p.in))] {
			ans.Links = append(ans.Links, linkAnswer{l.fromURL(), l.anchor, l.rel, l.seen.Format("2006-01-02")})
		}
	}
	writeJSON(rw, ans)
}

var errTarget = errors.New("url must be an absolute http or https address")

// lookup finds the page of an address; nil when the world has none.
func (w *World) lookup(target string) (*page, error) {
	rest, ok := strings.CutPrefix(target, "http://")
	if !ok {
		if rest, ok = strings.CutPrefix(target, "https://"); !ok {
			return nil, errTarget
		}
	}
	host, path, _ := strings.Cut(rest, "/")
	if host == "" {
		return nil, errTarget
	}
	if st := w.sites[strings.ToLower(host)]; st != nil {
		return st.byPath["/"+path], nil
	}
	return nil, nil
}

func (w *World) serveVertices(rw http.ResponseWriter, _ *http.Request) {
	rw.Header().Set("Content-Type", "text/plain; charset=utf-8")
	for _, st := range w.siteList {
		fmt.Fprintf(rw, "%d\t%s\n", st.id, st.domain)
	}
}

func (w *World) serveEdges(rw http.ResponseWriter, _ *http.Request) {
	rw.Header().Set("Content-Type", "text/plain; charset=utf-8")
	for _, e := range w.siteEdges() {
		fmt.Fprintf(rw, "%d\t%d\n", e[0], e[1])
	}
}

func (w *World) serveSite(rw http.ResponseWriter, r *http.Request, st *site) {
	switch r.URL.Path {
	case "/robots.txt":
		fmt.Fprintf(rw, "User-agent: *\nDisallow: /basket\nSitemap: http://%s/sitemap.xml\n", st.domain)
		return
	case "/sitemap.xml":
		rw.Header().Set("Content-Type", "application/xml; charset=utf-8")
		io.WriteString(rw, xml.Header+`<urlset xmlns="http://www.sitemaps.org/schemas/sitemap/0.9">`+"\n")
		for _, p := range st.pages {
			fmt.Fprintf(rw, "<url><loc>%s</loc><lastmod>%s</lastmod></url>\n", p.url(), p.modified.Format("2006-01-02"))
		}
		io.WriteString(rw, "</urlset>\n")
		return
	}
	path := strings.TrimSuffix(r.URL.Path, "--now")
	p := st.byPath[path]
	switch {
	case p == nil || p.fault == gone:
		http.Error(rw, "not found", http.StatusNotFound)
	case p.fault == broken:
		http.Error(rw, "this server is out of order", http.StatusInternalServerError)
	case p.fault == moved && path == r.URL.Path:
		http.Redirect(rw, r, path+"--now", http.StatusMovedPermanently)
	default:
		rw.Header().Set("Content-Type", "text/html")
		if p.fault != oldCharset {
			rw.Header().Set("Content-Type", "text/html; charset=utf-8")
		}
		rw.Header().Set("Last-Modified", p.modified.Format(http.TimeFormat))
		rw.Write(w.html(p))
	}
}
