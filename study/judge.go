package study

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"cleverniche/core/difficulty"
	"cleverniche/core/intent"
	"cleverniche/core/links"
	"cleverniche/core/serp"
	"cleverniche/core/worth"
	"cleverniche/market"
	"cleverniche/store"

	"golang.org/x/sync/errgroup"
)

// Evidence is all that one idea was judged on, and what came of it.
type Evidence struct {
	Phrase    string
	AskedAt   time.Time // when the results were asked for
	JudgedAt  time.Time
	Results   market.Results
	Reading   serp.Reading
	Intent    intent.Judgement
	Model     difficulty.Model
	Mine      difficulty.Mine
	MineKnown bool // the link graph knows my site
	// SiteStanding is my site's by the link graph, whatever Mine supposes.
	SiteStanding float64
	Verdict      difficulty.Verdict
	MyPages      []int // positions that are my own site's
	Sources      map[Question]string
}

// judgeJob is the job kind of looking ideas up.
const judgeJob = "judge"

// MostJudged is how many ideas one job looks up.
const MostJudged = 20_000

// look is one item of a lookup: an idea, and the moment before which an answer at
// hand counts as stale, if everything is to be asked again.
type look struct {
	Idea  uint       `json:"idea"`
	Again *time.Time `json:"again,omitempty"`
}

// Judge starts a job that looks ideas up and judges them. With again, every
// question is asked anew, also where a fresh answer is at hand.
func (s *Study) Judge(ctx context.Context, n store.Niche, ids []uint, again bool) (store.Job, error) {
	switch {
	case len(ids) == 0:
		return store.Job{}, badInput("ideas", "Choose at least one idea to look up.")
	case len(ids) > MostJudged:
		return store.Job{}, badInput("ideas", "These are %d ideas; at most %d are looked up at once.", len(ids), MostJudged)
	}
	ideas, err := s.store.Ideas(ctx, n.ID, ids)
	if err != nil {
		return store.Job{}, err
	}
	if len(ideas) == 0 {
		return store.Job{}, ErrNotFound
	}
	title := fmt.Sprintf("Look up %d ideas", len(ideas))
	if len(ideas) == 1 {
		title = "Look up “" + clip(ideas[0].Phrase, 60) + "”"
	}
	looks := make([]look, len(ideas))
	now := s.options.Now().UTC()
	for i, idea := range ideas {
		looks[i].Idea = idea.ID
		if again {
			looks[i].Again = &now
		}
	}
	return s.runner.start(ctx, n, judgeJob, title, encode(looks))
}

// EstimateJudge says what looking ideas up would ask at most: the results, and
// the page and the links of each of the ten that are not at hand.
func (s *Study) EstimateJudge(ctx context.Context, n store.Niche, ids []uint) (Estimate, error) {
	var e Estimate
	ideas, err := s.store.Ideas(ctx, n.ID, ids)
	if err != nil {
		return e, err
	}
	keys := make([]string, len(ideas))
	for i, idea := range ideas {
		keys[i] = s.resultsKey(idea.Phrase, localeOf(n))
	}
	if err := s.estimate(ctx, &e, AskResults, keys, judgeWorkers); err != nil {
		return e, err
	}
	unseen := e.Lookups
	if err := s.estimateSeen(ctx, &e, ideas, localeOf(n)); err != nil {
		return e, err
	}
	return e, s.reckonTens(ctx, &e, unseen)
}

