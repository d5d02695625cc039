package results

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strconv"

	"cleverniche/store"
	"cleverniche/study/ideas"
	"cleverniche/study/input"
	"cleverniche/study/jobs"
	"cleverniche/study/niches"
)

// recalcJob is the job kind of reckoning anew what is reckoned from what is at hand,
// after the own site, the plans or the calibration changed. Nobody is asked.
const recalcJob = "reckon"

func (s *Researcher) reckonKind() jobs.Kind {
	return jobs.Kind{Name: recalcJob, Workers: 1, Brings: "recalculated", Do: s.reckonStep, Ended: s.reckoned,
		After: s.learn}
}

// reckonedAtOnce is how many ideas are reckoned and written together: their evidence is
// all that is in memory.
const reckonedAtOnce = 100

// portion is one item: ideas, and whether their seasons are reckoned, too.
type portion struct {
	Ideas  []uint `json:"ideas"`
	Months bool   `json:"months,omitempty"`
}

// reckonAnew starts the job in place of one that runs already; nil when there is nothing
// to reckon.
func (s *Researcher) reckonAnew(ctx context.Context, n niches.Niche, months bool) (*jobs.Job, error) {
	ids, err := s.store.ToReckon(ctx, n.ID, months)
	if err != nil || len(ids) == 0 {
		return nil, err
	}
	if err := s.endReckoning(ctx, n.ID); err != nil {
		return nil, err
	}
	var items []portion
	for part := range slices.Chunk(ids, reckonedAtOnce) {
		items = append(items, portion{part, months})
	}
	job, err := s.runner.StartWith(ctx, n, recalcJob, fmt.Sprintf("Recalculate %d %s", len(ids),
		input.IdeasWord(len(ids))),
		jobs.Encode(items), reckoning(months))
	return &job, err
}

// reckoning is the parameter of a job that reckons with the present calibration: of one
// that is to be noted when it is done, and so covers all there is, the calibration's name.
func reckoning(months bool) string {
	if !months {
		return `""`
	}
	return strconv.Quote(niches.CalibrationName)
}

// begun returns the job that reckons a niche with the present calibration already, and
// goes on with it; nil when there is none.
func (s *Researcher) begun(ctx context.Context, n niches.Niche) (*jobs.Job, error) {
	jobs, err := s.store.Jobs(ctx, n.ID, 50)
	if err != nil {
		return nil, err
	}
	for _, j := range jobs {
		if j.Kind == recalcJob && j.State != store.Done && j.State != store.Cancelled && j.Params == reckoning(true) {
			if err := s.runner.Resume(ctx, n.ID, j.ID); err != nil {
				return nil, err
			}
			job, err := s.runner.View(ctx, j)
			return &job, err
		}
	}
	return nil, nil
}

// endReckoning ends what reckons a niche with what held before.
func (s *Researcher) endReckoning(ctx context.Context, niche uint) error {
	jobs, err := s.store.Jobs(ctx, niche, 50)
	for _, j := range jobs {
		if err == nil && j.Kind == recalcJob && j.State != store.Done && j.State != store.Cancelled {
			err = s.runner.End(ctx, niche, j.ID, store.Cancelled, "started again with your latest settings")
		}
	}
	return err
}

func (s *Researcher) reckonStep(ctx context.Context, n niches.Niche, payload string) (found int, err error) {
	var p portion
	if err := json.Unmarshal([]byte(payload), &p); err != nil {
		return 0, err
	}
	rows, err := s.store.Ideas(ctx, n.ID, p.Ideas)
	if err != nil {
		return 0, err
	}
	if p.Months {
		var changed []store.Idea
		for _, idea := range rows {
			if was := idea; ideas.LastingOf(&idea) && (was.Season != idea.Season || was.Lasting != idea.Lasting) {
				changed = append(changed, idea)
			}
		}
		if err := s.store.SaveLasting(ctx, n.ID, changed); err != nil {
			return 0, err
		}
	}
	standing, known := s.asker.KnownStanding(ctx, n.OwnSite)
	m, err := s.niches.Model(ctx, n)
	if err != nil {
		return 0, err
	}
	documents, err := s.store.Evidences(ctx, p.Ideas)
	if err != nil {
		return 0, err
	}
	var list []store.Judgement
	for _, idea := range rows {
		kept, ok := documents[idea.ID]
		if idea.JudgedAt == nil || !ok {
			continue
		}
		ev, err := readEvidence(kept, m)
		if err != nil {
			s.log.Warn("reckoning anew", "phrase", idea.Phrase, "error", err)
			if err := s.store.SaveLookupError(ctx, n.ID, idea.ID, top.fails, Unreadable(err)); err != nil {
				return 0, err
			}
			continue
		}
		if known {
			ev.SiteStanding = standing
		}
		ev.decide(m, n, idea, ev.SiteStanding)
		j, err := ev.judgement(n, idea)
		if err != nil {
			return 0, err
		}
		list = append(list, j)
	}
	return len(rows), s.store.SaveJudgements(ctx, n.ID, list...)
}

// reckoned notes, once all of a niche is reckoned, with what.
func (s *Researcher) reckoned(ctx context.Context, n niches.Niche, params string) error {
	if params != reckoning(true) {
		return nil
	}
	return s.store.SetCalibration(ctx, n.ID, niches.CalibrationName, n.Fit)
}

// Renew begins to reckon anew what was reckoned with another calibration than the
// present one, in every niche. The jobs run on while the study is open.
func (s *Researcher) Renew(ctx context.Context) ([]jobs.Job, error) {
	known, err := s.niches.All(ctx)
	if err != nil {
		return nil, err
	}
	var out []jobs.Job
	for _, n := range known {
		if n.Calibration == niches.CalibrationName {
			continue
		}
		job, err := s.begun(ctx, n)
		if err == nil && job == nil {
			job, err = s.reckonAnew(ctx, n, true)
		}
		switch {
		case err != nil:
			return out, fmt.Errorf("reckoning the niche %s anew: %w", n.Name, err)
		case job != nil:
			out = append(out, *job)
		default:
			if err := s.reckoned(ctx, n, reckoning(true)); err != nil {
				return out, err
			}
		}
	}
	return out, nil
}
