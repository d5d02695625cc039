package ask_test

import (
	"context"
	"errors"
	"strings"
	"testing"
	"time"

	"cleverniche/market"
	"cleverniche/study/ask"
	"cleverniche/study/studytest"
)

// TestAnswersGrowOld by the clock that the study is given.
func TestAnswersGrowOld(t *testing.T) {
	f := &studytest.Fake{}
	now := time.Date(2026, 11, 26, 12, 0, 0, 0, time.UTC)
	s, n := studytest.Begin(t, f, func(o *studytest.Setup) {
		o.Now = func() time.Time { return now }
		o.Lifetimes = map[ask.Question]time.Duration{ask.Suggestions: time.Hour}
	})
	put := func() int64 {
		before := f.Asked.Load()
		if _, err := s.Ask.Suggest(ctx, "moon", n.Locale()); err != nil {
			t.Fatal(err)
		}
		return f.Asked.Load() - before
	}
	if put() != 1 || put() != 0 {
		t.Error("a fresh answer is asked for again")
	}
	now = now.Add(time.Hour)
	if put() != 0 {
		t.Error("an answer is old before its time")
	}
	if now = now.Add(time.Second); put() != 1 || put() != 0 {
		t.Error("an old answer is not asked for again")
	}
	usual, _ := studytest.Begin(t, f, nil)
	for _, a := range ask.Services() {
		if usual.Ask.Lifetime(a.Question) != a.Life || a.Life == 0 || a.Source == "" {
			t.Errorf("%s: %+v", a.Question, a)
		}
	}
}

// TestTheDayBegins at midnight for the budget.
func TestTheDayBegins(t *testing.T) {
	now := time.Date(2026, 11, 26, 23, 59, 0, 0, time.UTC)
	s, n := studytest.Begin(t, &studytest.Fake{}, func(o *studytest.Setup) {
		o.Budget, o.Now = 5000,
			func() time.Time { return now }
	})
	put := func(phrase string) error { _, err := s.Ask.Results(ctx, phrase, n.Locale(), 0); return err }
	var over *ask.BudgetError
	if put("a") != nil || put("b") != nil || !errors.As(put("c"), &over) {
		t.Error("two lookups of $0.002 fit in a budget of $0.005, and a third one does not")
	}
	says, overruns, err := s.Ask.Purse(ctx, 1001)
	if err != nil || !strings.Contains(says, "today: ") || !strings.Contains(overruns, "more than is left") {
		t.Errorf("before it would overrun: %q, %q, %v", says, overruns, err)
	}
	if _, overruns, _ = s.Ask.Purse(ctx, 1000); overruns != "" {
		t.Errorf("what fits: %q", overruns)
	}
	if now = now.Add(time.Minute); put("c") != nil {
		t.Error("a new day has no budget")
	}
	now = now.AddDate(0, 0, 5) // the second of December
	if says, _, err = s.Ask.Purse(ctx, 0); err != nil || !strings.Contains(says, "this month: $0.00") {
		t.Errorf("after the month: %q, %v", says, err)
	}
}

// TestMoneyIsSetAside while a lookup is being made, and given back when it cost nothing.
func TestMoneyIsSetAside(t *testing.T) {
	s, _ := studytest.Begin(t, &studytest.Fake{}, func(o *studytest.Setup) {
		o.Budget = 5000
		o.Prices[ask.Links] = 4000
	})
	bill, err := s.Ask.Charge(ctx, ask.Links, "a")
	if err != nil {
		t.Fatal(err)
	}
	if _, err := s.Ask.Charge(ctx, ask.Links, "b"); err == nil {
		t.Error("money is given out twice")
	}
	bill.Fail(ctx, &market.Error{Trouble: market.Refused, Err: errors.New("no")})
	if _, err := s.Ask.Charge(ctx, ask.Links, "b"); err != nil {
		t.Error(err)
	}
}

// TestJoinedAskingFails: who joins an asking begun before the source came back asks again.
func TestJoinedAskingFails(t *testing.T) {
	s, _ := studytest.Begin(t, &studytest.Fake{}, nil)
	begun, fail := make(chan bool), make(chan bool)
	first := make(chan error)
	go func() {
		_, err := ask.Ask(ctx, s.Ask, ask.Results, "key", func(context.Context) (int, error) {
			close(begun)
			<-fail
			return 0, &market.Error{Trouble: market.Unreachable, Err: errors.New("it is down"), Charge: market.Free}
		})
		first <- err
	}()
	<-begun
	go func() { time.Sleep(20 * time.Millisecond); close(fail) }()
	got, err := ask.Ask(ctx, s.Ask, ask.Results, "key", func(context.Context) (int, error) { return 7, nil })
	if err != nil || got.Value != 7 {
		t.Errorf("%+v, %v", got, err)
	}
	if err := <-first; err == nil {
		t.Error("the first asking did not fail")
	}
}