// estimateSeen adds the pages and links that are still missing of results that are
// at hand: of a lookup that was cut off, or of pages that could not be had.
func (s *Study) estimateSeen(ctx context.Context, e *Estimate, ideas []store.Idea, in market.Locale) error {
	known := map[string]bool{}
	var urls []string
	for _, idea := range ideas {
		page, ok, err := recall[market.Results](ctx, s, AskResults, s.resultsKey(idea.Phrase, in))
		if err != nil {
			return err
		}
		if !ok {
			continue
		}
		for _, o := range page.Value.Organic {
			if !known[o.URL] {
				known[o.URL] = true
				urls = append(urls, o.URL)
			}
		}
	}
	kept := e.Kept // of results only: that is what is told
	for _, q := range []Question{AskPage, AskLinks} {
		if err := s.estimate(ctx, e, q, urls, judgeWorkers*lookupsAtOnce); err != nil {
			return err
		}
	}
	e.Kept = kept
	return nil
}

// EstimateAgain says what looking so many ideas up would ask at most, when nothing
// at hand is used.
func (s *Study) EstimateAgain(ctx context.Context, ideas int) (Estimate, error) {
	var e Estimate
	if err := s.reckon(ctx, &e, AskResults, ideas, 0, judgeWorkers); err != nil {
		return e, err
	}
	return e, s.reckonTens(ctx, &e, ideas)
}

// reckonTens adds the pages and links of so many results pages. Of results not
// seen yet it is not known which pages they share.
func (s *Study) reckonTens(ctx context.Context, e *Estimate, tens int) error {
	open := tens * s.options.Depth
	if err := s.reckon(ctx, e, AskPage, open, 0, judgeWorkers*lookupsAtOnce); err != nil {
		return err
	}
	return s.reckon(ctx, e, AskLinks, open, 0, judgeWorkers*lookupsAtOnce)
}

// lookupsAtOnce is how many of the ten are fetched side by side for one idea.
const lookupsAtOnce = 5

func (s *Study) judgeStep(ctx context.Context, n store.Niche, payload string) (found int, err error) {
	var l look
	if err := json.Unmarshal([]byte(payload), &l); err != nil {
		return 0, err
	}
	if l.Again != nil {
		ctx = askAgain(ctx, *l.Again)
	}
	idea, err := s.store.Idea(ctx, n.ID, l.Idea)
	if err != nil {
		return 0, err
	}
	ev, err := s.judge(ctx, n, idea)
	if err != nil {
		if !stopsWork(err) && ctx.Err() == nil {
			err = errors.Join(err, s.store.SaveJudgeError(ctx, n.ID, idea.ID, err.Error()))
		}
		return 0, err
	}
	return 1, s.saveJudgement(ctx, idea, ev)
}

func (s *Study) saveJudgement(ctx context.Context, idea store.Idea, ev Evidence) error {
	body, err := json.Marshal(ev)
	if err != nil {
		return err
	}
	return s.store.SaveJudgement(ctx, judged(idea, ev), body)
}

// judged fills in the columns of an idea that its evidence gives.
func judged(idea store.Idea, ev Evidence) store.Idea {
	at := ev.JudgedAt
	idea.JudgedAt, idea.JudgeError = &at, ""
	idea.Difficulty, idea.Reach = ev.Verdict.Difficulty, ev.Verdict.Reach
	idea.PageOne, idea.TopFive, idea.Expected = ev.Verdict.PageOne, ev.Verdict.TopFive, ev.Verdict.Expected
	idea.Footholds, idea.Weakest = ev.Reading.Footholds, ev.Reading.WeakestTopFive
	idea.LinksNeeded, idea.Locked = ev.Verdict.Links, ev.Verdict.Locked != ""
	idea.Want, idea.Mixed = int8(ev.Intent.Leading), ev.Intent.Mixed
	return idea
}

// ErrNoResults is why a phrase without a single result cannot be judged.
var ErrNoResults = errors.New("the engine has no results for it, so there is nothing to judge by")

