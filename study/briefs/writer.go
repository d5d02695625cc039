// Package briefs writes what a writer gets for an article, on the screen and as a file.
package briefs

import (
	"context"

	"cleverniche/study/articles"
	"cleverniche/study/results"
	"cleverniche/study/topics"
)

// Store is what is asked of the data file.
type Store interface {
	Draw(ctx context.Context, niche, topic uint, was, text string) error
	Drawn(ctx context.Context, niche, topic uint) (string, error)
}

// Writer writes briefs.
type Writer struct {
	store   Store
	results *results.Researcher
	topics  *topics.Grouper
	planner *articles.Planner
}

// New returns who writes the briefs of a plan.
func New(st Store, r *results.Researcher, t *topics.Grouper, p *articles.Planner) *Writer {
	return &Writer{st, r, t, p}
}
