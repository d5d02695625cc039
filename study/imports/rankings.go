package imports

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"cleverniche/core/links"
	"cleverniche/market/files"
	"cleverniche/store"
	"cleverniche/study/niches"
)

// siteOf is the site of most addresses of some rows.
func (s *Importer) siteOf(shape files.Shape, rows [][]string) (most string) {
	count := map[string]int{}
	at := shape.Has(files.URL)
	for _, row := range rows {
		if at < 0 || at >= len(row) {
			continue
		}
		if site := s.suffixes.Site(links.Host(row[at])); site != "" {
			if count[site]++; count[site] > count[most] {
				most = site
			}
		}
	}
	return most
}

// errEnoughRows ends the reading of the first rows.
var errEnoughRows = errors.New("enough rows were seen")

// rankings streams what the site ranks for that most rows of a file are of; rows of others are told.
func (s *Importer) rankings(ctx context.Context, f *files.File, shape files.Shape,
	each func(site string, r files.Ranking) error, bad func(files.LineProblem) error) error {
	var rows [][]string
	err := f.Each(ctx, shape, func(_ int, cells []string) error {
		if rows = append(rows, append([]string(nil), cells...)); len(rows) == sampledKinds {
			return errEnoughRows
		}
		return nil
	}, func(files.LineProblem) error { return nil })
	if err != nil && !errors.Is(err, errEnoughRows) {
		return err
	}
	of := s.siteOf(shape, rows)
	return f.Rankings(ctx, shape, func(r files.Ranking) error {
		if site := s.suffixes.Site(links.Host(r.URL)); site != of {
			return bad(files.LineProblem{Line: r.Line, Text: r.URL, Reason: "it is of another site than the rest"})
		}
		return each(of, r)
	}, bad)
}

// countRankings counts what a file says that another site ranks for.
func (s *Importer) countRankings(ctx context.Context, f *files.File, p Preview, of string) (Preview, error) {
	err := s.rankings(ctx, f, p.Shape, func(_ string, r files.Ranking) error {
		if p.Usable++; len(p.Rows) < ShownRows {
			p.Rows = append(p.Rows, files.Idea{Line: r.Line, Phrase: r.Phrase,
				Note: fmt.Sprintf("no. %d, %s", r.Position, r.URL)})
		}
		return nil
	}, func(bad files.LineProblem) error {
		if p.Bad++; len(p.Problems) < ShownBad {
			p.Problems = append(p.Problems, bad)
		}
		return nil
	})
	if err != nil {
		return p, wrong(err)
	}
	if p.About, p.Site = p.Usable, of; p.Usable == 0 {
		p.Why = "No line of it can be used."
	}
	p.Upload, err = s.counted(p)
	return p, err
}

// putRankings keeps what another site ranks for. Of a phrase that comes twice the better place counts.
func (s *Importer) putRankings(ctx context.Context, n niches.Niche, p part) (added int, err error) {
	u, err := s.Upload(n.ID, p.Token)
	if err != nil {
		return 0, err
	}
	shape, f, err := s.reopen(ctx, n, p.Token)
	if err != nil {
		return 0, err
	}
	defer f.Close()
	site, total := "", 0
	at := map[string]int{}
	var rows []store.RivalPhrase
	send := func() error {
		if len(rows) == 0 {
			return nil
		}
		k, err := s.store.SaveRanks(ctx, store.Rival{NicheID: n.ID, Site: site,
			Source: fmt.Sprintf("your file “%s”", u.Name), Total: total,
			AskedAt: s.store.Now().UTC()}, rows)
		added += k
		rows, at = rows[:0], map[string]int{}
		return err
	}
	err = s.rankings(ctx, f, shape, func(of string, r files.Ranking) error {
		site, total = of, total+1
		_, page, _ := strings.Cut(r.URL, "://")
		if !strings.Contains(page, "/") {
			page += "/"
		}
		row := store.RivalPhrase{Phrase: r.Phrase, Place: r.Position, Page: page, Searches: r.Searches, Visits: r.Visits}
		if i, twice := at[r.Phrase]; twice {
			if rows[i].Place > row.Place {
				rows[i] = row
			}
			return nil
		}
		at[r.Phrase] = len(rows)
		if rows = append(rows, row); len(rows) == slice {
			return send()
		}
		return nil
	}, func(files.LineProblem) error { return nil })
	if err == nil {
		err = send()
	}
	return added, wrong(err)
}
