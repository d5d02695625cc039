package study

import (
	"context"
	"crypto/rand"
	"fmt"

	"cleverniche/core/sieve"
	"cleverniche/store"
)

// Decide keeps or drops ideas, or takes that back, and remembers it for undoing.
// It returns how many changed.
func (s *Study) Decide(ctx context.Context, niche uint, ids []uint, d sieve.Decision) (int, error) {
	if d < sieve.Undecided || d > sieve.Dropped {
		return 0, badInput("decision", "There is no such decision.")
	}
	return s.store.Decide(ctx, niche, ids, int8(d), rand.Text())
}

// Undo takes back the latest decision of a niche. It returns what was undone in
// words; "" when there was nothing.
func (s *Study) Undo(ctx context.Context, niche uint) (string, []store.Decision, error) {
	undone, err := s.store.UndoDecision(ctx, niche)
	if err != nil || len(undone) == 0 {
		return "", nil, err
	}
	verb := map[int8]string{int8(sieve.Kept): "Keeping", int8(sieve.Dropped): "Dropping"}[undone[0].Became]
	if verb == "" {
		verb = "Clearing"
	}
	what := fmt.Sprintf("%d ideas", len(undone))
	if len(undone) == 1 {
		idea, err := s.store.Idea(ctx, niche, undone[0].IdeaID)
		if err != nil {
			return "", nil, err
		}
		what = "“" + idea.Phrase + "”"
	}
	return verb + " " + what + " was undone.", undone, nil
}
