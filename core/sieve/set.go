package sieve

import (
	"iter"
	"math/bits"
)

// Set is a set of positions in a table, a bit each.
type Set []uint64

const wordBits = 64

func newSet(n int) Set { return make(Set, (n+wordBits-1)/wordBits) }

// Has reports whether a position is in the set.
func (s Set) Has(i int) bool {
	return i >= 0 && i/wordBits < len(s) && s[i/wordBits]>>(i%wordBits)&1 == 1
}

// Count is how many positions are in the set.
func (s Set) Count() int {
	n := 0
	for _, w := range s {
		n += bits.OnesCount64(w)
	}
	return n
}

// All goes through the positions in rising order.
func (s Set) All() iter.Seq[int] {
	return func(yield func(int) bool) {
		for at, w := range s {
			for ; w != 0; w &= w - 1 {
				if !yield(at*wordBits + bits.TrailingZeros64(w)) {
					return
				}
			}
		}
	}
}

func (s Set) put(i int, in bool) {
	if in {
		s[i/wordBits] |= 1 << (i % wordBits)
	} else {
		s[i/wordBits] &^= 1 << (i % wordBits)
	}
}

// fill puts the first n positions in.
func (s Set) fill(n int) {
	for i := range s {
		s[i] = ^uint64(0)
	}
	s.trim(n)
}

// join adds what is in another set of the same length.
func (s Set) join(o Set) {
	for i, w := range o {
		s[i] |= w
	}
}

// trim takes out what lies behind the first n positions.
func (s Set) trim(n int) {
	if n%wordBits != 0 {
		s[len(s)-1] &= 1<<(n%wordBits) - 1
	}
}

// not turns the set into those of the first n positions that were not in it.
func (s Set) not(n int) {
	for i := range s {
		s[i] = ^s[i]
	}
	s.trim(n)
}
