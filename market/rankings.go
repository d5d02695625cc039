package market

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"cleverniche/core/demand"
	"cleverniche/market/files"
)

// PhraseRanker answers: what does this page or site rank for?
type PhraseRanker interface {
	Ranks(ctx context.Context, q RanksAsked, in Locale) (Ranks, error)
}

// Part is something that a service may know of what ranks.
type Part string

// The parts.
const (
	PhrasesPart   Part = "phrases" // for which a page or a site ranks
	SitesPart     Part = "sites"   // that share a site's places
	PagesPart     Part = "pages"   // that bring a site most
	MonthsPart    Part = "months"  // how it went for a site
	CountriesPart Part = "countries"
	AdsPart       Part = "ads"
)

// SiteRanker knows of a site also who shares its places, which pages bring it what, how it went, and what it pays for,
// or some of these.
type SiteRanker interface {
	PhraseRanker
	Knows(p Part) bool
	Sharers(ctx context.Context, of Target, in Locale, most int) (Sharers, error)
	TopPages(ctx context.Context, of Target, in Locale, most int) (TopPages, error)
	Months(ctx context.Context, of Target, in Locale) (SiteMonths, error)
	Countries(ctx context.Context, of Target, in Locale) (SiteCountries, error)
	Advertised(ctx context.Context, of Target, in Locale, most int) (Advertised, error)
}

// Scope is how much of a site a question is about.
type Scope string

// The scopes.
const (
	OnePage  Scope = "page" // an address
	OnePart  Scope = "part" // all addresses that begin with one
	OneHost  Scope = "host" // a host name alone
	AllHosts Scope = "site" // a registrable domain and all hosts under it
)

// Target is a page or a site that rankings are asked for.
type Target struct {
	Name   string
	Scope  Scope
	Engine string `json:",omitempty"` // "" as the settings say
}

// RanksAsked is a question for phrases, sifted and paged at the source. Zero values sift nothing.
type RanksAsked struct {
	Target
	Contains     string `json:",omitempty"` // words, all of them
	Lacks        string `json:",omitempty"` // words, none of them
	Starts, Ends string `json:",omitempty"`
	PlaceFrom    int    `json:",omitempty"`
	PlaceTo      int    `json:",omitempty"`
	SearchesFrom int    `json:",omitempty"`
	SearchesTo   int    `json:",omitempty"`
	Order        string `json:",omitempty"` // visits, searches, place or phrase
	Offset       int    `json:",omitempty"`
	Limit        int    `json:",omitempty"` // 0 is MostRanks; who cannot page brings more
}

// MostRanks is how many phrases one question brings at most.
const MostRanks = 1000

func orMost(limit int) int {
	if limit <= 0 || limit > MostRanks {
		return MostRanks
	}
	return limit
}

// Passes reports whether a phrase is asked for.
func (q RanksAsked) Passes(r Rank) bool {
	words := strings.Fields(strings.ToLower(r.Phrase))
	text := strings.Join(words, " ")
	has := func(w string) bool { return slices.Contains(words, w) }
	all := strings.Fields(strings.ToLower(q.Contains))
	if slices.ContainsFunc(all, func(w string) bool { return !has(w) }) ||
		slices.ContainsFunc(strings.Fields(strings.ToLower(q.Lacks)), has) {
		return false
	}
	starts := strings.Join(strings.Fields(strings.ToLower(q.Starts)), " ")
	ends := strings.Join(strings.Fields(strings.ToLower(q.Ends)), " ")
	searches := 0
	if r.Searches != nil {
		searches = *r.Searches
	}
	return (starts == "" || strings.HasPrefix(text+" ", starts+" ")) &&
		(ends == "" || strings.HasSuffix(" "+text, " "+ends)) &&
		r.Place >= q.PlaceFrom && (q.PlaceTo == 0 || r.Place <= q.PlaceTo) &&
		searches >= q.SearchesFrom && (q.SearchesTo == 0 || searches <= q.SearchesTo) && q.within(r.URL)
}

// within reports whether an address is of what is asked about.
func (q RanksAsked) within(address string) bool {
	switch q.Scope {
	case OnePage:
		return address == q.Name
	case OnePart:
		return strings.HasPrefix(address, q.Name)
	}
	u, err := url.Parse(address)
	if err != nil {
		return false
	}
	host, name := strings.ToLower(u.Hostname()), strings.ToLower(q.Name)
	return host == name || q.Scope == AllHosts && strings.HasSuffix(host, "."+name)
}

