package frame

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
	"time"

	"cleverniche/core/demand"
	"cleverniche/core/difficulty"
	"cleverniche/core/sieve"
	"cleverniche/study/ideas"
	"cleverniche/study/money"
	"cleverniche/web/draw"
)

// Cell is one figure of an idea as it is shown: what it comes to, and why.
type Cell struct {
	Key, Text string
	Means     string // what such a figure is; lists say it once, over the column
	Title     string // what is to be said of this one
	Year      string // what is drawn beside it
	Ramp      string
	Ladder    []draw.Rungs
	Mixed     bool
	Later     int // so many columns from this one on wait for the ten; 0 it does not
}

// Row is one line of a list of ideas.
type Row struct {
	NicheID, ID      uint
	Phrase           string
	Decision         sieve.Decision
	Judged, Selected bool
	Unread           string // how many of the pages of the ten could not be read; "" none
	JudgeError       string
	Folded, Wordings string // how many other wordings stand behind it, and which
	Labels           []string
	Note             string
	OfTopic          bool
	Hand             bool   // a topic that something was decided on by hand
	State            string // of a topic: how far its article is
	Mine             string // of a topic: which page of my own answers it
	Cells            []Cell // of the columns after the phrase; those that wait for the ten side by side are one

	speaker Speaker
	idea    ideas.Idea
}

// Cell returns the cell of a figure's key, whether the list has a column of it or not.
func (r Row) Cell(key string) Cell { return r.speaker.Cell(r.idea, sieve.FigureNamed(key)) }

// Sizes of what a list draws.
const (
	yearWidth, yearHeight = 48, 14
	rampWidth, rampHeight = 30, 12
	ladderHeight          = 12
)

// Row shows an idea.
func (s Speaker) Row(i ideas.Idea) Row {
	r := Row{NicheID: i.NicheID, ID: i.ID, Phrase: i.Phrase, Decision: i.Decision, Judged: i.LookedUp(),
		JudgeError: i.JudgeError, Labels: i.Labels(), Note: i.Note(), speaker: s, idea: i}
	if n := int(i.Value(sieve.Unread).Number); n > 0 {
		r.Unread = s.Counted(n, "page in the top ten could not be read", "pages in the top ten could not be read")
	}
	if t := i.Joined; t != nil {
		r.OfTopic, r.Phrase, r.Hand, r.State = true, t.Name, t.Changed, t.State
		if t.Page != "" {
			r.Mine = "Your site already has a page for this: " + t.Page
		}
	}
	for _, f := range s.shows[1:] {
		if f.From != sieve.FromTen || r.Judged {
			r.Cells = append(r.Cells, s.Cell(i, f))
		} else if last := len(r.Cells) - 1; last >= 0 && r.Cells[last].Later > 0 {
			r.Cells[last].Later++
		} else {
			r.Cells = append(r.Cells, Cell{Later: 1})
		}
	}
	return r
}

// Cell shows one figure of an idea.
func (s Speaker) Cell(i ideas.Idea, f *sieve.Figure) Cell {
	v := i.Value(f)
	c := Cell{Key: f.Key, Text: s.text(i, f, v), Means: f.Means, Title: s.because(i, f, v)}
	switch f.Drawn {
	case sieve.Year:
		c.Year = draw.Months(demand.Series{Counts: i.Counts}.Latest(12), yearWidth, yearHeight)
	case sieve.Ramp:
		c.Ramp = draw.Ramp(v.Number, rampWidth, rampHeight)
	case sieve.Ladder:
		if v.Known {
			c.Ladder = draw.Drawn(draw.Ladder(i.Value(sieve.PageOneLow).Number, v.Number, i.Value(sieve.PageOneHigh).Number),
				ladderHeight)
		}
	}
	if f.Locked != "" && i.Locked() {
		c.Text = f.Locked
	}
	c.Mixed = f == sieve.Intent && i.Value(sieve.Mixed).Number == 1
	return c
}

