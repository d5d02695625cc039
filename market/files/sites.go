package files

import (
	"context"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"cleverniche/core/demand"
)

// About is what a table about one site lists.
type About string

// What such a table may list.
const (
	AboutNothing   About = ""
	AboutSharers   About = "sites"
	AboutPages     About = "pages"
	AboutMonths    About = "months"
	AboutCountries About = "countries"
	AboutAds       About = "ads"
)

// SiteRow is a row of such a table; what it has not is "" or nil.
type SiteRow struct {
	Line    int
	Name    string // a site, an address, a month as 2026-10, a country as DE, or a phrase that is advertised on
	Shared  *int
	Phrases *int
	Visits  *float64
	Phrase  string // of a page: the one that brings most
	Title   string // of an advertisement
	Text    string
	URL     string
	Cost    *demand.Cost
	Share   *float64
}

// aboutColumn is a column of a table about a site.
type aboutColumn string

const (
	colName, colShared, colPhrases, colVisits aboutColumn = "name", "shared", "phrases", "visits"
	colPhrase, colTitle, colText, colURL      aboutColumn = "phrase", "title", "text", "url"
	colCost, colCurrency, colShare            aboutColumn = "cost", "currency", "share"
)

// aboutHeadings are the names of such columns, in normal form, in the order in which tables are told; common practice
// of tools, no single source.
var aboutHeadings = []struct {
	about About
	names map[aboutColumn]string
	needs []aboutColumn // beside the name
}{
	{AboutAds, map[aboutColumn]string{colName: "phrase|keyword|search term",
		colTitle: "title|headline|ad title|ad headline", colText: "text|description|ad text|ad copy|ad description",
		colURL: "url|landing page|landing url|final url|target url", colCost: "cost|monthly cost|est cost|" +
			"estimated cost|cost a month", colCurrency: "currency",
		colShare: "share|impression share|share of times|share of impressions"}, []aboutColumn{colTitle}},
	{AboutPages, map[aboutColumn]string{colName: "url|page|address|top page|top pages|seite|page url",
		colPhrases: aboutPhrases, colVisits: aboutVisits,
		colPhrase: "phrase|keyword|top keyword|top phrase|best phrase|top query"}, []aboutColumn{colVisits}},
	{AboutSharers, map[aboutColumn]string{colName: "site|domain|competitor|competing domain|host|rival|website",
		colShared: "shared|shared phrases|shared keywords|common keywords|common phrases|keywords in common|" +
			"phrases in common|overlap", colPhrases: aboutPhrases, colVisits: aboutVisits}, []aboutColumn{colShared}},
	{AboutMonths, map[aboutColumn]string{colName: "month|date|monat|mois|mes", colPhrases: aboutPhrases,
		colVisits: aboutVisits}, []aboutColumn{colVisits}},
	{AboutCountries, map[aboutColumn]string{colName: "country|country code|land|pays|país", colPhrases: aboutPhrases,
		colVisits: aboutVisits}, []aboutColumn{colVisits}},
}

const (
	aboutPhrases = "phrases|keywords|organic keywords|number of keywords|keyword count|total keywords"
	aboutVisits  = "visits|traffic|est traffic|estimated traffic|estimated visits|organic traffic|besuche|tráfico|" +
		"trafic|visits a month|monthly visits"
)

// AboutOf tells by its headings what a table about a site lists; AboutNothing where that cannot be told.
func AboutOf(s Shape) About {
	about, _ := siteTable(s)
	return about
}

// siteTable tells also where its columns stand.
func siteTable(s Shape) (About, map[aboutColumn]int) {
	for _, h := range aboutHeadings {
		at := map[aboutColumn]int{}
		for column, names := range h.names {
			list := strings.Split(names, "|")
			i := slices.IndexFunc(s.Columns, func(c Column) bool { return slices.Contains(list, normalHeading(c.Heading)) })
			if i >= 0 {
				at[column] = i
			}
		}
		if _, named := at[colName]; named && !slices.ContainsFunc(h.needs, func(c aboutColumn) bool {
			_, there := at[c]
			return !there
		}) {
			return h.about, at
		}
	}
	return AboutNothing, nil
}

// mostSiteRows is how many rows of a table about a site are read.
const mostSiteRows = 10_000

