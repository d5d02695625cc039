package ideas

import (
	"context"
	"math"

	"cleverniche/core/sieve"
	"cleverniche/study/niches"
)

// Points are ideas as a map shows them, a list for each figure, all in one order; −1 is not
// known.
type Points struct {
	IDs        []uint    `json:"id"`
	Phrases    []string  `json:"phrase"`
	Difficulty []float64 `json:"difficulty"`
	Searches   []float64 `json:"searches"`
	Wants      []int     `json:"wants"`    // as core/intent numbers them
	Worth      []float64 `json:"worth"`    // searches × cost per click
	Decided    []int     `json:"decision"` // as core/sieve does
	Reach      float64   `json:"reach"`    // mine, as planned for the niche
}

// MostPoints is how many ideas a map shows: the most searched.
const MostPoints = 60_000

// Points are those of what a sieve leaves; my reach is by a model.
func (s *Keeper) Points(ctx context.Context, n niches.Niche, m niches.Known, b Table, by sieve.Sieve) Points {
	t := b.Table
	at := t.Top(b.Pass(by).Left, sieve.Searches, true, 0, MostPoints)
	p := Points{IDs: make([]uint, len(at)), Phrases: make([]string, len(at)), Difficulty: make([]float64, len(at)),
		Searches: make([]float64, len(at)), Wants: make([]int, len(at)), Worth: make([]float64, len(at)),
		Decided: make([]int, len(at))}
	number := func(i int, f *sieve.Figure, digits float64) float64 {
		if x, known := t.Number(i, f); known {
			return math.Round(x*digits) / digits
		}
		return -1
	}
	for k, i := range at {
		p.IDs[k], p.Phrases[k] = t.ID(i), t.Phrase(i)
		p.Difficulty[k], p.Searches[k] = number(i, sieve.Difficulty, 10), number(i, sieve.Searches, 1)
		p.Wants[k], p.Decided[k] = int(number(i, sieve.Intent, 1)), int(number(i, sieve.Decided, 1))
		p.Worth[k] = -1
		if cost := number(i, sieve.CPC, 100); cost >= 0 && p.Searches[k] >= 0 {
			p.Worth[k] = math.Round(cost * p.Searches[k])
		}
	}
	standing, _ := s.asker.KnownStanding(ctx, n.OwnSite)
	p.Reach = math.Round(10*m.Reach(m.Mine(n, standing))) / 10
	return p
}
