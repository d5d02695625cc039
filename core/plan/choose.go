// Package plan chooses what to write: the topics whose expected worth is highest
// within the hours there are, under rules that can be switched, in the order and at
// the time they should be written, each with a brief.
package plan

import (
	"fmt"
	"math"
	"slices"
	"time"
)

// NoHub is the Hub of a topic that hangs on no other.
const NoHub = -1

// Candidate is one article that could be written.
type Candidate struct {
	Name      string
	Hours     int       // to write it, at least 1
	Worth     int64     // expected a month, in any one unit
	Hub       int       // index of the overview that it is a spoke of, or NoHub; a hub hangs on none
	Sells     bool      // commercial: for those who compare or buy
	Footholds int       // among the ten of its lead
	PublishBy time.Time // zero: any time is good
	Chance    float64   // of page one, 0 to 1
	Held      Held
}

// Held is what somebody decided beforehand on a topic.
type Held int8

// What can be decided.
const (
	Free Held = iota
	In        // it is written, whatever it brings
	Out       // it is not
)

// Rules are what a choice keeps to.
type Rules struct {
	SpokesWithHub bool // no spoke without its hub
	// LearnFirst fills the hours with informational topics that have footholds before
	// others get any, as a new site should (common practice, no source).
	LearnFirst bool
	// LateWaits leaves out what cannot be ready for its season any more.
	LateWaits bool
	// LeastChance leaves out what has a smaller chance of page one: what it brings on average, it brings hardly ever.
	LeastChance float64
	// Floor leaves out what brings less than that an hour, in the unit of Worth, and leaves hours free instead.
	Floor   int64
	Today   time.Time
	PerWeek int // hours a week; 0 means that time is no matter
}

// Costs are what the rules cost: by how much the choice would be worth more a month without each of them alone. A rule
// that is not kept costs nothing.
type Costs struct{ SpokesWithHub, LearnFirst, LateWaits, LeastChance, Floor int64 }

// Choice is what to write.
type Choice struct {
	Taken []Task // in the order to write them
	Hours int
	Worth int64
	Left  []Left
	Free  int64 // worth of the choice if nothing were decided beforehand: the difference is what that costs
	Costs Costs
}

// Task is a chosen topic with when it will be ready.
type Task struct {
	Candidate int
	Ready     time.Time // zero when Rules.PerWeek is 0
	Late      bool      // ready after its PublishBy
}

// Left is a topic that was not chosen, and why.
type Left struct {
	Candidate int
	Because   string
}

// MostHours bounds the budget, and with it the time and memory of a choice.
const MostHours = 20_000

// Choose solves the 0/1 knapsack exactly: of all sets of topics within the hours that
// keep the rules, one of the highest worth; of several, the one that leaves most hours.
// What is held in comes before all else, and what is held out is left out.
// It is dynamic programming over hubs with their spokes and whole hours, O(topics ×
// hours) (Kellerer, Pferschy & Pisinger 2004, *Knapsack Problems*, §2.3, and §13.1 for
// the precedence of hubs; from memory).
func Choose(topics []Candidate, hours int, rules Rules) (Choice, error) {
	out, err := choose(topics, hours, rules)
	if err == nil {
		out.Costs, err = rules.costs(topics, hours, out.Worth)
	}
	if err != nil || !slices.ContainsFunc(topics, func(t Candidate) bool { return t.Held != Free }) {
		out.Free = out.Worth
		return out, err
	}
	free := slices.Clone(topics)
	for i := range free {
		free[i].Held = Free
	}
	other, err := choose(free, hours, rules)
	out.Free = other.Worth
	return out, err
}

// costs are what the rules cost of a choice that is worth so much.
func (r Rules) costs(topics []Candidate, hours int, worth int64) (out Costs, err error) {
	without := func(on bool, rules Rules) (cost int64) {
		if !on || err != nil {
			return 0
		}
		var other Choice
		other, err = choose(topics, hours, rules)
		return max(0, other.Worth-worth)
	}
	hub, learn, late, chance, floor := r, r, r, r, r
	hub.SpokesWithHub, learn.LearnFirst, late.LateWaits, chance.LeastChance, floor.Floor = false, false, false, 0, 0
	out = Costs{without(r.SpokesWithHub, hub), without(r.LearnFirst, learn), without(r.LateWaits, late),
		without(r.LeastChance > 0, chance), without(r.Floor > 0, floor)}
	return out, err
}

