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
	stockHead = 40
)

// draw is which one of an endless stock.
func drawEndless(rng *rand.Rand) uint64 {
	return uint64(stockHead * (math.Pow(1-rng.Float64(), -1/stockTail) - 1))
}

// Of what names are made. People, places and clubs are invented: common parts of names, put together by chance.
var (
	given = strings.Fields("Adele Amos Anita Barry Bella Brian Carla Cedric Clara Dennis Doris Edgar Elena Elsie Ethan " +
		"Fiona Frank Gemma Gerald Gina Harold Hazel Helen Irene Isaac Ivy Janet Jasper Joan Joel Judith Karl Katrin Kevin " +
		"Laura Leon Linda Lucas Mabel Marcus Maria Martin Mona Nadia Neil Nina Norman Olga Oscar Paula Peter Petra Ralph " +
		"Rita Robin Rosa Ruben Sally Simon Sofia Stella Tamara Tessa Theo Tina Tobias Ursula Vera Victor Wanda Wesley Yvonne")
	roots = strings.Fields("Ash Bar Beck Black Brad Brook Cald Carl Clay Cold Cran Dal East Elm Fair Farn Glen Gold " +
		"Green Hal Ham Hart Haw Hazel Hol Kel Kirk Lang Lin Long Mar Mid Mill New North Oak Pen Rad Red Row Sand Shel Ship " +
		"Stan Sutt Thorn Wal War Wes West Whit Wil Win Wood Wool Wyn York")
	middles = []string{"", "", "", "", "en", "er", "ing", "el", "es", "le", "a"}
	ends    = map[string][]string{
		"name": strings.Fields("bury by cliff combe cott croft dale field ford gate grave ham hurst ley low man more " +
			"ridge ridge shaw sley son stead stone ton wall ward way well wick wood worth"),
		"town": strings.Fields("borough bridge brook bury creek dale falls field ford gate grove ham haven hill lake ley " +
			"mere mill mont port ridge side spring stead stone ton vale view ville water well wick wood worth"),
	}
	groups = strings.Fields("Society Circle Club Guild Association Group")
	nicks  = strings.Fields("blue brown cloudy dusty early fuzzy green happy jolly late lazy little lucky mad mellow " +
		"north old quiet rainy red rusty slow south sunny tiny wild")
	things = strings.Fields("acorn badger barn beetle bike birch cactus canoe crow dog duck fern fox garage goat hammer " +
		"heron kettle ladder lamp maple moth otter owl pan pebble pine river robin shed spoon tractor van willow wren")
)

// isEndless reports whether a slot is filled from an endless stock.
func isEndless(slot string) bool {
	return slices.Contains([]string{"count", "year", "name", "town", "club", "handle"}, slot)
}

// hottest is how many of each endless stock are made beforehand: they are most of those drawn.
const hottest = 800

// knowHottest makes them.
func (w *World) knowHottest() {
	w.known = map[string][]*value{}
	for _, slot := range []string{"name", "town", "club"} {
		for n := range uint64(hottest) {
			text := w.nameOf(slot, n)
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
	case "name", "town", "club":
		n := drawEndless(rng)
		if n < hottest {
			return w.known[slot][n], true
		}
		text = w.nameOf(slot, n)
	case "handle":
		text = w.handle(rng)
	default:
		return nil, false
	}
	return &value{one: text, many: text}, true
}

// numbers is a row of numbers that depends on the world, a stock and which of it is wanted.
func (w *World) numbers(slot string, n uint64) func(int) int {
	x := (n+1)*0x9e3779b97f4a7c15 + uint64(w.Number)*0xbf58476d1ce4e5b9 + uint64(len(slot)+int(slot[0]))
	return func(m int) int {
		x ^= x >> 29
		x *= 0x94d049bb133111eb
		x ^= x >> 32
		return int(x % uint64(m))
	}
}

// nameOf is the n-th name of a stock in this world.
func (w *World) nameOf(slot string, n uint64) string {
	next := w.numbers(slot, n)
	of := func(list []string) string { return list[next(len(list))] }
	switch slot {
	case "name":
		return of(given) + " " + of(roots) + of(middles) + of(ends["name"])
	case "club":
		return of(roots) + of(middles) + of(ends["town"]) + " " + of(groups)
	}
	return of(roots) + of(middles) + of(ends["town"])
}

// handle is what somebody calls themselves in a forum.
func (w *World) handle(rng *rand.Rand) string {
	n := drawEndless(rng)
	next := w.numbers("handle", n)
	name := nicks[next(len(nicks))] + things[next(len(things))]
	if n > hottest/10 {
		name += fmt.Sprint(n % 100_000)
	}
	return name
}
