package results

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"strings"
	"time"
	"unicode"

	"cleverniche/core/difficulty"
	"cleverniche/core/intent"
	"cleverniche/core/links"
	"cleverniche/core/serp"
	"cleverniche/core/worth"
	"cleverniche/market"
	"cleverniche/store"
	"cleverniche/study/ask"
	"cleverniche/study/niches"
)

// Evidence is all that one idea was judged on, and what came of it. It is kept as a
// document whose field names are the tags here and in core: a field that is renamed in
// Go keeps its tag, and one whose meaning changes makes a new version, with an upgrade.
type Evidence struct {
	Phrase    string           `json:"phrase"`
	AskedAt   time.Time        `json:"askedAt"` // when the results were asked for
	JudgedAt  time.Time        `json:"judgedAt"`
	Results   market.Results   `json:"results"`
	Reading   serp.Reading     `json:"reading"`
	Intent    intent.Judgement `json:"intent"`
	Model     Calibration      `json:"model"` // by which the verdict was reckoned
	Mine      difficulty.Mine  `json:"mine"`
	MineKnown bool             `json:"mineKnown"`      // the link graph knows my site
	Tilt      float64          `json:"tilt,omitempty"` // of the engine, where the user supposes one
	// SiteStanding is my site's by the link graph, whatever Mine supposes.
	SiteStanding float64                 `json:"siteStanding"`
	Verdict      difficulty.Verdict      `json:"verdict"`
	MyPages      []int                   `json:"myPages"` // positions that are my own site's
	Sources      map[ask.Question]string `json:"sources"`

	model niches.Known // that it is judged by
}

// Calibration is what is kept of the model that a verdict was reckoned by: enough to tell
// whether it is the present one, and to bring what it was reckoned from to that.
type Calibration struct {
	Name string  `json:"name"`
	Gain float64 `json:"gain"` // links.LinkGain of the page standings
	// First says that the fits are by the first checklist.
	First bool `json:"first,omitempty"`
}

func present() Calibration {
	return Calibration{Name: niches.CalibrationName, Gain: difficulty.Calibrated.Gain}
}

// evidenceVersion is the version that is written.
const evidenceVersion = 3

// upgrades make a document of the version after theirs, by version.
var upgrades = map[int]func(doc map[string]any){1: upgradeTo2, 2: upgradeTo3}

// document is the evidence as it is kept.
func (ev *Evidence) document() (store.Document, error) {
	body, err := json.Marshal(ev)
	return store.Document{Version: evidenceVersion, Body: body}, err
}

// ErrUnreadable is of evidence that is damaged, or newer than this program. It fails
// nothing but the idea that it belongs to.
var ErrUnreadable = errors.New("its saved evidence cannot be read")

// Unreadable is what is said at an idea whose evidence is.
func Unreadable(err error) string {
	return err.Error() + "; its figures are from that day. Look it up again"
}

// readEvidence reads a document of this or any earlier version, or says errUnreadable: whatever is in it, only the idea
// that it belongs to is without.
func readEvidence(d store.Document, m niches.Known) (ev Evidence, err error) {
	defer func() {
		if p := recover(); p != nil {
			ev, err = Evidence{}, fmt.Errorf("%w (%v)", ErrUnreadable, p)
		}
	}()
	if ev, err = decodeEvidence(d); err == nil {
		err = ev.sound()
	}
	if err != nil {
		return Evidence{}, fmt.Errorf("%w (%w)", ErrUnreadable, err)
	}
	ev.renew()
	ev.judge(m)
	return ev, nil
}

// CheckEvidence refuses a document that cannot be read.
func CheckEvidence(d store.Document) error {
	_, err := readEvidence(d, niches.Unknown)
	return err
}

// mostEntries is how many results evidence has at most: a hundred are looked up.
const mostEntries = 100

// mostLuck is more luck than is ever learnt.
const mostLuck = 10

