// Package market asks the outside world its questions, over open protocols:
// what people type, how often it is searched, what the results are, what is on a
// page and who links to it. Each question is a small interface with one HTTP
// client; what it answers are plain values of the core.
//
// Every client has a time limit, retries with backoff and jitter, a rate limit,
// a circuit breaker and a limit on bodies, and says in its errors which source
// failed. An answer is whole or an error, never half.
package market

import (
	"context"
	"time"

	"cleverniche/core/demand"
	"cleverniche/core/links"
)

// Locale is where and in what language a question is asked: ISO 3166-1 alpha-2
// and ISO 639-1.
type Locale struct{ Country, Language string }

// Suggester answers: what do people type after this?
type Suggester interface {
	Suggest(ctx context.Context, text string, in Locale) ([]string, error)
}

// Demander answers: how often is this searched, at what cost? The map has an
// entry for each phrase the source knows or can bound.
type Demander interface {
	Demand(ctx context.Context, phrases []string, in Locale) (map[string]demand.Series, error)
}

// Searcher answers: what are the results?
type Searcher interface {
	Search(ctx context.Context, phrase string, in Locale, depth int) (Results, error)
}

// PastSearcher is a searcher that knows what its results were on a day of the past, too.
type PastSearcher interface {
	SearchAt(ctx context.Context, phrase string, in Locale, depth int, day time.Time) (Results, error)
}

// EngineSearcher is a searcher that has several engines.
type EngineSearcher interface {
	On(engine string) Searcher
}

// Fetcher answers: what is on this page?
type Fetcher interface {
	Fetch(ctx context.Context, url string) (Fetched, error)
}

// Totaller answers: how many pages match a search?
type Totaller interface {
	Total(ctx context.Context, text string, in Locale) (int, error)
}

// TotalOf counts with an engine's results pages, which say how many there are in all.
type TotalOf struct{ Searcher }

// Total implements Totaller.
func (t TotalOf) Total(ctx context.Context, text string, in Locale) (int, error) {
	page, err := t.Search(ctx, text, in, 1)
	return page.Total, err
}

// Turn waits for the turn of the engine's, where it has turns.
func (t TotalOf) Turn(ctx context.Context) (context.Context, error) {
	if s, has := t.Searcher.(interface {
		Turn(context.Context) (context.Context, error)
	}); has {
		return s.Turn(ctx)
	}
	return ctx, nil
}

// Linker answers: who links to it?
type Linker interface {
	Links(ctx context.Context, url string) (LinkList, error)
}

// Grapher answers: how do sites link to one another?
type Grapher interface {
	Graph(ctx context.Context) (links.SiteGraph, error)
}

// Ranker knows the standing of sites, 0 to 100, without asking anybody.
type Ranker interface {
	Standing(site string) (standing float64, known bool)
}

// LinkList is the links a source reports to one page. Total may exceed the
// number reported.
type LinkList struct {
	Total int
	Links []links.Link
}

// Results is one results page.
type Results struct {
	Engine      string    `json:"engine"`
	Total       int       `json:"total"` // pages the engine says match
	Organic     []Organic `json:"organic"`
	Ads         int       `json:"ads"`
	Copy        []Ad      `json:"copy"` // what the ads say
	ShoppingRow bool      `json:"shoppingRow"`
	AnswerBox   bool      `json:"answerBox"`
	Related     []string  `json:"related"` // questions the engine shows beside the results

	Offers []Offer `json:"offers,omitempty"` // of the shopping row
	Answer *Answer `json:"answer,omitempty"` // what the answer box says, where that is known
	// Above which organic result the shopping row and the questions stand; 0 where that is not said.
	ShopAbove    int `json:"shopAbove,omitempty"`
	RelatedAbove int `json:"relatedAbove,omitempty"`
}

// Offer is a thing for sale on a results page.
type Offer struct {
	Name     string `json:"name"`
	Seller   string `json:"seller"`
	Price    string `json:"price"` // as it is written
	Currency string `json:"currency"`
}

// Answer is what an engine answers itself, and from where it has that.
type Answer struct {
	Text  string `json:"text"`
	URL   string `json:"url"`
	Above int    `json:"above,omitempty"`
}

// Ad is a paid place on a results page.
type Ad struct {
	Advertiser string `json:"advertiser"`
	Title      string `json:"title"`
	Text       string `json:"text"`
	URL        string `json:"url"`
	Above      int    `json:"above,omitempty"` // which organic result it stands; 0 not said
}

// Organic is one result that was not paid for.
type Organic struct {
	Position int    `json:"position"`
	URL      string `json:"url"`
	Title    string `json:"title"`
	Snippet  string `json:"snippet"`
}
