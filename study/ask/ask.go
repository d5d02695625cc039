package ask

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"cleverniche/market"
	"cleverniche/store"
	"cleverniche/study/input"
	"cleverniche/study/money"
)

// Request is the piece of work that questions are asked for: a job's, if it is one's.
type Request struct {
	Job     uint
	Lookups atomic.Int64          // made for it
	Tried   *SeenIdeas            // whose demand failed in this run of the job
	Branch  func(key string) uint // that the cost of a question with this key is for; nil none
}

type contextKey int

const (
	requestKey contextKey = iota
	againKey
)

// WithRequest is a context under which questions are asked for a piece of work.
func WithRequest(ctx context.Context, e *Request) context.Context {
	return context.WithValue(ctx, requestKey, e)
}

// RequestOf is the piece of work of a context; one of nobody when there is none.
func RequestOf(ctx context.Context) *Request {
	if e, ok := ctx.Value(requestKey).(*Request); ok {
		return e
	}
	return &Request{}
}

func (r *Request) branch(key string) uint {
	if r.Branch == nil {
		return 0
	}
	return r.Branch(key)
}

// ForBranch makes what is asked for a piece of work from now on the cost of a branch.
func (r *Request) ForBranch(id uint) { r.Branch = func(string) uint { return id } }

// SeenIdeas is a set of ideas that several may add to.
type SeenIdeas struct {
	mu  sync.Mutex
	ids map[uint]bool
}