// sound returns why evidence is none, or nil.
func (ev *Evidence) sound() error {
	percent := func(x float64) bool { return x >= 0 && x <= 100 }
	switch {
	case ev.Phrase == "" || ev.AskedAt.IsZero():
		return errors.New("it does not say of what it is")
	case len(ev.Reading.Entries) > mostEntries || len(ev.Results.Organic) > mostEntries:
		return fmt.Errorf("it has more than %d results", mostEntries)
	case ev.Mine.PlannedLinks < 0 || ev.Mine.PlannedLinks > difficulty.MostLinks || !percent(ev.Mine.SiteStanding) ||
		!percent(ev.Mine.LinkStanding) || !percent(ev.Mine.Fit) || !(math.Abs(ev.Mine.Luck) <= mostLuck):
		return errors.New("what it says of my site is out of range")
	case !(math.Abs(ev.Tilt) <= difficulty.MostTilt):
		return errors.New("what it supposes of the engine is out of range")
	case !(ev.Model.Gain >= 0 && ev.Model.Gain <= 100):
		return errors.New("its model is none")
	}
	last := 0
	for _, e := range ev.Reading.Entries {
		if e.Position <= last || e.Position > mostEntries || !percent(e.PageStanding) || !percent(e.SiteStanding) ||
			!percent(e.Fit.Total) {
			return errors.New("a result in it is out of range")
		}
		for _, item := range e.Fit.Items {
			if !percent(item.Most) || !(item.Points >= 0 && item.Points <= item.Most+1e-9) {
				return errors.New("a fit in it is out of range")
			}
		}
		last = e.Position
	}
	return nil
}

func decodeEvidence(d store.Document) (ev Evidence, err error) {
	if d.Damage != nil {
		return ev, d.Damage
	}
	if d.Version < 1 || d.Version > evidenceVersion {
		return ev, fmt.Errorf("evidence of version %d is newer than this program", d.Version)
	}
	if d.Version < evidenceVersion {
		if d.Body, err = upgraded(d); err != nil {
			return ev, err
		}
	}
	return ev, json.Unmarshal(d.Body, &ev)
}

// upgraded is the body of an older document in the present version.
func upgraded(d store.Document) ([]byte, error) {
	var doc map[string]any
	in := json.NewDecoder(bytes.NewReader(d.Body))
	in.UseNumber() // digits stay as they are
	if err := in.Decode(&doc); err != nil {
		return nil, err
	}
	if doc == nil {
		return nil, errors.New("it is empty")
	}
	for v := d.Version; v < evidenceVersion; v++ {
		upgrades[v](doc)
	}
	return json.Marshal(doc)
}

// upgradeTo2: in version 1 fields had their names in Go, and the site's standing stood
// among what I could put there only, before there was a model with a gain.
func upgradeTo2(doc map[string]any) {
	tagNames(doc)
	model, _ := doc["model"].(map[string]any)
	mine, _ := doc["mine"].(map[string]any)
	if model["gain"] == nil && mine != nil {
		doc["siteStanding"] = mine["siteStanding"]
	}
}

// Gains of the calibrations that did not note theirs: the one before anything was
// calibrated, which names no model, and the first. Neither knew the calibrated checklist.
const (
	gainOfNone  = 1.5
	gainOfFirst = 0.5
)

// upgradeTo3: up to version 2 the model was kept whole, and the verdict was on a scale of
// its own. It is reckoned anew when it is read; see renew.
func upgradeTo3(doc map[string]any) {
	old, _ := doc["model"].(map[string]any)
	model := map[string]any{"name": old["name"], "gain": old["gain"]}
	number := func(key string) float64 {
		n, _ := old[key].(json.Number)
		f, _ := n.Float64()
		return f
	}
	if number("gain") == 0 {
		model["first"], model["gain"] = true, gainOfFirst
		if number("tau") == 0 {
			model["gain"] = gainOfNone
		}
	}
	if model["name"] == nil {
		model["name"] = ""
	}
	doc["model"] = model
	delete(doc, "verdict")
}

// tagNames gives fields that are named as in Go the names of tags, all through a
// document: URLPath is urlPath.
func tagNames(x any) {
	switch v := x.(type) {
	case []any:
		for _, one := range v {
			tagNames(one)
		}
	case map[string]any:
		for name, value := range v {
			tagNames(value)
			if tag := tagOf(name); tag != name {
				delete(v, name)
				v[tag] = value
			}
		}
	}
}

// tagOf is the tag of a field of evidence of a version that had none.
func tagOf(name string) string {
	r := []rune(name)
	upper := 0
	for upper < len(r) && unicode.IsUpper(r[upper]) {
		upper++
	}
	if upper > 1 && upper < len(r) {
		upper--
	}
	return strings.ToLower(string(r[:upper])) + string(r[upper:])
}

