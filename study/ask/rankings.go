package ask

import (
	"context"
	"encoding/json"
	"slices"

	"cleverniche/market"
)

// rankings is the question what a page or a site ranks for.
var rankings = Service{Question: Rankings, Life: 7 * Day,
	Address: "address of a rankings service (docs/rankings.openapi.yaml)",
	Price:   "price of one question to it: up to 1000 phrases, or 100 sites or pages", Source: "the rankings service",
	Says:    "What a page or a site ranks for",
	Instead: "Rivals then come from the results that you looked up.",
	StandIn: "/rankings",
	Connect: func(m *Market, at Connection) { m.Ranked = market.NewRankingsService(at.Source, at.Engine) }}

// RanksKey is the key under which phrases are kept.
func RanksKey(q market.RanksAsked, in market.Locale) string {
	body, err := json.Marshal(q)
	if err != nil { // a struct of texts and numbers
		panic(err)
	}
	return LocaleKey(in, "phrases", string(body))
}

// Ranks asks what a page or a site ranks for.
func (s *Asker) Ranks(ctx context.Context, q market.RanksAsked, in market.Locale) (Asked[market.Ranks], error) {
	return part(ctx, s, market.PhrasesPart, RanksKey(q, in),
		func(ctx context.Context, c market.PhraseRanker) (market.Ranks, error) { return c.Ranks(ctx, q, in) })
}

// knows reports whether a source is asked for a part.
func knows(client any, p Part) bool {
	c, is := client.(market.SiteRanker)
	return is && c.Knows(p) || !is && p == market.PhrasesPart
}

// RanksAtHand are the phrases that were asked for the last time, however long ago; ok is false where they never were.
func (s *Asker) RanksAtHand(ctx context.Context, q market.RanksAsked, in market.Locale) (Asked[market.Ranks], bool,
	error) {
	return Kept[market.Ranks](ctx, s, Rankings, RanksKey(q, in))
}

// Part is something that a rankings service knows of a site beside its phrases.
type Part = market.Part

// The parts.
const (
	Sharers    = market.SitesPart
	TopPages   = market.PagesPart
	SiteMonths = market.MonthsPart
	Countries  = market.CountriesPart
	Advertised = market.AdsPart
)

// mostOfPart is how many sites, pages or ads are asked for.
const mostOfPart = 100

func partKey(p Part, of market.Target, in market.Locale) string {
	return LocaleKey(in, string(p), string(of.Scope), of.Engine, of.Name)
}

// part asks those who know a part.
func part[C, T any](ctx context.Context, s *Asker, p Part, key string,
	fetch func(context.Context, C) (T, error)) (Asked[T], error) {
	list := slices.DeleteFunc(slices.Clone(s.sources[Rankings]), func(src *Source) bool { return !knows(src.Client, p) })
	return putAmong(ctx, s, list, Rankings, key, fetch)
}

// Knows reports whether somebody can be asked for a part.
func (s *Asker) Knows(p Part) bool {
	return slices.ContainsFunc(s.sources[Rankings], func(src *Source) bool { return knows(src.Client, p) })
}

// Sharers asks who stands beside a site.
func (s *Asker) Sharers(ctx context.Context, of market.Target, in market.Locale) (Asked[market.Sharers], error) {
	return part(ctx, s, Sharers, partKey(Sharers, of, in),
		func(ctx context.Context, c market.SiteRanker) (market.Sharers, error) {
			return c.Sharers(ctx, of, in, mostOfPart)
		})
}

// TopPages asks which pages bring a site most.
func (s *Asker) TopPages(ctx context.Context, of market.Target, in market.Locale) (Asked[market.TopPages], error) {
	return part(ctx, s, TopPages, partKey(TopPages, of, in),
		func(ctx context.Context, c market.SiteRanker) (market.TopPages, error) {
			return c.TopPages(ctx, of, in, mostOfPart)
		})
}

// SiteMonths asks how it went for a site.
func (s *Asker) SiteMonths(ctx context.Context, of market.Target, in market.Locale) (Asked[market.SiteMonths], error) {
	return part(ctx, s, SiteMonths, partKey(SiteMonths, of, in),
		func(ctx context.Context, c market.SiteRanker) (market.SiteMonths, error) {
			return c.Months(ctx, of, in)
		})
}

// Countries asks where a site's visits come from.
func (s *Asker) Countries(ctx context.Context, of market.Target,
	in market.Locale) (Asked[market.SiteCountries], error) {
	return part(ctx, s, Countries, partKey(Countries, of, in),
		func(ctx context.Context, c market.SiteRanker) (market.SiteCountries, error) {
			return c.Countries(ctx, of, in)
		})
}

// Advertised asks on which phrases a site advertises.
func (s *Asker) Advertised(ctx context.Context, of market.Target, in market.Locale) (Asked[market.Advertised], error) {
	return part(ctx, s, Advertised, partKey(Advertised, of, in),
		func(ctx context.Context, c market.SiteRanker) (market.Advertised, error) {
			return c.Advertised(ctx, of, in, mostOfPart)
		})
}

// PartAtHand is a part that was asked for the last time, however long ago; ok is false where it never was.
func PartAtHand[T any](ctx context.Context, s *Asker, p Part, of market.Target,
	in market.Locale) (out Asked[T], ok bool, err error) {
	return Kept[T](ctx, s, Rankings, partKey(p, of, in))
}
