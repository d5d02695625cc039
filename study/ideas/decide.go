package ideas

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"

	"cleverniche/core/sieve"
	"cleverniche/store"
	"cleverniche/study/input"
)

// Decide keeps or drops ideas, or takes that back, and remembers it for undoing.
// It returns how many changed.
func (s *Keeper) Decide(ctx context.Context, niche uint, ids []uint, d sieve.Decision) (int, error) {
	if d < sieve.Undecided || d > sieve.Dropped {
		return 0, input.Bad("decision", "That option is not available. Reload the page.")
	}
	return s.store.Decide(ctx, niche, ids, int8(d), rand.Text())
}

// Remove takes ideas out of the niche, and remembers them for undoing.
func (s *Keeper) Remove(ctx context.Context, niche uint, ids []uint) (int, error) {
	n, err := s.store.RemoveIdeas(ctx, niche, ids, rand.Text())
	if errors.Is(err, store.ErrPlanned) {
		return 0, input.Bad("ideas", "Some of them belong to articles in your plan. Remove those articles first.")
	}
	return n, err
}

// Undone is a batch of decisions that was taken back.
type Undone struct {
	Says  string // in words; "" when there was nothing to undo
	Ideas []uint
	// Topics says that it was a change to topics.
	Topics bool
	// Subject says that it was what somebody said of the subject: others may follow from it.
	Subject bool
}

// errSince is why somebody cannot undo what they did.
var errSince = input.Bad("undo", "Somebody else changed that since. It can no longer be undone.")

// Undo takes back, of what whoever asks did, the latest of the decisions, labels, notes and changes to topics of a
// niche.
func (s *Keeper) Undo(ctx context.Context, niche uint) (Undone, error) {
	decided, err := s.store.LastDecision(ctx, niche)
	if err != nil {
		return Undone{}, err
	}
	changed, err := s.store.LastTopicChange(ctx, niche)
	if err != nil {
		return Undone{}, err
	}
	if changed.After(decided) {
		says, err := s.store.UndoTopics(ctx, niche)
		if errors.Is(err, store.ErrSince) {
			err = errSince
		}
		if says != "" {
			says += " was undone."
		}
		return Undone{Says: says, Topics: true}, err
	}
	rows, err := s.store.UndoDecision(ctx, niche)
	if errors.Is(err, store.ErrSince) {
		err = errSince
	}
	if err != nil || len(rows) == 0 {
		return Undone{}, err
	}
	var out Undone
	for _, d := range rows {
		out.Ideas = append(out.Ideas, d.IdeaID)
	}
	verb := map[int8]string{int8(sieve.Kept): "Keeping", int8(sieve.Dropped): "Dropping"}[rows[0].Became]
	switch {
	case rows[0].Labels != nil:
		verb = "Labelling"
	case rows[0].Note != nil:
		verb = "The note on"
	case rows[0].Side != nil:
		verb, out.Subject = "Marking the subject of", true
	case rows[0].Moved == store.MovedOut:
		verb = "Deleting"
	case verb == "":
		verb = "Clearing"
	}
	what := counted(len(rows))
	if len(rows) == 1 {
		idea, err := s.store.Idea(ctx, niche, rows[0].IdeaID)
		if err == nil {
			what = "“" + idea.Phrase + "”"
		} else if !errors.Is(err, store.ErrNotFound) { // it may have left with the import that brought it
			return out, err
		}
	}
	out.Says = verb + " " + what + " was undone."
	return out, nil
}

func counted(n int) string { return fmt.Sprintf("%d %s", n, input.IdeasWord(n)) }
