// Package thecase asks whether a niche is worth entering: seven questions on bars that one moves, what it would earn
// for the hours it takes, how sure that is, and who lives from it already. Several niches answer side by side.
package thecase

import (
	"context"
	"fmt"
	"sync"
	"time"

	"cleverniche/core/niche"
	"cleverniche/store"
	"cleverniche/study/ask"
	"cleverniche/study/gather"
	"cleverniche/study/ideas"
	"cleverniche/study/input"
	"cleverniche/study/jobs"
	"cleverniche/study/niches"
	"cleverniche/study/results"
	"cleverniche/study/rivals"
	"cleverniche/study/topics"
)

// Store is what is asked of the data file.
type Store interface {
	Case(ctx context.Context, niche uint) (store.Case, error)
	ChangeCase(ctx context.Context, niche uint, change func(body string) (string, error)) error
	DeleteVerdict(ctx context.Context, niche, id uint) error
	Now() time.Time
	SaveVerdict(ctx context.Context, v store.Verdict) error
	Verdicts(ctx context.Context, niche uint) ([]store.Verdict, error)
}

// Examiner puts the questions.
type Examiner struct {
	store    Store
	asker    *ask.Asker
	ideas    *ideas.Keeper
	results  *results.Researcher
	rivals   *rivals.Scout
	niches   *niches.Keeper
	gatherer *gather.Gatherer
	runner   *jobs.Runner
	topics   *topics.Grouper // of all ideas of a niche, whatever its list of topics holds
	mu       sync.Mutex
	held     map[uint]counted
}

// New returns an examiner.
func New(st Store, asker *ask.Asker, list *ideas.Keeper, r *results.Researcher, scout *rivals.Scout,
	runner *jobs.Runner, all *topics.Grouper, known *niches.Keeper, g *gather.Gatherer) *Examiner {
	return &Examiner{store: st, asker: asker, ideas: list, results: r, rivals: scout, niches: known, gatherer: g,
		runner: runner,
		topics: all, held: map[uint]counted{}}
}

// Case is a niche, examined.
type Case struct {
	Niche    niches.Niche
	Settings Settings
	Answers  niche.Case
	Topics   int // in all
	LookedUp int
	Drawn    int // of them, at random
	Within   niche.Range
	Told     bool // Within tells also of what is not looked up
	Earn     niche.Earnings
	EarnWhy  string // why nothing is earned; "" something is
	Visit    Visit
	Decision Decision
	Why      string
	Rests    Rests
	Pieces   []niche.Piece
	Gain     float64 // points of standing that young sites here gain in two years; 0 not told
	Dated    int     // sites that tell it, or too few
	// Sells are the searches a month of looked-up topics of who compares or buys, SellsKnown all of them.
	Sells, SellsKnown float64
	SellsCPC          float64 // what a click costs there, the middle one; 0 not known
	Supposed          int     // of the pieces, those that are taken to be like drawn ones
}

// Visit is what a visit is taken to bring.
type Visit struct {
	Likely float64 // units of the currency, in the mean over what would be written
	Said   string  // where that comes from
	Usual  bool    // nobody said it: it is what is taken until somebody does
}

// Decision is what a case comes to.
type Decision string

// The decisions.
const (
	Start  Decision = "yes"
	Stop   Decision = "no"
	NotYet Decision = "not yet"
)

// Rests is on how little a case rests: shares of the expected visits.
type Rests struct {
	Phrase      string
	PhraseShare float64
	Season      string // three months in a row
	SeasonShare float64
	Rival       string // that stands in most of the tens
	RivalShare  float64
}

