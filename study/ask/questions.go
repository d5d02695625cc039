package ask

import (
	"time"

	"cleverniche/market"
)

// Question is a kind of lookup.
type Question string

// The questions.
const (
	Suggestions Question = "suggestions"
	Demand      Question = "demand"
	Results     Question = "results"
	Page        Question = "page"
	Links       Question = "links"
	Graph       Question = "site graph"
	Totals      Question = "totals"
	Names       Question = "names"
)

// Market is the outside world as the study asks it. A nil source is one that is
// not set up.
type Market struct {
	Suggest  market.Suggester
	Demand   market.Demander
	Search   market.Searcher
	Pages    market.Fetcher
	Links    market.Linker
	Registry market.Registrar
	Ranks    market.Ranker // the web graph that was imported
	// Names of the sources, shown beside what they said.
	Names map[Question]string
}

// Service is one kind of question: for how long its answers are fresh (ours), what its
// settings are called and help with, and how its client is made. Settings, prices and
// lifetimes range over Services.
type Service struct {
	Question Question
	Life     time.Duration
	Address  string // help of the setting of its address; "" when it has none
	Price    string // help of the setting of its price; "" when it has none
	Source   string // the source's name
	StandIn  string // where the stand-in web answers it
	Connect  func(m *Market, at Connection)
}

// Connection is how a source is reached.
type Connection struct {
	market.Source
	Engine string // which of the source's engines to ask
}

// Day is a day of lifetimes.
const Day = 24 * time.Hour

// Services lists the questions; each has a file, with how it is put.
func Services() []Service {
	return []Service{suggestions, demandFigures, results, pages, linksTo, siteGraph, totals, registrations}
}

// Price is what a question of a kind costs, in micro-units of money.
func (s *Asker) Price(q Question) int64 { return s.options.Prices[q] }

// Depth is how many results are looked up.
func (s *Asker) Depth() int { return s.options.Depth }

// SourceNames are the names of the sources.
func (s *Asker) SourceNames() map[Question]string { return s.market.Names }

// Has reports whether there is somebody to put a question to.
func (s *Asker) Has(q Question) bool { return s.market.source(q) != nil }

// source is who answers a question; nil when nobody does.
func (m Market) source(q Question) any {
	switch q {
	case Suggestions:
		return m.Suggest
	case Demand:
		return m.Demand
	case Results, Totals:
		return m.Search
	case Page:
		return m.Pages
	case Links, Graph:
		return m.Links
	case Names:
		return m.Registry
	}
	return nil
}

// lifetime is for how long an answer to a question is fresh.
func (s *Asker) lifetime(q Question) time.Duration {
	if d, ok := s.options.Lifetimes[q]; ok {
		return d
	}
	for _, a := range Services() {
		if a.Question == q {
			return a.Life
		}
	}
	return 0
}
