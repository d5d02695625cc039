package niches

import (
	"context"
	"encoding/json"

	"cleverniche/core/difficulty"
	"cleverniche/core/worth"
	"cleverniche/store"
)

// Known is what forecasts of a niche are made with: the calibration with what is known of its engine and of my own
// pages, and which share of searches clicks on each place.
type Known struct {
	difficulty.Model
	Curve worth.Curve
}

// Unknown is the calibration alone.
var Unknown = Known{difficulty.Calibrated, worth.Searches}

// Tilted is the same as if the engine leaned otherwise.
func (k Known) Tilted(by float64) Known {
	k.Model = k.Model.Tilted(by)
	return k
}

// Mine is a page that the niche could put out on a site of a standing.
func (k Known) Mine(n Niche, standing float64) difficulty.Mine {
	return difficulty.Mine{SiteStanding: standing, PlannedLinks: n.PlannedLinks, LinkStanding: n.LinkStanding, Fit: n.Fit,
		Luck: k.Luck}
}

// Own is what my own pages told, as it was taken.
type Own struct {
	difficulty.Own
	Model string `json:"model"` // name of the calibration that it was learnt with
}

// OwnCurve is how often each place is clicked by my search report.
type OwnCurve struct {
	Curve  worth.Curve `json:"curve"`
	By     []worth.At  `json:"by"`
	Clicks int         `json:"clicks"`
	Off    bool        `json:"off,omitempty"` // the usual curve is wanted
}

// Own is what is known of my own pages: what was taken of their outcomes, and the curve of my report; both are empty
// where there is nothing, and where it cannot be read.
func (k *Keeper) Own(ctx context.Context, n Niche) (own Own, curve OwnCurve, err error) {
	row, err := k.store.Own(ctx, n.ID)
	if err != nil {
		return own, curve, err
	}
	return readOwn(row)
}

func readOwn(row store.Own) (own Own, curve OwnCurve, err error) {
	if row.Body != "" && (json.Unmarshal([]byte(row.Body), &own) != nil || own.Model != CalibrationName) {
		own = Own{} // it is learnt again
	}
	if row.Curve != "" && (json.Unmarshal([]byte(row.Curve), &curve) != nil || len(curve.Curve) != len(worth.Searches)) {
		curve = OwnCurve{Off: curve.Off}
	}
	return own, curve, nil
}

// Model is what forecasts of a niche are made with.
func (k *Keeper) Model(ctx context.Context, n Niche) (Known, error) {
	l, err := k.Learnt(ctx, n)
	if err != nil {
		return Unknown, err
	}
	own, curve, err := k.Own(ctx, n)
	if err != nil {
		return Unknown, err
	}
	out := Known{difficulty.Calibrated.Leaning(l.Leaning, l.Pages).Own(own.Own), worth.Searches}
	if curve.Clicks >= worth.FewestClicks && !curve.Off {
		out.Curve = curve.Curve
	}
	return out, nil
}
