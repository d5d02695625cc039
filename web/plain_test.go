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

// How long sentences on screens are at most, and in the mean, in words.
const (
	mostSentence = 25
	meanSentence = 12
)

// TestSentencesAreShort: what templates say can be read at once.
func TestSentencesAreShort(t *testing.T) {
	blocks := regexp.MustCompile(`(?i)</?(p|li|td|th|h[1-6]|dt|dd|label|button|small|option|legend|summary|figcaption|` +
		`section|div|ul|tr|a)\b[^>]*>`)
	tags := regexp.MustCompile(`(?s)<[^>]*>`)
	branches := regexp.MustCompile(`(?s)\{\{-? *(if|else|end|range|with|template|define|block)\b.*?\}\}`)
	values := regexp.MustCompile(`(?s)\{\{.*?\}\}`)
	ends := regexp.MustCompile(`[.:;?!](?:\s|$)|\x00|·`)
	sentences, words := 0, 0
	err := filepath.WalkDir(".", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || filepath.Ext(path) != ".html" {
			return err
		}
		data, err := os.ReadFile(path)
		if err != nil {
			return err
		}
		text := blocks.ReplaceAllString(string(data), "\x00")
		text = values.ReplaceAllString(branches.ReplaceAllString(text, "\x00"), " x ")
		for _, s := range ends.Split(tags.ReplaceAllString(text, " "), -1) {
			n := 0
			for _, w := range strings.Fields(s) {
				if strings.ContainsFunc(w, func(r rune) bool { return r >= 'a' && r <= 'z' || r >= 'A' && r <= 'Z' }) {
					n++
				}
			}
			if n == 0 || n == 1 && strings.TrimSpace(s) == "x" {
				continue
			}
			sentences, words = sentences+1, words+n
			if n > mostSentence {
				t.Errorf("%s: %d words: %s", path, n, strings.Join(strings.Fields(s), " "))
			}
		}
		return nil
	})
	mean := float64(words) / float64(max(1, sentences))
	t.Logf("%d sentences of %.1f words in the mean", sentences, mean)
	if err != nil || mean > meanSentence {
		t.Errorf("%.1f words in the mean, %v", mean, err)
	}
}
