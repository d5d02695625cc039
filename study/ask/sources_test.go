package ask_test

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"testing"

	"cleverniche/core/demand"
	"cleverniche/market"
	"cleverniche/study/ask"
	"cleverniche/study/input"
	"cleverniche/study/studytest"
)

// says is a source that says one figure, or an error.
type says struct {
	searches int
	err      error
}

func (s says) Demand(_ context.Context, phrases []string, _ market.Locale) (map[string]demand.Series, error) {
	out := map[string]demand.Series{}
	for _, p := range phrases {
		out[p] = demand.Series{Average: &demand.Average{Searches: s.searches}, Competition: -1}
	}
	return out, s.err
}

func (s says) Search(context.Context, string, market.Locale, int) (market.Results, error) {
	return market.Results{Engine: fmt.Sprint(s.searches)}, s.err
}

func refused(because string) error {
	return &market.Error{Source: "x", Trouble: market.Refused, Err: errors.New(because)}
}

func down() error {
	return &market.Error{Source: "x", Trouble: market.Unreachable, Err: errors.New("down"), Charge: market.Free}
}

// TestTheFirstThatAnswers: each source has its name and its price; what one refuses, the next is asked.
func TestTheFirstThatAnswers(t *testing.T) {
	for _, c := range []struct {
		first, second error
		name          string
		spent         int64
		stops         bool
	}{
		{nil, nil, "fake", 2000, false},
		{refused("no"), nil, "second", 700, false},
		{down(), nil, "second", 700, false},
		{refused("no"), down(), "", 0, false},
		{down(), down(), "", 0, true},
	} {
		s, n := studytest.Begin(t, &studytest.Fake{}, func(o *studytest.Setup) {
			o.Market.Search = says{1, c.first}
			o.Market.More = []ask.Source{{Question: ask.Results, Name: "second", Micros: 700, Client: says{2, c.second}}}
		})
		got, err := s.Ask.Results(ctx, "moon", n.Locale(), 0)
		if got.Source != c.name || today(t, s) != c.spent || ask.StopsWork(err) != c.stops || (err == nil) != (c.name != "") {
			t.Errorf("%v, %v: %+v, %v, spent %d", c.first, c.second, got, err, today(t, s))
		}
		states, err := s.Ask.States(ctx, ask.Results)
		if err != nil || len(states) != 2 || s.Ask.Price(ask.Results) != 2000 {
			t.Fatalf("%+v, %v", states, err)
		}
		sum := int64(0)
		for _, st := range states {
			sum += st.Spent
			if (st.Name == c.name) != !st.Answered.IsZero() ||
				st.Last.Outcome == "refused" && !strings.Contains(st.Last.Says, "no") {
				t.Errorf("%+v", st)
			}
		}
		if sum != c.spent {
			t.Errorf("sources took %d", sum)
		}
	}
}

// TestBeside: who is asked beside is asked, paid, and changes no figure; where it fails, nothing is lost.
func TestBeside(t *testing.T) {
	for _, fails := range []error{nil, refused("no")} {
		s, n := studytest.Begin(t, &studytest.Fake{}, func(o *studytest.Setup) {
			o.Market.Demand = says{100, nil}
			o.Market.More = []ask.Source{{Question: ask.Demand, Name: "other", Micros: 30, Beside: true,
				Client: says{250, fails}}}
		})
		if s.Ask.Price(ask.Demand) != 130 {
			t.Errorf("a phrase costs %d", s.Ask.Price(ask.Demand))
		}
		got := map[string]ask.Asked[demand.Series]{}
		if err := s.Ask.Demand(ctx, n.Locale(), []string{"moon", "mars"}, got); err != nil ||
			got["moon"].Value.Average.Searches != 100 || got["moon"].Source != "the fake" {
			t.Errorf("%+v, %v", got, err)
		}
		others, err := s.Ask.OtherFigures(ctx, "moon", n.Locale())
		want, paid := 1, int64(260)
		if fails != nil {
			want, paid = 0, 200
		}
		if err != nil || len(others) != want || today(t, s) != paid {
			t.Errorf("%v: %+v, %v, spent %d", fails, others, err, today(t, s))
		}
		if want == 1 && (others[0].Value.Average.Searches != 250 || others[0].Source != "other") {
			t.Errorf("%+v", others[0])
		}
	}
}

