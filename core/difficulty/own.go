package difficulty

import (
	"math"
	"slices"
)

// Outcome is what became of a page of mine: what stood in front of it when it was forecast, what can be seen of it, and
// the place where it settled; 0, and more than Ranks, are any further down.
type Outcome struct {
	Field Field   `json:"field"`
	Mine  Signals `json:"mine"`
	Place int     `json:"place"`
}

// Sound reports whether an outcome can be reckoned with: what is seen of pages is between 0 and 100, and of no more of
// them than there ever are.
func (o Outcome) Sound() bool {
	const most = 100
	fine := func(s Signals) bool {
		for _, x := range []float64{s.Page, s.Site, s.Title, s.Text, s.Kind} {
			if !(x >= 0 && x <= most) {
				return false
			}
		}
		return true
	}
	return fine(o.Mine) && len(o.Field.Rivals) <= most && !slices.ContainsFunc(o.Field.Rivals, func(s Signals) bool {
		return !fine(s) || s.Luck != 0
	})
}

// Own is what one's own pages tell: which ways of an engine to weigh what it sees they make likelier, and what they
// have beside all that can be seen of them, as strength.
type Own struct {
	Pages     int       `json:"pages"`
	Luck      float64   `json:"luck"`      // mean, as strength
	Deviation float64   `json:"deviation"` // of that
	Weights   []float64 `json:"weights"`   // of the model's draws
}

// What is thought of my pages' luck before any has settled, in log odds (ours): two sites of three lie within it.
const luckDeviation = 1.0

// The luck is sought on a grid, in log odds.
const (
	luckFar  = 4.0
	luckStep = 0.1
)

// fewestDraws is how many draws count at least, by the inverse of the sum of their squared weights (Kish 1965): 32
// draws tell apart no more than that they say (ours).
const fewestDraws = 8.0

// LearnOwn is what outcomes of my pages tell, by Bayes: of the model's draws, which are the posterior that results
// pages gave, and of a luck that all of my pages have in common. less says by how much the log odds of the first so
// many are lower for pages that were chosen for their forecast; nil says that they were not. Locked fields say
// nothing.
func (m Model) LearnOwn(list []Outcome, less func(place int) float64) Own {
	out := Own{Deviation: luckDeviation / m.Deep.Slope, Weights: make([]float64, len(m.draws))}
	var grid []float64
	for x := -luckFar; x <= luckFar+luckStep/2; x += luckStep {
		grid = append(grid, x)
	}
	sums := make([][]float64, len(m.draws)) // log posterior by draw and luck
	for d := range sums {
		sums[d] = make([]float64, len(grid))
		for g, x := range grid {
			sums[d][g] = math.Log(m.draws[d].weight) - x*x/(2*luckDeviation*luckDeviation)
		}
	}
	for _, o := range list {
		if o.Field.Locked != "" || len(o.Field.Rivals) == 0 {
			continue
		}
		out.Pages++
		mine := o.Mine
		mine.Luck = 0
		x := m.face(o.Field)
		page := x.page(mine)
		upper, lower := x.cut(o.Place, less), x.cut(o.Place-1, less)
		if o.Place < 1 || o.Place > Ranks {
			upper, lower = math.Inf(1), x.cut(Ranks, less)
		}
		for d := range sums {
			base := page[d] - x.levels[d]
			for g, luck := range grid {
				sums[d][g] += math.Log(math.Max(1e-12, logistic(base+luck+upper)-logistic(base+luck+lower)))
			}
		}
	}
	if out.Pages == 0 {
		for d := range m.draws {
			out.Weights[d] = m.draws[d].weight
		}
		return out
	}
	// The luck has its share by all draws; a draw counts by all that luck may be.
	most := math.Inf(-1)
	for _, row := range sums {
		most = math.Max(most, slices.Max(row))
	}
	total, mean, square := 0.0, 0.0, 0.0
	for d, row := range sums {
		for g, v := range row {
			p := math.Exp(v - most)
			out.Weights[d] += p
			total, mean, square = total+p, mean+p*grid[g], square+p*grid[g]*grid[g]
		}
	}
	mean, square = mean/total, square/total
	for d := range out.Weights {
		out.Weights[d] /= total
	}
	out.Weights = tempered(out.Weights)
	out.Luck = mean / m.Deep.Slope
	out.Deviation = math.Sqrt(math.Max(0, square-mean*mean)) / m.Deep.Slope
	return out
}

// cut is what is added to log odds for the first k: −∞ for none.
func (x faced) cut(k int, less func(place int) float64) float64 {
	switch {
	case k < 1:
		return math.Inf(-1)
	case x.Room(k):
		return math.Inf(1)
	case less == nil:
		return -x.step(k)
	}
	return -x.step(k) - less(k)
}

