// Package sieves keeps sieves by name, and takes them to a file and back.
package sieves

import (
	"context"

	"cleverniche/store"
)

// Store is what is asked of the data file.
type Store interface {
	DeleteSieve(ctx context.Context, id uint) error
	KeepLong(ctx context.Context, key, body string) error
	Long(ctx context.Context, key string) (string, error)
	SaveSieves(ctx context.Context, list ...*store.Sieve) error
	SetUsualSieve(ctx context.Context, niche, id uint) error
	Sieve(ctx context.Context, id uint) (store.Sieve, error)
	SieveNamed(ctx context.Context, name string) (store.Sieve, error)
	Sieves(ctx context.Context) ([]store.Sieve, error)
}

// Keeper keeps the sieves of a data file.
type Keeper struct{ store Store }

// New returns the keeper of a data file's sieves.
func New(st Store) *Keeper { return &Keeper{st} }
