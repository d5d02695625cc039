// Package idea is the evidence of one idea: short in the drawer of a list, whole on
// its own page, where one supposes what one could put there.
package idea

import (
	"fmt"
	"math"
	"strings"

	"cleverniche/core/demand"
	"cleverniche/core/difficulty"
	"cleverniche/core/intent"
	"cleverniche/core/plan"
	"cleverniche/core/sieve"
	"cleverniche/study/gather"
	"cleverniche/study/ideas"
	"cleverniche/study/money"
	"cleverniche/study/niches"
	"cleverniche/study/results"
	"cleverniche/web/draw"
	"cleverniche/web/engine"
	"cleverniche/web/frame"
	"cleverniche/web/jobs"
)

// View is the evidence of one idea as it is drawn.
type View struct {
	results.Story
	sp         frame.Speaker
	Whole      bool // on the page of the whole story
	If         bool // as it would be, not as it is
	Niche      niches.Niche
	Row        frame.Row
	Subject    *about   // where it is off the niche's subject, or somebody said that it is on it
	ReadAs     string   // what the results took it for, when that is something else
	Places     []place  // of the first page
	Covers     string   // which of them my reach covers, in words
	Behind     []result // those after the ten
	Says       string   // the first sentence: what is asked, what mine counts as, what chance that is
	ToDo       []task
	Model      difficulty.Model
	Engine     engine.View
	Serve      []share
	Year       []month
	YearWords  string
	NoMonths   string // why there is no year to draw
	Season     season
	Estimate   *jobs.Estimate // of looking it up
	Again      *jobs.Estimate // of asking everything again
	Dig        *jobs.Estimate // of digging
	LinksWords string
	FitWords   string
	Found      string   // how it was found, in a few words
	Counts     []figure // of pages and names
	Months     []monthCount
	Words, By  []share // the two witnesses
}

// share is a part of a strip.
type share struct {
	draw.Piece
	Want, Title, Class string
	Share              float64
}

// month is a bar of the latest twelve.
type month struct {
	draw.Bar
	Letter, Text string
	Peak         bool // a month of the yearly peak
}

type monthCount struct{ Month, Count string }

// Of returns the evidence of an idea of the request's niche.
func Of(r *frame.Request, id uint) (View, error) { return ofIf(r, id, nil) }

// ofIf returns it as it would be; nil is as it is.
func ofIf(r *frame.Request, id uint, what *ideas.Suppose) (View, error) {
	b, err := r.Table()
	if err != nil {
		return View{}, err
	}
	story, err := r.Study.Results.StoryIf(r.Context(), r.Niche, b, id, what)
	if err != nil {
		return View{}, err
	}
	sp := r.Speak()
	v := View{Story: story, sp: sp, Niche: r.Niche, Row: sp.Row(story.Idea), Found: foundWords(story.Origins)}
	v.Subject = aboutOf(story.Idea)
	series := story.Idea.Series()
	v.Counts = countsOf(story.Idea, sp)
	v.Season = seasonOf(series, r.Now())
	v.Year, v.YearWords = yearOf(series.Latest(12), v.Season.peak, sp)
	v.NoMonths = "Not looked up yet."
	if story.Idea.Value(sieve.Searches).Known {
		source, _ := story.Idea.Said(sieve.Searches)
		v.NoMonths = frame.Capital(source) + " gives no months."
	}
	for i := len(series.Counts) - 1; i >= 0; i-- {
		c := series.Counts[i]
		v.Months = append(v.Months, monthCount{c.Month.String(), countWords(c, sp)})
	}
	dig, err := r.Study.Gathering.Estimate(r.Context(), r.Niche, gather.PlanFrom(story.Idea))
	if err != nil {
		return View{}, err
	}
	v.Dig = &jobs.Estimate{Estimate: dig, Cost: r.Study.Ask.Cost(dig)}
	if story.Evidence == nil {
		e, err := r.Study.Results.Estimate(r.Context(), r.Niche, results.Top(), []uint{id})
		v.Estimate = &jobs.Estimate{Estimate: e, Cost: r.Study.Ask.Cost(e)}
		return v, err
	}
	if v.Season.PublishBy != "" && published(r, story) {
		v.Season.PublishBy = ""
	}
	v.drawEvidence(*story.Evidence)
	return v, nil
}

// about is what is told of an idea's subject.
type about struct {
	Is, Why string
	Hand    bool
}

// aboutOf tells it where there is something to say; nil where it is on the subject as most are.
func aboutOf(i ideas.Idea) *about {
	v := i.Value(sieve.Subject)
	hand := i.Row.SideHand != 0
	if !i.Off() && !hand {
		return nil
	}
	return &about{sieve.Subject.NameOf(v), sieve.Subject.Explain(i), hand}
}

