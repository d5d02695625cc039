package group

import (
	"fmt"
	"net/url"

	"cleverniche/study/input"
	"cleverniche/web/frame"
)

// act is something done to a topic by hand; it says what was done.
type act func(r *frame.Request, id uint, ids []uint) (said string, err error)

// byHand is what can be done, by the last part of the address.
var byHand = map[string]act{
	"split": func(r *frame.Request, _ uint, ids []uint) (string, error) {
		return fmt.Sprintf("Split off %s. Press u to undo.", r.Speak().Counted(len(ids), "idea", "ideas")),
			r.Study.Topics.Split(r.Context(), r.Niche, ids)
	},
	"join": func(r *frame.Request, id uint, ids []uint) (string, error) {
		return "Merged. Press u to undo.", r.Study.Topics.Join(r.Context(), r.Niche, append([]uint{id}, ids...))
	},
	"move": func(r *frame.Request, _ uint, ids []uint) (string, error) {
		to, err := frame.IDOf(r.FormValue("target"))
		if err != nil {
			return "", &input.Error{Field: "target", Reason: "Choose the topic to move them to."}
		}
		return fmt.Sprintf("Moved %s. Press u to undo.", r.Speak().Counted(len(ids), "idea", "ideas")),
			r.Study.Topics.Move(r.Context(), r.Niche, ids, to)
	},
	"lead": func(r *frame.Request, id uint, _ []uint) (string, error) {
		return "It is the lead phrase now. Press u to undo.", r.Study.Topics.Lead(r.Context(), r.Niche, id)
	},
	"name": func(r *frame.Request, id uint, _ []uint) (string, error) {
		return "Renamed. Press u to undo.", r.Study.Topics.Name(r.Context(), r.Niche, id, r.FormValue("name"))
	},
	"release": func(r *frame.Request, id uint, _ []uint) (string, error) {
		return "Grouped by its results again. Press u to undo.", r.Study.Topics.Release(r.Context(), r.Niche, id)
	},
	"hub": func(r *frame.Request, id uint, _ []uint) (string, error) {
		text := r.FormValue("hub")
		var hub uint
		if text != "none" && text != "" {
			var err error
			if hub, err = frame.IDOf(text); err != nil {
				return "", err
			}
		}
		return "Hub changed. Press u to undo.", r.Study.Topics.Hub(r.Context(), r.Niche, id, hub, text == "")
	},
}

// change does something to a topic by hand, and says so.
func change(r *frame.Request, do act) error {
	id, err := r.ID("idea")
	if err != nil {
		return err
	}
	var ids []uint
	form, err := url.ParseQuery(string(r.Body()))
	if err != nil {
		return &input.Error{Field: "ideas", Reason: "The form cannot be read."}
	}
	for _, text := range form["id"] {
		one, err := frame.IDOf(text)
		if err != nil {
			return err
		}
		ids = append(ids, one)
	}
	said, err := do(r, id, ids)
	if err != nil {
		return err
	}
	r.Set("HX-Trigger", "topics-changed")
	return r.Render("frame/notice", map[string]any{"Said": said})
}