// sort puts phrases into the order that is asked for; what is unknown comes last.
func (q RanksAsked) sort(list []Rank) {
	slices.SortStableFunc(list, func(a, b Rank) int {
		switch q.Order {
		case "searches":
			return cmp.Compare(orNone(b.Searches), orNone(a.Searches))
		case "place":
			return cmp.Compare(a.Place, b.Place)
		case "phrase":
			return strings.Compare(a.Phrase, b.Phrase)
		}
		return cmp.Compare(orNone(b.Visits), orNone(a.Visits))
	})
}

func orNone[T int | float64](x *T) T {
	if x == nil {
		return -1
	}
	return *x
}

// Ranks are phrases for which somebody ranks.
type Ranks struct {
	AsOf  time.Time `json:"asOf"` // zero not said
	Total int       `json:"total"`
	List  []Rank    `json:"list"`
}

// Rank is one such phrase. Searches and Visits are a month's; nil is unknown.
type Rank struct {
	Phrase   string   `json:"phrase"`
	Place    int      `json:"place"`
	URL      string   `json:"url"`
	Searches *int     `json:"searches,omitempty"`
	Visits   *float64 `json:"visits,omitempty"`
}

// Sharers are sites that stand beside one.
type Sharers struct {
	AsOf  time.Time `json:"asOf"`
	Total int       `json:"total"`
	List  []Sharer  `json:"list"`
}

// Sharer is such a site: how many phrases it shares, and how many it ranks for in all; nil is unknown.
type Sharer struct {
	Site    string   `json:"site"`
	Shared  int      `json:"shared"`
	Phrases *int     `json:"phrases,omitempty"`
	Visits  *float64 `json:"visits,omitempty"`
}

// TopPages are the pages that bring a site most.
type TopPages struct {
	AsOf  time.Time `json:"asOf"`
	Total int       `json:"total"`
	List  []TopPage `json:"list"`
}

// TopPage is one of them, with the phrase that brings most.
type TopPage struct {
	URL     string   `json:"url"`
	Phrases int      `json:"phrases"`
	Visits  *float64 `json:"visits,omitempty"`
	Phrase  string   `json:"phrase,omitempty"`
}

// SiteMonths are what a site got, the oldest month first.
type SiteMonths struct {
	AsOf time.Time   `json:"asOf"`
	List []SiteMonth `json:"list"`
}

// SiteMonth is one month of it.
type SiteMonth struct {
	Month   string   `json:"month"` // 2026-10
	Phrases *int     `json:"phrases,omitempty"`
	Visits  *float64 `json:"visits,omitempty"`
}

// SiteCountries are where a site's visits come from, most first.
type SiteCountries struct {
	AsOf time.Time     `json:"asOf"`
	List []SiteCountry `json:"list"`
}

// SiteCountry is one of these.
type SiteCountry struct {
	Country string   `json:"country"` // ISO 3166-1 alpha-2
	Phrases *int     `json:"phrases,omitempty"`
	Visits  *float64 `json:"visits,omitempty"`
}

// Advertised are phrases on which a site advertises.
type Advertised struct {
	AsOf  time.Time `json:"asOf"`
	Total int       `json:"total"`
	List  []Paid    `json:"list"`
}

// Paid is one of them: cost is what it may cost a month, share how often it is shown of all times; nil is unknown.
type Paid struct {
	Phrase string       `json:"phrase"`
	Title  string       `json:"title,omitempty"`
	Text   string       `json:"text,omitempty"`
	URL    string       `json:"url,omitempty"`
	Cost   *demand.Cost `json:"cost,omitempty"`
	Share  *float64     `json:"share,omitempty"`
}

func (s *Sharer) check() error {
	s.Site = strings.ToLower(strings.TrimSpace(s.Site))
	if s.Site == "" || strings.ContainsAny(s.Site, " /") || s.Shared < 1 {
		return fmt.Errorf("“%s” is no site that shares %d phrases", shorten(s.Site, 60), s.Shared)
	}
	return nil
}

func (p *TopPage) check() error {
	if !webAddress(p.URL) || len(p.URL) > longestAddress {
		return fmt.Errorf("“%s” is no web address", shorten(p.URL, 80))
	}
	return nil
}

