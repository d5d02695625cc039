package standin

import (
	"runtime/debug"
	"time"
)

// World is the grown internet. It does not change once grown, and may be asked
// from many goroutines.
type World struct {
	Number int
	Clock  time.Time // the world's present

	scenarios []*Scenario
	slots     []map[string][]value
	sentences [][][]gap
	needs     []*need
	queries   map[string]*query
	queryList []*query
	sites     map[string]*site
	siteList  []*site
	pages     []*page
	index     *index
	hints     *hints
	engines   []*Engine
}

// Grow makes the world of that number over the scenarios, at a moment.
func Grow(number int, scenarios []*Scenario, clock time.Time) *World {
	w := &World{Number: number, Clock: clock.UTC().Truncate(24 * time.Hour), scenarios: scenarios,
		queries: map[string]*query{}, sites: map[string]*site{}}
	for h, s := range scenarios {
		var lines [][]gap
		for _, line := range s.Sentences {
			lines = append(lines, parseGaps(line))
		}
		w.sentences = append(w.sentences, lines)
		w.growNeeds(h, s)
	}
	w.growSites()
	w.growPages()
	w.growLinks()
	w.index = w.buildIndex()
	w.hints = newHints(w.queryList)
	w.engines = w.buildEngines()
	debug.FreeOSMemory() // growing leaves much behind
	return w
}

// Count is how much of everything the world holds.
type Count struct{ Needs, Queries, Sites, Pages, Links int }

// Count counts the world.
func (w *World) Count() Count {
	c := Count{Needs: len(w.needs), Queries: len(w.queryList), Sites: len(w.siteList), Pages: len(w.pages)}
	for _, p := range w.pages {
		c.Links += len(p.in)
	}
	return c
}
