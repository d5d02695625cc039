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
	"cmp"
	"fmt"
	"math"
	"slices"
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

// Question is one of the seven.
type Question string

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

// Questions lists them.
var Questions = []Question{GetIn, Searched, Write, Small, Pay, Last, Hold}

// Verdict is how a question is answered.
type Verdict string

// The verdicts. Of the last question Yes says that it is open to others.
const (
	Yes    Verdict = "yes"
	Partly Verdict = "partly"
	No     Verdict = "no"
	Cannot Verdict = "cannot be told yet"
)

// Evidence is one fact that an answer rests on.
type Evidence struct {
	What string // a topic's lead, a site
	Says string
}

// Answer is one question, answered.
type Answer struct {
	Question Question
	Verdict  Verdict
	Figure   float64
	Range    Range // where not all is looked up: eight times in ten the whole lies in it
	Sampled  bool  // it is so
	Sure     bool  // both ends of the range give the same verdict
	Bar      Bar
	Because  string
	Evidence []Evidence // the strongest first
}

// Case is a niche with its seven answers.
type Case struct {
	Niche   string
	Answers []Answer // as Questions
}

// Passed is how many questions are answered yes.
func (c Case) Passed() int {
	n := 0
	for _, a := range c.Answers {
		if a.Verdict == Yes {
			n++
		}
	}
	return n
}

// Fails lists the questions that are answered no: one is enough to say so plainly.
func (c Case) Fails() []Question {
	var out []Question
	for _, a := range c.Answers {
		if a.Verdict == No {
			out = append(out, a.Question)
		}
	}
	return out
}

// Weakest is the question that is farthest from yes, of those that can be told; "" where none can.
func (c Case) Weakest() (q Question) {
	least := math.Inf(1)
	for _, a := range c.Answers {
		if a.Verdict == Cannot {
			continue
		}
		if x := a.Reached(); x < least {
			least, q = x, a.Question
		}
	}
	return q
}

// Reached is how much of what yes asks for there is: 1 is just enough.
func (a Answer) Reached() float64 {
	if a.Bar.Yes <= 0 {
		return 1
	}
	return a.Figure / a.Bar.Yes
}

// Turns says what would turn an answer into yes; "" where it is yes, or cannot be told.
func (a Answer) Turns() string {
	if a.Verdict == Yes || a.Verdict == Cannot {
		return ""
	}
	lack := a.Bar.Yes - a.Figure
	switch a.Question {
	case GetIn:
		return fmt.Sprintf("%.0f more topics within reach", math.Ceil(lack))
	case Searched:
		return fmt.Sprintf("%.0f more searches a month", math.Ceil(lack))
	case Write:
		return fmt.Sprintf("%.0f more topics of that size", math.Ceil(lack))
	case Small:
		return fmt.Sprintf("%.0f more such sites", math.Ceil(lack))
	case Pay:
		return fmt.Sprintf("%.2f more a month", lack)
	case Last:
		return fmt.Sprintf("%.0f %% more of the searches in topics that last", math.Ceil(100*lack))
	}
	if lack <= 0 {
		return "fewer results in the hands of a few"
	}
	return fmt.Sprintf("footholds in %.0f %% more of the results", math.Ceil(100*lack))
}

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

// mostEvidence is how many facts an answer lists.
const mostEvidence = 8

func (n Niche) put(b Bars) Case {
	v := view{Niche: n, bars: b}
	for _, t := range n.Topics {
		if !t.Judged {
			continue
		}
		v.judged = append(v.judged, t)
		if !t.Locked && b.winnable(t) {
			v.open = append(v.open, t)
		}
	}
	slices.SortStableFunc(v.open, func(x, y Topic) int { return cmp.Compare(y.Searches, x.Searches) })
	return Case{n.Name, []Answer{v.getIn(), v.searched(), v.write(), v.small(), v.pay(), v.last(), v.hold()}}
}

// view is a niche with what the questions share.
type view struct {
	Niche
	bars   Bars
	judged []Topic
	open   []Topic // judged, and within my reach; the most searched first
}

func (b Bars) winnable(t Topic) bool {
	most := b.Difficulty
	if b.Relative {
		most += t.Reach
	}
	return math.Round(t.Difficulty) <= math.Round(most) // as they are shown
}

// within says what is meant by a topic that I can win.
func (b Bars) within() string {
	switch {
	case !b.Relative:
		return fmt.Sprintf("of difficulty %g at most", b.Difficulty)
	case b.Difficulty == 0:
		return "within my reach"
	}
	return fmt.Sprintf("within my reach or up to %g beyond it", b.Difficulty)
}

// lookedUp says how much of the niche an answer rests on.
func (v view) lookedUp() string {
	return fmt.Sprintf("%d of %d topics are looked up", len(v.judged), len(v.Topics))
}

