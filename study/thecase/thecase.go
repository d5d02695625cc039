// Package thecase asks whether a niche is worth entering: seven questions on bars that one moves, what it would earn
// for the hours it takes, how sure that is, and who lives from it already. Several niches answer side by side.
package thecase

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"slices"
	"sync"
	"time"

	"cleverniche/core/demand"
	"cleverniche/core/intent"
	"cleverniche/core/niche"
	"cleverniche/core/plan"
	"cleverniche/core/serp"
	"cleverniche/core/sieve"
	"cleverniche/core/worth"
	"cleverniche/store"
	"cleverniche/study/ask"
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
	store   Store
	asker   *ask.Asker
	ideas   *ideas.Keeper
	results *results.Researcher
	rivals  *rivals.Scout
	runner  *jobs.Runner
	topics  *topics.Grouper // of all ideas of a niche, whatever its list of topics holds
	mu      sync.Mutex
	held    map[uint]counted
}

// counted is what was counted of a niche, at a revision.
type counted struct {
	key    string
	niche  niche.Niche
	pieces []niche.Piece
	lead   []uint // of each topic
	within niche.Range
	told   bool
	earned *earned
}

// earned are earnings that were reckoned, by what was assumed: moving a bar does not change them.
type earned struct {
	mu sync.Mutex
	of map[niche.Assumed]niche.Earnings
}

// mostEarned is for how many assumptions they are held.
const mostEarned = 16

func (c counted) earn(a niche.Assumed) (out niche.Earnings, err error) {
	c.earned.mu.Lock()
	defer c.earned.mu.Unlock()
	if held, is := c.earned.of[a]; is {
		return held, nil
	}
	if out, err = niche.Earn(c.pieces, a); err != nil {
		return out, err
	}
	if len(c.earned.of) >= mostEarned {
		clear(c.earned.of)
	}
	c.earned.of[a] = out
	return out, nil
}

// mostHeld is of how many niches that is held.
const mostHeld = 8

// New returns an examiner.
func New(st Store, asker *ask.Asker, list *ideas.Keeper, r *results.Researcher, scout *rivals.Scout,
	runner *jobs.Runner, all *topics.Grouper) *Examiner {
	return &Examiner{store: st, asker: asker, ideas: list, results: r, rivals: scout, runner: runner,
		topics: all, held: map[uint]counted{}}
}

// Settings are what a case is held against, and which ideas were drawn.
type Settings struct {
	Bars    niche.Bars
	Assumed Assumed
	Drawn   []uint
	Hand    map[string]string // questions that one answers by oneself
}

// Assumed is what earnings rest on, as somebody moves it; the rest is the niche's own.
type Assumed struct {
	WeekHours  float64 `json:"weekHours"`
	MostHours  float64 `json:"mostHours"` // 0 as long as there is something to write
	Bar        float64 `json:"bar"`       // units of the currency that an hour must bring
	Tied       float64 `json:"tied"`
	Chosen     float64 `json:"chosen"` // share of its forecast that what is chosen for it brings
	LeadMonths float64 `json:"leadMonths"`
}

// usual is what is assumed until somebody says otherwise: six hours a week and an hour worth 10 units of the currency
// (ours), and what is measured of forecasts that were chosen.
func usual(n niches.Niche) Settings {
	a := Assumed{WeekHours: 6, Bar: 10, Tied: niche.Together, Chosen: niche.Promised,
		LeadMonths: float64(n.LeadDays) / worth.DaysAMonth}
	if n.WeekHours > 0 {
		a.WeekHours = float64(n.WeekHours)
	}
	a.LeadMonths = math.Round(a.LeadMonths*10) / 10
	return Settings{Bars: niche.Default, Assumed: a}
}

// Settings of a niche.
func (s *Examiner) Settings(ctx context.Context, n niches.Niche) (Settings, error) {
	row, err := s.store.Case(ctx, n.ID)
	if err != nil {
		return Settings{}, err
	}
	return settingsIn(row.Body, n), nil
}

