package frame

import (
	"testing"
	"time"

	"cleverniche/core/sieve"
	"cleverniche/store"
	"cleverniche/study/ideas"
	"cleverniche/study/niches"
)

func TestStrangersAddresses(t *testing.T) {
	for address, want := range map[string]string{"http://a.example/x": "http://a.example/x",
		"https://b.example":   "https://b.example",
		"javascript:alert(1)": "#", "data:text/html,x": "#", "": "#", "//c.example": "#", "HTTP://d.example": "#"} {
		if got := safeURL(address); got != want {
			t.Errorf("%q leads to %q", address, got)
		}
	}
}

func TestAgo(t *testing.T) {
	for d, want := range map[time.Duration]string{0: "just now", 59 * time.Second: "just now", time.Minute: "1 minute ago",
		90 * time.Minute: "1 hour ago", 49 * time.Hour: "2 days ago", 800 * 24 * time.Hour: "2 years ago",
		-time.Hour: "just now"} {
		if got := ago(d); got != want {
			t.Errorf("%v: %q", d, got)
		}
	}
	if Plural(1, "idea", "ideas") != "idea" || Plural(0, "idea", "ideas") != "ideas" || Capital("") != "" {
		t.Error("words")
	}
}

// TestMixedIntentIsMarked, and no other figure is.
func TestMixedIntentIsMarked(t *testing.T) {
	at := time.Date(2026, 11, 26, 0, 0, 0, 0, time.UTC)
	for _, mixed := range []bool{true, false} {
		idea := ideas.FromRow(store.Idea{Phrase: "moon map", JudgedAt: &at, Mixed: mixed}, 0)
		s := speak(niches.Niche{Language: "en", Country: "US"}, at)
		if got := s.Cell(idea, sieve.Intent).Mixed; got != mixed || s.Cell(idea, sieve.Difficulty).Mixed {
			t.Errorf("mixed %v is shown as %v", mixed, got)
		}
	}
}
