package files

import (
	"context"
	"errors"
	"fmt"
	"math"
	"strings"

	"cleverniche/core/demand"
	"cleverniche/core/phrase"
)

// Idea is one usable line of a list of phrases.
type Idea struct {
	Line     int
	Phrase   string // normal form
	Searches Number // a month
	CPC      demand.Cost
	Ads      *float64 // competition among advertisers, 0 to 1
	Months   []demand.Count
	// What a file of this program's own says besides, as it is written there; "" nothing.
	Decision, Season, Trend string
	Labels                  []string
	Note                    string
	// What a search report says of a page of one's own, or rankings of a site.
	Place       Number // 1 is the first
	Clicks      Number
	Impressions Number
	Page        string
}

// Reported reports whether the line is one of a search report.
func (i Idea) Reported() bool { return i.Clicks.Known || i.Impressions.Known }

// MostSearches is the largest count believed: more than the world's population searching once a day.
const MostSearches = 300_000_000_000

// MostNote is how long a note made of a file's columns becomes, in characters.
const MostNote = 1900

// totals are lines that sum up a report (common practice, no source).
var totals = map[string]bool{"total": true, "totals": true, "grand total": true, "gesamt": true, "summe": true,
	"total général": true, "totale": true, "totaal": true}

// Ideas streams the ideas of a file. Amounts without a currency are in the given one.
func (f *File) Ideas(ctx context.Context, s Shape, currency string, each func(Idea) error,
	bad func(LineProblem) error) error {
	if s.Has(Phrase) < 0 {
		return ErrNoPhrase
	}
	if at := s.Has(CPC); at >= 0 && s.Columns[at].Currency != "" {
		currency = s.Columns[at].Currency
	}
	return f.Each(ctx, s, func(line int, cells []string) error {
		idea, why := s.idea(cells, currency)
		if why != "" {
			if why == blank {
				return nil
			}
			return bad(LineProblem{line, printable(strings.Join(cells, " · ")), why})
		}
		idea.Line = line
		return each(idea)
	}, bad)
}

// ErrNoPhrase is returned for a table of which nobody said where its phrases are.
var ErrNoPhrase = errors.New("this looks like a table, and no column of it is known to hold phrases. Choose one")

// blank is said of lines that say nothing: they are no trouble.
const blank = "blank"

// idea reads a row.
func (s Shape) idea(cells []string, currency string) (out Idea, why string) {
	if strings.TrimSpace(strings.Join(cells, "")) == "" {
		return out, blank
	}
	var notes []string
	bids := [2]demand.Cost{}
	for i, c := range s.Columns {
		cell := ""
		if i < len(cells) {
			cell = unguarded(strings.TrimSpace(cells[i]))
		}
		if len(cell) > MostCell {
			return out, fmt.Sprintf("a cell holds %d bytes, more than %d", len(cell), MostCell)
		}
		if cell == "" && c.Field != Phrase {
			continue
		}
		var err error
		switch c.Field {
		case Phrase:
			if totals[strings.ToLower(cell)] {
				return out, "it sums up the others"
			}
			if out.Phrase, err = phrase.Parse(cell); errors.Is(err, phrase.ErrEncoding) {
				err = errors.New("it is not text in the file's encoding")
			}
		case Searches:
			if out.Searches, err = ReadNumber(cell, c.Decimal); out.Searches.High > MostSearches {
				err = fmt.Errorf("%s searches a month are more than anybody believes", shorten(cell, 30))
			}
		case SearchRange:
			var n Number
			if n, err = ReadNumber(openEnd(cell),
				"."); err == nil && n.Known {
				out.Searches = n
			}
		case Floor:
			if strings.EqualFold(cell, "yes") && out.Searches.Known {
				out.Searches.Under, out.Searches.Low = true, 0
			}
		case Month:
			var n Number
			if n, err = ReadNumber(cell, c.Decimal); err == nil && n.Known {
				out.Months = append(out.Months, demand.Count{Month: c.Month, Searches: int(math.Round(n.Middle())),
					Under: n.Under})
			}
		case CPC:
			out.CPC, err = ReadMoney(cell, c.Decimal, currency)
		case BidLow:
			bids[0], err = ReadMoney(cell, c.Decimal, currency)
		case BidHigh:
			bids[1], err = ReadMoney(cell, c.Decimal, currency)
		case Currency:
			if out.CPC.Known() && isCode(cell) {
				out.CPC.Currency = strings.ToUpper(cell)
			}
		case Competition:
			out.Ads, err = ReadAds(cell, c.Decimal)
		case Decision:
			out.Decision = cell
		case Season:
			out.Season = cell
		case Trend:
			out.Trend = cell
		case Label:
			for _, l := range strings.Split(cell, ";") {
				if l = strings.TrimSpace(l); l != "" {
					out.Labels = append(out.Labels, l)
				}
			}
		case Ignore:
		case Note:
			if name := normalHeading(c.Heading); name == "note" || name == "notes" || c.Heading == "" {
				notes = append(notes, cell)
			} else {
				notes = append(notes, c.Heading+": "+cell)
			}
		default: // it says something that this kind of list has no place for
			notes = append(notes, c.Heading+": "+cell)
			out.standing(c, cell)
		}
		if err != nil {
			if c.Field == Phrase {
				return out, err.Error()
			}
			return out, fmt.Sprintf("%s: %v", c.Heading, err)
		}
	}
	if !out.CPC.Known() && bids[0].Known() && bids[1].Known() {
		out.CPC = demand.Cost{Micros: (bids[0].Micros + bids[1].Micros) / 2, Currency: bids[0].Currency}
	}
	if n := strings.Join(notes, "; "); n != "" {
		out.Note = shorten(n, MostNote)
	}
	return out, ""
}

// standing takes in what a column says of a page; what cannot be read stays in the note.
func (i *Idea) standing(c Column, cell string) {
	of := map[Field]*Number{Position: &i.Place, Clicks: &i.Clicks, Impressions: &i.Impressions}[c.Field]
	if of != nil {
		if n, err := ReadNumber(cell, c.Decimal); err == nil {
			*of = n
		}
	}
	if c.Field == URL && isAddress(cell) {
		i.Page = cell
	}
}

// ReadAds reads competition among advertisers: a word, a share, or an index of a hundred.
func ReadAds(cell, decimal string) (*float64, error) {
	words := map[string]float64{"low": 0.17, "medium": 0.5, "high": 0.83, "niedrig": 0.17, "mittel": 0.5, "hoch": 0.83,
		"faible": 0.17, "moyenne": 0.5, "élevée": 0.83, "baja": 0.17, "media": 0.5, "alta": 0.83}
	if x, is := words[strings.ToLower(cell)]; is { // the middle of a third (ours)
		return &x, nil
	}
	n, err := ReadNumber(cell, decimal)
	if err != nil || !n.Known {
		return nil, err
	}
	x := n.Middle()
	if x > 1 {
		x /= 100
	}
	if x > 1 {
		return nil, fmt.Errorf("“%s” is no share", shorten(cell, 30))
	}
	return &x, nil
}

// unguarded leaves out a sign that kept a spreadsheet from taking a cell for a formula.
func unguarded(cell string) string {
	if len(cell) > 1 && cell[0] == '\'' && strings.ContainsRune("=+-@\t\r\n|", rune(cell[1])) {
		return cell[1:]
	}
	return cell
}

// openEnd is a range whose end is open as people write it: "1000-" is "1000+".
func openEnd(cell string) string {
	if low, open := strings.CutSuffix(cell, "-"); open {
		return low + "+"
	}
	return cell
}
