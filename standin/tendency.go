package standin

import "math"

// tendency is what the engines of a world lean on, and how far its big sites stand
// above the others: each beside what is middling, which is 1. Nobody who asks an engine
// knows it. The demo's world, number 1, is middling in all; every other number draws
// its own.
type tendency struct {
	links   float64 // what links to a page and trust in its site weigh
	text    float64 // what words and title weigh
	answers float64 // what it weighs that a page answers the need
	kind    float64 // what the kind of page weighs
	fresh   float64 // what freshness weighs
	breadth float64 // what a site's breadth weighs
	big     float64 // how many big sites there are
	height  float64 // how much more than others they are linked
}

// middling is the number of the world whose tendencies are all 1.
const middling = 1

// farOut is the number from which on worlds lean further than the others can: what is calibrated on those is
// measured on these, since nobody knows that a real engine leans no further.
const (
	farOut = 900
	beyond = 1.6 // how many times as far, as logarithms
)

// tendencyOf draws a world's: each log-normal, within the bounds of about a half and the double.
func tendencyOf(number int) tendency {
	t := tendency{1, 1, 1, 1, 1, 1, 1, 1}
	if number == middling {
		return t
	}
	rng := (&World{Number: number}).random("tendency")
	around := func(spread, most float64) float64 {
		x := max(-most, min(most, spread*rng.NormFloat64()))
		if number >= farOut { // at least as far as the others go, on either side
			x = math.Copysign(min(beyond*most, most+math.Abs(x)), x)
		}
		return math.Exp(x)
	}
	t.links, t.text, t.answers = around(0.35, 0.6), around(0.2, 0.4), around(0.2, 0.4)
	t.kind, t.fresh, t.breadth = around(0.25, 0.5), around(0.5, 1), around(0.4, 0.8)
	t.big, t.height = around(0.35, 0.6), around(0.5, 0.9)
	return t
}

// Leanings are the logarithms of what a world's engines lean on and of how far its big sites stand above the others,
// by which worlds can be chosen that differ. Nothing of the application asks for them.
func Leanings(number int) []float64 {
	t := tendencyOf(number)
	out := []float64{t.links, t.text, t.answers, t.kind, t.fresh, t.breadth, t.big, t.height}
	for i := range out {
		out[i] = math.Log(out[i])
	}
	return out
}

// of is a taste bent that way.
func (d tendency) of(t taste) taste {
	t.page *= d.links
	t.site *= d.links
	t.relevance *= d.text
	t.title *= d.text
	t.answers *= d.answers
	t.kind *= d.kind
	t.fresh *= d.fresh
	t.breadth *= d.breadth
	return t
}

// isBig reports whether sites of a kind are big ones.
func isBig(k siteKind) bool {
	return k == publisher || k == marketplace || k == encyclopedia || k == videoHost
}

// raised is how much more than in a middling world a site of the kind is linked.
func (d tendency) raised(k siteKind) float64 {
	if isBig(k) {
		return d.height
	}
	return 1
}

// many is how many sites of a kind there are that in a middling world are n.
func (d tendency) many(k siteKind, n int) int {
	if isBig(k) && n > 0 {
		return max(1, int(math.Round(d.big*float64(n))))
	}
	return n
}