func choose(topics []Candidate, hours int, rules Rules) (Choice, error) {
	if hours < 0 || hours > MostHours {
		return Choice{}, fmt.Errorf("a budget of %d hours is not between 0 and %d", hours, MostHours)
	}
	for i, t := range topics {
		switch {
		case t.Hours < 1:
			return Choice{}, fmt.Errorf("topic %q takes %d hours", t.Name, t.Hours)
		case t.Worth < 0:
			return Choice{}, fmt.Errorf("topic %q is worth less than nothing", t.Name)
		case t.Worth > math.MaxInt64/int64(len(topics)):
			return Choice{}, fmt.Errorf("topic %q is worth more than can be added up", t.Name)
		case t.Hub != NoHub && (t.Hub < 0 || t.Hub >= len(topics) || t.Hub == i || topics[t.Hub].Hub != NoHub):
			return Choice{}, fmt.Errorf("topic %q is the spoke of what is no hub", t.Name)
		}
	}
	c := chooser{topics: topics, rules: rules, out: make([]string, len(topics)), in: make([]bool, len(topics))}
	left := hours
	for i, t := range topics {
		switch {
		case t.Held == In:
			c.in[i] = true
			left -= t.Hours
		case t.Held == Out:
			c.out[i] = "you left it out"
		case t.Chance < rules.LeastChance:
			c.out[i] = fmt.Sprintf("your chance of page one is under %.0f%%", 100*rules.LeastChance)
		case t.Worth < rules.Floor*int64(t.Hours):
			c.out[i] = "it earns less an hour than you want at least"
		case rules.LateWaits && rules.PerWeek > 0 && !t.PublishBy.IsZero() &&
			rules.readyAfter(t.Hours).After(t.PublishBy):
			c.out[i] = "it cannot be ready by " + t.PublishBy.Format("2 January 2006")
		}
	}
	if left < 0 {
		return Choice{}, &TooMuchError{Held: hours - left, Hours: hours}
	}
	if rules.LearnFirst {
		leads := map[int]bool{} // hubs of some: an overview goes with them, whether it has footholds or not
		for _, t := range topics {
			if teaches(t) && t.Hub != NoHub {
				leads[t.Hub] = true
			}
		}
		c.learns = func(i int) bool { return teaches(topics[i]) || leads[i] && !topics[i].Sells }
		left -= c.fill(left, c.learns)
		c.after = left
	}
	c.fill(left, func(int) bool { return true })
	return c.choice(), nil
}

// TooMuchError says that what is held in takes more hours than there are.
type TooMuchError struct{ Held, Hours int }

func (e *TooMuchError) Error() string {
	return fmt.Sprintf("the articles you included take %d hours, and you have %d", e.Held, e.Hours)
}

// teaches holds for what a new site begins with.
func teaches(t Candidate) bool { return !t.Sells && t.Footholds > 0 }

func (r Rules) readyAfter(hours int) time.Time {
	weeks := math.Ceil(float64(hours) / float64(r.PerWeek))
	return r.Today.AddDate(0, 0, 7*int(weeks))
}

type chooser struct {
	topics []Candidate
	rules  Rules
	in     []bool
	out    []string       // why a topic may not be chosen; "" when it may
	learns func(int) bool // which topics came first; nil when none did
	after  int            // hours that they left
}

// option is what can be taken together: a hub or a topic by itself first, and its
// spokes, which need it.
type option struct {
	first  int
	spokes []int
}

func (c *chooser) options(may func(int) bool) []option {
	free := func(i int) bool { return !c.in[i] && c.out[i] == "" && may(i) }
	spokes := map[int][]int{}
	var out []option
	for i, t := range c.topics {
		if !free(i) {
			continue
		}
		if c.rules.SpokesWithHub && t.Hub != NoHub && !c.in[t.Hub] {
			if free(t.Hub) {
				spokes[t.Hub] = append(spokes[t.Hub], i)
			}
			continue
		}
		out = append(out, option{first: i})
	}
	for i := range out {
		out[i].spokes = spokes[out[i].first]
	}
	return out
}

// column is how an option was used, by the hours there are: whether it is taken, and
// which of its spokes are when it is.
type column struct {
	taken  []bool
	spokes [][]bool
}

