package results

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"sync"
	"time"

	"cleverniche/core/difficulty"
	"cleverniche/core/phrase"
	"cleverniche/store"
	"cleverniche/study/ask"
	"cleverniche/study/input"
	"cleverniche/study/jobs"
	"cleverniche/study/niches"
)

// Hunt is looking ideas up, the most promising first, until there is enough.
type Hunt struct {
	Ideas      []uint    `json:"ideas"`
	Want       int       `json:"want"`       // so many with a difficulty of at most Difficulty; 0 is no such end
	Difficulty float64   `json:"difficulty"` //
	Micros     int64     `json:"micros"`     // or until so much is spent; 0 is no such end
	Since      time.Time `json:"since"`
}

// Bounds of a hunt.
const (
	MostHunted = 2000 // ideas
	MostWanted = 500
)

const huntKind = "hunt"

// mostHunts is of how many jobs it is held what is left; one that was let go is read again from the data file.
const mostHunts = 20

// huntWorkers is how many ideas are looked up at once: fewer than usual, since each teaches which is next.
const huntWorkers = 3

// hunts are those under way in this program, by job.
type hunts struct {
	mu sync.Mutex
	of map[uint]*hunting
}

type hunting struct {
	promise *difficulty.Promise
	ideas   []store.Idea
	failed  []uint // tried in vain: they come again once all others were tried
}

// Hunt starts one. Ideas that are looked up already count as found, and are not looked up again.
func (s *Researcher) Hunt(ctx context.Context, n niches.Niche, h Hunt) (jobs.Job, error) {
	list, err := s.these(ctx, n, h.Ideas)
	if err != nil {
		return jobs.Job{}, err
	}
	switch {
	case len(list) > MostHunted:
		return jobs.Job{}, input.Bad("ideas", "At most %d ideas at a time. Add a filter first.", MostHunted)
	case h.Want < 0 || h.Want > MostWanted:
		return jobs.Job{}, input.Bad("want", "Look for 1 to %d ideas.", MostWanted)
	case !(h.Difficulty >= 0 && h.Difficulty <= 100):
		return jobs.Job{}, input.Bad("bar", "A difficulty is between 0 and 100.")
	case h.Micros < 0 || h.Want == 0 && h.Micros == 0:
		return jobs.Job{}, input.Bad("want", "Say after how many, or after what price, to stop.")
	}
	h.Ideas, h.Since = nil, s.store.Now().UTC()
	var slots []int
	for _, idea := range list {
		if h.Ideas = append(h.Ideas, idea.ID); idea.JudgedAt == nil {
			slots = append(slots, len(slots))
		}
	}
	if len(slots) == 0 {
		return jobs.Job{}, input.Bad("ideas", "All of these are looked up already.")
	}
	params, err := json.Marshal(h)
	if err != nil {
		return jobs.Job{}, err
	}
	return s.runner.StartWith(ctx, n, huntKind, s.huntTitle(h), jobs.Encode(slots), string(params))
}

func (s *Researcher) huntTitle(h Hunt) string {
	spent := s.asker.Money(h.Micros)
	switch {
	case h.Want == 0:
		return fmt.Sprintf("Look up until %s is spent", spent)
	case h.Micros == 0:
		return fmt.Sprintf("Look up until %d %s of difficulty %.0f or less", h.Want, input.IdeasWord(h.Want), h.Difficulty)
	}
	return fmt.Sprintf("Look up until %d %s of difficulty %.0f or less, or until %s is spent", h.Want,
		input.IdeasWord(h.Want), h.Difficulty, spent)
}

func (s *Researcher) huntingKind() jobs.Kind {
	return jobs.Kind{Name: huntKind, Workers: huntWorkers, Brings: top.brings, Do: s.huntOne, Enough: s.huntEnough,
		After: s.learn}
}

func readHunt(params string) (h Hunt, err error) { return h, json.Unmarshal([]byte(params), &h) }