// tempered raises weights to a power, at most 1, with which at least fewestDraws count.
func tempered(weights []float64) []float64 {
	raised := func(power float64) (out []float64, count float64) {
		sum, squares := 0.0, 0.0
		for _, w := range weights {
			w = math.Pow(w, power)
			out = append(out, w)
			sum += w
		}
		for i := range out {
			out[i] /= sum
			squares += out[i] * out[i]
		}
		return out, 1 / squares
	}
	least := math.Min(fewestDraws, float64(len(weights)))
	out, count := raised(1)
	if count >= least {
		return out
	}
	low, high := 0.0, 1.0
	for range 40 {
		if mid := (low + high) / 2; func() bool { out, count = raised(mid); return count >= least }() {
			low = mid
		} else {
			high = mid
		}
	}
	out, _ = raised(low)
	return out
}

// Own returns the model with what one's own pages told: its draws weigh as they make likely, how sure their luck is
// widens what chances lie between, and Luck is what a page of mine has. That of another number of draws changes
// nothing.
func (m Model) Own(o Own) Model {
	if len(o.Weights) != len(m.draws) || o.Pages == 0 || math.IsNaN(o.Luck) || math.IsInf(o.Luck, 0) {
		return m
	}
	m = m.Weighed(o.Weights)
	m.Luck, m.own = o.Luck, o
	for d, z := range standard()[:len(m.draws)] {
		m.draws[d].offset += m.Deep.Slope * o.Deviation * z[Traits]
	}
	return m
}

// folds is into how many parts outcomes are cut to see whether what they tell holds for those that took no part.
const folds = 5

// Tried is how right chances of outcomes are that took no part in what was learnt: each part is forecast by what the
// others told.
type Tried struct {
	Pages  int
	Before [2]Scored // of page one and the top five, without what one's own pages tell
	After  [2]Scored // with it
	Gain   float64   // by which part the chance of the place where a page settled is higher with it (geometric mean)
	Better bool      // that is more than 0
}

// Scored is how right some chances were.
type Scored struct {
	Expected float64 // how many were to come
	Came     int
	Brier    float64
}

// TryOwn holds what outcomes tell against those of them that took no part in it.
func (m Model) TryOwn(list []Outcome, less func(place int) float64) (out Tried) {
	list = slices.DeleteFunc(slices.Clone(list), func(o Outcome) bool {
		return o.Field.Locked != "" || len(o.Field.Rivals) == 0
	})
	out.Pages = len(list)
	goals := [2]int{PageOne, TopFive}
	gained := 0.0
	for fold := range folds {
		var known, left []Outcome
		for i, o := range list {
			if i%folds == fold {
				left = append(left, o)
			} else {
				known = append(known, o)
			}
		}
		after := m.Own(m.LearnOwn(known, less))
		for _, o := range left {
			gained += math.Log(after.told(o, less)) - math.Log(m.told(o, less))
			for g, k := range goals {
				came := 0.0
				if o.Place > 0 && o.Place <= k {
					came = 1
					out.Before[g].Came++
					out.After[g].Came++
				}
				x, y := m.chosen(o, k, less), after.chosen(o, k, less)
				out.Before[g].Expected += x
				out.After[g].Expected += y
				out.Before[g].Brier += (x - came) * (x - came) / float64(len(list))
				out.After[g].Brier += (y - came) * (y - came) / float64(len(list))
			}
		}
	}
	if len(list) > 0 {
		out.Gain = math.Exp(gained/float64(len(list))) - 1
	}
	out.Better = out.Gain > 0
	return out
}

// told is the chance of the place where a page of mine settled, which was chosen for its forecast.
func (m Model) told(o Outcome, less func(place int) float64) float64 {
	at := o.Place
	if at < 1 || at > Ranks {
		return math.Max(rare, 1-m.chosen(o, Ranks, less))
	}
	before := 0.0
	if at > 1 {
		before = m.chosen(o, at-1, less)
	}
	return math.Max(rare, m.chosen(o, at, less)-before)
}

// rare is the least chance that a place is given.
const rare = 1e-6

// chosen is the chance of the first k for a page of mine that was chosen for it.
func (m Model) chosen(o Outcome, k int, less func(place int) float64) (sum float64) {
	mine := o.Mine
	mine.Luck = m.Luck
	x := m.face(o.Field)
	page, cut := x.page(mine), x.cut(k, less)
	for d, one := range x.draws {
		sum += one.weight * logistic(page[d]-x.levels[d]+cut)
	}
	return sum
}
