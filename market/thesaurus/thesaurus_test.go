package thesaurus

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
)

// simple is the example of MyThes' data_layout.txt, word for word.
const simple = `simple|9
(adj)|simple |elemental|ultimate|oversimplified|simplistic|simplex|simplified|unanalyzable|` +
	`undecomposable|uncomplicated|unsophisticated|easy|plain|unsubdivided
(adj)|elementary|uncomplicated|unproblematic|easy
(adj)|bare|mere|plain
(adj)|childlike|wide-eyed|dewy-eyed|naive |naif
(adj)|dim-witted|half-witted|simple-minded|retarded
(adj)|simple |unsubdivided|unlobed|smooth
(adj)|plain
(noun)|herb|herbaceous plant
(noun)|simpleton|person|individual|someone|somebody|mortal|human|soul
`

// write writes a thesaurus into a folder, with its index; entries begin with a line without a bracket.
func write(t *testing.T, name, encoding, entries string) (folder string) {
	t.Helper()
	folder = t.TempDir()
	data := encoding + "\n" + entries
	var index []string
	at := 0
	for line := range strings.Lines(data) {
		if word, _, ok := strings.Cut(line, "|"); ok && !strings.HasPrefix(line, "(") && !strings.HasPrefix(line, "-") {
			index = append(index, fmt.Sprint(word, "|", at))
		}
		at += len(line)
	}
	slices.Sort(index)
	text := fmt.Sprintf("%s\n%d\n%s\n", encoding, len(index), strings.Join(index, "\n"))
	put(t, filepath.Join(folder, name+".dat"), data)
	put(t, filepath.Join(folder, name+".idx"), text)
	return folder
}

func put(t *testing.T, name, text string) {
	t.Helper()
	if err := os.WriteFile(name, []byte(text), 0o600); err != nil {
		t.Fatal(err)
	}
}

// TestItsOwnExample: what MyThes' description says of "simple" is what is read: nine meanings, each with its part of
// speech and its words.
func TestItsOwnExample(t *testing.T) {
	text := "a|1\n(noun)|b\n" + simple + "z\xe9ro|1\n(noun)|nil (generic term)\n"
	th, err := Open(write(t, "th_en_US_v2", "ISO8859-1", text), "en")
	if err != nil {
		t.Fatal(err)
	}
	got, err := th.Meanings("Simple")
	if err != nil || len(got) != 9 {
		t.Fatalf("%d meanings, %v", len(got), err)
	}
	if got[0].Kind != "adj" || got[0].Words[0].Text != "simple" || len(got[0].Words) != 14 ||
		got[7].Kind != "noun" || got[7].Words[1].Text != "herbaceous plant" || got[8].Words[7].Text != "soul" {
		t.Errorf("%+v", got)
	}
	if zero, err := th.Meanings("zéro"); err != nil || zero[0].Words[0] != (Word{"nil", "generic term"}) {
		t.Errorf("%+v, %v", zero, err)
	}
	if none, err := th.Meanings("nothing"); none != nil || err != nil || th.Has("nothing") {
		t.Errorf("%+v, %v", none, err)
	}
}

// TestDebians reads Debian's English thesaurus (mythes-en-us), all of it: its index says how many entries there are.
func TestDebians(t *testing.T) {
	th, err := Open("/usr/share/mythes", "en")
	if errors.Is(err, ErrNone) && os.Getenv("CLEVERNICHE_REFERENCES") != "required" {
		t.Skip("mythes-en-us is not installed")
	}
	if err != nil {
		t.Fatal(err)
	}
	if len(th.at) != 145_866 {
		t.Errorf("%d entries", len(th.at))
	}
	n := 0
	for entry := range th.at {
		if n++; n%97 == 0 {
			if m, err := th.Meanings(entry); err != nil || len(m) == 0 {
				t.Fatalf("%s: %v, %v", entry, m, err)
			}
		}
	}
	got, err := th.Meanings("binoculars")
	if err != nil || len(got) != 1 || got[0].Words[0].Text != "field glasses" {
		t.Errorf("%+v, %v", got, err)
	}
}

// TestNoThesaurus: files that are none, lie about what they hold, or are cut short are told.
func TestNoThesaurus(t *testing.T) {
	if _, err := Open(t.TempDir(), "en"); !errors.Is(err, ErrNone) {
		t.Error(err)
	}
	if _, err := Open(write(t, "th_de_DE", "UTF-8", simple), "en"); !errors.Is(err, ErrNone) {
		t.Errorf("of another language: %v", err)
	}
	for what, index := range map[string]string{"empty": "", "a picture": "\x89PNG\r\n\x1a\n\x00",
		"no number": "UTF-8\nx\n", "no place": "UTF-8\n1\nsimple\n", "a place before the start": "UTF-8\n1\nsimple|-4\n",
		"too many": "UTF-8\n99999999999\n"} {
		folder := t.TempDir()
		put(t, filepath.Join(folder, "th_en.idx"), index)
		if _, err := Open(folder, "en"); err == nil || errors.Is(err, ErrNone) {
			t.Errorf("%s: %v", what, err)
		}
	}
	for what, data := range map[string]string{"elsewhere": "UTF-8\nother|1\n(noun)|x\n",
		"cut short": "UTF-8\nsimple|3\n(noun)|x\n", "very many": "UTF-8\nsimple|99999\n(noun)|x\n", "nothing": ""} {
		folder := t.TempDir()
		put(t, filepath.Join(folder, "th_en.idx"), "UTF-8\n1\nsimple|6\n")
		put(t, filepath.Join(folder, "th_en.dat"), data)
		th, err := Open(folder, "en")
		if err != nil {
			t.Fatal(err)
		}
		if m, err := th.Meanings("simple"); err == nil {
			t.Errorf("%s: %+v", what, m)
		}
	}
}
