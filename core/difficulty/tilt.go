package difficulty

import "math"

// MostTilt is how far an engine can be tilted: at it links and site count half as much, and content twice, or the other
// way round (ours).
const MostTilt = 1.0

// Tilted is the model as if its engine leaned more on content, from 0 to MostTilt, or more on links and site, below 0.
// How sure its weights are is scaled with them.
func (m Model) Tilted(by float64) Model {
	if by == 0 || math.IsNaN(by) {
		return m
	}
	by = math.Max(-MostTilt, math.Min(MostTilt, by))
	var factor vector
	for i := range factor {
		if factor[i] = math.Exp2(by); i == traitPage || i == traitSite {
			factor[i] = math.Exp2(-by)
		}
	}
	l := m.Leans
	for i := range Traits {
		l.Mean[i] *= factor[i]
		for j := range Traits {
			l.Cov[i][j] *= factor[i] * factor[j]
		}
	}
	return m.Leaning(l, m.Pages).Own(m.own)
}

// Traits that links and the site give, by their order in TraitNames.
const (
	traitPage = iota
	traitSite
)
