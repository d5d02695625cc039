package topics

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"unicode"

	"cleverniche/core/plan"
	"cleverniche/core/topic"
	"cleverniche/store"
	"cleverniche/study/input"
	"cleverniche/study/niches"
)

// Bounds of what is done by hand.
const (
	MostByHand     = 5000 // ideas at once
	MostNamed      = 120  // characters of a name
	MostSheetNote  = 2000
	MostPutAtOnce  = 500 // topics put aside at once
	MostNameInSays = 60
)

// Hands changes the topics of a niche, within one transaction.
type Hands struct {
	*store.TopicTx
	topics *Topics
	rows   map[int]*store.TopicEdit // by topic
}

// Edit does something to topics by hand. says is what is told of it when it is undone.
func (s *Grouper) Edit(ctx context.Context, n niches.Niche, says string, do func(h *Hands) error) error {
	return Retried(func() error {
		t, err := s.Of(ctx, n)
		if err != nil {
			return err
		}
		return s.store.EditTopics(ctx, n.ID, t.Revision, func() string { return says }, func(e *store.TopicTx) error {
			return do(&Hands{e, t, map[int]*store.TopicEdit{}})
		})
	})
}

// mostRetries is how often a change is decided on anew because somebody else was quicker.
const mostRetries = 8

// Retried decides on a change anew while somebody else changes the topics between that and its being made.
func Retried(change func() error) (err error) {
	for range mostRetries {
		if err = change(); !errors.Is(err, store.ErrMoved) {
			return err
		}
	}
	return input.Bad("ideas", "The topics are being changed, perhaps in another tab. Try again.")
}

// EditOne changes what was decided on the topic of an idea.
func (s *Grouper) EditOne(ctx context.Context, n niches.Niche, says string, id uint,
	do func(h *Hands, one Topic, r *store.TopicEdit) error) error {
	return s.Edit(ctx, n, says, func(h *Hands) error {
		one, err := h.chosen([]uint{id})
		if err != nil {
			return err
		}
		r, err := h.row(one)
		if err != nil {
			return err
		}
		if err := do(h, one, r); err != nil {
			return err
		}
		return h.Save(r)
	})
}

// row is what was decided on a topic by hand. Where that was nothing yet, its ideas are held together
// from now on.
func (h *Hands) row(t Topic) (*store.TopicEdit, error) {
	if r := h.rows[t.At]; r != nil {
		return r, nil
	}
	if len(t.Ideas) > MostByHand {
		return nil, input.Bad("ideas", "The topic has %d ideas; you can edit topics of up to %d. Raise the number of "+
			"shared results first.", len(t.Ideas), MostByHand)
	}
	r := &store.TopicEdit{Phrase: t.Lead()}
	if t.Decided.ID != 0 {
		was, err := h.Edit(t.Decided.ID)
		if errors.Is(err, input.ErrNotFound) {
			return nil, input.Bad("ideas", "“%s” has changed since, perhaps in another tab. Look at it again.",
				input.Clip(t.Name, MostNameInSays))
		}
		if err != nil {
			return nil, err
		}
		r = &was
	} else if err := h.make(r, t.IDs()); err != nil {
		return nil, err
	}
	h.rows[t.At] = r
	return r, nil
}

// make makes a topic of ideas.
func (h *Hands) make(r *store.TopicEdit, ideas []uint) error {
	if err := h.Save(r); err != nil {
		return err
	}
	return h.Put(r.ID, ideas)
}

// chosen are the topic of ideas, which has to be one, and them.
func (h *Hands) chosen(ids []uint) (Topic, error) {
	if len(ids) == 0 {
		return Topic{}, input.Bad("ideas", "Select ideas of the topic first.")
	}
	one, err := h.topics.Of(ids[0])
	if err != nil {
		return one, err
	}
	for _, id := range ids {
		if other, err := h.topics.Of(id); err != nil || other.At != one.At {
			return one, input.Bad("ideas", "They are no longer in one topic: it has changed since, perhaps in another tab.")
		}
	}
	return one, nil
}

