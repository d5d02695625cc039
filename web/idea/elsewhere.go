package idea

import (
	"fmt"
	"slices"

	"cleverniche/core/serp"
	"cleverniche/study/results"
	"cleverniche/web/frame"
)

// elsewhereView is an idea's results with other engines, in other countries and languages.
type elsewhereView struct {
	Scenes  []results.SceneResults
	Says    string
	Cost    string // of one
	Open    int    // not looked up yet
	All     string // what these cost together
	Deeper  []deeper
	DeepTo  int // the last of these
	Failure string
}

// deeper is a result behind those that were read.
type deeper struct {
	Place int
	Title string
	URL   string
	Mine  bool
}

// elsewhereOf lays it out.
func elsewhereOf(r *frame.Request, v *View) (out elsewhereView, err error) {
	if out.Scenes, err = r.Study.Results.Scenes(r.Context(), r.Niche, v.Evidence); err != nil {
		return out, err
	}
	for _, s := range out.Scenes {
		if !s.Known {
			out.Open++
		}
	}
	out.Cost = r.Study.Results.SceneCost()
	out.All = r.Study.Results.ScenesCost(out.Open)
	out.Failure = v.Idea.Row.ElsewhereError
	out.Says = elsewhereWords(out.Scenes, r.Niche.Language)
	for _, o := range v.Evidence.Results.Organic[min(len(v.Evidence.Results.Organic), len(v.Evidence.Reading.Entries)):] {
		mine := r.Niche.OwnSite != "" && r.Study.Results.SiteOf(o.URL) == r.Niche.OwnSite
		out.Deeper = append(out.Deeper, deeper{o.Position, o.Title, o.URL, mine})
		out.DeepTo = o.Position
	}
	return out, nil
}

// elsewhereWords says how alike they are, and what that means for an article in the niche's language.
func elsewhereWords(list []results.SceneResults, lang string) string {
	var known []results.SceneResults
	for _, s := range list {
		if s.Known {
			known = append(known, s)
		}
	}
	if len(known) == 0 {
		return ""
	}
	slices.SortStableFunc(known, func(a, b results.SceneResults) int { return len(b.Same) - len(a.Same) })
	most, least := known[0], known[len(known)-1]
	says := fmt.Sprintf("%s shows %d of these ten.", most.Name, len(most.Same))
	switch {
	case len(known) > 1 && len(most.Same) == len(least.Same):
		says = fmt.Sprintf("Each shows %d of these ten.", len(most.Same))
	case len(known) > 1:
		says = fmt.Sprintf("Most alike is %s with %d of these ten, least %s with %d.", most.Name, len(most.Same), least.Name,
			len(least.Same))
	}
	known = slices.DeleteFunc(known, func(s results.SceneResults) bool { return s.Language != lang })
	if len(known) == 0 { // who searches in another language wants another article
		return says
	}
	return says + " " + sameMeans(len(known[len(known)-1].Same))
}

// sameMeans is what to make of it (ours).
func sameMeans(same int) string {
	switch {
	case 2*same >= serp.FirstPage+4:
		return "One article serves all."
	case 2*same >= serp.FirstPage-4:
		return "Look at what differs before you write for all."
	}
	return "Other pages rank there, so your chances there differ."
}

// sceneOf looks an idea up in one other scene.
func sceneOf(r *frame.Request) error {
	id, err := r.ID("idea")
	if err != nil {
		return err
	}
	if err := r.Study.Results.AskScene(r.Context(), r.Niche, id, r.FormValue("scene")); err != nil {
		return err
	}
	return r.To(r.Path(fmt.Sprint("ideas/", id)) + "#elsewhere")
}
