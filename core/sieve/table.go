package sieve

import (
	"cmp"
	"encoding/binary"
	"math"
	"slices"
	"sync"

	"cleverniche/core/demand"
	"cleverniche/core/intent"
)

// Decision is what the user decided on an idea.
type Decision int8

// The decisions.
const (
	Undecided Decision = iota
	Kept
	Dropped
)

// unknown is the value of a figure that is not known, and underFloor that of
// searches of which only a bound is known.
const (
	unknown    = -1
	underFloor = -2
)

// Idea is what a sieve knows of one idea. Start from Unmeasured: a figure of −1 is
// not known, and never taken for 0.
type Idea struct {
	ID       uint
	Phrase   string // normal form
	Words    int
	Decision Decision
	Found    int64    // when first found; any increasing number
	Sources  []string // where it was found

	Searches    int  // a month; −1 unknown
	Under       bool // they lie under the source's floor; Searches is the floor
	Season      Season
	Lasting     demand.Lasting // "" unknown
	CPC         int64          // micro-units of the niche's currency; −1 unknown
	Ads         float64        // competition of advertisers, 0 to 1; −1 unknown
	PhraseShare float64        // searches of the phrase among those of the broad match, 0 to 1; −1 unknown

	ExactPages int64 // pages that hold the phrase as it stands; −1 unknown
	TitlePages int64 // pages with the phrase in the title; −1 unknown
	NameFree   int8  // the domain under the chosen ending: 1 free, 0 taken, −1 unknown

	Judged      bool // what follows is known
	Difficulty  float64
	PageOne     float64 // chances, 0 to 1
	TopFive     float64
	Footholds   int
	Weakest     float64 // lowest site standing among the first five; −1 without results
	LinksNeeded int     // solid links for even odds of the goal
	Locked      bool
	Want        intent.Want
	Worth       int64 // likely, a month, micro-units; −1 unknown
}

// Season says whether an idea's searches come and go over the year.
type Season int8

// The seasons.
const (
	SeasonUnknown Season = iota - 1
	NoSeason
	Seasonal
)

// Unmeasured is an idea of which only the phrase is known.
func Unmeasured(id uint, normal string, words int) Idea {
	return Idea{ID: id, Phrase: normal, Words: words, Found: int64(id), Searches: unknown, Season: SeasonUnknown, CPC: unknown, Ads: unknown,
		PhraseShare: unknown, ExactPages: unknown, TitlePages: unknown, NameFree: unknown, Weakest: unknown, Worth: unknown}
}

// column is one figure of all ideas; below 0 it is not known. Figures that can be
// large have eight bytes each, the others four: a sieve is as fast as memory is read.
type column struct {
	narrow []int32
	wide   []int64
}

func newColumn(f figure, n int) column {
	if large[f] {
		return column{wide: make([]int64, n)}
	}
	return column{narrow: make([]int32, n)}
}

func (c column) at(i int) int64 {
	if c.wide != nil {
		return c.wide[i]
	}
	return int64(c.narrow[i])
}

func (c column) put(i int, v int64) {
	if c.wide != nil {
		c.wide[i] = v
	} else {
		c.narrow[i] = int32(max(underFloor, min(math.MaxInt32, v)))
	}
}

// first is the column's beginning.
func (c column) first(n int) column {
	if c.wide != nil {
		return column{wide: c.wide[:n]}
	}
	return column{narrow: c.narrow[:n]}
}

func (c column) copyFrom(o column) {
	copy(c.wide, o.wide)
	copy(c.narrow, o.narrow)
}

// within puts the positions of values from lo to hi into a set. What is not known is
// never in it, since lo is not below 0. There is no branch in its loops: on figures
// that half the ideas pass, a processor would guess wrong every other time. Eight
// values are taken at a time, so that one need not wait for the other.
func (c column) within(lo, hi int64, out Set) {
	if lo = max(0, lo); hi < lo {
		clear(out)
	} else if c.wide != nil {
		wideWithin(c.wide, lo, hi, out)
	} else {
		narrowWithin(c.narrow, int32(min(lo, math.MaxInt32)), int32(min(hi, math.MaxInt32)), out)
	}
}

