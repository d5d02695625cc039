package web

import (
	"fmt"
	"net/url"
	"strconv"

	"cleverniche/core/sieve"
	"cleverniche/study"

	"github.com/gofiber/fiber/v3"
)

// decided is the answer to a decision: the row as it is now, and the counts.
type decided struct {
	page
	Row    rowView
	Said   string
	Hidden bool
}

// decide keeps, drops or clears one idea.
func (s *server) decide(c fiber.Ctx) error {
	n, err := s.niche(c)
	if err != nil {
		return err
	}
	id, err := strconv.ParseUint(c.FormValue("id"), 10, 32)
	d, ok := decisionNamed[c.FormValue("decision")]
	if err != nil || !ok {
		return &study.InputError{Field: "decision", Reason: "There is no such decision."}
	}
	if _, err := s.study.Decide(c.Context(), n.ID, []uint{uint(id)}, d); err != nil {
		return err
	}
	b, err := s.study.Board(c.Context(), n.ID)
	if err != nil {
		return err
	}
	row, ok := b.Find(uint(id))
	if !ok {
		return study.ErrNotFound
	}
	v := decided{Row: speak(n).row(row)}
	v.Niche = n
	v.Row.Selected = true
	v.Said = map[sieve.Decision]string{sieve.Kept: "Kept “%s”.", sieve.Dropped: "Dropped “%s”. u undoes.", sieve.Undecided: "“%s” is neither kept nor dropped."}[d]
	v.Said = fmt.Sprintf(v.Said, row.Phrase)
	base, ok := stageSifts[c.FormValue("stage")]
	left := -1
	if ok {
		form, _ := url.ParseQuery(c.FormValue("sift"))
		f, _ := readSift(form, base)
		left = siftLeft(c.FormValue("stage"), b.Pass(f).Count)
		if len(b.Stops(uint(id), f)) > 0 {
			c.Set("HX-Reswap", "delete")
			v.Hidden = true
		}
	}
	if v.Trail, err = s.trail(c, n, c.FormValue("stage"), left); err != nil {
		return err
	}
	return c.Render("decided", v)
}

func (s *server) undo(c fiber.Ctx) error {
	n, err := s.niche(c)
	if err != nil {
		return err
	}
	said, undone, err := s.study.Undo(c.Context(), n.ID)
	if err != nil {
		return err
	}
	if said == "" {
		said = "There is nothing to undo."
	} else {
		c.Set("HX-Trigger", fmt.Sprintf(`{"ideas-changed": {"select": %d}}`, undone[0].IdeaID))
	}
	return c.Render("notice", map[string]any{"Said": said})
}

// decisions by the names that forms use.
var decisionNamed = map[string]sieve.Decision{"keep": sieve.Kept, "drop": sieve.Dropped, "clear": sieve.Undecided}
