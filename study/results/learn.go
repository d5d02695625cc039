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
// niche
// again where that tells something new. It is done once look-ups are, so that the list does not move while one works
// on it. It says what moved. Nobody is asked.
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
	m := difficulty.Calibrated.Learn(pages)
	if was.Pages == m.Pages && was.Engine == engine && was.Leaning == m.Leans {
		return "", nil
	}
	now := niches.Learnt{Leaning: m.Leans}
	if err := s.keepLearnt(ctx, n, m, now, engine); err != nil {
		return "", err
	}
	if now.Of, now.Moved, err = s.forecastAll(ctx, n, m); err != nil {
		return "", err
	}
	now.Pages = m.Pages
	return now.Says(), s.keepLearnt(ctx, n, m, now, engine)
}

func (s *Researcher) keepLearnt(ctx context.Context, n niches.Niche, m difficulty.Model, l niches.Learnt,
	engine string) error {
	body, err := json.Marshal(l)
	if err != nil {
		return err
	}
	return s.store.SaveLeaning(ctx, store.Leaning{NicheID: n.ID, Engine: engine, Model: niches.CalibrationName,
		Pages: m.Pages, Body: body, At: s.store.Now().UTC()})
}

// forecastAll forecasts what was looked up in a niche again, by a model. It returns how many were, and how many
// chances of
// page one moved by what people notice.
func (s *Researcher) forecastAll(ctx context.Context, n niches.Niche, m difficulty.Model) (of, moved int, err error) {
	ids, err := s.store.ToReckon(ctx, n.ID, false)
	if err != nil {
		return 0, 0, err
	}
	for part := range slices.Chunk(ids, reckonedAtOnce) {
		rows, err := s.store.Ideas(ctx, n.ID, part)
		if err != nil {
			return of, moved, err
		}
		fronts, err := s.store.FrontsOf(ctx, part)
		if err != nil {
			return of, moved, err
		}
		var list []store.Judgement
		for _, idea := range rows {
			f, ok := frontOf(fronts[idea.ID])
			if !ok || idea.JudgedAt == nil {
				continue
			}
			before := idea.PageOne
			f.forecast(m, mineFor(n, idea, f.Standing), &idea)
			if of++; math.Abs(idea.PageOne-before) >= niches.Noticed {
				moved++
			}
			list = append(list, store.Judgement{Idea: idea})
		}
		if err := s.store.SaveJudgements(ctx, n.ID, list...); err != nil {
			return of, moved, err
		}
	}
	return of, moved, nil
}

// Learn learns from what is at hand, at once.
func (s *Researcher) Learn(ctx context.Context, n niches.Niche) error {
	_, err := s.learn(ctx, n)
	return err
}