func wideWithin(values []int64, lo, hi int64, out Set) {
	inside := func(v int64) uint64 { return ^uint64((v-lo)|(hi-v)) >> 63 } // the sign bits of both differences
	for w := range len(values) / wordBits {
		var in uint64
		for part := values[w*wordBits : (w+1)*wordBits]; len(part) >= 8; part = part[8:] {
			in = in>>8 | inside(part[0])<<56 | inside(part[1])<<57 | inside(part[2])<<58 | inside(part[3])<<59 |
				inside(part[4])<<60 | inside(part[5])<<61 | inside(part[6])<<62 | inside(part[7])<<63
		}
		out[w] = in
	}
	for i := len(values) / wordBits * wordBits; i < len(values); i++ {
		out.put(i, inside(values[i]) == 1)
	}
}

// narrowWithin takes the distance from lo without a sign: what lies below lo is far
// away, and one comparison does for two.
func narrowWithin(values []int32, lo, hi int32, out Set) {
	beyond := uint64(hi-lo) + 1
	below := func(v int32) uint64 { return uint64(uint32(v-lo)) - beyond } // its sign bit is set when v is inside
	for w := range len(values) / wordBits {
		var in uint64
		for part := values[w*wordBits : (w+1)*wordBits]; len(part) >= 8; part = part[8:] {
			in = in>>8 | below(part[0])>>7&(1<<56) | below(part[1])>>6&(1<<57) | below(part[2])>>5&(1<<58) | below(part[3])>>4&(1<<59) |
				below(part[4])>>3&(1<<60) | below(part[5])>>2&(1<<61) | below(part[6])>>1&(1<<62) | below(part[7])&(1<<63)
		}
		out[w] = in
	}
	for i := len(values) / wordBits * wordBits; i < len(values); i++ {
		out.put(i, below(values[i])>>63 == 1)
	}
}

// figure names a column.
type figure int

const (
	words figure = iota
	searches
	season
	lasting
	cpc
	ads
	share
	exactPages
	titlePages
	nameFree
	judged
	difficulty
	pageOne
	topFive
	footholds
	weakest
	linksNeeded
	want
	worthOf
	decision
	found
	prefix // of the phrase: its first bytes as a number
	sources
	figures
)

// large figures need eight bytes.
var large = [figures]bool{cpc: true, exactPages: true, titlePages: true, worthOf: true, found: true, prefix: true, sources: true}

// Units of the columns that hold fractions: so many to one.
const (
	hundredths = 100
	millionths = 1_000_000
)

// Table is a niche's ideas as columns in memory. It does not change; With makes one
// that has what changed. It may be read by several at once.
type Table struct {
	n       int
	ids     []uint
	phrases []string
	columns [figures]column
	text    *wording // shared with the tables that this one was made from
	origins []string // the names of sources, a bit of the column each

	mu     sync.Mutex
	passed map[string]Set // by mesh: what it lets through
	blind  map[figure]Set // what a figure is not known of
	ranks  column         // of the worth, once it is asked for
	asked  int            // meshes that were computed, for tests
}

// NewTable returns a table of ideas, in the order of their IDs. lang is the language
// of the phrases and brands the niche's brand words in normal form, by which shapes are
// told.
func NewTable(lang string, ideas []Idea, brands ...string) *Table {
	return (&Table{text: newWording(lang, brands)}).With(ideas)
}

// Len is how many ideas the table holds.
func (t *Table) Len() int { return t.n }

// ID is the idea's at a position.
func (t *Table) ID(at int) uint { return t.ids[at] }

// Phrase is the idea's at a position.
func (t *Table) Phrase(at int) string { return t.phrases[at] }

