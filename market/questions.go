package market

import (
	"bufio"
	"bytes"
	"cmp"
	"context"
	"encoding/json"
	"encoding/xml"
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"cleverniche/core/demand"
	"cleverniche/core/links"
)

// UserAgent names the application to the servers it asks.
const UserAgent = "CleverNiche/0.1"

// Suggestions asks an OpenSearch Suggestions 1.1 service: a JSON array whose
// first element is the text asked and whose second the completions.
type Suggestions struct{ *caller }

// NewSuggestions returns a client for the source; its base is the address that
// takes q, country and language.
func NewSuggestions(s Source) Suggestions { return Suggestions{newCaller(s, nil)} }

// Suggest implements Suggester.
func (c Suggestions) Suggest(ctx context.Context, text string, in Locale) ([]string, error) {
	a, err := c.get(ctx, "", url.Values{"q": {text}, "country": {in.Country}, "language": {in.Language}},
		"application/x-suggestions+json, application/json")
	if err != nil {
		return nil, err
	}
	if err := c.wantType(a, "application/x-suggestions+json", "application/json"); err != nil {
		return nil, err
	}
	var parts []json.RawMessage
	if err := json.Unmarshal(a.body, &parts); err != nil {
		return nil, c.fail(Malformed, err)
	}
	if len(parts) < 2 {
		return nil, c.fail(Malformed, errors.New("the array has no completions"))
	}
	var asked string
	var out []string
	if err := errors.Join(json.Unmarshal(parts[0], &asked), json.Unmarshal(parts[1], &out)); err != nil {
		return nil, c.fail(Malformed, err)
	}
	if err := c.echoes(asked, text); err != nil {
		return nil, err
	}
	return out, nil
}

// DemandService asks by the protocol of docs/demand.openapi.yaml.
type DemandService struct{ *caller }

// NewDemandService returns a client for the source.
func NewDemandService(s Source) DemandService { return DemandService{newCaller(s, nil)} }

// DemandBatch is how many phrases are asked in one call.
const DemandBatch = 100

// DemandMonths is how many months back are asked.
const DemandMonths = 48

type demandAnswer struct {
	Results []struct {
		Phrase  string `json:"phrase"`
		Monthly []struct {
			Month string `json:"month"`
			Count *int   `json:"count"`
			Under *int   `json:"under"`
		} `json:"monthly"`
		CPC *struct {
			Micros   int64  `json:"micros"`
			Currency string `json:"currency"`
		} `json:"cpc"`
		Competition *float64 `json:"competition"`
		PhraseMatch int      `json:"phrase_match"`
		BroadMatch  int      `json:"broad_match"`
	} `json:"results"`
}

// Demand implements Demander, for at most DemandBatch phrases.
func (c DemandService) Demand(ctx context.Context, phrases []string, in Locale) (map[string]demand.Series, error) {
	body, err := json.Marshal(map[string]any{"phrases": phrases, "country": in.Country,
		"language": in.Language, "months": DemandMonths})
	if err != nil {
		return nil, err
	}
	a, err := c.do(ctx, http.MethodPost, c.source.Base+"/v1/phrases", body, "application/json")
	if err != nil {
		return nil, err
	}
	if err := c.wantType(a, "application/json"); err != nil {
		return nil, err
	}
	var ans demandAnswer
	if err := json.Unmarshal(a.body, &ans); err != nil {
		return nil, c.fail(Malformed, err)
	}
	out := make(map[string]demand.Series, len(ans.Results))
	for _, r := range ans.Results {
		if !slices.Contains(phrases, r.Phrase) {
			return nil, c.fail(Malformed, fmt.Errorf("it answers another question: “%s”", shorten(r.Phrase, 60)))
		}
		s := demand.Series{Competition: -1, PhraseMatch: r.PhraseMatch, BroadMatch: r.BroadMatch}
		for _, m := range r.Monthly {
			month, err := demand.ParseMonth(m.Month)
			if err != nil {
				return nil, c.fail(Malformed, err)
			}
			switch {
			case m.Count != nil && *m.Count >= 0:
				s.Counts = append(s.Counts, demand.Count{Month: month, Searches: *m.Count})
			case m.Under != nil && *m.Under > 0:
				s.Counts = append(s.Counts, demand.Count{Month: month, Searches: *m.Under, Under: true})
			}
		}
		if r.CPC != nil && r.CPC.Micros >= 0 {
			s.CPC = demand.Cost{Micros: r.CPC.Micros, Currency: r.CPC.Currency}
		}
		if r.Competition != nil && *r.Competition >= 0 && *r.Competition <= 1 {
			s.Competition = *r.Competition
		}
		out[r.Phrase] = s
	}
	return out, nil
}

