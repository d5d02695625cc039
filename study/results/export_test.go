package results

import (
	"cleverniche/store"
	"cleverniche/study/niches"
)

// What tests look at from outside.
var (
	Judged       = judged
	TagOf        = tagOf
	Recalculates = reckoning
)

const (
	RecalcJob       = recalcJob
	EvidenceVersion = evidenceVersion
)

func (ev *Evidence) Decide(n niches.Niche, idea store.Idea, standing float64) {
	ev.decide(niches.Unknown, n, idea, standing)
}

func (ev *Evidence) Document() (store.Document, error) { return ev.document() }

// ReadEvidence is readEvidence for an engine that has shown nothing.
func ReadEvidence(d store.Document) (Evidence, error) { return readEvidence(d, niches.Unknown) }

// Row is how what stands in front is kept.
func (ev *Evidence) Row() (*store.Front, error) { return ev.row("en") }

// Over puts something over the data file; what it returns takes that away.
func (s *Researcher) Over(wrap func(Store) Store) (back func()) {
	was := s.store
	s.store = wrap(was)
	return func() { s.store = was }
}
