package thecase_test

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"testing"

	"cleverniche/core/niche"
	"cleverniche/study"
	"cleverniche/study/input"
	"cleverniche/study/niches"
	"cleverniche/study/studytest"
	"cleverniche/study/thecase"
)

var ctx = context.Background()

// many is a niche of so many unlike ideas, none looked up.
func many(t *testing.T, ideas int) (*study.Study, niches.Niche) {
	t.Helper()
	s, n := studytest.Begin(t, &studytest.Fake{}, nil)
	var list strings.Builder
	list.WriteString("phrase,searches,cpc\n")
	for i := range ideas {
		fmt.Fprintf(&list, "w%da v%db u%dc,%d,0.80\n", i, i, i, 20+37*i%3000)
	}
	if _, err := s.Imports.Take(ctx, n, "list", strings.NewReader(list.String())); err != nil {
		t.Fatal(err)
	}
	n.VisitMicros = 200_000
	n, _, err := s.Results.ChangeNiche(ctx, n)
	if err != nil {
		t.Fatal(err)
	}
	return s, n
}

func of(t *testing.T, s *study.Study, n niches.Niche) thecase.Case {
	t.Helper()
	set, err := s.Case.Settings(ctx, n)
	if err != nil {
		t.Fatal(err)
	}
	c, err := s.Case.Of(ctx, n, set)
	if err != nil {
		t.Fatal(err)
	}
	return c
}

// TestCase: nothing looked up is not yet; what one chose tells so much at least; what is drawn tells the whole, as a
// range; the same figures each time.
func TestCase(t *testing.T) {
	s, n := many(t, 90)
	c := of(t, s, n)
	if c.Decision != thecase.NotYet || c.EarnWhy == "" || c.Topics != 90 || c.Told {
		t.Fatalf("%s, %q, %d topics", c.Decision, c.EarnWhy, c.Topics)
	}
	b, _ := s.Ideas.Table(ctx, n)
	j, err := s.Results.LookUp(ctx, n, []uint{b.Table.ID(0), b.Table.ID(1)}, false)
	studytest.Finish(t, s, j, err)
	if c = of(t, s, n); c.LookedUp == 0 || c.LookedUp > 2 || c.Drawn != 0 || c.Told || c.Decision != thecase.NotYet {
		t.Errorf("two of one's own choice: %d, %d, %v, %s", c.LookedUp, c.Drawn, c.Told, c.Decision)
	}
	cost, drawn, err := s.Case.DrawCost(ctx, n, 25)
	if err != nil || drawn != 25 || cost.Lookups == 0 {
		t.Fatalf("%d drawn, %+v, %v", drawn, cost, err)
	}
	j, err = s.Case.Draw(ctx, n, 25)
	again, twice := s.Case.Draw(ctx, n, 25) // a button that is pressed twice
	studytest.Finish(t, s, again, twice)
	studytest.Finish(t, s, j, err)
	c = of(t, s, n)
	// The fake's tens are those of one site each: after look-ups topics are told by them.
	if c.Drawn < niche.EnoughDrawn || !c.Told || c.Supposed == 0 || c.Within.Low > c.Within.High {
		t.Errorf("%d drawn, told %v, %d supposed, %+v", c.Drawn, c.Told, c.Supposed, c.Within)
	}
	if len(c.Settings.Drawn) != 25 {
		t.Errorf("%d are drawn by pressing twice", len(c.Settings.Drawn))
	}
	if again := of(t, s, n); fmt.Sprint(again.Earn) != fmt.Sprint(c.Earn) || again.Why != c.Why {
		t.Error("another figure the second time")
	}
	get := c.Answers.Answers[slices.Index(niche.Questions, niche.GetIn)]
	if !get.Sampled || get.Range.Low > get.Figure || get.Range.High < get.Figure {
		t.Errorf("%+v", get)
	}
	for _, spoil := range []func(*niche.Bars, *thecase.Assumed){
		func(b *niche.Bars, _ *thecase.Assumed) { b.Open = niche.Bar{Yes: 1, Partly: 5} },
		func(_ *niche.Bars, a *thecase.Assumed) { a.WeekHours = 0 },
		func(_ *niche.Bars, a *thecase.Assumed) { a.Tied = 2 }} {
		bars, a := c.Settings.Bars, c.Settings.Assumed
		spoil(&bars, &a)
		var bad *input.Error
		if err := s.Case.Move(ctx, n, bars, a); !errors.As(err, &bad) {
			t.Errorf("%+v, %+v is kept: %v", bars, a, err)
		}
	}
	a := c.Settings.Assumed
	a.Bar = 0.0001
	if err := s.Case.Move(ctx, n, c.Settings.Bars, a); err != nil {
		t.Fatal(err)
	}
	if moved := of(t, s, n); moved.Earn.Never > c.Earn.Never || moved.Settings.Assumed.Bar != a.Bar {
		t.Errorf("a lower bar: %+v", moved.Earn.Never)
	}
	if err := s.Case.Reset(ctx, n); err != nil || of(t, s, n).Settings.Assumed.Bar != 10 {
		t.Errorf("back to the usual: %v", err)
	}
	if len(of(t, s, n).Settings.Drawn) != 25 {
		t.Error("what was drawn is forgotten with the bars")
	}
}

