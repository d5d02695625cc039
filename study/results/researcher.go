// Package results looks ideas up, judges them on the evidence that is found, and judges them again when what a
// verdict hangs on has changed.
package results

import (
	"context"
	"log/slog"
	"sync"
	"time"

	"cleverniche/core/links"
	"cleverniche/store"
	"cleverniche/study/ask"
	"cleverniche/study/jobs"
	"cleverniche/study/niches"
)

// Store is what is asked of the data file.
type Store interface {
	Answer(ctx context.Context, kind, key string) (store.Answer, error)
	AskedAt(ctx context.Context, kind, key string) (time.Time, error)
	Evidence(ctx context.Context, idea uint) (store.Document, error)
	Evidences(ctx context.Context, ideas []uint) (map[uint]store.Document, error)
	Fronts(ctx context.Context, niche uint, engine string, most int) ([]store.Front, error)
	FrontsOf(ctx context.Context, ideas []uint) (map[uint]store.Front, error)
	FoundPages(ctx context.Context, ideas []uint) (map[uint][]string, error)
	Forget(ctx context.Context, kind string, keys []string) error
	History(ctx context.Context, idea uint) (string, error)
	Idea(ctx context.Context, niche, id uint) (store.Idea, error)
	Ideas(ctx context.Context, niche uint, ids []uint) ([]store.Idea, error)
	Jobs(ctx context.Context, niche uint, most int) ([]store.Job, error)
	JobSpent(ctx context.Context, job uint) (store.Spent, error)
	Now() time.Time
	Own(ctx context.Context, niche uint) (store.Own, error)
	Origins(ctx context.Context, idea uint) ([]store.Origin, error)
	SaveHistory(ctx context.Context, idea store.Idea, body string) error
	SaveLookup(ctx context.Context, niche uint, idea store.Idea, key string) error
	SaveLookupError(ctx context.Context, niche, idea uint, column, reason string) error
	SaveForecasts(ctx context.Context, niche uint, ideas []store.Idea) (changed []uint, err error)
	Clicked(ctx context.Context, niche uint) ([]store.Clicked, error)
	SaveOwnCurve(ctx context.Context, niche uint, curve string) error
	SaveOwnOutcomes(ctx context.Context, niche uint, body string, outcomes []byte) error
	SaveLeaning(ctx context.Context, l store.Leaning) error
	SaveJudgements(ctx context.Context, niche uint, list ...store.Judgement) error
	SaveLasting(ctx context.Context, niche uint, ideas []store.Idea) error
	SaveNiche(ctx context.Context, was, n store.Niche) error
	SetCalibration(ctx context.Context, id uint, name string, fit float64) error
	Tens(ctx context.Context, niche uint) ([]store.Ten, error)
	ToReckon(ctx context.Context, niche uint, months bool) (ids []uint, err error)
}

// Researcher looks ideas up.
type Researcher struct {
	store    Store
	asker    *ask.Asker
	niches   *niches.Keeper
	runner   *jobs.Runner
	suffixes links.Suffixes
	log      *slog.Logger
	pages    readPages
	learning sync.Mutex // one learns at a time
	standers standers
	hunts    hunts
}

// New returns who looks up the ideas of a data file.
func New(st Store, asker *ask.Asker, n *niches.Keeper, runner *jobs.Runner, suffixes links.Suffixes,
	log *slog.Logger) *Researcher {
	return &Researcher{store: st, asker: asker, niches: n, runner: runner, suffixes: suffixes, log: log}
}

// Kinds are the kinds of jobs that it does.
func (s *Researcher) Kinds() []jobs.Kind {
	return append(s.lookupKinds(), s.reckonKind(), s.huntingKind())
}
