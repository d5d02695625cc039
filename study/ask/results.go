package ask

import (
	"cleverniche/core/watch"
	"cmp"
	"context"
	"strconv"
	"time"

	"cleverniche/market"
)

// results is the question which pages are shown for a phrase.
var results = Service{Question: Results, Life: 7 * Day,
	Address: "address of a search engine that answers in Atom with OpenSearch elements",
	Price:   "price of one results lookup", Source: "the search engine",
	Says: "Who ranks for a phrase", Instead: "Import or paste results in Gather.",
	StandIn: "/search",
	Connect: func(m *Market, at Connection) { m.Search = market.NewResultsService(at.Source, at.Engine) }}

// DefaultDepth is how many results are looked up: the ten. Twenty teach what an engine leans on in half as many
// look-ups, at twice the price of each: for the same money forecasts are as good, of half as many ideas
// (docs/calibration.md).
const DefaultDepth = 10

// Depths are what a niche may choose of.
var Depths = []int{10, 20, 100}

// Deep is how many results are looked up where a niche says so many; 0 is as the settings say.
func (s *Asker) Deep(depth int) int { return cmp.Or(depth, s.options.Depth) }

// Results asks for the results of a phrase, so deep; 0 is as the settings say.
func (s *Asker) Results(ctx context.Context, phrase string, in market.Locale,
	depth int) (Asked[market.Results], error) {
	return s.search(ctx, phrase, in, s.Deep(depth))
}

// ResultsOf asks another engine of the source; "" is the usual one.
func (s *Asker) ResultsOf(ctx context.Context, engine, phrase string, in market.Locale) (Asked[market.Results], error) {
	if engine == "" {
		return s.Results(ctx, phrase, in, 0)
	}
	return s.searchOf(ctx, engine, phrase, in, s.options.Depth)
}

// searchOf asks another engine for so many results.
func (s *Asker) searchOf(ctx context.Context, engine, phrase string, in market.Locale,
	depth int) (Asked[market.Results], error) {
	return put(ctx, s, Results, s.engineKey(engine, phrase, in, depth),
		func(ctx context.Context, c market.Searcher) (market.Results, error) {
			if many, is := c.(market.EngineSearcher); is {
				return many.On(engine).Search(ctx, phrase, in, depth)
			}
			return market.Results{}, errOneEngine
		})
}

// errOneEngine is why a source is not asked for another engine's results.
var errOneEngine = unable("it has one engine only")

// ResultsOfAtHand are what ResultsOf got the last time, however long ago; ok is false where it never did.
func (s *Asker) ResultsOfAtHand(ctx context.Context, engine, phrase string,
	in market.Locale) (out Asked[market.Results], ok bool, err error) {
	return Kept[market.Results](ctx, s, Results, s.EngineKey(engine, phrase, in))
}

// EngineKey is the key under which the results of an engine are kept; "" is the usual one.
func (s *Asker) EngineKey(engine, phrase string, in market.Locale) string {
	if engine == "" {
		return s.ResultsKey(phrase, in, 0)
	}
	return s.engineKey(engine, phrase, in, s.options.Depth)
}

func (s *Asker) engineKey(engine, phrase string, in market.Locale, depth int) string {
	return LocaleKey(in, s.Name(Results)+", "+engine, strconv.Itoa(depth), phrase)
}

// search asks for so many results of a phrase.
func (s *Asker) search(ctx context.Context, phrase string, in market.Locale, depth int) (Asked[market.Results], error) {
	return put(ctx, s, Results, s.deepKey(phrase, in, depth),
		func(ctx context.Context, c market.Searcher) (market.Results, error) {
			return c.Search(ctx, phrase, in, depth)
		})
}

// HasPast reports whether somebody can be asked what results were on a day of the past.
func (s *Asker) HasPast() bool {
	for _, src := range s.sources[Results] {
		if _, is := src.Client.(market.PastSearcher); is {
			return true
		}
	}
	return false
}

// errNoPast is why a source is not asked for the past.
var errNoPast = unable("it does not know the results of past weeks")

// PastKey is the key under which the results of a past day are kept.
func (s *Asker) PastKey(phrase string, in market.Locale, day time.Time) string {
	return s.deepKey(phrase, in, DefaultDepth) + "|" + day.Format(time.DateOnly)
}

// ResultsOn asks for the top ten of a phrase on a day of the past.
func (s *Asker) ResultsOn(ctx context.Context, phrase string, in market.Locale,
	day time.Time) (Asked[market.Results], error) {
	return put(ctx, s, Results, s.PastKey(phrase, in, day),
		func(ctx context.Context, c market.Searcher) (market.Results, error) {
			if past, is := c.(market.PastSearcher); is {
				return past.SearchAt(ctx, phrase, in, DefaultDepth, day)
			}
			return market.Results{}, errNoPast
		})
}

// PlacesDepth is how far down one's own places are looked for.
const PlacesDepth = 50

// Places asks for the results of a phrase as far down as one's own places are looked for.
func (s *Asker) Places(ctx context.Context, phrase string, in market.Locale) (Asked[market.Results], error) {
	return s.search(ctx, phrase, in, PlacesDepth)
}

// LastPlaces are the results that Places got the last time, however long ago; ok is false where it never did.
func (s *Asker) LastPlaces(ctx context.Context, phrase string, in market.Locale) (out Asked[market.Results], ok bool,
	err error) {
	return Kept[market.Results](ctx, s, Results, s.deepKey(phrase, in, PlacesDepth))
}

// Deepest asks for the first hundred results of a phrase.
func (s *Asker) Deepest(ctx context.Context, phrase string, in market.Locale) (Asked[market.Results], error) {
	return s.search(ctx, phrase, in, watch.Depth)
}

// DeepestOf asks another engine of the source for that; "" is the usual one.
func (s *Asker) DeepestOf(ctx context.Context, engine, phrase string,
	in market.Locale) (Asked[market.Results], error) {
	if engine == "" {
		return s.Deepest(ctx, phrase, in)
	}
	return s.searchOf(ctx, engine, phrase, in, watch.Depth)
}

// DeepestOn asks for the first hundred results of a phrase on a day of the past.
func (s *Asker) DeepestOn(ctx context.Context, phrase string, in market.Locale,
	day time.Time) (Asked[market.Results], error) {
	return put(ctx, s, Results, s.deepKey(phrase, in, watch.Depth)+"|"+day.Format(time.DateOnly),
		func(ctx context.Context, c market.Searcher) (market.Results, error) {
			if past, is := c.(market.PastSearcher); is {
				return past.SearchAt(ctx, phrase, in, watch.Depth, day)
			}
			return market.Results{}, errNoPast
		})
}

// PlacesKey is the key under which they are kept.
func (s *Asker) PlacesKey(phrase string, in market.Locale) string {
	return s.deepKey(phrase, in, PlacesDepth)
}

// MostOwnPages is how many pages of a site are asked for.
const MostOwnPages = 100

// Site asks for the pages of a site that the search engine knows.
func (s *Asker) Site(ctx context.Context, own string, in market.Locale) (Asked[market.Results], error) {
	return s.search(ctx, "site:"+own, in, MostOwnPages)
}

// ResultsKey is the key under which so many results of a phrase are kept; 0 is as the settings say.
func (s *Asker) ResultsKey(phrase string, in market.Locale, depth int) string {
	return s.deepKey(phrase, in, s.Deep(depth))
}

func (s *Asker) deepKey(phrase string, in market.Locale, depth int) string {
	return LocaleKey(in, s.Name(Results), strconv.Itoa(depth), phrase)
}