// TestSign: a verdict keeps the figures of its day; answers by hand stand beside.
func TestSign(t *testing.T) {
	s, n := many(t, 12)
	c := of(t, s, n)
	if err := s.Case.Sign(ctx, c, "perhaps", "x"); err == nil {
		t.Error("a verdict that is none is signed")
	}
	if err := s.Case.Sign(ctx, c, thecase.NotYet, " wait\r\nfor spring "); err != nil {
		t.Fatal(err)
	}
	if err := s.Case.Answer(ctx, n, map[string]string{"like": "yes", "nonsense": "x"}); err != nil {
		t.Fatal(err)
	}
	list, err := s.Case.Signed(ctx, n)
	if err != nil || len(list) != 1 || list[0].Words != "wait\nfor spring" || list[0].Figures.Topics != 12 ||
		list[0].Figures.Answers[string(niche.GetIn)] != "cannot be told yet" {
		t.Fatalf("%+v, %v", list, err)
	}
	report, err := s.Case.Report(ctx, n, of(t, s, n))
	text := fmt.Sprint(report.Sections)
	if err != nil || !strings.Contains(text, "wait\nfor spring") || !strings.Contains(text, "Do I like it?") {
		t.Errorf("%s, %v", text, err)
	}
	if err := s.Case.Withdraw(ctx, n, list[0].ID); err != nil {
		t.Fatal(err)
	}
	if list, _ := s.Case.Signed(ctx, n); len(list) != 0 {
		t.Error("it is there")
	}
	if _, err := s.Case.Draw(ctx, n, 0); err == nil {
		t.Error("none is drawn")
	}
}

// TestSmallSites: age and pages are asked for once; what cannot be known stays unknown.
func TestSmallSites(t *testing.T) {
	s, n := many(t, 6)
	j, err := s.Case.Draw(ctx, n, 6)
	studytest.Finish(t, s, j, err)
	bars := niche.Default
	bars.Standing = 100
	list, all, err := s.Case.Small(ctx, n, bars, 5)
	if err != nil || len(list) != 5 || all < 5 || list[0].Months != -1 || list[0].Pages != -1 || !list[0].AtLeast {
		t.Fatalf("%d of %d, %v", len(list), all, err)
	}
	for _, one := range list {
		if one.Name == n.OwnSite || one.Cautious*10 != one.Worth {
			t.Errorf("%+v", one)
		}
	}
	sites, _, err := s.Case.SitesCost(ctx, n, bars)
	if err != nil || sites == 0 {
		t.Errorf("%d sites, %v", sites, err)
	}
}

// BenchmarkCase is three niches of 3000 ideas side by side, after the first time.
func BenchmarkCase(b *testing.B) {
	s, n := studytest.Crowded(b, 3000)
	set, err := s.Case.Settings(ctx, n)
	if err != nil {
		b.Fatal(err)
	}
	for b.Loop() {
		for range 3 {
			if _, err := s.Case.Of(ctx, n, set); err != nil {
				b.Fatal(err)
			}
		}
	}
}
