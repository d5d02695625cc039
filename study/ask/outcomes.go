package ask

import (
	"errors"
	"maps"
	"sync"

	"cleverniche/market"
)

// Outcome is how a question ended.
type Outcome struct {
	Question Question
	Outcome  string // answered, kept, refused, unreachable, malformed, budget, doubt, failed
}

// outcomes counts questions since the program began.
type outcomes struct {
	mu sync.Mutex
	of map[Outcome]int
}

func (o *outcomes) add(q Question, outcome string) {
	o.mu.Lock()
	defer o.mu.Unlock()
	if o.of == nil {
		o.of = map[Outcome]int{}
	}
	o.of[Outcome{q, outcome}]++
}

// Outcomes are how the questions ended that were put since the program began.
func (s *Asker) Outcomes() map[Outcome]int {
	s.outcomes.mu.Lock()
	defer s.outcomes.mu.Unlock()
	return maps.Clone(s.outcomes.of)
}

// answered is the outcome of a question that was answered.
const answered = "answered"

// outcomeOf names how a question ended.
func outcomeOf(err error) string {
	var asked *market.Error
	var budget *BudgetError
	var doubt *DoubtError
	switch {
	case err == nil:
		return answered
	case errors.As(err, &asked):
		return map[market.Trouble]string{market.Refused: "refused", market.Malformed: "malformed",
			market.Unreachable: "unreachable"}[asked.Trouble]
	case errors.As(err, &budget):
		return "budget"
	case errors.As(err, &doubt):
		return "doubt"
	}
	return "failed"
}
