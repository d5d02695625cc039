package results

import (
	"context"
	"encoding/json"
	"errors"
	"sync"
	"time"

	"cleverniche/core/serp"
	"cleverniche/market"
	"cleverniche/study/ask"
	"cleverniche/study/input"
)

// readPages holds pages that were read of late: reading HTML takes longer than all else that a brief does.
type readPages struct {
	mu sync.Mutex
	of map[string]readPage
}

type readPage struct {
	at   time.Time // when it was fetched
	page *serp.Page
}

// mostRead is how many pages are held.
const mostRead = 300

// AsRead is PageAtHand with when it was fetched.
func (s *Researcher) AsRead(ctx context.Context, url string) (*serp.Page, time.Time, error) {
	p, err := s.PageAtHand(ctx, url)
	if err != nil || p == nil {
		return nil, time.Time{}, err
	}
	at, err := s.store.AskedAt(ctx, string(ask.Page), url)
	return p, at, err
}

// PageRead is a page that was fetched once, and when; nil where it was not, or cannot be read. Nobody changes it.
func (s *Researcher) PageRead(ctx context.Context, url string) (*serp.Page, time.Time, error) {
	p, err := s.PageAtHand(ctx, url)
	if p == nil || err != nil {
		return nil, time.Time{}, err
	}
	at, err := s.store.AskedAt(ctx, string(ask.Page), url)
	return p, at, err
}

// PageAtHand reads a page that was fetched once; nil when it was not, or cannot be read. Nobody changes it.
func (s *Researcher) PageAtHand(ctx context.Context, url string) (*serp.Page, error) {
	at, err := s.store.AskedAt(ctx, string(ask.Page), url)
	if errors.Is(err, input.ErrNotFound) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	s.pages.mu.Lock()
	was, held := s.pages.of[url]
	s.pages.mu.Unlock()
	if held && was.at.Equal(at) {
		return was.page, nil
	}
	p, err := s.readPage(ctx, url)
	if err == nil {
		s.pages.mu.Lock()
		if s.pages.of == nil || len(s.pages.of) >= mostRead {
			s.pages.of = map[string]readPage{}
		}
		s.pages.of[url] = readPage{at, p}
		s.pages.mu.Unlock()
	}
	return p, err
}

func (s *Researcher) readPage(ctx context.Context, url string) (*serp.Page, error) {
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
