package difficulty

import (
	"fmt"
	"math"
)

// Shown is a place on the scale as people read it: without decimals, and with a + where
// the scale ends.
func Shown(x float64) string {
	if x >= Most {
		return fmt.Sprintf("%.0f+", Most)
	}
	return fmt.Sprintf("%.0f", x)
}

// Spread is the range of a chance in words, "25–55"; "" when there is none.
func (r Range) Spread() string {
	low, high := math.Round(100*r.Low), math.Round(100*r.High)
	if low == high {
		return ""
	}
	return fmt.Sprintf("%.0f–%.0f", low, high)
}

// String is a chance with its range: "38 %, 25–55".
func (r Range) String() string {
	text := fmt.Sprintf("%.0f %%", 100*r.Mean)
	if s := r.Spread(); s != "" {
		text += ", " + s
	}
	return text
}

// numbers are those that text has in words.
var numbers = []string{"no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten"}

// Number is a small number in words, a large one in figures.
func Number(n int) string {
	if n >= 0 && n < len(numbers) {
		return numbers[n]
	}
	return fmt.Sprint(n)
}

// Asks says what a difficulty means, in plain figures: "The top five needs a site standing of 26".
func Asks(difficulty float64) string {
	goal := "top " + Number(TheGoal)
	switch {
	case difficulty >= Most:
		return fmt.Sprintf("No site standing is enough for the %s without links to the page", goal)
	case math.Round(difficulty) == 0:
		return fmt.Sprintf("Any well-made page has a 50%% chance of the %s or better", goal)
	}
	return fmt.Sprintf("The %s needs a site standing of %s", goal, Shown(difficulty))
}

// Says is the first sentence on an idea: what is asked, what mine counts as, and what chance
// that is of the goal. mine begins its middle part, as Counts does.
func Says(difficulty float64, mine string, reach float64, chance Range) string {
	return fmt.Sprintf("%s; %s %s: %s.", Asks(difficulty), mine, Shown(reach), chance)
}

// Counts says what of mine counts as my reach: "with two solid links your 7 counts as".
func (m Mine) Counts() string {
	site := "your " + Shown(m.SiteStanding)
	if m.SiteStanding >= Most {
		site = fmt.Sprintf("your %.0f", Most)
	}
	with := ""
	if m.PlannedLinks > 0 {
		with = fmt.Sprintf("with %s solid link", Number(m.PlannedLinks))
		if m.PlannedLinks > 1 {
			with += "s"
		}
	}
	if math.Round(m.Fit) != math.Round(WellMade) {
		if with != "" {
			with += " and"
		} else {
			with = "with"
		}
		with += fmt.Sprintf(" a fit of %.0f", m.Fit)
	}
	if with == "" {
		return "your site has"
	}
	return with + " " + site + " counts as"
}