// kept is what is kept of settings: only what somebody moved, so that the rest follows what is usual.
type kept struct {
	Bars    *niche.Bars       `json:"bars,omitempty"`
	Assumed *Assumed          `json:"assumed,omitempty"`
	Drawn   []uint            `json:"drawn,omitempty"`
	Hand    map[string]string `json:"hand,omitempty"`
}

func settingsIn(body string, n niches.Niche) Settings {
	out := usual(n)
	var k kept
	if body == "" || json.Unmarshal([]byte(body), &k) != nil {
		return out
	}
	out.Drawn, out.Hand = k.Drawn, k.Hand
	if k.Bars != nil && k.Bars.Check() == nil {
		out.Bars = *k.Bars
	}
	if k.Assumed != nil {
		out.Assumed = *k.Assumed
	}
	return out
}

func (s *Examiner) change(ctx context.Context, n niches.Niche, do func(*Settings) error) error {
	return s.store.ChangeCase(ctx, n.ID, func(body string) (string, error) {
		now := settingsIn(body, n)
		if err := do(&now); err != nil {
			return "", err
		}
		k, first := kept{Drawn: now.Drawn, Hand: now.Hand}, usual(n)
		if now.Bars != first.Bars {
			k.Bars = &now.Bars
		}
		if now.Assumed != first.Assumed {
			k.Assumed = &now.Assumed
		}
		text, err := json.Marshal(k)
		return string(text), err
	})
}

// Move keeps other bars and assumptions; what cannot be is an *input.Error.
func (s *Examiner) Move(ctx context.Context, n niches.Niche, bars niche.Bars, a Assumed) error {
	if err := bars.Check(); err != nil {
		return input.Bad("bars", "%s", input.Sentence(err.Error()))
	}
	if err := a.Check(); err != nil {
		return input.Bad("assumed", "%s", input.Sentence(err.Error()))
	}
	return s.change(ctx, n, func(now *Settings) error {
		now.Bars, now.Assumed = bars, a
		return nil
	})
}

// Reset goes back to the usual bars and assumptions.
func (s *Examiner) Reset(ctx context.Context, n niches.Niche) error {
	return s.change(ctx, n, func(now *Settings) error {
		first := usual(n)
		now.Bars, now.Assumed = first.Bars, first.Assumed
		return nil
	})
}

// HandQuestions are those that nobody can count. They stand beside the seven and are never mixed with them.
var HandQuestions = []struct{ Key, Says string }{
	{"like", "Do I like it?"}, {"know", "Do I know it?"}, {"find", "Can I find people who know?"},
	{"harm", "Would bad advice do harm?"}}

// MostHand is how long an answer by hand may be.
const MostHand = 500

// Answer keeps answers by hand.
func (s *Examiner) Answer(ctx context.Context, n niches.Niche, said map[string]string) error {
	return s.change(ctx, n, func(now *Settings) error {
		hand := map[string]string{}
		for _, q := range HandQuestions {
			if text := said[q.Key]; text != "" {
				hand[q.Key] = input.Clip(text, MostHand)
			}
		}
		now.Hand = hand
		return nil
	})
}

// assumed is what earnings rest on, begun in a month.
func (a Assumed) assumed(begin time.Month) niche.Assumed {
	return niche.Assumed{Begin: begin, WeekHours: a.WeekHours, MostHours: a.MostHours, LeadMonths: a.LeadMonths,
		EnoughHours: a.enough(), Months: Months, Tied: a.Tied, Chosen: a.Chosen, BarAnHour: a.Bar, VisitFactor: 1}
}

// enough are the hours that must be worth it.
func (a Assumed) enough() float64 { return leastWeeks * a.WeekHours }

// Enough are the hours that must be worth it for a yes.
func (c Case) Enough() float64 { return c.Settings.Assumed.enough() }

// Check returns why assumptions cannot be used, or nil.
func (a Assumed) Check() error { return a.assumed(time.January).Check() }

// Months is how far earnings are looked at.
const Months = 24

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
	Supposed int // of the pieces, those that are taken to be like drawn ones
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
	for _, t := range c.niche.Topics {
		if t.Judged {
			out.LookedUp++
			if t.Drawn {
				out.Drawn++
			}
		}
	}
	out.Within, out.Told = c.within, c.told
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

