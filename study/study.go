// Package study is the work itself, a use case a file: gather, sift, judge,
// decide, import, export, and the runner of long jobs. It joins the rules of core,
// the questions of market and the data of store, and knows no HTTP and no HTML. Whoever
// stands above it sees its own types only.
package study

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"sync"
	"sync/atomic"
	"time"

	"cleverniche/board"
	"cleverniche/core/links"
	"cleverniche/store"

	"golang.org/x/sync/singleflight"
)

// Options are the study's settings.
type Options struct {
	Prices    map[Question]int64 // micro-units of money a lookup; demand: a phrase
	Budget    int64              // micro-units a day; 0 is no limit
	Currency  string             // of prices and budget
	Lifetimes map[Question]time.Duration
	Depth     int // results looked up; 0 means DefaultDepth
	Suffixes  links.Suffixes
	Forward   func() time.Time // a clock that is never set back; nil means Go's own
	Log       *slog.Logger
}

// Study is the use cases over one data file.
type Study struct {
	store    *store.Store
	market   Market
	options  Options
	log      *slog.Logger
	forward  func() time.Time
	suffixes links.Suffixes
	currency string
	flights  singleflight.Group
	boards   *board.Boards
	graph    standings
	runner   *Runner
	demand   sync.Mutex // one batch run of demand at a time
	damage   atomic.Pointer[Trouble]
	outcomes outcomes

	groupings groupings
}

// New returns a study over an open data file, whose clock is its own. Close it before the file.
func New(st *store.Store, m Market, o Options) *Study {
	if o.Forward == nil {
		o.Forward = time.Now // it carries a reading that only goes forward
	}
	if o.Log == nil {
		o.Log = slog.New(slog.DiscardHandler)
	}
	if o.Depth == 0 {
		o.Depth = DefaultDepth
	}
	if o.Currency == "" {
		o.Currency = "USD"
	}
	s := &Study{store: st, market: m, options: o, log: o.Log, forward: o.Forward, suffixes: o.Suffixes, currency: o.Currency, boards: board.New(st, 0),
		groupings: groupings{most: MostGrouped}}
	s.runner = newRunner(s)
	s.runner.kinds = []kind{gatherKind(s), judgeKind(s), countKind(s), reckonKind(s), ownKind(s)}
	return s
}

// Close stops the jobs that run here; they go on when the program is started again.
func (s *Study) Close() { s.runner.close() }

// Now is the time by the clock that the data file was opened with: there is no other.
func (s *Study) Now() time.Time { return s.store.Now() }

// PriceCurrency is the currency of prices and costs of lookups.
func (s *Study) PriceCurrency() string { return s.options.Currency }

// InputError is something the user gave that cannot be used. Field names it.
type InputError struct{ Field, Reason string }

func (e *InputError) Error() string { return e.Reason }

func badInput(field, format string, args ...any) error {
	return &InputError{field, fmt.Sprintf(format, args...)}
}

// ErrNotFound is returned for a niche, idea or job that is not there.
var ErrNotFound = store.ErrNotFound

// Trouble is something that is wrong with the data file, and what to do about it.
type Trouble = store.Trouble

// TroubleOf returns what an error says of the data file; nil when it is none of its.
func TroubleOf(err error) *Trouble {
	var t *Trouble
	if errors.As(store.TroubleIn(err), &t) {
		return t
	}
	return nil
}

// Ready returns why the study cannot do its work, or nil.
func (s *Study) Ready(ctx context.Context) error {
	if t := s.damage.Load(); t != nil {
		return t
	}
	_, err := s.Niches(ctx)
	return err
}

// Secret returns a short-lived secret of whoever serves the study; nil when there is
// none, or its life is over.
func (s *Study) Secret(ctx context.Context, key string) ([]byte, error) {
	return s.store.Token(ctx, key)
}

// KeepSecret keeps a secret, so that it outlives a restart. A life of 0 is for ever.
func (s *Study) KeepSecret(ctx context.Context, key string, value []byte, life time.Duration) error {
	return s.store.SetToken(ctx, key, value, life)
}
