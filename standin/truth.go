package standin

// Truth is what a world hides from those who ask it: for tests only.
type Truth struct {
	Pages   []PageTruth
	Queries []QueryTruth
}

// PageTruth is what a page is: its kind, and the kind of its site.
type PageTruth struct{ URL, Kind, SiteKind string }

// QueryTruth is what stands behind a query.
type QueryTruth struct {
	Text     string
	Need     int
	Hobby    string
	Intent   string  // learn, find, compare, buy
	Searches float64 // a month, now, without season and noise
	Peak     int     // month, 0 for none
	Strength float64 // of the season
	Growth   float64 // a year, as a factor
}

// Truth tells all.
func (w *World) Truth() Truth {
	var t Truth
	for _, p := range w.pages {
		if p.fault == sound && p.standsAt(w.now) {
			t.Pages = append(t.Pages, PageTruth{p.url(), p.kind.String(), p.site.kind.String()})
		}
	}
	for _, q := range w.queryList {
		n := q.need
		t.Queries = append(t.Queries, QueryTruth{q.text, n.id, w.scenarios[n.hobby].Slug, n.template.Intent, q.steady(),
			n.template.Season.Peak, n.template.Season.Strength, n.growth})
	}
	return t
}
