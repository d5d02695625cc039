package sieve

import (
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"cleverniche/core/demand"
	"cleverniche/core/intent"
	"cleverniche/core/phrase"
	"cleverniche/core/worth"
)

// Criterion names what a mesh goes by, in plain words.
type Criterion string

// The criteria. Those that need the ten to be looked up are below the line.
const (
	ByDecision       Criterion = "decided"
	ByLength         Criterion = "words at least"
	ByLeastSearches  Criterion = "searches from"
	ByMostSearches   Criterion = "searches to"
	ByVisits         Criterion = "visits a day in first place"
	ByHolding        Criterion = "holds any of"
	ByLacking        Criterion = "holds none of"
	ByEdges          Criterion = "starts or ends with"
	ByShape          Criterion = "shape"
	BySeason         Criterion = "season"
	ByTrend          Criterion = "trend"
	ByCost           Criterion = "cost per click at least"
	ByShare          Criterion = "phrase-to-broad share at least"
	ByExact          Criterion = "exact-phrase pages at most"
	ByTitles         Criterion = "pages with it in the title at most"
	BySource         Criterion = "found in"
	ByName           Criterion = "name free"
	ByLookedUp       Criterion = "looked up"
	ByPageOne        Criterion = "page-one chance at least"
	ByTopFive        Criterion = "top-five chance at least"
	ByMostDifficulty Criterion = "difficulty at most"
	ByLeastFootholds Criterion = "footholds at least"
	ByWeakest        Criterion = "weakest of the top five at most"
	ByLinks          Criterion = "links needed at most"
	ByWant           Criterion = "wants"
	ByRank           Criterion = "worth among the first"
)

// What meshes choose among that no other package names.
const (
	choiceNotDropped = "not dropped"
	choiceKept       = "kept"
	choiceDropped    = "dropped"
	choiceSeasonal   = "with a season"
	choiceSeasonless = "without a season"
	choiceNotFading  = "not fading"
)

// Limits of a mesh.
const (
	mostNumber = 1e15 // larger ones are mistakes, and would not fit the columns
	mostTerms  = 1000
)

// Mesh is one criterion with what it asks for. It is plain data, to be saved and
// compared; its zero fields ask for nothing.
type Mesh struct {
	By         Criterion `json:"by"`
	Number     float64   `json:"number,omitempty"`     // the bar
	Unmeasured bool      `json:"unmeasured,omitempty"` // lets through what the figure is not known of, or lies under a source's floor
	Terms      []string  `json:"terms,omitempty"`      // words or phrases in normal form; of ByEdges those that it may start with
	Ends       []string  `json:"ends,omitempty"`       // of ByEdges: those that it may end with
	Choice     string    `json:"choice,omitempty"`
}

// rule is how one criterion works on a table.
type rule struct {
	paid   bool
	needs  figure // what must be known for it to tell
	always bool   // it can always tell
	choice func() []string
	within func(m Mesh) (lo, hi int64) // of the figure, for most
	marks  func(t *Table, m Mesh, out Set)
}

func atLeast(unit float64) func(Mesh) (int64, int64) {
	return func(m Mesh) (int64, int64) { return int64(math.Ceil(m.Number * unit)), math.MaxInt64 / 2 }
}

func atMost(unit float64) func(Mesh) (int64, int64) {
	return func(m Mesh) (int64, int64) { return 0, int64(math.Floor(m.Number * unit)) }
}

// asShown compares a figure at most as it is shown, without decimals: 20.4 is shown
// as 20 and passes "at most 20".
func asShown(m Mesh) (int64, int64) {
	return 0, int64(math.Floor(m.Number))*hundredths + hundredths/2 - 1
}

