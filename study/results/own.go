package results

import (
	"context"
	"encoding/json"
	"math"
	"slices"
	"strings"

	"cleverniche/core/difficulty"
	"cleverniche/core/phrase"
	"cleverniche/core/watch"
	"cleverniche/core/worth"
	"cleverniche/study/jobs"
	"cleverniche/study/niches"
)

// What my own pages tell: outcomes of those that have settled, and what my search report says of clicks.

// TakeOwn takes what outcomes of my own pages tell into account from now on, and reckons all of the niche anew by a
// job; nil where nothing is looked up. None take it back.
func (s *Researcher) TakeOwn(ctx context.Context, n niches.Niche, list []difficulty.Outcome) (*jobs.Job, error) {
	var body, outcomes []byte
	if len(list) > 0 {
		l, err := s.niches.Learnt(ctx, n)
		if err != nil {
			return nil, err
		}
		m := difficulty.Calibrated.Leaning(l.Leaning, l.Pages)
		if body, err = ownBody(m.LearnOwn(list, watch.LuckOf)); err != nil {
			return nil, err
		}
		if outcomes, err = json.Marshal(list); err != nil {
			return nil, err
		}
	}
	if err := s.store.SaveOwnOutcomes(ctx, n.ID, string(body), outcomes); err != nil {
		return nil, err
	}
	return s.reckonAnew(ctx, n, false)
}

func ownBody(o difficulty.Own) ([]byte, error) {
	return json.Marshal(niches.Own{Own: o, Model: niches.CalibrationName})
}

// learnOwn learns from the outcomes that were taken again, by what is known of the engine now, into a model. It says
// whether that is something else than before.
func (s *Researcher) learnOwn(ctx context.Context, n niches.Niche, m *niches.Known) (changed bool, err error) {
	row, err := s.store.Own(ctx, n.ID)
	if err != nil || row.Body == "" {
		return false, err
	}
	var list []difficulty.Outcome
	if json.Unmarshal(row.Outcomes, &list) != nil {
		return false, nil
	}
	list = slices.DeleteFunc(list, func(o difficulty.Outcome) bool { return !o.Sound() })
	own := m.LearnOwn(list, watch.LuckOf)
	m.Model = m.Own(own)
	body, err := ownBody(own)
	if err != nil || string(body) == row.Body {
		return false, err
	}
	return true, s.store.SaveOwnOutcomes(ctx, n.ID, string(body), row.Outcomes)
}

// curveNoticed is by how much the share of a place changes at least for all to be reckoned anew (ours).
const curveNoticed = 0.002

// LearnCurve reads how often each place is clicked off the search reports that were brought in, and reckons all of the
// niche anew by a job where that changes something. Phrases that name my site say nothing of others. It is done after
// each import.
func (s *Researcher) LearnCurve(ctx context.Context, n niches.Niche) (job *jobs.Job, err error) {
	list, err := s.store.Clicked(ctx, n.ID)
	if err != nil || len(list) == 0 {
		return nil, err
	}
	ids := make([]uint, len(list))
	for i, c := range list {
		ids[i] = c.IdeaID
	}
	fronts, err := s.store.FrontsOf(ctx, ids)
	if err != nil {
		return nil, err
	}
	name, _, _ := strings.Cut(n.OwnSite, ".")
	var report []worth.Observed
	for _, c := range list {
		if c.Page != "" && !s.niches.IsOwn(n, c.Page) { // a report of another site
			continue
		}
		if name != "" && strings.Contains(strings.ReplaceAll(phrase.Normal(c.Phrase), " ", ""), name) {
			continue
		}
		o := worth.Observed{Position: c.Place, Impressions: c.Shown, Clicks: c.Clicks}
		if f, ok := frontOf(fronts[c.IdeaID]); ok {
			o.Left = f.Beside.Left()
		}
		report = append(report, o)
	}
	_, was, err := s.niches.Own(ctx, n)
	if err != nil {
		return nil, err
	}
	now := niches.OwnCurve{Off: was.Off}
	now.Curve, now.By, now.Clicks = worth.OwnCurve(report)
	return s.saveCurve(ctx, n, now)
}

// UseCurve takes my report's curve, or the usual one, from now on.
func (s *Researcher) UseCurve(ctx context.Context, n niches.Niche, own bool) (*jobs.Job, error) {
	_, now, err := s.niches.Own(ctx, n)
	if err != nil {
		return nil, err
	}
	now.Off = !own
	return s.saveCurve(ctx, n, now)
}

// saveCurve keeps a curve, and reckons anew where what is used of it differs.
func (s *Researcher) saveCurve(ctx context.Context, n niches.Niche, now niches.OwnCurve) (*jobs.Job, error) {
	before, err := s.niches.Model(ctx, n)
	if err != nil {
		return nil, err
	}
	body, err := json.Marshal(now)
	if err != nil {
		return nil, err
	}
	if err := s.store.SaveOwnCurve(ctx, n.ID, string(body)); err != nil {
		return nil, err
	}
	after, err := s.niches.Model(ctx, n)
	if err != nil {
		return nil, err
	}
	for i := range after.Curve {
		if math.Abs(after.Curve[i]-before.Curve[i]) >= curveNoticed {
			return s.reckonAnew(ctx, n, false)
		}
	}
	return nil, nil
}
