package gather

import (
	"context"
	"encoding/json"
	"errors"
	"strings"
	"time"

	"cleverniche/core/sieve"
	"cleverniche/store"
	"cleverniche/study/ask"
	"cleverniche/study/ideas"
	"cleverniche/study/input"
	"cleverniche/study/jobs"
	"cleverniche/study/niches"
)

// Bounds of kept gatherings (ours).
const (
	MostKeptName = 80
	mostKept     = 100 // of a niche
	mostNew      = 200 // ideas of one that are shown
)

// Week is how long after a run a weekly gathering is due again.
const Week = 7 * ask.Day

// Kept is a gathering that is kept, to be done again.
type Kept struct {
	ID     uint
	Name   string
	Plan   Plan
	Weekly bool
	RunAt  time.Time // zero: never
	Job    uint      // that did it last
	row    store.Gathering
}

// settings are a plan as it is kept.
type settings struct {
	Seeds   []string     `json:"seeds"`
	Ways    []Way        `json:"ways"`
	Rounds  int          `json:"rounds,omitempty"`
	Most    int          `json:"most,omitempty"`
	Price   int64        `json:"price,omitempty"`
	Through *sieve.Sieve `json:"through,omitempty"`
}

func keptFrom(row store.Gathering) (Kept, error) {
	var set settings
	if err := json.Unmarshal([]byte(row.Body), &set); err != nil {
		return Kept{}, err
	}
	k := Kept{ID: row.ID, Name: row.Name, Weekly: row.Weekly, Job: row.JobID, row: row,
		Plan: Plan{Seeds: set.Seeds, Ways: set.Ways, Rounds: set.Rounds, Most: set.Most, Price: set.Price,
			Again: true}}
	if set.Through != nil {
		k.Plan.Through = *set.Through
	}
	if row.RunAt != nil {
		k.RunAt = *row.RunAt
	}
	return k, nil
}

// Keep keeps a gathering under a name, "" is its seeds'. It is an *input.Error where it cannot be.
func (s *Gatherer) Keep(ctx context.Context, n niches.Niche, name string, p Plan, weekly bool) (Kept, error) {
	if err := p.checkRounds(n.Language); err != nil {
		return Kept{}, err
	}
	all, err := s.store.Gatherings(ctx, n.ID)
	if err != nil {
		return Kept{}, err
	}
	if len(all) >= mostKept {
		return Kept{}, input.Bad("name", "This niche has %d saved gatherings already. Remove one first.", mostKept)
	}
	if name = strings.Join(strings.Fields(name), " "); name == "" {
		name = strings.Join(p.Seeds, ", ")
	}
	set := settings{Seeds: p.Seeds, Ways: p.Ways, Rounds: p.Rounds, Most: p.Most, Price: p.Price}
	if len(p.Through.Filters) > 0 {
		set.Through = &p.Through
	}
	body, err := json.Marshal(set)
	if err != nil {
		return Kept{}, err
	}
	row := store.Gathering{NicheID: n.ID, Name: input.Clip(name, MostKeptName), Body: string(body), Weekly: weekly}
	if err := s.store.AddGathering(ctx, &row); err != nil {
		return Kept{}, err
	}
	return keptFrom(row)
}

// Kept lists the gatherings that a niche keeps.
func (s *Gatherer) Kept(ctx context.Context, n niches.Niche) (out []Kept, err error) {
	rows, err := s.store.Gatherings(ctx, n.ID)
	for _, row := range rows {
		if k, err := keptFrom(row); err == nil {
			out = append(out, k)
		}
	}
	return out, err
}

// KeptOne is one that a niche keeps.
func (s *Gatherer) KeptOne(ctx context.Context, n niches.Niche, id uint) (Kept, error) {
	row, err := s.store.Gathering(ctx, n.ID, id)
	if err != nil {
		return Kept{}, err
	}
	return keptFrom(row)
}

// SetWeekly says whether one is done every week.
func (s *Gatherer) SetWeekly(ctx context.Context, n niches.Niche, id uint, weekly bool) error {
	return s.store.ChangeGathering(ctx, n.ID, id, map[string]any{"weekly": weekly})
}

// RemoveKept takes one away, or brings it back.
func (s *Gatherer) RemoveKept(ctx context.Context, n niches.Niche, id uint, away bool) error {
	return s.store.RemoveGathering(ctx, n.ID, id, away)
}

// errTaken says that it runs, or that somebody else has just begun it.
var errTaken = input.Bad("kept", "It is running already.")

// Rerun does a kept gathering again: all is asked for anew.
func (s *Gatherer) Rerun(ctx context.Context, n niches.Niche, k Kept) (jobs.Job, error) {
	if job, err := s.runner.Get(ctx, n.ID, k.Job); err == nil && job.Runs() {
		return job, errTaken
	}
	last, err := s.store.LastIdea(ctx, n.ID)
	if err != nil {
		return jobs.Job{}, err
	}
	got, err := s.store.ClaimGathering(ctx, k.row, last)
	if err != nil {
		return jobs.Job{}, err
	}
	if !got {
		return jobs.Job{}, errTaken
	}
	job, err := s.Gather(ctx, n, k.Plan)
	if err != nil {
		return job, err
	}
	return job, s.store.ChangeGathering(ctx, n.ID, k.ID, map[string]any{"job_id": job.ID})
}

// New are the ideas that the last run of a kept gathering brought, those that are searched most first, and how many.
func (s *Gatherer) New(ctx context.Context, n niches.Niche, k Kept) (list []ideas.Idea, all int, err error) {
	if k.RunAt.IsZero() {
		return nil, 0, nil
	}
	b, err := s.ideas.Table(ctx, n)
	if err != nil {
		return nil, 0, err
	}
	var ids []uint
	of := map[uint]bool{}
	for _, seed := range k.Plan.Seeds {
		for _, id := range b.Pass(sieve.Sieve{Filters: []sieve.Filter{sieve.Choosing(sieve.ByBranch, seed)}}).IDs(0, -1) {
			of[id] = id > k.row.After
		}
	}
	open := sieve.Sieve{Filters: []sieve.Filter{sieve.NotDropped()}}.By(sieve.Searches, true)
	for _, id := range b.Pass(open).IDs(0, -1) {
		if of[id] {
			if all++; all <= mostNew {
				ids = append(ids, id)
			}
		}
	}
	list, err = s.ideas.Ideas(ctx, n.ID, ids)
	return list, all, err
}

// Due does those kept gatherings that are done every week and were not for one. It returns how many it began.
func (s *Gatherer) Due(ctx context.Context) (begun int, err error) {
	rows, err := s.store.Gatherings(ctx, 0)
	var errs []error
	for _, row := range rows {
		if row.RunAt != nil && s.store.Now().Sub(*row.RunAt) < Week {
			continue
		}
		n, err := s.niches.Get(ctx, row.NicheID)
		if err != nil {
			errs = append(errs, err)
			continue
		}
		k, err := keptFrom(row)
		if err != nil {
			errs = append(errs, err)
			continue
		}
		switch _, err := s.Rerun(ctx, n, k); {
		case err == nil:
			begun++
		case !errors.Is(err, errTaken):
			errs = append(errs, err)
		}
	}
	return begun, errors.Join(append(errs, err)...)
}
