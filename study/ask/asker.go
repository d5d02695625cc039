// Package ask puts questions to the outside: who answers which, at what price, for how long an answer is
// fresh. Before a question that costs money is put, it is entered into the ledger, and what became of it after;
// two who ask the same at once are one question.
package ask

import (
	"context"
	"log/slog"
	"sync"
	"time"

	"cleverniche/store"

	"golang.org/x/sync/singleflight"
)

// Store is what is asked of the data file.
type Store interface {
	Answer(ctx context.Context, kind, key string) (store.Answer, error)
	DaySpent(ctx context.Context, since time.Time) (store.Spent, error)
	FreshKeys(ctx context.Context, kind string, keys []string, after time.Time) (map[string]bool, error)
	Hold(ctx context.Context, doubts []store.Entry, job uint) error
	Alive(program int64) bool
	InDoubt(ctx context.Context, question string, keys []string) (out []store.Entry, err error)
	Now() time.Time
	Pace(ctx context.Context, kind string) (mean time.Duration, known bool, err error)
	SaveAnswer(ctx context.Context, a store.Answer, paid ...store.Entry) error
	Settle(ctx context.Context, calls []store.Entry, event string) error
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
	log      *slog.Logger
	inFlight singleflight.Group
	graph    standings
	outcomes outcomes
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
	return &Asker{store: st, market: m, options: o, log: log}
}

// Currency is that of prices and budget.
func (s *Asker) Currency() string { return s.options.Currency }
