// Package files takes what is in a niche to files that others read, and a whole niche out and in again.
package files

import (
	"context"
	"io"
	"time"

	"cleverniche/store"
	"cleverniche/study/articles"
	"cleverniche/study/briefs"
	"cleverniche/study/ideas"
	"cleverniche/study/niches"
	"cleverniche/study/results"
	"cleverniche/study/topics"
)

// Store is what is asked of the data file.
type Store interface {
	Now() time.Time
	ReadWhole(ctx context.Context, r io.ReaderAt, size int64, check store.Checks) (n store.Niche, err error)
	DropToken(ctx context.Context, key string) error
	Tell(ctx context.Context, niche uint, says map[string]string) (map[string]store.Sent, error)
	SetToken(ctx context.Context, key string, value []byte, life time.Duration) error
	Token(ctx context.Context, key string) ([]byte, error)
	WriteWhole(ctx context.Context, niche uint, pages string, w io.Writer) error
}

// Exporter writes files.
type Exporter struct {
	store   Store
	niches  *niches.Keeper
	ideas   *ideas.Keeper
	results *results.Researcher
	topics  *topics.Grouper
	planner *articles.Planner
	writer  *briefs.Writer
}

// New returns who writes the files of a data file.
func New(st Store, n *niches.Keeper, list *ideas.Keeper, r *results.Researcher, t *topics.Grouper,
	p *articles.Planner, w *briefs.Writer) *Exporter {
	return &Exporter{st, n, list, r, t, p, w}
}