// fill takes the best topics into the hours and returns how many it used.
func (c *chooser) fill(hours int, may func(int) bool) (used int) {
	options := c.options(may)
	best := make([]int64, hours+1) // highest worth within so many hours, of the options so far
	with := make([]int64, hours+1) // the same with the option at hand
	columns := make([]column, len(options))
	for n, o := range options {
		first, col := c.topics[o.first], column{make([]bool, hours+1), make([][]bool, len(o.spokes))}
		// With the first taken, the spokes are a knapsack in what is left of the hours.
		for h := range with {
			with[h] = math.MinInt64
			if h >= first.Hours {
				with[h] = best[h-first.Hours] + first.Worth
			}
		}
		for s, spoke := range o.spokes {
			t := c.topics[spoke]
			col.spokes[s] = make([]bool, hours+1)
			for h := hours; h >= t.Hours; h-- {
				if with[h-t.Hours] != math.MinInt64 && with[h-t.Hours]+t.Worth > with[h] {
					with[h] = with[h-t.Hours] + t.Worth
					col.spokes[s][h] = true
				}
			}
		}
		for h := range best {
			if with[h] > best[h] {
				best[h], col.taken[h] = with[h], true
			}
		}
		columns[n] = col
	}
	h := 0
	for i := range best { // the fewest hours that bring as much
		if best[i] > best[h] {
			h = i
		}
	}
	left := h
	take := func(topic int) {
		c.in[topic] = true
		left -= c.topics[topic].Hours
	}
	for n := len(options) - 1; n >= 0; n-- {
		o, col := options[n], columns[n]
		if !col.taken[left] {
			continue
		}
		for s := len(o.spokes) - 1; s >= 0; s-- {
			if col.spokes[s][left] {
				take(o.spokes[s])
			}
		}
		take(o.first)
	}
	return h - left
}

// choice puts what was taken into the order to write it in; see InOrder. A hub comes before its spokes.
func (c *chooser) choice() Choice {
	var out Choice
	var works []Work
	for i, t := range c.topics {
		if c.in[i] {
			out.Taken = append(out.Taken, Task{Candidate: i})
			works = append(works, Work{Hours: t.Hours, Worth: t.Worth, Due: c.due(i), Name: t.Name})
			out.Hours += t.Hours
			out.Worth += t.Worth
			continue
		}
		because := c.out[i]
		switch {
		case because != "":
		case c.rules.SpokesWithHub && t.Hub != NoHub && !c.in[t.Hub]:
			because = fmt.Sprintf("its hub “%s” is not in the proposal", c.topics[t.Hub].Name)
		case c.learns != nil && !c.learns(i) && t.Hours > c.after:
			because = "articles a new site should start with use up the hours"
		default:
			because = "other topics earn more in these hours"
		}
		out.Left = append(out.Left, Left{i, because})
	}
	if c.rules.LearnFirst {
		for k := range works {
			t := c.topics[out.Taken[k].Candidate]
			works[k].After = t.Sells || t.Footholds == 0
		}
	}
	taken := out.Taken
	out.Taken = nil
	for _, i := range InOrder(works, c.rules.Today, c.rules.PerWeek) {
		out.Taken = append(out.Taken, taken[i])
	}
	out.Taken = c.hubsFirst(out.Taken)
	if c.rules.PerWeek > 0 {
		hours := 0
		for i := range out.Taken {
			t := c.topics[out.Taken[i].Candidate]
			hours += t.Hours
			out.Taken[i].Ready = c.rules.readyAfter(hours)
			out.Taken[i].Late = !t.PublishBy.IsZero() && out.Taken[i].Ready.After(t.PublishBy)
		}
	}
	return out
}

// due is when a topic has to be out: a hub with the first of its spokes.
func (c *chooser) due(i int) time.Time {
	first := c.topics[i].PublishBy
	for j, t := range c.topics {
		if c.in[j] && t.Hub == i && !t.PublishBy.IsZero() && (first.IsZero() || t.PublishBy.Before(first)) {
			first = t.PublishBy
		}
	}
	return first
}

// hubsFirst moves each hub before the first of its spokes.
func (c *chooser) hubsFirst(tasks []Task) []Task {
	out := make([]Task, 0, len(tasks))
	written := map[int]bool{}
	for _, task := range tasks {
		for _, i := range []int{c.topics[task.Candidate].Hub, task.Candidate} {
			if i != NoHub && c.in[i] && !written[i] {
				written[i] = true
				out = append(out, Task{Candidate: i})
			}
		}
	}
	return out
}