var rules = map[Criterion]rule{
	ByDecision: {always: true, needs: decision, choice: func() []string { return []string{choiceNotDropped, choiceKept, choiceDropped} },
		within: func(m Mesh) (int64, int64) {
			switch m.Choice {
			case choiceKept:
				return int64(Kept), int64(Kept)
			case choiceDropped:
				return int64(Dropped), int64(Dropped)
			}
			return int64(Undecided), int64(Kept)
		}},
	ByLength:        {always: true, needs: words, within: atLeast(1)},
	ByLeastSearches: {needs: searches, within: atLeast(1)},
	ByMostSearches:  {needs: searches, within: atMost(1)},
	ByVisits: {needs: searches, within: func(m Mesh) (int64, int64) {
		return int64(math.Ceil(m.Number / worth.VisitsADay(1, worth.DefaultCurve))), math.MaxInt64 / 2
	}},
	ByHolding: {always: true, marks: func(t *Table, m Mesh, out Set) { t.text.mark(m.Terms, anywhere, t.n, out) }},
	ByLacking: {always: true, marks: func(t *Table, m Mesh, out Set) {
		t.text.mark(m.Terms, anywhere, t.n, out)
		out.not(t.n)
	}},
	ByEdges: {always: true, marks: func(t *Table, m Mesh, out Set) {
		t.text.mark(m.Terms, atStart, t.n, out)
		t.text.mark(m.Ends, atEnd, t.n, out)
	}},
	ByShape: {always: true, choice: func() []string { return named(phrase.AllShapes) },
		marks: func(t *Table, m Mesh, out Set) { t.text.shaped(phrase.Shape(m.Choice), t.n, out) }},
	BySeason: {needs: season, choice: func() []string { return []string{choiceSeasonal, choiceSeasonless} },
		within: func(m Mesh) (int64, int64) {
			if m.Choice == choiceSeasonal {
				return int64(Seasonal), int64(Seasonal)
			}
			return int64(NoSeason), int64(NoSeason)
		}},
	ByTrend:  {needs: lasting, choice: func() []string { return append(named(lastings), choiceNotFading) }, marks: markTrend},
	ByCost:   {needs: cpc, within: atLeast(millionths)},
	ByShare:  {needs: share, within: atLeast(millionths)},
	ByExact:  {needs: exactPages, within: atMost(1)},
	ByTitles: {needs: titlePages, within: atMost(1)},
	BySource: {always: true, marks: func(t *Table, m Mesh, out Set) {
		if bit := slices.Index(t.origins, m.Choice); bit >= 0 {
			for at, in := range t.columns[sources].wide {
				out.put(at, in>>bit&1 == 1)
			}
		}
	}},
	ByName:           {needs: nameFree, within: func(Mesh) (int64, int64) { return 1, 1 }},
	ByLookedUp:       {paid: true, needs: judged, within: func(Mesh) (int64, int64) { return 1, 1 }},
	ByPageOne:        {paid: true, needs: pageOne, within: atLeast(millionths)},
	ByTopFive:        {paid: true, needs: topFive, within: atLeast(millionths)},
	ByMostDifficulty: {paid: true, needs: difficulty, within: asShown},
	ByLeastFootholds: {paid: true, needs: footholds, within: atLeast(1)},
	ByWeakest:        {paid: true, needs: weakest, within: asShown},
	ByLinks:          {paid: true, needs: linksNeeded, within: atMost(1)},
	ByWant: {paid: true, needs: want, choice: func() []string { return named(intent.All[:]) },
		within: func(m Mesh) (int64, int64) {
			w, _ := intent.Parse(m.Choice)
			return int64(w), int64(w)
		}},
	ByRank: {paid: true, needs: worthOf, marks: func(t *Table, m Mesh, out Set) {
		if t.n > 0 {
			t.worthRanks().within(1, int64(m.Number), out)
		}
	}},
}

func markTrend(t *Table, m Mesh, out Set) {
	col := t.columns[lasting]
	if m.Choice != choiceNotFading {
		k := int64(slices.Index(lastings, demand.Lasting(m.Choice)))
		col.within(k, k, out)
		return
	}
	gone := [2]int64{int64(slices.Index(lastings, demand.Fade)), int64(slices.Index(lastings, demand.Flash))}
	for at, v := range col.narrow {
		out.put(at, v >= 0 && int64(v) != gone[0] && int64(v) != gone[1])
	}
}

func named[T any](list []T) []string {
	out := make([]string, len(list))
	for i, one := range list {
		out[i] = fmt.Sprint(one)
	}
	return out
}

// Criteria lists all criteria, those above the line first, each in the order of its
// declaration.
var Criteria = []Criterion{ByDecision, ByLength, ByLeastSearches, ByMostSearches, ByVisits, ByHolding, ByLacking, ByEdges, ByShape, BySeason,
	ByTrend, ByCost, ByShare, ByExact, ByTitles, BySource, ByName, ByLookedUp, ByPageOne, ByTopFive, ByMostDifficulty, ByLeastFootholds, ByWeakest,
	ByLinks, ByWant, ByRank}

// Paid reports whether the criterion needs the ten to be looked up.
func (c Criterion) Paid() bool { return rules[c].paid }

// Choices are what a mesh of the criterion may choose among; none for most.
func (c Criterion) Choices() []string {
	if f := rules[c].choice; f != nil {
		return f()
	}
	return nil
}

// Check returns why a mesh cannot be used, or nil.
func (m Mesh) Check() error {
	r, ok := rules[m.By]
	switch {
	case !ok:
		return fmt.Errorf("there is no criterion %q", m.By)
	case math.IsNaN(m.Number) || m.Number < 0 || m.Number > mostNumber:
		return fmt.Errorf("%s: %v is not between 0 and a thousand million million", m.By, m.Number)
	case r.choice != nil && !slices.Contains(r.choice(), m.Choice):
		return fmt.Errorf("%s: there is no %q; there are %s", m.By, m.Choice, strings.Join(r.choice(), ", "))
	case (m.By == ByHolding || m.By == ByLacking || m.By == ByEdges) && len(m.Terms)+len(m.Ends) == 0:
		return fmt.Errorf("%s: name at least one word", m.By)
	case len(m.Terms)+len(m.Ends) > mostTerms:
		return fmt.Errorf("%s: %d words are more than %d", m.By, len(m.Terms)+len(m.Ends), mostTerms)
	case m.By == BySource && m.Choice == "":
		return fmt.Errorf("%s: name a source", m.By)
	}
	return nil
}

