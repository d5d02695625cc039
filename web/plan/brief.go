package plan

import (
	"fmt"
	"io"
	"strings"

	"cleverniche/study/articles"
	"cleverniche/study/ask"
	"cleverniche/study/briefs"
	"cleverniche/study/input"
	"cleverniche/study/jobs"
	"cleverniche/web/frame"
	progress "cleverniche/web/jobs"
)

// briefPage is a brief.
type briefPage struct {
	frame.Page
	Brief    briefs.Brief
	Sections []briefSection
	Papers   []briefs.Paper
	ID       uint
}

// briefSection is a section as it is shown and edited.
type briefSection struct {
	briefs.Section
	Text  string // as it is edited
	Was   string // what it is, as whoever edits it should know
	Error string // why what was typed is not kept
	Empty string // what is said where it has no lines
}

// empties say why a section has nothing, where that is worth saying.
var empties = map[string]string{
	"questions": "No related questions found",
	"headings":  "No shared heading adds to the title: begin with the questions below",
	"lack":      "No gap an article could fill",
	"facts":     "No two results have a table, steps, prices or a video",
	"links":     "None of your articles is about this yet",
	"when":      "Any time: no season and no deadline",
	"wordings":  "None",
	"note":      "None yet",
}

func briefOf(r *frame.Request) (briefs.Brief, error) {
	id, err := r.ID("idea")
	if err != nil {
		return briefs.Brief{}, err
	}
	topics, err := r.Topics()
	if err != nil {
		return briefs.Brief{}, err
	}
	one, err := topics.Of(id)
	if err != nil {
		return briefs.Brief{}, err
	}
	return r.Study.Briefs.Of(r.Context(), r.Niche, topics, one)
}

func showBrief(r *frame.Request) error { return showEdited(r, "", "", nil) }

// showEdited shows a brief, with what was typed for a section, when it could not be kept.
func showEdited(r *frame.Request, key, text string, wrong *input.Error) error {
	b, err := briefOf(r)
	if err != nil {
		return err
	}
	v := briefPage{Brief: b, Papers: briefs.Papers(), ID: b.Article.ID}
	for _, s := range b.Sections {
		one := briefSection{Section: s, Text: strings.Join(s.Lines, "\n"), Empty: empties[s.Key]}
		if one.Was = one.Text; wrong != nil && s.Key == key {
			one.Text, one.Error = text, wrong.Reason
		}
		v.Sections = append(v.Sections, one)
	}
	if v.Page, err = r.Page("Brief: "+b.Title, stage.Path, -1); err != nil {
		return err
	}
	return r.Render("plan/brief", v)
}

func editBrief(r *frame.Request) error {
	id, err := r.ID("idea")
	if err != nil {
		return err
	}
	key := r.FormValue("section")
	b, err := briefOf(r)
	if err != nil {
		return err
	}
	if r.FormValue("as") == "now" {
		if err := r.Study.Briefs.Renew(r.Context(), r.Niche, b, key); err != nil {
			return err
		}
		return r.To(r.Path(fmt.Sprintf("briefs/%d", id)))
	}
	known := false
	for _, s := range b.Sections {
		known = known || s.Key == key
	}
	if !known {
		return &input.Error{Field: "section", Reason: "A brief has no such part."}
	}
	text := r.FormValue("text")
	to := &text
	if r.FormValue("as") == "proposed" {
		to = nil
	}
	if err := r.Study.Briefs.Edit(r.Context(), r.Niche, id, key, frame.Was(r.Ctx), to); err != nil {
		return frame.Again(r.Ctx, err, func(wrong *input.Error) error { return showEdited(r, key, text, wrong) })
	}
	return r.To(r.Path(fmt.Sprintf("briefs/%d#section-%s", id, key)))
}

func sendBrief(r *frame.Request, p briefs.Paper) error {
	b, err := briefOf(r)
	if err != nil {
		return err
	}
	return r.SendFile(b.FileName()+"."+p.Name, p.Media, func(w io.Writer) error { return p.Write(w, b) })
}

// actionsPage is the list of what to do for the pages that are there.
type actionsPage struct {
	frame.Page
	Tabs    []tab
	Actions []articles.Action
	All     int
	From    int
	Next    int // where the next ones begin; 0 there are none
	Site    string
	Cost    string // of looking for my pages, at most
	// Of how many phrases my place is not known, how far down one would look for it, and for what money at most.
	Unplaced, Depth int
	PlacesCost      string
	Jobs            []jobs.Job
}

func showActions(r *frame.Request) error {
	from := 0
	fmt.Sscan(r.Query("begin"), &from)
	v := actionsPage{Tabs: tabsOf(r, "plan/actions"), From: max(0, from), Site: r.Niche.OwnSite}
	var err error
	if v.Actions, v.All, err = r.Study.Articles.Actions(r.Context(), r.Niche, v.From); err != nil {
		return err
	}
	if end := v.From + len(v.Actions); end < v.All {
		v.Next = end
	}
	e, err := r.Study.Articles.EstimateOwnPages(r.Context())
	if err != nil {
		return err
	}
	v.Cost = r.Study.Ask.Cost(e)
	if e, v.Unplaced, err = r.Study.Articles.EstimatePlaces(r.Context(), r.Niche); err != nil {
		return err
	}
	if e.Lookups == 0 {
		v.Unplaced = 0 // all of it is at hand
	}
	v.Depth, v.PlacesCost = ask.PlacesDepth, r.Study.Ask.Cost(e)
	if v.Jobs, err = progress.Open(r); err != nil {
		return err
	}
	if v.Page, err = r.Page("Your pages", stage.Path, -1); err != nil {
		return err
	}
	return r.Render("plan/actions", v)
}

func doAction(r *frame.Request) error {
	id, err := r.ID("idea")
	if err != nil {
		return err
	}
	if err := r.Study.Articles.DoAction(r.Context(), r.Niche, id, r.FormValue("done")); err != nil {
		return err
	}
	said := "Marked as done."
	if r.FormValue("done") == "" {
		said = "Taken back."
	}
	return r.Render("frame/notice", map[string]any{"Said": said})
}
