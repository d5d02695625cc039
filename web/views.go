package web

import (
	"fmt"
	"html/template"
	"math"
	"strings"
	"time"

	"cleverniche/core/demand"
	"cleverniche/core/intent"
	"cleverniche/core/sieve"
	"cleverniche/store"
	"cleverniche/study"

	"golang.org/x/text/language"
	"golang.org/x/text/message"
	"golang.org/x/text/number"
)

// page is what every whole page shows.
type page struct {
	Title    string
	Stage    string
	Niche    store.Niche
	Niches   []store.Niche
	Trail    []stage
	Standing string
	CSRF     string
	Version  string
	Notice   string
}

// stage is one step of the trail.
type stage struct {
	Name, Href, Count, Question string
	Here, Later                 bool
}

func (s *server) templateFunctions() map[string]any {
	return map[string]any{
		"asset":   func(name string) string { return "/static/" + name + "?v=" + s.version },
		"ago":     func(t time.Time) string { return ago(time.Since(t)) },
		"pick":    func(a, b any) bool { return fmt.Sprint(a) == fmt.Sprint(b) },
		"dict":    dict,
		"add":     func(a, b int) int { return a + b },
		"rounded": func(x float64) string { return fmt.Sprintf("%.0f", x) },
		"one":     func(x float64) string { return fmt.Sprintf("%.1f", x) },
		"percent": func(x float64) string { return fmt.Sprintf("%.0f %%", 100*x) },
		"host":    func(u string) string { return strings.TrimPrefix(strings.TrimPrefix(u, "https://"), "http://") },
		"grouped": func(n int) string { return speak(store.Niche{Language: "en", Country: "US"}).count(n) },
		"safeURL": safeURL,
		"plural":  plural,
		"above":   above,
		"asked":   asked,
		"icon":    func(name string) template.HTML { return icons[name] },
	}
}

// above says how far a step is from a level.
func above(step float64) string {
	if step < 0 {
		return fmt.Sprintf("%.1f below it", -step)
	}
	return fmt.Sprintf("%.1f above it", step)
}

// asked says how much more or less than others an engine asks of newcomers.
func asked(more float64, engine string) string {
	if more < 0 {
		return fmt.Sprintf("%.1f less, since %s asks less of newcomers than the engines measured do on average", -more, engine)
	}
	return fmt.Sprintf("%.1f more, since %s asks more of newcomers than the engines measured do on average", more, engine)
}

// safeURL lets web addresses through only: results are strangers'.
func safeURL(u string) string {
	if strings.HasPrefix(u, "http://") || strings.HasPrefix(u, "https://") {
		return u
	}
	return "#"
}

func dict(pairs ...any) map[string]any {
	m := make(map[string]any, len(pairs)/2)
	for i := 0; i+1 < len(pairs); i += 2 {
		m[fmt.Sprint(pairs[i])] = pairs[i+1]
	}
	return m
}

func plural(n int, one, many string) string {
	if n == 1 {
		return one
	}
	return many
}

// ago says how long ago something was, in the largest whole unit.
func ago(d time.Duration) string {
	for _, u := range []struct {
		size time.Duration
		name string
	}{{365 * 24 * time.Hour, "year"}, {30 * 24 * time.Hour, "month"}, {24 * time.Hour, "day"}, {time.Hour, "hour"}, {time.Minute, "minute"}} {
		if n := int(d / u.size); n > 0 {
			return fmt.Sprintf("%d %s ago", n, plural(n, u.name, u.name+"s"))
		}
	}
	return "just now"
}

// speaker writes numbers the niche's way.
type speaker struct{ p *message.Printer }

func speak(n store.Niche) speaker {
	tag, err := language.Parse(n.Language + "-" + n.Country)
	if err != nil {
		tag = language.English
	}
	return speaker{message.NewPrinter(tag)}
}

func (s speaker) count(n int) string { return s.p.Sprint(number.Decimal(n)) }

// rowView is one line of the list.
type rowView struct {
	NicheID                            uint
	ID                                 uint
	Phrase                             string
	Decision                           sieve.Decision
	Words                              int
	Searches, SearchesTitle            string
	Bars                               string // path of the twelve months
	CPC, CPCTitle, Ads                 string
	Judged                             bool
	JudgeError                         string
	Difficulty, Wedge, DifficultyTitle string
	PageOne, ChanceTitle               string
	Rungs                              []bool
	Footholds                          int
	FootholdsTitle                     string
	Wants, WantsTitle                  string
	Mixed, Selected                    bool
	More                               string // address of the next rows, on the last one
}