// TestTry: a question to one source costs what it costs, keeps nothing, and says what is wrong.
func TestTry(t *testing.T) {
	s, n := studytest.Begin(t, &studytest.Fake{}, func(o *studytest.Setup) {
		o.Budget = 5000
		o.Market.Demand = says{1900, nil}
	})
	got, err := s.Ask.Try(ctx, ask.Demand, "the fake", " moon ", n.Locale())
	if err != nil || got.Micros != 100 || today(t, s) != 100 || len(got.Understood) != 1 ||
		got.Understood[0] != "moon: 1900 searches a month, 0 months" || len(got.Missing) != 3 {
		t.Errorf("%+v, %v", got, err)
	}
	key := ask.LocaleKey(n.Locale(), "moon")
	if _, ok, err := ask.Recall[demand.Series](ctx, s.Ask, ask.Demand, key); ok || err != nil {
		t.Error("the answer to a trial is kept")
	}
	for q, about := range map[ask.Question]string{ask.Results: "moon", ask.Totals: "moon", ask.Suggestions: "moon",
		ask.Links: "http://a.example/", ask.Page: "http://a.example/"} {
		if got, err := s.Ask.Try(ctx, q, s.Ask.Name(q), about, n.Locale()); err != nil || len(got.Understood) == 0 {
			t.Errorf("%s: %+v, %v", q, got, err)
		}
	}
	var wrong *input.Error
	for _, about := range []string{"", strings.Repeat("x", 600)} {
		if _, err := s.Ask.Try(ctx, ask.Demand, "the fake", about, n.Locale()); !errors.As(err, &wrong) {
			t.Errorf("%.10s: %v", about, err)
		}
	}
	if _, err := s.Ask.Try(ctx, ask.Links, s.Ask.Name(ask.Links), "javascript:x", n.Locale()); !errors.As(err, &wrong) {
		t.Errorf("no address: %v", err)
	}
	if _, err := s.Ask.Try(ctx, ask.Demand, "nobody", "moon", n.Locale()); !errors.Is(err, input.ErrNotFound) {
		t.Errorf("nobody: %v", err)
	}
	var over *ask.BudgetError
	for range 3 {
		_, err = s.Ask.Try(ctx, ask.Results, "fake", "moon", n.Locale())
	}
	if !errors.As(err, &over) {
		t.Errorf("beyond the budget: %v", err)
	}
}

// monthly knows the months of sites and nothing else of rankings; phrasing the phrases alone, and it is out of order.
type (
	monthly  struct{ market.SiteRanker }
	phrasing struct{ market.SiteRanker }
)

func (monthly) Knows(p market.Part) bool { return p == market.MonthsPart }

func (monthly) Months(context.Context, market.Target, market.Locale) (market.SiteMonths, error) {
	return market.SiteMonths{List: []market.SiteMonth{{Month: "2026-10"}}}, nil
}

func (phrasing) Knows(p market.Part) bool { return p == market.PhrasesPart }

func (phrasing) Ranks(context.Context, market.RanksAsked, market.Locale) (market.Ranks, error) {
	return market.Ranks{}, &market.Error{Source: "phrasing", Trouble: market.Malformed, Err: errors.New("no JSON")}
}

// TestPartsOfRankings: of several sources each is asked for what it knows, and who knows something else is no reason.
func TestPartsOfRankings(t *testing.T) {
	s, n := studytest.Begin(t, &studytest.Fake{}, func(o *studytest.Setup) {
		o.Market.More = []ask.Source{{Question: ask.Rankings, Name: "monthly", Client: monthly{}},
			{Question: ask.Rankings, Name: "phrasing", Client: phrasing{}}}
	})
	of := market.Target{Name: "a.example", Scope: market.AllHosts}
	got, err := s.Ask.SiteMonths(ctx, of, n.Locale())
	if err != nil || got.Source != "monthly" || len(got.Value.List) != 1 {
		t.Errorf("%+v, %v", got, err)
	}
	_, err = s.Ask.Ranks(ctx, market.RanksAsked{Target: of}, n.Locale())
	if err == nil || !strings.Contains(err.Error(), "no JSON") || strings.Contains(err.Error(), "something else") {
		t.Errorf("it fails with %v", err)
	}
	for _, st := range studytest.Must(s.Ask.States(ctx, ask.Rankings)) {
		if st.Name == "monthly" && st.Last.Outcome == "refused" {
			t.Errorf("who was not asked refused: %+v", st.Last)
		}
	}
	if _, err := s.Ask.Advertised(ctx, of, n.Locale()); err == nil {
		t.Error("nobody knows ads, and somebody answers")
	}
	if !s.Ask.Knows(ask.SiteMonths) || s.Ask.Knows(ask.Advertised) {
		t.Error("it says that it knows what nobody knows, or not what somebody does")
	}
}
