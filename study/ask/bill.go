package ask

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"slices"
	"sync"
	"time"

	"cleverniche/market"
	"cleverniche/store"
	"cleverniche/study/money"
)

// DoubtError says that a question was put before for money, and that nobody knows with what end:
// it is not put again unless the user says so.
type DoubtError struct {
	Question Question
	At       time.Time
	Micros   int64
	Currency string
	calls    []store.Entry
}

func (e *DoubtError) Error() string {
	return fmt.Sprintf("no answer came to the %s request of %s; %s may have been charged. Retry to "+
		"ask again", e.Question, e.At.Format("2 January 2006, 15:04"),
		money.Text(e.Micros, e.Currency))
}

// charge is the entries of the ledger for what is being asked: a call a key.
type charge struct {
	study *Asker
	ctx   context.Context
	mu    sync.Mutex
	calls []store.Entry
}

// turn waits for the turn of a question that costs money, so that it is put at once when it is
// entered: what waits is not in doubt when the program is killed. The context is the one to ask
// under.
func (s *Asker) turn(ctx context.Context, src *Source) (context.Context, error) {
	client, ok := src.Client.(interface {
		Turn(context.Context) (context.Context, error)
	})
	if !ok || src.Micros == 0 {
		return ctx, nil
	}
	return client.Turn(ctx)
}

// charge enters questions to a source into the ledger, before they are put. It is a *BudgetError when
// the day's budget does not cover them, and a *DoubtError where one of them is in doubt. What is
// free needs no entry.
func (s *Asker) charge(ctx context.Context, src *Source, keys ...string) (*charge, error) {
	price := src.Micros
	b := &charge{study: s, ctx: ctx}
	if price == 0 {
		return b, nil
	}
	request := RequestOf(ctx)
	waited, err := s.await(ctx, src, keys)
	if err == nil && waited {
		err = errAnswered
	}
	var doubt *DoubtError
	if errors.As(err, &doubt) {
		doubt.Micros = price
		return b, errors.Join(err, s.store.Hold(ctx, doubt.calls, request.Job))
	}
	if err != nil {
		return b, err
	}
	for _, key := range keys {
		b.calls = append(b.calls, store.Entry{Call: rand.Text(), Question: string(src.Question), Source: src.Name,
			Key: key, Micros: price, JobID: request.Job, BranchID: request.branch(key)})
	}
	err = s.spend(ctx, b.calls)
	if errors.Is(err, store.ErrAsked) { // by another program, just now
		return s.charge(ctx, src, keys...)
	}
	return b, err
}

// errAnswered says that somebody else was asking, and has the answer by now, or will not have one.
var errAnswered = errors.New("somebody else asked")

// How long one waits for somebody else's answer, and how often one looks.
const (
	patience = 3 * time.Minute
	look     = 100 * time.Millisecond
)

// await waits while somebody who is alive asks one of the keys, here or in another program on the data file. waited
// says that somebody did. It is a *DoubtError where nobody asks who could say what became of it.
func (s *Asker) await(ctx context.Context, src *Source, keys []string) (waited bool, err error) {
	for tries := 0; ; tries++ {
		doubts, err := s.store.InDoubt(ctx, string(src.Question), src.Name, keys)
		if err != nil || len(doubts) == 0 {
			return waited, err
		}
		lost := slices.DeleteFunc(slices.Clone(doubts), func(e store.Entry) bool {
			return !e.Lost && s.store.Alive(e.Program)
		})
		if len(lost) > 0 || tries > int(patience/look) {
			if len(lost) == 0 {
				lost = doubts
			}
			return waited, &DoubtError{Question: src.Question, At: lost[0].At, Currency: s.options.Currency, calls: lost}
		}
		waited = true
		select {
		case <-ctx.Done():
			return waited, ctx.Err()
		case <-time.After(look):
		}
	}
}

