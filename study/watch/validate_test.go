package watch_test

import (
	"encoding/json"
	"os"
	"slices"
	"testing"

	"cleverniche/core/faults"
	"cleverniche/market"
)

// TestFaultsAgainstHTMLValidate: where the rules of html-validate 11 say the same as faults of ours (empty-title,
// element-required-content, long-title at 70, heading-level without a second heading of the first level), they say it
// of the same pages. e2e/validate.spec.mjs holds what is recorded against the program itself.
func TestFaultsAgainstHTMLValidate(t *testing.T) {
	data, err := os.ReadFile("testdata/faults/html-validate.json")
	if err != nil {
		t.Fatal(err)
	}
	var want map[string][]string
	if err := json.Unmarshal(data, &want); err != nil || len(want) < 7 {
		t.Fatal(len(want), err)
	}
	overlap := []string{"title", "title long", "heading", "headings"}
	for name, keys := range want {
		body, err := os.ReadFile("testdata/faults/" + name)
		if err != nil {
			t.Fatal(err)
		}
		p, err := market.ReadPage(market.Fetched{URL: "https://mine.example/" + name, ContentType: "text/html", Body: body})
		if err != nil {
			t.Fatal(err)
		}
		got := []string{}
		for _, f := range faults.Of([]faults.Page{{URL: p.URL, Phrase: "moon map", Title: p.Title,
			Description: p.Description, Main: p.H1, Headings: p.Headings, Words: p.Words}}, "en") {
			if slices.Contains(overlap, f.Key) {
				got = append(got, f.Key)
			}
		}
		if slices.Sort(got); !slices.Equal(got, keys) {
			t.Errorf("%s: %q, html-validate %q", name, got, keys)
		}
	}
}
