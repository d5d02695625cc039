package checks_test

import (
	"bytes"
	"context"
	"encoding/csv"
	"errors"
	"slices"
	"strings"
	"testing"
	"time"

	"cleverniche/core/demand"
	"cleverniche/core/sieve"
	"cleverniche/market"
	"cleverniche/study/ask"
	"cleverniche/study/checks"
	"cleverniche/study/files"
	"cleverniche/study/input"
	"cleverniche/study/studytest"
)

var ctx = context.Background()

// field suggests what people do say, and knows the searches of that alone.
type field struct{ *studytest.Fake }

func (f field) Suggest(_ context.Context, text string, _ market.Locale) ([]string, error) {
	if strings.HasPrefix(text, "moon") {
		return []string{"moon map for kids", "moon maps", "comet"}, nil
	}
	return nil, nil
}

func (f field) Demand(c context.Context, phrases []string, in market.Locale) (map[string]demand.Series, error) {
	known := []string{"moon map for kids", "star wheel", "cheap star wheel kit"}
	return f.Fake.Demand(c, slices.DeleteFunc(slices.Clone(phrases), func(p string) bool {
		return !slices.Contains(known, p)
	}), in)
}

const bought = "moon map for a kid\nstar wheel\nsextant polish\nkit star wheel cheapest\n=cmd()\n"

// TestAList: a list stays apart, each phrase has a verdict, what nobody searches gets the wording that is searched, and
// what passes is taken in, with its wordings where that is wanted.
func TestAList(t *testing.T) {
	s, n := studytest.Begin(t, &studytest.Fake{}, func(o *studytest.Setup) {
		o.Market.Suggest, o.Market.Demand = field{&studytest.Fake{}}, field{&studytest.Fake{}}
	})
	if _, err := s.Imports.Take(ctx, n, "mine", strings.NewReader("cheap star wheel kit")); err != nil {
		t.Fatal(err)
	}
	j, err := s.Gathering.LookUpSearches(ctx, n)
	studytest.Finish(t, s, j, err)
	list, err := s.Checks.Begin(ctx, n, "  bought\nin May ", bought)
	if err != nil || list.ListOf != n.ID || list.Name != "Sky / bought in May" {
		t.Fatal(list, err)
	}
	finishAll(t, list.ID, s.Jobs.Wait)
	by := sieve.Sieve{Filters: []sieve.Filter{sieve.At(sieve.ByLeastSearches, 1)}}
	verdicts := func() (out []string, lines []checks.Line) {
		t.Helper()
		lines, did, err := s.Checks.Verdicts(ctx, list, by)
		if err != nil || did.All != len(lines) {
			t.Fatal(did.All, err)
		}
		for _, l := range lines {
			out = append(out, l.Idea.Phrase+": "+string(l.Verdict)+": "+l.Nearest)
		}
		return out, lines
	}
	if got, _ := verdicts(); !slices.Equal(got, []string{"moon map for a kid: not searched: ", "star wheel: passes: ",
		"sextant polish: not searched: ", "kit star wheel cheapest: not searched: ", "cmd: not searched: "}) {
		t.Errorf("%q", got)
	}
	e, err := s.Checks.EstimateWordings(ctx, 4)
	if err != nil || e.Micros == 0 {
		t.Error(e, err)
	}
	j, err = s.Checks.Wordings(ctx, list, by)
	if done := studytest.Finish(t, s, j, err); done.Found != 2 {
		t.Errorf("%+v", done)
	}
	got, lines := verdicts()
	if got[0] != "moon map for a kid: not searched: moon map for kids" || got[2] != "sextant polish: not searched: " ||
		got[3] != "kit star wheel cheapest: not searched: cheap star wheel kit" || !lines[2].Looked || lines[0].Often == 0 {
		t.Errorf("%q", got)
	}
	exported(t, lines)
	b := studytest.Must(s.Ideas.Table(ctx, n))
	if b.Len() != 1 {
		t.Errorf("the niche has %d ideas before anything is taken in", b.Len())
	}
	if added, err := s.Checks.TakeIn(ctx, list, by, false, true); err != nil || added != 2 {
		t.Errorf("%d taken in: %v", added, err)
	}
	if added, err := s.Checks.TakeIn(ctx, list, by, true, false); err != nil || added != 4 {
		t.Errorf("%d taken in: %v", added, err)
	}
	var wrong *input.Error
	if _, err := s.Checks.TakeIn(ctx, n, by, true, false); !errors.Is(err, input.ErrNotFound) {
		t.Errorf("of a niche that is no list: %v", err)
	}
	for _, text := range []string{"", " \n", "🔭\n", strings.Repeat("w", 3000)} {
		if _, err := s.Checks.Begin(ctx, n, "x", text); !errors.As(err, &wrong) {
			t.Errorf("%.20q: %v", text, err)
		}
	}
	if _, err := s.Checks.Begin(ctx, list, "x", bought); !errors.As(err, &wrong) {
		t.Errorf("a list of a list: %v", err)
	}
	if all := studytest.Must(s.Niches.All(ctx)); len(all) != 2 {
		t.Errorf("%d niches: what was refused stays", len(all))
	}
}

func finishAll(t *testing.T, niche uint, wait func(context.Context, uint) error) {
	t.Helper()
	for id := uint(1); id < 20; id++ {
		if err := wait(ctx, id); err != nil && !errors.Is(err, input.ErrNotFound) {
			t.Fatal(niche, err)
		}
	}
}

// exported reads the report back.
func exported(t *testing.T, lines []checks.Line) {
	t.Helper()
	for _, name := range []string{"csv", "xlsx"} {
		var out bytes.Buffer
		format := studytest.Must(files.FormatNamed(name))
		if err := files.Verdicts(&out, lines, "Bought", time.Unix(0, 0), format); err != nil {
			t.Fatal(err)
		}
		if name == "xlsx" {
			if !bytes.HasPrefix(out.Bytes(), []byte("PK")) {
				t.Error("no workbook")
			}
			continue
		}
		rows, err := csv.NewReader(&out).ReadAll()
		if err != nil || len(rows) != 6 || rows[1][0] != "moon map for a kid" || rows[1][6] != "moon map for kids" ||
			rows[1][4] != "not searched" {
			t.Errorf("%q, %v", rows, err)
		}
	}
}

// TestWithoutSources a list is checked by what it brings itself.
func TestWithoutSources(t *testing.T) {
	s, n := studytest.Begin(t, &studytest.Fake{}, func(o *studytest.Setup) { o.Market = ask.Market{} })
	list, err := s.Checks.Begin(ctx, n, "", "phrase,searches\nmoon map,900\nstar wheel,20\n")
	if err != nil {
		t.Fatal(err)
	}
	by := sieve.Sieve{Filters: []sieve.Filter{sieve.At(sieve.ByLeastSearches, 100)}}
	lines, _, err := s.Checks.Verdicts(ctx, list, by)
	if err != nil || len(lines) != 2 || lines[0].Verdict != sieve.Passes || lines[1].Verdict != sieve.TooSmall {
		t.Errorf("%+v, %v", lines, err)
	}
	if added, err := s.Checks.TakeIn(ctx, list, by, false, true); err != nil || added != 1 {
		t.Errorf("%d taken in: %v", added, err)
	}
	b := studytest.Must(s.Ideas.Table(ctx, n))
	if x, known := b.Table.Number(0, sieve.Searches); !known || x != 900 {
		t.Errorf("what the list brought is %v there", x)
	}
}