func (s speaker) row(r study.Row) rowView {
	v := rowView{NicheID: r.NicheID, ID: r.ID, Phrase: r.Phrase, Decision: sieve.Decision(r.Decision), Words: r.Words,
		Bars: barPath(r.Year, 48, 14), Judged: r.JudgedAt != nil, JudgeError: r.JudgeError}
	v.Searches, v.SearchesTitle = s.searches(r.Idea)
	if r.CPCMicros != nil {
		v.CPC = study.Money(*r.CPCMicros, r.Currency)
		v.CPCTitle = "Cost per click: what advertisers pay, by " + r.DemandSource
	}
	if r.Competition != nil {
		v.Ads = fmt.Sprintf("%.0f %%", 100**r.Competition)
	}
	if !v.Judged {
		return v
	}
	v.Difficulty, v.Wedge = fmt.Sprintf("%.0f", r.Difficulty), wedge(r.Difficulty)
	v.DifficultyTitle = fmt.Sprintf("Difficulty %.1f: the strength that gives even odds of the top five. My reach is %.1f. Looked up %s.",
		r.Difficulty, r.Reach, ago(time.Since(*r.JudgedAt)))
	if r.MyStanding != nil || r.MyLinks != nil || r.MyFit != nil {
		v.DifficultyTitle += " Some of my reach is supposed for this idea alone."
	}
	v.PageOne, v.Rungs = fmt.Sprintf("%.0f %%", 100*r.PageOne), rungs(r.PageOne)
	v.ChanceTitle = fmt.Sprintf("Page-one chance %s: that a well-made page of mine, of reach %.1f, gets among the first ten. Top five %.0f %%.",
		v.PageOne, r.Reach, 100*r.TopFive)
	if r.Locked {
		v.Difficulty, v.DifficultyTitle, v.PageOne = "locked", "Locked: it names a brand whose own site stands first.", "none"
		v.ChanceTitle = "No chance: it is locked."
	}
	v.Footholds = r.Footholds
	v.FootholdsTitle = fmt.Sprintf("%d of the ten are weak enough to stand in front of: small sites with few links, forums, pages that miss the words or answer something else. The picture of the ten names them.", r.Footholds)
	w := intent.Want(r.Want)
	v.Wants, v.Mixed = w.String(), r.Mixed
	v.WantsTitle = "Searchers want to " + strings.ToLower(w.String()) + " (" + w.Standard() + ")"
	if r.Mixed {
		v.WantsTitle += ", and clearly other things too: the results are mixed"
	}
	return v
}

// searches writes an average, never a number for what is only bounded.
func (s speaker) searches(i store.Idea) (text, title string) {
	switch {
	case i.Searches == nil && i.DemandError != "":
		return "?", i.DemandError
	case i.Searches == nil:
		return "–", "Searches are not looked up yet"
	case i.Under:
		return "< " + s.count(*i.Searches), "Fewer than " + s.count(*i.Searches) + " searches a month: below the floor of " + i.DemandSource + ". That is not zero."
	}
	return s.count(*i.Searches), "Average searches a month over the latest twelve months, by " + i.DemandSource + ", " + ago(time.Since(*i.DemandAt))
}

// barPath draws counts as bars in a box, as the data of one SVG path. A missing
// month is a gap; one under the floor is half the floor high.
func barPath(counts []demand.Count, width, height float64) string {
	if len(counts) == 0 {
		return ""
	}
	most := 1.0
	value := func(c demand.Count) float64 {
		if c.Under {
			return float64(c.Searches) / 2
		}
		return float64(c.Searches)
	}
	for _, c := range counts {
		most = math.Max(most, value(c))
	}
	slot := width / 12
	first := counts[len(counts)-1].Month - 11
	var b strings.Builder
	for _, c := range counts {
		h := math.Max(1, height*value(c)/most)
		x := slot * float64(c.Month-first)
		fmt.Fprintf(&b, "M%.1f %.1fh%.1fv%.1fh-%.1fz", x, height-h, slot-1, h, slot-1)
	}
	return b.String()
}

// wedge is the points of a ramp as steep as the number, in a box of 30 by 12.
func wedge(difficulty float64) string {
	rise := 12 * math.Max(0, math.Min(100, difficulty)) / 100
	return fmt.Sprintf("0,12 30,12 30,%.1f", 12-rise)
}

// rungs is a ladder of ten: as many stand as the chance has tenths.
func rungs(p float64) []bool {
	out := make([]bool, 10)
	for i := range out {
		out[i] = float64(i) < math.Round(10*p)
	}
	return out
}

// icons are from Bootstrap Icons, MIT; drawn in the text's colour.
var icons = map[string]template.HTML{
	"keep": `<svg class="icon" viewBox="0 0 16 16" aria-hidden="true"><path d="M8 1 15 8 8 15 1 8z"/></svg>`,
}
