package phrase

import (
	"errors"
	"fmt"
	"iter"
	"math"
	"math/bits"
	"slices"
	"strings"
)

// Crossing makes phrases of lists of words or phrases: one of each list, side by side or in the gaps of a pattern.
type Crossing struct {
	Pattern string     // with a gap for each list; "" puts them side by side
	Lists   [][]string // of two or three, or of as many as there are gaps
	Glue    []string   // what stands between neighbours, "" is nothing; without any nothing does. Of no use to patterns
	Turned  bool       // in all orders of the lists
}

// Times stands between lists in a crossing's name.
const Times = " × "

// MostCrossed is how many phrases are made at most (ours).
const MostCrossed = 100_000

// CrossingError is a crossing that would make too many phrases.
type CrossingError struct{ Phrases int }

func (e *CrossingError) Error() string {
	return fmt.Sprintf("this would make %d phrases; at most %d are made at once", e.Phrases, MostCrossed)
}

// Errors of crossings.
var (
	errFewLists  = errors.New("fill at least two lists, or a pattern and a list for each of its gaps")
	errEmptyList = errors.New("each list needs at least one word")
)

// gaps are the parts of the pattern between its gaps; nil where there is no pattern.
func (c Crossing) gaps() []string {
	if c.Pattern == "" {
		return nil
	}
	return strings.Split(c.Pattern, Gap)
}

// Check says why nothing can be made of it, or why too much would be: a *CrossingError then.
func (c Crossing) Check() error {
	gaps := c.gaps()
	switch {
	case c.Pattern != "" && len(gaps) == 1:
		return errors.New("the pattern has no gap: put * where your words go")
	case c.Pattern != "" && len(gaps)-1 != len(c.Lists):
		return fmt.Errorf("the pattern has %d gaps, and there are %d lists: each gap needs one", len(gaps)-1, len(c.Lists))
	case c.Pattern == "" && len(c.Lists) < 2:
		return errFewLists
	case c.Pattern != "" && strings.Trim(c.Pattern, Gap+" ") == "" && len(c.Lists) < 2:
		return errFewLists
	case slices.ContainsFunc(c.Lists, func(l []string) bool { return len(l) == 0 }):
		return errEmptyList
	}
	if n := c.Count(); n > MostCrossed {
		return &CrossingError{n}
	}
	return nil
}

// glue is what may stand between neighbours.
func (c Crossing) glue() []string {
	if c.Pattern != "" || len(c.Glue) == 0 {
		return []string{""}
	}
	return c.Glue
}

// orders are the orders of the lists, that which they are written in first.
func (c Crossing) orders() [][]int {
	straight := make([]int, len(c.Lists))
	for i := range straight {
		straight[i] = i
	}
	if !c.Turned {
		return [][]int{straight}
	}
	var out [][]int
	var grow func(head, rest []int)
	grow = func(head, rest []int) {
		if len(rest) == 0 {
			out = append(out, head)
		}
		for i, one := range rest {
			grow(append(slices.Clone(head), one), slices.Delete(slices.Clone(rest), i, i+1))
		}
	}
	grow(nil, straight)
	return out
}

// Count is how many phrases it makes, wordings that turn out the same counted each. O(lists).
func (c Crossing) Count() int {
	n := uint64(len(c.glue()))
	sizes := []int{1}
	for i := 2; c.Turned && i <= len(c.Lists); i++ {
		sizes = append(sizes, i) // orders
	}
	for _, l := range c.Lists {
		sizes = append(sizes, len(l))
	}
	for _, size := range sizes {
		over, product := bits.Mul64(n, uint64(size))
		if over > 0 || product > math.MaxInt {
			return math.MaxInt
		}
		n = product
	}
	return int(n)
}

// at is the phrase at a place, as it is written.
func (c Crossing) at(i int, orders [][]int, glue, gaps []string) string {
	order := orders[i%len(orders)]
	i /= len(orders)
	between := glue[i%len(glue)]
	i /= len(glue)
	words := make([]string, len(order))
	for place, list := range order {
		of := c.Lists[list]
		words[place] = of[i%len(of)]
		i /= len(of)
	}
	if gaps == nil {
		return strings.Join(words, " "+between+" ")
	}
	var out strings.Builder
	for place, w := range words {
		out.WriteString(gaps[place] + w)
	}
	return out.String() + gaps[len(words)]
}

