package results

import (
	"context"
	"errors"
	"maps"

	"cleverniche/core/difficulty"
	"cleverniche/core/intent"
	"cleverniche/core/links"
	"cleverniche/core/serp"
	"cleverniche/core/sieve"
	"cleverniche/core/topic"
	"cleverniche/ideatable"
	"cleverniche/market"
	"cleverniche/store"
	"cleverniche/study/ask"
	"cleverniche/study/niches"

	"golang.org/x/sync/errgroup"
)

// top is the lookup of the top ten: the results, their pages and their links, on which an idea is judged.
var top = Lookup{Key: "ten", From: sieve.FromTen, Tells: sieve.LookedUp, Name: "looked up", Act: "look up",
	job:    "judge",
	brings: "looked up", title: "Look up %d %s", one: "Look up “%s”", has: "the results of %d", fails: "JudgeError",
	estimate: (*Researcher).estimateTop, most: (*Researcher).estimateNew, do: (*Researcher).lookUpTop}

// mostSeen is of how many results at hand an estimate looks at the pages; of the
// others it takes all ten to be missing.
const mostSeen = 500

// estimateTop adds what looking ideas up would ask at most: the results, and the page and the links of each of the
// ten that are not at hand.
func (s *Researcher) estimateTop(ctx context.Context, n niches.Niche, list []store.Idea, e *ask.Estimate) error {
	keys := make([]string, len(list))
	for i, idea := range list {
		keys[i] = s.asker.ResultsKey(idea.Phrase, n.Locale(), n.Depth)
	}
	if err := s.asker.Estimate(ctx, e, ask.Results, keys, lookupWorkers); err != nil {
		return err
	}
	unseen := e.Lookups
	seen, err := s.estimateSeen(ctx, e, keys)
	if err != nil {
		return err
	}
	return s.estimateTens(ctx, n, e, unseen+e.Fresh-seen)
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
		for _, o := range page.Value.Organic[:min(mostPagesRead, len(page.Value.Organic))] {
			if !known[o.URL] {
				known[o.URL] = true
				urls = append(urls, o.URL)
			}
		}
	}
	kept := e.Fresh // of results only: that is what is told
	for _, q := range []ask.Question{ask.Page, ask.Links} {
		if q == ask.Links && !s.asker.Has(q) {
			continue
		}
		if err := s.asker.Estimate(ctx, e, q, urls, lookupWorkers*lookupsAtOnce); err != nil {
			return seen, err
		}
	}
	e.Fresh = kept
	return seen, nil
}

// estimateNew adds what looking so many ideas up would ask at most, when nothing at hand is used.
func (s *Researcher) estimateNew(ctx context.Context, n niches.Niche, ideas int, e *ask.Estimate) error {
	if err := s.asker.EstimateOpen(ctx, e, ask.Results, ideas, 0, lookupWorkers); err != nil {
		return err
	}
	return s.estimateTens(ctx, n, e, ideas)
}

// mostPagesRead is of how many results of an idea the pages are read; of those behind it is told who stands there.
const mostPagesRead = 20

// read is of how many results of an idea pages are read in a niche.
func (s *Researcher) read(n niches.Niche) int { return min(mostPagesRead, s.asker.Deep(n.Depth)) }

// estimateTens adds the pages and links of so many results pages. Of results not
// seen yet it is not known which pages they share.
func (s *Researcher) estimateTens(ctx context.Context, n niches.Niche, e *ask.Estimate, tens int) error {
	open := tens * s.read(n)
	if err := s.asker.EstimateOpen(ctx, e, ask.Page, open, 0, lookupWorkers*lookupsAtOnce); err != nil {
		return err
	}
	if !s.asker.Has(ask.Links) {
		return nil
	}
	return s.asker.EstimateOpen(ctx, e, ask.Links, open, 0, lookupWorkers*lookupsAtOnce)
}

// lookupsAtOnce is how many of the ten are fetched side by side for one idea.
const lookupsAtOnce = 5

func (s *Researcher) lookUpTop(ctx context.Context, n niches.Niche, idea store.Idea) error {
	ev, err := s.judge(ctx, n, idea)
	if err != nil {
		return err
	}
	j, err := ev.judgement(n, idea)
	if err != nil {
		return err
	}
	if j.History, err = s.keepSnapshot(ctx, &j.Idea, &ev); err != nil {
		return err
	}
	return s.store.SaveJudgements(ctx, idea.NicheID, j)
}

// judgement is the evidence of an idea, and all that follows from it, as it is kept.
func (ev *Evidence) judgement(n niches.Niche, idea store.Idea) (j store.Judgement, err error) {
	j = store.Judgement{Idea: judged(idea, *ev), Found: ev.found(n.Language)}
	if j.Front, err = ev.row(n.Language); err == nil {
		j.Document, err = ev.document()
	}
	return j, err
}