// check reads the month, which may be written in any form that names year and month.
func (m *SiteMonth) check() error {
	month, is := files.MonthIn(m.Month)
	if !is {
		return fmt.Errorf("“%s” is no month", shorten(m.Month, 40))
	}
	m.Month = month.String()
	return nil
}

func (c *SiteCountry) check() error {
	if len(c.Country) != 2 || strings.ToUpper(c.Country) != c.Country {
		return fmt.Errorf("“%s” is no country’s code of two letters", shorten(c.Country, 40))
	}
	return nil
}

func (p *Paid) check() error {
	if p.Phrase = strings.Join(strings.Fields(p.Phrase), " "); p.Phrase == "" {
		return errors.New("there is no phrase")
	}
	if !webAddress(p.URL) {
		p.URL = ""
	}
	return nil
}

// SortMonths puts the oldest month first.
func SortMonths(list []SiteMonth) {
	slices.SortStableFunc(list, func(a, b SiteMonth) int { return strings.Compare(a.Month, b.Month) })
}

// RankingsService asks by the protocol of docs/rankings.openapi.yaml.
type RankingsService struct {
	*caller
	Engine string // asked about where a target names none
}

// NewRankingsService returns a client for the source.
func NewRankingsService(s Source, engine string) RankingsService {
	return RankingsService{newCaller(s, nil), engine}
}

// Knows implements SiteRanker: the protocol has all parts.
func (c RankingsService) Knows(Part) bool { return true }

// ranked is what all answers have.
type ranked struct {
	Target *string `json:"target"`
	AsOf   string  `json:"as_of"`
	Total  int     `json:"total"`
}

// about asks about a target; into takes the answer.
func (c RankingsService) about(ctx context.Context, path string, t Target, in Locale, more url.Values,
	into any) (asOf time.Time, total int, err error) {
	if more == nil {
		more = url.Values{}
	}
	more.Set("target", t.Name)
	more.Set("scope", string(t.Scope))
	for name, value := range map[string]string{"engine": cmp.Or(t.Engine, c.Engine), "country": in.Country,
		"language": in.Language} {
		if value != "" {
			more.Set(name, value)
		}
	}
	a, err := c.get(ctx, path, more, "application/json")
	if err == nil {
		err = c.wantType(a, "application/json")
	}
	if err != nil {
		return asOf, 0, err
	}
	var all ranked
	if err := errors.Join(json.Unmarshal(a.body, &all), json.Unmarshal(a.body, into)); err != nil {
		return asOf, 0, c.fail(Malformed, err)
	}
	if all.Target == nil {
		return asOf, 0, c.fail(Malformed, errors.New("it does not say what it is about"))
	}
	if err := c.echoes(*all.Target, t.Name); err != nil {
		return asOf, 0, err
	}
	if a.strayed("target", t.Name) {
		return asOf, 0, c.fail(Malformed, errors.New("it was sent elsewhere, and what was asked got lost on the way"))
	}
	if asOf, err = time.Parse(time.DateOnly, all.AsOf); err != nil {
		return asOf, 0, c.fail(Malformed, fmt.Errorf("as_of is “%s”, which is no day", shorten(all.AsOf, 20)))
	}
	return asOf, all.Total, nil
}

// Ranks implements PhraseRanker.
func (c RankingsService) Ranks(ctx context.Context, q RanksAsked, in Locale) (out Ranks, err error) {
	v := url.Values{"limit": {strconv.Itoa(orMost(q.Limit))}}
	for name, value := range map[string]string{"contains": q.Contains, "lacks": q.Lacks, "starts": q.Starts,
		"ends": q.Ends, "order": q.Order} {
		if value != "" {
			v.Set(name, value)
		}
	}
	for name, value := range map[string]int{"place_from": q.PlaceFrom, "place_to": q.PlaceTo,
		"searches_from": q.SearchesFrom, "searches_to": q.SearchesTo, "offset": q.Offset} {
		if value > 0 {
			v.Set(name, strconv.Itoa(value))
		}
	}
	var ans struct {
		Phrases []Rank `json:"phrases"`
	}
	if out.AsOf, out.Total, err = c.about(ctx, "/v1/phrases", q.Target, in, v, &ans); err != nil {
		return Ranks{}, err
	}
	out.List = ans.Phrases
	for i := range out.List {
		if err := out.List[i].check(); err != nil {
			return Ranks{}, c.fail(Malformed, fmt.Errorf("phrase %d: %w", i+1, err))
		}
	}
	out.Total = max(out.Total, q.Offset+len(out.List))
	return out, nil
}

