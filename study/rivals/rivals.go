// Package rivals is what already works for others: what a page or a site ranks for, who stands beside whom, and what a
// small site can take from that.
package rivals

import (
	"cleverniche/core/links"
	"cleverniche/study/ask"
	"cleverniche/study/gather"
	"cleverniche/study/ideas"
	"cleverniche/study/results"
)

// Scout looks at rivals.
type Scout struct {
	asker    *ask.Asker
	ideas    *ideas.Keeper
	results  *results.Researcher
	gatherer *gather.Gatherer
	suffixes links.Suffixes
}

// New returns a scout.
func New(asker *ask.Asker, keeper *ideas.Keeper, researcher *results.Researcher, gatherer *gather.Gatherer,
	suffixes links.Suffixes) *Scout {
	return &Scout{asker: asker, ideas: keeper, results: researcher, gatherer: gatherer, suffixes: suffixes}
}