// judge asks for the ten, their pages and links, and judges the phrase.
func (s *Study) judge(ctx context.Context, n store.Niche, idea store.Idea) (Evidence, error) {
	phrase := idea.Phrase
	standing, _, err := s.Standings(ctx)
	if err != nil {
		return Evidence{}, err
	}
	page, err := s.askResults(ctx, phrase, localeOf(n))
	if err != nil {
		return Evidence{}, err
	}
	if len(page.Value.Organic) == 0 {
		return Evidence{}, ErrNoResults
	}
	results, err := s.lookUpTen(ctx, page.Value.Organic, standing)
	if err != nil {
		return Evidence{}, err
	}
	ev := Evidence{Phrase: phrase, AskedAt: page.At, JudgedAt: s.options.Now().UTC(), Results: page.Value,
		Model: difficulty.Calibrated, Sources: s.market.Names}
	reader := serp.Reader{Lang: n.Language, Suffixes: s.options.Suffixes, AsOf: ev.JudgedAt}
	ev.Reading = reader.Read(phrase, results)
	ev.Intent = intent.Join(intent.FromWords(phrase, n.Language, serp.BrandsOf(results, ev.Reading.Entries)...), intent.FromTen(intent.Ten{
		Serve: ev.Reading.Serve, Ads: page.Value.Ads, ShoppingRow: page.Value.ShoppingRow, AnswerBox: page.Value.AnswerBox}))
	own, known := standing[n.OwnSite]
	ev.MineKnown = known && n.OwnSite != ""
	ev.SiteStanding = own
	ev.decide(n, idea, own)
	return ev, nil
}

// decide computes the verdict for the niche's own site from the evidence, with what
// the user thinks of this idea otherwise.
func (ev *Evidence) decide(n store.Niche, idea store.Idea, standing float64) {
	ev.Mine = difficulty.Mine{SiteStanding: standing, PlannedLinks: n.PlannedLinks,
		LinkStanding: n.LinkStanding, Fit: n.Fit}
	if idea.MyStanding != nil {
		ev.Mine.SiteStanding = *idea.MyStanding
	}
	if idea.MyLinks != nil {
		ev.Mine.PlannedLinks = *idea.MyLinks
	}
	if idea.MyFit != nil {
		ev.Mine.Fit = *idea.MyFit
	}
	ev.MyPages = nil
	for _, e := range ev.Reading.Entries {
		if n.OwnSite != "" && e.Site == n.OwnSite {
			ev.MyPages = append(ev.MyPages, e.Position)
		}
	}
	ev.Verdict = ev.Model.Judge(ev.field(n.OwnSite), ev.Mine)
}

// field is what stands in front of a page of mine: my own pages do not stand in my
// way, and what is locked for others is mine where I stand first.
func (ev *Evidence) field(own string) difficulty.Field {
	f := difficulty.Field{All: ev.Results.Total <= len(ev.Reading.Entries), Locked: ev.Reading.Locked, Engine: ev.Results.Engine}
	for _, e := range ev.Reading.Entries {
		if own == "" || e.Site != own {
			f.Rivals = append(f.Rivals, signals(e))
		} else if e.Position == 1 {
			f.Locked = ""
		}
	}
	return f
}

func signals(e serp.Entry) difficulty.Signals {
	return difficulty.Signals{Page: e.PageStanding, Site: e.SiteStanding, Fit: e.Fit.Total}
}

// Strength is an entry's strength under the evidence's model.
func (ev *Evidence) Strength(e serp.Entry) float64 { return ev.Model.Weights.Strength(signals(e)) }

// firstLinkGain is links.LinkGain as it was before it was calibrated: evidence of that
// time names no model. secondLinkGain is that of the first calibration, whose model
// names no gain; neither knew the calibrated checklist.
const (
	firstLinkGain  = 1.5
	secondLinkGain = 0.5
)

// renew brings evidence that was reckoned by an older calibration to the present one.
// Nobody is asked.
func (ev *Evidence) renew(n store.Niche, idea store.Idea) {
	gain := ev.Model.Gain
	switch {
	case ev.Model.Tau == 0:
		gain = firstLinkGain
	case gain == 0:
		gain = secondLinkGain
	}
	for i := range ev.Reading.Entries {
		e := &ev.Reading.Entries[i]
		if gain != links.LinkGain {
			e.PageStanding = links.Regain(e.PageStanding, gain)
			e.Profile.Standing = e.PageStanding
		}
		e.Fit = e.Fit.Renewed(ev.Model.Gain == 0)
	}
	ev.Model = difficulty.Calibrated
	ev.decide(n, idea, ev.SiteStanding)
}

