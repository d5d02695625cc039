// Package store keeps everything in one SQLite file: niches, ideas and where
// they came from, every answer of the outside world, evidence, decisions, jobs.
package store

import (
	"fmt"
	"strconv"
	"strings"
	"time"

	"cleverniche/core/demand"
)

// Niche is the workspace: one subject, one country and language, one own site.
// Revision grows with every change to its ideas.
type Niche struct {
	ID           uint
	Name         string
	Country      string // ISO 3166-1 alpha-2
	Language     string // ISO 639-1
	Currency     string // ISO 4217
	OwnSite      string // registrable domain; may be empty
	PlannedLinks int    // solid links planned to a new page
	LinkStanding float64
	Fit          float64 // of a well-made page
	Calibration  string  // name of the model that its ideas were judged with
	Revision     int64
	OpenedAt     time.Time
	CreatedAt    time.Time
}

// Idea is one search phrase in one niche, with the figures lists are made of.
// Pointers are nil while a figure is not known.
type Idea struct {
	ID         uint
	NicheID    uint
	Phrase     string // normal form
	Words      int
	VariantKey string
	Decision   int8
	DecidedAt  *time.Time
	Revision   int64
	CreatedAt  time.Time

	DemandAt     *time.Time
	DemandSource string
	DemandError  string
	Searches     *int
	Under        bool
	Months       string // see EncodeMonths
	CPCMicros    *int64
	Currency     string
	Competition  *float64
	PhraseMatch  int
	BroadMatch   int

	JudgedAt   *time.Time
	JudgeError string
	Difficulty float64
	Reach      float64
	PageOne    float64
	TopFive    float64
	Expected   float64
	Footholds  int
	Weakest    float64
	// LinksNeeded is the solid links for even odds of the goal.
	LinksNeeded int
	Locked      bool
	Want        int8
	Mixed       bool

	// What I could put there for this idea, where it differs from the niche.
	MyStanding *float64
	MyLinks    *int
	MyFit      *float64
}

// Origin is one way an idea was found.
type Origin struct {
	IdeaID    uint
	Kind      string // completion, letter, question, import, dig
	Query     string // what was asked, or the list it stood in
	Seed      string
	CreatedAt time.Time
}

// Seed is a phrase that ideas are grown from. FromIdea is the idea it was dug
// from, if it was.
type Seed struct {
	ID        uint
	NicheID   uint
	Phrase    string
	FromIdea  *uint
	CreatedAt time.Time
}

// Evidence is what an idea was judged on, as JSON.
type Evidence struct {
	IdeaID uint `gorm:"primaryKey"`
	Body   []byte
}

// Answer is one answer of an outside source, kept with its source and time.
type Answer struct {
	Kind       string `gorm:"primaryKey"`
	Key        string `gorm:"primaryKey"`
	Source     string
	Body       []byte // compressed
	AskedAt    time.Time
	TookMS     int64
	CostMicros int64
}

// Decision is one keep, drop or neither, for undoing. Those of one Batch were
// made at once.
type Decision struct {
	ID        uint
	NicheID   uint
	IdeaID    uint
	Batch     string
	Was       int8
	Became    int8
	CreatedAt time.Time
}

// Job is a piece of long work.
type Job struct {
	ID         uint
	NicheID    uint
	Kind       string
	Title      string
	Params     string // JSON, the job kind's own
	State      string
	Message    string
	Found      int // new ideas, or ideas judged
	Lookups    int
	CostMicros int64
	Owner      string
	LeaseUntil time.Time
	CreatedAt  time.Time
	FinishedAt *time.Time
}

// States of a job.
const (
	Running   = "running"
	Stopped   = "stopped"   // by a source that does not answer; can go on
	Paused    = "paused"    // by the user; can go on
	Cancelled = "cancelled" // by the user, for good
	Done      = "done"
)

// JobItem is one step of a job.
type JobItem struct {
	ID      uint
	JobID   uint
	Seq     int
	Payload string
	State   string // "", done, failed
	Error   string
}

// EncodeMonths writes monthly counts as text: the first month, then a value for
// each month up to the last; empty is missing, "<10" is under ten.
func EncodeMonths(s demand.Series) string {
	counts := s.Latest(120)
	if len(counts) == 0 {
		return ""
	}
	var b strings.Builder
	b.WriteString(counts[0].Month.String())
	next := counts[0].Month
	for _, c := range counts {
		for ; next <= c.Month; next++ {
			b.WriteByte(',')
		}
		if c.Under {
			b.WriteByte('<')
		}
		b.WriteString(strconv.Itoa(c.Searches))
	}
	return b.String()
}

// DecodeMonths reads what EncodeMonths wrote.
func DecodeMonths(text string) ([]demand.Count, error) {
	if text == "" {
		return nil, nil
	}
	parts := strings.Split(text, ",")
	month, err := demand.ParseMonth(parts[0])
	if err != nil {
		return nil, err
	}
	out := make([]demand.Count, 0, len(parts)-1)
	for i, p := range parts[1:] {
		if p == "" {
			continue
		}
		digits, under := strings.CutPrefix(p, "<")
		n, err := strconv.Atoi(digits)
		if err != nil {
			return nil, fmt.Errorf("month %d: %w", i+1, err)
		}
		out = append(out, demand.Count{Month: month + demand.Month(i), Searches: n, Under: under})
	}
	return out, nil
}
