package idea

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"cleverniche/core/worth"
	"cleverniche/study/gather"
	"cleverniche/study/ideas"
	"cleverniche/study/input"
	"cleverniche/study/results"
	"cleverniche/web/frame"
	"cleverniche/web/jobs"

	"github.com/gofiber/fiber/v3"
)

// Screen is the drawer and the whole story of an idea.
var Screen = frame.Screen{Routes: func(s *frame.Server, niche, _ fiber.Router) {
	niche.Get("/ideas/:idea/drawer", s.In(func(r *frame.Request) error {
		id, err := r.ID("idea")
		if err != nil {
			return err
		}
		v, err := Of(r, id)
		if err != nil {
			return err
		}
		return r.Render("idea/drawer", v)
	}))
	niche.Get("/ideas/:idea", s.In(func(r *frame.Request) error { return show(r, nil, nil) }))
	niche.Get("/ideas/:idea/results", s.In(showTen))
	niche.Get("/ideas/:idea/along", s.In(along))
	niche.Get("/ideas/:idea/links", s.In(showLinks))
	niche.Get("/ideas/:idea/links/:format", s.In(exportAsking))
	niche.Post("/ideas/:idea/links", s.In(askOwn))
	niche.Post("/ideas/:idea/questions", s.In(takeQuestions))
	niche.Post("/ideas/:idea/headings", s.In(addHeading))
	niche.Post("/ideas/:idea/elsewhere", s.In(sceneOf))
	niche.Get("/ideas/:idea/ranks", s.In(showRanks))
	niche.Post("/ideas/:idea/ranks", s.In(askRanks))
	niche.Post("/ideas/:idea/ranks/take", s.In(takeRanks))
	niche.Get("/ideas/:idea/copy", s.In(readHere))
	niche.Post("/ideas/:idea/ten-columns", s.In(chooseTen))
	niche.Post("/ideas/:idea/dig", s.In(dig))
	niche.Post("/ideas/:idea/note", s.Form(note, func(r *frame.Request, wrong *input.Error) error {
		return show(r, nil, &typedNote{r.FormValue("note"), wrong.Reason})
	}))
	niche.Get("/ideas/:idea/what-if", s.In(whatIf))
	niche.Post("/ideas/:idea/suppose", s.Form(suppose, func(r *frame.Request, wrong *input.Error) error {
		typed := typedIn(r)
		typed.Field, typed.Error = wrong.Field, wrong.Reason
		return show(r, &typed, nil)
	}))
}}

// page is the whole story of one idea.
type page struct {
	frame.Page
	D         View
	Back      string
	Suppose   supposed
	Worth     []figure
	Supposed  bool // something is, for this idea
	Note      typedNote
	Ten       tenTable
	Weeks     weeksView
	Sheet     pageView
	Elsewhere elsewhereView
	Earn      *earnView
	Names     []results.Name
	// Unchecked says that a registry can be asked for names that it was not.
	Unchecked bool
	Wordings  wordingsView
}

// typedNote is what was typed as a note, and why it cannot be kept.
type typedNote struct{ Text, Error string }

// supposed is what was typed into the form of my reach for one idea.
type supposed struct{ Standing, Links, Fit, Tilt, Field, Error string }

// figure is a figure with what it is made of.
type figure struct{ Label, Text, Why string }

// show shows the whole story, with what was typed when it could not be used.
func show(r *frame.Request, typed *supposed, noted *typedNote) error {
	id, err := r.ID("idea")
	if err != nil {
		return err
	}
	var v page
	if v.D, err = Of(r, id); err != nil {
		return err
	}
	v.D.Whole = true
	again, err := r.Study.Results.EstimateMost(r.Context(), r.Niche, results.Top(), 1)
	if err != nil {
		return err
	}
	v.D.Again = &jobs.Estimate{Estimate: again, Cost: r.Study.Ask.Cost(again)}
	if v.Page, err = r.Page(v.D.Idea.Phrase, "judge", -1); err != nil {
		return err
	}
	v.Suppose = supposedOf(v.D.Idea.Supposed)
	v.Supposed = v.D.Idea.Supposed.Any()
	if typed != nil {
		v.Suppose = *typed
	}
	if v.Note.Text = v.D.Idea.Note(); noted != nil {
		v.Note = *noted
	}
	if v.Wordings, err = wordingsOf(r, id); err != nil {
		return err
	}
	if v.Names, err = r.Study.Results.Names(r.Context(), r.Niche, v.D.Idea.Phrase); err != nil {
		return err
	}
	v.Unchecked = slices.ContainsFunc(v.Names, func(n results.Name) bool { return !n.Known })
	if v.D.Evidence != nil {
		if v.Ten, err = tenOf(r, &v.D); err != nil {
			return err
		}
		if v.Sheet, err = pageOf(r, &v.D); err != nil {
			return err
		}
		if v.Weeks, err = weeksOf(r, &v.D); err != nil {
			return err
		}
		if v.Elsewhere, err = elsewhereOf(r, &v.D); err != nil {
			return err
		}
	}
	v.Earn = earnOf(&v.D, r.Speak())
	v.Worth = worthOf(v.D.Story, r.Speak())
	v.Back = r.Path("sift") + "?idea=" + strconv.FormatUint(uint64(id), 10)
	return r.Render("idea/story", v)
}

