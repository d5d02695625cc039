package sieve

import (
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
)

// Limits of a filter.
const (
	mostNumber = 1e15 // larger ones are mistakes, and would not fit the columns
	mostTerms  = 1000
)

// Filter is one criterion with what it asks for. It is plain data, to be saved and
// compared; its zero fields ask for nothing.
type Filter struct {
	By     *Criterion `json:"by"`
	Number float64    `json:"number,omitempty"` // the bar, in the criterion's unit
	// lets through what the figure is not known of, or lies under a source's floor
	Unmeasured bool `json:"unmeasured,omitempty"`
	// words or phrases in normal form; of Edges those that it may start with
	Terms  []string `json:"terms,omitempty"`
	Ends   []string `json:"ends,omitempty"` // of Edges: those that it may end with
	Choice string   `json:"choice,omitempty"`
	Off    bool     `json:"off,omitempty"` // it is kept, and lets everything through
}

// UnmarshalJSON reads a filter; an unknown criterion is an ErrNoCriterion.
func (m *Filter) UnmarshalJSON(data []byte) error {
	type plain Filter
	var read struct {
		By string `json:"by"`
		plain
	}
	if err := json.Unmarshal(data, &read); err != nil {
		return err
	}
	*m = Filter(read.plain)
	if m.By = CriterionNamed(read.By); m.By == nil {
		return ErrNoCriterion(read.By)
	}
	return nil
}

// At is a filter with a bar, in the criterion's unit; the criterion says on which side of
// it ideas have to be.
func At(by *Criterion, n float64) Filter { return Filter{By: by, Number: n, Unmeasured: by.lenient} }

// Holding is a filter of words or phrases in normal form.
func Holding(by *Criterion, terms ...string) Filter { return Filter{By: by, Terms: terms} }

// Choosing is a filter that chooses.
func Choosing(by *Criterion, choice string) Filter { return Filter{By: by, Choice: choice} }

// On is a filter that asks for yes.
func On(by *Criterion) Filter { return Filter{By: by} }

// NotDropped stops dropped ideas.
func NotDropped() Filter { return Choosing(ByDecision, choiceOpen) }

// OnlyDecided lets ideas of one decision through: Kept or Dropped.
func OnlyDecided(d Decision) Filter {
	return Choosing(ByDecision, map[Decision]string{Kept: choiceKept, Dropped: choiceDropped}[d])
}

// Check returns why a filter cannot be used, or nil.
func (m Filter) Check() error {
	terms := slices.Concat(m.Terms, m.Ends)
	switch {
	case m.By == nil:
		return ErrNoCriterion("")
	case math.IsNaN(m.Number) || m.Number < 0 || m.Number > mostNumber:
		return fmt.Errorf("%s: %v is not between 0 and a thousand million million", m.By, m.Number)
	case m.By.Control == OneOf && m.By.named(m.Choice) == "":
		return fmt.Errorf("%s: there is no %q; there are %s", m.By, m.Choice, m.By.listed())
	case (m.By.Control == Words || m.By.Control == Edges) && len(terms) == 0:
		return fmt.Errorf("%s: name at least one word", m.By)
	case len(terms) > mostTerms:
		return fmt.Errorf("%s: %d words are more than %d", m.By, len(terms), mostTerms)
	}
	for _, t := range terms {
		if got := m.By.terms(t); len(got) != 1 || got[0] != t {
			return fmt.Errorf("%s: %q is not in normal form", m.By, t)
		}
	}
	return nil
}

func (c *Criterion) listed() string {
	var out []string
	for _, choice := range c.Choices {
		out = append(out, choice.Key)
	}
	return strings.Join(out, ", ")
}

// String writes the filter in plain words.
func (m Filter) String() string {
	if m.By == nil {
		return "nothing"
	}
	s := m.By.Name
	switch m.By.Control {
	case Edges:
		var parts []string
		if len(m.Terms) > 0 {
			parts = append(parts, "starts with "+strings.Join(m.Terms, ", "))
		}
		if len(m.Ends) > 0 {
			parts = append(parts, "ends with "+strings.Join(m.Ends, ", "))
		}
		s = strings.Join(parts, " or ")
	case Words:
		s += " " + strings.Join(m.Terms, ", ")
	case OneOf:
		s += " " + m.By.named(m.Choice)
	case Bar:
		s += " " + number(m.Number)
		if m.By.Unit == "%" {
			s += " %"
		}
	}
	if m.Unmeasured && !m.By.lenient {
		s += ", or not measured"
	}
	if m.Off {
		s += " (off)"
	}
	return s
}

func number(x float64) string { return strconv.FormatFloat(x, 'f', -1, 64) }

// key tells filters apart that let other ideas through.
func (m Filter) key() string {
	b, _ := json.Marshal(m)
	return string(b)
}

// Sieve is an ordered set of filters with a name, and an order for what it leaves.
type Sieve struct {
	Name    string   `json:"name,omitempty"`
	Why     string   `json:"why,omitempty"`  // what it is good for
	From    string   `json:"from,omitempty"` // the name of the sieve that it was begun with
	Filters []Filter `json:"filters"`
	Sort    string   `json:"sort,omitempty"` // key of a figure; "" is searches
	Down    bool     `json:"down,omitempty"` // largest first
	Then    string   `json:"then,omitempty"` // key of the figure that orders what is equal; "" is none
	Up      bool     `json:"up,omitempty"`   // of that one the smallest first
}

