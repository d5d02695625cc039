package gather

import (
	"fmt"
	"strings"

	"cleverniche/core/phrase"
	"cleverniche/study/gather"
	"cleverniche/study/input"
	"cleverniche/web/frame"
	progress "cleverniche/web/jobs"

	"github.com/gofiber/fiber/v3"
)

// crossing is the page on which lists of words are crossed, or put into a pattern.
type crossing struct {
	frame.Page
	Pattern, Glue string
	Lists         [shownLists]string
	Turned, All   bool
	Starts, Ends  string // what ideas begin and end with, a line each
	Seeds         string
	NoDemand      bool
	Error         string
}

// shownLists is how many lists the form has.
const shownLists = 3

// crossed is what a crossing would make.
type crossed struct {
	progress.Estimate
	Count  string
	Sample []string
}

func readCrossing(r *frame.Request) (gather.Crossing, error) {
	var lists []string
	for i := range shownLists {
		lists = append(lists, r.FormValue(fmt.Sprint("list", i+1)))
	}
	return gather.ReadCrossing(r.FormValue("pattern"), lists, r.FormValue("glue"), r.FormValue("turned") != "",
		r.FormValue("all") != "")
}

func showCrossing(r *frame.Request, wrong string) (err error) {
	v := crossing{Error: wrong, Pattern: r.FormValue("pattern"), Glue: r.FormValue("glue"),
		Turned: r.FormValue("turned") != "", All: r.FormValue("all") != ""}
	for i := range v.Lists {
		v.Lists[i] = r.FormValue(fmt.Sprint("list", i+1))
	}
	starts, ends, err := r.Study.Gathering.Modifiers(r.Context(), r.Niche)
	if err != nil {
		return err
	}
	v.Starts, v.Ends = strings.Join(starts, "\n"), strings.Join(ends, "\n")
	seeds, err := r.Study.Niches.Seeds(r.Context(), r.Niche.ID)
	if err != nil {
		return err
	}
	var lines []string
	for _, s := range seeds {
		if !strings.Contains(s.Phrase, phrase.Gap) {
			lines = append(lines, s.Phrase)
		}
	}
	v.Seeds = strings.Join(lines, "\n")
	e, err := r.Study.Gathering.EstimateSearches(r.Context(), 1)
	if err != nil {
		return err
	}
	v.NoDemand = e.Missing != ""
	if v.Page, err = r.Page("Combine words", "gather", -1); err != nil {
		return err
	}
	return r.Render("gather/cross", v)
}

// previewCrossing says how many phrases there would be, some of them, and what it costs to ask for their searches.
func previewCrossing(r *frame.Request) error {
	if strings.TrimSpace(r.FormValue("list1")+r.FormValue("list2")+r.FormValue("pattern")) == "" {
		return r.Render("gather/crossed", crossed{})
	}
	c, err := readCrossing(r)
	if err != nil {
		return frame.Again(r.Ctx, err, func(wrong *input.Error) error {
			r.Status(fiber.StatusOK) // while one types, nothing is wrong yet
			return r.Render("gather/crossed", crossed{Estimate: progress.Estimate{Error: wrong.Reason}})
		})
	}
	e, err := r.Study.Gathering.EstimateCrossing(r.Context(), r.Niche, c)
	if err != nil {
		return err
	}
	sp := r.Speak()
	return r.Render("gather/crossed", crossed{Estimate: progress.Estimate{Estimate: e, Cost: r.Study.Ask.Cost(e)},
		Count: sp.Counted(c.Count(), "phrase", "phrases"), Sample: c.Sample(20)})
}

func cross(r *frame.Request) error {
	c, err := readCrossing(r)
	if err != nil {
		return err
	}
	if _, err := r.Study.Gathering.Cross(r.Context(), r.Niche, c); err != nil {
		return err
	}
	return r.To(r.Path("gather"))
}
