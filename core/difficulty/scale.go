package difficulty

import (
	"math"
	"slices"
)

// Most is the end of the scale: no site's standing is more.
const Most = 100.0

// Linked is the least standing that a site has which is linked at all: between it and 0 no site
// stands (ours).
const Linked = 0.5

// bare is a well-made page that nobody links to, on a site of a standing.
func (m Model) bare(standing float64) Signals {
	return Signals{Site: standing, Title: m.Made.Title, Text: m.Made.Text, Kind: m.Made.Kind}
}

// OnScale is the site standing, 0 to 100, whose well-made page without links has that
// strength: 0 where any well-made page has it, Most where no standing is enough.
func (m Model) OnScale(strength float64) float64 {
	none, first, site := m.Strength(m.bare(0)), m.Strength(m.bare(Linked)), m.Leans.Mean[ofSite]
	switch {
	case strength <= none:
		return 0
	case strength < first:
		return Linked * (strength - none) / (first - none)
	case site <= 0:
		return Most
	}
	return math.Min(Most, m.standing(math.Pow(Linked/Most, m.Curve)+(strength-first)/site))
}

// standing is the one that g makes of 0 to 1: strengths are nearly straight in g.
func (m Model) standing(g float64) float64 { return Most * math.Pow(g, 1/m.Curve) }

// How a figure is sought: how near its function comes to 0, or else to what distance, with how many looks at most.
const (
	nearly  = 1e-5
	closeBy = 1e-7
	looks   = 60
)

// lowest is where a rising function comes to 0 between low and high: low where it is not below it there, and high where
// it never comes to it. It is sought by false position, where an end that stays counts half (the Illinois way; Dowell &
// Jarratt 1971): a few looks for what is nearly straight.
func lowest(low, high float64, f func(float64) float64) float64 {
	below, above := f(low), 0.0
	if below >= 0 {
		return low
	}
	if above = f(high); above < 0 {
		return high
	}
	side := 0
	for range looks {
		if high-low <= closeBy {
			break
		}
		mid := (low*above - high*below) / (above - below)
		mid = math.Max(low+closeBy/4, math.Min(high-closeBy/4, mid))
		switch y := f(mid); {
		case math.Abs(y) < nearly:
			return mid
		case y < 0:
			low, below = mid, y
			if side < 0 {
				above /= 2
			}
			side = -1
		default:
			high, above = mid, y
			if side > 0 {
				below /= 2
			}
			side = 1
		}
	}
	return high
}

// Reach is what the strength of my page amounts to, on the scale: my site's standing,
// lifted by links and by fit above the well-made.
func (m Model) Reach(mine Mine) float64 { return m.OnScale(m.Strength(m.Signals(mine))) }

// Needed is the strength with which a page has a 50% chance of the first k: that of a well-made one, lifted or lowered
// alike for all draws. OnScale of it is the difficulty; it goes on where the scale ends.
func (m Model) Needed(f Field, k int) float64 {
	x := m.face(f)
	page := x.page(m.bare(Linked))
	const far = 100
	lift := lowest(-far, far, func(lift float64) float64 {
		lifted := slices.Clone(page)
		for d := range lifted {
			lifted[d] += lift
		}
		return logit(x.mean(lifted, k))
	})
	return m.Strength(m.bare(Linked)) + lift/x.form.Slope
}

// For returns the difficulty of getting among the first k: the site standing, 0 to 100,
// with which a well-made page that nobody links to has a 50% chance; 0 where none is
// needed, 100 where none is enough.
func (m Model) For(f Field, k int) float64 { return m.face(f).difficulty(k) }

// even is a 50% chance.
const even = 0.5

func (x faced) difficulty(k int) float64 { return x.standing(x.scaled(k, 1)) }

// scaled is the difficulty as g has it, 0 to 1, at most most.
func (x faced) scaled(k int, most float64) float64 {
	switch {
	case x.Locked != "":
		return 1
	case x.Room(k):
		return 0
	case len(x.draws) == 0:
		return 1
	}
	return x.needed(k, most, x.bare(Linked))
}

// needed is g of the least site standing with which a page that is like one on a site of Linked has a 50% chance of
// the first k.
func (x faced) needed(k int, most float64, page Signals) float64 {
	step := x.step(k)
	// What a standing adds is all that changes.
	without := x.page(page)
	at := math.Pow(Linked/Most, x.Curve)
	return lowest(0, most, func(g float64) float64 {
		v, lacks := x.seen(Signals{Site: x.standing(g)})
		sum := 0.0
		for d, one := range x.draws {
			z := without[d] + x.form.Slope*(one.w[ofSite]*(v[ofSite]-at)-lacks)
			sum += one.weight * logistic(z-x.levels[d]-step)
		}
		return logit(sum)
	})
}

// Stairs are what each place of the first page needs: the difficulty of getting among the
// first 1, 2 … 10. That is what the result there holds.
func (m Model) Stairs(f Field) []float64 { return m.face(f).stairs() }

func (x faced) stairs() []float64 {
	out := make([]float64, FirstPage)
	most := 1.0
	for k := range out {
		g := x.scaled(k+1, most)
		if out[k] = x.standing(g); x.Locked == "" {
			most = g // a later place needs no more
		}
	}
	return out
}

// logit is where a chance lies between impossible and certain, 0 for 50%; with ends, so that it can be reckoned with.
func logit(p float64) float64 {
	const least = 1e-15
	p = math.Max(least, math.Min(1-least, p))
	return math.Log(p / (1 - p))
}