// lookUpTen fetches the page and the links of each result. A page that cannot be
// had is noted in its result; links that cannot be had are an error, since without
// them a strong page would look weak.
func (s *Study) lookUpTen(ctx context.Context, organic []market.Organic, standing map[string]float64) ([]serp.Result, error) {
	profiler := links.Profiler{Suffixes: s.options.Suffixes, Standing: func(site string) float64 { return standing[site] }}
	out := make([]serp.Result, len(organic))
	group, ctx := errgroup.WithContext(ctx)
	group.SetLimit(lookupsAtOnce)
	for i, o := range organic {
		group.Go(func() error {
			r := serp.Result{Position: o.Position, URL: o.URL, Title: o.Title, Snippet: o.Snippet,
				SiteStanding: standing[s.options.Suffixes.Site(links.Host(o.URL))]}
			list, err := s.askLinks(ctx, o.URL)
			if err != nil {
				return err
			}
			r.Profile, r.LinksKnown = profiler.Profile(o.URL, list.Value.Links), true
			fetched, err := s.askPage(ctx, o.URL)
			if err == nil {
				r.Page, err = market.ReadPage(fetched.Value)
			}
			if err != nil {
				if ctx.Err() != nil {
					return ctx.Err()
				}
				r.PageError = err.Error()
			}
			out[i] = r
			return nil
		})
	}
	return out, group.Wait()
}

// Evidence returns what an idea was judged on, or ErrNotFound.
func (s *Study) Evidence(ctx context.Context, idea uint) (Evidence, error) {
	body, err := s.store.Evidence(ctx, idea)
	if err != nil {
		return Evidence{}, err
	}
	var ev Evidence
	if err := json.Unmarshal(body, &ev); err != nil {
		return ev, fmt.Errorf("reading the evidence of idea %d: %w", idea, err)
	}
	if ev.Model.Gain == 0 { // older evidence has it in one place only
		ev.SiteStanding = ev.Mine.SiteStanding
	}
	return ev, nil
}

// rejudge computes every judged idea's verdict anew after the niche's own site or
// plans changed. Nobody is asked: the evidence is at hand.
func (s *Study) rejudge(ctx context.Context, n store.Niche) error {
	ideas, err := s.store.IdeasSince(ctx, n.ID, 0)
	if err != nil {
		return err
	}
	var rows []store.Idea
	var bodies [][]byte
	for _, idea := range ideas {
		if idea.JudgedAt == nil {
			continue
		}
		ev, err := s.Evidence(ctx, idea.ID)
		if err != nil {
			return err
		}
		if standing, known := s.KnownStanding(ctx, n); known {
			ev.SiteStanding = standing
		}
		ev.renew(n, idea)
		body, err := json.Marshal(ev)
		if err != nil {
			return err
		}
		rows, bodies = append(rows, judged(idea, ev)), append(bodies, body)
	}
	return s.store.SaveJudgements(ctx, n.ID, rows, bodies)
}

// Story is all there is to tell about one idea.
type Story struct {
	Idea     store.Idea
	Origins  []store.Origin
	Evidence *Evidence // nil when it is not looked up

	Commercial intent.Commercial // how far money is in it
	Advice     serp.Advice       // the kind of article that fits; of what is looked up
	First      worth.Visits      // of the first place; zero while searches are not known
	Visits     worth.Visits      // to be expected of my page; of what is looked up
	Ceiling    worth.Micros      // what advertisers would pay a month; −1 unknown
}

