package results

import (
	"context"
	"errors"
	"math"
	"time"

	"cleverniche/core/demand"
	"cleverniche/core/difficulty"
	"cleverniche/core/intent"
	"cleverniche/core/serp"
	"cleverniche/core/worth"
	"cleverniche/store"
	"cleverniche/study/ideas"
	"cleverniche/study/input"
	"cleverniche/study/niches"
)

// Origin is one way an idea was found.
type Origin struct {
	Kind  string // one of sieve.FoundIn's names
	Query string // what was asked, or the list it stood in
	Seed  string
	At    time.Time
}

// Other is what somebody says of a phrase's searches who was asked beside the one whose figure is used.
type Other struct {
	Source   string
	Searches demand.Summary
	Apart    float64 // how many times the used figure theirs is; 0 where one of them is not known
}

// Story is all there is to tell about one idea.
type Story struct {
	Idea     ideas.Idea
	Origins  []Origin
	Evidence *Evidence // nil when it is not looked up
	Others   []Other   // what others say of its searches, who were asked beside

	Commercial intent.Commercial // how far money is in it
	Advice     serp.Advice       // the kind of article that fits; of what is looked up
	First      worth.Visits      // of the first place; zero while searches are not known
	Visits     worth.Visits      // to be expected of my page; of what is looked up
	Ceiling    worth.Micros      // what advertisers would pay a month; −1 unknown
}

// Story returns everything about an idea of a table.
func (s *Researcher) Story(ctx context.Context, n niches.Niche, b ideas.Table, id uint) (Story, error) {
	return s.StoryIf(ctx, n, b, id, nil)
}

// StoryIf is the story as it would be; nil is as it is.
func (s *Researcher) StoryIf(ctx context.Context, n niches.Niche, b ideas.Table, id uint,
	what *ideas.Suppose) (Story, error) {
	if what != nil {
		if err := checkSuppose(*what); err != nil {
			return Story{}, err
		}
	}
	row, err := s.store.Idea(ctx, n.ID, id)
	if err != nil {
		return Story{}, err
	}
	out := Story{Idea: ideas.FromRow(row, n.VisitMicros)}
	origins, err := s.store.Origins(ctx, id)
	if err != nil {
		return out, err
	}
	for _, o := range origins {
		out.Origins = append(out.Origins, Origin{o.Kind, o.Query, o.Seed, o.CreatedAt})
	}
	ev, err := s.Evidence(ctx, n, id)
	switch {
	case err == nil:
		out.Evidence = &ev
	case errors.Is(err, ErrUnreadable):
		out.Idea.JudgeError = Unreadable(err)
	case !errors.Is(err, input.ErrNotFound):
		return out, err
	}
	if what != nil && out.Evidence != nil {
		if err := s.suppose(ctx, n, &row, &ev, *what); err != nil {
			return out, err
		}
	}
	if out.Others, err = s.others(ctx, n, row); err != nil {
		return out, err
	}
	err = out.value(n, b.UsualCPC())
	return out, err
}

// others are what those say of an idea's searches who were asked beside.
func (s *Researcher) others(ctx context.Context, n niches.Niche, row store.Idea) (out []Other, err error) {
	list, err := s.asker.OtherFigures(ctx, row.Phrase, n.Locale())
	for _, a := range list {
		sum, ok := demand.Summarise(a.Value)
		if !ok || a.Source == row.DemandSource {
			continue
		}
		o := Other{Source: a.Source, Searches: sum}
		if row.Searches != nil && !row.Under && !sum.Under {
			o.Apart = demand.Apart(sum.Average, *row.Searches)
		}
		out = append(out, o)
	}
	return out, err
}

// beside is what takes clicks beside the results.
func (ev Evidence) beside() worth.Beside {
	return worth.Beside{Ads: ev.Results.Ads, AnswerBox: ev.Results.AnswerBox, ShoppingRow: ev.Results.ShoppingRow}
}

// value fills in what an idea could bring.
func (st *Story) value(n niches.Niche, usual int64) (err error) {
	c := intent.Commerce{CPC: -1, Usual: usual, Shares: intent.FromWords(st.Idea.Phrase, n.Language).Shares}
	row := st.Idea.Row
	if row.CPCMicros != nil && row.Currency == n.Currency {
		c.CPC = *row.CPCMicros
	}
	var beside worth.Beside
	var chances []float64
	if ev := st.Evidence; ev != nil {
		st.Advice = ev.Reading.Article()
		c.Shares, c.Looked, c.Ads, c.Shopping = ev.Intent.Shares, true, ev.Results.Ads, ev.Results.ShoppingRow
		c.Results = len(ev.Reading.Ten())
		c.Sell = ev.Reading.Serve[intent.Compare] + ev.Reading.Serve[intent.Buy]
		beside = ev.beside()
		chances = ev.Chances()
	}
	st.Commercial, st.Ceiling = c.Score(), -1
	if row.Searches == nil || row.Under {
		return nil
	}
	searches := float64(*row.Searches)
	if row.CPCMicros != nil {
		st.Ceiling = worth.Ceiling(searches, worth.Micros(*row.CPCMicros))
	}
	if st.First, err = worth.Expected(searches, []float64{1}, worth.OfClicks,
		worth.Beside{}); err == nil && chances != nil {
		st.Visits, err = worth.Expected(searches, chances, st.Evidence.model.Curve, beside)
	}
	return err
}

// checkSuppose refuses what nobody can suppose.
func checkSuppose(x ideas.Suppose) error {
	switch {
	case x.Standing != nil && !(*x.Standing >= 0 && *x.Standing <= 100):
		return input.Bad("standing", "A standing is between 0 and 100.")
	case x.Links != nil && (*x.Links < 0 || *x.Links > difficulty.MostLinks):
		return input.Bad("links", "Solid links are between 0 and %d.", difficulty.MostLinks)
	case x.Fit != nil && !(*x.Fit >= 0 && *x.Fit <= 100):
		return input.Bad("fit", "A fit is between 0 and 100.")
	case x.Tilt != nil && !(math.Abs(*x.Tilt) <= difficulty.MostTilt):
		return input.Bad("tilt", "The engine can be tilted from −1 to 1.")
	}
	return nil
}

// suppose judges anew by what is supposed.
func (s *Researcher) suppose(ctx context.Context, n niches.Niche, idea *store.Idea, ev *Evidence,
	x ideas.Suppose) error {
	m, err := s.niches.Model(ctx, n)
	if err == nil {
		idea.MyStanding, idea.MyLinks, idea.MyFit, idea.MyTilt = x.Standing, x.Links, x.Fit, x.Tilt
		ev.decide(m, n, *idea, ev.SiteStanding)
	}
	return err
}

// Suppose changes what one idea's verdict supposes of my page, and reckons it anew
// from the evidence. Nobody is asked.
func (s *Researcher) Suppose(ctx context.Context, n niches.Niche, id uint, x ideas.Suppose) error {
	if err := checkSuppose(x); err != nil {
		return err
	}
	idea, err := s.store.Idea(ctx, n.ID, id)
	if err != nil {
		return err
	}
	ev, err := s.Evidence(ctx, n, id)
	if errors.Is(err, ErrUnreadable) {
		return input.Bad("standing", "Nothing can be calculated: %s.", Unreadable(err))
	}
	if err != nil {
		return err
	}
	if err := s.suppose(ctx, n, &idea, &ev, x); err != nil {
		return err
	}
	j, err := ev.judgement(n, idea)
	if err != nil {
		return err
	}
	j.Supposed = true
	return s.store.SaveJudgements(ctx, n.ID, j)
}
