package standin

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"sort"
	"strings"
)

// pagesOn is how many pages set out to answer a need: none to a few where hardly
// anybody asks, a dozen and more where a hundred a month do, forty and more where
// thousands do (common practice, no source).
func pagesOn(n *need, rng *rand.Rand) int {
	switch b := n.base; {
	case b < 50:
		return min(5, poisson(rng, 2.5+b/12))
	case b < 100:
		return 6 + min(5, poisson(rng, 2.5))
	case b < 5000:
		return max(12, int(math.Round(13*math.Pow(b/100, 0.3)*math.Exp(0.15*rng.NormFloat64()))))
	default:
		return max(40, int(math.Round(44*math.Pow(b/5000, 0.3)*math.Exp(0.15*rng.NormFloat64()))))
	}
}

// market brings needs and sites together.
type market struct {
	w     *World
	stall map[string]*stall
}

// stall is the sites of one hobby that publish one kind of page, and how likely each is
// the one that does.
type stall struct {
	sites []*site
	sums  []float64
}

func (w *World) newMarket() *market { return &market{w, map[string]*stall{}} }

// pulls is how many steps there are of how much a need pulls known sites, shunned the one
// of a need that they have missed.
const (
	pulls   = 12
	shunned = -5
)

// pull is how much known sites are preferred, up to pulls: the more the need is searched.
func pull(n *need) int {
	if n.missed {
		return shunned
	}
	return max(0, min(pulls, int(math.Round(4*math.Log10(n.base/70)))))
}

func (m *market) stallFor(n *need, kind pageKind) *stall {
	step := pull(n)
	key := fmt.Sprint(n.hobby, " ", kind, " ", step)
	if s := m.stall[key]; s != nil {
		return s
	}
	s := &stall{}
	sum := 0.0
	for _, st := range m.w.siteList {
		if st.kind == maker || st.kind == linkRing || m.w.isOwn(st) || !slices.Contains(st.hobbies, n.hobby) ||
			!slices.Contains(plans[st.kind].publishes, kind) {
			continue
		}
		sum += st.size / float64(len(st.hobbies)) * math.Pow(st.authority, 0.07*float64(step))
		s.sites, s.sums = append(s.sites, st), append(s.sums, sum)
	}
	m.stall[key] = s
	return s
}

func (s *stall) draw(rng *rand.Rand) *site {
	return s.sites[min(sort.SearchFloat64s(s.sums, rng.Float64()*s.sums[len(s.sums)-1]), len(s.sites)-1)]
}

// Most pages on one need that one site has, and on a forum.
const (
	mostOfSite  = 1
	mostOfForum = 2
)

// answer lets sites write on a need.
func (m *market) answer(n *need) {
	rng := m.w.random("answers", m.w.scenarios[n.hobby].Slug, n.queries[0].text)
	if brand := n.holds("maker") + n.madeBy("model"); brand != "" {
		m.ofMaker(n, brand, rng)
	}
	on := map[*site]int{}
	most := pagesOn(n, rng)
	for have, try := 0, 0; have < most && try < 12*most; try++ {
		kind := m.w.kindOf(n, rng)
		s := m.stallFor(n, kind)
		if kind == pageHome || len(s.sites) == 0 {
			continue
		}
		st := s.draw(rng)
		if on[st] >= mostOfForum || on[st] >= mostOfSite && st.kind != community && st.kind != videoHost {
			continue
		}
		on[st]++
		have++
		m.w.addPage(st, n, kind, rng)
	}
}

// ofMaker lets a maker write on what bears its name.
func (m *market) ofMaker(n *need, brand string, rng *rand.Rand) {
	st := m.w.sites[strings.ReplaceAll(brand, " ", "")+makerSuffix]
	if st == nil {
		return
	}
	for _, kind := range plans[maker].publishes {
		if n.serves[kind] > 0 && rng.Float64() < 0.8 {
			m.w.addPage(st, n, kind, rng)
			return
		}
	}
}
