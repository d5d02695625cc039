package imports

import (
	"context"
	"fmt"
	"io"
	"strings"

	"cleverniche/market"
	"cleverniche/market/files"
	"cleverniche/store"
	"cleverniche/study/ask"
	"cleverniche/study/niches"
)

// ReceiveOf keeps a table about a site aside: of the sites that share its places, of its pages, months, countries or
// ads. Which of these it is, its headings say.
func (s *Importer) ReceiveOf(ctx context.Context, n niches.Niche, site, file string, r io.Reader) (Upload, error) {
	u, err := s.Receive(ctx, n, "", file, r)
	if err == nil {
		u.Of = site
		err = s.note(u)
	}
	return u, err
}

// siteSays is what a table about a site lists.
var siteSays = map[files.About]string{files.AboutSharers: "sites that share its places", files.AboutPages: "its pages",
	files.AboutMonths: "its visits by month", files.AboutCountries: "its visits by country", files.AboutAds: "its ads"}

// countSite counts what a table about a site says.
func (s *Importer) countSite(ctx context.Context, n niches.Niche, f *files.File, p Preview) (Preview, error) {
	p.Site = p.Upload.Of
	p.Shape = headed(f, p.Shape)
	about, rows, err := f.SiteRows(ctx, p.Shape, n.Currency, func(bad files.LineProblem) error {
		if p.Bad++; len(p.Problems) < ShownBad {
			p.Problems = append(p.Problems, bad)
		}
		return nil
	})
	if err != nil && ctx.Err() == nil { // what is wrong with it is said where it is shown, as of other files
		p.Why = sentence(err) + "."
		return p, nil
	}
	if err != nil {
		return p, err
	}
	p.Says = siteSays[about]
	if p.Usable, p.About = len(rows), len(rows); p.Usable == 0 {
		p.Why = "No line of it can be used."
	}
	for _, r := range rows[:min(ShownRows, len(rows))] {
		p.Rows = append(p.Rows, files.Idea{Line: r.Line, Phrase: r.Name, Note: siteNote(r)})
	}
	p.Upload, err = s.counted(p)
	return p, err
}

// headed is a table with its first row for headings, where these tell what it lists: a short one does not show by its
// numbers that it is a table at all.
func headed(f *files.File, s files.Shape) files.Shape {
	if files.AboutOf(s) != files.AboutNothing || s.Form != files.Plain && s.Form != files.Separated {
		return s
	}
	for _, comma := range files.Separators {
		one := s
		one.Form, one.Comma, one.Header = files.Separated, comma, true
		if err := f.Columns(&one); err != nil {
			continue
		}
		if files.AboutOf(one) != files.AboutNothing {
			return one
		}
	}
	return s
}

// siteNote is what a row says beside its name.
func siteNote(r files.SiteRow) string {
	var said []string
	if r.Shared != nil {
		said = append(said, fmt.Sprintf("%d shared", *r.Shared))
	}
	if r.Phrases != nil {
		said = append(said, fmt.Sprintf("%d phrases", *r.Phrases))
	}
	if r.Visits != nil {
		said = append(said, fmt.Sprintf("%.0f visits", *r.Visits))
	}
	for _, text := range []string{r.Phrase, r.Title, r.URL} {
		if text != "" {
			said = append(said, text)
		}
	}
	if r.Cost != nil {
		said = append(said, fmt.Sprintf("%.2f %s", float64(r.Cost.Micros)/1e6, r.Cost.Currency))
	}
	return strings.Join(said, ", ")
}

// putSite keeps what a table says of a site, as if a service had said it.
func (s *Importer) putSite(ctx context.Context, n niches.Niche, p part) error {
	u, err := s.Upload(n.ID, p.Token)
	if err != nil {
		return err
	}
	shape, f, err := s.reopen(ctx, n, p.Token)
	if err != nil {
		return err
	}
	defer f.Close()
	about, rows, err := f.SiteRows(ctx, shape, n.Currency, func(files.LineProblem) error { return nil })
	if err != nil {
		return wrong(err)
	}
	of := market.Target{Name: u.Of, Scope: market.AllHosts}
	row, err := s.asker.BroughtPart(ask.Part(about), of, n.Locale(), partOfSite(about, rows))
	if err != nil {
		return err
	}
	row.Source = fmt.Sprintf("your file “%s”", u.Name)
	return s.store.SaveBrought(ctx, store.Import{Batch: p.Token, NicheID: n.ID, Name: u.Name}, []store.Brought{row})
}

// partOfSite is what rows say, in the shape in which a service says it.
func partOfSite(about files.About, rows []files.SiteRow) any {
	orZero := func(x *int) int {
		if x != nil {
			return *x
		}
		return 0
	}
	switch about {
	case files.AboutSharers:
		out := market.Sharers{Total: len(rows)}
		for _, r := range rows {
			out.List = append(out.List, market.Sharer{Site: r.Name, Shared: orZero(r.Shared), Phrases: r.Phrases,
				Visits: r.Visits})
		}
		return out
	case files.AboutPages:
		out := market.TopPages{Total: len(rows)}
		for _, r := range rows {
			out.List = append(out.List, market.TopPage{URL: r.Name, Phrases: orZero(r.Phrases), Visits: r.Visits,
				Phrase: r.Phrase})
		}
		return out
	case files.AboutMonths:
		var out market.SiteMonths
		for _, r := range rows {
			out.List = append(out.List, market.SiteMonth{Month: r.Name, Phrases: r.Phrases, Visits: r.Visits})
		}
		market.SortMonths(out.List)
		return out
	case files.AboutCountries:
		var out market.SiteCountries
		for _, r := range rows {
			out.List = append(out.List, market.SiteCountry{Country: r.Name, Phrases: r.Phrases, Visits: r.Visits})
		}
		return out
	}
	out := market.Advertised{Total: len(rows)}
	for _, r := range rows {
		out.List = append(out.List, market.Paid{Phrase: r.Name, Title: r.Title, Text: r.Text, URL: r.URL, Cost: r.Cost,
			Share: r.Share})
	}
	return out
}
