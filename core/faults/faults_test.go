package faults

import (
	"slices"
	"strings"
	"testing"
	"time"
)

// good is a page without faults.
func good() Page {
	return Page{URL: "https://mine.example/moon-maps", Phrase: "moon map", Title: "Moon maps for beginners",
		Description: "Which map of the moon to buy.", Canonical: "/moon-maps/", Main: []string{"Maps of the moon"},
		Words: 900}
}

// TestEveryFault: each fault by itself, and none of a good page.
func TestEveryFault(t *testing.T) {
	if got := Of([]Page{good()}, "en"); len(got) != 0 {
		t.Fatalf("a good page: %+v", got)
	}
	for key, change := range map[string]func(*Page){
		"canonical":          func(p *Page) { p.Canonical = "https://mine.example/other" },
		"https":              func(p *Page) { p.URL = "http://mine.example/moon-maps" },
		"title":              func(p *Page) { p.Title = " " },
		"title misses":       func(p *Page) { p.Title = "Our moon" },
		"title long":         func(p *Page) { p.Title = "Moon maps " + strings.Repeat("and more ", 10) },
		"heading":            func(p *Page) { p.Main = nil },
		"heading misses":     func(p *Page) { p.Main = []string{"Welcome"} },
		"headings":           func(p *Page) { p.Main = append(p.Main, "Second") },
		"description":        func(p *Page) { p.Description = "" },
		"description misses": func(p *Page) { p.Description = "All of it." },
		"redirect":           func(p *Page) { p.Lands, p.Title = "https://other.example/", "" },
		"gone":               func(p *Page) { p.Trouble, p.Why, p.Title = Gone, "404 Not Found", "" },
		"robots":             func(p *Page) { p.Trouble = Robots },
		"unreachable":        func(p *Page) { p.Trouble, p.Why = Unreachable, "it timed out" },
		"unreadable":         func(p *Page) { p.Trouble, p.Why = Unreadable, "it is a picture" },
		"noindex":            func(p *Page) { p.NoIndex = true },
		"broken links":       func(p *Page) { p.Broken = []string{"a", "b", "c", "d"} },
		"unlisted":           func(p *Page) { p.Unlisted = true },
		"slow":               func(p *Page) { p.Took = 2 * time.Second },
		"thin":               func(p *Page) { p.Words = 80 },
	} {
		p := good()
		change(&p)
		got := Of([]Page{p}, "en")
		if len(got) != 1 || got[0].Key != key || got[0].Says == "" || got[0].Mend == "" || got[0].URL != p.URL {
			t.Errorf("%s: %+v", key, got)
		}
	}
}

// TestDoubled: what two pages share is told of both; a page for no phrase misses none; the weightiest come first.
func TestDoubled(t *testing.T) {
	other := good()
	other.URL, other.Canonical, other.Phrase, other.Main = "https://mine.example/b", "", "", nil
	got := Of([]Page{good(), other}, "en")
	var keys []string
	for i, f := range got {
		if keys = append(keys, f.Key); i > 0 && f.Weight > got[i-1].Weight {
			t.Errorf("%s stands below %s", f.Key, got[i-1].Key)
		}
	}
	slices.Sort(keys)
	if strings.Join(keys, ", ") != "description doubled, description doubled, heading, title doubled, title doubled" {
		t.Errorf("%q", keys)
	}
	plain := []Page{good(), good()}
	for i := range plain {
		plain[i].URL, plain[i].Title, plain[i].Description = []string{"http://a.example/1", "http://a.example/2"}[i],
			[]string{"A moon map", "Another moon map"}[i], []string{"One map of the moon.", "Another map of the moon."}[i]
		plain[i].Canonical = ""
	}
	if got := Of(plain, "en"); len(got) != 1 || got[0].Says != "2 of your pages are not on https." {
		t.Errorf("two pages on plain http: %+v", got)
	}
	if got := Of([]Page{{URL: ":"}}, "en"); len(got) == 0 {
		t.Error("an empty page has no fault")
	}
}
