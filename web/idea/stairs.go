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

// result is one of the results, with what can be seen of it on the scale.
type result struct {
	serp.Entry
	Seen    float64
	Mine    bool
	Name    string // of its site, short
	Reasons []string
	Reading string // what can be seen of it, what its place says, and what that means, in words
}

// place is one of the ten, with who stands there.
type place struct {
	Rank    int
	Asks    float64 // what it needs, and so what the result there holds
	Pass    float64 // my chance to pass it
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
	var asks, seen []float64
	for _, p := range v.Places {
		asks = append(asks, p.Asks)
		if p.There != nil {
			seen = append(seen, p.There.Seen)
		}
	}
	height := float64(drawerHeight)
	if v.Whole {
		height = storyHeight
	}
	s := draw.Climb(asks, seen, v.Evidence.Verdict.Reach, height)
	s.Locked = v.Evidence.Verdict.Locked != ""
	return s
}

// climb fills in the stairs, and the results behind them.
func (v *View) climb(ev results.Evidence) {
	var results []result
	for i, e := range ev.Reading.Entries {
		r := result{Entry: e, Seen: ev.Seen(e), Name: strings.Split(e.Site, ".")[0]}
		for _, p := range ev.MyPages {
			r.Mine = r.Mine || p == e.Position
		}
		for _, w := range e.Weak {
			r.Reasons = append(r.Reasons, w.Weakness.String())
		}
		if i < len(ev.Verdict.Stairs) {
			r.Reading = r.against(ev.Verdict.Stairs[i], ev.Verdict.Reach)
			results = append(results, r)
		} else {
			v.Behind = append(v.Behind, r)
		}
	}
	covered := 0
	for i, asks := range ev.Verdict.Stairs {
		p := place{Rank: i + 1, Asks: asks, Covered: asks <= ev.Verdict.Reach && ev.Verdict.Locked == ""}
		if i < len(ev.Verdict.Pass) {
			p.Pass = ev.Verdict.Pass[i]
		}
		p.Says = fmt.Sprintf("No. %d needs a site standing of %s. ", p.Rank, difficulty.Shown(p.Asks))
		if i < len(results) {
			p.There = &results[i]
			p.Says += p.There.Reading
			if !p.There.Mine && ev.Verdict.Locked == "" {
				p.Says += fmt.Sprintf(" Your chance to outrank it: %.0f%%.", 100*p.Pass)
			}
		} else {
			p.Says += "Nobody ranks there."
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
	mine := "your reach " + difficulty.Shown(reach)
	switch {
	case locked:
		return "locked"
	case covered == 0:
		return mine + " covers none of the top ten"
	case covered == 1:
		return fmt.Sprintf("%s covers no. %d", mine, all)
	case covered == all:
		return mine + " covers all places"
	}
	return fmt.Sprintf("%s covers no. %d to %d", mine, all-covered+1, all)
}

// near is by how much what can be seen of a result may differ from what its place says, without a word on it (ours).
const near = 5

// against says what can be seen of a result, what its place says beyond, and why it is a foothold or none. What can be
// seen of a single result says little about who can be outranked; see docs/footholds.md.
func (r result) against(asks, reach float64) string {
	if r.Mine {
		return "This is your own page."
	}
	seen, holds := difficulty.Shown(r.Seen), difficulty.Shown(asks)
	says := fmt.Sprintf("%s looks like a site standing of %s, as its position suggests.", r.Site, seen)
	switch {
	case r.Seen < asks-near:
		says = fmt.Sprintf("%s looks like a site standing of %s, but ranks like %s: something we cannot see helps it.",
			r.Site, seen, holds)
	case r.Seen > asks+near:
		says = fmt.Sprintf("%s looks like a site standing of %s, but ranks lower: %s is enough to outrank it.", r.Site,
			seen,
			holds)
	}
	weak := strings.Join(r.Reasons, ", ")
	switch {
	case r.Foothold && asks <= reach:
		return fmt.Sprintf("%s A foothold within your reach: %s.", says, weak)
	case r.Foothold:
		return fmt.Sprintf("%s A foothold all the same: %s.", says, weak)
	case weak != "":
		return fmt.Sprintf("%s Weak, but no foothold by the rule: %s.", says, weak)
	}
	return says
}

// task is one thing to do about an idea.
type task struct{ What, Text string }

// toDo says what to do about the idea.
func (v *View) toDo(ev results.Evidence) (out []task) {
	add := func(what, text string) { out = append(out, task{what, text}) }
	if n := len(ev.MyPages); n > 0 {
		add("Your page", fmt.Sprintf("It already ranks no. %d. Improve it instead of writing another.", ev.MyPages[0]))
	}
	if ev.Verdict.Locked != "" {
		add("Leave it", v.LinksWords)
		return out
	}
	add("To get there", v.Needs())
	if len(ev.MyPages) == 0 {
		add("Write", fmt.Sprintf("%s: %s.", frame.Capital(v.Advice.Kind.One()), v.Advice.Because))
	}
	add("You can outrank", outranked(ev))
	if v.Season.PublishBy != "" {
		add("Publish by", v.Season.PublishBy+". "+v.Season.Words+".")
	}
	return out
}

// outranked says which of the ten my page would rather stand above than not, and which of them are weak.
func outranked(ev results.Evidence) string {
	var likely, weak []string
	for i, e := range ev.Reading.Ten() {
		if i < len(ev.Verdict.Pass) && ev.Verdict.Pass[i] >= even {
			likely = append(likely, fmt.Sprint(e.Position))
		}
		if e.Foothold {
			weak = append(weak, fmt.Sprint(e.Position))
		}
	}
	says := "No one yet: each of your chances is under half."
	if len(likely) > 0 {
		says = fmt.Sprintf("No. %s: your chance is over half.", listed(likely))
	}
	if len(weak) == 0 {
		return says + " There is no foothold."
	}
	return says + fmt.Sprintf(" %s: no. %s.", frame.Plural(len(weak), "Foothold", "Footholds"), listed(weak))
}

// listed is "2, 5 and 9".
func listed(list []string) string {
	last := len(list) - 1
	if last < 1 {
		return strings.Join(list, "")
	}
	return strings.Join(list[:last], ", ") + " and " + list[last]
}
