package files

import (
	"context"
	"errors"
	"fmt"
	"math"

	"cleverniche/core/phrase"
)

// Ranking is a phrase for which somebody's page ranks, as a file has it. Searches and Visits are a month's; nil is
// unknown.
type Ranking struct {
	Line     int
	Phrase   string // normal form
	Position int
	URL      string
	Searches *int
	Visits   *float64
}

// longestAddress is how long an address of a page may be.
const longestAddress = 2048

// Rankings streams the rankings that a file lists.
func (f *File) Rankings(ctx context.Context, s Shape, each func(Ranking) error, bad func(LineProblem) error) error {
	at := map[Field]int{}
	for _, field := range []Field{Phrase, Position, URL, Searches, Visits} {
		at[field] = s.Has(field)
	}
	if at[Phrase] < 0 || at[Position] < 0 || at[URL] < 0 {
		return errors.New("rankings are a phrase, a position and a URL in each row")
	}
	return f.Each(ctx, s, func(line int, cells []string) error {
		cell := func(field Field) string {
			if k := at[field]; k >= 0 && k < len(cells) {
				return cells[k]
			}
			return ""
		}
		number := func(field Field, least, most float64) (*float64, error) {
			if at[field] < 0 {
				return nil, nil
			}
			n, err := ReadNumber(cell(field), s.Columns[at[field]].Decimal)
			switch {
			case err != nil:
				return nil, fmt.Errorf("%s: %w", field, err)
			case !n.Known:
				return nil, nil
			case n.Low < least || n.High > most:
				return nil, fmt.Errorf("“%s” is no %s from %.0f to %.0f", shorten(cell(field), 30), field, least, most)
			}
			x := n.Middle()
			return &x, nil
		}
		r := Ranking{Line: line, URL: cell(URL)}
		no := func(err error) error {
			return bad(LineProblem{line, printable(cell(Phrase) + " · " + cell(URL)), err.Error()})
		}
		var err error
		if r.Phrase, err = phrase.Parse(cell(Phrase)); err != nil {
			return no(err)
		}
		place, err := number(Position, 1, deepest)
		if err != nil {
			return no(err)
		}
		if place == nil {
			return no(errors.New("it has no position"))
		}
		if r.Position = int(math.Round(*place)); !isAddress(r.URL) || len(r.URL) > longestAddress {
			return no(errors.New("it has no web address"))
		}
		searches, err := number(Searches, 0, MostSearches)
		if err != nil {
			return no(err)
		}
		if searches != nil {
			n := int(math.Round(*searches))
			r.Searches = &n
		}
		if r.Visits, err = number(Visits, 0, MostSearches); err != nil {
			return no(err)
		}
		return each(r)
	}, bad)
}
