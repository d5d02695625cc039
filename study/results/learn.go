package results

import (
	"context"
	"encoding/json"
	"math"
	"slices"

	"cleverniche/core/difficulty"
	"cleverniche/store"
	"cleverniche/study/ask"
	"cleverniche/study/niches"
)

// mostLearnt is of how many results pages one learns at most, the latest: more tell hardly anything.
const mostLearnt = 1000

// learn learns what a niche's engine leans on from the results pages that were looked up, and forecasts all of the
// niche again where that tells something new. It is done once look-ups are, so that the list does not move while one
// works on it. It says what moved. Nobody is asked. What is learnt is kept last: where the program ends before, it is
// learnt again.
func (s *Researcher) learn(ctx context.Context, n niches.Niche) (says string, err error) {
	s.learning.Lock()
	defer s.learning.Unlock()
	engine := s.asker.SourceNames()[ask.Results]
	rows, err := s.store.Fronts(ctx, n.ID, engine, mostLearnt)
	if err != nil {
		return "", err
	}
	was, err := s.niches.Learnt(ctx, n)
	if err != nil {
		return "", err
	}
	pages := make([][]difficulty.Signals, 0, len(rows))
	for _, row := range rows {
		if f, ok := frontOf(row); ok && 4*f.Unread <= len(f.Results) { // what is hardly known teaches what is not so
			pages = append(pages, f.Results)
		}
	}
	m, err := s.niches.Model(ctx, n)
	if err != nil {
		return "", err
	}
	m.Model = difficulty.Calibrated.Learn(pages)
	ownNew, err := s.learnOwn(ctx, n, &m)
	if err != nil || !ownNew && was.Pages == m.Pages && was.Engine == engine && was.Leaning == m.Leans {
		return "", err
	}
	now := niches.Learnt{Leaning: m.Leans, Pages: m.Pages}
	if now.Of, now.Moved, err = s.forecastAll(ctx, n, m); err != nil {
		return "", err
	}
	body, err := json.Marshal(now)
	if err != nil {
		return "", err
	}
	return now.Says(), s.store.SaveLeaning(ctx, store.Leaning{NicheID: n.ID, Engine: engine,
		Model: niches.CalibrationName, Pages: m.Pages, Body: body, At: s.store.Now().UTC()})
}

// forecastTries is how often an idea is forecast that somebody changes meanwhile.
const forecastTries = 5

// forecastAll forecasts what was looked up in a niche again, by a model. It returns how many were, and how many
// chances of page one moved by what people notice.
func (s *Researcher) forecastAll(ctx context.Context, n niches.Niche, m niches.Known) (of, moved int, err error) {
	ids, err := s.store.ToReckon(ctx, n.ID, false)
	for range forecastTries {
		if err != nil || len(ids) == 0 {
			break
		}
		var again []uint
		for part := range slices.Chunk(ids, reckonedAtOnce) {
			some, many, changed, err := s.forecastSome(ctx, n, m, part)
			if err != nil {
				return of, moved, err
			}
			of, moved, again = of+some, moved+many, append(again, changed...)
		}
		ids = again
	}
	return of, moved, err
}

// forecastSome does it for some ideas; those that somebody changed meanwhile are returned.
func (s *Researcher) forecastSome(ctx context.Context, n niches.Niche, m niches.Known, ids []uint) (of, moved int,
	changed []uint, err error) {
	rows, err := s.store.Ideas(ctx, n.ID, ids)
	if err != nil {
		return 0, 0, nil, err
	}
	fronts, err := s.store.FrontsOf(ctx, ids)
	if err != nil {
		return 0, 0, nil, err
	}
	var list []store.Idea
	far := map[uint]bool{}
	for _, idea := range rows {
		f, ok := frontOf(fronts[idea.ID])
		if !ok || idea.JudgedAt == nil {
			continue
		}
		before := idea.PageOne
		f.forecast(m.Tilted(tiltOf(idea)), mineFor(m, n, idea, f.Standing), &idea)
		far[idea.ID] = math.Abs(idea.PageOne-before) >= niches.Noticed
		list = append(list, idea)
	}
	if changed, err = s.store.SaveForecasts(ctx, n.ID, list); err != nil {
		return 0, 0, nil, err
	}
	for _, id := range changed {
		delete(far, id)
	}
	for _, moves := range far {
		if moves {
			moved++
		}
	}
	return len(far), moved, changed, nil
}

// Learn learns from what is at hand, at once.
func (s *Researcher) Learn(ctx context.Context, n niches.Niche) error {
	_, err := s.learn(ctx, n)
	return err
}
