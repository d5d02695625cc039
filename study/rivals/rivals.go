// Package rivals is what already works for others: what a page or a site ranks for, who stands beside whom, and what a
// small site can take from that.
package rivals

import (
	"context"
	"slices"
	"strings"
	"sync"
	"time"

	"cleverniche/core/links"
	"cleverniche/store"
	"cleverniche/study/ask"
	"cleverniche/study/gather"
	"cleverniche/study/ideas"
	"cleverniche/study/input"
	"cleverniche/study/jobs"
	"cleverniche/study/niches"
	"cleverniche/study/results"
)

// Store is what is asked of the data file.
type Store interface {
	Follow(ctx context.Context, niche uint, site string, follow bool) error
	Forget(ctx context.Context, kind string, keys []string) error
	ForgetRanks(ctx context.Context, niche uint, site string) error
	Gaps(ctx context.Context, niche uint, rivals []uint, mine uint, least, below int, f store.Ranked) ([]store.Gap, int,
		error)
	Now() time.Time
	RivalOf(ctx context.Context, niche uint, site string) (store.Rival, error)
	Rivals(ctx context.Context, niche uint) ([]store.Rival, error)
	Ranks(ctx context.Context, r store.Rival, f store.Ranked) ([]store.KnownRank, int, error)
	SaveRanks(ctx context.Context, r store.Rival, list []store.RivalPhrase) (added int, err error)
	SaveRivalPages(ctx context.Context, niche uint, site, pages string) error
	Sections(ctx context.Context, r store.Rival, within string, reach float64) ([]store.Section, error)
	Shares(ctx context.Context, niche uint, rivals []uint, mine uint) (theirs, both, own int, err error)
}

// Scout looks at rivals.
type Scout struct {
	store    Store
	asker    *ask.Asker
	runner   *jobs.Runner
	ideas    *ideas.Keeper
	results  *results.Researcher
	gatherer *gather.Gatherer
	suffixes links.Suffixes
	parted   parted
	starting sync.Mutex
}

// New returns a scout.
func New(st Store, asker *ask.Asker, runner *jobs.Runner, keeper *ideas.Keeper, researcher *results.Researcher,
	gatherer *gather.Gatherer, suffixes links.Suffixes) *Scout {
	return &Scout{store: st, asker: asker, runner: runner, ideas: keeper, results: researcher, gatherer: gatherer,
		suffixes: suffixes}
}

// SiteOf reads a site as somebody types it: a domain, or an address on it. What is none is an *input.Error.
func (s *Scout) SiteOf(text string) (string, error) {
	text = strings.TrimSpace(text)
	if text == "" {
		return "", input.Bad("site", "Type a site, such as site.example.")
	}
	site := s.suffixes.Named(text)
	if site == "" {
		return "", input.Bad("site", "“%s” is no site. Type its domain, such as site.example.", input.Clip(text, 60))
	}
	return site, nil
}

// Follow begins or ends following a site.
func (s *Scout) Follow(ctx context.Context, n niches.Niche, text string, follow bool) (string, error) {
	site, err := s.SiteOf(text)
	switch {
	case err != nil:
		return "", err
	case site == n.OwnSite:
		return "", input.Bad("site", "That is your own site. Its places are asked for below, beside those of others.")
	}
	return site, s.store.Follow(ctx, n.ID, site, follow)
}

// Followed are the rivals of a niche that are followed.
func (s *Scout) Followed(ctx context.Context, n niches.Niche) ([]store.Rival, error) {
	rows, err := s.store.Rivals(ctx, n.ID)
	return slices.DeleteFunc(rows, func(r store.Rival) bool { return !r.Followed }), err
}

// What is kept of a rival, a filter of its phrases, and a part of its site, as the data file has them.
type (
	Kept    = store.Rival
	Filter  = store.Ranked
	Section = store.Section
)
