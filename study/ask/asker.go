// Package ask puts questions to the outside: who answers which, at what price, for how long an answer is
// fresh. Before a question that costs money is put, it is entered into the ledger, and what became of it after;
// two who ask the same at once are one question.
package ask

import (
	"context"
	"log/slog"
	"sync"
	"sync/atomic"
	"time"

	"cleverniche/market"
	"cleverniche/store"

	"golang.org/x/sync/singleflight"
)

// Store is what is asked of the data file.
type Store interface {
	Answer(ctx context.Context, kind, key string) (store.Answer, error)
	Brought(ctx context.Context, kind, key string) (store.Brought, error)
	DaySpent(ctx context.Context, since time.Time) (store.Spent, error)
	FreshBrought(ctx context.Context, kind string, keys []string, after time.Time) (int, error)
	FreshKeys(ctx context.Context, kind string, keys []string, after time.Time) (map[string]bool, error)
	Hold(ctx context.Context, doubts []store.Entry, job uint) error
	Alive(program int64) bool
	InDoubt(ctx context.Context, question, source string, keys []string) (out []store.Entry, err error)
	LastAnswer(ctx context.Context, kind, source string) (time.Time, error)
	Now() time.Time
	Pace(ctx context.Context, kind string) (mean time.Duration, known bool, err error)
	SaveAnswers(ctx context.Context, list []store.Answer, paid []store.Entry) error
	Settle(ctx context.Context, calls []store.Entry, event string) error
	SourceSpent(ctx context.Context, question, source string, since time.Time) (micros int64, err error)
	Spend(ctx context.Context, calls []store.Entry, since time.Time, budget int64) error
	SpentSince(ctx context.Context, since time.Time) (micros int64, err error)
}

// Options are the settings of asking.
type Options struct {
	Prices    map[Question]int64 // micro-units of money a lookup; demand: a phrase
	Budget    int64              // micro-units a day; 0 is no limit
	Currency  string             // of prices and budget
	Lifetimes map[Question]time.Duration
	Depth     int // results looked up; 0 means DefaultDepth
}

// Asker puts questions.
type Asker struct {
	store    Store
	market   Market
	options  Options
	sources  map[Question][]*Source
	log      *slog.Logger
	inFlight singleflight.Group
	graph    standings
	ranked   atomic.Pointer[market.Ranker] // the web graph that was imported
	outcomes outcomes
	lasts    lasts
	paces    sync.Map // by question: paced
}

// New returns who asks the sources of a market.
func New(st Store, m Market, o Options, log *slog.Logger) *Asker {
	if o.Depth == 0 {
		o.Depth = DefaultDepth
	}
	if o.Currency == "" {
		o.Currency = "USD"
	}
	s := &Asker{store: st, market: m, options: o, sources: sourcesOf(m, o.Prices), log: log}
	if m.Ranks != nil {
		s.ranked.Store(&m.Ranks)
	}
	return s
}

// Currency is that of prices and budget.
func (s *Asker) Currency() string { return s.options.Currency }
