package standin

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
)

// Names of people, towns and clubs, codes and numbers have no end: the n-th is made
// from n. Small n are drawn often and large ones hardly ever, by a power law with a
// tail of stockTail, so that the vocabulary of the pages keeps growing with their
// text as it does in real text (Heaps' law; Manning, Raghavan & Schütze,
// Introduction to Information Retrieval, §5.1.1).
const (
	stockTail = 0.62
	stockHead = 14
)

// draw is which one of an endless stock.
func drawEndless(rng *rand.Rand) uint64 {
	return uint64(stockHead * (math.Pow(1-rng.Float64(), -1/stockTail) - 1))
}

var (
	onsets  = strings.Fields("b br c ch d dr f fl g gr h j k l m n p pr r s sh st t tr v w y z th bl cl")
	vowels  = strings.Fields("a e i o u a e i o ai ea ie oo")
	codas   = strings.Fields("- - - l m n nd r rn s t ck ll")
	endings = map[string][]string{
		"town": strings.Fields("ford ham ton wick mere by stead brook field haven"),
		"club": strings.Fields("society circle guild league fellowship union"),
	}
)

// isEndless reports whether a slot is filled from an endless stock.
func isEndless(slot string) bool {
	return slices.Contains([]string{"count", "year", "size", "code", "name", "town", "club"}, slot)
}

// hottest is how many of each endless stock are made beforehand: they are most of those drawn.
const hottest = 800

// knowHottest makes them.
func (w *World) knowHottest() {
	w.known = map[string][]*value{}
	for _, slot := range []string{"code", "name", "town", "club"} {
		for n := range uint64(hottest) {
			text := w.fromEndless(slot, n)
			list := w.lexicon.all(text)
			w.known[slot] = append(w.known[slot], &value{one: text, many: text, tokens: [2][]int32{list, list}})
		}
	}
}

// endless fills a slot of an endless stock; ok is false for any other slot.
func (w *World) endless(slot string, rng *rand.Rand) (v *value, ok bool) {
	text := ""
	switch slot {
	case "count":
		text = fmt.Sprint(2 + int(12*(math.Pow(1-rng.Float64(), -0.8)-1)))
	case "year":
		text = fmt.Sprint(w.Founded.Year() - rng.IntN(40))
	case "size": // of things, in millimetres
		text = fmt.Sprint(1 + rng.IntN(100)*rng.IntN(100)/(1+rng.IntN(20)))
	case "code", "name", "town", "club":
		n := drawEndless(rng)
		if n < hottest {
			return w.known[slot][n], true
		}
		text = w.fromEndless(slot, n)
	default:
		return nil, false
	}
	return &value{one: text, many: text}, true
}

// fromEndless is the n-th of a stock.
func (w *World) fromEndless(slot string, n uint64) string {
	if slot == "code" {
		return fmt.Sprintf("%c%c-%d", 'a'+n%23, 'a'+n/23%19, 100+n/7)
	}
	return w.nameOf(slot, n)
}

// nameOf is the n-th name of a stock in this world.
func (w *World) nameOf(slot string, n uint64) string {
	x := (n+1)*0x9e3779b97f4a7c15 + uint64(w.Number)*0xbf58476d1ce4e5b9 + uint64(len(slot)+int(slot[0]))
	next := func(m int) int {
		x ^= x >> 29
		x *= 0x94d049bb133111eb
		x ^= x >> 32
		return int(x % uint64(m))
	}
	var b strings.Builder
	for i := range 2 {
		b.WriteString(onsets[next(len(onsets))])
		b.WriteString(vowels[next(len(vowels))])
		if c := codas[next(len(codas))]; c != "-" && (i == 1 || next(3) == 0) {
			b.WriteString(c)
		}
	}
	name := capital(b.String())
	if list := endings[slot]; slot == "town" {
		return name + list[next(len(list))]
	} else if slot == "club" {
		return name + " " + capital(list[next(len(list))])
	}
	return name
}
