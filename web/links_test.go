package web_test

import (
	"net/url"
	"os"
	"regexp"
	"strings"
	"testing"

	"cleverniche/web/webtest"
)

// TestLinksOfDocuments: what a page of the guide, or a document that it names, links to is there.
func TestLinksOfDocuments(t *testing.T) {
	s := webtest.Open(t)
	pages := []string{"/sources", "/unlinked", "/case-measured"}
	entries, err := os.ReadDir("../docs/guide")
	if err != nil || len(entries) < 9 {
		t.Fatal(len(entries), err)
	}
	for _, e := range entries {
		pages = append(pages, "/guide/"+strings.TrimSuffix(e.Name(), ".md"))
	}
	link := regexp.MustCompile(`<a href="([^"#]+)`)
	followed := 0
	for _, page := range pages {
		at, _ := url.Parse(page)
		_, text, _ := strings.Cut(s.Get(page), "<article")
		for _, m := range link.FindAllStringSubmatch(text, -1) {
			if to, err := at.Parse(m[1]); err == nil && to.Host == "" {
				s.Get(to.Path) // which ends the test where there is nothing
				followed++
			}
		}
	}
	if followed < 15 {
		t.Errorf("only %d links", followed)
	}
}
