package niche

import (
	"fmt"
	"math"
)

// Question is one of the seven.
type Question string

// Questions lists them.
var Questions = []Question{GetIn, Searched, Write, Small, Pay, Last, Hold}

// Verdict is how a question is answered.
type Verdict string

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