// Find returns the position of an idea.
func (t *Table) Find(id uint) (at int, ok bool) { return slices.BinarySearch(t.ids, id) }

// With returns a table with ideas changed or added. O(ideas), since it copies. An
// idea's phrase never changes; one that is given another is taken at its new word in
// a table that is built from nothing.
func (t *Table) With(changed []Idea) *Table {
	changed = slices.Clone(changed)
	slices.SortFunc(changed, func(a, b Idea) int { return cmp.Compare(a.ID, b.ID) })
	added := 0
	for _, c := range changed {
		at, ok := t.Find(c.ID)
		if !ok {
			added++
		}
		if ok && t.phrases[at] != c.Phrase || !ok && at < t.n {
			return t.rebuilt(changed)
		}
	}
	out := t.room(t.n + added)
	for _, c := range changed {
		at, ok := out.Find(c.ID)
		if !ok {
			at = len(out.ids)
			out.ids, out.phrases = append(out.ids, c.ID), append(out.phrases, c.Phrase)
		}
		out.set(at, c)
	}
	out.n = len(out.ids)
	for f := range out.columns {
		out.columns[f] = out.columns[f].first(out.n)
	}
	out.text = out.text.reach(out.phrases, t.n)
	return out
}

// room is a copy with place for n ideas.
func (t *Table) room(n int) *Table {
	out := &Table{ids: append(make([]uint, 0, n), t.ids...), phrases: append(make([]string, 0, n), t.phrases...),
		text: t.text, origins: slices.Clone(t.origins)}
	for f := range out.columns {
		out.columns[f] = newColumn(figure(f), n)
		out.columns[f].copyFrom(t.columns[f])
	}
	return out
}

// rebuilt is the way for what no application does: an idea between others that were
// there, or one that changed its phrase.
func (t *Table) rebuilt(changed []Idea) *Table {
	all := make([]Idea, 0, t.n+len(changed))
	for at := range t.n {
		all = append(all, t.idea(at))
	}
	byID := map[uint]int{}
	for i, idea := range all {
		byID[idea.ID] = i
	}
	for _, c := range changed {
		if i, ok := byID[c.ID]; ok {
			all[i] = c
		} else {
			all = append(all, c)
		}
	}
	return NewTable(t.text.lang, all, t.text.brands...)
}

var lastings = []demand.Lasting{demand.Evergreen, demand.Seasonal, demand.Rise, demand.Fade, demand.Flash}

func (t *Table) set(at int, i Idea) {
	put := func(f figure, v int64) { t.columns[f].put(at, v) }
	scaled := func(x, unit float64) int64 {
		if x < 0 || math.IsNaN(x) {
			return unknown
		}
		return int64(math.Round(x * unit))
	}
	put(words, int64(i.Words))
	put(searches, max(unknown, int64(i.Searches)))
	if i.Under {
		put(searches, underFloor)
	}
	put(season, int64(i.Season))
	put(lasting, int64(slices.Index(lastings, i.Lasting)))
	put(cpc, max(unknown, i.CPC))
	put(ads, scaled(i.Ads, millionths))
	put(share, scaled(i.PhraseShare, millionths))
	put(exactPages, max(unknown, i.ExactPages))
	put(titlePages, max(unknown, i.TitlePages))
	put(nameFree, int64(i.NameFree))
	put(worthOf, max(unknown, i.Worth))
	put(decision, int64(i.Decision))
	put(found, i.Found)
	put(prefix, prefixOf(i.Phrase))
	put(sources, t.sourceBits(i.Sources))
	for f := judged; f <= want; f++ {
		put(f, unknown)
	}
	if !i.Judged {
		return
	}
	put(judged, 1)
	put(difficulty, int64(math.Floor(i.Difficulty*hundredths))) // never rounded over what is shown as the next number
	put(pageOne, scaled(i.PageOne, millionths))
	put(topFive, scaled(i.TopFive, millionths))
	put(footholds, int64(i.Footholds))
	put(weakest, int64(math.Floor(max(unknown, i.Weakest*hundredths))))
	if !i.Locked {
		put(linksNeeded, int64(i.LinksNeeded))
	}
	put(want, int64(i.Want))
}

