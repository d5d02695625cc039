package study

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strconv"

	"cleverniche/core/demand"
	"cleverniche/store"
)

// reckonJob is the job kind of reckoning anew what is reckoned from what is at hand,
// after the own site, the plans or the calibration changed. Nobody is asked.
const reckonJob = "reckon"

func reckonKind(s *Study) kind {
	return kind{name: reckonJob, workers: 1, brings: "reckoned anew", do: s.reckonStep, ended: s.reckoned}
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
func (s *Study) reckonAnew(ctx context.Context, n Niche, months bool) (*Job, error) {
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
	job, err := s.runner.startWith(ctx, n, reckonJob, fmt.Sprintf("Reckon %d %s anew", len(ids), ideasWord(len(ids))),
		encode(items), reckoning(months))
	return &job, err
}

// reckoning is the parameter of a job that reckons with the present calibration: of one
// that is to be noted when it is done, and so covers all there is, the calibration's name.
func reckoning(months bool) string {
	if !months {
		return `""`
	}
	return strconv.Quote(calibrationName)
}

// begun returns the job that reckons a niche with the present calibration already, and
// goes on with it; nil when there is none.
func (s *Study) begun(ctx context.Context, n Niche) (*Job, error) {
	jobs, err := s.store.Jobs(ctx, n.ID, 50)
	if err != nil {
		return nil, err
	}
	for _, j := range jobs {
		if j.Kind == reckonJob && j.State != store.Done && j.State != store.Cancelled && j.Params == reckoning(true) {
			if err := s.GoOn(ctx, n.ID, j.ID); err != nil {
				return nil, err
			}
			job, err := s.viewJob(ctx, j)
			return &job, err
		}
	}
	return nil, nil
}

func ideasWord(n int) string {
	if n == 1 {
		return "idea"
	}
	return "ideas"
}

// endReckoning ends what reckons a niche with what held before.
func (s *Study) endReckoning(ctx context.Context, niche uint) error {
	jobs, err := s.store.Jobs(ctx, niche, 50)
	for _, j := range jobs {
		if err == nil && j.Kind == reckonJob && j.State != store.Done && j.State != store.Cancelled {
			err = s.endJob(ctx, niche, j.ID, store.Cancelled, "begun again with what holds now")
		}
	}
	return err
}

func (s *Study) reckonStep(ctx context.Context, n Niche, payload string) (found int, err error) {
	var p portion
	if err := json.Unmarshal([]byte(payload), &p); err != nil {
		return 0, err
	}
	ideas, err := s.store.Ideas(ctx, n.ID, p.Ideas)
	if err != nil {
		return 0, err
	}
	if p.Months {
		var changed []store.Idea
		for _, idea := range ideas {
			if was := idea; lastingOf(&idea) && (was.Season != idea.Season || was.Lasting != idea.Lasting) {
				changed = append(changed, idea)
			}
		}
		if err := s.store.SaveLasting(ctx, n.ID, changed); err != nil {
			return 0, err
		}
	}
	standing, known := s.KnownStanding(ctx, n.OwnSite)
	documents, err := s.store.Evidences(ctx, p.Ideas)
	if err != nil {
		return 0, err
	}
	var list []store.Judgement
	for _, idea := range ideas {
		kept, ok := documents[idea.ID]
		if idea.JudgedAt == nil || !ok {
			continue
		}
		ev, err := readEvidence(kept)
		if err != nil {
			s.log.Warn("reckoning anew", "phrase", idea.Phrase, "error", err)
			if err := s.store.SaveJudgeError(ctx, n.ID, idea.ID, unreadable(err)); err != nil {
				return 0, err
			}
			continue
		}
		if known {
			ev.SiteStanding = standing
		}
		ev.decide(n, idea, ev.SiteStanding)
		document, err := ev.document()
		if err != nil {
			return 0, err
		}
		list = append(list, store.Judgement{Idea: judged(idea, ev), Document: document, Found: ev.found(n.Language)})
	}
	return len(ideas), s.store.SaveJudgements(ctx, n.ID, list...)
}

// reckoned notes, once all of a niche is reckoned, with what.
func (s *Study) reckoned(ctx context.Context, n Niche, params string) error {
	if params != reckoning(true) {
		return nil
	}
	return s.store.SetCalibration(ctx, n.ID, calibrationName, n.Fit)
}

// lastingOf fills in an idea's season and how its searches last, from its months; false
// when it has none.
func lastingOf(idea *store.Idea) bool {
	counts, err := store.DecodeMonths(idea.Months)
	if err != nil || len(counts) == 0 {
		return false
	}
	series := demand.Series{Counts: counts}
	idea.Lasting = string(demand.LastingOf(series))
	idea.Season = ""
	if season := demand.SeasonOf(series); season.Known {
		idea.Season = map[bool]string{true: "seasonal", false: "none"}[season.Peak.Months > 0]
	}
	return true
}

// Renew begins to reckon anew what was reckoned with another calibration than the
// present one, in every niche. The jobs run on while the study is open.
func (s *Study) Renew(ctx context.Context) ([]Job, error) {
	niches, err := s.Niches(ctx)
	if err != nil {
		return nil, err
	}
	var out []Job
	for _, n := range niches {
		if n.calibration == calibrationName {
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
