package gather

import (
	"strings"

	"cleverniche/core/phrase"
	"cleverniche/study/gather"
	"cleverniche/study/input"
	"cleverniche/web/frame"
)

// What helps to seeds: roots of ideas that are there, and prompts for who has none yet.

// seeding is the page of roots, or of prompts.
type seeding struct {
	frame.Page
	page
	Roots   []root
	Prompts []gather.Prompt
	Written map[string]string
	Lines   []string // that were no seeds yet
	Error   string
	Saved   bool
}

// root is a root as it is shown.
type root struct {
	phrase.Root
	Sum string // searches of its ideas together
}

func showRoots(r *frame.Request, wrong string) (err error) {
	v := seeding{Error: wrong}
	v.typed = wrong != ""
	list, err := r.Study.Gathering.Roots(r.Context(), r.Niche)
	if err != nil {
		return err
	}
	sp := r.Speak()
	for _, one := range list {
		v.Roots = append(v.Roots, root{one, sp.Count(int(one.Searches + 0.5))})
	}
	if err := v.offer(r); err != nil {
		return err
	}
	if v.Page, err = r.Page("Roots", "gather", -1); err != nil {
		return err
	}
	return r.Render("gather/roots", v)
}

func showPen(r *frame.Request, v seeding) (err error) {
	if v.Written == nil {
		if v.Written, err = r.Study.Gathering.Pen(r.Context(), r.Niche); err != nil {
			return err
		}
	}
	if v.Lines, err = r.Study.Gathering.PenSeeds(r.Context(), r.Niche); err != nil {
		return err
	}
	v.Lines = v.Lines[:min(len(v.Lines), gather.MostSeeds)]
	v.Prompts = gather.Prompts
	if err := v.offer(r); err != nil {
		return err
	}
	if v.Page, err = r.Page("Ten minutes with a pen", "gather", -1); err != nil {
		return err
	}
	return r.Render("gather/pen", v)
}

// written is what the form of prompts brought.
func written(r *frame.Request) map[string]string {
	out := map[string]string{}
	for _, p := range gather.Prompts {
		out[p.Key] = r.FormValue(p.Key)
	}
	return out
}

func keepPen(r *frame.Request) error {
	if err := r.Study.Gathering.KeepPen(r.Context(), r.Niche, written(r)); err != nil {
		return err
	}
	return showPen(r, seeding{Saved: true})
}

// seedsOf are the seeds that a form brought: lines that were typed, and those that were ticked.
func seedsOf(r *frame.Request) string {
	lines := append([]string{r.FormValue("seeds")}, r.Posted("seed")...)
	return strings.TrimSpace(strings.Join(lines, "\n"))
}

// growTicked begins a gathering from ticked seeds.
func growTicked(r *frame.Request) error {
	if seedsOf(r) == "" {
		return input.Bad("seeds", "Tick at least one.")
	}
	return begin(r)
}
