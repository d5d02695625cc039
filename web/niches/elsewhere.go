package niches

import (
	"strconv"
	"strings"

	"cleverniche/study/ask"
	"cleverniche/study/input"
	"cleverniche/study/niches"
	"cleverniche/study/places"

	"github.com/gofiber/fiber/v3"
)

// elsewhereField is a field of what is looked at elsewhere.
type elsewhereField struct {
	Field, Label, Says string
	of                 func(*niches.Elsewhere) *[]string
	name               func(string) string
}

func itself(text string) string { return text }

var elsewhereFields = []elsewhereField{
	{"other-engines", "Other engines", "By the names your results source gives them, with commas between.",
		func(e *niches.Elsewhere) *[]string { return &e.Engines }, itself},
	{"other-countries", "Other countries", "With commas between, such as United Kingdom, Canada.",
		func(e *niches.Elsewhere) *[]string { return &e.Countries }, places.Countries().Name},
	{"other-languages", "Other languages", "With commas between, such as Spanish.",
		func(e *niches.Elsewhere) *[]string { return &e.Languages }, places.Languages().Name},
}

// ElsewhereFields are the fields of what is looked at elsewhere, with their values.
func (f form) ElsewhereFields() (out []map[string]any) {
	for _, e := range elsewhereFields {
		out = append(out, map[string]any{"Field": e.Field, "Label": e.Label, "Says": e.Says, "Value": e.value(f.Values)})
	}
	return out
}

func (e elsewhereField) value(n niches.Niche) string {
	var names []string
	for _, code := range *e.of(&n.Elsewhere) {
		name := e.name(code)
		if name == "" { // it was typed, and is none
			name = code
		}
		names = append(names, name)
	}
	return strings.Join(names, ", ")
}

// depth is a choice of how many results are looked up.
type depth struct {
	Value, Name string
	Chosen      bool
}

// Depths are the choices.
func (f form) Depths() []depth {
	out := []depth{{"0", "as in the configuration", f.Values.Depth == 0}}
	for _, d := range ask.Depths {
		out = append(out, depth{strconv.Itoa(d), strconv.Itoa(d), f.Values.Depth == d})
	}
	return out
}

// readElsewhere reads them. What a form does not name stays.
func readElsewhere(c fiber.Ctx, n *niches.Niche) error {
	args := c.Request().PostArgs()
	if args.Has("depth") {
		d, err := strconv.Atoi(c.FormValue("depth"))
		if err != nil {
			return &input.Error{Field: "depth", Reason: "Look up 10, 20 or 100 results."}
		}
		n.Depth = d
	}
	for _, e := range elsewhereFields {
		if args.Has(e.Field) {
			*e.of(&n.Elsewhere) = strings.FieldsFunc(c.FormValue(e.Field), func(r rune) bool { return r == ',' || r == ';' })
		}
	}
	return nil
}