// huntEnough reports whether a hunt has found or spent what it should.
func (s *Researcher) huntEnough(ctx context.Context, n niches.Niche, job uint, params string) (string, bool, error) {
	h, err := readHunt(params)
	if err != nil {
		return "", false, err
	}
	if h.Micros > 0 {
		spent, err := s.store.JobSpent(ctx, job)
		if err != nil {
			return "", false, err
		}
		if spent.Micros >= h.Micros {
			return s.asker.Money(spent.Micros) + " is spent", true, nil
		}
	}
	if h.Want == 0 {
		return "", false, nil
	}
	list, err := s.store.Ideas(ctx, n.ID, h.Ideas)
	if err != nil {
		return "", false, err
	}
	found, looked := 0, 0
	for _, idea := range list {
		if idea.JudgedAt == nil {
			continue
		}
		if idea.JudgedAt.After(h.Since) {
			looked++
		}
		if idea.Difficulty < h.Difficulty+0.5 && !idea.Locked { // as it is shown, and as the sieve has it
			found++
		}
	}
	if found < h.Want {
		return "", false, nil
	}
	return fmt.Sprintf("%d %s of difficulty %.0f or less; %d of %d were looked up for it", found, input.IdeasWord(found),
		h.Difficulty, looked, len(list)), true, nil
}

// huntOne looks up the most promising idea that is left.
func (s *Researcher) huntOne(ctx context.Context, n niches.Niche, _ string) (int, error) {
	job := ask.RequestOf(ctx).Job
	idea, ok, err := s.nextOf(ctx, n, job)
	if err != nil || !ok {
		return 0, err
	}
	found, err := s.lookUpOne(ctx, n, jobs.Encode([]item{{Idea: idea, What: top.Key}})[0])
	if err != nil {
		s.inVain(job, idea)
		return found, err
	}
	return found, s.taught(ctx, n, job, idea)
}

// nextOf is the most promising idea of a hunt that is left.
func (s *Researcher) nextOf(ctx context.Context, n niches.Niche, job uint) (id uint, ok bool, err error) {
	s.hunts.mu.Lock()
	defer s.hunts.mu.Unlock()
	h := s.hunts.of[job]
	if h == nil {
		if h, err = s.beginHunt(ctx, n, job); err != nil {
			return 0, false, err
		}
		if s.hunts.of == nil || len(s.hunts.of) >= mostHunts {
			s.hunts.of = map[uint]*hunting{}
		}
		s.hunts.of[job] = h
	}
	if i, ok := h.promise.Next(); ok {
		return h.ideas[i].ID, true, nil
	}
	if len(h.failed) == 0 {
		return 0, false, nil
	}
	id, h.failed = h.failed[0], h.failed[1:]
	return id, true, nil
}

// inVain notes that an idea of a hunt could not be looked up.
func (s *Researcher) inVain(job, id uint) {
	s.hunts.mu.Lock()
	defer s.hunts.mu.Unlock()
	if h := s.hunts.of[job]; h != nil {
		h.failed = append(h.failed, id)
	}
}

// beginHunt reads what is known of a hunt's ideas: those that are looked up teach.
func (s *Researcher) beginHunt(ctx context.Context, n niches.Niche, job uint) (*hunting, error) {
	row, err := s.runner.Params(ctx, job)
	if err != nil {
		return nil, err
	}
	h, err := readHunt(row)
	if err != nil {
		return nil, err
	}
	list, err := s.store.Ideas(ctx, n.ID, h.Ideas)
	if err != nil {
		return nil, err
	}
	candidates := make([]difficulty.Candidate, len(list))
	for i, idea := range list {
		candidates[i] = candidateOf(n, idea)
	}
	out := &hunting{promise: difficulty.NewPromise(candidates), ideas: list}
	for i, idea := range list {
		if idea.JudgedAt != nil {
			out.promise.Take(i)
			out.promise.Learn(candidates[i], idea.Difficulty)
		}
	}
	return out, nil
}

func candidateOf(n niches.Niche, idea store.Idea) difficulty.Candidate {
	c := difficulty.Candidate{Stems: phrase.ContentStems(idea.Phrase, n.Language), Words: idea.Words}
	if idea.Searches != nil {
		c.Searches = float64(*idea.Searches)
	}
	return c
}

// taught tells a hunt what came of an idea.
func (s *Researcher) taught(ctx context.Context, n niches.Niche, job, id uint) error {
	idea, err := s.store.Idea(ctx, n.ID, id)
	if err != nil || idea.JudgedAt == nil {
		return err
	}
	s.hunts.mu.Lock()
	defer s.hunts.mu.Unlock()
	if h := s.hunts.of[job]; h != nil && slices.ContainsFunc(h.ideas, func(i store.Idea) bool { return i.ID == id }) {
		h.promise.Learn(candidateOf(n, idea), idea.Difficulty)
	}
	return nil
}
