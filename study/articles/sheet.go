package articles

import (
	"context"
	"math"
	"slices"
	"time"

	"cleverniche/core/demand"
	"cleverniche/core/intent"
	"cleverniche/core/plan"
	"cleverniche/core/serp"
	"cleverniche/core/sieve"
	"cleverniche/core/topic"
	"cleverniche/store"
	"cleverniche/study/ideas"
	"cleverniche/study/input"
	"cleverniche/study/niches"
	"cleverniche/study/topics"
)

// Article is a topic as something to write, with what it takes and brings.
type Article struct {
	topics.Topic
	Idea     ideas.Idea // its lead, with the searches of all its wordings
	Kind     serp.PageType
	Hours    int
	OwnHours bool // somebody said how many
	Start    time.Time
	Deadline time.Time
	Day      time.Time // it was published
	Address  string
	Note     string
	Season   demand.Season
	Schedule plan.Schedule
	Gone     bool // none of its ideas is there any more
}

// Key is the ID by which the sheet knows it; 0 when nothing was decided on it.
func (a Article) Key() uint { return a.Decided.ID }

// Sells reports whether it is for those who compare or buy.
func (a Article) Sells() bool {
	w := a.Idea.Value(sieve.Intent)
	return w.Known && (intent.Class(w.Number) == intent.Compare || intent.Class(w.Number) == intent.Buy)
}

// Worth is what it would bring a month, in micro-units, the least, the likely and the most; known is false
// where that is not reckoned.
func (a Article) Worth() (low, likely, high int64, known bool) {
	v := a.Idea.Value(sieve.Worth)
	if !v.Known {
		return 0, 0, 0, false
	}
	micros := func(v sieve.Value) int64 { return int64(math.Round(v.Number * 1e6)) }
	return micros(a.Idea.Value(sieve.WorthLow)), micros(v), micros(a.Idea.Value(sieve.WorthHigh)), true
}

// scheduled is the article as the calendar takes it.
func (a Article) scheduled() plan.Article {
	return plan.Article{Hours: a.Hours, Start: a.Start, Published: a.Day, Deadline: a.Deadline, Peak: a.Season.Peak}
}

// Read reads topics as something to write.
func (s *Planner) Read(ctx context.Context, n niches.Niche, t *topics.Topics, list []topics.Topic) ([]Article, error) {
	ids := make([]uint, len(list))
	for i, one := range list {
		ids[i] = one.ID
	}
	rows, err := s.ideas.Ideas(ctx, n.ID, ids)
	if err != nil {
		return nil, err
	}
	byID := make(map[uint]ideas.Idea, len(rows))
	for _, idea := range rows {
		byID[idea.ID] = idea
	}
	out := make([]Article, len(list))
	for i, one := range list {
		out[i] = s.article(n, one, t.Overlay(byID[one.ID]))
	}
	return out, nil
}

func (s *Planner) article(n niches.Niche, one topics.Topic, lead ideas.Idea) Article {
	h := one.Decided
	a := Article{Topic: one, Idea: lead, Kind: serp.PageType(lead.Row.Article), Hours: h.Hours, OwnHours: h.Hours > 0,
		Address: h.Address, Note: h.Note, Season: demand.SeasonOf(lead.Series())}
	if a.Kind == "" {
		a.Kind = serp.Article
	}
	if a.Hours == 0 {
		a.Hours = n.HoursOf(a.Kind)
	}
	a.Start, a.Deadline = h.Start.Time(), h.Deadline.Time()
	if one.State() == plan.Published {
		a.Day = h.Published.Time()
	}
	a.Schedule = plan.ScheduleOf(a.scheduled(), s.store.Now(), n.WeekHours, n.LeadDays)
	return a
}

// Plan is the running sheet: what is put aside to write, what is being written and what is out.
type Plan struct {
	Articles []Article // in their order, what is published last
	Weeks    []plan.Load
	Topics   *topics.Topics
	perWeek  int
}

// Booked are the hours of months, from the one of a day on: those there are, and those booked.
func (sh Plan) Booked(begin time.Time, months int) []plan.Load {
	return plan.Months(sh.schedules(), begin, months, sh.perWeek)
}

