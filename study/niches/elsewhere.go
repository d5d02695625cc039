package niches

import (
	"encoding/json"
	"slices"
	"strings"

	"cleverniche/market"
	"cleverniche/study/input"
	"cleverniche/study/places"
)

// Elsewhere are other engines, countries and languages in which results are looked at, too, each beside what the niche
// has otherwise. Countries are ISO 3166-1 alpha-2, languages ISO 639-1.
type Elsewhere struct {
	Engines   []string `json:"engines,omitempty"`
	Countries []string `json:"countries,omitempty"`
	Languages []string `json:"languages,omitempty"`
}

// Scene is one of these.
type Scene struct {
	Engine string // "" the usual one
	market.Locale
	Name string // as it is shown
}

// Bounds of what is looked at elsewhere.
const (
	MostScenes     = 8
	MostEngineName = 40
)

// Scenes lists them.
func (n Niche) Scenes() (out []Scene) {
	here := n.Locale()
	for _, e := range n.Elsewhere.Engines {
		out = append(out, Scene{e, here, e})
	}
	for _, c := range n.Elsewhere.Countries {
		out = append(out, Scene{"", market.Locale{Country: c, Language: here.Language}, places.Countries().Name(c)})
	}
	for _, l := range n.Elsewhere.Languages {
		out = append(out, Scene{"", market.Locale{Country: here.Country, Language: l}, places.Languages().Name(l)})
	}
	return out
}

// Key names a scene in forms.
func (s Scene) Key() string { return s.Engine + "|" + s.Country + "|" + s.Language }

// check reads names of countries and languages, and takes each once.
func (e *Elsewhere) check(n *Niche) error {
	once := func(field string, list []string, own string, code func(string) string, says string) ([]string, error) {
		var out []string
		for _, text := range list {
			text = strings.Join(strings.Fields(text), " ")
			is := code(text)
			switch {
			case text == "":
			case is == "":
				return nil, input.Bad(field, says, input.Clip(text, 60))
			case is != own && !slices.Contains(out, is):
				out = append(out, is)
			}
		}
		return out, nil
	}
	var err error
	engine := func(text string) string {
		if len(text) > MostEngineName || strings.ContainsAny(text, "|\x00") {
			return ""
		}
		return strings.ToLower(text)
	}
	if e.Engines, err = once("other-engines", e.Engines, "", engine,
		"“%s” is not the name of an engine."); err != nil {
		return err
	}
	if e.Countries, err = once("other-countries", e.Countries, n.Country, places.Countries().Code,
		"“%s” is not a country. Try United Kingdom or GB."); err != nil {
		return err
	}
	if e.Languages, err = once("other-languages", e.Languages, n.Language, places.Languages().Code,
		"“%s” is not a language. Try German or de."); err != nil {
		return err
	}
	if k := len(e.Engines) + len(e.Countries) + len(e.Languages); k > MostScenes {
		return input.Bad("other-engines", "At most %d engines, countries and languages together.", MostScenes)
	}
	return nil
}

func (e Elsewhere) write() string {
	if len(e.Engines)+len(e.Countries)+len(e.Languages) == 0 {
		return ""
	}
	body, err := json.Marshal(e)
	if err != nil { // lists of texts
		panic(err)
	}
	return string(body)
}

func readElsewhere(text string) (e Elsewhere) {
	if text == "" || json.Unmarshal([]byte(text), &e) != nil {
		return Elsewhere{}
	}
	return e
}
