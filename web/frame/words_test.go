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

// TestLinked: addresses in a text are links, to what was read where a browser cannot go, and nothing else is markup.
func TestLinked(t *testing.T) {
	s := &Server{Reached: []string{".example"}}
	for text, want := range map[string]string{
		"no address":  "no address",
		"<b>bold</b>": "&lt;b&gt;bold&lt;/b&gt;",
		"<i> http://b.test/x": `&lt;i&gt; <a href="http://b.test/x" rel="noopener noreferrer nofollow" ` +
			`target="_blank">http://b.test/x</a>`,
		"No. 1: http://a.example/b?c=1&d=2. Weak": `No. 1: <a href="/read?url=http%3A%2F%2Fa.example%2Fb%3Fc%3D1%26d%3D2" ` +
			`rel="noopener noreferrer nofollow" target="_blank">http://a.example/b?c=1&amp;d=2</a>. Weak`,
		"(https://b.test/x)": `(<a href="https://b.test/x" rel="noopener noreferrer nofollow" target="_blank">` +
			`https://b.test/x</a>)`,
		`http://x.test/"onclick=a`: `<a href="http://x.test/" rel="noopener noreferrer nofollow" target="_blank">` +
			`http://x.test/</a>&#34;onclick=a`,
		"javascript:alert(1)": "javascript:alert(1)",
	} {
		if got := string(s.linked(text)); got != want {
			t.Errorf("%q: %s, want %s", text, got, want)
		}
	}
	for address, want := range map[string]bool{"http://a.example/": true, "http://example/": true,
		"http://example.com/": false, "http://a.examples/": false, "::": false} {
		if s.Elsewhere(address) != want {
			t.Errorf("%s is elsewhere: %v", address, !want)
		}
	}
}
