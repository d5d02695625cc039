package ask

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"cleverniche/core/links"
	"cleverniche/market"
	"cleverniche/store"
	"cleverniche/study/input"
	"cleverniche/study/money"
)

// Request is the piece of work that questions are asked for: a job's, if it is one's.
type Request struct {
	Job     uint
	Lookups atomic.Int64 // made for it
	Tried   *SeenIdeas   // whose demand failed in this run of the job
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
}

func (e *BudgetError) Error() string {
	return fmt.Sprintf("the day's budget of %s is used up", money.Text(e.Micros, e.Currency))
}

// MissingSourceError says that a question has nobody to be put to.
type MissingSourceError struct{ Question Question }

func (e *MissingSourceError) Error() string {
	return fmt.Sprintf("no source is set for %s; set its address (--%s) and start again", e.Question,
		strings.ReplaceAll(string(e.Question), " ", "-"))
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

// Ask returns the fresh kept answer, or asks, and keeps what is answered. The
// asking itself is not cut off with ctx: what was paid for is kept. One that fails and
// was begun for somebody else, perhaps before what was wrong was mended, is asked again.
func Ask[T any](ctx context.Context, s *Asker, q Question, key string,
	fetch func(context.Context) (T, error)) (Asked[T], error) {
	if kept, ok, err := Recall[T](ctx, s, q, key); err != nil || ok {
		return kept, err
	}
	out, own, err := join(ctx, s, q, key, fetch)
	if err != nil && !own && ctx.Err() == nil {
		out, _, err = join(ctx, s, q, key, fetch)
	}
	return out, err
}

// join joins the asking that is under way, or begins an own one.
func join[T any](ctx context.Context, s *Asker, q Question, key string,
	fetch func(context.Context) (T, error)) (Asked[T], bool, error) {
	own := false // to be read once the flight has ended
	done := s.inFlight.DoChan(string(q)+"\x00"+key, func() (any, error) {
		own = true
		bg := context.WithoutCancel(ctx)
		// Someone may have asked between the look and the flight.
		if kept, ok, err := Recall[T](bg, s, q, key); err != nil || ok {
			return kept, err
		}
		turn, err := s.turn(ctx, q)
		if err != nil {
			return Asked[T]{}, err
		}
		bill, err := s.charge(bg, q, key)
		for tries := 0; errors.Is(err, errAnswered) && tries < mostTries; tries++ {
			if kept, ok, err := Recall[T](bg, s, q, key); err != nil || ok {
				return kept, err
			}
			bill, err = s.charge(bg, q, key) // it was in vain
		}
		if err != nil {
			s.outcomes.add(q, outcomeOf(err))
			return Asked[T]{}, err
		}
		if len(bill.calls) > 0 { // another program may have asked between the look and the entry
			if kept, ok, err := Recall[T](bg, s, q, key); err != nil || ok {
				return kept, errors.Join(err, bill.settle(bg, market.Free))
			}
		}
		begun := s.store.Now()
		v, err := fetch(bill.watching(context.WithoutCancel(turn)))
		s.outcomes.add(q, outcomeOf(err))
		if err != nil {
			return Asked[T]{}, bill.fail(bg, err)
		}
		RequestOf(bg).Lookups.Add(1)
		out := Asked[T]{v, s.store.Now().UTC(), s.market.Names[q]}
		return out, s.Keep(bg, q, key, v, out.At, out.At.Sub(begun), bill.calls...)
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

// mostTries is how often one asks after others whose asking was in vain.
const mostTries = 5

// Recall returns the kept answer when it is fresh.
func Recall[T any](ctx context.Context, s *Asker, q Question, key string) (out Asked[T], ok bool, err error) {
	a, err := s.store.Answer(ctx, string(q), key)
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

func (s *Asker) Keep(ctx context.Context, q Question, key string, v any, at time.Time, took time.Duration,
	paid ...store.Entry) error {
	body, err := json.Marshal(v)
	if err != nil {
		return err
	}
	return s.store.SaveAnswer(ctx, store.Answer{Kind: string(q), Key: key, Source: s.market.Names[q], Body: body,
		AskedAt: at, TookMS: took.Milliseconds(), CostMicros: s.options.Prices[q]}, paid...)
}

// LocaleKey is the key of an answer that holds for one country and language.
func LocaleKey(in market.Locale, parts ...string) string {
	return in.Country + "|" + in.Language + "|" + strings.Join(parts, "|")
}

// Suggest asks what people type after a text.
func (s *Asker) Suggest(ctx context.Context, text string, in market.Locale) (Asked[[]string], error) {
	if s.market.Suggest == nil {
		return Asked[[]string]{}, &MissingSourceError{Suggestions}
	}
	return Ask(ctx, s, Suggestions, LocaleKey(in, text), func(ctx context.Context) ([]string, error) {
		return s.market.Suggest.Suggest(ctx, text, in)
	})
}

// DefaultDepth is how many results are looked up: the ten. Twenty teach what an engine leans on in half as many
// look-ups, at twice the price of each: for the same money forecasts are as good, of half as many ideas
// (docs/calibration.md).
const DefaultDepth = 10

// Results asks for the results of a phrase, as deep as the settings say.
func (s *Asker) Results(ctx context.Context, phrase string, in market.Locale) (Asked[market.Results], error) {
	if s.market.Search == nil {
		return Asked[market.Results]{}, &MissingSourceError{Results}
	}
	return Ask(ctx, s, Results, s.ResultsKey(phrase, in), func(ctx context.Context) (market.Results, error) {
		return s.market.Search.Search(ctx, phrase, in, s.options.Depth)
	})
}

// MostOwnPages is how many pages of a site are asked for.
const MostOwnPages = 100

// Site asks for the pages of a site that the search engine knows.
func (s *Asker) Site(ctx context.Context, own string, in market.Locale) (Asked[market.Results], error) {
	if s.market.Search == nil {
		return Asked[market.Results]{}, &MissingSourceError{Results}
	}
	query := "site:" + own
	key := LocaleKey(in, s.market.Names[Results], strconv.Itoa(MostOwnPages), query)
	return Ask(ctx, s, Results, key, func(ctx context.Context) (market.Results, error) {
		return s.market.Search.Search(ctx, query, in, MostOwnPages)
	})
}

// ResultsKey is the key under which the results of a phrase are kept.
func (s *Asker) ResultsKey(phrase string, in market.Locale) string {
	return LocaleKey(in, s.market.Names[Results], strconv.Itoa(s.options.Depth), phrase)
}

// Page fetches a page.
func (s *Asker) Page(ctx context.Context, url string) (Asked[market.Fetched], error) {
	if s.market.Pages == nil {
		return Asked[market.Fetched]{}, &MissingSourceError{Page}
	}
	return Ask(ctx, s, Page, url, func(ctx context.Context) (market.Fetched, error) {
		return s.market.Pages.Fetch(ctx, url)
	})
}

// Links asks who links to a page.
func (s *Asker) Links(ctx context.Context, url string) (Asked[market.LinkList], error) {
	if s.market.Links == nil {
		return Asked[market.LinkList]{}, &MissingSourceError{Links}
	}
	return Ask(ctx, s, Links, url, func(ctx context.Context) (market.LinkList, error) {
		return s.market.Links.Links(ctx, url)
	})
}

// standings keeps the sites' standings computed from the latest graph.
type standings struct {
	mu   sync.Mutex
	at   time.Time
	site map[string]float64
}

// Standings returns the standing of every site of the link graph, and when the
// graph was fetched.
func (s *Asker) Standings(ctx context.Context) (map[string]float64, time.Time, error) {
	if s.market.Links == nil {
		return nil, time.Time{}, &MissingSourceError{Links}
	}
	// A graph is large: while the standings at hand are fresh it is not read again.
	if site, at := s.graph.now(); site != nil && s.fresh(ctx, Graph, at) {
		return site, at, nil
	}
	g, err := Ask(ctx, s, Graph, s.market.Names[Links], func(ctx context.Context) (links.SiteGraph, error) {
		return s.market.Links.Graph(ctx)
	})
	if err != nil {
		return nil, time.Time{}, err
	}
	return s.graph.of(g), g.At, nil
}

// of returns the standings of a graph, computed once for each.
func (st *standings) of(g Asked[links.SiteGraph]) map[string]float64 {
	st.mu.Lock()
	defer st.mu.Unlock()
	if st.site == nil || !st.at.Equal(g.At) {
		st.site, st.at = g.Value.Standings(), g.At
	}
	return st.site
}

// now returns the standings at hand, nil when none were computed yet.
func (st *standings) now() (site map[string]float64, at time.Time) {
	st.mu.Lock()
	defer st.mu.Unlock()
	return st.site, st.at
}

// KnownStanding returns a site's standing when the graph is at hand, without
// asking anyone.
func (s *Asker) KnownStanding(ctx context.Context, own string) (standing float64, known bool) {
	site, _ := s.graph.now()
	if site == nil {
		g, ok, err := Recall[links.SiteGraph](ctx, s, Graph, s.market.Names[Links])
		if err != nil || !ok {
			return 0, false
		}
		site = s.graph.of(g)
	}
	return site[own], true
}

// TotalsKey is the key under which the total of a search is kept.
func (s *Asker) TotalsKey(text string, in market.Locale) string {
	return LocaleKey(in, s.market.Names[Results], text)
}

// Total asks how many results a search has, without reading them.
func (s *Asker) Total(ctx context.Context, text string, in market.Locale) (Asked[int], error) {
	if s.market.Search == nil {
		return Asked[int]{}, &MissingSourceError{Results}
	}
	return Ask(ctx, s, Totals, s.TotalsKey(text, in), func(ctx context.Context) (int, error) {
		page, err := s.market.Search.Search(ctx, text, in, 1)
		return page.Total, err
	})
}

// Registration asks whether a domain is registered.
func (s *Asker) Registration(ctx context.Context, domain string) (Asked[market.Registration], error) {
	if s.market.Registry == nil {
		return Asked[market.Registration]{}, &MissingSourceError{Names}
	}
	return Ask(ctx, s, Names, domain, func(ctx context.Context) (market.Registration, error) {
		return s.market.Registry.Registered(ctx, domain)
	})
}