// String writes the mesh in plain words.
func (m Mesh) String() string {
	s := string(m.By)
	switch {
	case m.By == ByEdges:
		var parts []string
		if len(m.Terms) > 0 {
			parts = append(parts, "starts with "+strings.Join(m.Terms, ", "))
		}
		if len(m.Ends) > 0 {
			parts = append(parts, "ends with "+strings.Join(m.Ends, ", "))
		}
		s = strings.Join(parts, " or ")
	case len(m.Terms) > 0:
		s += " " + strings.Join(m.Terms, ", ")
	case m.Choice != "":
		s += " " + m.Choice
	case m.By == ByShare || m.By == ByPageOne || m.By == ByTopFive:
		s += fmt.Sprintf(" %g %%", 100*m.Number)
	case m.By != ByLookedUp && m.By != ByName:
		s += fmt.Sprintf(" %g", m.Number)
	}
	if m.Unmeasured {
		s += ", or not measured"
	}
	return s
}

// key tells meshes apart that let other ideas through.
func (m Mesh) key() string {
	b, _ := json.Marshal(m)
	return string(b)
}

// ErrNoMesh is returned for a saved sieve without any mesh.
var ErrNoMesh = errors.New("a sieve has at least one mesh")

// Sieve is an ordered set of meshes with a name.
type Sieve struct {
	Name   string `json:"name"`
	Why    string `json:"why,omitempty"` // what it is good for
	Meshes []Mesh `json:"meshes"`
}

// Check returns why a sieve cannot be used, or nil.
func (s Sieve) Check() error {
	if len(s.Meshes) == 0 {
		return ErrNoMesh
	}
	for i, m := range s.Meshes {
		if err := m.Check(); err != nil {
			return fmt.Errorf("mesh %d: %w", i+1, err)
		}
	}
	return nil
}

// The meshes that are asked for most.

// NotDropped stops dropped ideas.
func NotDropped() Mesh { return Mesh{By: ByDecision, Choice: choiceNotDropped} }

// Decided lets ideas of one decision through: Kept or Dropped.
func Decided(d Decision) Mesh {
	return Mesh{By: ByDecision, Choice: map[Decision]string{Kept: choiceKept, Dropped: choiceDropped}[d]}
}

// Bar is a mesh with a bar; the criterion says on which side of it ideas have to be.
func Bar(by Criterion, n float64) Mesh { return Mesh{By: by, Number: n} }

// BuiltIn are the sieves that come with the product; the names are ours. Their bars are
// common practice of the trade, no source, but for difficulty: where the trade says
// that a new site should keep to a difficulty of 10, 20 or 35, these ask for a chance.
// Our difficulty is on the scale of reach, where a well-made page has near 47 without a
// link or a standing; a fixed number would mean another thing for every site.
func BuiltIn() []Sieve {
	between := func(from, to float64) []Mesh {
		return []Mesh{Bar(ByLeastSearches, from), Bar(ByMostSearches, to)}
	}
	return []Sieve{
		{"New porch", "For a site that nobody knows yet: even odds of the top five, and searched enough to be worth an evening.",
			[]Mesh{Bar(ByLeastSearches, 500), Bar(ByTopFive, 0.5)}},
		{"Long and quiet", "Long phrases that somebody searches all the same.",
			[]Mesh{Bar(ByLength, 5), Bar(ByLeastSearches, 100)}},
		{"Small buyers", "People about to buy, in numbers too small for the big sites to care.",
			append([]Mesh{{By: ByEdges, Terms: []string{"best"}, Ends: []string{"review"}}}, between(80, 500)...)},
		{"Open door", "Very easy, with a small site among the first five already.",
			[]Mesh{Bar(ByLength, 4), Bar(ByPageOne, 0.9), Bar(ByWeakest, 20)}},
		{"Hundred a day", "A hundred visits a day for the first place, and few pages that compete for the very words.",
			[]Mesh{Bar(ByVisits, 100), Bar(ByShare, 0.15), Bar(ByExact, 30_000), Bar(ByTitles, 10_000)}},
		{"Middle band", "Neither hopeless nor empty.",
			append(between(500, 5000), Bar(ByPageOne, 0.25))},
		{"Few links", "Searched, and to be had with twenty solid links at most.",
			[]Mesh{Bar(ByLeastSearches, 300), Bar(ByExact, 100_000), Bar(ByLinks, 20)}},
	}
}
