package study

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"unicode"

	"cleverniche/core/plan"
	"cleverniche/core/topic"
	"cleverniche/store"
)

// Bounds of what is done by hand.
const (
	MostByHand     = 5000 // ideas at once
	MostNamed      = 120  // characters of a name
	MostSheetNote  = 2000
	mostPutAtOnce  = 500 // topics put aside at once
	mostNameInSays = 60
)

// hands changes the topics of a niche, within one transaction.
type hands struct {
	*store.TopicEdit
	topics *Topics
	rows   map[int]*store.Topic // by topic
}

// edit does something to topics by hand. says is what is told of it when it is undone.
func (s *Study) edit(ctx context.Context, n Niche, says string, do func(h *hands) error) error {
	t, err := s.Topics(ctx, n)
	if err != nil {
		return err
	}
	return s.store.EditTopics(ctx, n.ID, func() string { return says }, func(e *store.TopicEdit) error {
		return do(&hands{e, t, map[int]*store.Topic{}})
	})
}

// editOne changes what was decided on the topic of an idea.
func (s *Study) editOne(ctx context.Context, n Niche, says string, id uint,
	do func(h *hands, one Topic, r *store.Topic) error) error {
	return s.edit(ctx, n, says, func(h *hands) error {
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
func (h *hands) row(t Topic) (*store.Topic, error) {
	if r := h.rows[t.At]; r != nil {
		return r, nil
	}
	if len(t.Ideas) > MostByHand {
		return nil, badInput("ideas", "The topic has %d ideas; by hand, no more than %d are held together. Ask for more "+
			"shared pages first.", len(t.Ideas), MostByHand)
	}
	r := &store.Topic{Phrase: t.Lead()}
	if t.hand.ID != 0 {
		was, err := h.Topic(t.hand.ID)
		if errors.Is(err, ErrNotFound) {
			return nil, badInput("ideas", "“%s” was changed meanwhile, perhaps in another tab. Look at it again.",
				clip(t.Name, mostNameInSays))
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
func (h *hands) make(r *store.Topic, ideas []uint) error {
	if err := h.Save(r); err != nil {
		return err
	}
	return h.Put(r.ID, ideas)
}

// chosen are the topic of ideas, which has to be one, and them.
func (h *hands) chosen(ids []uint) (Topic, error) {
	if len(ids) == 0 {
		return Topic{}, badInput("ideas", "Choose ideas of the topic first.")
	}
	one, err := h.topics.Of(ids[0])
	if err != nil {
		return one, err
	}
	for _, id := range ids {
		if other, err := h.topics.Of(id); err != nil || other.At != one.At {
			return one, badInput("ideas", "They are not of one topic any more: it was changed meanwhile.")
		}
	}
	return one, nil
}

// Split makes a topic of some ideas of one. What stays together and what is apart is held so.
func (s *Study) Split(ctx context.Context, n Niche, ids []uint) error {
	ids = slices.Compact(slices.Sorted(slices.Values(ids)))
	return s.edit(ctx, n, fmt.Sprintf("Splitting off %d %s", len(ids), ideasWord(len(ids))), func(h *hands) error {
		one, err := h.chosen(ids)
		switch {
		case err != nil:
			return err
		case len(ids) == len(one.Ideas):
			return badInput("ideas", "That is all of the topic: leave something in it.")
		}
		if err := h.leave(one, ids); err != nil {
			return err
		}
		return h.make(&store.Topic{Phrase: leadOf(one, ids)}, ids)
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
func (s *Study) Join(ctx context.Context, n Niche, ids []uint) error {
	return s.edit(ctx, n, "Joining topics", func(h *hands) error {
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
			return badInput("ideas", "Choose two topics or more to join.")
		case all > MostByHand:
			return badInput("ideas", "Together they have %d ideas; one article answers no more than %d.", all, MostByHand)
		}
		r, err := h.row(list[0])
		if err != nil {
			return err
		}
		for _, other := range list[1:] {
			if other.hand.ID != 0 {
				if err := h.takeOver(r, other.hand); err != nil {
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
func (h *hands) takeOver(r *store.Topic, other store.Topic) error {
	out := string(plan.Published)
	switch {
	case other.State == out && r.State == out:
		return badInput("ideas", "Two published articles are not joined: take one of them off the sheet first.")
	case other.State == out || r.State == "": // what is out stays where it is out
		r.State, r.Place, r.Hours, r.Start, r.Deadline = other.State, other.Place, other.Hours, other.Start, other.Deadline
		r.Address, r.Published = other.Address, other.Published
	}
	if r.Note = strings.TrimSpace(r.Note + "\n" + other.Note); len([]rune(r.Note)) > MostSheetNote {
		return badInput("note", "Their notes are longer together than %d characters: shorten one first.", MostSheetNote)
	}
	r.Brief, r.Name = cmp.Or(r.Brief, other.Brief), cmp.Or(r.Name, other.Name)
	hubs, err := h.All()
	if err != nil {
		return err
	}
	for _, t := range hubs { // its spokes hang on what it became
		if t.Hub == strconv.Itoa(int(other.ID)) && t.ID != r.ID {
			t.Hub = strconv.Itoa(int(r.ID))
			if err := h.Save(&t); err != nil {
				return err
			}
		}
	}
	return h.Remove(other.ID)
}

// Move puts ideas of one topic into that of another idea.
func (s *Study) Move(ctx context.Context, n Niche, ids []uint, to uint) error {
	ids = slices.Compact(slices.Sorted(slices.Values(ids)))
	return s.edit(ctx, n, fmt.Sprintf("Moving %d %s", len(ids), ideasWord(len(ids))), func(h *hands) error {
		one, err := h.chosen(ids)
		if err != nil {
			return err
		}
		target, err := h.topics.Of(to)
		switch {
		case err != nil:
			return badInput("to", "There is no such topic any more.")
		case target.At == one.At:
			return badInput("to", "They are in that topic already.")
		case len(ids) == len(one.Ideas) && one.State() != plan.None:
			return badInput("ideas", "The topic would be empty, and it is on the sheet. Join the two instead.")
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
func (h *hands) leave(one Topic, ids []uint) error {
	if len(ids) == len(one.Ideas) {
		if one.hand.ID == 0 {
			return nil
		}
		return h.Remove(one.hand.ID)
	}
	r, err := h.row(one)
	if err != nil {
		return err
	}
	if slices.Contains(ids, r.LeadID) {
		r.LeadID = 0
	}
	if err := h.Save(r); err != nil {
		return err
	}
	return h.Put(r.ID, slices.DeleteFunc(one.IDs(), func(id uint) bool { return slices.Contains(ids, id) }))
}

// Lead makes an idea the lead of its topic.
func (s *Study) Lead(ctx context.Context, n Niche, id uint) error {
	return s.editOne(ctx, n, "The choice of a lead", id, func(h *hands, one Topic, r *store.Topic) error {
		r.LeadID, r.Phrase = id, leadOf(one, []uint{id})
		return h.Put(r.ID, []uint{id})
	})
}

// Name names the topic of an idea; "" is the lead's phrase again.
func (s *Study) Name(ctx context.Context, n Niche, id uint, name string) error {
	name = oneLine(name)
	if k := len([]rune(name)); k > MostNamed {
		return badInput("name", "The name has %d characters, more than %d.", k, MostNamed)
	}
	return s.editOne(ctx, n, "Naming a topic", id, func(_ *hands, _ Topic, r *store.Topic) error {
		r.Name = name
		return nil
	})
}

func oneLine(text string) string {
	return strings.Join(strings.Fields(strings.Map(func(r rune) rune {
		if unicode.IsControl(r) {
			return ' '
		}
		return r
	}, text)), " ")
}

// Release forgets what was decided by hand on the topic of an idea: it is grouped as the results say.
func (s *Study) Release(ctx context.Context, n Niche, id uint) error {
	return s.edit(ctx, n, "Grouping a topic as its results say", func(h *hands) error {
		one, err := h.chosen([]uint{id})
		switch {
		case err != nil:
			return err
		case one.hand.ID == 0:
			return badInput("ideas", "Nothing was decided on it by hand.")
		case one.State() != plan.None:
			return badInput("ideas", "It is on the sheet, which holds its ideas together. Take it off first.")
		}
		return h.Remove(one.hand.ID)
	})
}

// Hub hangs the topic of an idea on that of another; with 0 on none, and with proposed as it is
// proposed.
func (s *Study) Hub(ctx context.Context, n Niche, id, hub uint, proposed bool) error {
	return s.editOne(ctx, n, "The choice of a hub", id, func(h *hands, one Topic, own *store.Topic) error {
		on := map[bool]string{true: "", false: noHub}[proposed]
		if hub != 0 && !proposed {
			other, err := h.topics.Of(hub)
			switch {
			case err != nil:
				return badInput("hub", "There is no such topic any more.")
			case other.At == one.At:
				return badInput("hub", "A topic is not its own hub.")
			case other.Hub != topic.NoHub && other.HubHand:
				return badInput("hub", "“%s” hangs on a hub itself. Hang it on none first.", clip(other.Name, mostNameInSays))
			case slices.ContainsFunc(one.Spokes, func(i int) bool { return h.topics.List[i].HubHand }):
				return badInput("hub", "“%s” has spokes of its own, so it hangs on none.", clip(one.Name, mostNameInSays))
			}
			r, err := h.row(other)
			if err != nil {
				return err
			}
			on = strconv.Itoa(int(r.ID))
		}
		own.Hub = on
		return nil
	})
}

// Regroup groups other ideas of a niche, or by other shared pages.
func (s *Study) Regroup(ctx context.Context, n Niche, scope Scope, shared int) (Niche, error) {
	n.Scope, n.Shared = scope, shared
	if err := n.checkPlan(); err != nil {
		return n, err
	}
	return n, s.store.SetGrouping(ctx, n.ID, string(n.Scope), n.Shared)
}