// Add puts an idea into the set.
func (s *SeenIdeas) Add(id uint) {
	if s == nil {
		return
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.ids == nil {
		s.ids = map[uint]bool{}
	}
	s.ids[id] = true
}

// Has reports whether an idea is in the set; nil has none.
func (s *SeenIdeas) Has(id uint) bool {
	if s == nil {
		return false
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.ids[id]
}

// Again makes answers older than a moment count as stale, whatever their age.
func Again(ctx context.Context, before time.Time) context.Context {
	return context.WithValue(ctx, againKey, before)
}

// BudgetError says that the day's budget does not allow a further lookup.
type BudgetError struct {
	Micros   int64
	Currency string
	Own      bool // it is that of whoever asks
}

func (e *BudgetError) Error() string {
	if e.Own {
		return "your own budget for today is used up"
	}
	return fmt.Sprintf("the day's budget of %s is used up", money.Text(e.Micros, e.Currency))
}

// MissingSourceError says that a question has nobody to be put to.
type MissingSourceError struct{ Question Question }

func (e *MissingSourceError) Error() string {
	setting := map[Question]Question{Totals: Results, Graph: Links}[e.Question]
	if setting == "" {
		setting = e.Question
	}
	return fmt.Sprintf("no source for %s yet. Restart with --%s ADDRESS", e.Question, setting)
}

// StopsWork reports whether an error means that going on is of no use now.
func StopsWork(err error) bool {
	var budget *BudgetError
	var missing *MissingSourceError
	return market.IsUnreachable(err) || errors.As(err, &budget) || errors.As(err, &missing)
}

// Asked is a kept or new answer with its time and source.
type Asked[T any] struct {
	Value  T
	At     time.Time
	Source string
}

// put returns the fresh kept answer, or asks the sources of a question in their order, and keeps what is answered. The
// asking itself is not cut off with ctx: what was paid for is kept. One that fails and
// was begun for somebody else, perhaps before what was wrong was mended, is asked again.
func put[C, T any](ctx context.Context, s *Asker, q Question, key string,
	fetch func(context.Context, C) (T, error)) (Asked[T], error) {
	return putAmong(ctx, s, s.sources[q], q, key, fetch)
}

// putAmong is put to some of the sources of a question.
func putAmong[C, T any](ctx context.Context, s *Asker, list []*Source, q Question, key string,
	fetch func(context.Context, C) (T, error)) (Asked[T], error) {
	if kept, ok, err := Recall[T](ctx, s, q, key); err != nil || ok {
		return kept, err
	}
	if !s.Has(q) {
		return Asked[T]{}, &MissingSourceError{q}
	}
	if len(list) == 0 {
		return Asked[T]{}, unable("it knows something else of sites")
	}
	out, own, err := join(ctx, s, list, q, key, fetch)
	if err != nil && !own && ctx.Err() == nil {
		out, _, err = join(ctx, s, list, q, key, fetch)
	}
	return out, err
}

// join joins the asking that is under way, or begins an own one.
func join[C, T any](ctx context.Context, s *Asker, list []*Source, q Question, key string,
	fetch func(context.Context, C) (T, error)) (Asked[T], bool, error) {
	own := false // to be read once the flight has ended
	done := s.inFlight.DoChan(string(q)+"\x00"+key, func() (any, error) {
		own = true
		// Someone may have asked between the look and the flight.
		if kept, ok, err := Recall[T](context.WithoutCancel(ctx), s, q, key); err != nil || ok {
			return kept, err
		}
		var out Asked[T]
		err := inOrder(list, func(src *Source) (err error) {
			out, err = putTo(ctx, s, src, key, fetch)
			return err
		})
		return out, err
	})
	select {
	case r := <-done:
		if r.Err != nil {
			return Asked[T]{}, own, r.Err
		}
		return r.Val.(Asked[T]), own, nil
	case <-ctx.Done():
		return Asked[T]{}, true, ctx.Err()
	}
}

// putTo puts a question to one source.
func putTo[C, T any](ctx context.Context, s *Asker, src *Source, key string,
	fetch func(context.Context, C) (T, error)) (Asked[T], error) {
	q, bg := src.Question, context.WithoutCancel(ctx)
	turn, err := s.turn(ctx, src)
	if err != nil {
		return Asked[T]{}, err
	}
	bill, err := s.charge(bg, src, key)
	for tries := 0; errors.Is(err, errAnswered) && tries < mostTries; tries++ {
		if kept, ok, err := Recall[T](bg, s, q, key); err != nil || ok {
			return kept, err
		}
		bill, err = s.charge(bg, src, key) // it was in vain
	}
	if err != nil {
		s.note(src, err)
		return Asked[T]{}, err
	}
	if len(bill.calls) > 0 { // another program may have asked between the look and the entry
		if kept, ok, err := Recall[T](bg, s, q, key); err != nil || ok {
			return kept, errors.Join(err, bill.settle(bg, market.Free))
		}
	}
	begun := s.store.Now()
	v, err := fetch(bill.watching(context.WithoutCancel(turn)), src.Client.(C))
	s.note(src, err)
	if err != nil {
		return Asked[T]{}, bill.fail(bg, err)
	}
	RequestOf(bg).Lookups.Add(1)
	out := Asked[T]{v, s.store.Now().UTC(), src.Name}
	body, err := json.Marshal(v)
	if err != nil {
		return out, err
	}
	return out, s.store.SaveAnswers(bg, []store.Answer{src.answer(key, body, out.At, out.At.Sub(begun))}, bill.calls)
}

// mostTries is how often one asks after others whose asking was in vain.
const mostTries = 5

// Recall returns the kept answer when it is fresh.
func Recall[T any](ctx context.Context, s *Asker, q Question, key string) (out Asked[T], ok bool, err error) {
	a, err := s.kept(ctx, q, key)
	if errors.Is(err, input.ErrNotFound) {
		return out, false, nil
	}
	if err != nil {
		return out, false, err
	}
	if !s.fresh(ctx, q, a.AskedAt) {
		return out, false, nil
	}
	if err := json.Unmarshal(a.Body, &out.Value); err != nil {
		return out, false, nil // written by an older version: ask again
	}
	if spoilt(out.Value) {
		return Asked[T]{}, false, nil
	}
	if isEmpty(out.Value) && s.store.Now().Sub(a.AskedAt) > emptyLife {
		return Asked[T]{}, false, nil
	}
	out.At, out.Source = a.AskedAt, a.Source
	return out, true, nil
}

// Kept returns the kept answer however old it is, where there is one that can be read.
func Kept[T any](ctx context.Context, s *Asker, q Question, key string) (out Asked[T], ok bool, err error) {
	a, err := s.kept(ctx, q, key)
	if errors.Is(err, input.ErrNotFound) {
		return out, false, nil
	}
	if err != nil || json.Unmarshal(a.Body, &out.Value) != nil || spoilt(out.Value) {
		return out, false, err
	}
	out.At, out.Source = a.AskedAt, a.Source
	return out, true, nil
}

// emptyLife is how long an answer is kept that says there is nothing: more often than others it is
// a source's mistake.
const emptyLife = Day

// spoilt reports whether a kept answer is none: programs of the past kept half a page for a whole.
func spoilt(v any) bool {
	page, ok := v.(market.Fetched)
	return ok && page.Whole() != nil
}

func isEmpty(v any) bool {
	switch v := v.(type) {
	case []string:
		return len(v) == 0
	case market.Results:
		return len(v.Organic) == 0 && v.Total == 0
	}
	return false
}

// fresh reports whether an answer of that time may be used: within its lifetime, and
// not older than the moment from which everything is to be asked anew.
func (s *Asker) fresh(ctx context.Context, q Question, asked time.Time) bool {
	if before, again := ctx.Value(againKey).(time.Time); again && asked.Before(before) {
		return false
	}
	return s.store.Now().Sub(asked) <= s.lifetime(q)
}

// IsFresh reports whether an answer to a question that was asked then need not be asked for again.
func (s *Asker) IsFresh(q Question, asked time.Time) bool {
	return s.fresh(context.Background(), q, asked)
}

// LocaleKey is the key of an answer that holds for one country and language.
func LocaleKey(in market.Locale, parts ...string) string {
	return in.Country + "|" + in.Language + "|" + strings.Join(parts, "|")
}

// LastOfKey is the last of the parts that a key was made of.
func LastOfKey(key string) string { return key[strings.LastIndexByte(key, '|')+1:] }
