package sieve

import (
	"math"
	"slices"
)

// A column is one figure of all ideas, in chunks that columns share until one of them
// changes; below 0 a value is not known. Figures that can be large have eight bytes a
// value, the others four: a sieve is as fast as memory is read. A chunk of which nothing
// is known is nil, and takes no room.
type column struct {
	wide   bool
	chunks []chunk
}

// chunk is chunkSize values of a column, in one of two widths. It does not change once
// its table is made.
type chunk struct {
	narrow []int32
	large  []int64
}

// chunkSize is a multiple of wordBits, so that a chunk's bits are whole words of a set.
const (
	chunkBits  = 14
	chunkSize  = 1 << chunkBits
	chunkWords = chunkSize / wordBits
)

func (k chunk) empty() bool { return k.narrow == nil && k.large == nil }

func (k chunk) same(o chunk) bool {
	return k.empty() == o.empty() && (k.empty() || k.narrow != nil && o.narrow != nil && &k.narrow[0] == &o.narrow[0] ||
		k.large != nil && o.large != nil && &k.large[0] == &o.large[0])
}

func (k chunk) clone() chunk { return chunk{slices.Clone(k.narrow), slices.Clone(k.large)} }

func (c column) at(i int) int64 {
	k := c.chunks[i>>chunkBits]
	switch {
	case k.large != nil:
		return k.large[i&(chunkSize-1)]
	case k.narrow != nil:
		return int64(k.narrow[i&(chunkSize-1)])
	}
	return unknown
}

// writer changes a copy of a column: the chunks that it changes are its own, the others
// are shared with the column it was made from.
type writer struct {
	column
	own []bool // by chunk
}

func (c column) writer(n int) *writer {
	w := &writer{column: column{c.wide, make([]chunk, (n+chunkSize-1)/chunkSize)}}
	w.own = make([]bool, len(w.chunks))
	copy(w.chunks, c.chunks)
	return w
}

// grow makes room for n values.
func (w *writer) grow(n int) {
	for len(w.chunks) < (n+chunkSize-1)/chunkSize {
		w.chunks, w.own = append(w.chunks, chunk{}), append(w.own, true)
	}
}

func (w *writer) put(i int, v int64) {
	at := i >> chunkBits
	k := &w.chunks[at]
	switch {
	case k.empty():
		if v == unknown {
			return
		}
		*k = w.fresh()
	case !w.own[at]:
		if w.at(i) == w.fit(v) {
			return
		}
		*k = k.clone()
	}
	w.own[at] = true
	if k.large != nil {
		k.large[i&(chunkSize-1)] = v
	} else {
		k.narrow[i&(chunkSize-1)] = int32(w.fit(v))
	}
}

// fit is a value as the column can hold it.
func (w *writer) fit(v int64) int64 {
	if w.wide {
		return v
	}
	return max(underFloor, min(math.MaxInt32, v))
}

// fresh is a chunk of which nothing is known.
func (w *writer) fresh() (k chunk) {
	if w.wide {
		k.large = slices.Repeat([]int64{unknown}, chunkSize)
	} else {
		k.narrow = slices.Repeat([]int32{unknown}, chunkSize)
	}
	return k
}

// chunkWithin puts the positions of one chunk's values from lo to hi into a set. What is
// not known is never in it, since lo is not below 0. There is no branch in its loops: on
// figures that half the ideas pass, a processor would guess wrong every other time. Eight values are
// taken at a time, so that one need not wait for the other. Values behind the last idea
// are not known.
func (c column) chunkWithin(at int, lo, hi int64, out Set) {
	part := out[at*chunkWords : min(len(out), (at+1)*chunkWords)]
	k := c.chunks[at]
	if lo = max(0, lo); hi < lo || k.empty() {
		clear(part)
	} else if k.large != nil {
		wideWithin(k.large, lo, hi, part)
	} else {
		narrowWithin(k.narrow, int32(min(lo, math.MaxInt32)), int32(min(hi, math.MaxInt32)), part)
	}
}

// chunkPasses puts the positions of one chunk's values for which passes holds into a
// set.
func (c column) chunkPasses(at int, passes func(int64) bool, n int, out Set) {
	for i := at * chunkSize; i < min(n, (at+1)*chunkSize); i++ {
		out.put(i, passes(c.at(i)))
	}
}

func wideWithin(values []int64, lo, hi int64, out Set) {
	inside := func(v int64) uint64 { return ^uint64((v-lo)|(hi-v)) >> 63 } // the sign bits of both differences
	for w := range out {
		var in uint64
		for part := values[w*wordBits : (w+1)*wordBits]; len(part) >= 8; part = part[8:] {
			in = in>>8 | inside(part[0])<<56 | inside(part[1])<<57 | inside(part[2])<<58 | inside(part[3])<<59 |
				inside(part[4])<<60 | inside(part[5])<<61 | inside(part[6])<<62 | inside(part[7])<<63
		}
		out[w] = in
	}
}

// narrowWithin takes the distance from lo without a sign: what lies below lo is far
// away, and one comparison does for two.
func narrowWithin(values []int32, lo, hi int32, out Set) {
	beyond := uint64(hi-lo) + 1
	below := func(v int32) uint64 { return uint64(uint32(v-lo)) - beyond } // its sign bit is set when v is inside
	for w := range out {
		var in uint64
		for part := values[w*wordBits : (w+1)*wordBits]; len(part) >= 8; part = part[8:] {
			in = in>>8 | below(part[0])>>7&(1<<56) | below(part[1])>>6&(1<<57) | below(part[2])>>5&(1<<58) |
				below(part[3])>>4&(1<<59) | below(part[4])>>3&(1<<60) | below(part[5])>>2&(1<<61) |
				below(part[6])>>1&(1<<62) | below(part[7])&(1<<63)
		}
		out[w] = in
	}
}
