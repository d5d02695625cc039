package idea

import (
	"fmt"
	"strings"

	"cleverniche/core/difficulty"
	"cleverniche/core/serp"
	"cleverniche/study/results"
	"cleverniche/web/draw"
	"cleverniche/web/frame"
)

// result is one of the results, with what it holds on the scale.
type result struct {
	serp.Entry
	Holds   float64
	Mine    bool
	Name    string // of its site, short
	Reasons []string
	Reading string // what the place asks, what it holds, and what that means, in words
}

// place is one of the ten, with who stands there.
type place struct {
	Rank    int
	Asks    float64
	Covered bool    // by my reach
	There   *result // nil where the engine has no more results
	Says    string  // all of it in words
}

// Class is what the place is in the style sheet.
func (p place) Class() string {
	switch {
	case p.There == nil:
		return "empty-place"
	case p.There.Mine:
		return "mine"
	case p.There.Foothold:
		return "foothold"
	}
	return "held-place"
}

// How high stairs are drawn.
const (
	drawerHeight = 132
	storyHeight  = 230
)

// Stairs are the places, drawn.
func (v View) Stairs() draw.Stairs {
	var asks, holds []float64
	for _, p := range v.Places {
		asks = append(asks, p.Asks)
		if p.There != nil {
			holds = append(holds, p.There.Holds)
		}
	}
	height := float64(drawerHeight)
	if v.Whole {
		height = storyHeight
	}
	return draw.Climb(asks, holds, v.Evidence.Verdict.Reach, height)
}

// climb fills in the stairs, and the results behind them.
func (v *View) climb(ev results.Evidence) {
	var results []result
	for i, e := range ev.Reading.Entries {
		r := result{Entry: e, Holds: ev.Holds(e), Name: strings.Split(e.Site, ".")[0]}
		for _, p := range ev.MyPages {
			r.Mine = r.Mine || p == e.Position
		}
		for _, w := range e.Weak {
			r.Reasons = append(r.Reasons, string(w.Weakness))
		}
		if i < len(ev.Verdict.Stairs) {
			r.Reading = r.against(ev.Verdict.Reach)
			results = append(results, r)
		} else {
			v.Behind = append(v.Behind, r)
		}
	}
	covered := 0
	for i, asks := range ev.Verdict.Stairs {
		p := place{Rank: i + 1, Asks: asks, Covered: asks <= ev.Verdict.Reach && ev.Verdict.Locked == ""}
		p.Says = fmt.Sprintf("Place %d asks for %s. ", p.Rank, difficulty.Shown(p.Asks))
		if i < len(results) {
			p.There = &results[i]
			p.Says += p.There.Reading
		} else {
			p.Says += "Nobody stands there."
		}
		if p.Covered {
			covered++
		}
		v.Places = append(v.Places, p)
	}
	v.Covers = coverWords(covered, len(v.Places), ev.Verdict.Reach, ev.Verdict.Locked != "")
}

// coverWords says which places my reach covers: the last so many.
func coverWords(covered, all int, reach float64, locked bool) string {
	mine := "my reach " + difficulty.Shown(reach)
	switch {
	case locked:
		return "locked"
	case covered == 0:
		return mine + " covers no place"
	case covered == 1:
		return fmt.Sprintf("%s covers place %d", mine, all)
	case covered == all:
		return mine + " covers all places"
	}
	return fmt.Sprintf("%s covers places %d to %d", mine, all-covered+1, all)
}

// against says what a result holds against my reach, and why it is a foothold or none. That
// it holds less than its place asks says little by itself about who can be displaced; see
// docs/footholds.md.
func (r result) against(reach float64) string {
	who := fmt.Sprintf("%s holds %s", r.Site, difficulty.Shown(r.Holds))
	weak := strings.Join(r.Reasons, ", ")
	under := r.Holds < reach
	switch {
	case r.Mine:
		return who + ": it is my own page."
	case r.Foothold && under:
		return fmt.Sprintf("%s, less than my page would. A foothold, too: %s.", who, weak)
	case r.Foothold:
		return fmt.Sprintf("%s. A foothold all the same: %s. %s", who, weak, r.lifted())
	case under && weak != "":
		return fmt.Sprintf("%s, less than my page would. By the rule it is no foothold: weak in one thing only (%s).", who,
			weak)
	case under:
		return who + ", less than my page would. By the rule it is no foothold: nothing in it is weak."
	case weak != "":
		return fmt.Sprintf("%s. Weak in one thing (%s), which makes no foothold.", who, weak)
	}
	return who + "."
}

// lifted says what a foothold holds so much by.
func (r result) lifted() string {
	switch {
	case r.SiteStanding > serp.SmallSite:
		return fmt.Sprintf("Its site’s standing of %.0f carries it.", r.SiteStanding)
	case r.Profile.Solid > 0:
		return fmt.Sprintf("What it holds comes by %d solid %s.", r.Profile.Solid,
			frame.Plural(r.Profile.Solid, "link", "links"))
	}
	return "What it holds is how well it answers."
}

// verdictWords is the first sentence of the story.
func verdictWords(ev results.Evidence) string {
	v := ev.Verdict
	switch {
	case v.Locked != "":
		return fmt.Sprintf("Locked: %s. It is not mine to win.", v.Locked)
	case ev.Field().Room(difficulty.TheGoal):
		return "So few pages answer it that any page stands among the first five."
	}
	return difficulty.Says(v.Difficulty, ev.Mine.Counts(), v.Reach, v.TopFive)
}

// task is one thing to do about an idea.
type task struct{ What, Text string }

// toDo says what to do about the idea.
func (v *View) toDo(ev results.Evidence) (out []task) {
	add := func(what, text string) { out = append(out, task{what, text}) }
	if n := len(ev.MyPages); n > 0 {
		add("Mine", fmt.Sprintf("My page stands at %d already: better it instead of writing a rival to it.", ev.MyPages[0]))
	}
	if ev.Verdict.Locked != "" {
		add("Leave it", v.LinksWords)
		return out
	}
	add("To get there", v.Needs())
	if len(ev.MyPages) == 0 {
		add("Write", fmt.Sprintf("%s: %s.", frame.Capital(v.Advice.Kind.One()), v.Advice.Because))
	}
	var at []string
	for _, e := range ev.Reading.Ten() {
		if e.Foothold {
			at = append(at, fmt.Sprint(e.Position))
		}
	}
	if len(at) > 0 {
		add("Stand before", fmt.Sprintf("%s at %s.", frame.Plural(len(at), "The foothold", "The footholds"), listed(at)))
	} else {
		add("Stand before", "Nobody: none of the ten is a foothold.")
	}
	if v.Season.PublishBy != "" {
		add("Publish by", v.Season.PublishBy+". "+v.Season.Words+".")
	}
	return out
}

// listed is "2, 5 and 9".
func listed(list []string) string {
	last := len(list) - 1
	if last < 1 {
		return strings.Join(list, "")
	}
	return strings.Join(list[:last], ", ") + " and " + list[last]
}
