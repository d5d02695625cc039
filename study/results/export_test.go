package results

import (
	"cleverniche/store"
	"cleverniche/study/niches"
)

// What tests look at from outside.
var (
	Judged       = judged
	ReadEvidence = readEvidence
	TagOf        = tagOf
	Recalculates = reckoning
)

const (
	RecalcJob       = recalcJob
	EvidenceVersion = evidenceVersion
)

func (ev *Evidence) Decide(n niches.Niche, idea store.Idea, standing float64) {
	ev.decide(n, idea, standing)
}

func (ev *Evidence) Document() (store.Document, error) { return ev.document() }
