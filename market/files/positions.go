package files

import (
	"context"
	"errors"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
	"time"

	"cleverniche/core/phrase"
)

// Place is a phrase, and where a page stood for it on a day, as a file has it.
type Place struct {
	Line   int
	Phrase string // normal form
	URL    string // "" it does not say
	Told   bool   // the file says where; else it is a phrase alone
	Place  int    // 0 not found
	Day    time.Time
	Engine string // "" it does not say
}

// dayNames and engineNames are headings of such columns (common practice, no source).
var (
	dayNames    = strings.Split("day|date|checked|datum|fecha|data|dato|dag|jour", "|")
	engineNames = strings.Split("engine|search engine|suchmaschine|moteur|buscador", "|")
)

// column is the first whose heading is one of those, −1 where there is none.
func (s Shape) column(names []string) int {
	return slices.IndexFunc(s.Columns, func(c Column) bool { return slices.Contains(names, normalHeading(c.Heading)) })
}

// Places streams phrases with where a page stood for them: a phrase in each row, and if there are such columns a
// position, a page, a day (RFC 3339 or its date) and an engine. A row without a day is of today; an empty position in
// a file that has one of days, and 0, mean that no page was found.
func (f *File) Places(ctx context.Context, s Shape, today time.Time, each func(Place) error,
	bad func(LineProblem) error) error {
	if s.Has(Phrase) < 0 {
		return errors.New("no column holds phrases: name one “phrase”")
	}
	day, engine := s.column(dayNames), s.column(engineNames)
	return f.Each(ctx, s, func(line int, cells []string) error {
		cell := func(at int) string {
			if at >= 0 && at < len(cells) {
				return strings.TrimSpace(cells[at])
			}
			return ""
		}
		p := Place{Line: line, URL: cell(s.Has(URL)), Day: today, Engine: shorten(cell(engine), 60)}
		no := func(err error) error {
			return bad(LineProblem{line, printable(cell(s.Has(Phrase)) + " · " + cell(s.Has(Position))), err.Error()})
		}
		var err error
		if p.Phrase, err = phrase.Parse(cell(s.Has(Phrase))); err != nil {
			return no(err)
		}
		if p.URL != "" && (!isAddress(p.URL) || len(p.URL) > longestAddress) {
			return no(fmt.Errorf("“%s” is no web address", shorten(p.URL, 60)))
		}
		if text := cell(day); text != "" {
			if p.Day, err = time.Parse(time.DateOnly, text[:min(len(time.DateOnly), len(text))]); err != nil {
				return no(fmt.Errorf("“%s” is no day of the form 2027-03-31", shorten(text, 30)))
			}
		}
		switch text := cell(s.Has(Position)); {
		case text != "":
			x, err := strconv.ParseFloat(text, 64)
			if err != nil || x < 0 || x != math.Trunc(x) || x > deepest {
				return no(fmt.Errorf("“%s” is no position: a whole number from 1 on, or 0 for not found", shorten(text, 30)))
			}
			p.Told, p.Place = true, int(x)
		case s.Has(Position) >= 0 && cell(day) != "":
			p.Told = true
		}
		return each(p)
	}, bad)
}
