package phrase

import "testing"

// TestPlaceIn: what is wanted near a place is told, and a word that only looks like a place is not; common practice, no
// source.
func TestPlaceIn(t *testing.T) {
	for normal, want := range map[string]string{
		"letterpress studios in chicago":    "in chicago",
		"telescope shops near me":           "near me",
		"cheese making classes new york":    "new york",
		"star parties in maine":             "in maine",
		"dark sky parks near salt lake":     "",
		"nearest planetarium":               "nearest",
		"buffalo mozzarella recipe":         "",
		"how to grow boston ferns":          "",
		"fern shows in boston":              "in boston",
		"reading list for astronomers":      "",
		"how to see saturn in january":      "",
		"press used in york":                "in york",
		"kentish cheese":                    "",
		"best telescope for beginners":      "",
		"how to store cheddar in a fridge":  "",
		"north carolina":                    "north carolina",
		"letterpress wedding cards houston": "houston",
	} {
		if got := PlaceIn(normal, "en"); got != want {
			t.Errorf("%q: %q, want %q", normal, got, want)
		}
		if has := Has(Shapes(normal, "en"), Place); has != (want != "") {
			t.Errorf("%q names a place: %v", normal, has)
		}
	}
	if PlaceIn("telescope in chicago", "xx") != "" {
		t.Error("a place in a language nobody knows")
	}
}
