// Package niches is the workspaces: what a user says of a niche, checked and kept.
package niches

import (
	"context"
	"time"

	"cleverniche/core/links"
	"cleverniche/store"
)

// Store is what is asked of the data file.
type Store interface {
	ArchiveNiche(ctx context.Context, id uint, away bool) error
	CreateNiche(ctx context.Context, n *store.Niche) error
	DeleteNiche(ctx context.Context, id uint, away bool) error
	DeletedNiches(ctx context.Context) ([]store.Niche, error)
	EraseNiche(ctx context.Context, id uint) error
	Leaning(ctx context.Context, niche uint) (store.Leaning, error)
	Own(ctx context.Context, niche uint) (store.Own, error)
	Niche(ctx context.Context, id uint) (store.Niche, error)
	NicheNamed(ctx context.Context, name string) (store.Niche, error)
	Niches(ctx context.Context) ([]store.Niche, error)
	Outlived(ctx context.Context, deleted, staged time.Time) (ids []uint, err error)
	RenameNiche(ctx context.Context, id uint, name string) error
	Seeds(ctx context.Context, niche uint) ([]store.Seed, error)
	SetTenColumns(ctx context.Context, niche uint, columns string) error
	SetColumns(ctx context.Context, niche uint, was *string, columns string) error
	TouchNiche(ctx context.Context, id uint) error
}

// Keeper keeps the niches of a data file.
type Keeper struct {
	store    Store
	suffixes links.Suffixes
}

// New returns the keeper of a data file's niches.
func New(st Store, suffixes links.Suffixes) *Keeper { return &Keeper{st, suffixes} }