// spread is how far what a visit brings is taken to lie around what was said (ours): between half and half as much
// again.
const spread = 0.5

// perVisit is what a visit brings of somebody who wants something.
func perVisit(n niches.Niche, want intent.Class) worth.Range {
	x := float64(n.VisitMicros) / 1e6
	switch {
	case n.Earning != nil:
		x = n.Earning.For(want).PerVisit().Likely
	case n.VisitMicros == 0:
		x = niches.UsualEarning.For(want).PerVisit().Likely
	}
	return worth.Range{Low: x * (1 - spread), Likely: x, High: x * (1 + spread)}
}

// count counts what is known of a niche, or returns what was counted before when nothing has changed.
func (s *Examiner) count(ctx context.Context, n niches.Niche, set Settings) (counted, error) {
	n.Scope = niches.ScopeAll
	b, err := s.ideas.Table(ctx, n)
	if err != nil {
		return counted{}, err
	}
	t, err := s.topics.Of(ctx, n)
	if err != nil {
		return counted{}, err
	}
	seen, err := s.rivals.Seen(ctx, n)
	if err != nil {
		return counted{}, err
	}
	key := fmt.Sprint(b.Revision, t.Revision, n, set.Drawn, seen)
	s.mu.Lock()
	held, is := s.held[n.ID]
	s.mu.Unlock()
	if is && held.key == key {
		return held, nil
	}
	out, err := s.counting(ctx, n, t, b.Revision, set)
	if err != nil {
		return out, err
	}
	out.key = key
	s.mu.Lock()
	defer s.mu.Unlock()
	if len(s.held) >= mostHeld {
		clear(s.held)
	}
	s.held[n.ID] = out
	return out, nil
}

func (s *Examiner) counting(ctx context.Context, n niches.Niche, t *topics.Topics, revision int64,
	set Settings) (out counted, err error) {
	standers, err := s.results.InTheWay(ctx, n, revision)
	if err != nil {
		return out, err
	}
	tens := map[uint][]niche.Result{}
	for _, st := range standers {
		for _, at := range st.Stands {
			tens[at.Idea] = append(tens[at.Idea], niche.Result{Site: st.Site, Foothold: at.Foothold})
		}
	}
	drawn := map[uint]bool{}
	for _, id := range set.Drawn {
		drawn[id] = true
	}
	var ids []uint // what stands for each topic: its likeliest wording that was looked up, or its lead
	for _, one := range t.List {
		id := one.ID
		if best, _, ok := t.Likeliest(one); ok {
			id = best.ID
		}
		ids = append(ids, id)
	}
	rows, err := s.ideas.Ideas(ctx, n.ID, ids)
	if err != nil {
		return out, err
	}
	byID := make(map[uint]ideas.Idea, len(rows))
	for _, r := range rows {
		byID[r.ID] = r
	}
	var open []niche.Piece
	var drawnOnes []*niche.Piece
	var openIn, drawnIn []int
	out.niche = niche.Niche{Name: n.Name, Ideas: t.Ideas + t.Left}
	for i, one := range t.List {
		row := byID[ids[i]]
		x := niche.Topic{Lead: one.Lead(), Ideas: len(one.Ideas), Searches: one.Searches,
			Lasting: lastingOf(row), CPC: cpcOf(row, n),
			Judged: row.LookedUp(), Results: tens[row.ID]}
		for _, idea := range one.Ideas {
			x.Drawn = x.Drawn || drawn[idea.ID]
		}
		if row.Row.Steadiness != nil {
			x.Steadiness = &serp.Steadiness{Known: row.Row.Weeks > 1, Steady: *row.Row.Steadiness >= serp.SteadyFrom}
		}
		if x.Judged {
			x.Difficulty, x.Reach, x.Locked = row.Row.Difficulty, row.Row.Reach, row.Locked()
			x.Footholds = row.Row.Footholds
			x.Sells = wantOf(row) == intent.Compare || wantOf(row) == intent.Buy
		}
		out.niche.Topics, out.lead = append(out.niche.Topics, x), append(out.lead, one.ID)
		p, is := pieceOf(n, one, row)
		if is {
			out.pieces = append(out.pieces, p)
		}
		switch {
		case !x.Judged:
			open, openIn = append(open, niche.Piece{Lead: x.Lead, Searches: x.Searches, Season: seasonOf(row)}),
				append(openIn, x.Stratum())
		case x.Drawn && is:
			drawnOnes, drawnIn = append(drawnOnes, &p), append(drawnIn, x.Stratum())
		case x.Drawn:
			drawnOnes, drawnIn = append(drawnOnes, nil), append(drawnIn, x.Stratum())
		}
	}
	if len(drawnOnes) >= niche.EnoughDrawn {
		out.pieces = append(out.pieces, niche.Suppose(open, openIn, drawnOnes, drawnIn)...)
	}
	slices.SortStableFunc(out.pieces, func(a, b niche.Piece) int {
		x, y := hourOf(a), hourOf(b)
		switch {
		case x > y:
			return -1
		case x < y:
			return 1
		}
		return 0
	})
	out.within, out.told = niche.Whole(out.niche.Topics, func(t niche.Topic) bool {
		return !t.Locked && math.Round(t.Difficulty) <= math.Round(t.Reach)
	}, func(niche.Topic) float64 { return 1 })
	out.earned = &earned{of: map[niche.Assumed]niche.Earnings{}}
	small, err := s.small(ctx, n, revision)
	for _, site := range small {
		out.niche.Sites = append(out.niche.Sites, site.Site)
	}
	return out, err
}

