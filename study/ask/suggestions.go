package ask

import (
	"context"

	"cleverniche/market"
)

// suggestions is the question what people type after a text.
var suggestions = Service{Question: Suggestions, Life: 30 * Day,
	Address: "address of an OpenSearch Suggestions service",
	Price:   "price of one suggestion lookup",
	Source:  "the suggestion service",
	Says:    "What people type", Instead: "Import a list of phrases in Gather.",
	StandIn: "/suggest",
	Connect: func(m *Market, at Connection) { m.Suggest = market.NewSuggestions(at.Source) }}

// Suggest asks what people type after a text.
func (s *Asker) Suggest(ctx context.Context, text string, in market.Locale) (Asked[[]string], error) {
	return put(ctx, s, Suggestions, LocaleKey(in, text), func(ctx context.Context, c market.Suggester) ([]string, error) {
		return c.Suggest(ctx, text, in)
	})
}
