package files

import (
	"io"
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