// hourOf is what an article brings a month for an hour of writing.
func hourOf(p niche.Piece) float64 { return p.Searches * p.Clicks * p.PerVisit.Likely / p.Hours }

func lastingOf(i ideas.Idea) demand.Lasting { return demand.Lasting(i.Row.Lasting) }

// cpcOf is what a click costs, −1 where it is not known in the niche's currency.
func cpcOf(i ideas.Idea, n niches.Niche) worth.Micros {
	if micros, ok := i.CPCMicros(); ok && i.Currency() == n.Currency {
		return worth.Micros(micros)
	}
	return -1
}

// wantOf is what who searches for an idea wants.
func wantOf(i ideas.Idea) intent.Class {
	for _, w := range intent.All {
		if i.Value(sieve.Intent).Known && sieve.Intent.NameOf(i.Value(sieve.Intent)) == w.String() {
			return w
		}
	}
	return intent.Learn
}

// pieceOf is a topic as something to write; is is false where it is not looked up, locked, out already, or nobody knows
// how often it is searched.
func pieceOf(n niches.Niche, one topics.Topic, row ideas.Idea) (p niche.Piece, is bool) {
	if !row.LookedUp() || row.Locked() || one.Searches < 0 || one.State() == plan.Published || row.Row.ClickShare < 0 {
		return p, false
	}
	kind := serp.PageType(row.Row.Article)
	if kind == "" {
		kind = serp.Article
	}
	hours := one.Decided.Hours
	if hours == 0 {
		hours = n.HoursOf(kind)
	}
	p = niche.Piece{Lead: one.Lead(), Searches: one.Searches, PageOne: row.Row.PageOne,
		TopFive: min(row.Row.TopFive, row.Row.PageOne), Clicks: row.Row.ClickShare, PerVisit: perVisit(n, wantOf(row)),
		Hours: float64(hours)}
	p.Season = seasonOf(row)
	return p, hours > 0
}

// seasonOf is the year of an idea; all zero where that is not known.
func seasonOf(row ideas.Idea) [12]float64 {
	if season := demand.SeasonOf(row.Series()); season.Known {
		return season.Index
	}
	return [12]float64{}
}