// Evidence returns what an idea was judged on, or ErrNotFound.
func (s *Researcher) Evidence(ctx context.Context, n niches.Niche, idea uint) (Evidence, error) {
	d, err := s.store.Evidence(ctx, idea)
	if err != nil {
		return Evidence{}, err
	}
	m, err := s.niches.Model(ctx, n)
	if err != nil {
		return Evidence{}, err
	}
	return readEvidence(d, m)
}

// decide computes the verdict for the niche's own site from the evidence, with what
// the user thinks of this idea otherwise.
func (ev *Evidence) decide(m niches.Known, n niches.Niche, idea store.Idea, standing float64) {
	ev.Mine, ev.Tilt = mineFor(m, n, idea, standing), tiltOf(idea)
	ev.MyPages = nil
	for _, e := range ev.Reading.Entries {
		if n.OwnSite != "" && e.Site == n.OwnSite {
			ev.MyPages = append(ev.MyPages, e.Position)
		}
	}
	ev.judge(m)
}

// mineFor is the page that could be put there: the niche's, with what is supposed for the idea.
func mineFor(m niches.Known, n niches.Niche, idea store.Idea, standing float64) difficulty.Mine {
	mine := m.Mine(n, standing)
	if idea.MyStanding != nil {
		mine.SiteStanding = *idea.MyStanding
	}
	if idea.MyLinks != nil {
		mine.PlannedLinks = *idea.MyLinks
	}
	if idea.MyFit != nil {
		mine.Fit = *idea.MyFit
	}
	return mine
}

// tiltOf is how the engine is supposed to be otherwise for an idea; 0 it is not.
func tiltOf(idea store.Idea) float64 {
	if idea.MyTilt == nil {
		return 0
	}
	return *idea.MyTilt
}

// judge computes the verdict, by what is known of the engine.
func (ev *Evidence) judge(m niches.Known) {
	ev.model = m.Tilted(ev.Tilt)
	ev.Verdict = ev.model.Judge(ev.Field(), ev.Mine)
}

// Field is what stands in front of a page of mine; see Front.
func (ev *Evidence) Field() difficulty.Field { return ev.front().field() }

// Says is the first sentence on the idea: what the goal needs, what mine counts as, and the chance.
func (ev *Evidence) Says() string {
	v := ev.Verdict
	switch {
	case v.Locked != "":
		return fmt.Sprintf("Locked: %s.", v.Locked)
	case ev.Field().Room(difficulty.TheGoal):
		return "So few pages answer it that any page makes the top five."
	}
	return difficulty.Says(v.Difficulty, ev.Mine.Counts(), v.Reach, v.TopFive)
}

// Seen is what can be seen of an entry, on the scale of site standing.
func (ev *Evidence) Seen(e serp.Entry) float64 {
	return ev.model.OnScale(ev.model.Strength(difficulty.SignalsOf(e)))
}

// Engine is what is known of the engine that the verdict is reckoned with.
func (ev *Evidence) Engine() difficulty.Model { return ev.model.Model }

// Page is what can be seen of my page.
func (ev *Evidence) Page() difficulty.Signals { return ev.model.Signals(ev.Mine) }

// Chances are those of each of the first positions for my page.
func (ev *Evidence) Chances() []float64 {
	return ev.model.Distribution(ev.Field(), ev.model.Signals(ev.Mine))[:difficulty.Ranks]
}

// renew brings evidence that was reckoned by an older calibration to the present one.
// Nobody is asked.
func (ev *Evidence) renew() {
	if ev.Model == present() {
		return
	}
	for i := range ev.Reading.Entries {
		e := &ev.Reading.Entries[i]
		if ev.Model.Gain != links.LinkGain {
			e.PageStanding = links.Regain(e.PageStanding, ev.Model.Gain)
			e.Profile.Standing = e.PageStanding
		}
		e.Fit = e.Fit.Renewed(ev.Model.First)
	}
	ev.Reading.CountFootholds()
	ev.Model = present()
}

// Curve is which share of searches clicks on each place.
func (ev *Evidence) Curve() worth.Curve { return ev.model.Curve }
