package frame

import (
	"context"
	"crypto/hmac"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"fmt"
	"time"

	"cleverniche/study"
)

// Tokens are cross-site tokens that show by themselves that they are ours: random bytes, signed
// with a secret of the data file (HMAC, RFC 2104). So a page left open works after a restart,
// and nothing is written for whoever comes by.
type Tokens struct{ secret []byte }

const (
	tokenRandom = 18
	tokenKey    = "csrf"
)

// NewTokens returns the tokens of a study's data file.
func NewTokens(ctx context.Context, s *study.Study) (Tokens, error) {
	secret, err := s.Secret(ctx, tokenKey)
	if err == nil && secret == nil {
		secret = make([]byte, 32)
		rand.Read(secret)
		err = s.KeepSecret(ctx, tokenKey, secret, 0)
	}
	if err != nil {
		return Tokens{}, fmt.Errorf("making the secret that pages' tokens are signed with: %w", err)
	}
	return Tokens{secret}, nil
}

// New makes a token.
func (t Tokens) New() string {
	value := make([]byte, tokenRandom, tokenRandom+sha256.Size)
	rand.Read(value)
	return base64.RawURLEncoding.EncodeToString(append(value, t.sign(value)...))
}

// Signed reports whether a token is one of ours.
func (t Tokens) Signed(token string) bool {
	value, err := base64.RawURLEncoding.DecodeString(token)
	return err == nil && len(value) == tokenRandom+sha256.Size &&
		hmac.Equal(value[tokenRandom:], t.sign(value[:tokenRandom]))
}

func (t Tokens) sign(value []byte) []byte {
	mac := hmac.New(sha256.New, t.secret)
	mac.Write(value)
	return mac.Sum(nil)
}

// GetWithContext and the others are fiber.Storage, which has nothing to keep.
func (t Tokens) GetWithContext(_ context.Context, token string) ([]byte, error) {
	if !t.Signed(token) {
		return nil, nil
	}
	return []byte{'+'}, nil
}

// Get is GetWithContext.
func (t Tokens) Get(token string) ([]byte, error) {
	return t.GetWithContext(context.Background(), token)
}

// SetWithContext keeps nothing.
func (t Tokens) SetWithContext(context.Context, string, []byte, time.Duration) error { return nil }

// Set keeps nothing.
func (t Tokens) Set(string, []byte, time.Duration) error { return nil }

// DeleteWithContext has nothing to drop.
func (t Tokens) DeleteWithContext(context.Context, string) error { return nil }

// Delete has nothing to drop.
func (t Tokens) Delete(string) error { return nil }

// ResetWithContext has nothing to drop.
func (t Tokens) ResetWithContext(context.Context) error { return nil }

// Reset has nothing to drop.
func (t Tokens) Reset() error { return nil }

// Close has nothing to close.
func (t Tokens) Close() error { return nil }
