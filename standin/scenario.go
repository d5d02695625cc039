// Package standin is a small simulated internet: hobbies with hidden needs, the
// queries that word them, sites and pages, a link graph and search engines. It
// speaks open protocols over HTTP so that a program that asks the real web
// can ask this one instead, and its truth is known.
//
// It grows from a world number and scenario files and imports nothing of the
// application: what the two share is the protocol.
package standin

import (
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"math"
	"path"
	"regexp"
	"slices"
	"sort"
	"strconv"
	"strings"

	"gopkg.in/yaml.v3"
)

//go:embed scenarios/*.yaml
var scenarioFiles embed.FS

// Scenario is one hobby, as its YAML file says it.
type Scenario struct {
	Name      string              `yaml:"name"`
	Slug      string              `yaml:"slug"`
	Language  string              `yaml:"language"` // of its phrases and pages; "" means en
	Words     []string            `yaml:"words"`    // what its sites write about in general
	Own       *OwnSite            `yaml:"own"`
	Slots     map[string][]string `yaml:"slots"`
	Needs     []Template          `yaml:"needs"`
	Sentences []string            `yaml:"sentences"`
	Sites     struct {
		First  []string `yaml:"first"`
		Second []string `yaml:"second"`
	} `yaml:"sites"`

	asides []string            // sentences of common.yaml
	stock  map[string][]string // and what fills them
}

// OwnSite is a site that a user of the demo owns.
type OwnSite struct {
	Domain   string `yaml:"domain"`
	Title    string `yaml:"title"`
	Months   int    `yaml:"months"`
	Articles int    `yaml:"articles"`
}

// Template is a family of needs: one need for each way to fill its slots.
type Template struct {
	Name      string             `yaml:"name"`
	Intent    string             `yaml:"intent"` // learn, find, compare, buy
	Weight    float64            `yaml:"weight"`
	Worth     float64            `yaml:"worth"`
	Brand     bool               `yaml:"brand"`
	Ambiguous bool               `yaml:"ambiguous"`
	Most      int                `yaml:"most"` // needs at most; 0 means 180
	Season    Season             `yaml:"season"`
	Serves    map[string]float64 `yaml:"serves"`
	Wordings  []string           `yaml:"wordings"`
}

// Season is a yearly wave: the month it peaks in, 1 to 12, and its strength.
type Season struct {
	Peak     int     `yaml:"peak"`
	Strength float64 `yaml:"strength"`
}

// Factor is the season's multiple in a month, 1 to 12; it averages 1 over a year.
func (s Season) Factor(month int) float64 {
	if s.Peak == 0 {
		return 1
	}
	wave := func(m int) float64 {
		return math.Exp(s.Strength * math.Cos(2*math.Pi*float64(m-s.Peak)/12))
	}
	sum := 0.0
	for m := 1; m <= 12; m++ {
		sum += wave(m)
	}
	return 12 * wave(month) / sum
}

// Scenarios reads the scenarios that ship with the stand-in, by slug.
func Scenarios() ([]*Scenario, error) {
	return ReadScenarios(scenarioFiles, "scenarios")
}

// ReadScenarios reads every YAML file of a directory. common.yaml holds needs
// that each scenario of the home language gets where it has the slots for them,
// and sentences that its pages say beside their subject.
func ReadScenarios(fsys fs.FS, dir string) ([]*Scenario, error) {
	names, err := fs.Glob(fsys, path.Join(dir, "*.yaml"))
	if err != nil {
		return nil, err
	}
	common := &Scenario{}
	var out []*Scenario
	for _, name := range names {
		data, err := fs.ReadFile(fsys, name)
		if err != nil {
			return nil, err
		}
		s := &Scenario{}
		dec := yaml.NewDecoder(strings.NewReader(string(data)))
		dec.KnownFields(true)
		if err := dec.Decode(s); err != nil {
			return nil, fmt.Errorf("%s: %w", name, err)
		}
		if path.Base(name) == "common.yaml" {
			common = s
			continue
		}
		out = append(out, s)
	}
	for _, s := range out {
		if s.Language == "" {
			s.Language = home.language
		}
		if s.Language != home.language {
			continue // common.yaml is written in the home language
		}
		for _, t := range common.Needs {
			if s.fits(t) {
				s.Needs = append(s.Needs, t)
			}
		}
		s.asides, s.stock = common.Sentences, common.Slots
	}
	for _, s := range out {
		if err := s.check(); err != nil {
			return nil, fmt.Errorf("scenario %q: %w", s.Name, err)
		}
	}
	if len(out) == 0 {
		return nil, fmt.Errorf("no scenario in %s", dir)
	}
	sort.Slice(out, func(i, j int) bool { return out[i].Slug < out[j].Slug })
	return out, nil
}

// check says what keeps a world from growing over the scenario.
func (s *Scenario) check() error {
	for name, missing := range map[string]bool{"a slug": s.Slug == "", "needs": len(s.Needs) == 0,
		"words":     len(s.Words) == 0,
		"sentences": len(s.Sentences) == 0, "sites.first": len(s.Sites.First) < 2, "sites.second": len(s.Sites.Second) < 2,
		"slots.gear": len(s.Slots["gear"]) == 0, "slots.series beside makers": len(s.Slots["maker"]) > 0 &&
			len(s.Slots["series"]) == 0} {
		if missing {
			return fmt.Errorf("it lacks %s", name)
		}
	}
	for name, list := range s.Slots {
		if len(list) == 0 {
			return fmt.Errorf("slot %q is empty", name)
		}
	}
	for _, t := range s.Needs {
		if err := t.check(s); err != nil {
			return fmt.Errorf("need %q: %w", t.Name, err)
		}
	}
	if err := s.knows(s.Sentences); err != nil {
		return err
	}
	return (&Scenario{Slots: s.stock}).knows(s.asides)
}

