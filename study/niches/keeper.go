// Package niches is the workspaces: what a user says of a niche, checked and kept.
package niches

import (
	"context"

	"cleverniche/core/links"
	"cleverniche/store"
)

// Store is what is asked of the data file.
type Store interface {
	CreateNiche(ctx context.Context, n *store.Niche) error
	Niche(ctx context.Context, id uint) (store.Niche, error)
	NicheNamed(ctx context.Context, name string) (store.Niche, error)
	Niches(ctx context.Context) ([]store.Niche, error)
	Seeds(ctx context.Context, niche uint) ([]store.Seed, error)
	SetColumns(ctx context.Context, niche uint, columns string) error
	TouchNiche(ctx context.Context, id uint) error
}

// Keeper keeps the niches of a data file.
type Keeper struct {
	store    Store
	suffixes links.Suffixes
}

// New returns the keeper of a data file's niches.
func New(st Store, suffixes links.Suffixes) *Keeper { return &Keeper{st, suffixes} }