// spend enters calls, within the day's budget.
func (s *Asker) spend(ctx context.Context, calls []store.Entry) error {
	err := s.store.Spend(ctx, calls, s.Midnight(), s.options.Budget)
	if errors.Is(err, store.ErrBudget) {
		return &BudgetError{s.options.Budget, s.options.Currency, false}
	}
	if errors.Is(err, store.ErrOwnBudget) {
		return &BudgetError{Currency: s.options.Currency, Own: true}
	}
	return err
}

// SpentToday says what was spent today by the ledger, in all niches, and what of it is in doubt;
// "" when nothing was and there is no budget.
func (s *Asker) SpentToday(ctx context.Context) (string, error) {
	spent, err := s.store.DaySpent(ctx, s.Midnight())
	if err != nil || spent.Micros == 0 && s.options.Budget == 0 {
		return "", err
	}
	out := "Spent today: " + money.Text(spent.Micros, s.options.Currency)
	if s.options.Budget > 0 {
		out += " of " + money.Text(s.options.Budget, s.options.Currency)
	}
	if spent.Doubts > 0 {
		out += ", " + money.Text(spent.DoubtMicros, s.options.Currency) + " of it unconfirmed"
	}
	return out + ".", nil
}

// Purse says what was spent today and this month, in all niches, and whether work that costs so much would overrun the
// day's budget; "" when nothing was spent and there is no budget.
func (s *Asker) Purse(ctx context.Context, costs int64) (says, overruns string, err error) {
	day := s.Midnight()
	today, err := s.store.SpentSince(ctx, day)
	if err != nil {
		return "", "", err
	}
	month, err := s.store.SpentSince(ctx, time.Date(day.Year(), day.Month(), 1, 0, 0, 0, 0, day.Location()))
	if err != nil || month == 0 && s.options.Budget == 0 {
		return "", "", err
	}
	says = "Spent today: " + s.Money(today)
	if s.options.Budget > 0 {
		says += " of " + s.Money(s.options.Budget)
	}
	says += ", this month: " + s.Money(month) + "."
	if left := s.options.Budget - today; s.options.Budget > 0 && costs > left {
		overruns = "At most this costs more than is left of today's budget: " + s.Money(max(0, left)) +
			". It stops when that is used. Resume it tomorrow."
	}
	return says, overruns, nil
}

// Midnight is when the day of the budget began.
func (s *Asker) Midnight() time.Time {
	now := s.store.Now()
	return time.Date(now.Year(), now.Month(), now.Day(), 0, 0, 0, 0, now.Location())
}

// watching is a context under which tries are entered that a client makes by itself.
func (b *charge) watching(ctx context.Context) context.Context {
	if len(b.calls) == 0 {
		return ctx
	}
	return market.WithMeter(ctx, b)
}

// May implements market.Meter.
func (b *charge) May() bool {
	if b.study.options.Budget <= 0 {
		return true
	}
	spent, err := b.study.store.SpentSince(b.ctx, b.study.Midnight())
	return err == nil && spent <= b.study.options.Budget // the try that failed is in it still, and costs as much
}

// Again implements market.Meter.
func (b *charge) Again() {
	if err := b.settle(b.ctx, market.Free); err != nil {
		b.study.log.Error("entering what a call cost", "error", err)
	}
	b.mu.Lock()
	defer b.mu.Unlock()
	for i := range b.calls {
		b.calls[i].ID, b.calls[i].Call = 0, rand.Text()
	}
	if err := b.study.spend(b.ctx, b.calls); err != nil {
		b.study.log.Error("entering a call", "error", err)
	}
}

// fail settles what ended with an error, and returns that.
func (b *charge) fail(ctx context.Context, err error) error {
	return errors.Join(err, b.settle(ctx, market.ChargeOf(err)))
}

func (b *charge) settle(ctx context.Context, c market.Charge) error {
	b.mu.Lock()
	defer b.mu.Unlock()
	switch c {
	case market.Free:
		return b.study.store.Settle(ctx, b.calls, store.CallVoid)
	case market.Due:
		return b.study.store.Settle(ctx, b.calls, store.CallPaid)
	}
	return b.study.store.Settle(b.ctx, b.calls, store.CallLost) // in doubt it stays
}
