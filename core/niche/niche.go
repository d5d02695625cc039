// Package niche puts seven questions to a whole niche: can I get in, is it searched,
// is there enough to write, has a small site done it, does it pay, will it last, who
// holds it. Each is answered yes, partly, no, or that it cannot be told yet, with the
// figure, the bar it was held against and the evidence. Several niches are compared
// on the same bars.
//
// Topics are counted, not phrases: half or more of a niche's raw phrases are repeats
// of one another (common practice, no source). What has not been looked up is counted
// nowhere, and said.
package niche

import (
	"fmt"
	"math"
	"strings"

	"cleverniche/core/demand"
	"cleverniche/core/serp"
	"cleverniche/core/worth"
)

// Topic is ideas that one article answers, as far as the questions need them.
type Topic struct {
	Lead       string
	Ideas      int
	Searches   float64 // a month, variants counted once; −1 unknown
	Drawn      bool    // at random, to tell something of those that are not looked up
	Judged     bool    // its lead was looked up, and with it:
	Difficulty float64
	Reach      float64 // mine, for it
	Locked     bool
	Footholds  int              // of the ten
	Sells      bool             // for who compares or buys
	CPC        worth.Micros     // −1 unknown
	Lasting    demand.Lasting   // "" unknown
	Steadiness *serp.Steadiness // nil unknown
	Results    []Result
}

// Stratum is the one that it is drawn from.
func (t Topic) Stratum() int { return StratumOf(t.Searches, len(strings.Fields(t.Lead))) }

// Result is one place of a topic's ten.
type Result struct {
	Site     string
	Foothold bool
}

// Site is a site that stands in the niche's results.
type Site struct {
	Name     string
	Standing float64
	Months   int  // since its name was registered; −1 unknown
	Pages    int  // that it is known to have; −1 unknown
	Phrases  int  // that it stands for
	AtLeast  bool // Phrases are those among looked-up tens only: it may stand for more
	Visits   float64
}

// Niche is what is known of one candidate.
type Niche struct {
	Name   string
	Ideas  int // phrases before grouping
	Topics []Topic
	Sites  []Site
}

// Bar is how much of a figure is enough.
type Bar struct {
	Yes, Partly float64
	Fewer       bool // less is better: Yes lies below Partly
}

func (b Bar) of(x float64) Verdict {
	if b.Fewer {
		x, b.Yes, b.Partly = -x, -b.Yes, -b.Partly
	}
	switch {
	case x >= b.Yes:
		return Yes
	case x >= b.Partly:
		return Partly
	}
	return No
}

// Same reports whether both ends of a range give the same verdict.
func (b Bar) Same(r Range) bool { return b.of(r.Low) == b.of(r.High) }

// Check returns why a bar cannot be used, or nil.
func (b Bar) Check() error {
	if math.IsNaN(b.Yes) || math.IsNaN(b.Partly) || b.Yes < 0 || b.Partly < 0 {
		return fmt.Errorf("a bar of %g and %g: neither may be below 0", b.Yes, b.Partly)
	}
	if b.Fewer != (b.Yes < b.Partly) && b.Yes != b.Partly {
		return fmt.Errorf("a bar of %g for yes and %g for partly is the wrong way round", b.Yes, b.Partly)
	}
	return nil
}

// Bars are what the questions are held against. All can be changed.
type Bars struct {
	// Difficulty is what a topic has at most, for it to be one that I can win; Relative
	// counts it from my reach on, so that 0 is within it.
	Difficulty float64
	Relative   bool
	Searches   float64 // a month, from which a topic is worth an article
	Standing   float64 // at most, for a site to be small
	Months     int     // at most, for a site to be young
	Pages      int     // at most, for a site to have few pages
	Phrases    int     // from which a site ranks for much
	CPC        worth.Micros

	Open    Bar // topics within my reach
	Demand  Bar // their searches a month
	Enough  Bar // topics with Searches or more
	Done    Bar // sites that are small, young, and rank for much with few pages
	Pays    Bar // units of money a month: the cautious tenth of the topics I can win
	Lasts   Bar // share of the searches whose demand is not fading
	Held    Bar // share of the results that is held by footholds
	Crowded float64
}

