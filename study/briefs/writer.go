// Package briefs writes what a writer gets for an article, on the screen and as a file.
package briefs

import (
	"cleverniche/study/articles"
	"cleverniche/study/results"
	"cleverniche/study/topics"
)

// Writer writes briefs.
type Writer struct {
	results *results.Researcher
	topics  *topics.Grouper
	planner *articles.Planner
}

// New returns who writes the briefs of a plan.
func New(r *results.Researcher, t *topics.Grouper, p *articles.Planner) *Writer {
	return &Writer{r, t, p}
}