func (t *Template) check(s *Scenario) error {
	switch {
	case len(t.Wordings) == 0:
		return errors.New("it has no wordings")
	case !slices.Contains([]string{"learn", "find", "compare", "buy"}, t.Intent):
		return fmt.Errorf("intent is %q: not learn, find, compare or buy", t.Intent)
	case t.Weight <= 0 || t.Worth < 0 || t.Most < 0 || t.Season.Peak < 0 || t.Season.Peak > 12 || t.Season.Strength < 0:
		return errors.New("weight, worth, most or season is out of range")
	case len(t.Serves) == 0:
		return errors.New("it says not what kinds of page serve it")
	}
	for kind, weight := range t.Serves {
		if !slices.Contains(pageKindNames[:], kind) || weight <= 0 {
			return fmt.Errorf("serves has %q: %g; the kinds are %s", kind, weight, strings.Join(pageKindNames[:], ", "))
		}
	}
	return s.knows(t.Wordings)
}

// knows checks that each line's gaps can be filled.
func (s *Scenario) knows(lines []string) error {
	for _, line := range lines {
		for _, g := range parseGaps(line) {
			_, listed := s.Slots[g.slot]
			if g.slot == "" || listed || g.slot == "model" && len(s.Slots["maker"]) > 0 || isEndless(g.slot) {
				continue
			}
			return fmt.Errorf("%q asks for a %q, which is no slot", line, g.slot)
		}
		if rest := gapRE.ReplaceAllString(line, ""); strings.ContainsAny(rest, "{}") {
			return fmt.Errorf("%q has a gap that cannot be read", line)
		}
	}
	return nil
}

func (s *Scenario) fits(t Template) bool {
	for _, w := range t.Wordings {
		for _, g := range parseGaps(w) {
			if _, ok := s.Slots[g.slot]; g.slot != "" && g.slot != "model" && !ok {
				return false
			}
		}
	}
	return true
}

// value is one way to fill a slot.
type value struct {
	one, many string
	price     float64 // dollars; 0 when it is no thing one buys
	weight    float64
	maker     string // of a model
}

// readValue reads "one/many =price".
func readValue(s string, rank int) value {
	v := value{weight: 1 / math.Pow(float64(rank+1), 0.85)}
	if head, price, ok := strings.Cut(s, "="); ok {
		v.price, _ = strconv.ParseFloat(strings.TrimSpace(price), 64)
		s = head
	}
	v.one, v.many, _ = strings.Cut(strings.TrimSpace(s), "/")
	if v.many == "" {
		v.many = v.one
	}
	return v
}

func (v value) withArticle() string {
	if v.one == v.many || strings.HasPrefix(v.one, "the ") || strings.HasPrefix(v.one, "a ") {
		return v.one
	}
	if strings.ContainsRune("aeiou", rune(v.one[0])) {
		return "an " + v.one
	}
	return "a " + v.one
}

// gap is a piece of a wording: literal text, or a slot to fill.
type gap struct {
	literal string
	slot    string // "" for literal text
	second  bool   // another value than the first of that slot
	plural  bool
	article bool
}

var gapRE = regexp.MustCompile(`\{(a )?([a-z]+)(2?)(\+?)\}`)

func parseGaps(s string) []gap {
	var out []gap
	at := 0
	for _, m := range gapRE.FindAllStringSubmatchIndex(s, -1) {
		if m[0] > at {
			out = append(out, gap{literal: s[at:m[0]]})
		}
		out = append(out, gap{slot: s[m[4]:m[5]], article: m[2] >= 0,
			second: m[6] < m[7], plural: m[8] < m[9]})
		at = m[1]
	}
	if at < len(s) {
		out = append(out, gap{literal: s[at:]})
	}
	return out
}

func parseLines(lines []string) [][]gap {
	out := make([][]gap, len(lines))
	for i, line := range lines {
		out[i] = parseGaps(line)
	}
	return out
}

func (g gap) key() string {
	if g.second {
		return g.slot + "2"
	}
	return g.slot
}

// fill puts values into the gaps; pick chooses one for a gap that has none.
func fill(gaps []gap, bind map[string]value, pick func(gap) value) string {
	var b strings.Builder
	for _, g := range gaps {
		if g.slot == "" {
			b.WriteString(g.literal)
			continue
		}
		v, ok := bind[g.key()]
		if !ok {
			v = pick(g)
		}
		if strings.HasSuffix(b.String(), " a ") && strings.ContainsRune("aeiou", rune((v.one + " ")[0])) {
			prefix := strings.TrimSuffix(b.String(), " ")
			b.Reset()
			b.WriteString(prefix + "n ")
		}
		switch {
		case g.plural:
			b.WriteString(v.many)
		case g.article:
			b.WriteString(v.withArticle())
		default:
			b.WriteString(v.one)
		}
	}
	return b.String()
}
