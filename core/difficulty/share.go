package difficulty

import (
	"fmt"
	"strings"
)

// Share is how much of all that counts one trait counts on an engine, 0 to 1, with the range in which that lies at
// Level, and how much it usually counts.
type Share struct {
	Name          string
	Is, Low, High float64
	Usual         float64
}

// More reports whether it counts more than usual, as far as Level is sure.
func (s Share) More() bool { return s.Low > s.Usual }

// Less reports whether it counts less than usual, as far as Level is sure.
func (s Share) Less() bool { return s.High < s.Usual }

// Shares are what the engine leans on, trait by trait.
func (m Model) Shares() (out []Share) {
	usual, _ := sharesOf(m.Prior.Mean)
	for i, name := range TraitNames {
		s := Share{Name: name, Usual: usual[i]}
		if is, ok := sharesOf(m.Leans.Mean); ok {
			s.Is = is[i]
		}
		values := make([]float64, len(m.draws))
		for d, one := range m.draws {
			of, _ := sharesOf(one.w)
			values[d] = of[i]
		}
		s.Low, s.High = s.Is, s.Is
		if len(values) > 0 {
			low, high := m.within(values)
			s.Low, s.High = min(low, s.Is), max(high, s.Is)
		}
		out = append(out, s)
	}
	return out
}

// sharesOf are weights as shares of their sum; ok is false when there is none.
func sharesOf(w vector) (out vector, ok bool) {
	sum := 0.0
	for _, x := range w {
		sum += max(0, x)
	}
	if sum == 0 {
		return out, false
	}
	for i, x := range w {
		out[i] = max(0, x) / sum
	}
	return out, true
}

// Learnt says from how much the forecasts were learnt: "learnt from 112 results pages".
func Learnt(pages int) string {
	switch pages {
	case 0:
		return "not learnt from any results page yet"
	case 1:
		return "learnt from 1 results page"
	}
	return fmt.Sprintf("learnt from %d results pages", pages)
}

// LeansOn says in a sentence what the engine leans on, as far as that differs from what is usual.
func (m Model) LeansOn() string {
	if m.Pages == 0 {
		return "Not known yet. Forecasts use what engines usually lean on. Each look-up teaches more."
	}
	var more, less []string
	for _, s := range m.Shares() {
		switch {
		case s.More():
			more = append(more, s.Name)
		case s.Less():
			less = append(less, s.Name)
		}
	}
	switch {
	case len(more) == 0 && len(less) == 0:
		return "So far this engine looks like most engines."
	case len(less) == 0:
		return fmt.Sprintf("On this engine %s %s more than usual.", listed(more), counts(more))
	case len(more) == 0:
		return fmt.Sprintf("On this engine %s %s less than usual.", listed(less), counts(less))
	}
	return fmt.Sprintf("On this engine %s %s more than usual, and %s less.", listed(more), counts(more), listed(less))
}

func counts(list []string) string {
	if len(list) == 1 && !strings.HasPrefix(list[0], "links") {
		return "counts"
	}
	return "count"
}

// listed is "a, b and c", each with its article.
func listed(list []string) string {
	with := make([]string, len(list))
	for i, name := range list {
		if with[i] = "the " + name; strings.HasPrefix(name, "links") || strings.HasPrefix(name, "site") {
			with[i] = name
		}
	}
	last := len(with) - 1
	if last == 0 {
		return with[0]
	}
	return strings.Join(with[:last], ", ") + " and " + with[last]
}
