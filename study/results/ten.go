package results

import (
	"context"
	"sort"
	"time"

	"cleverniche/core/serp"
	"cleverniche/market"
	"cleverniche/study/ask"
	"cleverniche/study/input"
	"cleverniche/study/niches"
)

// TenRow is one of the results with what is known of it beside what it was judged by.
type TenRow struct {
	serp.Entry
	Address serp.AddressKind
	Titled  serp.Titled
	Since   time.Time // when its site was registered; zero not known
	Seen    float64   // on the scale of site standing
	Holds   float64   // what its place needs; −1 behind the ten
	Mine    bool
}

// Ten are the results of an idea's evidence, row by row.
func (s *Researcher) Ten(ctx context.Context, n niches.Niche, ev *Evidence) (out []TenRow, err error) {
	q := ev.Query(n.Language)
	mine := map[int]bool{}
	for _, p := range ev.MyPages {
		mine[p] = true
	}
	for i, e := range ev.Reading.Entries {
		row := TenRow{Entry: e, Address: serp.AddressOf(e.URL, s.suffixes), Titled: q.Titled(e.Title), Seen: ev.Seen(e),
			Holds: -1, Mine: mine[e.Position]}
		if i < len(ev.Verdict.Stairs) {
			row.Holds = ev.Verdict.Stairs[i]
		}
		if row.Since, err = s.Since(ctx, e.Site); err != nil {
			return nil, err
		}
		out = append(out, row)
	}
	return out, nil
}

// Query is the phrase that pages are held against.
func (ev *Evidence) Query(lang string) serp.Query {
	q := serp.NewQuery(ev.Phrase, lang)
	if ev.Reading.ReadAs != "" {
		q = q.ReadAs(ev.Reading.ReadAs)
	}
	return q
}

// Middle is the mean and the median of what is known of a column; ok is false where nothing is.
func Middle(list []float64) (mean, median float64, ok bool) {
	if len(list) == 0 {
		return 0, 0, false
	}
	sorted := append([]float64(nil), list...)
	sort.Float64s(sorted)
	for _, x := range sorted {
		mean += x / float64(len(sorted))
	}
	return mean, (sorted[(len(sorted)-1)/2] + sorted[len(sorted)/2]) / 2, true
}

// ReadingCopy is a page that was fetched once, to be read: plain, with the words of a phrase marked. What was never
// fetched is input.ErrNotFound.
func (s *Researcher) ReadingCopy(ctx context.Context, url, phrase, lang string) (market.Copy, time.Time, error) {
	kept, ok, err := ask.Kept[market.Fetched](ctx, s.asker, ask.Page, url)
	if err == nil && !ok {
		err = input.ErrNotFound
	}
	if err != nil {
		return market.Copy{}, time.Time{}, err
	}
	says := func(string) bool { return false }
	if phrase != "" {
		says = serp.NewQuery(phrase, lang).Says
	}
	c, err := market.ReadingCopy(kept.Value, says)
	return c, kept.At, err
}
