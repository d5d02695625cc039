package watch

import (
	"encoding/xml"
	"fmt"
	"io"
	"time"
)

// ToDo is one thing to do, with its reason and its address.
type ToDo struct{ What, Why, Href string }

// Digest is what to do in a week, as an Atom feed (RFC 4287).
type Digest struct {
	Title string
	Self  string // the feed's own address
	Page  string // where people read it
	List  []ToDo
}

type atomLink struct {
	Rel  string `xml:"rel,attr,omitempty"`
	Type string `xml:"type,attr,omitempty"`
	Href string `xml:"href,attr"`
}

type atomText struct {
	Type string `xml:"type,attr"`
	Text string `xml:",chardata"`
}

type atomEntry struct {
	ID      string   `xml:"id"`
	Title   string   `xml:"title"`
	Updated string   `xml:"updated"`
	Link    atomLink `xml:"link"`
	Content atomText `xml:"content"`
}

type atomFeed struct {
	XMLName xml.Name    `xml:"http://www.w3.org/2005/Atom feed"`
	ID      string      `xml:"id"`
	Title   string      `xml:"title"`
	Updated string      `xml:"updated"`
	Author  string      `xml:"author>name"`
	Links   []atomLink  `xml:"link"`
	Entries []atomEntry `xml:"entry"`
}

// WeekOf is the Monday of a day.
func WeekOf(day time.Time) time.Time {
	day = day.UTC().Truncate(24 * time.Hour)
	return day.AddDate(0, 0, -(int(day.Weekday())+6)%7)
}

// Write writes it as of a day. Entries are new each week: their IDs name the week, their line and the page.
func (d Digest) Write(w io.Writer, day time.Time) error {
	monday := WeekOf(day)
	updated := monday.Format(time.RFC3339)
	f := atomFeed{ID: d.Page, Title: d.Title, Updated: updated, Author: "Clever Niche",
		Links: []atomLink{{Rel: "self", Type: "application/atom+xml", Href: d.Self},
			{Rel: "alternate", Type: "text/html", Href: d.Page}}}
	seen := map[string]int{}
	for _, one := range d.List {
		id := fmt.Sprintf("%s#%s", one.Href, monday.Format(time.DateOnly))
		if seen[id]++; seen[id] > 1 {
			id += fmt.Sprintf("-%d", seen[id])
		}
		f.Entries = append(f.Entries, atomEntry{ID: id, Title: one.What, Updated: updated,
			Link: atomLink{Rel: "alternate", Type: "text/html", Href: one.Href}, Content: atomText{"text", one.Why}})
	}
	if _, err := io.WriteString(w, xml.Header); err != nil {
		return err
	}
	e := xml.NewEncoder(w)
	e.Indent("", " ")
	return e.Encode(f)
}