// All are the phrases that it makes, in normal form, each once.
func (c Crossing) All() iter.Seq[string] {
	return func(yield func(string) bool) {
		orders, glue, gaps := c.orders(), c.glue(), c.gaps()
		seen := map[string]bool{}
		for i := range c.Count() {
			p, err := Parse(c.at(i, orders, glue, gaps))
			if err != nil || seen[p] {
				continue
			}
			seen[p] = true
			if !yield(p) {
				return
			}
		}
	}
}

// Sample is so many of its phrases, from all over them.
func (c Crossing) Sample(most int) (out []string) {
	all := c.Count()
	orders, glue, gaps := c.orders(), c.glue(), c.gaps()
	for i := range min(2*most, all) {
		at := i
		if all > 2*most { // evenly, and not in step with the length of a list
			_, part := math.Modf(float64(i) * (math.Phi - 1))
			at = int(part * float64(all))
		}
		if p, err := Parse(c.at(at, orders, glue, gaps)); err == nil && len(out) < most && !slices.Contains(out, p) {
			out = append(out, p)
		}
	}
	return out
}

// Name is what the crossing is called: the pattern, or the first words of its lists. No phrase in normal form is one.
func (c Crossing) Name() string {
	if c.Pattern != "" {
		return c.Pattern
	}
	var parts []string
	for _, l := range c.Lists {
		part := l[0]
		if len(l) > 1 {
			part += " …"
		}
		parts = append(parts, part)
	}
	return strings.Join(parts, Times)
}

// Ends are what phrases begin and end with most often, so that one can cross them with something else: of one to three
// words, in at least three phrases, and without a content word of some seeds. An end begins where it may: "for kids",
// not "telescope for kids".
func Ends(list []string, seeds []string, lang string, most int) (starts, ends []string) {
	own := map[string]bool{}
	for _, s := range seeds {
		for _, stem := range ContentStems(s, lang) {
			own[stem] = true
		}
	}
	stems := map[string]string{}
	mine := func(w string) bool {
		s, is := stems[w]
		if !is {
			s = Stem(w, lang)
			stems[w] = s
		}
		return own[s]
	}
	function := func(w string) bool { return IsFunctionWord(w, lang) }
	first, last := map[string]int{}, map[string]int{}
	for _, p := range list {
		words := strings.Fields(p)
		for n := 1; n <= 3 && n < len(words); n++ {
			head, tail := words[:n], words[len(words)-n:]
			if !slices.ContainsFunc(head, mine) && !(n == 1 && function(head[0])) {
				first[strings.Join(head, " ")]++
			}
			if !slices.ContainsFunc(tail, mine) && !function(tail[n-1]) &&
				(function(tail[0]) || !slices.ContainsFunc(tail, function)) {
				last[strings.Join(tail, " ")]++
			}
		}
	}
	longer := func(short, long string) bool { return strings.HasPrefix(long, short+" ") }
	behind := func(short, long string) bool { return strings.HasSuffix(long, " "+short) }
	return frequent(first, most, longer), frequent(last, most, behind)
}

// frequent are the most frequent texts; one that stands nearly always in a longer one says no more than that.
func frequent(count map[string]int, most int, within func(short, long string) bool) (out []string) {
	for text, n := range count {
		if n >= fewestRooted {
			out = append(out, text)
		}
	}
	slices.SortFunc(out, func(a, b string) int {
		if count[a] != count[b] {
			return count[b] - count[a]
		}
		return strings.Compare(a, b)
	})
	out = out[:min(len(out), 4*most)]
	out = slices.DeleteFunc(slices.Clone(out), func(short string) bool {
		return slices.ContainsFunc(out, func(long string) bool {
			return within(short, long) && float64(count[long]) >= nearlyAll*float64(count[short])
		})
	})
	return out[:min(len(out), most)]
}
