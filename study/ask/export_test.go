package ask

import (
	"context"
	"time"
)

// What tests look at from outside.

func (s *Asker) Lifetime(q Question) time.Duration { return s.lifetime(q) }

func (s *Asker) Charge(ctx context.Context, q Question, keys ...string) (*charge, error) {
	return s.charge(ctx, s.sources[q][0], keys...)
}

func Ask[T any](ctx context.Context, s *Asker, q Question, key string,
	fetch func(context.Context) (T, error)) (Asked[T], error) {
	return put(ctx, s, q, key, func(ctx context.Context, _ any) (T, error) { return fetch(ctx) })
}

func (b *charge) Fail(ctx context.Context, err error) error { return b.fail(ctx, err) }
