package standin

import (
	"runtime/debug"
	"sync"
	"time"
)

// World is the grown internet. It is founded on a day, and its clock can be moved
// on from there; what it says depends on its number, its scenarios, the day it
// was founded, the clock and the pages that were published in it, and on nothing
// else.
//
// Handler lets many ask at once and keeps those that change something apart from
// them; whoever uses the methods directly does that themselves.
type World struct {
	Number  int
	Founded time.Time // the day it is grown for

	scenarios []*Scenario
	tendency  tendency
	lexicon   *lexicon
	slots     []map[string][]*value
	texts     []*texts // by hobby
	echoes    []line
	costs     line
	sayings   map[string]*saying
	known     map[string][]*value // the hottest of the endless stocks
	silent    []*saying           // by hobby, of pages that are about nothing in particular

	readersHeads []line
	needs        []*need
	queries      map[string]*query
	queryList    []*query
	sites        map[string]*site
	siteList     []*site
	pages        []*page // by id
	natural      []*page // those that grew by themselves: not published as experiments
	urns         map[string]*urn
	lotteries    []*lottery // one a hobby, and one of all
	index        *index
	hints        *hints
	engines      []*Engine
	shots        snapshots
	ranked       rankings
	aside        sync.WaitGroup // what grows beside the rest

	mu    sync.RWMutex // held by Handler
	now   time.Time
	weeks int // weeks after the founding that have been lived through
	lab   lab
}

// Grow makes the world of that number over the scenarios, founded on a day.
func Grow(number int, scenarios []*Scenario, day time.Time) *World {
	w := sprout(number, scenarios, day)
	w.ripen(w.buildIndex())
	return w
}

// sprout lets all grow but what engines know of the pages.
func sprout(number int, scenarios []*Scenario, day time.Time) *World {
	w := newWorld(number, scenarios, day)
	w.aside.Go(func() { w.hints = newHints(w.queryList) }) // needs nothing of what follows
	w.growSites()
	w.growPages()
	w.growLinks()
	return w
}

// ripen gives the engines what they know.
func (w *World) ripen(ix *index) {
	w.aside.Wait()
	w.index = ix
	w.engines = w.buildEngines()
	debug.FreeOSMemory() // growing leaves much behind
}

// newWorld makes a world of which nothing has grown but what people search.
func newWorld(number int, scenarios []*Scenario, day time.Time) *World {
	day = day.UTC().Truncate(24 * time.Hour)
	w := &World{Number: number, Founded: day, now: day, scenarios: scenarios, tendency: tendencyOf(number),
		lexicon: newLexicon(), sayings: map[string]*saying{},
		queries: map[string]*query{}, sites: map[string]*site{}, urns: map[string]*urn{}}
	w.echoes, w.costs = w.lines(echoes), w.lines([]string{costs})[0]
	w.readersHeads = w.lines([]string{"From our readers", "What readers say", "Letters from readers"})
	w.knowHottest()
	for h, s := range scenarios {
		w.texts = append(w.texts, w.readTexts(s))
		w.growNeeds(h, s)
		w.silent = append(w.silent, w.sayingFor(h, "start", map[string]*value{"hobby": {}}))
	}
	w.numberQueries()
	return w
}

// Count is how much of everything the world holds.
type Count struct{ Needs, Queries, Sites, Pages, Links int }

// Count counts what there is by the clock.
func (w *World) Count() Count {
	c := Count{Needs: len(w.needs), Queries: len(w.queryList), Sites: len(w.siteList)}
	for _, p := range w.pages {
		if !p.standsAt(w.now) {
			continue
		}
		c.Pages++
		for _, l := range p.in {
			if l.aliveAt(w.now) {
				c.Links++
			}
		}
	}
	return c
}
