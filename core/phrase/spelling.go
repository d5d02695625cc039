package phrase

import (
	"slices"
	"strings"
	"unicode/utf8"

	"github.com/hbollon/go-edlib"
)

// When a word counts as read as another: letters of its stem at least, and how many
// titles, and what share of them, say the other.
const (
	shortestRead = 4
	fewestSay    = 2
	shareSays    = 0.3
)

// AsRead is a phrase in normal form as an engine read it: a word that none of the
// results' titles says, but that is one slip of typing from one that many of them say,
// is that word ("chese press" with results about cheese presses). A slip is a letter
// too many, missing or wrong, or two that changed places, as four of five misspellings
// are (Damerau 1964, "A technique for computer detection and correction of spelling
// errors"), and not in the first letter, which is rarely wrong (Pollock & Zamora 1984,
// "Automatic spelling correction in scientific and scholarly text"); both from memory.
// Words that the phrase says already are left out, and so are those with digits.
func AsRead(normal string, titles []string, lang string) string {
	t := readTitles(titles, lang)
	words := Words(normal)
	own := map[string]bool{}
	for _, w := range words {
		own[Stem(w, lang)] = true
	}
	var out strings.Builder
	rest := normal
	for _, w := range words {
		before, after, _ := strings.Cut(rest, w)
		out.WriteString(before)
		out.WriteString(t.word(w, own))
		rest = after
	}
	return out.String() + rest
}

// Said lists, in order, the content stems that many of the results' titles say: three of
// ten. What a phrase asks for and its results are about is among them.
func Said(titles []string, lang string) []string {
	t := readTitles(titles, lang)
	var out []string
	for stem, n := range t.says {
		if float64(n) >= t.many {
			out = append(out, stem)
		}
	}
	slices.Sort(out)
	return out
}

// titles are what results' titles say.
type titles struct {
	lang  string
	many  float64                   // titles that say a word are many from here
	says  map[string]int            // titles, by stem
	forms map[string]map[string]int // how often, by stem and word
}

func readTitles(list []string, lang string) titles {
	t := titles{lang, max(fewestSay, shareSays*float64(len(list))), map[string]int{}, map[string]map[string]int{}}
	for _, title := range list {
		for _, w := range Words(Normal(title)) {
			s := Stem(w, lang)
			if t.forms[s] == nil {
				t.forms[s] = map[string]int{}
			}
			t.forms[s][w]++
		}
		for _, s := range ContentStems(Normal(title), lang) {
			t.says[s]++
		}
	}
	return t
}

// word is what a word is read as; what the phrase's own stems are it is not.
func (t titles) word(w string, own map[string]bool) string {
	s := Stem(w, t.lang)
	if t.forms[s] != nil || utf8.RuneCountInString(s) < shortestRead || strings.ContainsAny(w, digits) ||
		IsFunctionWord(w, t.lang) {
		return w
	}
	best := ""
	for other, n := range t.says {
		if float64(n) >= t.many && !own[other] && oneSlip(s, other) &&
			(n > t.says[best] || n == t.says[best] && other < best) {
			best = other
		}
	}
	if best == "" {
		return w
	}
	return mostOf(t.forms[best])
}

// oneSlip reports whether one stem is another with one slip after its first letter.
func oneSlip(a, b string) bool {
	letters := utf8.RuneCountInString(b)
	differ := letters - utf8.RuneCountInString(a)
	return letters >= shortestRead && -1 <= differ && differ <= 1 && slip(a, b)
}

// slip is oneSlip of words of any length.
func slip(a, b string) bool {
	first, _ := utf8.DecodeRuneInString(a)
	return strings.HasPrefix(b, string(first)) && !strings.ContainsAny(a, digits) && !strings.ContainsAny(b, digits) &&
		edlib.OSADamerauLevenshteinDistance(a, b) == 1
}

const digits = "0123456789"

// Slipped reports whether two phrases are the same but for one slip of typing in one word, as above, however
// short the word. Which of them is right it does not tell.
func Slipped(a, b string) bool {
	x, y := Words(a), Words(b)
	if len(x) != len(y) {
		return false
	}
	slips := 0
	for i := range x {
		if x[i] == y[i] {
			continue
		}
		if slips++; !slip(x[i], y[i]) {
			return false
		}
	}
	return slips == 1
}

// mostOf is the word that was met most, of equal ones the first by letters.
func mostOf(counts map[string]int) string {
	best := ""
	for w, n := range counts {
		if n > counts[best] || n == counts[best] && w < best {
			best = w
		}
	}
	return best
}
