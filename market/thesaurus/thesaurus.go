// Package thesaurus reads thesauri in the open MyThes format: a text file of entries with their meanings, and beside it
// an index of where each entry begins. Its source is data_layout.txt of MyThes, which Debian's libmythes-dev holds.
package thesaurus

import (
	"bufio"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/htmlindex"
)

// Bounds of files that are read.
const (
	mostEntries  = 2_000_000
	mostLine     = 1 << 20
	mostMeanings = 200
)

// ErrNone is returned where there is no thesaurus of a language.
var ErrNone = errors.New("no thesaurus of this language is installed")

// Meaning is one meaning of an entry.
type Meaning struct {
	Kind  string // part of speech, or what else tells it from the others; as the file has it, without brackets
	Words []Word
}

// Word is a word or phrase of a meaning.
type Word struct {
	Text string
	Note string // "generic term", say; "" is a synonym
}

// Thesaurus is an open thesaurus. It may be used by several at once.
type Thesaurus struct {
	name    string
	charset encoding.Encoding
	at      map[string]int64 // where an entry begins
}

// Open opens the thesaurus of a language (ISO 639-1) in a folder: the first whose name is th_, the language, and
// anything behind it. It is ErrNone where there is none, and another error where it is none by its form.
func Open(folder, lang string) (*Thesaurus, error) {
	names, err := filepath.Glob(filepath.Join(folder, "th_*.idx"))
	if err != nil {
		return nil, err
	}
	slices.Sort(names)
	for _, name := range names {
		rest := strings.TrimPrefix(filepath.Base(name), "th_")
		if strings.HasPrefix(rest, lang+"_") || strings.HasPrefix(rest, lang+".") {
			return read(strings.TrimSuffix(name, ".idx"))
		}
	}
	return nil, ErrNone
}

func read(name string) (*Thesaurus, error) {
	f, err := os.Open(name + ".idx")
	if err != nil {
		return nil, err
	}
	defer f.Close()
	lines := bufio.NewScanner(f)
	lines.Buffer(nil, mostLine)
	bad := func(format string, args ...any) error {
		return fmt.Errorf("%s.idx is no index of a thesaurus: %s", filepath.Base(name), fmt.Sprintf(format, args...))
	}
	if !lines.Scan() {
		return nil, bad("it is empty")
	}
	charset, err := htmlindex.Get(strings.TrimSpace(lines.Text()))
	if err != nil {
		return nil, bad("its first line is no encoding")
	}
	if !lines.Scan() {
		return nil, bad("it has no number of entries")
	}
	n, err := strconv.Atoi(strings.TrimSpace(lines.Text()))
	if err != nil || n < 0 || n > mostEntries {
		return nil, bad("its second line is no number of entries")
	}
	t := &Thesaurus{name: name + ".dat", charset: charset, at: make(map[string]int64, min(n, 1<<18))}
	decode := charset.NewDecoder()
	for lines.Scan() && len(t.at) < mostEntries {
		word, offset, ok := strings.Cut(lines.Text(), "|")
		at, err := strconv.ParseInt(strings.TrimSpace(offset), 10, 64)
		if !ok || err != nil || at < 0 {
			return nil, bad("“%.40s” says no place", lines.Text())
		}
		if word, err = decode.String(word); err == nil {
			t.at[strings.ToLower(word)] = at
		}
	}
	if err := lines.Err(); err != nil {
		return nil, bad("%v", err)
	}
	_, err = os.Stat(t.name)
	return t, err
}

// Has reports whether there is an entry.
func (t *Thesaurus) Has(entry string) bool {
	_, there := t.at[strings.ToLower(entry)]
	return there
}

// Meanings are those of an entry; none where it is not in the thesaurus.
func (t *Thesaurus) Meanings(entry string) ([]Meaning, error) {
	at, there := t.at[strings.ToLower(entry)]
	if !there {
		return nil, nil
	}
	f, err := os.Open(t.name)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	if _, err := f.Seek(at, io.SeekStart); err != nil {
		return nil, err
	}
	lines := bufio.NewScanner(f)
	lines.Buffer(nil, mostLine)
	decode := t.charset.NewDecoder()
	next := func() string {
		if !lines.Scan() {
			return ""
		}
		text, err := decode.String(lines.Text())
		if err != nil {
			return ""
		}
		return text
	}
	word, count, ok := strings.Cut(next(), "|")
	n, err := strconv.Atoi(strings.TrimSpace(count))
	if !ok || err != nil || !strings.EqualFold(word, entry) || n < 0 || n > mostMeanings {
		return nil, fmt.Errorf("%s does not have “%s” where its index says", filepath.Base(t.name), entry)
	}
	var out []Meaning
	for range n {
		kind, words, ok := strings.Cut(next(), "|")
		if !ok {
			return nil, fmt.Errorf("%s has less on “%s” than it says", filepath.Base(t.name), entry)
		}
		m := Meaning{Kind: strings.Trim(strings.TrimSpace(kind), "()")}
		for text := range strings.SplitSeq(words, "|") {
			w := wordOf(text)
			if w.Text != "" && !slices.Contains(m.Words, w) {
				m.Words = append(m.Words, w)
			}
		}
		out = append(out, m)
	}
	return out, nil
}

// wordOf takes the note off a word: "magnifier (generic term)".
func wordOf(text string) Word {
	text = strings.TrimSpace(text)
	if before, note, ok := strings.Cut(text, " ("); ok && strings.HasSuffix(note, ")") {
		return Word{strings.TrimSpace(before), strings.TrimSuffix(note, ")")}
	}
	return Word{Text: text}
}
