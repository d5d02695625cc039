package ask

import (
	"context"
	"encoding/json"
	"errors"
	"net/url"
	"strconv"
	"strings"

	"cleverniche/market"
	"cleverniche/store"
	"cleverniche/study/input"
)

// Answers that somebody brought hold whoever would be asked: of those and of what was asked for, the latest counts.

// Brought is an answer that somebody brings, of Results about a phrase, of Links about a page, as it is kept.
func (s *Asker) Brought(q Question, about string, in market.Locale, v any) (store.Brought, error) {
	body, err := json.Marshal(v)
	key := pageKey(about)
	if q == Results {
		key = LocaleKey(in, about)
	}
	return store.Brought{Kind: string(q), Key: key, Body: body, AskedAt: s.store.Now().UTC()}, err
}

// BroughtPart is what somebody brings of a site, as it is kept.
func (s *Asker) BroughtPart(p Part, of market.Target, in market.Locale, v any) (store.Brought, error) {
	body, err := json.Marshal(v)
	return store.Brought{Kind: string(Rankings), Key: partKey(p, of, in), Body: body, AskedAt: s.store.Now().UTC()}, err
}

// broughtKey is under what an answer is brought that would be asked for under a key; "" for what nobody brings.
func (s *Asker) broughtKey(q Question, key string) string {
	switch q {
	case Links:
		return pageKey(key)
	case Rankings:
		return key
	case Results:
		for _, depth := range append([]int{s.options.Depth}, Depths...) {
			whose := "|" + s.Name(Results) + "|" + strconv.Itoa(depth) + "|"
			if before, after, is := strings.Cut(key, whose); is {
				return before + "|" + after
			}
		}
	}
	return ""
}

// pageKey is an address without what makes no other page of it.
func pageKey(address string) string {
	u, err := url.Parse(strings.TrimSpace(address))
	if err != nil || u.Host == "" {
		return address
	}
	key := strings.TrimPrefix(strings.ToLower(u.Host), "www.") + strings.TrimSuffix(u.EscapedPath(), "/")
	if u.RawQuery != "" {
		key += "?" + u.RawQuery
	}
	return key
}

// kept is the latest answer to a question, asked for or brought, or ErrNotFound.
func (s *Asker) kept(ctx context.Context, q Question, key string) (store.Answer, error) {
	asked, err := s.store.Answer(ctx, string(q), key)
	own := s.broughtKey(q, key)
	if own == "" || err != nil && !errors.Is(err, input.ErrNotFound) {
		return asked, err
	}
	b, failed := s.store.Brought(ctx, string(q), own)
	if failed != nil && !errors.Is(failed, input.ErrNotFound) {
		return asked, failed
	}
	if failed != nil || err == nil && asked.AskedAt.After(b.AskedAt) {
		return asked, err
	}
	return store.Answer{Kind: b.Kind, Key: key, Source: b.Source, Body: b.Body, AskedAt: b.AskedAt}, nil
}