// Split makes a topic of some ideas of one. What stays together and what is apart is held so.
func (s *Grouper) Split(ctx context.Context, n niches.Niche, ids []uint) error {
	ids = slices.Compact(slices.Sorted(slices.Values(ids)))
	return s.Edit(ctx, n, fmt.Sprintf("Splitting off %d %s", len(ids), input.IdeasWord(len(ids))), func(h *Hands) error {
		one, err := h.chosen(ids)
		switch {
		case err != nil:
			return err
		case len(ids) == len(one.Ideas):
			return input.Bad("ideas", "That is the whole topic. Leave at least one idea in it.")
		}
		if err := h.leave(one, ids); err != nil {
			return err
		}
		return h.make(&store.TopicEdit{Phrase: leadOf(one, ids)}, ids)
	})
}

// leadOf is the phrase of the first of some ideas of a topic.
func leadOf(t Topic, ids []uint) string {
	for _, idea := range t.Ideas {
		if slices.Contains(ids, idea.ID) {
			return idea.Phrase
		}
	}
	return ""
}

// Join puts the topics of ideas together, into the first one's.
func (s *Grouper) Join(ctx context.Context, n niches.Niche, ids []uint) error {
	return s.Edit(ctx, n, "Merging topics", func(h *Hands) error {
		var list []Topic
		all := 0
		for _, id := range ids {
			one, err := h.topics.Of(id)
			if err != nil {
				return err
			}
			if !slices.ContainsFunc(list, func(o Topic) bool { return o.At == one.At }) {
				list = append(list, one)
				all += len(one.Ideas)
			}
		}
		switch {
		case len(list) < 2:
			return input.Bad("ideas", "Select two topics or more to merge.")
		case all > MostByHand:
			return input.Bad("ideas", "Together they have %d ideas; one article answers no more than %d.", all, MostByHand)
		}
		r, err := h.row(list[0])
		if err != nil {
			return err
		}
		for _, other := range list[1:] {
			if other.Decided.ID != 0 {
				if err := h.takeOver(r, other.Decided); err != nil {
					return err
				}
			}
			if err := h.Put(r.ID, other.IDs()); err != nil {
				return err
			}
		}
		return h.Save(r)
	})
}

// takeOver moves to a topic what another one has on the sheet, where it has nothing itself or the other is
// published, and takes the other one out.
func (h *Hands) takeOver(r *store.TopicEdit, other store.TopicEdit) error {
	out := plan.Published
	switch {
	case other.State == out && r.State == out:
		return input.Bad("ideas", "Two published articles cannot be merged. Remove one from the plan first.")
	case other.State == out || r.State == "": // what is out stays where it is out
		r.State, r.Place, r.Hours, r.Start, r.Deadline = other.State, other.Place, other.Hours, other.Start, other.Deadline
		r.Address, r.Published = other.Address, other.Published
	}
	if r.Note = strings.TrimSpace(r.Note + "\n" + other.Note); len([]rune(r.Note)) > MostSheetNote {
		return input.Bad("note", "Their notes are longer together than %d characters: shorten one first.", MostSheetNote)
	}
	r.Brief, r.Name = cmp.Or(r.Brief, other.Brief), cmp.Or(r.Name, other.Name)
	r.Drawn = cmp.Or(r.Drawn, other.Drawn)
	hubs, err := h.All()
	if err != nil {
		return err
	}
	for _, t := range hubs { // its spokes hang on what it became
		if t.Hub == store.HubOf(other.ID) && t.ID != r.ID {
			t.Hub = store.HubOf(r.ID)
			if err := h.Save(&t); err != nil {
				return err
			}
		}
	}
	return h.Remove(other.ID)
}