func answer(q Question, figure float64, bar Bar, known bool, because string, evidence []Evidence) Answer {
	a := Answer{Question: q, Verdict: bar.of(figure), Figure: figure, Bar: bar, Because: because, Evidence: evidence,
		Range: Range{figure, figure, figure}, Sure: true}
	if !known {
		a.Verdict, a.Figure = Cannot, 0
	}
	return a
}

// EnoughDrawn is how many topics must be drawn and looked up before they tell something of the others (ours).
const EnoughDrawn = 20

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
	if drawn < EnoughDrawn {
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

// counted is an answer that is a sum over topics. Where not all are looked up, those that were drawn tell the rest; too
// few of them tell that it is so much at least.
func (v view) counted(q Question, bar Bar, known bool, size func(Topic) float64, because string,
	evidence []Evidence) Answer {
	r, told := Whole(v.Topics, func(t Topic) bool { return !t.Locked && v.bars.winnable(t) }, size)
	a := answer(q, r.Likely, bar, known, because, evidence)
	if a.Verdict == Cannot {
		return a
	}
	a.Range = r
	switch {
	case !told && a.Verdict != Yes:
		a.Verdict, a.Sure = Cannot, false
		a.Because += "; that is so much at least, and too few were drawn at random to tell the rest"
	case told && len(v.judged) < len(v.Topics):
		a.Sampled, a.Sure = true, bar.of(r.Low) == bar.of(r.High)
	}
	return a
}

func topics(list []Topic, says func(Topic) string) []Evidence {
	var out []Evidence
	for _, t := range list[:min(mostEvidence, len(list))] {
		out = append(out, Evidence{t.Lead, says(t)})
	}
	return out
}

func (v view) getIn() Answer {
	ideas := 0
	for _, t := range v.open {
		ideas += t.Ideas
	}
	return v.counted(GetIn, v.bars.Open, len(v.judged) > 0, func(Topic) float64 { return 1 },
		fmt.Sprintf("%d topics (%d ideas) are %s; %s", len(v.open), ideas, v.bars.within(), v.lookedUp()),
		topics(v.open, func(t Topic) string {
			return fmt.Sprintf("difficulty %.0f, my reach %.0f, %d footholds", t.Difficulty, t.Reach, t.Footholds)
		}))
}

func (v view) searched() Answer {
	sum, unknown := 0.0, 0
	for _, t := range v.open {
		if t.Searches < 0 {
			unknown++
		}
		sum += math.Max(0, t.Searches)
	}
	because := fmt.Sprintf("the topics I can get into are searched %.0f times a month", sum)
	if unknown > 0 {
		because += fmt.Sprintf("; of %d of them that is not known", unknown)
	}
	return v.counted(Searched, v.bars.Demand, len(v.judged) > 0 && (unknown < len(v.open) || len(v.open) == 0),
		func(t Topic) float64 { return math.Max(0, t.Searches) }, because,
		topics(v.open, func(t Topic) string { return fmt.Sprintf("%.0f searches a month", math.Max(0, t.Searches)) }))
}

func (v view) write() Answer {
	var large []Topic
	known := 0
	for _, t := range v.Topics {
		if t.Searches >= 0 {
			known++
		}
		if t.Searches >= v.bars.Searches {
			large = append(large, t)
		}
	}
	slices.SortStableFunc(large, func(x, y Topic) int { return cmp.Compare(y.Searches, x.Searches) })
	return answer(Write, float64(len(large)), v.bars.Enough, known > 0,
		fmt.Sprintf("%d phrases are %d topics; %d of these are searched %.0f times a month or more", v.Ideas,
			len(v.Topics), len(large), v.bars.Searches),
		topics(large, func(t Topic) string { return fmt.Sprintf("%.0f searches a month, %d ideas", t.Searches, t.Ideas) }))
}

func (v view) small() Answer {
	var done []Site
	unknown := 0
	for _, s := range v.Sites {
		few := s.Phrases < v.bars.Phrases
		if s.Standing > v.bars.Standing || few && !s.AtLeast || s.Months > v.bars.Months || s.Pages > v.bars.Pages {
			continue
		}
		if s.Months < 0 || s.Pages < 0 || few {
			unknown++
			continue
		}
		done = append(done, s)
	}
	slices.SortStableFunc(done, func(x, y Site) int { return cmp.Compare(y.Phrases, x.Phrases) })
	because := fmt.Sprintf("%d of %d sites have a standing of %g or less, are %d months old at most, and stand for "+
		"%d phrases or more with %d pages at most",
		len(done), len(v.Sites), v.bars.Standing, v.bars.Months, v.bars.Phrases, v.bars.Pages)
	if unknown > 0 {
		because += fmt.Sprintf("; %d more may, whose age, pages or phrases are not known", unknown)
	}
	var facts []Evidence
	for _, s := range done[:min(mostEvidence, len(done))] {
		facts = append(facts, Evidence{s.Name,
			fmt.Sprintf("standing %.0f, %d months, %d pages, %d phrases, about %.0f visits a month", s.Standing, s.Months,
				s.Pages, s.Phrases, s.Visits)})
	}
	// That none is seen tells nothing while the age of those that could be one is not known.
	return answer(Small, float64(len(done)), v.bars.Done, len(v.Sites) > 0 && (len(done) > 0 || unknown == 0), because,
		facts)
}

func (v view) pay() Answer {
	var sum worth.Micros
	var costs []worth.Micros
	sell, priced := 0, slices.Clone(v.open)
	priced = slices.DeleteFunc(priced, func(t Topic) bool { return t.CPC < 0 || t.Searches < 0 })
	for _, t := range priced {
		sum += worth.Cautious(t.Searches, t.CPC)
		costs = append(costs, t.CPC)
	}
	for _, t := range v.open {
		if t.Sells {
			sell++
		}
	}
	slices.Sort(costs)
	because := "no topic that I can get into has a cost per click"
	if len(costs) > 0 {
		middle := costs[len(costs)/2]
		side := "at or above"
		if middle < v.bars.CPC {
			side = "below"
		}
		because = fmt.Sprintf("a cautious tenth of what advertisers would pay is %.2f a month over %d topics; the "+
			"middle cost per click is %.2f, %s the bar of %.2f; %d of %d topics are for people who compare or buy",
			units(sum), len(priced), units(middle), side, units(v.bars.CPC), sell, len(v.open))
	}
	slices.SortStableFunc(priced, func(x, y Topic) int {
		return cmp.Compare(worth.Cautious(y.Searches, y.CPC), worth.Cautious(x.Searches, x.CPC))
	})
	cautious := func(t Topic) float64 {
		if t.CPC < 0 || t.Searches < 0 {
			return 0
		}
		return units(worth.Cautious(t.Searches, t.CPC))
	}
	return v.counted(Pay, v.bars.Pays, len(v.judged) > 0 && (len(costs) > 0 || len(v.open) == 0), cautious, because,
		topics(priced, func(t Topic) string {
			return fmt.Sprintf("%.2f a click, %.2f a month", units(t.CPC), units(worth.Cautious(t.Searches, t.CPC)))
		}))
}

// units writes an amount for reading; it is never added up.
func units(m worth.Micros) float64 { return float64(m) / 1_000_000 }

func (v view) last() Answer {
	all, lasting := 0.0, 0.0
	var going []Topic
	steady, watched := 0, 0
	for _, t := range v.Topics {
		if t.Steadiness != nil && t.Steadiness.Known {
			if watched++; t.Steadiness.Steady {
				steady++
			}
		}
		if t.Lasting == "" || t.Lasting == demand.TooFew || t.Searches < 0 {
			continue
		}
		all += t.Searches
		if t.Lasting == demand.Fade || t.Lasting == demand.Flash {
			going = append(going, t)
		} else {
			lasting += t.Searches
		}
	}
	share := lasting / math.Max(all, 1)
	because := fmt.Sprintf("%.0f %% of the searches whose course is known belong to topics that neither fade nor "+
		"were a flash", 100*share)
	if watched > 0 {
		because += fmt.Sprintf("; the results of %d of %d watched topics are steady", steady, watched)
	}
	slices.SortStableFunc(going, func(x, y Topic) int { return cmp.Compare(y.Searches, x.Searches) })
	return answer(Last, share, v.bars.Lasts, all > 0, because,
		topics(going, func(t Topic) string { return fmt.Sprintf("%s, %.0f searches a month", t.Lasting, t.Searches) }))
}

func (v view) hold() Answer {
	var sites []string
	footholds := 0
	for _, t := range v.judged {
		for _, r := range t.Results {
			sites = append(sites, r.Site)
			if r.Foothold {
				footholds++
			}
		}
	}
	index, shares := serp.Concentration(sites)
	share := float64(footholds) / math.Max(1, float64(len(sites)))
	names := make([]string, 0, len(shares))
	for name := range shares {
		names = append(names, name)
	}
	slices.SortFunc(names, func(x, y string) int { return cmp.Or(cmp.Compare(shares[y], shares[x]), cmp.Compare(x, y)) })
	var facts []Evidence
	for _, name := range names[:min(mostEvidence, len(names))] {
		facts = append(facts, Evidence{name, fmt.Sprintf("%.0f %% of the results", 100*shares[name])})
	}
	a := answer(Hold, share, v.bars.Held, len(sites) > 0, fmt.Sprintf(
		"%.0f %% of %d results are footholds; %d sites share them, with a concentration of %.3f (1 is a single site)",
		100*share, len(sites), len(shares), index), facts)
	if a.Verdict == Yes && index > v.bars.Crowded {
		a.Verdict = Partly
		a.Because += fmt.Sprintf(", above the bar of %g: few hold much of it", v.bars.Crowded)
	}
	return a
}