// ResultsService asks a search engine that answers with OpenSearch 1.1 elements
// in an Atom feed (RFC 4287); what stands beside the organic results is in the
// namespace urn:cleverniche:results (docs/results.md).
type ResultsService struct {
	*caller
	Engine string
}

// NewResultsService returns a client for one engine of the source.
func NewResultsService(s Source, engine string) ResultsService {
	return ResultsService{newCaller(s, nil), engine}
}

// On implements EngineSearcher.
func (c ResultsService) On(engine string) Searcher { return ResultsService{c.caller, engine} }

type resultsFeed struct {
	XMLName xml.Name `xml:"http://www.w3.org/2005/Atom feed"`
	Author  string   `xml:"http://www.w3.org/2005/Atom author>name"` // the engine, where none was asked for by name
	Total   int      `xml:"http://a9.com/-/spec/opensearch/1.1/ totalResults"`
	Ads     []struct {
		Above      int    `xml:"above,attr"`
		Advertiser string `xml:"urn:cleverniche:results advertiser"`
		Title      string `xml:"urn:cleverniche:results title"`
		Text       string `xml:"urn:cleverniche:results text"`
		URL        string `xml:"urn:cleverniche:results url"`
	} `xml:"urn:cleverniche:results ad"`
	Shop *struct {
		Above  int `xml:"above,attr"`
		Offers []struct {
			Name     string `xml:"urn:cleverniche:results name"`
			Seller   string `xml:"urn:cleverniche:results seller"`
			Price    string `xml:"urn:cleverniche:results price"`
			Currency string `xml:"urn:cleverniche:results currency"`
		} `xml:"urn:cleverniche:results offer"`
	} `xml:"urn:cleverniche:results shoppingRow"`
	Answer *struct {
		Above int    `xml:"above,attr"`
		Text  string `xml:"urn:cleverniche:results text"`
		URL   string `xml:"urn:cleverniche:results url"`
	} `xml:"urn:cleverniche:results answerBox"`
	Related []struct {
		Above int    `xml:"above,attr"`
		Text  string `xml:",chardata"`
	} `xml:"urn:cleverniche:results relatedQuestion"`
	Entries []struct {
		Title string `xml:"http://www.w3.org/2005/Atom title"`
		Links []struct {
			Href string `xml:"href,attr"`
			Rel  string `xml:"rel,attr"`
		} `xml:"http://www.w3.org/2005/Atom link"`
		Summary string `xml:"http://www.w3.org/2005/Atom summary"`
	} `xml:"http://www.w3.org/2005/Atom entry"`
}

// Search implements Searcher.
func (c ResultsService) Search(ctx context.Context, phrase string, in Locale, depth int) (Results, error) {
	return c.search(ctx, phrase, in, depth, "")
}

// SearchAt implements PastSearcher.
func (c ResultsService) SearchAt(ctx context.Context, phrase string, in Locale, depth int,
	day time.Time) (Results, error) {
	return c.search(ctx, phrase, in, depth, day.Format(time.DateOnly))
}

