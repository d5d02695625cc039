package results

import (
	"context"
	"encoding/json"
	"errors"

	"cleverniche/core/serp"
	"cleverniche/market"
	"cleverniche/study/ask"
	"cleverniche/study/input"
)

// PageAtHand reads a page that was fetched once; nil when it was not, or cannot be read.
func (s *Researcher) PageAtHand(ctx context.Context, url string) (*serp.Page, error) {
	kept, err := s.store.Answer(ctx, string(ask.Page), url)
	if errors.Is(err, input.ErrNotFound) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	var f market.Fetched
	if json.Unmarshal(kept.Body, &f) != nil {
		return nil, nil
	}
	p, err := market.ReadPage(f)
	if err != nil {
		return nil, nil // as when it was judged
	}
	return p, nil
}
