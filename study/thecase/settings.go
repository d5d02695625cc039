package thecase

import (
	"context"
	"encoding/json"
	"math"
	"time"

	"cleverniche/core/niche"
	"cleverniche/core/worth"
	"cleverniche/study/input"
	"cleverniche/study/niches"
)

// Settings are what a case is held against, and which ideas were drawn.
type Settings struct {
	Bars    niche.Bars
	Assumed Assumed
	Drawn   []uint
	Pending int               // topics that are drawn once ideas are gathered
	Hand    map[string]string // questions that one answers by oneself
}

// Assumed is what earnings rest on, as somebody moves it; the rest is the niche's own.
type Assumed struct {
	WeekHours  float64 `json:"weekHours"`
	MostHours  float64 `json:"mostHours"` // 0 as long as there is something to write
	Bar        float64 `json:"bar"`       // units of the currency that an hour must bring
	Tied       float64 `json:"tied"`
	Chosen     float64 `json:"chosen"` // share of its forecast that what is chosen for it brings
	LeadMonths float64 `json:"leadMonths"`
	Growth     float64 `json:"growth"` // of what such sites gain in standing
}

// usual is what is assumed until somebody says otherwise: six hours a week and an hour worth 10 units of the currency
// (ours), and what is measured of forecasts that were chosen.
func usual(n niches.Niche) Settings {
	a := Assumed{WeekHours: 6, Bar: 10, Tied: niche.Together, Chosen: niche.Promised, Growth: 1,
		LeadMonths: float64(n.LeadDays) / worth.DaysAMonth}
	if n.WeekHours > 0 {
		a.WeekHours = float64(n.WeekHours)
	}
	a.LeadMonths = math.Round(a.LeadMonths*10) / 10
	return Settings{Bars: niche.Default, Assumed: a}
}

// Settings of a niche.
func (s *Examiner) Settings(ctx context.Context, n niches.Niche) (Settings, error) {
	row, err := s.store.Case(ctx, n.ID)
	if err != nil {
		return Settings{}, err
	}
	return settingsIn(row.Body, n), nil
}

// kept is what is kept of settings: only what somebody moved, so that the rest follows what is usual.
type kept struct {
	Bars    *niche.Bars       `json:"bars,omitempty"`
	Assumed *Assumed          `json:"assumed,omitempty"`
	Drawn   []uint            `json:"drawn,omitempty"`
	Pending int               `json:"pending,omitempty"`
	Hand    map[string]string `json:"hand,omitempty"`
}

func settingsIn(body string, n niches.Niche) Settings {
	out := usual(n)
	var k kept
	if body == "" || json.Unmarshal([]byte(body), &k) != nil {
		return out
	}
	out.Drawn, out.Pending, out.Hand = k.Drawn, k.Pending, k.Hand
	if k.Bars != nil && k.Bars.Check() == nil {
		out.Bars = *k.Bars
	}
	if k.Assumed != nil {
		out.Assumed = *k.Assumed
	}
	return out
}

func (s *Examiner) change(ctx context.Context, n niches.Niche, do func(*Settings) error) error {
	return s.store.ChangeCase(ctx, n.ID, func(body string) (string, error) {
		now := settingsIn(body, n)
		if err := do(&now); err != nil {
			return "", err
		}
		k, first := kept{Drawn: now.Drawn, Pending: now.Pending, Hand: now.Hand}, usual(n)
		if now.Bars != first.Bars {
			k.Bars = &now.Bars
		}
		if now.Assumed != first.Assumed {
			k.Assumed = &now.Assumed
		}
		text, err := json.Marshal(k)
		return string(text), err
	})
}

// Move keeps other bars and assumptions; what cannot be is an *input.Error.
func (s *Examiner) Move(ctx context.Context, n niches.Niche, bars niche.Bars, a Assumed) error {
	if err := bars.Check(); err != nil {
		return input.Bad("bars", "%s", input.Sentence(err.Error()))
	}
	if err := a.Check(); err != nil {
		return input.Bad("assumed", "%s", input.Sentence(err.Error()))
	}
	return s.change(ctx, n, func(now *Settings) error {
		now.Bars, now.Assumed = bars, a
		return nil
	})
}

// Reset goes back to the usual bars and assumptions.
func (s *Examiner) Reset(ctx context.Context, n niches.Niche) error {
	return s.change(ctx, n, func(now *Settings) error {
		first := usual(n)
		now.Bars, now.Assumed = first.Bars, first.Assumed
		return nil
	})
}

// HandQuestions are those that nobody can count. They stand beside the seven and are never mixed with them.
var HandQuestions = []struct{ Key, Says string }{
	{"like", "Do I like it?"}, {"know", "Do I know it?"}, {"find", "Can I find people who know?"},
	{"harm", "Would bad advice do harm?"}}

// MostHand is how long an answer by hand may be.
const MostHand = 500

// Answer keeps answers by hand.
func (s *Examiner) Answer(ctx context.Context, n niches.Niche, said map[string]string) error {
	return s.change(ctx, n, func(now *Settings) error {
		hand := map[string]string{}
		for _, q := range HandQuestions {
			if text := said[q.Key]; text != "" {
				hand[q.Key] = input.Clip(text, MostHand)
			}
		}
		now.Hand = hand
		return nil
	})
}

// assumed is what earnings rest on, begun in a month.
func (a Assumed) assumed(begin time.Month) niche.Assumed {
	return niche.Assumed{Begin: begin, WeekHours: a.WeekHours, MostHours: a.MostHours, LeadMonths: a.LeadMonths,
		EnoughHours: a.enough(), Months: Months, Tied: a.Tied, Chosen: a.Chosen, BarAnHour: a.Bar, VisitFactor: 1,
		Growth: a.Growth}
}

// enough are the hours that must be worth it.
func (a Assumed) enough() float64 { return leastWeeks * a.WeekHours }

// Fewest is how many sites must be dated for growth to be told.
func (c Case) Fewest() int { return niche.FewestDated }

// Enough are the hours that must be worth it for a yes.
func (c Case) Enough() float64 { return c.Settings.Assumed.enough() }

// Check returns why assumptions cannot be used, or nil.
func (a Assumed) Check() error { return a.assumed(time.January).Check() }

// Months is how far earnings are looked at.
const Months = 24
