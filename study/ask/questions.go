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
	Rankings    Question = "rankings"
)

// Market is the outside world as the study asks it. A nil source is one that is
// not set up.
type Market struct {
	Suggest  market.Suggester
	Demand   market.Demander
	Search   market.Searcher
	Pages    market.Fetcher
	Links    market.Linker // one that is a market.Grapher knows all sites' links, too
	Registry market.Registrar
	Ranked   market.PhraseRanker // one that is a market.SiteRanker knows more of sites
	Ranks    market.Ranker       // the web graph that was imported
	// Names of these sources, shown beside what they said.
	Names map[Question]string
	// More are asked behind those, in their order.
	More []Source
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
	Says     string // what it answers, in words
	Instead  string // what one does without anybody to ask; "" where there is nothing
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
	return []Service{suggestions, demandFigures, results, pages, linksTo, siteGraph, totals, registrations, rankings}
}

// WebGraph is the web graph that was imported.
type WebGraph struct {
	Sites int
	Links int       // between them; 0 where that is not known
	At    time.Time // when it was built
}

// ranks is the web graph that was imported; nil without one.
func (s *Asker) ranks() market.Ranker {
	if r := s.ranked.Load(); r != nil {
		return *r
	}
	return nil
}

// Rank lets a web graph be asked for sites' standings from now on.
func (s *Asker) Rank(r market.Ranker) { s.ranked.Store(&r) }

// WebGraph tells of the web graph that was imported; nil without one.
func (s *Asker) WebGraph() *WebGraph {
	g, is := s.ranks().(interface {
		Sites() int
		Links() int
		At() time.Time
	})
	if !is {
		return nil
	}
	return &WebGraph{g.Sites(), g.Links(), g.At()}
}

// SourceNames are the names of those who are asked first.
func (s *Asker) SourceNames() map[Question]string {
	out := map[Question]string{}
	for _, a := range Services() {
		out[a.Question] = s.Name(a.Question)
	}
	return out
}
