package phrase

import (
	"cmp"
	"slices"
	"strings"
)

// Rooted is a phrase in normal form with what is known of it.
type Rooted struct {
	Phrase   string
	Searches float64 // a month; 0 where that is not known
	Easy     bool
}

// Root is a short phrase that stands in many others: what to grow next.
type Root struct {
	Phrase   string
	Ideas    int     // phrases that hold it
	Searches float64 // of these together
	Easy     int     // easy ones among them
}

// Bounds of roots (ours): one in fewer ideas says nothing, and one that stands in nearly the same ideas as a longer one
// says no more than that.
const (
	fewestRooted = 3
	nearlyAll    = 0.9
)

// rootTally is a root while it is counted; last is the phrase that counted last, so that none counts twice.
type rootTally struct {
	Root
	last int
}

// Roots lists the roots of two or three words of some phrases, those in most phrases first, at most so many. A root
// begins and ends with a word that says something of a subject. Wordings of one stem are one root, written as it stands
// most often. Those of known are left out, in whatever wording.
func Roots(list []Rooted, lang string, known []string, most int) []Root {
	left := map[string]bool{}
	for _, k := range known {
		left[strings.Join(Stems(Normal(k), lang), " ")] = true
	}
	stems := map[string]string{}
	stemOf := func(w string) string {
		s, is := stems[w]
		if !is {
			s = Stem(w, lang)
			stems[w] = s
		}
		return s
	}
	light := func(w string) bool { return IsFunctionWord(w, lang) || IsLight(w, lang) } // nothing of a subject
	tallies := map[string]*rootTally{}
	forms := map[string]map[string]int{}
	var words, stemmed []string
	for n, p := range list {
		words = append(words[:0], strings.Fields(p.Phrase)...)
		stemmed = stemmed[:0]
		for _, w := range words {
			stemmed = append(stemmed, stemOf(w))
		}
		for from := range words {
			if light(words[from]) {
				continue
			}
			for to := from + 2; to <= min(from+3, len(words)); to++ {
				if light(words[to-1]) {
					continue
				}
				key := strings.Join(stemmed[from:to], " ")
				t := tallies[key]
				if t == nil {
					t = &rootTally{last: -1}
					tallies[key] = t
					forms[key] = map[string]int{}
				}
				if t.last == n {
					continue
				}
				t.last = n
				t.Ideas++
				t.Searches += p.Searches
				if p.Easy {
					t.Easy++
				}
				forms[key][strings.Join(words[from:to], " ")]++
			}
		}
	}
	var out []Root
	for key, t := range tallies {
		if t.Ideas < fewestRooted || left[key] {
			delete(tallies, key)
		}
	}
	covered := inLonger(tallies)
	for key, t := range tallies {
		if covered[key] {
			continue
		}
		for form, n := range forms[key] {
			if m := forms[key][t.Phrase]; n > m || n == m && form < t.Phrase {
				t.Phrase = form
			}
		}
		out = append(out, t.Root)
	}
	slices.SortFunc(out, func(a, b Root) int {
		return cmp.Or(cmp.Compare(b.Ideas, a.Ideas), cmp.Compare(b.Searches, a.Searches), cmp.Compare(a.Phrase, b.Phrase))
	})
	return out[:min(len(out), most)]
}

// inLonger are the roots of two words that stand in one of three in nearly all of their phrases.
func inLonger(all map[string]*rootTally) map[string]bool {
	out := map[string]bool{}
	for key, t := range all {
		if strings.Count(key, " ") != 2 {
			continue
		}
		first, last := strings.Index(key, " "), strings.LastIndex(key, " ")
		for _, part := range []string{key[:last], key[first+1:]} {
			if p := all[part]; p != nil && float64(t.Ideas) >= nearlyAll*float64(p.Ideas) {
				out[part] = true
			}
		}
	}
	return out
}
