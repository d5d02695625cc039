package phrase

import (
	"slices"
	"strings"
	"testing"
)

// TestSubject: words that say how somebody asks are exchanged for one another, and those that say about what are not;
// phrases written for this test, about a subject that no demo has. Common practice, no source.
func TestSubject(t *testing.T) {
	for phrase, want := range map[string]string{
		"best rain barrel reviews":           "rain barrel",
		"top rated rain barrels 2027":        "rain barrel",
		"rain barrel buying guide":           "rain barrel",
		"how to make a rain barrel":          "rain barrel",
		"diy rain barrel step by step":       "rain barrel",
		"rain barrel for renters":            "rain barrel renter",
		"how do i connect two rain barrels":  "connect two rain barrel",
		"rain barrel with no spigot":         "rain barrel no spigot",
		"50 gallon rain barrel":              "50 gallon rain barrel",
		"best reviews":                       "best review", // nothing else is said
		"1999 rain barrel":                   "1999 rain barrel",
		"what does a rain barrel look like":  "rain barrel",
		"how much water does a barrel catch": "water barrel catch",
	} {
		stems := ContentStems(phrase, "en")
		before := slices.Clone(stems)
		if got := strings.Join(Subject(stems, "en"), " "); got != want {
			t.Errorf("%q is about %q, want %q", phrase, got, want)
		}
		if !slices.Equal(stems, before) {
			t.Errorf("%q: what was given was changed", phrase)
		}
	}
	if got := Subject([]string{"beste", "regentonne", "2027"}, "de"); !slices.Equal(got, []string{"beste", "regentonne"}) {
		t.Errorf("in a language whose words are not known: %q", got)
	}
	if Subject(nil, "en") != nil {
		t.Error("nothing has a subject")
	}
}
