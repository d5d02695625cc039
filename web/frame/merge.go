package frame

import (
	"encoding/json"
	"net/url"
	"strings"

	"github.com/gofiber/fiber/v3"
)

// A form that says what it was filled from lets two people change the same thing: what one did not touch is not
// written, and who changes what another one changed meanwhile is shown that before it is replaced.

// was is the field of a form that says what its other fields held, as a JSON object.
const was = "was"

// Filled is what a form says that it was filled from: its fields' values.
func Filled(values map[string]string) string {
	text, _ := json.Marshal(values) // of texts
	return string(text)
}

// Merge puts what is there now into the fields of a form that nobody touched. theirs are those that were touched here
// and changed elsewhere, as they are now. A form that does not say what it was filled from is left alone.
func Merge(typed url.Values, now map[string]string) (theirs map[string]string) {
	var before map[string]string
	if json.Unmarshal([]byte(typed.Get(was)), &before) != nil {
		return nil
	}
	theirs = map[string]string{}
	for field, is := range now {
		was, said := before[field]
		switch mine := typed.Get(field); {
		case !said || was == is:
		case mine == was:
			typed.Set(field, is)
		case mine != is:
			theirs[field] = is
		}
	}
	return theirs
}

// Was is what the one text of a form was when it was filled; nil where the form does not say.
func Was(c fiber.Ctx) *string {
	if !c.Request().PostArgs().Has(was) {
		return nil
	}
	text := strings.ReplaceAll(c.FormValue(was), "\r\n", "\n")
	return &text
}
