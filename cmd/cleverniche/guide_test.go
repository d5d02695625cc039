package main

import (
	"html"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
)

// guides are the documents that name buttons, keys and commands: README and the guide.
func guides(t *testing.T) map[string]string {
	out := map[string]string{}
	list, err := filepath.Glob("../../docs/guide/*.md")
	if err != nil || len(list) < 9 {
		t.Fatalf("%d pages, %v", len(list), err)
	}
	for _, path := range append(list, "../../README.md") {
		data, err := os.ReadFile(path)
		if err != nil {
			t.Fatal(err)
		}
		out[filepath.Base(path)] = string(data)
	}
	return out
}

// onScreens is all text of templates, scripts and screens, with one blank for any white space.
func onScreens(t *testing.T) string {
	var b strings.Builder
	for _, folder := range []string{"../../web", "../../core/sieve", "../../study"} {
		err := filepath.WalkDir(folder, func(path string, d fs.DirEntry, err error) error {
			if err != nil || d.IsDir() || strings.Contains(path, "static/lib") || strings.HasSuffix(path, "_test.go") {
				return err
			}
			switch filepath.Ext(path) {
			case ".html", ".js", ".go":
				data, err := os.ReadFile(path)
				b.Write(data)
				b.WriteByte('\n')
				return err
			}
			return nil
		})
		if err != nil {
			t.Fatal(err)
		}
	}
	return strings.Join(strings.Fields(html.UnescapeString(b.String())), " ")
}

var (
	boldRE  = regexp.MustCompile(`\*\*([^*]+)\*\*`)
	codeRE  = regexp.MustCompile("`([^`\n]+)`")
	fenceRE = regexp.MustCompile("(?s)```sh\n(.*?)```")
	keyRE   = regexp.MustCompile(`(?:declare\(|act\()[^{]*\{([^}]*)\}`)
	actRE   = regexp.MustCompile(`(?:"([^"]+)"|\b([A-Za-z?]+)):`)
)

// TestTheGuideNamesWhatIsThere: what README and the guide call a button is on a screen, a key does something, and a
// command with its flags can be given.
func TestTheGuideNamesWhatIsThere(t *testing.T) {
	screens := onScreens(t)
	keys := map[string]bool{"Esc": true, "Space": strings.Contains(screens, `" ": () => decide("keep", true)`),
		"Enter": strings.Contains(screens, "Enter:")}
	for _, m := range keyRE.FindAllStringSubmatch(screens, -1) {
		for _, k := range actRE.FindAllStringSubmatch(m[1], -1) {
			keys[k[1]+k[2]] = true
		}
	}
	names := 0
	for page, text := range guides(t) {
		for _, m := range boldRE.FindAllStringSubmatch(text, -1) {
			name := strings.Join(strings.Fields(m[1]), " ")
			if names++; !strings.Contains(screens, name) {
				t.Errorf("%s names “%s”, which is on no screen", page, name)
			}
		}
		var commands []string
		for _, m := range fenceRE.FindAllStringSubmatch(text, -1) {
			commands = append(commands, strings.Split(m[1], "\n")...)
		}
		for _, m := range codeRE.FindAllStringSubmatch(fenceRE.ReplaceAllString(text, ""), -1) {
			code := m[1]
			switch {
			case strings.HasPrefix(code, "cleverniche "):
				commands = append(commands, code)
			case strings.HasPrefix(code, "--"):
				flag := strings.Fields(strings.TrimPrefix(code, "--"))[0]
				if name, _, _ := strings.Cut(flag, "="); rootCommand().PersistentFlags().Lookup(name) == nil &&
					name != "json" {
					t.Errorf("%s names the flag %s, which there is not", page, code)
				}
			case len([]rune(code)) == 1 || code == "Space" || code == "Enter" || code == "Esc":
				if !keys[code] {
					t.Errorf("%s names the key %s, which does nothing", page, code)
				}
			}
		}
		for _, line := range commands {
			for _, part := range strings.Split(line, "|") {
				words := strings.Fields(part)
				for len(words) > 0 && !strings.HasSuffix(words[0], "cleverniche") {
					words = words[1:]
				}
				if len(words) < 2 || strings.Contains(part, "podman") || strings.Contains(part, "systemctl") {
					continue
				}
				found, _, err := rootCommand().Find(words[1:])
				if err != nil || found.Name() == "cleverniche" {
					t.Errorf("%s: “%s”: %v", page, part, err)
					continue
				}
				for _, w := range words {
					name, _, _ := strings.Cut(strings.TrimPrefix(w, "--"), "=")
					if strings.HasPrefix(w, "--") && found.Flag(name) == nil && found.InheritedFlags().Lookup(name) == nil {
						t.Errorf("%s: “%s”: there is no flag --%s", page, part, name)
					}
				}
			}
		}
	}
	if names < 25 {
		t.Errorf("%d names of buttons", names)
	}
	unit, err := os.ReadFile("../../docs/operating/cleverniche.service")
	if err != nil || !strings.Contains(guides(t)["operating.md"], string(unit)) {
		t.Errorf("the guide's unit is another than the file's: %v", err)
	}
}

// How long sentences of README and the guide are, in words: in the mean, and at most (docs: words are for people who
// read in the evening).
const (
	meanSentence = 12
	mostSentence = 25
)

// TestTheGuideIsReadable: sentences are short.
func TestTheGuideIsReadable(t *testing.T) {
	sentences, words := 0, 0
	for page, text := range guides(t) {
		if page == "configuration.md" {
			continue // its example is a file
		}
		text = regexp.MustCompile("(?s)```.*?```").ReplaceAllString(text, "")
		text = regexp.MustCompile(`\]\([^)]*\)`).ReplaceAllString(text, "]")
		var paras []string
		at := ""
		for _, line := range append(strings.Split(text, "\n"), "") {
			trimmed := strings.TrimSpace(line)
			begins := trimmed == "" || strings.HasPrefix(line, "    ") || strings.HasPrefix(trimmed, "#") ||
				strings.HasPrefix(trimmed, "|") || strings.HasPrefix(trimmed, "- ") || strings.HasPrefix(trimmed, "![") ||
				regexp.MustCompile(`^\d+\. `).MatchString(trimmed)
			if begins && at != "" {
				paras, at = append(paras, at), ""
			}
			switch {
			case strings.HasPrefix(line, "    "), strings.HasPrefix(trimmed, "!["), strings.HasPrefix(trimmed, "#"):
			case strings.HasPrefix(trimmed, "|"):
				paras = append(paras, strings.Split(strings.Trim(trimmed, "|"), "|")...)
			default:
				at = strings.TrimSpace(at + " " + trimmed)
			}
		}
		for _, para := range paras {
			para = regexp.MustCompile(`^(\d+\.|-) `).ReplaceAllString(para, "")
			for _, s := range regexp.MustCompile(`[.:;?!](?:\s|$)|·`).Split(para, -1) {
				n := 0
				for _, w := range strings.Fields(s) {
					if strings.ContainsAny(strings.ToLower(w), "abcdefghijklmnopqrstuvwxyz0123456789") {
						n++
					}
				}
				if n == 0 {
					continue
				}
				sentences, words = sentences+1, words+n
				if n > mostSentence {
					t.Errorf("%s: %d words: %s", page, n, strings.TrimSpace(s))
				}
			}
		}
	}
	mean := float64(words) / float64(max(1, sentences))
	t.Logf("%d sentences of %.1f words in the mean", sentences, mean)
	if mean > meanSentence {
		t.Errorf("sentences have %.1f words in the mean", mean)
	}
}
