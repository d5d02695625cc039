package articles

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"cleverniche/core/plan"
	"cleverniche/store"
	"cleverniche/study/input"
	"cleverniche/study/niches"
	"cleverniche/study/topics"
)

// Add puts the topics of ideas on the sheet, to write, behind what is there. It returns how many
// were not there yet. Ideas that are in no topic are grouped alone.
func (s *Planner) Add(ctx context.Context, n niches.Niche, ids []uint) (names []string, err error) {
	if len(ids) > topics.MostPutAtOnce {
		return nil, input.Bad("ideas", "At most %d articles are added at once.", topics.MostPutAtOnce)
	}
	says := fmt.Sprintf("Adding %d articles to the plan", len(ids))
	if len(ids) == 1 {
		says = "Adding an article to the plan"
	}
	err = s.topics.Edit(ctx, n, says, func(h *topics.Hands) error {
		names = nil // it may be done anew
		all, err := h.All()
		if err != nil {
			return err
		}
		last := 0.0
		for _, t := range all {
			if t.State != plan.None {
				last = max(last, t.Place)
			}
		}
		for _, id := range ids {
			r, name, err := h.Aside(ctx, s.topics, n, id)
			if err != nil {
				return err
			}
			if r.State != plan.None {
				continue
			}
			last++
			r.State, r.Place = plan.ToWrite, last
			if err := h.Save(r); err != nil {
				return err
			}
			names = append(names, name)
		}
		if len(names) == 0 {
			if len(ids) == 1 {
				return input.Bad("ideas", "It is in your plan already.")
			}
			return input.Bad("ideas", "They are in your plan already.")
		}
		return nil
	})
	return names, err
}

// Change is what a user changes of an article on the sheet; nil stays as it is. Days are written
// 2006-01-02, "" is none.
type Change struct {
	State, Start, Deadline, Address, Published, Note *string
	Hours                                            *string // a number; "" is what its kind takes
	Before                                           *uint   // it moves before another one on the sheet; 0 is the end
	// Was is what the field that is changed was for who changes it; nil whatever it is.
	Was *string
}

// stale reports what the field that is changed is by now, where that is not what it was taken for.
func (c Change) stale(r store.TopicEdit) (now string, stale bool) {
	if c.Was == nil {
		return "", false
	}
	hours := ""
	if r.Hours > 0 {
		hours = strconv.Itoa(r.Hours)
	}
	for _, f := range []struct {
		to  *string
		now string
	}{{c.Note, r.Note}, {c.Hours, hours}, {c.Start, string(r.Start)}, {c.Deadline, string(r.Deadline)},
		{c.State, string(r.State)}} {
		if f.to != nil && f.now != strings.TrimSpace(*c.Was) && f.now != strings.TrimSpace(*f.to) {
			return f.now, true
		}
	}
	return "", false
}

// says tells what a change is of.
func (c Change) says() string {
	var of []string
	for _, f := range []struct {
		name string
		is   bool
	}{{"state", c.State != nil}, {"hours", c.Hours != nil}, {"beginning", c.Start != nil}, {"deadline", c.Deadline != nil},
		{"address", c.Address != nil}, {"note", c.Note != nil}, {"place", c.Before != nil}} {
		if f.is {
			of = append(of, f.name)
		}
	}
	return "Changing the " + strings.Join(of, " and the ")
}

// Change changes an article on the sheet.
func (s *Planner) Change(ctx context.Context, n niches.Niche, id uint, c Change) error {
	says, out := "", false
	err := s.store.EditTopics(ctx, n.ID, store.AnyRevision, func() string { return says }, func(e *store.TopicTx) error {
		r, err := e.Edit(id)
		if errors.Is(err, input.ErrNotFound) {
			return input.Bad("article",
				"That article is no longer in the plan, perhaps because of another tab. Reload the page.")
		}
		if err != nil {
			return err
		}
		if now, stale := c.stale(r); stale {
			return input.Bad("article",
				"This has changed since, perhaps in another tab, to “%s”. Yours is still in the field: "+
					"change it again to replace that.", now)
		}
		if err := s.apply(n, &r, c); err != nil {
			return err
		}
		name := "“" + input.Clip(cmp.Or(r.Name, r.Phrase), topics.MostNameInSays) + "”"
		if says = c.says() + " of " + name; r.State == plan.None {
			says = "Removing " + name + " from the plan"
		}
		if c.Before != nil {
			if r.Place, err = placeBefore(e, r.ID, *c.Before); err != nil {
				return err
			}
		}
		out = r.State == plan.Published
		return e.Save(&r)
	})
	if err == nil && out && s.Out != nil {
		_ = s.Out(ctx, n) // what is published is published
	}
	return err
}

