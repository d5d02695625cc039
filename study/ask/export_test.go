package ask

import (
	"context"
	"time"
)

// What tests look at from outside.

func (s *Asker) Lifetime(q Question) time.Duration { return s.lifetime(q) }

func (s *Asker) Charge(ctx context.Context, q Question, keys ...string) (*charge, error) {
	return s.charge(ctx, q, keys...)
}

func (b *charge) Fail(ctx context.Context, err error) error { return b.fail(ctx, err) }
