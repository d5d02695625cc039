package articles

import (
	"cmp"
	"context"
	"slices"
	"time"

	"cleverniche/core/plan"
	"cleverniche/core/sieve"
	"cleverniche/core/topic"
	"cleverniche/study/input"
	"cleverniche/study/niches"
	"cleverniche/study/topics"
)

// Rules are what a choice keeps to, and for how many weeks it chooses.
type Rules struct {
	Weeks                            int
	SpokesWithHub, LearnFirst, Waits bool
	LeastChance                      float64 // of page one, 0 to 1
	Floor                            int64   // micro-units that an hour has to bring at least
	In, Out                          []uint  // leads of topics that are in or out whatever they bring
}

// What is chosen by to begin with (ours): for a month or so, what brings a tenth of the currency's unit an hour at
// least and has a chance of page one of a tenth. A site is new under that standing.
const (
	UsualWeeks  = 5
	usualFloor  = 100_000
	usualChance = 0.1
	newSite     = 3
)

// UsualRules are those that a proposal begins with: all of them, but that an established site need not explain before
// it sells.
func (s *Planner) UsualRules(ctx context.Context, n niches.Niche) Rules {
	standing, known := s.asker.KnownStanding(ctx, n.OwnSite)
	return Rules{Weeks: UsualWeeks, SpokesWithHub: true, LearnFirst: !known || standing < newSite, Waits: true,
		LeastChance: usualChance, Floor: usualFloor}
}

// MostWeeks is for how many weeks one chooses at most.
const MostWeeks = 104

// Chosen is a choice of articles.
type Chosen struct {
	Taken []ChosenArticle
	Left  []ChosenArticle
	Hours int // used
	Have  int
	Worth int64 // a month, likely
	Free  int64 // what it would be if nothing were decided by hand
	Asked int   // topics that were chosen from
	Costs plan.Costs
}

// ChosenArticle is an article that is chosen, or not, and why.
type ChosenArticle struct {
	Article
	Ready   time.Time
	Late    bool
	Held    plan.Held
	Because string
}

// Choose chooses among the topics that are not published those that bring most in the hours of some
// weeks. Topics whose lead is not looked up are not chosen from: nobody knows what they bring.
func (s *Planner) Choose(ctx context.Context, n niches.Niche, rules Rules) (Chosen, error) {
	var out Chosen
	switch {
	case rules.Weeks < 1 || rules.Weeks > MostWeeks:
		return out, input.Bad("weeks", "A proposal covers 1 to %d weeks.", MostWeeks)
	case n.WeekHours == 0:
		return out, input.Bad("week-hours", "Set your hours per week to get a proposal.")
	case n.VisitMicros == 0:
		return out, input.Bad("visit", "Set your income per visit to see what earns most.")
	}
	t, err := s.topics.Of(ctx, n)
	if err != nil {
		return out, err
	}
	var list, unknown []topics.Topic // to choose from, and what has its days in the calendar besides
	for _, one := range t.List {
		switch {
		case one.State() == plan.Published:
		case one.LookedUp():
			list = append(list, one)
		case one.State() != plan.None:
			unknown = append(unknown, one)
		}
	}
	all, err := s.Read(ctx, n, t, append(list, unknown...))
	if err != nil {
		return out, err
	}
	articles := all[:len(list)]
	at := map[int]int{}
	for i, a := range articles {
		at[a.At] = i
	}
	topics := make([]plan.Candidate, len(articles))
	for i := range articles {
		// An article is written for the wording that it can rank for, where its most searched one is out of reach.
		chance := articles[i].Idea.Value(sieve.PageOne).Number
		if one := articles[i].Topic; chance < rules.LeastChance && one.State() == plan.None && !one.LeadByHand() {
			if best, better, ok := t.Likeliest(one); ok && better >= rules.LeastChance {
				if chance, articles[i].ID = better, best.ID; !one.Called() {
					articles[i].Name = best.Phrase
				}
			}
		}
		a := articles[i]
		_, likely, _, _ := a.Worth()
		topics[i] = plan.Candidate{Name: a.Name, Hours: a.Hours, Worth: likely, Hub: plan.NoHub, Sells: a.Sells(),
			Footholds: int(a.Idea.Value(sieve.Footholds).Number), PublishBy: a.Schedule.Due,
			Chance: chance}
		if h, there := at[a.Hub]; there && a.Hub != topic.NoHub && a.HubHand { // a proposed hub holds nothing back
			topics[i].Hub = h
		}
		switch {
		case slices.Contains(rules.In, a.ID):
			topics[i].Held = plan.In
		case slices.Contains(rules.Out, a.ID):
			topics[i].Held = plan.Out
		}
	}
	out.Have, out.Asked = rules.Weeks*n.WeekHours, len(topics)
	c, err := plan.Choose(topics, out.Have, plan.Rules{SpokesWithHub: rules.SpokesWithHub, LearnFirst: rules.LearnFirst,
		LateWaits: rules.Waits, LeastChance: rules.LeastChance, Floor: rules.Floor,
		Today: plan.Day(s.store.Now()), PerWeek: n.WeekHours})
	if err != nil {
		return out, input.Bad("weeks", "It cannot be chosen: %v.", err)
	}
	for _, task := range c.Taken {
		out.Taken = append(out.Taken, ChosenArticle{Article: articles[task.Candidate], Held: topics[task.Candidate].Held})
	}
	s.days(n, all, out.Taken)
	for _, l := range c.Left {
		out.Left = append(out.Left, ChosenArticle{Article: articles[l.Candidate], Because: l.Because,
			Held: topics[l.Candidate].Held})
	}
	slices.SortStableFunc(out.Left, func(a, b ChosenArticle) int {
		_, x, _, _ := a.Worth()
		_, y, _, _ := b.Worth()
		return cmp.Compare(y, x)
	})
	out.Hours, out.Worth, out.Free, out.Costs = c.Hours, c.Worth, c.Free, c.Costs
	return out, nil
}

// days says when each chosen article is ready: on the day that the calendar would give it, after what has its days
// there already.
func (s *Planner) days(n niches.Niche, all []Article, taken []ChosenArticle) {
	var list []plan.Article
	for _, a := range all {
		chosen := slices.ContainsFunc(taken, func(c ChosenArticle) bool { return c.At == a.At })
		if !chosen && a.State() != plan.None && !a.Start.IsZero() {
			list = append(list, a.scheduled())
		}
	}
	first := len(list)
	for _, a := range taken {
		list = append(list, a.scheduled())
	}
	starts := plan.LayOut(list, s.store.Now().AddDate(0, 0, 1), n.WeekHours)
	for i := range taken {
		a := &taken[i]
		a.Ready = starts[first+i].AddDate(0, 0, plan.WritingDays(a.Hours, n.WeekHours))
		a.Late = !a.Schedule.Due.IsZero() && a.Ready.After(a.Schedule.Due)
	}
}