// published reports whether a page of mine answers an idea already: one ranks, or its article is out.
func published(r *frame.Request, story results.Story) bool {
	if len(story.Evidence.MyPages) > 0 {
		return true
	}
	topics, err := r.Topics()
	if err != nil {
		return false
	}
	one, err := topics.Of(story.Idea.ID)
	return err == nil && one.State() == plan.Published
}

// drawEvidence fills in what the evidence gives.
func (v *View) drawEvidence(ev results.Evidence) {
	v.Model = ev.Engine()
	v.Engine = engine.Of(v.Model)
	v.climb(ev)
	v.Serve = strip(served(ev.Reading.Serve))
	v.Words, v.By = strip(ev.Intent.Words.Shares), strip(ev.Intent.Ten.Shares)
	if read := ev.Reading.ReadAs; read != ev.Phrase {
		v.ReadAs = read
	}
	v.LinksWords, v.FitWords = needed(ev)
	v.Says, v.ToDo = ev.Says(), v.toDo(ev)
}

// even are even odds.
const even = 0.5

// needed says what even odds of the top five take, in links and in fit.
func needed(ev results.Evidence) (links, fit string) {
	v := ev.Verdict
	switch {
	case v.Locked != "":
		return "Nothing you can do.", ""
	case v.TopFive.Mean >= even:
		return "Your reach is already enough for a 50% chance of the top five.", ""
	case v.LinksOK:
		links = fmt.Sprintf("%s solid %s to the page.", frame.Capital(difficulty.Number(v.Links)),
			frame.Plural(v.Links, "link", "links"))
	default:
		links = "More links than a small site gets."
	}
	switch {
	case v.FitOK && v.FitNeeded > difficulty.WellMade:
		return links, fmt.Sprintf("Or outstanding content: fit %.0f.", math.Ceil(v.FitNeeded))
	case v.FitOK:
		return links, fmt.Sprintf("Or better content: a fit of %.0f instead of %.0f.", math.Ceil(v.FitNeeded), ev.Mine.Fit)
	}
	return links, "Better content alone will not do it."
}

// Needs is both.
func (v View) Needs() string { return strings.TrimSpace(v.LinksWords + " " + v.FitWords) }

// countsOf are the figures of an idea that are asked for beside the ten.
func countsOf(i ideas.Idea, sp frame.Speaker) (out []figure) {
	for _, f := range []*sieve.Figure{sieve.ExactPages, sieve.TitlePages, sieve.FreeName} {
		v := i.Value(f)
		if !v.Known {
			continue
		}
		c := figure{Label: f.Name, Text: sp.Count(int(v.Number)), Why: sp.Cell(i, f).Why()}
		if f.Form == sieve.Yes {
			c.Label, c.Text = "the phrase is free as a name", frame.YesNo(v.Number == 1)
		}
		out = append(out, c)
	}
	return out
}

func served(serve [4]int) (s intent.Shares) {
	total := 0
	for _, n := range serve {
		total += n
	}
	for i, n := range serve {
		if total > 0 {
			s[i] = float64(n) / float64(total)
		}
	}
	return s
}

// stripWidth is the width of the strip of wants.
const stripWidth = 200

func strip(s intent.Shares) (out []share) {
	for i, p := range draw.Strip(s[:], stripWidth) {
		if w := intent.All[i]; s[w] > 0 {
			out = append(out, share{Piece: p, Want: w.String(), Title: w.Standard(), Share: s[w],
				Class: strings.ToLower(w.String())})
		}
	}
	return out
}

func countWords(c demand.Count, sp frame.Speaker) string {
	if c.Under {
		return "fewer than " + sp.Count(c.Searches)
	}
	return sp.Count(c.Searches)
}

// foundWords says how an idea was found.
func foundWords(origins []results.Origin) string {
	if len(origins) == 0 {
		return ""
	}
	text := ""
	switch o := origins[0]; o.Kind {
	case ideas.FromSeed:
		text = "a seed of yours"
	case ideas.FromList:
		text = "from “" + o.Query + "”"
		if o.Seed != "" {
			text += ", " + o.Seed
		}
	default:
		text = "from “" + o.Seed + "”"
	}
	if k := len(origins) - 1; k > 0 {
		text += fmt.Sprintf(", and %d more %s", k, frame.Plural(k, "way", "ways"))
	}
	return text
}

// Outcome is what the chances come to in visits and money.
func (v View) Outcome() (out []figure) {
	if v.Story.Visits.Because == "" {
		return nil
	}
	out = append(out, figure{"expected visits a month", v.sp.Count(int(math.Round(v.Story.Visits.Number))), ""})
	if v.Niche.VisitMicros > 0 {
		_, low, high := v.Evidence.Clicks()
		each := float64(*v.Idea.Row.Searches) * float64(v.Niche.VisitMicros)
		out = append(out, figure{"expected a month", money.Range(int64(low*each), int64(high*each), v.Niche.Currency), ""})
	}
	return out
}
