package web_test

import (
	"html/template"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"cleverniche/web/frame"
)

// own reads the files of a folder that match.
func own(t *testing.T, patterns ...string) string {
	t.Helper()
	var out strings.Builder
	for _, p := range patterns {
		names, err := filepath.Glob(p)
		if err != nil {
			t.Fatal(err)
		}
		for _, name := range names {
			data, err := os.ReadFile(name)
			if err != nil {
				t.Fatal(err)
			}
			out.Write(data)
		}
	}
	return out.String()
}

// TestStylesStayAtHome: what a screen's stylesheet says is said of something that its own templates or scripts make,
// so that no screen changes how another looks. (The list's cells have the keys of figures as classes.)
func TestStylesStayAtHome(t *testing.T) {
	sheets, err := filepath.Glob("*/*.css")
	if err != nil || len(sheets) < 10 {
		t.Fatalf("%d stylesheets, %v", len(sheets), err)
	}
	comment, rule := regexp.MustCompile(`(?s)/\*.*?\*/`), regexp.MustCompile(`([^{}]+)\{`)
	name := regexp.MustCompile(`[.#]([a-zA-Z][\w-]*)`)
	for _, sheet := range sheets {
		dir := filepath.Dir(sheet)
		if dir == "frame" || dir == "static" { // what is of all screens
			continue
		}
		made := own(t, dir+"/*.html", dir+"/*.js", dir+"/*.go")
		makes := func(name string) bool {
			whole, _ := regexp.MatchString(`(^|[^\w-])`+name+`($|[^\w-])`, made)
			kind, _, _ := strings.Cut(name, "-") // as class="asks-{{.Kind}}"
			return whole || strings.Contains(made, kind+"-{{")
		}
		for _, m := range rule.FindAllStringSubmatch(comment.ReplaceAllString(own(t, sheet), ""), -1) {
			selectors := strings.TrimSpace(m[1])
			names := name.FindAllStringSubmatch(selectors, -1)
			if strings.HasPrefix(selectors, "@") || len(names) == 0 && strings.Trim(selectors, "0123456789%., fromt\n") == "" {
				continue
			}
			some := false
			for _, n := range names {
				some = some || makes(n[1])
			}
			if !some {
				t.Errorf("%s: %q is nothing of %s", sheet, selectors, dir)
			}
		}
	}
}

// TestBoundsAreKnown: every field that a template asks the bounds of has some.
func TestBoundsAreKnown(t *testing.T) {
	asked := regexp.MustCompile(`bounds"? "([^"]+)"`).FindAllStringSubmatch(own(t, "*/*.html"), -1)
	if len(asked) < 14 {
		t.Fatalf("only %d fields with bounds", len(asked))
	}
	bounds := (&frame.Server{}).Functions()["bounds"].(func(string) (template.HTMLAttr, error))
	for _, m := range asked {
		if _, err := bounds(m[1]); err != nil {
			t.Error(err)
		}
	}
	if _, err := bounds("height"); err == nil {
		t.Error("anything has bounds")
	}
	if typed := regexp.MustCompile(`(?:maxlength|[^\w-]min|[^\w-]max)="\d`).FindString(own(t, "*/*.html")); typed != "" {
		t.Errorf("a template says a bound itself: %s", typed)
	}
}
