package list

import (
	"fmt"
	"strconv"
	"strings"

	"cleverniche/study/files"
	"cleverniche/study/gather"
	"cleverniche/study/input"
	"cleverniche/study/results"
	"cleverniche/web/filters"
	"cleverniche/web/frame"
	"cleverniche/web/jobs"

	"github.com/gofiber/fiber/v3"
)

// decideBulk decides on the chosen ideas.
func decideBulk(r *frame.Request) error {
	d, ok := decisions[r.FormValue("decision")]
	if !ok {
		return &input.Error{Field: "decision", Reason: "That option is not available. Reload the page."}
	}
	ids, err := several(r)
	if err != nil {
		return err
	}
	changed, err := r.Study.Ideas.Decide(r.Context(), r.Niche.ID, ids, d.is)
	if err != nil {
		return err
	}
	said := fmt.Sprintf(d.several, r.Speak().Counted(changed, "idea", "ideas"))
	if changed == 0 {
		said = "No change needed."
	}
	return r.Render("frame/notice", map[string]any{"Said": said})
}

// aside puts the topics of the chosen ideas on the sheet, to write.
func aside(r *frame.Request) error {
	ids, err := several(r)
	if err != nil {
		return err
	}
	names, err := r.Study.Articles.Add(r.Context(), r.Niche, ids)
	if err != nil {
		return err
	}
	said := fmt.Sprintf("Added %s to the plan. Press u to undo.", r.Speak().Counted(len(names), "article", "articles"))
	if len(names) == 1 {
		said = fmt.Sprintf("Added “%s” to the plan. Press u to undo.", names[0])
	}
	r.Set("HX-Trigger", "topics-changed")
	return r.Render("frame/notice", map[string]any{"Said": said})
}

// subjectBulk says of the chosen ideas whether they are about the niche's subject.
func subjectBulk(r *frame.Request) error {
	side, ok := frame.Sides[r.FormValue("side")]
	if !ok {
		return &input.Error{Field: "side", Reason: "That option is not available. Reload the page."}
	}
	ids, err := several(r)
	if err != nil {
		return err
	}
	n, err := r.Study.Subjects.Say(r.Context(), r.Niche, ids, side.Is)
	if err != nil {
		return err
	}
	said := "No change needed."
	if n > 0 {
		said = fmt.Sprintf(side.Says, r.Speak().Counted(n, "idea", "ideas"))
	}
	r.Set("HX-Trigger", "ideas-changed")
	return r.Render("frame/notice", map[string]any{"Said": said})
}

// deleteBulk takes the chosen ideas out of the niche.
func deleteBulk(r *frame.Request) error {
	ids, err := several(r)
	if err != nil {
		return err
	}
	n, err := r.Study.Ideas.Remove(r.Context(), r.Niche.ID, ids)
	if err != nil {
		return err
	}
	r.Set("HX-Trigger", "ideas-changed")
	return r.Render("frame/notice", map[string]any{"Said": fmt.Sprintf("Deleted %s. Press u to undo.",
		r.Speak().Counted(n, "idea", "ideas"))})
}

// labelBulk puts a label on the chosen ideas, or takes it off.
func labelBulk(r *frame.Request) error {
	ids, err := several(r)
	if err != nil {
		return err
	}
	off := r.FormValue("off") != ""
	label, changed, err := r.Study.Ideas.Label(r.Context(), r.Niche, ids, r.FormValue("label"), off)
	if err != nil {
		return err
	}
	said := "They have that label already."
	switch {
	case len(changed) == 0 && off:
		said = "None of them has this label."
	case len(changed) > 0:
		says := "Labelled %s “%s”. Press u to undo."
		if off {
			says = "Removed from %s the label “%s”. Press u to undo."
		}
		said = fmt.Sprintf(says, r.Speak().Counted(len(changed), "idea", "ideas"), label)
	}
	r.Set("HX-Trigger", "ideas-changed")
	return r.Render("frame/notice", map[string]any{"Said": said})
}

