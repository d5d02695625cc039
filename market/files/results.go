package files

import (
	"context"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"cleverniche/core/phrase"
)

// Result is a place of a results page, as a file has it.
type Result struct {
	Line     int
	Phrase   string // normal form
	Position int
	URL      string
	Title    string
}

// deepest is how far down results are believed to go.
const deepest = 1000

// Results streams the results that a file lists.
func (f *File) Results(ctx context.Context, s Shape, each func(Result) error, bad func(LineProblem) error) error {
	at := [4]int{s.Has(Phrase), s.Has(Position), s.Has(URL), s.Has(Title)}
	if slices.Min(at[:3]) < 0 {
		return errors.New("results are a phrase, a position and a URL in each row")
	}
	return f.Each(ctx, s, func(line int, cells []string) error {
		cell := func(k int) string {
			if at[k] < 0 || at[k] >= len(cells) {
				return ""
			}
			return cells[at[k]]
		}
		r := Result{Line: line, URL: cell(2), Title: shorten(cell(3), 500)}
		no := func(err error) error {
			return bad(LineProblem{line, printable(cell(0) + " · " + cell(2)), err.Error()})
		}
		var err error
		if r.Phrase, err = phrase.Parse(cell(0)); err != nil {
			return no(err)
		}
		n, err := ReadNumber(cell(1), s.Columns[at[1]].Decimal)
		if err != nil || !n.Known || n.High < 1 || n.High > deepest {
			return no(fmt.Errorf("“%s” is no position from 1 to %d", shorten(cell(1), 30), deepest))
		}
		if r.Position = int(math.Round(n.High)); !isAddress(r.URL) {
			return no(errors.New("it has no web address"))
		}
		return each(r)
	}, bad)
}

// Link is a link between two pages, as a file has it.
type Link struct {
	Line        int
	From, To    string
	Anchor, Rel string
}

// rels are what columns say of links that pass nothing on, in words of their own (common practice, no source).
var rels = map[string]string{"yes": "nofollow", "true": "nofollow", "1": "nofollow", "no follow": "nofollow",
	"follow": "", "dofollow": "", "do follow": "", "no": "", "false": "", "0": ""}

// Links streams the links that a file lists.
func (f *File) Links(ctx context.Context, s Shape, each func(Link) error, bad func(LineProblem) error) error {
	at := [4]int{s.Has(From), s.Has(To), s.Has(Anchor), s.Has(Rel)}
	if slices.Min(at[:2]) < 0 {
		return errors.New("links are a linking page and a linked page in each row")
	}
	return f.Each(ctx, s, func(line int, cells []string) error {
		cell := func(k int) string {
			if at[k] < 0 || at[k] >= len(cells) {
				return ""
			}
			return strings.TrimSpace(unguarded(cells[at[k]]))
		}
		l := Link{Line: line, From: cell(0), To: cell(1), Anchor: shorten(cell(2), 500), Rel: shorten(cell(3), 100)}
		if said, is := rels[strings.ToLower(l.Rel)]; is {
			l.Rel = said
		}
		switch {
		case !isAddress(l.From):
			return bad(LineProblem{line, printable(l.From + " · " + l.To), "the linking page is no web address"})
		case !isAddress(l.To):
			return bad(LineProblem{line, printable(l.From + " · " + l.To), "the linked page is no web address"})
		}
		return each(l)
	}, bad)
}