// Move puts ideas of one topic into that of another idea.
func (s *Grouper) Move(ctx context.Context, n niches.Niche, ids []uint, to uint) error {
	ids = slices.Compact(slices.Sorted(slices.Values(ids)))
	return s.Edit(ctx, n, fmt.Sprintf("Moving %d %s", len(ids), input.IdeasWord(len(ids))), func(h *Hands) error {
		one, err := h.chosen(ids)
		if err != nil {
			return err
		}
		target, err := h.topics.Of(to)
		switch {
		case err != nil:
			return input.Bad("to", "That topic is gone. Reload the page.")
		case target.At == one.At:
			return input.Bad("to", "They are in that topic already.")
		case len(ids) == len(one.Ideas) && one.State() != plan.None:
			return input.Bad("ideas", "The topic would be empty, and it is in the plan. Merge the two instead.")
		}
		r, err := h.row(target)
		if err != nil {
			return err
		}
		if err := h.leave(one, ids); err != nil {
			return err
		}
		return h.Put(r.ID, ids)
	})
}

// leave holds what is left of a topic together, so that it is apart from what leaves it; a topic that all
// leave is none any more.
func (h *Hands) leave(one Topic, ids []uint) error {
	if len(ids) == len(one.Ideas) {
		if one.Decided.ID == 0 {
			return nil
		}
		return h.Remove(one.Decided.ID)
	}
	r, err := h.row(one)
	if err != nil {
		return err
	}
	if slices.Contains(ids, r.LeadID) {
		if r.LeadID = 0; r.State != plan.None { // what is in the plan has a lead, whatever is searched most
			r.LeadID = slices.DeleteFunc(one.IDs(), func(id uint) bool { return slices.Contains(ids, id) })[0]
		}
	}
	if err := h.Save(r); err != nil {
		return err
	}
	return h.Put(r.ID, slices.DeleteFunc(one.IDs(), func(id uint) bool { return slices.Contains(ids, id) }))
}

// Lead makes an idea the lead of its topic.
func (s *Grouper) Lead(ctx context.Context, n niches.Niche, id uint) error {
	return s.EditOne(ctx, n, "The choice of a lead", id, func(h *Hands, one Topic, r *store.TopicEdit) error {
		r.LeadID, r.Phrase = id, leadOf(one, []uint{id})
		return h.Put(r.ID, []uint{id})
	})
}

// Name names the topic of an idea; "" is the lead's phrase again.
func (s *Grouper) Name(ctx context.Context, n niches.Niche, id uint, name string) error {
	name = OneLine(name)
	if k := len([]rune(name)); k > MostNamed {
		return input.Bad("name", "The name has %d characters, more than %d.", k, MostNamed)
	}
	return s.EditOne(ctx, n, "Naming a topic", id, func(_ *Hands, _ Topic, r *store.TopicEdit) error {
		r.Name = name
		return nil
	})
}

// OneLine is a text without what would break a line.
func OneLine(text string) string {
	return strings.Join(strings.Fields(strings.Map(func(r rune) rune {
		if unicode.IsControl(r) {
			return ' '
		}
		return r
	}, text)), " ")
}

// Release forgets what was decided by hand on the topic of an idea: it is grouped as the results say.
func (s *Grouper) Release(ctx context.Context, n niches.Niche, id uint) error {
	return s.Edit(ctx, n, "Grouping a topic by its results", func(h *Hands) error {
		one, err := h.chosen([]uint{id})
		switch {
		case err != nil:
			return err
		case one.Decided.ID == 0:
			return input.Bad("ideas", "You have not changed this topic.")
		case one.State() != plan.None:
			return input.Bad("ideas", "It is in the plan, which fixes its ideas. Remove it from the plan first.")
		}
		return h.Remove(one.Decided.ID)
	})
}

