package results

import (
	"encoding/json"
	"slices"

	"cleverniche/core/difficulty"
	"cleverniche/core/serp"
	"cleverniche/core/worth"
	"cleverniche/store"
	"cleverniche/study/ask"
	"cleverniche/study/niches"
)

// front is what stands in front of a page of mine, and all else that a forecast hangs on. It is kept beside the
// evidence that it follows from, small, so that all of a niche is forecast again in a moment when more is known of what
// its engine leans on.
type front struct {
	Results  []difficulty.Signals `json:"results"`       // in the order shown
	Own      []int                `json:"own,omitempty"` // which of them, from 0, are my own site's
	All      bool                 `json:"all,omitempty"` // the engine has no more
	Locked   string               `json:"locked,omitempty"`
	Unread   int                  `json:"unread,omitempty"` // pages that could not be read
	Beside   worth.Beside         `json:"beside"`
	Standing float64              `json:"standing"` // my site's
	// Kinds are those of the results' sites, and Footholds which of them, from 0, are; nil in fronts from before.
	Kinds     []serp.SiteKind `json:"kinds,omitempty"`
	Footholds []int           `json:"footholds,omitempty"`
	// Titled is how many titles of the ten say all words of the phrase; nil in fronts from before.
	Titled *int `json:"titled,omitempty"`
}

// front follows from the evidence.
func (ev *Evidence) front() front {
	f := front{All: ev.Results.Total <= len(ev.Reading.Entries), Locked: ev.Reading.Locked, Beside: ev.beside(),
		Standing: ev.SiteStanding}
	for i, e := range ev.Reading.Entries {
		f.Results = append(f.Results, difficulty.SignalsOf(e))
		f.Kinds = append(f.Kinds, e.Kind)
		if e.Foothold {
			f.Footholds = append(f.Footholds, i)
		}
		if e.PageError != "" {
			f.Unread++
		}
		if slices.Contains(ev.MyPages, e.Position) {
			f.Own = append(f.Own, i)
			if e.Position == 1 {
				f.Locked = ""
			}
		}
	}
	return f
}

// titled is how many titles of the ten say all words of the phrase.
func (ev *Evidence) titled(lang string) *int {
	q, n := ev.Query(lang), 0
	for _, e := range ev.Reading.Ten() {
		if len(q.Titled(e.Title).Missing) == 0 {
			n++
		}
	}
	return &n
}

// field is what stands in front of a page of mine: my own pages do not stand in my
// way, and what is locked for others is mine where I stand first.
func (f front) field() difficulty.Field {
	out := difficulty.Field{All: f.All, Locked: f.Locked}
	for i, r := range f.Results {
		if !slices.Contains(f.Own, i) {
			out.Rivals = append(out.Rivals, r)
		}
	}
	return out
}

// row is the front as it is kept.
func (ev *Evidence) row(lang string) (*store.Front, error) {
	f := ev.front()
	f.Titled = ev.titled(lang)
	body, err := json.Marshal(f)
	return &store.Front{Engine: ev.Sources[ask.Results], Body: body}, err
}

// frontOf reads one.
func frontOf(row store.Front) (f front, ok bool) {
	err := json.Unmarshal(row.Body, &f)
	return f, err == nil && len(f.Results) > 0
}

// forecast fills in the columns of an idea that a forecast gives.
func (f front) forecast(m niches.Known, mine difficulty.Mine, idea *store.Idea) {
	field := f.field()
	v := m.Forecast(field, mine)
	idea.Difficulty, idea.Reach = v.Difficulty, v.Reach
	idea.PageOne, idea.PageOneLow, idea.PageOneHigh = v.PageOne.Mean, v.PageOne.Low, v.PageOne.High
	idea.TopFive, idea.TopFiveLow, idea.TopFiveHigh = v.TopFive.Mean, v.TopFive.Low, v.TopFive.High
	idea.Expected, idea.LinksNeeded, idea.Locked = v.Expected, v.Links, v.Locked != ""
	idea.ClickShare, idea.ClickShareLow, idea.ClickShareHigh = clicks(m, field, mine, f.Beside)
}

// Places are the chances of each place that was looked at, from the first on, that my page gets; what is left of 1 is
// further down.
func (ev *Evidence) Places() []float64 {
	list := ev.model.Distribution(ev.Field(), ev.model.Signals(ev.Mine))
	return list[:max(0, len(list)-1)]
}

// Faced is what stands in front of my page and what can be seen of it, to be held against what comes of it later.
func (ev *Evidence) Faced() difficulty.Outcome {
	return difficulty.Outcome{Field: ev.Field(), Mine: ev.model.Signals(ev.Mine)}
}

// Clicks is the share of searches that my page would get, and what that lies between.
func (ev *Evidence) Clicks() (mean, low, high float64) {
	return clicks(ev.model, ev.Field(), ev.Mine, ev.beside())
}

// clicks is the share of searches that my page gets, by the chances of the places: the mean over what
// engines may lean on, and what that lies between.
func clicks(m niches.Known, f difficulty.Field, mine difficulty.Mine, b worth.Beside) (mean, low, high float64) {
	share := func(chances []float64) float64 { return m.Curve.Share(chances, b) }
	s := m.Signals(mine)
	mean = share(m.Distribution(f, s)[:difficulty.Ranks])
	low, high = m.Between(f, s, share)
	return mean, min(low, mean), max(high, mean)
}
