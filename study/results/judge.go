package results

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"cleverniche/board"
	"cleverniche/core/intent"
	"cleverniche/core/links"
	"cleverniche/core/serp"
	"cleverniche/core/topic"
	"cleverniche/market"
	"cleverniche/store"
	"cleverniche/study/ask"
	"cleverniche/study/input"
	"cleverniche/study/jobs"
	"cleverniche/study/niches"

	"golang.org/x/sync/errgroup"
)

// judgeWorkers is how many ideas are looked up at once.
const judgeWorkers = 6

// judgeJob is the job kind of looking ideas up.
const judgeJob = "judge"

// MostJudged is how many ideas one job looks up.
const MostJudged = 20_000

func (s *Researcher) judgeKind() jobs.Kind {
	return jobs.Kind{Name: judgeJob, Workers: judgeWorkers, Brings: "judged", Do: s.judgeStep}
}

// look is one item of a lookup: an idea, and the moment before which an answer at
// hand counts as stale, if everything is to be asked again.
type look struct {
	Idea  uint       `json:"idea"`
	Again *time.Time `json:"again,omitempty"`
}

// judgeable returns ideas that may be looked up at once, or an *InputError.
func (s *Researcher) judgeable(ctx context.Context, n niches.Niche, ids []uint) ([]store.Idea, error) {
	switch {
	case len(ids) == 0:
		return nil, input.Bad("ideas", "Choose at least one idea to look up.")
	case len(ids) > MostJudged:
		return nil, input.Bad("ideas", "More than %d ideas are not looked up at once. Sift them first.", MostJudged)
	}
	ideas, err := s.store.Ideas(ctx, n.ID, ids)
	if err == nil && len(ideas) == 0 {
		err = input.ErrNotFound
	}
	return ideas, err
}

// Judge starts a job that looks ideas up and judges them. With again, every
// question is asked anew, also where a fresh answer is at hand.
func (s *Researcher) Judge(ctx context.Context, n niches.Niche, ids []uint, again bool) (jobs.Job, error) {
	ideas, err := s.judgeable(ctx, n, ids)
	if err != nil {
		return jobs.Job{}, err
	}
	title := fmt.Sprintf("Look up %d ideas", len(ideas))
	if len(ideas) == 1 {
		title = "Look up “" + input.Clip(ideas[0].Phrase, 60) + "”"
	}
	looks := make([]look, len(ideas))
	now := s.store.Now().UTC()
	for i, idea := range ideas {
		looks[i].Idea = idea.ID
		if again {
			looks[i].Again = &now
		}
	}
	return s.runner.Start(ctx, n, judgeJob, title, jobs.Encode(looks))
}

// mostSeen is of how many results at hand an estimate looks at the pages; of the
// others it takes all ten to be missing.
const mostSeen = 500

// EstimateJudge says what looking ideas up would ask at most: the results, and
// the page and the links of each of the ten that are not at hand.
func (s *Researcher) EstimateJudge(ctx context.Context, n niches.Niche, ids []uint) (ask.Estimate, error) {
	var e ask.Estimate
	ideas, err := s.judgeable(ctx, n, ids)
	if err != nil {
		return e, err
	}
	keys := make([]string, len(ideas))
	for i, idea := range ideas {
		keys[i] = s.asker.ResultsKey(idea.Phrase, n.Locale())
	}
	if err := s.asker.Estimate(ctx, &e, ask.Results, keys, judgeWorkers); err != nil {
		return e, err
	}
	unseen := e.Lookups
	seen, err := s.estimateSeen(ctx, &e, keys)
	if err != nil {
		return e, err
	}
	return e, s.reckonTens(ctx, &e, unseen+e.Kept-seen)
}

// estimateSeen adds the pages and links that are still missing of results that are
// at hand: of a lookup that was cut off, or of pages that could not be had. It returns
// of how many results it looked.
func (s *Researcher) estimateSeen(ctx context.Context, e *ask.Estimate, keys []string) (seen int, err error) {
	known := map[string]bool{}
	var urls []string
	for _, key := range keys {
		page, ok, err := ask.Recall[market.Results](ctx, s.asker, ask.Results, key)
		if err != nil {
			return seen, err
		}
		if !ok {
			continue
		}
		if seen++; seen > mostSeen {
			seen--
			break
		}
		for _, o := range page.Value.Organic {
			if !known[o.URL] {
				known[o.URL] = true
				urls = append(urls, o.URL)
			}
		}
	}
	kept := e.Kept // of results only: that is what is told
	for _, q := range []ask.Question{ask.Page, ask.Links} {
		if err := s.asker.Estimate(ctx, e, q, urls, judgeWorkers*lookupsAtOnce); err != nil {
			return seen, err
		}
	}
	e.Kept = kept
	return seen, nil
}

// EstimateAgain says what looking so many ideas up would ask at most, when nothing
// at hand is used.
func (s *Researcher) EstimateAgain(ctx context.Context, ideas int) (ask.Estimate, error) {
	var e ask.Estimate
	if err := s.asker.Reckon(ctx, &e, ask.Results, ideas, 0, judgeWorkers); err != nil {
		return e, err
	}
	return e, s.reckonTens(ctx, &e, ideas)
}

// reckonTens adds the pages and links of so many results pages. Of results not
// seen yet it is not known which pages they share.
func (s *Researcher) reckonTens(ctx context.Context, e *ask.Estimate, tens int) error {
	open := tens * s.asker.Depth()
	if err := s.asker.Reckon(ctx, e, ask.Page, open, 0, judgeWorkers*lookupsAtOnce); err != nil {
		return err
	}
	return s.asker.Reckon(ctx, e, ask.Links, open, 0, judgeWorkers*lookupsAtOnce)
}