// Hub hangs the topic of an idea on that of another; with 0 on none, and with proposed as it is
// proposed.
func (s *Grouper) Hub(ctx context.Context, n niches.Niche, id, hub uint, proposed bool) error {
	return s.EditOne(ctx, n, "The choice of a hub", id, func(h *Hands, one Topic, own *store.TopicEdit) error {
		on := store.NoHub
		if proposed {
			on = store.ProposedHub
		}
		if hub != 0 && !proposed {
			other, err := h.topics.Of(hub)
			switch {
			case err != nil:
				return input.Bad("hub", "That topic is gone. Reload the page.")
			case other.At == one.At:
				return input.Bad("hub", "A topic is not its own hub.")
			case other.Hub != topic.NoHub && other.HubHand:
				return input.Bad("hub", "“%s” is a spoke. Set its hub to none first.",
					input.Clip(other.Name, MostNameInSays))
			case slices.ContainsFunc(one.Spokes, func(i int) bool { return h.topics.List[i].HubHand }):
				return input.Bad("hub", "“%s” has spokes of its own, so it cannot be one.",
					input.Clip(one.Name, MostNameInSays))
			}
			r, err := h.row(other)
			if err != nil {
				return err
			}
			on = store.HubOf(r.ID)
		}
		own.Hub = on
		return nil
	})
}

// Regroup groups other ideas of a niche, or by other shared pages.
func (s *Grouper) Regroup(ctx context.Context, n niches.Niche, scope niches.Scope, shared int) (niches.Niche, error) {
	n.Scope, n.Shared = scope, shared
	if err := n.CheckPlan(); err != nil {
		return n, err
	}
	if err := s.fix(ctx, n); err != nil {
		return n, err
	}
	return n, s.store.SetGrouping(ctx, n.ID, string(n.Scope), n.Shared)
}

// fix fixes the ideas and leads of articles that were put into the plan before plans were fixed.
func (s *Grouper) fix(ctx context.Context, n niches.Niche) error {
	open := func(h store.TopicEdit) bool { return h.State != plan.None && !fixed(h) }
	hands, _, err := s.store.Topics(ctx, n.ID)
	if err != nil || !slices.ContainsFunc(hands, open) {
		return err
	}
	before, err := s.niches.Get(ctx, n.ID)
	if err != nil {
		return err
	}
	t, err := s.Of(ctx, before)
	if err != nil || !slices.ContainsFunc(t.List, func(one Topic) bool { return open(one.Decided) }) {
		return err
	}
	return s.Edit(ctx, before, "Fixing the phrases of planned articles", func(h *Hands) error {
		for _, one := range h.topics.List {
			if open(one.Decided) {
				r, err := h.hold(one)
				if err == nil {
					err = h.Save(r)
				}
				if err != nil {
					return err
				}
			}
		}
		return nil
	})
}

// hold is what was decided on a topic, with its ideas and its lead as they are now.
func (h *Hands) hold(one Topic) (*store.TopicEdit, error) {
	r, err := h.row(one)
	if err != nil {
		return nil, err
	}
	r.LeadID, r.Phrase = one.ID, one.Lead()
	return r, h.Put(r.ID, one.IDs())
}

// leads reports whether an idea leads the article that is made of its topic: who chose a phrase by its chance writes
// for that one, not for another that is searched more and may be out of reach. A lead that was chosen before stays.
func (t Topic) leads(id uint) bool {
	return !t.LeadByHand() && slices.ContainsFunc(t.Ideas, func(i TopicIdea) bool { return i.ID == id && i.LookedUp })
}

// Aside is what was decided on the topic of an idea, or on the idea alone where it is in none. The idea leads it.
func (h *Hands) Aside(ctx context.Context, s *Grouper, n niches.Niche, id uint) (*store.TopicEdit, string, error) {
	one, err := h.topics.Of(id)
	if err == nil {
		r, err := h.hold(one)
		if err == nil && r.State == plan.None && one.leads(id) {
			i := slices.Index(one.IDs(), id)
			r.LeadID, r.Phrase = id, one.Ideas[i].Phrase
			if !one.Called() {
				return r, r.Phrase, nil
			}
		}
		return r, one.Name, err
	}
	idea, err := s.store.Idea(ctx, n.ID, id)
	if err != nil {
		return nil, "", err
	}
	r := &store.TopicEdit{Phrase: idea.Phrase, LeadID: id}
	_, placed, err := s.store.Topics(ctx, n.ID)
	if err != nil {
		return nil, "", err
	}
	if hand := placed[id]; hand != 0 {
		was, err := h.Edit(hand)
		return &was, idea.Phrase, err
	}
	return r, idea.Phrase, h.make(r, []uint{id})
}