// text writes a value, never a number for what is only bounded or not known.
func (s Speaker) text(i ideas.Idea, f *sieve.Figure, v sieve.Value) string {
	switch {
	case !v.Known && f == sieve.Searches && i.DemandError != "":
		return "?"
	case !v.Known && f == sieve.Searches:
		return "–"
	case !v.Known && tooFew(i, f):
		return "too few"
	case !v.Known:
		return ""
	}
	switch f.Form {
	case sieve.Count:
		if f == sieve.Searches && i.Row.Range != "" {
			return s.ranged(i.Row.Range)
		}
		if v.Under {
			return "< " + s.Count(int(v.Number))
		}
		return s.Count(int(v.Number))
	case sieve.Amount:
		if f == sieve.Worth {
			return s.worth(i)
		}
		return money.Text(int64(math.Round(v.Number*1e6)), i.Currency())
	case sieve.Percent:
		return fmt.Sprintf("%.0f %%", 100*v.Number)
	case sieve.Level:
		return fmt.Sprintf("%.0f", v.Number)
	case sieve.Marks:
		return strings.ReplaceAll(v.Text, sieve.LabelMark, ", ")
	case sieve.Tenths:
		return fmt.Sprintf("%.1f", v.Number)
	case sieve.Moment:
		return s.Ago(time.Unix(int64(v.Number), 0))
	case sieve.Yes:
		return YesNo(v.Number == 1)
	case sieve.Scale:
		return difficulty.Shown(v.Number)
	case sieve.Name, sieve.Several:
		return f.NameOf(v)
	}
	return v.Text
}

// worth writes what an idea is worth: as a range, which it is.
func (s Speaker) worth(i ideas.Idea) string {
	micros := func(f *sieve.Figure) int64 { return int64(math.Round(i.Value(f).Number * 1e6)) }
	low, high := micros(sieve.WorthLow), micros(sieve.WorthHigh)
	if !i.Value(sieve.WorthLow).Known {
		low, high = micros(sieve.Worth), micros(sieve.Worth)
	}
	return money.Range(low, high, s.niche.Currency)
}

// tooFew reports whether a figure of the months is not known though the searches are.
func tooFew(i ideas.Idea, f *sieve.Figure) bool {
	return (f == sieve.Trend || f == sieve.Coming) && i.Value(sieve.Searches).Known
}

// Why says what the figure is, and what is to be said of this one.
func (c Cell) Why() string { return sentences(c.Means, c.Title) }

// because says who said a value and when, and what else is to be said of it; or why it is not known.
func (s Speaker) because(i ideas.Idea, f *sieve.Figure, v sieve.Value) string {
	source, at := i.Said(f)
	switch {
	case !v.Known && f.From == sieve.FromDemand && i.DemandError != "":
		return i.DemandError
	case !v.Known && f == sieve.Searches:
		return "Searches are not looked up yet"
	case !v.Known && tooFew(i, f):
		return "Too few searches, or months of them, to tell"
	case !v.Known:
		return ""
	}
	return sentences(f.Explain(i), s.said(i, f, source, at))
}

// said is who said a figure, and when, as sentences.
func (s Speaker) said(i ideas.Idea, f *sieve.Figure, source string, at time.Time) string {
	switch f.From {
	case sieve.FromDemand:
		says := "Source: " + source
		if !at.IsZero() {
			says += ", " + s.Ago(at)
		}
		if f.Form == sieve.Amount && i.Currency() != s.niche.Currency {
			says += ". It is in " + i.Currency() + ". Filters and sorting use " + s.niche.Currency + " and leave it out"
		}
		return says + "."
	case sieve.FromTotals, sieve.FromNames, sieve.FromAges:
		return "Checked " + s.Ago(at) + "."
	case sieve.FromTen:
		says := "Looked up " + s.Ago(at) + "."
		if f == sieve.Difficulty && i.Supposed.Any() {
			says += " Uses the what-if values set for this idea."
		}
		return says
	}
	return ""
}

// sentences puts what there is to say one after the other.
func sentences(says ...string) string {
	return strings.Join(slices.DeleteFunc(says, func(s string) bool { return s == "" }), " ")
}

// ranged writes what a list gave instead of a number: "1,000–10,000", "over 1,000,000".
func (s Speaker) ranged(text string) string {
	low, high, _ := strings.Cut(text, "-")
	from, _ := strconv.Atoi(low)
	if to, err := strconv.Atoi(high); err == nil {
		return s.Count(from) + "–" + s.Count(to)
	}
	return "over " + s.Count(from)
}
