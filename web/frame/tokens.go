package frame

import (
	"context"
	"time"

	"cleverniche/study"
)

// Tokens keeps cross-site tokens with the study, so that a page left open works after a
// restart.
type Tokens struct{ Study *study.Study }

// GetWithContext and the others are fiber.Storage.
func (t Tokens) GetWithContext(ctx context.Context, key string) ([]byte, error) {
	return t.Study.Secret(ctx, key)
}

// Get is GetWithContext.
func (t Tokens) Get(key string) ([]byte, error) { return t.GetWithContext(context.Background(), key) }

// SetWithContext keeps a token.
func (t Tokens) SetWithContext(ctx context.Context, key string, value []byte, life time.Duration) error {
	return t.Study.KeepSecret(ctx, key, value, life)
}

// Set is SetWithContext.
func (t Tokens) Set(key string, value []byte, life time.Duration) error {
	return t.SetWithContext(context.Background(), key, value, life)
}

// DeleteWithContext drops a token.
func (t Tokens) DeleteWithContext(ctx context.Context, key string) error {
	return t.Study.DropSecret(ctx, key)
}

// Delete is DeleteWithContext.
func (t Tokens) Delete(key string) error { return t.DeleteWithContext(context.Background(), key) }

// ResetWithContext drops all.
func (t Tokens) ResetWithContext(ctx context.Context) error { return t.Study.DropSecret(ctx, "") }

// Reset is ResetWithContext.
func (t Tokens) Reset() error { return t.ResetWithContext(context.Background()) }

// Close has nothing to close.
func (t Tokens) Close() error { return nil }