// Draw draws so many topics that are not looked up, at random by searches and words, and looks them up.
func (s *Examiner) Draw(ctx context.Context, n niches.Niche, many int) (jobs.Job, error) {
	ids, err := s.draw(ctx, n, many)
	if err != nil {
		return jobs.Job{}, err
	}
	err = s.change(ctx, n, func(now *Settings) error {
		now.Drawn = append(now.Drawn, ids...)
		slices.Sort(now.Drawn)
		now.Drawn = slices.Compact(now.Drawn)
		return nil
	})
	if err != nil {
		return jobs.Job{}, err
	}
	return s.results.LookUp(ctx, n, ids, false)
}

// DrawCost says what looking so many up would ask at most, and how many there are to draw from.
func (s *Examiner) DrawCost(ctx context.Context, n niches.Niche, many int) (e ask.Estimate, drawn int, err error) {
	ids, err := s.draw(ctx, n, many)
	if errors.Is(err, errNothingLeft) {
		return e, 0, nil
	}
	if err != nil {
		return e, 0, err
	}
	e, err = s.results.Estimate(ctx, n, results.Top(), ids)
	return e, len(ids), err
}

// MostDrawn is how many are drawn at once.
const MostDrawn = 500

var errNothingLeft = input.Bad("many", "All topics of this niche are looked up.")

// draw is which ideas would be drawn: the same ones until others are looked up.
func (s *Examiner) draw(ctx context.Context, n niches.Niche, many int) ([]uint, error) {
	if many < 1 || many > MostDrawn {
		return nil, input.Bad("many", "Draw 1 to %d topics at a time.", MostDrawn)
	}
	set, err := s.Settings(ctx, n)
	if err != nil {
		return nil, err
	}
	c, err := s.count(ctx, n, set)
	if err != nil {
		return nil, err
	}
	// What was drawn and not looked up yet comes first: a button that is pressed twice, or a program that was killed,
	// draws nothing else, and what failed is tried again.
	var ids []uint
	units := make([]niche.Unit, len(c.niche.Topics))
	for i, t := range c.niche.Topics {
		pending := t.Drawn && !t.Judged
		if pending && len(ids) < many {
			ids = append(ids, c.lead[i])
		}
		units[i] = niche.Unit{Stratum: t.Stratum(), Weight: niche.WeightOf(t.Searches), Seen: t.Judged || pending}
	}
	if rest := many - len(ids); rest > 0 {
		for _, at := range niche.Draw(units, rest, uint64(n.ID)<<20+uint64(len(set.Drawn))) {
			ids = append(ids, c.lead[at])
		}
	}
	if len(ids) == 0 {
		return nil, errNothingLeft
	}
	return ids, nil
}

// rests tells on how little the first pieces rest.
func (c counted) rests(pieces int) (out Rests) {
	var list []niche.Piece
	for _, p := range c.pieces[:min(pieces, len(c.pieces))] {
		if !p.Supposed {
			list = append(list, p)
		}
	}
	all := 0.0
	var months [12]float64
	for _, p := range list {
		x := p.Searches * p.Clicks
		all += x
		if x > out.PhraseShare {
			out.PhraseShare, out.Phrase = x, p.Lead
		}
		for m := range months {
			if f := p.Season[m]; p.Season != [12]float64{} {
				months[m] += x * f / 12
			} else {
				months[m] += x / 12
			}
		}
	}
	if all == 0 {
		return Rests{}
	}
	out.PhraseShare /= all
	for m := range months {
		if x := (months[m] + months[(m+1)%12] + months[(m+2)%12]) / all; x > out.SeasonShare {
			out.SeasonShare = x
			out.Season = fmt.Sprintf("%s to %s", time.Month(m+1), time.Month((m+2)%12+1))
		}
	}
	ten := map[string]map[string]bool{}
	for _, t := range c.niche.Topics {
		ten[t.Lead] = map[string]bool{}
		for _, r := range t.Results {
			ten[t.Lead][r.Site] = true
		}
	}
	by := map[string]float64{}
	for _, p := range list {
		for site := range ten[p.Lead] {
			by[site] += p.Searches * p.Clicks / all
		}
	}
	for site, x := range by {
		if x > out.RivalShare || x == out.RivalShare && site < out.Rival {
			out.Rival, out.RivalShare = site, x
		}
	}
	return out
}
