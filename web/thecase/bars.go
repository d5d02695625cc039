package thecase

import (
	"cmp"
	"math"
	"regexp"
	"strconv"
	"strings"

	"cleverniche/core/niche"
	"cleverniche/study/input"
	"cleverniche/study/thecase"
	"cleverniche/web/frame"
)

// field is a number that can be moved.
type field struct {
	Name, Label, Value, Unit string
}

// thousands is a number whose commas stand between groups of three; any other comma stands before decimals.
var thousands = regexp.MustCompile(`^\d{1,3}(,\d{3})+(\.\d+)?$`)

// settingsIn are the niche's bars and assumptions, with what the address or a form says otherwise.
func settingsIn(r *frame.Request, set thecase.Settings) (out thecase.Settings, err error) {
	out = set
	for _, f := range fieldsOf(&out) {
		text := strings.TrimSpace(r.FormValue(f.name))
		if text == "" {
			continue
		}
		if thousands.MatchString(text) {
			text = strings.ReplaceAll(text, ",", "")
		}
		x, bad := strconv.ParseFloat(strings.ReplaceAll(text, ",", "."), 64)
		if bad != nil || math.IsNaN(x) || math.IsInf(x, 0) {
			return set, input.Bad("bars", "“%s” is no number.", input.Clip(text, 20))
		}
		if f.get() != x { // what is shown rounded stays as it is
			f.set(x)
		}
	}
	return out, cmp.Or(out.Bars.Check(), out.Assumed.Check())
}

// moving is a number of the settings, by its name in forms.
type moving struct {
	name, label, unit string
	question          niche.Question // that it belongs to; "" it is an assumption
	get               func() float64
	set               func(float64)
}

func number(name, label, unit string, q niche.Question, at *float64) moving {
	return moving{name, label, unit, q, func() float64 { return *at }, func(x float64) { *at = x }}
}

func whole(name, label, unit string, q niche.Question, at *int) moving {
	return moving{name, label, unit, q, func() float64 { return float64(*at) },
		func(x float64) { *at = int(math.Round(max(-1e6, min(x, 1e6)))) }}
}

// percentage is a share that is shown as a hundredfold.
func percentage(name, label string, q niche.Question, at *float64) moving {
	return moving{name, label, "%", q, func() float64 { return math.Round(1000**at) / 10 },
		func(x float64) { *at = x / 100 }}
}

// fieldsOf are all numbers that can be moved.
func fieldsOf(s *thecase.Settings) []moving {
	b, a := &s.Bars, &s.Assumed
	return []moving{
		number("hours", "hours a week", "", "", &a.WeekHours),
		number("most", "hours in all, 0 until it runs dry", "", "", &a.MostHours),
		number("bar", "an hour must bring", "money", "", &a.Bar),
		number("lead", "months to the place", "", "", &a.LeadMonths),
		number("growth", "of what such sites gain, 0 to 5", "", "", &a.Growth),
		number("tied", "outcomes tied, 0 to 0.99", "", "", &a.Tied),
		number("chosen", "of its forecast comes, 0 to 1", "", "", &a.Chosen),
		number("open-yes", "yes from", "topics", niche.GetIn, &b.Open.Yes),
		number("open-partly", "partly from", "topics", niche.GetIn, &b.Open.Partly),
		number("difficulty", "difficulty at most", "", niche.GetIn, &b.Difficulty),
		number("demand-yes", "yes from", "searches", niche.Searched, &b.Demand.Yes),
		number("demand-partly", "partly from", "searches", niche.Searched, &b.Demand.Partly),
		number("enough-yes", "yes from", "topics", niche.Write, &b.Enough.Yes),
		number("enough-partly", "partly from", "topics", niche.Write, &b.Enough.Partly),
		number("searches", "each searched", "a month", niche.Write, &b.Searches),
		number("done-yes", "yes from", "sites", niche.Small, &b.Done.Yes),
		number("done-partly", "partly from", "sites", niche.Small, &b.Done.Partly),
		number("standing", "standing at most", "", niche.Small, &b.Standing),
		whole("age", "months old at most", "", niche.Small, &b.Months),
		whole("pages", "pages at most", "", niche.Small, &b.Pages),
		whole("phrases", "phrases at least", "", niche.Small, &b.Phrases),
		number("pays-yes", "yes from", "a month", niche.Pay, &b.Pays.Yes),
		number("pays-partly", "partly from", "a month", niche.Pay, &b.Pays.Partly),
		percentage("lasts-yes", "yes from", niche.Last, &b.Lasts.Yes),
		percentage("lasts-partly", "partly from", niche.Last, &b.Lasts.Partly),
		percentage("held-yes", "yes from", niche.Hold, &b.Held.Yes),
		percentage("held-partly", "partly from", niche.Hold, &b.Held.Partly),
	}
}

func shown(m moving) field {
	return field{m.name, m.label, strconv.FormatFloat(m.get(), 'f', -1, 64), m.unit}
}