// UnmarshalJSON reads a sieve, also as it was written when filters had another name.
func (s *Sieve) UnmarshalJSON(data []byte) error {
	type plain Sieve
	read := struct {
		*plain
		Meshes []Filter `json:"meshes"`
	}{plain: (*plain)(s)}
	if err := json.Unmarshal(data, &read); err != nil {
		return err
	}
	if s.Filters == nil {
		s.Filters = read.Meshes
	}
	return nil
}

// ErrNoFilter is returned for a saved sieve without any filter.
var ErrNoFilter = errors.New("a sieve has at least one filter")

// Check returns why a sieve cannot be used, or nil.
func (s Sieve) Check() error {
	if len(s.Filters) == 0 {
		return ErrNoFilter
	}
	for i, m := range s.Filters {
		if err := m.Check(); err != nil {
			return fmt.Errorf("filter %d: %w", i+1, err)
		}
	}
	return nil
}

// Waits says why a sieve is of no use yet; "" when it is.
func (s Sieve) Waits() string {
	for _, m := range s.Filters {
		if why := m.By.Waits(); why != "" {
			return why
		}
	}
	return ""
}

// Order is the figure that the sieve sorts by.
func (s Sieve) Order() *Figure {
	if f := FigureNamed(s.Sort); f != nil && f.sortable() {
		return f
	}
	return Searches
}

// Keys are the orders that the sieve sorts by, one after the other.
func (s Sieve) Keys() []Key {
	out := []Key{{s.Order(), s.Down}}
	if f := FigureNamed(s.Then); f != nil && f.sortable() && f != out[0].By {
		out = append(out, Key{f, !s.Up})
	}
	return out
}

// Thereby is the sieve with a second order, of what is equal in the first.
func (s Sieve) Thereby(f *Figure, down bool) Sieve {
	s.Then, s.Up = f.Key, !down
	return s
}

// With is the sieve with filters added.
func (s Sieve) With(filters ...Filter) Sieve {
	s.Filters = slices.Concat(s.Filters, filters)
	return s
}

// Free is the sieve with those of its filters only that cost nothing.
func (s Sieve) Free() Sieve {
	s.Filters = slices.DeleteFunc(slices.Clone(s.Filters), func(m Filter) bool { return m.By.Paid() })
	return s
}

// Same reports whether two sieves ask for the same, in the same order.
func (s Sieve) Same(o Sieve) bool { return slices.EqualFunc(s.Filters, o.Filters, same) }

// By is the sieve in another order.
func (s Sieve) By(f *Figure, down bool) Sieve {
	s.Sort, s.Down, s.Then, s.Up = f.Key, down, "", false
	return s
}

// BuiltIn are the sieves that come with the product; the names are ours. Their bars are
// common practice of the trade, no source.
func BuiltIn() []Sieve {
	ready := func(name, why string, filters ...Filter) Sieve { return Sieve{Name: name, Why: why, Filters: filters} }
	from := func(n float64) Filter { return At(ByLeastSearches, n) }
	hard := func(most float64) Filter { return Filter{By: ByMostDifficulty, Number: most} }
	to := func(n float64) Filter { return Filter{By: ByMostSearches, Number: n} }
	return []Sieve{
		ready("New site: easy and searched", "Difficulty up to 20, at least 500 searches a month.", from(500), hard(20)),
		ready("Long tail", "Phrases of five words or more, at least 100 searches a month.", At(ByLength, 5), from(100)),
		ready("Small buying phrases", "“best …” or “… review”, in volumes too small for big sites.",
			Filter{By: ByEdges, Terms: []string{"best"}, Ends: []string{"review"}}, from(80), to(500)),
		ready("Weak top five", "Very easy, with a small site already in the top five.",
			At(ByLength, 4), hard(10), At(ByWeakest, 20)),
		ready("100 visits a day", "At least 100 visits a day for no. 1, and few pages with the exact phrase.",
			At(ByVisits, 100), At(ByShare, 15), At(ByExact, 30_000), At(ByTitles, 10_000)),
		ready("Mid volume", "500 to 5,000 searches a month, difficulty up to 35.", from(500), to(5000), hard(35)),
		ready("Few links needed", "At least 300 searches a month, 20 solid links or fewer.",
			from(300), At(ByExact, 100_000), At(ByLinks, 20)),
	}
}

// oldNames are names that ready-made sieves had; addresses and notes may hold them.
var oldNames = map[string]string{"New porch": "New site: easy and searched", "Long and quiet": "Long tail",
	"Small buyers": "Small buying phrases", "Open door": "Weak top five", "Hundred a day": "100 visits a day",
	"Middle band": "Mid volume", "Few links": "Few links needed"}

// ReadyMade returns the ready-made sieve of a name, or of one that it had.
func ReadyMade(name string) (Sieve, bool) {
	if now, old := oldNames[name]; old {
		name = now
	}
	for _, s := range BuiltIn() {
		if s.Name == name {
			return s, true
		}
	}
	return Sieve{}, false
}