// dig makes the idea a seed and gathers from it.
func dig(r *frame.Request) error {
	id, err := r.ID("idea")
	if err != nil {
		return err
	}
	ideas, err := r.Study.Ideas.Ideas(r.Context(), r.Niche.ID, []uint{id})
	if err == nil && len(ideas) == 0 {
		err = input.ErrNotFound
	}
	if err != nil {
		return err
	}
	job, err := r.Study.Gathering.Gather(r.Context(), r.Niche, gather.PlanFrom(ideas[0]))
	if err != nil {
		return err
	}
	return jobs.Show(r, job.ID)
}

// note keeps what the user notes on an idea.
func note(r *frame.Request) error {
	id, err := r.ID("idea")
	if err != nil {
		return err
	}
	if err := r.Study.Ideas.ReplaceNote(r.Context(), r.Niche, id, frame.Was(r.Ctx), r.FormValue("note")); err != nil {
		return err
	}
	return r.To(r.Path(fmt.Sprint("ideas/", id)) + "#note")
}

// whatIf shows what would come of another page of mine, or on another engine; nothing is kept.
func whatIf(r *frame.Request) error {
	id, err := r.ID("idea")
	if err != nil {
		return err
	}
	typed := func(name string) string { return strings.TrimSpace(r.Query(name)) }
	x, err := supposed{Standing: typed("standing"), Links: typed("links"), Fit: typed("fit"), Tilt: typed("tilt")}.read()
	if err != nil {
		return err
	}
	v, err := ofIf(r, id, &x)
	if err == nil && v.Evidence == nil {
		err = input.ErrNotFound
	}
	if err != nil {
		return err
	}
	v.Whole, v.If = true, x.Any()
	return r.Render("idea/climb", v)
}

// supposedOf is what is supposed for the idea already, as it is typed.
func supposedOf(x ideas.Suppose) (f supposed) {
	text := func(x float64) string { return strconv.FormatFloat(x, 'f', -1, 64) }
	if x.Standing != nil {
		f.Standing = text(*x.Standing)
	}
	if x.Links != nil {
		f.Links = strconv.Itoa(*x.Links)
	}
	if x.Fit != nil {
		f.Fit = text(*x.Fit)
	}
	if x.Tilt != nil {
		f.Tilt = text(*x.Tilt)
	}
	return f
}

func typedIn(r *frame.Request) supposed {
	if r.FormValue("clear") != "" {
		return supposed{}
	}
	typed := func(name string) string { return strings.TrimSpace(r.FormValue(name)) }
	return supposed{Standing: typed("standing"), Links: typed("links"), Fit: typed("fit"), Tilt: typed("tilt")}
}

// suppose changes what is supposed of my page for one idea. Empty fields are as the
// niche says.
func suppose(r *frame.Request) error {
	id, err := r.ID("idea")
	if err != nil {
		return err
	}
	x, err := typedIn(r).read()
	if err != nil {
		return err
	}
	if err := r.Study.Results.Suppose(r.Context(), r.Niche, id, x); err != nil {
		return err
	}
	return r.To(fmt.Sprintf("%s#my-reach", r.Path(fmt.Sprint("ideas/", id))))
}

func (f supposed) read() (x ideas.Suppose, err error) {
	number := func(field, text string) *float64 {
		if text == "" || err != nil {
			return nil
		}
		v, bad := strconv.ParseFloat(strings.ReplaceAll(text, ",", "."), 64)
		if bad != nil {
			err = &input.Error{Field: field, Reason: fmt.Sprintf("“%s” is not a number.", text)}
		}
		return &v
	}
	x.Standing, x.Fit = number("standing", f.Standing), number("fit", f.Fit)
	if x.Tilt = number("tilt", f.Tilt); x.Tilt != nil && *x.Tilt == 0 {
		x.Tilt = nil // as learnt
	}
	if links := number("links", f.Links); links != nil && err == nil {
		whole := int(*links)
		if x.Links = &whole; float64(whole) != *links {
			err = &input.Error{Field: "links", Reason: "Links are counted in whole numbers."}
		}
	}
	return x, err
}

// worthOf is what an idea could bring, figure by figure.
func worthOf(st results.Story, sp frame.Speaker) []figure {
	if st.First.Because == "" {
		return nil
	}
	day := st.First.Number / worth.DaysAMonth
	out := []figure{{"visits a day at no. 1", fmt.Sprintf("%.1f", day),
		fmt.Sprintf("%s, as the trade counts: no. 1 gets %.0f of 100 clicks. Many searches end without a click, so fewer "+
			"come. 80 to 100 a day is a common bar.", st.First.Because, 100*worth.OfClicks.At(1))}}
	if st.Visits.Because != "" {
		out = append(out, figure{"expected visits a month", sp.Count(int(math.Round(st.Visits.Number))),
			st.Visits.Because + ". The chances of the positions are those of your reach against the top ten."})
	}
	return out
}