func (sh Plan) schedules() (out []plan.Article) {
	for _, a := range sh.Articles {
		out = append(out, a.scheduled())
	}
	return out
}

// sheetWeeks is how far ahead the sheet looks.
const sheetWeeks = 8

// Plan returns the running sheet of a niche.
func (s *Planner) Plan(ctx context.Context, n niches.Niche) (Plan, error) {
	t, err := s.topics.Of(ctx, n)
	if err != nil {
		return Plan{}, err
	}
	var list []topics.Topic
	for _, one := range t.List {
		if one.State() != plan.None {
			list = append(list, one)
		}
	}
	out := Plan{Topics: t, perWeek: n.WeekHours}
	if out.Articles, err = s.Read(ctx, n, t, list); err != nil {
		return out, err
	}
	for _, h := range t.Empty {
		one := topics.Topic{At: -1, Name: h.Name, Searches: -1, Hub: topic.NoHub, Decided: h,
			Ideas: []topics.TopicIdea{{Phrase: h.Phrase, Searches: -1}}}
		if one.Name == "" {
			one.Name = h.Phrase
		}
		a := s.article(n, one, ideas.Idea{})
		a.Gone = true
		out.Articles = append(out.Articles, a)
	}
	slices.SortStableFunc(out.Articles, func(a, b Article) int { // what is out comes last, the latest first
		x, y := a.State() == plan.Published, b.State() == plan.Published
		switch {
		case x && !y:
			return 1
		case y && !x:
			return -1
		case x && !a.Day.Equal(b.Day):
			return b.Day.Compare(a.Day)
		}
		return byPlace(a.Decided, b.Decided)
	})
	out.Weeks = plan.Weeks(out.schedules(), s.store.Now(), sheetWeeks, n.WeekHours, n.WeekStart)
	return out, nil
}

// LayOut gives the articles on the sheet that have no day to begin one, in their order, one after the
// other in the hours there are; it returns how many.
func (s *Planner) LayOut(ctx context.Context, n niches.Niche) (laid int, err error) {
	if n.WeekHours == 0 {
		return 0, input.Bad("week-hours", "Set your hours per week in Settings first.")
	}
	err = topics.Retried(func() error {
		laid, err = s.layOut(ctx, n)
		return err
	})
	return laid, err
}

func (s *Planner) layOut(ctx context.Context, n niches.Niche) (laid int, err error) {
	sheet, err := s.Plan(ctx, n)
	if err != nil {
		return 0, err
	}
	var list []Article
	var sowings []plan.Article
	var works []plan.Work
	for _, a := range sheet.Articles {
		if a.State() != plan.ToWrite && a.State() != plan.Writing {
			continue
		}
		_, likely, _, _ := a.Worth()
		list = append(list, a)
		works = append(works, plan.Work{Name: a.Name, Hours: a.Hours, Worth: likely, Due: a.Schedule.Due})
	}
	order := plan.InOrder(works, s.store.Now(), n.WeekHours)
	for _, i := range order {
		sowings = append(sowings, list[i].scheduled())
	}
	starts := plan.LayOut(sowings, s.store.Now().AddDate(0, 0, 1), n.WeekHours)
	says := func() string { return "Scheduling the articles" }
	err = s.store.EditTopics(ctx, n.ID, sheet.Topics.Revision, says, func(e *store.TopicTx) error {
		for k, i := range order {
			if !list[i].Start.IsZero() {
				continue
			}
			r, err := e.Edit(list[i].Decided.ID)
			if err != nil {
				return err
			}
			r.Start = plan.DateOf(starts[k])
			if err := e.Save(&r); err != nil {
				return err
			}
			laid++
		}
		if laid == 0 {
			return input.Bad("start", "Everything to write is scheduled already.")
		}
		return nil
	})
	return laid, err
}

// Visits are those a month to be expected; −1 where that is not reckoned.
func (a Article) Visits(n niches.Niche) float64 {
	v := a.Idea.Value(sieve.Worth)
	if !v.Known || n.VisitMicros == 0 {
		return -1
	}
	return v.Number * 1e6 / float64(n.VisitMicros)
}