// Default are bars that the trade speaks of, where it names any: a difficulty of 20 for a
// new site, 500 searches, a standing in single figures, half a dollar a click (common
// practice, no source); the others are ours.
var Default = Bars{
	Difficulty: 20, Searches: 500, Standing: 10, Months: 24, Pages: 100, Phrases: 10, CPC: 500_000,
	Open: Bar{Yes: 50, Partly: 15}, Demand: Bar{Yes: 20_000, Partly: 5_000}, Enough: Bar{Yes: 30, Partly: 10},
	Done: Bar{Yes: 2, Partly: 1},
	Pays: Bar{Yes: 200, Partly: 50}, Lasts: Bar{Yes: 0.8, Partly: 0.5}, Held: Bar{Yes: 0.3, Partly: 0.15}, Crowded: 0.1,
}

// Check returns why bars cannot be used, or nil.
func (b Bars) Check() error {
	for _, one := range []struct {
		q   Question
		bar Bar
	}{{GetIn, b.Open}, {Searched, b.Demand}, {Write, b.Enough}, {Small, b.Done}, {Pay, b.Pays}, {Last, b.Lasts},
		{Hold, b.Held}} {
		if err := one.bar.Check(); err != nil {
			return fmt.Errorf("%s %w", one.q, err)
		}
	}
	for name, x := range map[string]float64{"difficulty": b.Difficulty, "standing": b.Standing} {
		if !(x >= 0 && x <= 100) {
			return fmt.Errorf("the bar of %s is %g, not between 0 and 100", name, x)
		}
	}
	return nil
}

// The seven questions, in the order in which they are put.
const (
	GetIn    Question = "Can I get in?"
	Searched Question = "Is it searched?"
	Write    Question = "Is there enough to write?"
	Small    Question = "Has a small site done it?"
	Pay      Question = "Does it pay?"
	Last     Question = "Will it last?"
	Hold     Question = "Who holds it?"
)

// The verdicts. Of the last question Yes says that it is open to others.
const (
	Yes    Verdict = "yes"
	Partly Verdict = "partly"
	No     Verdict = "no"
	Cannot Verdict = "cannot be told yet"
)

// Compare puts the questions to several niches on the same bars.
func Compare(niches []Niche, b Bars) ([]Case, error) {
	if err := b.Check(); err != nil {
		return nil, err
	}
	out := make([]Case, len(niches))
	for i, n := range niches {
		out[i] = n.put(b)
	}
	return out, nil
}

// EnoughDrawn is how many topics must be drawn and looked up before they tell something of the others (ours).
const EnoughDrawn = 20

// fewDrawn are enough where they are a third of all.
const fewDrawn = 8

// Whole is a sum over all topics of a niche that count, each with its size, of which some are looked up: what these
// come to, and what the others do by those that were drawn at random. What was looked up for its promise says nothing
// of the others. Whether a topic counts is known of looked-up ones only, its size of all. Told is false where too few
// were drawn: then the range is what is known, and the whole may be more.
func Whole(list []Topic, does func(Topic) bool, size func(Topic) float64) (r Range, told bool) {
	base, drawn, open := 0.0, 0, 0
	strata := map[int]*Stratum{}
	for _, t := range list {
		k := t.Stratum()
		if strata[k] == nil {
			strata[k] = &Stratum{}
		}
		is := t.Judged && does(t)
		if is {
			base += size(t)
		}
		switch s := strata[k]; {
		case t.Judged && t.Drawn:
			if s.Seen++; is {
				s.Hits++
			}
			drawn++
		case !t.Judged:
			s.Open = append(s.Open, size(t))
			open++
		}
	}
	if open == 0 {
		return Range{base, base, base}, true
	}
	if drawn < EnoughDrawn && (drawn < fewDrawn || 3*drawn < len(list)) {
		return Range{base, base, base}, false
	}
	var parts []Stratum
	for k := range 2*len(Strata) + 2 {
		if s := strata[k]; s != nil {
			parts = append(parts, *s)
		}
	}
	r, _ = Open(parts)
	return Range{base + r.Low, base + r.Likely, base + r.High}, true
}