// several are the chosen ideas of a form: some, and not too many.
func several(r *frame.Request) ([]uint, error) {
	ids, _, err := chosen(r)
	if err == nil {
		err = few(len(ids))
	}
	return ids, err
}

// idsBetween writes the ideas between two places of the list.
func idsBetween(r *frame.Request) error {
	by, _, b, err := filters.Sifting(r)
	if err != nil {
		return err
	}
	from, err1 := strconv.Atoi(r.Query("begin"))
	to, err2 := strconv.Atoi(r.Query("end"))
	if err1 != nil || err2 != nil || from < 0 || to < from {
		return &input.Error{Field: "begin", Reason: "There are no such positions in the list."}
	}
	if err := few(to - from + 1); err != nil {
		return err
	}
	left := b.Pass(by)
	if r.Query("fold") == "yes" {
		left, _ = left.Folded()
	}
	var out []string
	for _, id := range left.IDs(from, to-from+1) {
		out = append(out, strconv.FormatUint(uint64(id), 10))
	}
	return r.SendString(strings.Join(out, " "))
}

// few says why so many ideas cannot be taken at once; nil when they can.
func few(ideas int) error {
	switch {
	case ideas == 0:
		return &input.Error{Field: "ideas", Reason: "Select ideas in the list first."}
	case ideas > results.MostLookedUp:
		return &input.Error{Field: "ideas", Reason: fmt.Sprintf("At most %d ideas at a time. Filter "+
			"them first.", results.MostLookedUp)}
	}
	return nil
}

// copyBulk writes the chosen ideas as a table that pastes into a spreadsheet.
func copyBulk(r *frame.Request) error {
	ids, err := several(r)
	if err != nil {
		return err
	}
	f, err := files.FormatNamed("tsv")
	if err != nil {
		return err
	}
	var out strings.Builder
	if err := r.Study.Files.ExportIdeas(r.Context(), &out, r.Niche.ID, ids, f); err != nil {
		return err
	}
	r.Set(fiber.HeaderContentType, f.Media)
	return r.SendString(out.String())
}

// digs reports whether a form asks to dig from ideas, instead of looking them up.
func digs(r *frame.Request) bool { return r.FormValue("what") == "dig" }

// mostDug is from how many ideas one digs at once.
const mostDug = 50

// digPlan is how a gathering grows from the chosen ideas.
func digPlan(r *frame.Request, ids []uint) (gather.Plan, error) {
	if len(ids) > mostDug {
		return gather.Plan{}, &input.Error{Field: "ideas",
			Reason: fmt.Sprintf("You can gather from at most %d ideas at once.", mostDug)}
	}
	ideas, err := r.Study.Ideas.Ideas(r.Context(), r.Niche.ID, ids)
	p := gather.Plan{Ways: gather.Usual}
	for _, i := range ideas {
		p.Seeds = append(p.Seeds, i.Phrase)
	}
	return p, err
}

func estimateDig(r *frame.Request, ids []uint, v jobs.Estimate) error {
	p, err := digPlan(r, ids)
	if err == nil {
		v.Estimate, err = r.Study.Gathering.Estimate(r.Context(), r.Niche, p)
	}
	if err != nil {
		return err
	}
	v.Does, v.Cost = "Gather from "+r.Speak().Counted(len(ids), "idea", "ideas"), r.Study.Ask.Cost(v.Estimate)
	v.Held = r.Speak().Counted(v.Fresh, "answer", "answers")
	return r.Render("list/lookup-estimate", v)
}

func startDig(r *frame.Request, ids []uint) error {
	p, err := digPlan(r, ids)
	if err == nil {
		err = few(len(ids))
	}
	if err != nil {
		return err
	}
	job, err := r.Study.Gathering.Gather(r.Context(), r.Niche, p)
	if err != nil {
		return err
	}
	return jobs.Show(r, job.ID)
}
