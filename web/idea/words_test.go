package idea

import (
	"path/filepath"
	"testing"
	"time"

	"cleverniche/core/demand"
	"cleverniche/store"
	"cleverniche/study"
	"cleverniche/study/ask"
	"cleverniche/study/ideas"
	"cleverniche/study/niches"
	"cleverniche/study/results"
	"cleverniche/web/frame"
)

func TestSaidInWords(t *testing.T) {
	for _, c := range []struct {
		trend demand.Trend
		want  string
	}{
		{demand.Trend{Known: true, Slope: 0.4, P: 0.3}, "no trend that chance would not show as well (p = 0.30)"},
		{demand.Trend{Known: true, Slope: 0.05, P: 0.001},
			"trend +5 % a year (p < 0.01), too little to call it rising or fading"},
		{demand.Trend{Known: true, Slope: -0.2, P: 0.02}, "trend -20 % a year (p = 0.02)"},
	} {
		if got := trendWords(c.trend); got != c.want {
			t.Errorf("%+v: %s", c.trend, got)
		}
	}
	for want, origins := range map[string][]results.Origin{
		"": nil, "a seed of yours": {{Kind: ideas.FromSeed}},
		"from “phrases.csv”, line 7":   {{Kind: ideas.FromList, Query: "phrases.csv", Seed: "line 7"}},
		"from “moon”, and 2 more ways": {{Kind: ideas.FromLetter, Seed: "moon"}, {}, {}},
	} {
		if got := foundWords(origins); got != want {
			t.Errorf("%q, not %q", got, want)
		}
	}
}

func TestYear(t *testing.T) {
	st, err := store.Open(filepath.Join(t.TempDir(), "d.db"), time.Now)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { st.Close() })
	r := frame.Request{Server: &frame.Server{Study: study.New(st, ask.Market{}, study.Options{})},
		Niche: niches.Niche{Language: "en", Country: "US"}}
	var counts []demand.Count
	for i, n := range []int{50, 1200, 8, 70} {
		counts = append(counts, demand.Count{Month: demand.MonthOf(time.Date(2026, time.Month(i+1), 1, 0, 0, 0, 0, time.UTC)),
			Searches: n, Under: n == 8})
	}
	bars, words := yearOf(counts, demand.Peak{First: time.February, Months: 1}, r.Speak())
	if words != "Most in February (1,200), least in January (50)" {
		t.Error(words)
	}
	if !bars[1].Peak || bars[0].Peak || bars[2].Text != "2026-03: fewer than 8" || bars[3].Letter != "A" {
		t.Errorf("%+v", bars)
	}
	if _, words := yearOf(counts[2:3], demand.Peak{}, r.Speak()); words != "Every month is under the source's floor." {
		t.Error(words)
	}
}