// lookupsAtOnce is how many of the ten are fetched side by side for one idea.
const lookupsAtOnce = 5

func (s *Researcher) judgeStep(ctx context.Context, n niches.Niche, payload string) (found int, err error) {
	var l look
	if err := json.Unmarshal([]byte(payload), &l); err != nil {
		return 0, err
	}
	if l.Again != nil {
		ctx = ask.AskAgain(ctx, *l.Again)
	}
	idea, err := s.store.Idea(ctx, n.ID, l.Idea)
	if err != nil {
		return 0, err
	}
	ev, err := s.judge(ctx, n, idea)
	if err != nil {
		if !ask.StopsWork(err) && ctx.Err() == nil {
			err = errors.Join(err, s.store.SaveJudgeError(ctx, n.ID, idea.ID, err.Error()))
		}
		return 0, err
	}
	return 1, s.saveJudgement(ctx, n, idea, ev)
}

func (s *Researcher) saveJudgement(ctx context.Context, n niches.Niche, idea store.Idea, ev Evidence) error {
	document, err := ev.Document()
	if err != nil {
		return err
	}
	return s.store.SaveJudgements(ctx, idea.NicheID, store.Judgement{Idea: Judged(idea, ev), Document: document,
		Found: ev.found(n.Language)})
}

// found is what grouping looks at of the evidence.
func (ev *Evidence) found(lang string) *store.Found {
	var urls, titles []string
	for _, o := range ev.Results.Organic[:min(serp.FirstPage, len(ev.Results.Organic))] {
		urls, titles = append(urls, o.URL), append(titles, o.Title)
	}
	return board.FoundRow(topic.FoundFor(ev.Phrase, lang, urls, titles))
}

// Judged fills in the columns of an idea that its evidence gives.
func Judged(idea store.Idea, ev Evidence) store.Idea {
	at := ev.JudgedAt
	idea.JudgedAt, idea.JudgeError = &at, ""
	idea.Difficulty, idea.Reach = ev.Verdict.Difficulty, ev.Verdict.Reach
	one, five := ev.Verdict.PageOne, ev.Verdict.TopFive
	idea.PageOne, idea.PageOneLow, idea.PageOneHigh = one.Mean, one.Low, one.High
	idea.TopFive, idea.TopFiveLow, idea.TopFiveHigh = five.Mean, five.Low, five.High
	idea.Expected = ev.Verdict.Expected
	idea.Footholds, idea.Weakest = ev.Reading.Footholds, ev.Reading.WeakestTopFive
	idea.LinksNeeded, idea.Locked = ev.Verdict.Links, ev.Verdict.Locked != ""
	idea.Want, idea.Mixed = int8(ev.Intent.Leading), ev.Intent.Mixed
	idea.Unread = 0
	idea.Clicks, idea.ClicksLow, idea.ClicksHigh = ev.clicks()
	idea.Article = string(ev.Reading.Article().Kind)
	for _, e := range ev.Reading.Entries {
		if e.PageError != "" {
			idea.Unread++
		}
	}
	return idea
}

// ErrNoResults is why a phrase without a single result cannot be judged.
var ErrNoResults = errors.New("the engine has no results for it, so there is nothing to judge by")

// judge asks for the ten, their pages and links, and judges the phrase.
func (s *Researcher) judge(ctx context.Context, n niches.Niche, idea store.Idea) (Evidence, error) {
	phrase := idea.Phrase
	standing, _, err := s.asker.Standings(ctx)
	if err != nil {
		return Evidence{}, err
	}
	page, err := s.asker.AskResults(ctx, phrase, n.Locale())
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
	ev := Evidence{Phrase: phrase, AskedAt: page.At, JudgedAt: s.store.Now().UTC(), Results: page.Value,
		Model: present(), Sources: s.asker.SourceNames()}
	reader := serp.Reader{Lang: n.Language, Suffixes: s.suffixes, AsOf: ev.JudgedAt}
	ev.Reading = reader.Read(phrase, results)
	ev.Intent = intent.Join(intent.FromWords(phrase, n.Language, serp.BrandsOf(results, ev.Reading.Entries)...),
		intent.FromTen(intent.Ten{
			Serve: ev.Reading.Serve, Ads: page.Value.Ads, ShoppingRow: page.Value.ShoppingRow, AnswerBox: page.Value.AnswerBox}))
	own, known := standing[n.OwnSite]
	ev.MineKnown = known && n.OwnSite != ""
	ev.SiteStanding = own
	ev.Decide(n, idea, own)
	return ev, nil
}

// lookUpTen fetches the page and the links of each result. A page that cannot be
// had is noted in its result; links that cannot be had are an error, since without
// them a strong page would look weak.
func (s *Researcher) lookUpTen(ctx context.Context, organic []market.Organic,
	standing map[string]float64) ([]serp.Result, error) {
	profiler := links.Profiler{Suffixes: s.suffixes, Standing: func(site string) float64 { return standing[site] }}
	out := make([]serp.Result, len(organic))
	group, ctx := errgroup.WithContext(ctx)
	group.SetLimit(lookupsAtOnce)
	for i, o := range organic {
		group.Go(func() error {
			r := serp.Result{Position: o.Position, URL: o.URL, Title: o.Title, Snippet: o.Snippet,
				SiteStanding: standing[s.suffixes.Site(links.Host(o.URL))]}
			list, err := s.asker.AskLinks(ctx, o.URL)
			if err != nil {
				return err
			}
			r.Profile, r.LinksKnown = profiler.Profile(o.URL, list.Value.Links), true
			fetched, err := s.asker.AskPage(ctx, o.URL)
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
