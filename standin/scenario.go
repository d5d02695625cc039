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
	"slices"
	"sort"
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
	Proper    []string            `yaml:"proper"`   // words that begin with a capital letter where people take care
	Own       *OwnSite            `yaml:"own"`
	Slots     map[string][]string `yaml:"slots"`
	Needs     []Template          `yaml:"needs"`
	Sentences []string            `yaml:"sentences"`
	Parts     []Part              `yaml:"parts"` // what pages say, part by part; see texts.go
	Knows     map[string][]string `yaml:"knows"` // what is known of a value, by "slot value" or the value alone
	Steps     map[string][]string `yaml:"steps"` // of what is done, by the value that says it, or by one of its tags
	Sites     struct {
		First  []string `yaml:"first"`
		Second []string `yaml:"second"`
	} `yaml:"sites"`
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
	Name      string  `yaml:"name"`
	Intent    string  `yaml:"intent"` // learn, find, compare, buy
	Weight    float64 `yaml:"weight"`
	Worth     float64 `yaml:"worth"`
	Brand     bool    `yaml:"brand"`
	Ambiguous bool    `yaml:"ambiguous"`
	Most      int     `yaml:"most"` // needs at most; 0 means 180
	// Only says which values a slot may take: those with one of the tags.
	Only map[string][]string `yaml:"only"`
	// Match says which two gaps must hold what goes together, as "gear~use"; see suits.
	Match    []string           `yaml:"match"`
	Season   Season             `yaml:"season"`
	Steps    string             `yaml:"steps"` // the tag of steps that tell how; "" where the values say it
	Serves   map[string]float64 `yaml:"serves"`
	Wordings []string           `yaml:"wordings"`
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
		s, err := decode(name, data)
		if err != nil {
			return nil, err
		}
		if path.Base(name) == commonFile {
			common = s
			continue
		}
		out = append(out, s)
	}
	if out, err = completed(out, common); err == nil && len(out) == 0 {
		err = fmt.Errorf("no scenario in %s", dir)
	}
	return out, err
}

const commonFile = "common.yaml"

// ReadScenario reads one file, with the common.yaml that ships.
func ReadScenario(name string, data []byte) (*Scenario, error) {
	s, err := decode(name, data)
	if err != nil {
		return nil, err
	}
	shipped, err := scenarioFiles.ReadFile("scenarios/" + commonFile)
	if err != nil {
		return nil, err
	}
	common, err := decode(commonFile, shipped)
	if err != nil {
		return nil, err
	}
	if _, err = completed([]*Scenario{s}, common); err != nil {
		return nil, err
	}
	return s, nil
}

func decode(name string, data []byte) (*Scenario, error) {
	s := &Scenario{}
	dec := yaml.NewDecoder(strings.NewReader(string(data)))
	dec.KnownFields(true)
	if err := dec.Decode(s); err != nil {
		return nil, fmt.Errorf("%s: %w", name, err)
	}
	return s, nil
}

// completed adds to scenarios what they share, checks them, and puts them in order.
func completed(out []*Scenario, common *Scenario) ([]*Scenario, error) {
	for _, s := range out {
		if err := s.knows(s.Sentences); err != nil {
			return nil, fmt.Errorf("scenario %q: %w", s.Name, err)
		}
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
		for _, line := range common.Sentences {
			if s.knows([]string{line}) == nil {
				s.Sentences = append(s.Sentences, line)
			}
		}
		for _, part := range common.Parts {
			if part, some := s.partOf(part); some {
				s.Parts = append(s.Parts, part)
			}
		}
		for tag, list := range common.Steps {
			if s.Steps[tag] == nil {
				if s.Steps == nil {
					s.Steps = map[string][]string{}
				}
				s.Steps[tag] = list
			}
		}
	}
	for _, s := range out {
		if err := s.check(); err != nil {
			return nil, fmt.Errorf("scenario %q: %w", s.Name, err)
		}
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
		for _, text := range list {
			if v := readValue(text, 0); v.one == "" || v.many == "" || v.price < 0 {
				return fmt.Errorf("slot %q holds %q, which says nothing or costs less than nothing", name, text)
			}
		}
	}
	for _, t := range s.Needs {
		if err := t.check(s); err != nil {
			return fmt.Errorf("need %q: %w", t.Name, err)
		}
	}
	for _, part := range s.Parts {
		if err := s.knows(wordings(append(slices.Clone(part.Heads), part.Lines...))); err != nil {
			return fmt.Errorf("part for %v: %w", part.For, err)
		}
	}
	for _, name := range sortedKeys(s.Knows) {
		if !s.names(name) {
			return fmt.Errorf("knows has %q, which no slot holds", name)
		}
	}
	return nil
}

// names reports whether a slot holds a value of that name, or "slot value".
func (s *Scenario) names(name string) bool {
	for slot, list := range s.Slots {
		for _, text := range list {
			if v := readValue(text, 0); v.one == name || slot+" "+v.one == name {
				return true
			}
		}
	}
	return false
}

// partOf is the lines of a part whose gaps the scenario can fill; some is false when none is left.
func (s *Scenario) partOf(p Part) (out Part, some bool) {
	can := func(lines []string) (out []string) {
		for _, line := range lines {
			if s.knows(wordings([]string{line})) == nil {
				out = append(out, line)
			}
		}
		return out
	}
	out = p
	out.Heads, out.Lines = can(p.Heads), can(p.Lines)
	return out, len(out.Lines) > 0 || len(out.Heads) > 0
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
	for slot := range t.Only {
		if len(s.Slots[slot]) == 0 {
			return fmt.Errorf("only names %q, which is no slot", slot)
		}
	}
	for _, m := range t.Match {
		a, b, ok := strings.Cut(m, "~")
		if _, first := s.Slots[strings.TrimSuffix(a, "2")]; !ok || b == "" || !first && a != "model" {
			return fmt.Errorf("match has %q, which is not two slots as in gear~use", m)
		}
	}
	return s.knows(wordings(t.Wordings))
}

// knows checks that each line's gaps can be filled.
func (s *Scenario) knows(lines []string) error {
	for _, line := range lines {
		for _, g := range parseGaps(line) {
			if strings.HasSuffix(" "+g.literal, " a ") {
				return fmt.Errorf("%q has an article before a gap: write it inside, as {a gear}", line)
			}
			_, listed := s.Slots[g.slot]
			if g.slot == "" || listed || g.slot == "model" && len(s.Slots["maker"]) > 0 || g.slot == thisYear ||
				isEndless(g.slot) {
				continue
			}
			return fmt.Errorf("%q asks for a %q, which is no slot", line, g.slot)
		}
		if rest := gapRE.ReplaceAllString(line, ""); strings.ContainsAny(rest, "{}()|") {
			return fmt.Errorf("%q has a gap that cannot be read", line)
		}
	}
	return nil
}

// thisYear is a gap that the year of the world's founding fills.
const thisYear = "now"

// fits reports whether the scenario has the slots that a template asks for.
func (s *Scenario) fits(t Template) bool {
	for slot := range t.Only {
		if len(s.Slots[slot]) == 0 {
			return false
		}
	}
	return s.knows(wordings(t.Wordings)) == nil
}