// Story returns everything about an idea.
func (s *Study) Story(ctx context.Context, niche, id uint) (Story, error) {
	idea, err := s.store.Idea(ctx, niche, id)
	if err != nil {
		return Story{}, err
	}
	out := Story{Idea: idea}
	if out.Origins, err = s.store.Origins(ctx, id); err != nil {
		return out, err
	}
	ev, err := s.Evidence(ctx, id)
	switch {
	case err == nil:
		out.Evidence = &ev
	case !errors.Is(err, ErrNotFound):
		return out, err
	}
	return out, s.value(ctx, niche, &out)
}

// value fills in what an idea could bring.
func (s *Study) value(ctx context.Context, niche uint, st *Story) error {
	b, err := s.Board(ctx, niche)
	if err != nil {
		return err
	}
	n, err := s.store.Niche(ctx, niche)
	if err != nil {
		return err
	}
	c := intent.Commerce{CPC: -1, Usual: b.UsualCPC(), Shares: intent.FromWords(st.Idea.Phrase, n.Language).Shares}
	if st.Idea.CPCMicros != nil {
		c.CPC = *st.Idea.CPCMicros
	}
	var beside worth.Beside
	var chances []float64
	if ev := st.Evidence; ev != nil {
		st.Advice = ev.Reading.Article()
		c.Shares, c.Looked, c.Ads, c.Shopping = ev.Intent.Shares, true, ev.Results.Ads, ev.Results.ShoppingRow
		c.Results = len(ev.Reading.Ten())
		c.Sell = ev.Reading.Serve[intent.Compare] + ev.Reading.Serve[intent.Buy]
		beside = worth.Beside{Ads: ev.Results.Ads, AnswerBox: ev.Results.AnswerBox, ShoppingRow: ev.Results.ShoppingRow}
		chances = ev.Model.Distribution(ev.field(n.OwnSite), ev.Verdict.Reach)[:difficulty.Ranks]
	}
	st.Commercial, st.Ceiling = c.Score(), -1
	if st.Idea.Searches == nil || st.Idea.Under {
		return nil
	}
	searches := float64(*st.Idea.Searches)
	if c.CPC >= 0 {
		st.Ceiling = worth.Ceiling(searches, worth.Micros(c.CPC))
	}
	if st.First, err = worth.Expected(searches, []float64{1}, worth.DefaultCurve, beside); err == nil && chances != nil {
		st.Visits, err = worth.Expected(searches, chances, worth.DefaultCurve, beside)
	}
	return err
}

// Suppose is what the user thinks of a page for one idea otherwise than for the niche;
// nil is as the niche says.
type Suppose struct {
	Standing *float64
	Links    *int
	Fit      *float64
}

// Suppose changes what one idea's verdict supposes of my page, and reckons it anew
// from the evidence. Nobody is asked.
func (s *Study) Suppose(ctx context.Context, n store.Niche, id uint, x Suppose) error {
	switch {
	case x.Standing != nil && !(*x.Standing >= 0 && *x.Standing <= 100):
		return badInput("standing", "A standing is between 0 and 100.")
	case x.Links != nil && (*x.Links < 0 || *x.Links > difficulty.MostLinks):
		return badInput("links", "Solid links are between 0 and %d.", difficulty.MostLinks)
	case x.Fit != nil && !(*x.Fit >= 0 && *x.Fit <= 100):
		return badInput("fit", "A fit is between 0 and 100.")
	}
	idea, err := s.store.Idea(ctx, n.ID, id)
	if err != nil {
		return err
	}
	ev, err := s.Evidence(ctx, id)
	if err != nil {
		return err
	}
	idea.MyStanding, idea.MyLinks, idea.MyFit = x.Standing, x.Links, x.Fit
	ev.renew(n, idea)
	body, err := json.Marshal(ev)
	if err != nil {
		return err
	}
	return s.store.SaveSupposed(ctx, judged(idea, ev), body)
}
