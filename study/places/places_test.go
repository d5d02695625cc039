package places_test

import (
	"testing"

	"cleverniche/study/places"
)

// TestPlacesByName: names are Unicode CLDR's; ISO 3166-1 had 249 countries in 2026, ISO
// 639-1 some 183 languages (both from memory).
func TestPlacesByName(t *testing.T) {
	countries, languages := places.Countries(), places.Languages()
	if n := len(countries.List()); n < 240 || n > 260 {
		t.Errorf("%d countries", n)
	}
	if n := len(languages.List()); n < 170 || n > 190 {
		t.Errorf("%d languages", n)
	}
	for text, code := range map[string]string{"United States": "US", " germany ": "DE", "gb": "GB",
		"Côte d’Ivoire": "CI",
		"Mars":          "", "": "", "EU": "", "USA": ""} {
		if got := countries.Code(text); got != code {
			t.Errorf("%q is %q, not %q", text, got, code)
		}
	}
	for text, code := range map[string]string{"English": "en", "FR": "fr", "Klingon": "", "de": "de"} {
		if got := languages.Code(text); got != code {
			t.Errorf("%q is %q, not %q", text, got, code)
		}
	}
	if got := countries.Name("US") + languages.Name("en") + languages.Name("?"); got != "United StatesEnglish?" {
		t.Error(got)
	}
}
