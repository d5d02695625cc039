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
	// Names of the sources, shown beside what they said.
	Names map[Question]string
}

// Service is one kind of question: for how long its answers are fresh (ours), what its
// settings are called and help with, and how its client is made. Settings, prices and
// lifetimes range over Askings.
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

// Services lists the questions.
func Services() []Service {
	return []Service{
		{Question: Suggestions, Life: 30 * Day, Address: "address of an OpenSearch Suggestions service",
			Price: "price of one suggestion lookup", Source: "the suggestion service",
			StandIn: "/suggest",
			Connect: func(m *Market, at Connection) { m.Suggest = market.NewSuggestions(at.Source) }},
		{Question: Demand, Life: 30 * Day, Address: "address of a demand service (docs/demand.openapi.yaml)",
			Price: "price of one phrase's demand figures", Source: "the demand service",
			StandIn: "/demand",
			Connect: func(m *Market, at Connection) { m.Demand = market.NewDemandService(at.Source) }},
		{Question: Results, Life: 7 * Day,
			Address: "address of a search engine that answers in Atom with OpenSearch elements",
			Price:   "price of one results lookup", Source: "the search engine",
			StandIn: "/search",
			Connect: func(m *Market, at Connection) { m.Search = market.NewResultsService(at.Source, at.Engine) }},
		{Question: Page, Life: 14 * Day, Price: "price of fetching one page", Source: "the page's own server"},
		{Question: Links, Life: 30 * Day, Address: "address of a links service (docs/links.openapi.yaml)",
			Price: "price of one page's links", Source: "the links service",
			StandIn: "/links",
			Connect: func(m *Market, at Connection) { m.Links = market.NewLinksService(at.Source) }},
		{Question: Graph, Life: 30 * Day, Source: "the links service"},
		{Question: Totals, Life: 30 * Day, Source: "the search engine",
			Price: "price of counting the pages of one search, without reading them"},
		{Question: Names, Life: 7 * Day, Address: "address of an RDAP service",
			Price: "price of asking for one name", Source: "the registry", StandIn: "/rdap",
			Connect: func(m *Market, at Connection) { m.Registry = market.NewRegistry(at.Source) }},
	}
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
