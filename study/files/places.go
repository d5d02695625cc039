package files

import (
	"io"
	"math"
	"time"

	"cleverniche/core/watch"
)

// Stood is where a page of mine stood for a phrase on a day.
type Stood struct {
	Phrase, Page, Engine string
	Site, Scene          string // which of my sites, in which country or language or other engine
	Day                  time.Time
	Place, Depth         int // place 0 is below depth
}

var placeColumns = []column{{name: "phrase", width: 36}, {name: "day", width: 12}, {name: "place", form: wholeForm},
	{name: "looked down to", form: wholeForm}, {name: "page", width: 48}, {name: "engine", width: 16},
	{name: "site", width: 24}, {name: "where", width: 20}}

// Places writes places as CSV (RFC 4180) or as a workbook. A page that was not found has no place.
func Places(w io.Writer, list []Stood, title string, made time.Time, f Format) error {
	return writeTable(w, table{"Places", title, placeColumns}, made, f, func(row func([]any) error) error {
		for _, s := range list {
			var place any = ""
			if s.Place > 0 {
				place = s.Place
			}
			if err := row([]any{s.Phrase, s.Day.Format(time.DateOnly), place, max(s.Depth, min(s.Place, watch.Depth)), s.Page,
				s.Engine, s.Site, s.Scene}); err != nil {
				return err
			}
		}
		return nil
	})
}

// OwnPage is a page of mine with one of its faults, or without any.
type OwnPage struct {
	URL, Phrase, Fault, Fix, Next string
	Place, Searches, Clicks       int // 0 not known, but −1 for the latter two
	Fit                           float64
	Weight                        int
}

var ownPageColumns = []column{{name: "page", width: 48}, {name: "phrase", width: 36}, {name: "position",
	form: wholeForm},
	{name: "searches", form: wholeForm}, {name: "clicks", form: wholeForm}, {name: "fit", form: wholeForm},
	{name: "fault", width: 48}, {name: "weight", form: wholeForm}, {name: "fix", width: 48}, {name: "next", width: 48}}

// OwnPages writes my pages as CSV (RFC 4180) or as a workbook: a row a fault, and one for a page without any. What is
// not known is empty.
func OwnPages(w io.Writer, list []OwnPage, title string, made time.Time, f Format) error {
	known := func(x, least int) any {
		if x < least {
			return ""
		}
		return x
	}
	return writeTable(w, table{"Pages", title, ownPageColumns}, made, f, func(row func([]any) error) error {
		for _, p := range list {
			if err := row([]any{p.URL, p.Phrase, known(p.Place, 1), known(p.Searches, 0), known(p.Clicks, 0),
				known(int(math.Round(p.Fit)), 0), p.Fault, known(p.Weight, 1), p.Fix, p.Next}); err != nil {
				return err
			}
		}
		return nil
	})
}