// SiteRows reads a table about a site. How its numbers are written is told by all of a column.
func (f *File) SiteRows(ctx context.Context, s Shape, currency string, bad func(LineProblem) error) (About, []SiteRow,
	error) {
	about, at := siteTable(s)
	if about == AboutNothing {
		return about, nil, errors.New("which columns it has cannot be told. Name them as the guide says, such as month " +
			"and visits")
	}
	type line struct {
		n     int
		cells []string
	}
	var lines []line
	written := map[aboutColumn]*marks{}
	cell := func(cells []string, c aboutColumn) string {
		if i, there := at[c]; there && i < len(cells) {
			return strings.TrimSpace(unguarded(cells[i]))
		}
		return ""
	}
	numbers := []aboutColumn{colShared, colPhrases, colVisits, colCost, colShare}
	err := f.Each(ctx, s, func(n int, cells []string) error {
		if len(lines) == mostSiteRows {
			return fmt.Errorf("it has more than %d rows", mostSiteRows)
		}
		for _, c := range numbers {
			if written[c] == nil {
				written[c] = &marks{}
			}
			written[c].add(cell(cells, c))
		}
		lines = append(lines, line{n, slices.Clone(cells)})
		return nil
	}, bad)
	if err != nil {
		return about, nil, err
	}
	var out []SiteRow
	for _, l := range lines {
		row := SiteRow{Line: l.n, Name: cell(l.cells, colName), Phrase: shorten(cell(l.cells, colPhrase), 200),
			Title: shorten(cell(l.cells, colTitle), 500), Text: shorten(cell(l.cells, colText), 1000),
			URL: cell(l.cells, colURL)}
		var wrong error
		number := func(c aboutColumn) *float64 {
			mark, _ := written[c].decimal(c != colShare && c != colCost)
			n, err := ReadNumber(strings.TrimSuffix(cell(l.cells, c), "%"), mark)
			if err != nil || n.Known && n.Middle() > MostSearches {
				wrong = errors.Join(wrong, fmt.Errorf("“%s” is no number of %s", shorten(cell(l.cells, c), 30), c))
			}
			if err != nil || !n.Known {
				return nil
			}
			x := n.Middle()
			return &x
		}
		row.Shared, row.Phrases = counted(number(colShared)), counted(number(colPhrases))
		row.Visits, row.Share = number(colVisits), number(colShare)
		if row.Share != nil && (*row.Share > 1 || strings.HasSuffix(cell(l.cells, colShare), "%")) {
			*row.Share /= 100
		}
		if text := cell(l.cells, colCost); text != "" {
			mark, _ := written[colCost].decimal(false)
			cost, err := ReadMoney(text, mark, strings.ToUpper(orText(cell(l.cells, colCurrency), currency)))
			if wrong = errors.Join(wrong, err); err == nil && cost.Known() {
				row.Cost = &cost
			}
		}
		if wrong = errors.Join(wrong, row.named(about)); wrong != nil {
			reason, _, _ := strings.Cut(wrong.Error(), "\n")
			if err := bad(LineProblem{l.n, printable(row.Name), reason}); err != nil {
				return about, out, err
			}
			continue
		}
		out = append(out, row)
	}
	return about, out, nil
}

// counted is a whole number of one that may be unknown.
func counted(x *float64) *int {
	if x == nil {
		return nil
	}
	n := int(math.Round(*x))
	return &n
}

// named checks what a row is about, and writes it as all are written.
func (r *SiteRow) named(about About) error {
	none := func(what string) error { return fmt.Errorf("“%s” is no %s", shorten(printable(r.Name), 60), what) }
	switch about {
	case AboutMonths:
		month, is := MonthIn(r.Name)
		if !is {
			return none("month")
		}
		r.Name = month.String()
	case AboutCountries:
		if r.Name = strings.ToUpper(r.Name); len(r.Name) != 2 || strings.ContainsFunc(r.Name, func(c rune) bool {
			return c < 'A' || c > 'Z'
		}) {
			return none("country’s code of two letters")
		}
	case AboutPages:
		if !isAddress(r.Name) || len(r.Name) > longestAddress {
			return none("web address")
		}
	case AboutSharers:
		r.Name = strings.ToLower(r.Name)
		if r.Name == "" || !strings.Contains(r.Name, ".") || strings.ContainsAny(r.Name, " /\"<>") {
			return none("site")
		}
		if r.Shared == nil || *r.Shared < 1 {
			return errors.New("it does not say how many phrases are shared")
		}
	case AboutAds:
		if r.Name == "" {
			return errors.New("it has no phrase")
		}
		if !isAddress(r.URL) {
			r.URL = ""
		}
	}
	return nil
}

func orText(a, b string) string {
	if a != "" {
		return a
	}
	return b
}