// longestAddress is how long an address of a page may be.
const longestAddress = 2048

// deepestPlace is the farthest down that a place is taken for one.
const deepestPlace = 1000

func (r *Rank) check() error {
	r.Phrase = strings.Join(strings.Fields(r.Phrase), " ")
	switch {
	case r.Phrase == "":
		return errors.New("there is none")
	case r.Place < 1 || r.Place > deepestPlace:
		return fmt.Errorf("its place is %d", r.Place)
	case !webAddress(r.URL) || len(r.URL) > longestAddress:
		return errors.New("its page has no web address")
	case r.Searches != nil && *r.Searches < 0 || r.Visits != nil && !(*r.Visits >= 0):
		return errors.New("there are fewer than no searches or visits")
	}
	return nil
}

// webAddress reports whether a text is an absolute address of the web.
func webAddress(text string) bool {
	u, err := url.Parse(text)
	return err == nil && (u.Scheme == "http" || u.Scheme == "https") && u.Host != ""
}

func upTo(most int) url.Values { return url.Values{"limit": {strconv.Itoa(most)}} }

// Sharers implements SiteRanker.
func (c RankingsService) Sharers(ctx context.Context, of Target, in Locale, most int) (out Sharers, err error) {
	var ans struct {
		Sites []Sharer `json:"sites"`
	}
	out.AsOf, out.Total, err = c.about(ctx, "/v1/sites", of, in, upTo(most), &ans)
	for _, s := range ans.Sites {
		if s.check() == nil {
			out.List = append(out.List, s)
		}
	}
	return out, err
}

// TopPages implements SiteRanker.
func (c RankingsService) TopPages(ctx context.Context, of Target, in Locale, most int) (out TopPages, err error) {
	var ans struct {
		Pages []TopPage `json:"pages"`
	}
	out.AsOf, out.Total, err = c.about(ctx, "/v1/pages", of, in, upTo(most), &ans)
	for i, p := range ans.Pages {
		if bad := p.check(); err == nil && bad != nil {
			err = c.fail(Malformed, fmt.Errorf("page %d: %w", i+1, bad))
		}
	}
	out.List = ans.Pages
	return out, err
}

// Months implements SiteRanker.
func (c RankingsService) Months(ctx context.Context, of Target, in Locale) (out SiteMonths, err error) {
	var ans struct {
		Months []SiteMonth `json:"months"`
	}
	out.AsOf, _, err = c.about(ctx, "/v1/months", of, in, nil, &ans)
	for i := range ans.Months {
		if bad := ans.Months[i].check(); err == nil && bad != nil {
			err = c.fail(Malformed, bad)
		}
	}
	out.List = ans.Months
	return out, err
}

// Countries implements SiteRanker.
func (c RankingsService) Countries(ctx context.Context, of Target, in Locale) (out SiteCountries, err error) {
	var ans struct {
		Countries []SiteCountry `json:"countries"`
	}
	out.AsOf, _, err = c.about(ctx, "/v1/countries", of, Locale{Language: in.Language}, nil, &ans)
	out.List = ans.Countries
	return out, err
}

// Advertised implements SiteRanker.
func (c RankingsService) Advertised(ctx context.Context, of Target, in Locale, most int) (out Advertised, err error) {
	var ans struct {
		Ads []struct {
			Paid
			Cost *struct {
				Micros   int64  `json:"micros"`
				Currency string `json:"currency"`
			} `json:"cost"`
		} `json:"ads"`
	}
	out.AsOf, out.Total, err = c.about(ctx, "/v1/ads", of, in, upTo(most), &ans)
	for _, a := range ans.Ads {
		paid := a.Paid
		if a.Cost != nil && a.Cost.Micros >= 0 {
			paid.Cost = &demand.Cost{Micros: a.Cost.Micros, Currency: a.Cost.Currency}
		}
		if paid.check() == nil {
			out.List = append(out.List, paid)
		}
	}
	return out, err
}
