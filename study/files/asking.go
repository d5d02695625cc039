package files

import (
	"fmt"
	"io"
	"strings"
	"time"

	"cleverniche/core/links"
)

// askingColumns are those of sites that are worth asking for a link.
var askingColumns = []column{{name: "site", width: 28}, {name: "standing", form: wholeForm},
	{name: "links to", form: wholeForm}, {name: "places", width: 14}, {name: "institution"},
	{name: "page", width: 48}, {name: "anchor", width: 28}, {name: "rel", width: 12}, {name: "first seen", width: 12}}

// Asking writes sites that are worth asking for a link, as CSV (RFC 4180) or as a workbook.
func Asking(w io.Writer, list []links.Asking, title string, made time.Time, f Format) error {
	return writeTable(w, table{"Sites to ask", title, askingColumns}, made, f, func(row func([]any) error) error {
		for _, a := range list {
			first := ""
			if !a.First.IsZero() {
				first = a.First.Format(time.DateOnly)
			}
			places := strings.Trim(strings.ReplaceAll(fmt.Sprint(a.Places), " ", ", "), "[]")
			institution := ""
			if a.Institution {
				institution = "yes"
			}
			err := row([]any{a.Site, int(a.Standing + 0.5), len(a.Places), places, institution,
				a.From, a.Anchor, a.Rel, first})
			if err != nil {
				return err
			}
		}
		return nil
	})
}