func (c ResultsService) search(ctx context.Context, phrase string, in Locale, depth int, day string) (Results, error) {
	q := url.Values{"q": {phrase}, "count": {strconv.Itoa(depth)}, "start": {"1"},
		"country": {in.Country}, "language": {in.Language}}
	if c.Engine != "" {
		q.Set("engine", c.Engine)
	}
	if day != "" {
		q.Set("date", day)
	}
	a, err := c.get(ctx, "", q, "application/atom+xml")
	if err != nil {
		return Results{}, err
	}
	if err := c.wantType(a, "application/atom+xml", "application/xml", "text/xml"); err != nil {
		return Results{}, err
	}
	var echo struct {
		Queries []struct {
			Role  string `xml:"role,attr"`
			Terms string `xml:"searchTerms,attr"`
		} `xml:"http://a9.com/-/spec/opensearch/1.1/ Query"`
	}
	if xml.Unmarshal(a.body, &echo) == nil { // a service need not say what it was asked
		for _, q := range echo.Queries {
			if q.Role == "request" {
				if err := c.echoes(q.Terms, phrase); err != nil {
					return Results{}, err
				}
			}
		}
	}
	out, err := c.Read(a.body)
	if err == nil && a.strayed("q", phrase) {
		err = c.fail(Malformed, errors.New("it was sent elsewhere, and what was asked got lost on the way"))
	}
	return out, err
}

// Read reads a results page that was fetched or saved.
func (c ResultsService) Read(body []byte) (Results, error) {
	var feed resultsFeed
	if err := xml.Unmarshal(body, &feed); err != nil {
		return Results{}, c.fail(Malformed, err)
	}
	out := Results{Engine: cmp.Or(c.Engine, strings.TrimSpace(feed.Author)), Total: feed.Total, Ads: len(feed.Ads),
		ShoppingRow: feed.Shop != nil,
		AnswerBox:   feed.Answer != nil}
	beside(&feed, &out)
	for _, e := range feed.Entries {
		href := ""
		for _, l := range e.Links {
			if l.Rel == "" || l.Rel == "alternate" {
				href = l.Href
				break
			}
		}
		if u, err := url.Parse(href); err != nil || u.Scheme != "http" && u.Scheme != "https" || u.Host == "" {
			return Results{}, c.fail(Malformed, fmt.Errorf("result %d has no web address", len(out.Organic)+1))
		}
		out.Organic = append(out.Organic, Organic{len(out.Organic) + 1, href,
			strings.TrimSpace(e.Title), strings.TrimSpace(e.Summary)})
	}
	return out, nil
}

// mostOffers is how many offers of a shopping row are kept.
const mostOffers = 20

// beside reads what stands beside the organic results.
func beside(feed *resultsFeed, out *Results) {
	for _, a := range feed.Ads {
		out.Copy = append(out.Copy, Ad{strings.TrimSpace(a.Advertiser), strings.TrimSpace(a.Title),
			strings.TrimSpace(a.Text), a.URL, max(0, a.Above)})
	}
	for _, q := range feed.Related {
		out.Related = append(out.Related, strings.TrimSpace(q.Text))
		out.RelatedAbove = max(0, q.Above)
	}
	if s := feed.Shop; s != nil {
		out.ShopAbove = max(0, s.Above)
		for _, o := range s.Offers[:min(mostOffers, len(s.Offers))] {
			out.Offers = append(out.Offers, Offer{strings.TrimSpace(o.Name), strings.TrimSpace(o.Seller),
				strings.TrimSpace(o.Price), strings.TrimSpace(o.Currency)})
		}
	}
	if a := feed.Answer; a != nil && strings.TrimSpace(a.Text) != "" {
		out.Answer = &Answer{strings.TrimSpace(a.Text), a.URL, max(0, a.Above)}
	}
}

// LinksService asks by the protocol of docs/links.openapi.yaml.
type LinksService struct{ *caller }

// NewLinksService returns a client for the source.
func NewLinksService(s Source) LinksService { return LinksService{newCaller(s, nil)} }

