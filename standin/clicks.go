package standin

import (
	"cmp"
	"math"
	"slices"
	"strings"
	"time"
)

// How people click: they read from the top, click what looks like an answer, and
// stop when it is one or when they have had enough (the cascade model of Craswell
// et al. 2008, "An experimental comparison of click position-bias models", with a
// chance to give up). An answer box or ads leave fewer of them.
const (
	carryOn   = 0.82 // go on to the next result after one that was passed over
	satisfied = 0.75 // stop after a click
)

// appeal is the chance that somebody who reads a result clicks it.
func appeal(p *page, n *need) float64 {
	a := 0.12 + 0.16*n.serves[p.kind]/highest(n.serves[:])
	if p.about == n {
		a += 0.12
	}
	if p.exact {
		a += 0.08
	}
	return a
}

// clickRates is the chance of a click on each result for those who search.
func clickRates(n *need, hits []hit) []float64 {
	looking := 1.0
	switch n.template.Intent {
	case "buy":
		looking = 0.85 // ads and the shopping row take some
	case "find":
		looking = 0.97
	}
	out := make([]float64, len(hits))
	for i, h := range hits {
		out[i] = looking * appeal(h.page, n)
		looking = looking * carryOn * (1 - appeal(h.page, n)*satisfied)
		if (i+1)%10 == 0 {
			looking *= 0.15 // few turn the page
		}
	}
	return out
}

// ReportRow is what a site got from one phrase in a month, as site owners' search
// reports tell it.
type ReportRow struct {
	Query, Page         string
	Clicks, Impressions int
	CTR, Position       float64
}

// Report is what the engine sent to a site in the month that holds the moment, for
// the needs that its pages are about.
func (w *World) Report(e *Engine, domain string, month time.Time) []ReportRow {
	st := w.sites[domain]
	if st == nil {
		return nil
	}
	var rows []ReportRow
	seen := map[*need]bool{}
	first := time.Date(month.Year(), month.Month(), 1, 0, 0, 0, 0, time.UTC)
	at := first.AddDate(0, 0, 14)
	for _, p := range st.pages {
		if p.need == nil || seen[p.need] {
			continue
		}
		seen[p.need] = true
		for _, q := range p.need.queries {
			if row, ok := w.reportRow(e, st, q, first, at); ok {
				rows = append(rows, row)
			}
		}
	}
	slices.SortFunc(rows, func(a, b ReportRow) int {
		return cmp.Or(cmp.Compare(b.Clicks, a.Clicks), cmp.Compare(b.Impressions, a.Impressions),
			strings.Compare(a.Query, b.Query))
	})
	return rows
}

func (w *World) reportRow(e *Engine, st *site, q *query, month, at time.Time) (ReportRow, bool) {
	hits, _ := e.Search(Ask{Text: q.text, At: at})
	i := slices.IndexFunc(hits, func(h hit) bool { return h.page.site == st })
	if i < 0 || i >= 100 {
		return ReportRow{}, false
	}
	searches := float64(w.searches(q, month, placeOf("", "")))
	rng := w.random("report", e.Name, st.domain, q.text, month.Format("2006-01"))
	shown := poisson(rng, searches*math.Pow(0.15, float64(i/10)))
	if shown == 0 {
		return ReportRow{}, false
	}
	seen := math.Pow(0.15, float64(i/10))
	clicks := min(shown, poisson(rng, float64(shown)*clickRates(q.need, hits[:i+1])[i]/seen))
	return ReportRow{q.text, hits[i].page.url(), clicks, shown, float64(clicks) / float64(shown), float64(i + 1)}, true
}
