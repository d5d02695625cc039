package ask

import (
	"context"
	"strconv"

	"cleverniche/market"
)

// results is the question which pages are shown for a phrase.
var results = Service{Question: Results, Life: 7 * Day,
	Address: "address of a search engine that answers in Atom with OpenSearch elements",
	Price:   "price of one results lookup", Source: "the search engine",
	StandIn: "/search",
	Connect: func(m *Market, at Connection) { m.Search = market.NewResultsService(at.Source, at.Engine) }}

// DefaultDepth is how many results are looked up: the ten. Twenty teach what an engine leans on in half as many
// look-ups, at twice the price of each: for the same money forecasts are as good, of half as many ideas
// (docs/calibration.md).
const DefaultDepth = 10

// Results asks for the results of a phrase, as deep as the settings say.
func (s *Asker) Results(ctx context.Context, phrase string, in market.Locale) (Asked[market.Results], error) {
	if s.market.Search == nil {
		return Asked[market.Results]{}, &MissingSourceError{Results}
	}
	return Ask(ctx, s, Results, s.ResultsKey(phrase, in), func(ctx context.Context) (market.Results, error) {
		return s.market.Search.Search(ctx, phrase, in, s.options.Depth)
	})
}

// MostOwnPages is how many pages of a site are asked for.
const MostOwnPages = 100

// Site asks for the pages of a site that the search engine knows.
func (s *Asker) Site(ctx context.Context, own string, in market.Locale) (Asked[market.Results], error) {
	if s.market.Search == nil {
		return Asked[market.Results]{}, &MissingSourceError{Results}
	}
	query := "site:" + own
	key := LocaleKey(in, s.market.Names[Results], strconv.Itoa(MostOwnPages), query)
	return Ask(ctx, s, Results, key, func(ctx context.Context) (market.Results, error) {
		return s.market.Search.Search(ctx, query, in, MostOwnPages)
	})
}

// ResultsKey is the key under which the results of a phrase are kept.
func (s *Asker) ResultsKey(phrase string, in market.Locale) string {
	return LocaleKey(in, s.market.Names[Results], strconv.Itoa(s.options.Depth), phrase)
}
