package niches

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"cleverniche/core/difficulty"
	"cleverniche/store"
)

// Learnt is what is known of what a niche's engine leans on, as it is kept.
type Learnt struct {
	difficulty.Leaning
	Moved  int       `json:"moved"` // chances of page one that moved by Noticed or more when it was learnt
	Of     int       `json:"of"`    // how many were forecast again
	Pages  int       `json:"-"`     // results pages that it was learnt from
	Engine string    `json:"-"`     // who showed them
	At     time.Time `json:"-"`
}

// Says is what was learnt last, and what it changed in the forecasts of the niche.
func (l Learnt) Says() string {
	if l.Pages == 0 || l.Of == 0 {
		return ""
	}
	moved := fmt.Sprintf("%d of %d page-one chances", l.Moved, l.Of)
	if l.Moved == 0 {
		moved = "No page-one chance"
	}
	return fmt.Sprintf("What the engine leans on is now %s. %s moved by %.0f points or more.",
		difficulty.Learnt(l.Pages), moved, 100*Noticed)
}

// Noticed is by how much a chance moves that people notice (ours).
const Noticed = 0.05

// Learnt returns what is known; of nobody's pages where nothing was learnt with the present calibration.
func (k *Keeper) Learnt(ctx context.Context, n Niche) (Learnt, error) {
	none := Learnt{Leaning: difficulty.Calibrated.Prior}
	row, err := k.store.Leaning(ctx, n.ID)
	switch {
	case errors.Is(err, store.ErrNotFound):
		return none, nil
	case err != nil:
		return none, err
	}
	out := Learnt{Pages: row.Pages, Engine: row.Engine, At: row.At}
	if row.Model != CalibrationName || json.Unmarshal(row.Body, &out) != nil || !out.Sound() {
		return none, nil // it is learnt again
	}
	return out, nil
}
