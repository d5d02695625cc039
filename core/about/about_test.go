package about

import (
	"encoding/json"
	"fmt"
	"math"
	"os"
	"slices"
	"strings"
	"testing"
)

func ExampleTerms() {
	page := Page{Title: "How to Clean a Telescope Mirror", H1: []string{"Cleaning a telescope mirror"},
		Headings: []string{"What you need", "Telescope mirror coatings"},
		Text:     "A telescope mirror needs no polish. Wash the telescope mirror in water. Water does no harm."}
	for _, t := range Terms([]Page{page}, "en", 2) {
		fmt.Println(t.Phrase, t.Times, strings.Join(t.In, ", "))
	}
	fmt.Println(Meant("cleaning a telescope mirror", Terms([]Page{page}, "en", 10), "en"))
	// Output:
	// telescope mirror 5 title, main heading, headings, text
	// clean a telescope mirror 2 title, main heading
	// true
}

// TestWeighAgainstScikitLearn: weights are those that scikit-learn's TfidfVectorizer has of the same words and pairs of
// words (testdata/tfidf.json, written by scripts/second-tfidf.py).
func TestWeighAgainstScikitLearn(t *testing.T) {
	data, err := os.ReadFile("testdata/tfidf.json")
	if err != nil {
		t.Fatal(err)
	}
	var theirs struct {
		Documents []struct {
			Text    string
			Weights map[string]float64
		}
	}
	if err := json.Unmarshal(data, &theirs); err != nil {
		t.Fatal(err)
	}
	var docs []map[string]float64
	for _, d := range theirs.Documents {
		times := map[string]float64{}
		words := strings.Fields(d.Text)
		for i, w := range words {
			if times[w]++; i > 0 {
				times[words[i-1]+" "+w]++
			}
		}
		docs = append(docs, times)
	}
	compared := 0
	for i, ours := range Weigh(docs) {
		if len(ours) != len(theirs.Documents[i].Weights) {
			t.Errorf("document %d: %d terms and %d", i, len(ours), len(theirs.Documents[i].Weights))
		}
		for term, w := range theirs.Documents[i].Weights {
			if compared++; math.Abs(ours[term]-w) > 1e-9 {
				t.Errorf("document %d, %s: %v, and %v there", i, term, ours[term], w)
			}
		}
	}
	if compared < 300 {
		t.Errorf("only %d weights compared", compared)
	}
}

// TestTerms: what stands on all pages weighs less than what is rare; parts of longer phrases are left out; no phrase
// goes over the end of a sentence.
func TestTerms(t *testing.T) {
	pages := []Page{
		{Title: "Moon maps | Night porch", Text: "The moon map. Night porch tells all."},
		{Title: "Star wheels | Night porch", Text: "A star wheel! Night porch knows. Wheel kit"},
		{Title: "Saturn rings | Night porch", Text: "Saturn rings, night porch"},
	}
	terms := Terms(pages, "en", 20)
	at := func(p string) int { return slices.IndexFunc(terms, func(t Term) bool { return t.Phrase == p }) }
	night := at("night porch")
	if night < 0 || terms[night].Pages != 3 || terms[night].Times != 6 {
		t.Errorf("%+v", terms)
	}
	for _, gone := range []string{"night", "porch", "map night", "wheel wheel", "wheel night porch", "the moon map"} {
		if at(gone) >= 0 {
			t.Errorf("%q is a phrase of its own", gone)
		}
	}
	if got := Terms(nil, "en", 5); len(got) != 0 {
		t.Errorf("of nothing: %v", got)
	}
	if got := Terms([]Page{{Text: "\x00\xff"}, {}}, "xx", 5); len(got) > 1 {
		t.Errorf("of noise: %v", got)
	}
	if Meant("beekeeping for beginners", terms, "en") || !Meant("star wheel for kids", terms, "en") ||
		!Meant("", terms, "en") {
		t.Error("what it is meant for")
	}
}

func BenchmarkTerms(b *testing.B) {
	text := strings.Repeat("a telescope mirror in the night sky over the northern hills shows saturn and its rings. ", 150)
	pages := slices.Repeat([]Page{{Title: "Telescope mirrors", Text: text}}, 50)
	for b.Loop() {
		Terms(pages, "en", 50)
	}
}
