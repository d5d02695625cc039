package ask

import (
	"context"
	"errors"
	"slices"
	"sync"
	"time"

	"cleverniche/market"
	"cleverniche/store"
)

// Source is somebody who answers a question.
type Source struct {
	Question Question
	Name     string        // shown beside what it said
	Micros   int64         // what a lookup costs, in micro-units of money; of demand, a phrase
	Life     time.Duration // for how long its answers are fresh; 0 as the question says
	Beside   bool          // it is asked also where another one has answered; of demand only
	From     string        // where it was set: a setting, or a file
	Client   any           // a market.Suggester, Demander, …, as its question says
}

// sourcesOf lists who answers each question, in the order in which they are asked.
func sourcesOf(m Market, prices map[Question]int64) map[Question][]*Source {
	out := map[Question][]*Source{}
	for _, a := range Services() {
		q := a.Question
		if client := m.own(q); client != nil {
			named := q
			if q == Totals { // it is the engine itself that counts
				named = Results
			}
			out[q] = append(out[q], &Source{Question: q, Name: m.Names[named], Micros: prices[q], From: a.set(), Client: client})
		}
	}
	for _, s := range m.More {
		out[s.Question] = append(out[s.Question], &s)
	}
	return out
}

// set is the setting that says where a question is put; "" where there is none.
func (a Service) set() string {
	if a.Address == "" {
		return ""
	}
	return "--" + string(a.Question)
}

// own is who answers a question by a protocol of its own; nil when nobody does.
func (m Market) own(q Question) any {
	switch q {
	case Suggestions:
		return orNil(m.Suggest)
	case Demand:
		return orNil(m.Demand)
	case Results:
		return orNil(m.Search)
	case Totals:
		if m.Search != nil {
			return market.TotalOf{Searcher: m.Search}
		}
	case Page:
		return orNil(m.Pages)
	case Links:
		return orNil(m.Links)
	case Graph:
		if g, is := m.Links.(market.Grapher); is {
			return g
		}
	case Names:
		return orNil(m.Registry)
	case Rankings:
		return orNil(m.Ranked)
	}
	return nil
}

// orNil is nothing at all where an interface holds nothing.
func orNil[T comparable](client T) any {
	var none T
	if client == none {
		return nil
	}
	return client
}

// Sources lists who answers a question, in the order in which they are asked.
func (s *Asker) Sources(q Question) []*Source { return s.sources[q] }

// Has reports whether there is somebody to put a question to.
func (s *Asker) Has(q Question) bool { return len(s.sources[q]) > 0 }

// Name is who is asked a question first; without anybody, whom one would ask.
func (s *Asker) Name(q Question) string {
	if list := s.sources[q]; len(list) > 0 {
		return list[0].Name
	}
	return s.market.Names[q]
}

// Price is what a question of a kind costs at most, in micro-units of money: the dearest who may answer it, and all
// who are asked beside.
func (s *Asker) Price(q Question) int64 {
	var dearest, beside int64
	for i, one := range s.sources[q] {
		if one.Beside && i > 0 {
			beside += one.Micros
		} else {
			dearest = max(dearest, one.Micros)
		}
	}
	return dearest + beside
}

// lifetime is for how long an answer to a question is fresh: as its first source says, as the settings say, or ours.
func (s *Asker) lifetime(q Question) time.Duration {
	for _, one := range s.sources[q] {
		if one.Life > 0 {
			return one.Life
		}
	}
	if d, ok := s.options.Lifetimes[q]; ok {
		return d
	}
	for _, a := range Services() {
		if a.Question == q {
			return a.Life
		}
	}
	return 0
}

// Last is how a source's latest question ended, in this run of the program.
type Last struct {
	At      time.Time
	Outcome string // as in Outcome
	Says    string // what went wrong
}

// lasts keeps how questions ended, by source.
type lasts struct {
	mu sync.Mutex
	of map[*Source]Last
}

// note keeps how a question to a source ended.
func (s *Asker) note(src *Source, err error) {
	last := Last{At: s.store.Now().UTC(), Outcome: outcomeOf(err)}
	if err != nil {
		last.Says = err.Error()
	}
	s.outcomes.add(src.Question, last.Outcome)
	s.lasts.mu.Lock()
	defer s.lasts.mu.Unlock()
	if s.lasts.of == nil {
		s.lasts.of = map[*Source]Last{}
	}
	s.lasts.of[src] = last
}

// State is how a source is.
type State struct {
	*Source
	Life     time.Duration
	Answered time.Time // latest; zero never
	Last     Last      // in this run of the program; its time is zero where it was not asked
	Spent    int64     // today, in micro-units of money
}

// States are how the sources of a question are.
func (s *Asker) States(ctx context.Context, q Question) (out []State, err error) {
	for _, src := range s.sources[q] {
		st := State{Source: src, Life: s.lifetime(q)}
		if st.Answered, err = s.store.LastAnswer(ctx, string(q), src.Name); err != nil {
			return nil, err
		}
		if st.Spent, err = s.store.SourceSpent(ctx, string(q), src.Name, s.Midnight()); err != nil {
			return nil, err
		}
		s.lasts.mu.Lock()
		st.Last = s.lasts.of[src]
		s.lasts.mu.Unlock()
		if st.Last.Outcome == answered && st.Last.At.After(st.Answered) {
			st.Answered = st.Last.At
		}
		out = append(out, st)
	}
	return out, nil
}

// inOrder asks sources one after the other: the first that answers. What one refuses or cannot be reached for, the
// next is asked; what it answers, also with nothing, holds. Where money is the matter, nobody else is asked.
func inOrder(list []*Source, ask func(*Source) error) error {
	var failed []error
	for _, src := range list {
		err := ask(src)
		var budget *BudgetError
		var doubt *DoubtError
		if err == nil || errors.As(err, &budget) || errors.As(err, &doubt) || errors.Is(err, errAnswered) {
			return err
		}
		failed = append(failed, err)
	}
	// While one of them can be reached at all, going on is of use.
	if reached := slices.DeleteFunc(slices.Clone(failed), market.IsUnreachable); len(reached) > 0 {
		failed = reached
	}
	if len(failed) == 1 {
		return failed[0]
	}
	return errors.Join(failed...)
}

// unable is that a source cannot answer a question, which is not put to it then and costs nothing.
func unable(why string) error {
	return &market.Error{Source: "This source", Trouble: market.Refused, Err: errors.New(why)}
}

// answer is what a source answered, as it is kept.
func (s *Source) answer(key string, body []byte, at time.Time, took time.Duration) store.Answer {
	return store.Answer{Kind: string(s.Question), Key: key, Source: s.Name, Body: body, AskedAt: at,
		TookMS: took.Milliseconds(), CostMicros: s.Micros}
}