// found is what grouping looks at of the evidence.
func (ev *Evidence) found(lang string) *store.Found {
	var urls, titles []string
	for _, o := range ev.Results.Organic[:min(serp.FirstPage, len(ev.Results.Organic))] {
		urls, titles = append(urls, o.URL), append(titles, o.Title)
	}
	return ideatable.FoundRow(topic.FoundFor(ev.Phrase, lang, urls, titles))
}

// judged fills in the columns of an idea that its evidence gives.
func judged(idea store.Idea, ev Evidence) store.Idea {
	at := ev.JudgedAt
	idea.JudgedAt, idea.JudgeError = &at, ""
	ev.front().forecast(ev.model, ev.Mine, &idea)
	idea.Footholds, idea.Weakest = ev.Reading.Footholds, ev.Reading.WeakestTopFive
	idea.Intent, idea.Mixed = int8(ev.Intent.Leading), ev.Intent.Mixed
	idea.Unread = 0
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

// judge asks for the top ten, their pages and links, and judges the phrase.
func (s *Researcher) judge(ctx context.Context, n niches.Niche, idea store.Idea) (Evidence, error) {
	phrase := idea.Phrase
	standing := ask.Standing(func(string) (float64, bool) { return 0, false })
	ranked := s.asker.HasStandings()
	if ranked {
		var err error
		if standing, err = s.asker.Standings(ctx); err != nil {
			return Evidence{}, err
		}
	}
	page, err := s.asker.Results(ctx, phrase, n.Locale(), n.Depth)
	if err != nil {
		return Evidence{}, err
	}
	if len(page.Value.Organic) == 0 {
		return Evidence{}, ErrNoResults
	}
	results, err := s.lookUpTen(ctx, page.Value.Organic[:min(mostPagesRead, len(page.Value.Organic))], standing)
	if err != nil {
		return Evidence{}, err
	}
	ev := Evidence{Phrase: phrase, AskedAt: page.At, JudgedAt: s.store.Now().UTC(), Results: page.Value,
		Model: present(), Sources: s.sourcesOf(page)}
	reader := serp.Reader{Lang: n.Language, Suffixes: s.suffixes, AsOf: ev.JudgedAt}
	ev.Reading = reader.Read(phrase, results)
	ev.Intent = intent.Join(intent.FromWords(phrase, n.Language, serp.BrandsOf(results, ev.Reading.Entries)...),
		intent.FromTen(intent.Ten{
			Serve: ev.Reading.Serve, Ads: page.Value.Ads, ShoppingRow: page.Value.ShoppingRow,
			AnswerBox: page.Value.AnswerBox, Named: ev.Reading.NamedFirst()}))
	if !ranked && ev.Reading.Locked == "" { // a strong page would look weak
		ev.Reading.Locked = noLinks
	}
	own, known := standing(n.OwnSite)
	ev.MineKnown = known && n.OwnSite != ""
	ev.SiteStanding = own
	m, err := s.niches.Model(ctx, n)
	ev.decide(m, n, idea, own)
	return ev, err
}

// noLinks is why no chance is told of results whose links nobody could be asked for.
const noLinks = "no source says how strong these sites are, so no chance is told"

// sourcesOf are the sources of a verdict: who was asked, and whoever brought the results.
func (s *Researcher) sourcesOf(page ask.Asked[market.Results]) map[ask.Question]string {
	out := maps.Clone(s.asker.SourceNames())
	if out == nil {
		out = map[ask.Question]string{}
	}
	if page.Source != "" {
		out[ask.Results] = page.Source
	}
	return out
}

// lookUpTen fetches the page and the links of each result. A page that cannot be
// had is noted in its result; links that cannot be had are an error, since without
// them a strong page would look weak.
func (s *Researcher) lookUpTen(ctx context.Context, organic []market.Organic,
	standing ask.Standing) ([]serp.Result, error) {
	of := func(site string) float64 {
		x, _ := standing(site)
		return x
	}
	profiler := links.Profiler{Suffixes: s.suffixes, Standing: of}
	out := make([]serp.Result, len(organic))
	group, ctx := errgroup.WithContext(ctx)
	group.SetLimit(lookupsAtOnce)
	for i, o := range organic {
		group.Go(func() error {
			r := serp.Result{Position: o.Position, URL: o.URL, Title: o.Title, Snippet: o.Snippet,
				SiteStanding: of(s.suffixes.Site(links.Host(o.URL))), SiteKnown: s.asker.HasStandings()}
			if n, known := s.asker.Referring(s.suffixes.Site(links.Host(o.URL))); known {
				r.Referring = &n
			}
			list, err := s.asker.Links(ctx, o.URL)
			var missing *ask.MissingSourceError
			switch {
			case err == nil:
				r.Profile, r.LinksKnown = profiler.Profile(o.URL, list.Value.Links), true
			case errors.As(err, &missing): // and nobody brought them
				r.Profile.Standing = difficulty.UsualPage(r.SiteStanding)
			default:
				return err
			}
			fetched, err := s.asker.Page(ctx, o.URL)
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
