package niche

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"cleverniche/core/demand"
	"cleverniche/core/serp"
	"cleverniche/core/worth"
)

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
		a.Sampled, a.Sure = true, bar.Same(r)
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
