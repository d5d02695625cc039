package list

import (
	"fmt"

	"cleverniche/core/sieve"
	"cleverniche/study/input"
	"cleverniche/web/filters"
	"cleverniche/web/frame"
)

// decided is the answer to a decision: the row as it is now, and the counts.
type decided struct {
	frame.Page
	Row    frame.Row
	Said   string
	Hidden bool
}

// decisions by the names that forms use, and what is said of one idea and of several.
var decisions = map[string]struct {
	is            sieve.Decision
	says, several string
}{
	"keep":  {sieve.Kept, "Kept “%s”.", "Kept %s. Press u to undo."},
	"drop":  {sieve.Dropped, "Dropped “%s”. Press u to undo.", "Dropped %s. Press u to undo."},
	"clear": {sieve.Undecided, "“%s” is undecided again.", "%s undecided again. Press u to undo."},
}

// decide keeps, drops or clears one idea.
func decide(r *frame.Request) error {
	d, ok := decisions[r.FormValue("decision")]
	id, err := frame.IDOf(r.FormValue("id"))
	if err != nil || !ok {
		return &input.Error{Field: "decision", Reason: "That option is not available. Reload the page."}
	}
	if _, err := r.Study.Ideas.Decide(r.Context(), r.Niche.ID, []uint{id}, d.is); err != nil {
		return err
	}
	ideas, err := r.Study.Ideas.Ideas(r.Context(), r.Niche.ID, []uint{id})
	if err != nil {
		return err
	}
	b, err := r.Table()
	if err != nil {
		return err
	}
	v := decided{Row: r.Speak().Row(ideas[0]), Said: fmt.Sprintf(d.says, ideas[0].Phrase)}
	v.Niche, v.Row.Selected = r.Niche, true
	left := -1
	path := r.FormValue("stage")
	if stage, err := r.Stage(path); err == nil {
		by, _, err := filters.Of(r, path, r.FormValue("sift"))
		if err != nil {
			return err
		}
		left = leftAt(stage, b.Pass(by).Count)
		if len(b.Stops(id, by)) > 0 {
			r.Set("HX-Reswap", "delete")
			v.Hidden = true
		}
	}
	if v.Trail, err = r.Trail(path, left); err != nil {
		return err
	}
	return r.Render("list/decided", v)
}

func undo(r *frame.Request) error {
	undone, err := r.Study.Subjects.Undo(r.Context(), r.Niche)
	if err != nil {
		return err
	}
	said := "There is nothing to undo."
	if undone.Says != "" {
		said = undone.Says
		if undone.Topics {
			r.Set("HX-Trigger", "topics-undone")
			return r.Render("frame/notice", map[string]any{"Said": said})
		}
		r.Set("HX-Trigger", fmt.Sprintf(`{"ideas-changed": {"select": %d}}`, undone.Ideas[0]))
	}
	return r.Render("frame/notice", map[string]any{"Said": said})
}
