package web_test

import (
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
)

// TestPlainWords: words that the product used to say and that had to be read twice do not come back (docs/glossary.md
// has those it says instead). Templates and scripts are read, where all text is for people but names of code.
func TestPlainWords(t *testing.T) {
	old := regexp.MustCompile(`(?i)\b(reckon(ed)? anew|put(s)? aside|take it along|take all of it|bring it in|` +
		`takes none|under the floor|what the ten serve|hangs on|by themselves|running sheet|sowing calendar|` +
		`mesh(es)?|the whole story|dig from|not now|do it)\b`)
	tags := regexp.MustCompile(`(?s)\{\{.*?\}\}|<[^>]*>`)
	said := regexp.MustCompile("\"[^\"]*\"|`[^`]*`")
	titles := regexp.MustCompile(`(?:title|aria-label|placeholder)="([^"]*)"`)
	files := 0
	err := filepath.WalkDir(".", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || strings.Contains(path, "static/lib") {
			return err
		}
		text := ""
		switch filepath.Ext(path) {
		case ".html":
			data, err := os.ReadFile(path)
			if err != nil {
				return err
			}
			text = tags.ReplaceAllString(string(data), " ")
			for _, m := range titles.FindAllStringSubmatch(string(data), -1) {
				text += " " + m[1]
			}
		case ".js":
			data, err := os.ReadFile(path)
			if err != nil {
				return err
			}
			text = strings.Join(said.FindAllString(string(data), -1), " ")
		default:
			return nil
		}
		files++
		if found := old.FindString(text); found != "" {
			t.Errorf("%s says “%s”", path, found)
		}
		return nil
	})
	if err != nil || files < 80 {
		t.Fatalf("%d files, %v", files, err)
	}
}