// Of examines a niche by bars and assumptions.
func (s *Examiner) Of(ctx context.Context, n niches.Niche, set Settings) (out Case, err error) {
	c, err := s.count(ctx, n, set)
	if err != nil {
		return out, err
	}
	answers, err := niche.Compare([]niche.Niche{c.niche}, set.Bars)
	if err != nil {
		return out, input.Bad("bars", "%s", input.Sentence(err.Error()))
	}
	out = Case{Niche: n, Settings: set, Answers: answers[0], Topics: len(c.niche.Topics), Pieces: c.pieces}
	var clicks []float64
	for _, t := range c.niche.Topics {
		if t.Judged {
			if t.Searches > 0 {
				out.SellsKnown += t.Searches
				if t.Sells {
					out.Sells += t.Searches
				}
				if t.Sells && t.CPC > 0 {
					clicks = append(clicks, float64(t.CPC)/1e6)
				}
			}
			out.LookedUp++
			if t.Drawn {
				out.Drawn++
			}
		}
	}
	_, out.SellsCPC, _ = results.Middle(clicks)
	out.Within, out.Told, out.Gain, out.Dated = c.within, c.told, c.gain, c.dated
	out.Visit = s.visit(n, c.pieces)
	if out.Earn, err = c.earn(set.Assumed.assumed(s.store.Now().Month())); err != nil {
		out.EarnWhy = input.Sentence(err.Error())
		if out.LookedUp == 0 {
			out.EarnWhy = "Nothing is looked up yet."
		}
	}
	for _, p := range c.pieces {
		if p.Supposed {
			out.Supposed++
		}
	}
	out.Rests = c.rests(out.Earn.Pieces)
	out.decide()
	return out, nil
}

// Bounds of decisions (ours).
const (
	leastLookedUp = 10 // topics; under that nothing is decided
	leastWeeks    = 8  // of evenings that must be worth it, for a subject to be one to start
)

// decide goes by the hours that are expected to bring the bar, and by the questions. It is yes where these hours are
// many and likely bring it; no where they are few, or a question is answered no; not yet where that cannot be told.
func (c *Case) decide() {
	fails := c.Answers.Fails()
	e, a := c.Earn, c.Settings.Assumed
	whole := c.Told || c.LookedUp == c.Topics // what is not looked up is told, too
	hours := fmt.Sprintf("%.0f hours", e.AboveHours)
	switch {
	case c.LookedUp < leastLookedUp:
		c.Decision, c.Why = NotYet, fmt.Sprintf("Too little is looked up to tell: %d of %d topics.", c.LookedUp, c.Topics)
	case c.EarnWhy != "":
		c.Decision, c.Why = NotYet, c.EarnWhy
	case e.Above == 0 && whole:
		c.Decision, c.Why = Stop, "No article is expected to bring your bar."
	case e.AboveHours < a.enough() && whole:
		c.Decision, c.Why = Stop, "Only "+hours+" are expected to bring your bar. That is not a year of evenings."
	case e.Above == 0:
		c.Decision, c.Why = NotYet, "Nothing that is looked up is expected to bring your bar. The rest is not known."
	case e.AboveHours < a.enough():
		c.Decision, c.Why = NotYet, "Of what is looked up, "+hours+" are expected to bring your bar. The rest is not "+
			"known."
	case len(fails) == 1:
		c.Decision, c.Why = Stop, fmt.Sprintf("One answer is no: %s", fails[0])
	case len(fails) > 1:
		c.Decision, c.Why = Stop, fmt.Sprintf("%d answers are no. The first: %s", len(fails), fails[0])
	case e.Hour.Likely < a.Bar:
		c.Decision, c.Why = NotYet, "For "+hours+" it is close: an hour likely brings less than your bar, and may bring more."
	default:
		c.Decision, c.Why = Start, fmt.Sprintf("For %s, and no answer is no. The chance that they are never earned back "+
			"within two years is %.0f %%.", hours, 100*e.Never)
	}
}

// visit is what a visit brings in the mean of what would be written.
func (s *Examiner) visit(n niches.Niche, list []niche.Piece) (v Visit) {
	sum := 0.0
	for _, p := range list {
		sum += p.PerVisit.Likely
	}
	if len(list) > 0 {
		v.Likely = sum / float64(len(list))
	}
	switch {
	case n.Earning != nil:
		v.Said = "by what you said of ads and shops"
	case n.VisitMicros > 0:
		v.Said = "as you said"
	default:
		v.Usual, v.Said = true, "a usual figure, since you said none"
	}
	return v
}
