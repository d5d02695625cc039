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
	StandIn: "/suggest",
	Connect: func(m *Market, at Connection) { m.Suggest = market.NewSuggestions(at.Source) }}

// Suggest asks what people type after a text.
func (s *Asker) Suggest(ctx context.Context, text string, in market.Locale) (Asked[[]string], error) {
	if s.market.Suggest == nil {
		return Asked[[]string]{}, &MissingSourceError{Suggestions}
	}
	return Ask(ctx, s, Suggestions, LocaleKey(in, text), func(ctx context.Context) ([]string, error) {
		return s.market.Suggest.Suggest(ctx, text, in)
	})
}