// apply checks a change, and makes it.
func (s *Planner) apply(n niches.Niche, r *store.TopicEdit, c Change) error {
	for _, d := range []struct {
		field, says string
		to          *plan.Date
		from        *string
	}{{"start", "begin writing", &r.Start, c.Start}, {"deadline", "deadline", &r.Deadline, c.Deadline},
		{"published", "day of publishing", &r.Published, c.Published}} {
		if d.from == nil {
			continue
		}
		day, err := plan.ReadDate(*d.from)
		if err != nil {
			return input.Bad(d.field, "“%s” is not a date. Try 2027-03-31.", input.Clip(*d.from, 40))
		}
		*d.to = day
	}
	if c.Hours != nil {
		r.Hours = 0
		if text := strings.TrimSpace(*c.Hours); text != "" {
			h, err := strconv.Atoi(text)
			if err != nil || h < 1 || h > plan.MostArticleHours {
				return input.Bad("hours", "An article takes 1 to %d hours.", plan.MostArticleHours)
			}
			r.Hours = h
		}
	}
	if c.Note != nil {
		r.Note = strings.TrimSpace(strings.ReplaceAll(*c.Note, "\r\n", "\n"))
		if k := len([]rune(r.Note)); k > topics.MostSheetNote {
			return input.Bad("note", "The note has %d characters, more than %d.", k, topics.MostSheetNote)
		}
	}
	if c.Address != nil {
		address, err := s.niches.OwnAddress(n, *c.Address)
		if err != nil {
			return err
		}
		r.Address = address
	}
	if c.State != nil {
		if !slices.Contains(plan.States, plan.State(*c.State)) {
			return input.Bad("state", "That option is not available. Reload the page.")
		}
		r.State = plan.State(*c.State)
	}
	if r.State == plan.None {
		r.Drawn = "" // what is planned anew gets a new brief
	}
	if r.State == plan.Published {
		today := plan.Day(s.store.Now())
		if r.Published == "" {
			r.Published = plan.DateOf(today)
		}
		if r.Published.Time().After(today) {
			return input.Bad("published", "%s is in the future. Enter the day you published it.", r.Published)
		}
		if r.Address == "" {
			return input.Bad("address", "Enter the address of the page on your site.")
		}
	}
	return nil
}

// placeBefore is a place on the sheet before another article, or at the end.
func placeBefore(e *store.TopicTx, id, before uint) (float64, error) {
	all, err := e.All()
	if err != nil {
		return 0, err
	}
	all = slices.DeleteFunc(all, func(t store.TopicEdit) bool { return t.State == plan.None || t.ID == id })
	slices.SortStableFunc(all, byPlace)
	if len(all) == 0 {
		return 1, nil
	}
	at := slices.IndexFunc(all, func(t store.TopicEdit) bool { return t.ID == before })
	switch {
	case before == 0:
		return all[len(all)-1].Place + 1, nil
	case at < 0:
		return 0, input.Bad("before", "That article is no longer in the plan. Reload the page.")
	case at == 0:
		return all[0].Place - 1, nil
	}
	low, high := all[at-1].Place, all[at].Place
	if mid := (low + high) / 2; mid > low && mid < high {
		return mid, nil
	}
	for i := range all { // no room between them any more: all are numbered anew
		all[i].Place = float64(i + 1)
		if err := e.Save(&all[i]); err != nil {
			return 0, err
		}
	}
	return float64(at) + 0.5, nil
}

func byPlace(a, b store.TopicEdit) int {
	return cmp.Or(cmp.Compare(a.Place, b.Place), cmp.Compare(a.ID, b.ID))
}

// Remove takes an article off the sheet. What was decided on its ideas stays.
func (s *Planner) Remove(ctx context.Context, n niches.Niche, id uint) error {
	none := string(plan.None)
	return s.Change(ctx, n, id, Change{State: &none})
}
