// Package read shows pages of others as they were read: what a verdict rests on, without going there.
package read

import (
	"strings"
	"time"

	"cleverniche/core/serp"
	"cleverniche/market"
	"cleverniche/web/frame"

	"github.com/gofiber/fiber/v3"
)

// Screen is the page of a page.
var Screen = frame.Screen{Routes: func(s *frame.Server, _, root fiber.Router) {
	root.Get(frame.ReadPath, func(c fiber.Ctx) error { return show(s, c) })
}}

type page struct {
	frame.Page
	Read     *serp.Page
	At       time.Time
	Copy     market.Copy
	Outside  bool // a browser can go there
	Address  string
	Mentions []mention
}

// mention is something that the page says of itself.
type mention struct{ Name, Says string }

func show(s *frame.Server, c fiber.Ctx) error {
	url := c.Query("url")
	p, at, err := s.Study.Results.AsRead(c.Context(), url)
	if err != nil {
		return err
	}
	v := page{Read: p, At: at, Address: url, Outside: !s.Elsewhere(url) && frame.IsWeb(url)}
	if v.Page, err = s.Bare(c, "As it was read"); err != nil {
		return err
	}
	if p == nil {
		return c.Status(fiber.StatusNotFound).Render("read/read", v)
	}
	if v.Copy, _, err = s.Study.Results.ReadingCopy(c.Context(), url, "", ""); err != nil {
		return err
	}
	add := func(name, says string) {
		if says != "" {
			v.Mentions = append(v.Mentions, mention{name, says})
		}
	}
	kind, because := serp.TypeOf(url, p.Title, p)
	add("Kind of page", string(kind)+" ("+because+")")
	add("Description", p.Description)
	add("Site", p.SiteName)
	if !p.Published.IsZero() {
		add("Published", p.Published.Format("2 January 2006"))
	}
	if t := p.Touched(); !t.IsZero() && !t.Equal(p.Published) {
		add("Updated", t.Format("2 January 2006"))
	}
	add("Says it is", strings.Join(p.SchemaTypes, ", "))
	return c.Render("read/read", v)
}
