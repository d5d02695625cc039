package jobs

import (
	"context"
	"encoding/json"

	"cleverniche/study/niches"
)

// Encode writes the items of a job.
func Encode[T any](list []T) []string {
	out := make([]string, len(list))
	for i, v := range list {
		text, err := json.Marshal(v)
		if err != nil {
			panic(err) // plain values always encode
		}
		out[i] = string(text)
	}
	return out
}

// Kind is how the items of one kind of job are done.
type Kind struct {
	Name    string
	Workers int
	Brings  string                    // what its finds are called: "12 judged"
	Waits   func(payload string) bool // the item needs all before it to be done; nil when none does
	Do      func(ctx context.Context, n niches.Niche, payload string) (found int, err error)
	// Enough is asked before each item whether the rest need not be done, and why; nil is never.
	Enough func(ctx context.Context, n niches.Niche, job uint, params string) (says string, enough bool, err error)
	Ended  func(ctx context.Context, n niches.Niche, params string) error // once all items are done; may be nil
	// Cancelled is done once a job was cancelled and nobody works on it any more; may be nil.
	Cancelled func(ctx context.Context, n niches.Niche, params string) error
	// After is done whenever work on a job ends, however far it came, and says what followed; may be nil. What goes wrong
	// in it ends no job.
	After func(ctx context.Context, n niches.Niche) (says string, err error)
}