// Links implements Linker.
func (c LinksService) Links(ctx context.Context, page string) (LinkList, error) {
	a, err := c.get(ctx, "/v1/page", url.Values{"url": {page}, "limit": {"1000"}}, "application/json")
	if err != nil {
		return LinkList{}, err
	}
	if err := c.wantType(a, "application/json"); err != nil {
		return LinkList{}, err
	}
	var ans struct {
		Target string `json:"target"`
		Total  int    `json:"total"`
		Links  []struct {
			From      string `json:"from"`
			Anchor    string `json:"anchor"`
			Rel       string `json:"rel"`
			FirstSeen string `json:"first_seen"`
		} `json:"links"`
	}
	if err := json.Unmarshal(a.body, &ans); err != nil {
		return LinkList{}, c.fail(Malformed, err)
	}
	if err := c.echoes(ans.Target, page); err != nil {
		return LinkList{}, err
	}
	if a.strayed("url", page) {
		return LinkList{}, c.fail(Malformed, errors.New("it was sent elsewhere, and what was asked got lost on the way"))
	}
	out := LinkList{Total: ans.Total}
	for _, l := range ans.Links {
		seen, _ := time.Parse(time.DateOnly, l.FirstSeen)
		out.Links = append(out.Links, links.Link{From: l.From, To: page, Anchor: l.Anchor, Rel: l.Rel, FirstSeen: seen})
	}
	return out, nil
}

// Graph implements Linker: the followed links between sites, as two text files,
// vertices (number, name) and edges (from, to), separated by tabs.
func (c LinksService) Graph(ctx context.Context) (links.SiteGraph, error) {
	var files [2]answer
	for i, path := range []string{"/v1/graph/vertices", "/v1/graph/edges"} {
		a, err := c.get(ctx, path, nil, "text/plain")
		if err != nil {
			return links.SiteGraph{}, err
		}
		if err := c.wantType(a, "text/plain", "text/tab-separated-values"); err != nil {
			return links.SiteGraph{}, err
		}
		if !bytes.HasSuffix(a.body, []byte("\n")) {
			return links.SiteGraph{}, c.fail(Malformed, errors.New("a file of the site graph ends in the middle of a line"))
		}
		files[i] = a
	}
	g, err := ReadGraph(files[0].body, files[1].body)
	if err != nil {
		return links.SiteGraph{}, c.fail(Malformed, err)
	}
	return g, nil
}

// ReadGraph reads the two files of a site graph: "number<tab>name" and
// "from<tab>to", one a line, as public web-graph releases write them.
func ReadGraph(vertices, edges []byte) (links.SiteGraph, error) {
	var g links.SiteGraph
	at := map[int]int{}
	err := eachPair("vertices", vertices, func(a, b string) error {
		n, err := strconv.Atoi(a)
		if err != nil || b == "" {
			return errors.New("is not “number, name”")
		}
		at[n] = len(g.Names)
		g.Names = append(g.Names, b)
		return nil
	})
	if err != nil {
		return g, err
	}
	err = eachPair("edges", edges, func(a, b string) error {
		from, err1 := strconv.Atoi(a)
		to, err2 := strconv.Atoi(b)
		i, ok1 := at[from]
		j, ok2 := at[to]
		if err1 != nil || err2 != nil || !ok1 || !ok2 {
			return errors.New("does not name two vertices")
		}
		g.Edges = append(g.Edges, links.Edge{From: i, To: j})
		return nil
	})
	return g, err
}

func eachPair(name string, data []byte, do func(a, b string) error) error {
	lines := bufio.NewScanner(bytes.NewReader(data))
	for n := 1; lines.Scan(); n++ {
		if lines.Text() == "" {
			continue
		}
		a, b, _ := strings.Cut(lines.Text(), "\t")
		if err := do(a, strings.TrimSpace(b)); err != nil {
			return fmt.Errorf("line %d of the %s %w", n, name, err)
		}
	}
	return lines.Err()
}