// idea reads back what a rebuilt table needs: a figure is as fine as its column.
func (t *Table) idea(at int) Idea {
	get := func(f figure) int64 { return t.columns[f].at(at) }
	scaled := func(f figure, unit float64) float64 {
		if get(f) < 0 {
			return unknown
		}
		return float64(get(f)) / unit
	}
	i := Idea{ID: t.ids[at], Phrase: t.phrases[at], Words: int(get(words)), Decision: Decision(get(decision)), Found: get(found),
		Searches: int(get(searches)), Under: get(searches) == underFloor, Season: Season(get(season)), CPC: get(cpc), Ads: scaled(ads, millionths),
		PhraseShare: scaled(share, millionths), ExactPages: get(exactPages), TitlePages: get(titlePages), NameFree: int8(get(nameFree)),
		Judged: get(judged) == 1, Difficulty: scaled(difficulty, hundredths), PageOne: scaled(pageOne, millionths), TopFive: scaled(topFive, millionths),
		Footholds: int(get(footholds)), Weakest: scaled(weakest, hundredths), LinksNeeded: int(get(linksNeeded)),
		Locked: get(judged) == 1 && get(linksNeeded) < 0, Want: intent.Want(max(0, get(want))), Worth: get(worthOf)}
	if k := get(lasting); k >= 0 {
		i.Lasting = lastings[k]
	}
	for bit, name := range t.origins {
		if get(sources)>>bit&1 == 1 {
			i.Sources = append(i.Sources, name)
		}
	}
	return i
}

// mostOrigins is how many names of sources are told apart; what comes after them
// counts as the last.
const mostOrigins = 62

func (t *Table) sourceBits(names []string) int64 {
	var in int64
	for _, name := range names {
		bit := slices.Index(t.origins, name)
		if bit < 0 && len(t.origins) < mostOrigins {
			t.origins = append(t.origins, name)
			bit = len(t.origins) - 1
		} else if bit < 0 {
			bit = mostOrigins - 1
		}
		in |= 1 << bit
	}
	return in
}

// prefixOf puts phrases in their order as far as their first eight bytes tell.
func prefixOf(s string) int64 {
	var b [8]byte
	copy(b[:], s)
	return int64(binary.BigEndian.Uint64(b[:]) ^ 1<<63)
}

// notKnown is the ideas that a figure is not known of, computed once.
func (t *Table) notKnown(f figure) Set {
	t.mu.Lock()
	defer t.mu.Unlock()
	s, ok := t.blind[f]
	if !ok {
		s = newSet(t.n)
		t.columns[f].within(0, math.MaxInt64, s)
		s.not(t.n)
		if t.blind == nil {
			t.blind = map[figure]Set{}
		}
		t.blind[f] = s
	}
	return s
}

// worthRanks is the rank of each idea by its worth, 1 the most; −1 where the worth is
// not known. The same worth has the same rank.
func (t *Table) worthRanks() column {
	t.mu.Lock()
	defer t.mu.Unlock()
	if t.ranks.narrow == nil && t.n > 0 {
		order := make([]int, t.n)
		for i := range order {
			order[i] = i
		}
		worths := t.columns[worthOf].wide
		slices.SortFunc(order, func(a, b int) int { return cmp.Compare(worths[b], worths[a]) })
		ranks := make([]int32, t.n)
		for place, at := range order {
			switch {
			case worths[at] < 0:
				ranks[at] = unknown
			case place > 0 && worths[order[place-1]] == worths[at]:
				ranks[at] = ranks[order[place-1]]
			default:
				ranks[at] = int32(place + 1)
			}
		}
		t.ranks = column{narrow: ranks}
	}
	return t.ranks
}
