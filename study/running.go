package study

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"cleverniche/core/links"
	"cleverniche/core/plan"
	"cleverniche/store"
)

// PutAside puts the topics of ideas on the sheet, to write, behind what is there. It returns how many
// were not there yet. Ideas that are in no topic are grouped alone.
func (s *Study) PutAside(ctx context.Context, n Niche, ids []uint) (names []string, err error) {
	if len(ids) > mostPutAtOnce {
		return nil, badInput("ideas", "More than %d topics are not put aside at once.", mostPutAtOnce)
	}
	says := fmt.Sprintf("Putting aside %d topics", len(ids))
	if len(ids) == 1 {
		says = "Putting a topic aside"
	}
	err = s.edit(ctx, n, says, func(h *hands) error {
		all, err := h.All()
		if err != nil {
			return err
		}
		last := 0.0
		for _, t := range all {
			if t.State != "" {
				last = max(last, t.Place)
			}
		}
		for _, id := range ids {
			r, name, err := h.aside(ctx, s, n, id)
			if err != nil {
				return err
			}
			if r.State != "" {
				continue
			}
			last++
			r.State, r.Place = string(plan.ToWrite), last
			if err := h.Save(r); err != nil {
				return err
			}
			names = append(names, name)
		}
		if len(names) == 0 {
			they := map[bool]string{true: "It is", false: "They are"}[len(ids) == 1]
			return badInput("ideas", "%s on the sheet already.", they)
		}
		return nil
	})
	return names, err
}

// aside is what was decided on the topic of an idea, or on the idea alone where it is in none.
func (h *hands) aside(ctx context.Context, s *Study, n Niche, id uint) (*store.Topic, string, error) {
	one, err := h.topics.Of(id)
	if err == nil {
		r, err := h.row(one)
		return r, one.Name, err
	}
	idea, err := s.store.Idea(ctx, n.ID, id)
	if err != nil {
		return nil, "", err
	}
	r := &store.Topic{Phrase: idea.Phrase}
	_, placed, err := s.store.Topics(ctx, n.ID)
	if err != nil {
		return nil, "", err
	}
	if hand := placed[id]; hand != 0 {
		was, err := h.Topic(hand)
		return &was, idea.Phrase, err
	}
	return r, idea.Phrase, h.make(r, []uint{id})
}

// SheetChange is what a user changes of an article on the sheet; nil stays as it is. Days are written
// 2006-01-02, "" is none.
type SheetChange struct {
	State, Start, Deadline, Address, Published, Note *string
	Hours                                            *string // a number; "" is what its kind takes
	Before                                           *uint   // it moves before another one on the sheet; 0 is the end
}

// says tells what a change is of.
func (c SheetChange) says() string {
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

// ChangeSheet changes an article on the sheet.
func (s *Study) ChangeSheet(ctx context.Context, n Niche, id uint, c SheetChange) error {
	says := ""
	return s.store.EditTopics(ctx, n.ID, func() string { return says }, func(e *store.TopicEdit) error {
		r, err := e.Topic(id)
		if errors.Is(err, ErrNotFound) {
			return badInput("article", "That article is not on the sheet any more, perhaps by another tab. Look at it again.")
		}
		if err != nil {
			return err
		}
		if err := s.apply(n, &r, c); err != nil {
			return err
		}
		name := "“" + clip(cmp.Or(r.Name, r.Phrase), mostNameInSays) + "”"
		if says = c.says() + " of " + name; r.State == string(plan.None) {
			says = "Taking " + name + " off the sheet"
		}
		if c.Before != nil {
			if r.Place, err = placeBefore(e, r.ID, *c.Before); err != nil {
				return err
			}
		}
		return e.Save(&r)
	})
}

// apply checks a change, and makes it.
func (s *Study) apply(n Niche, r *store.Topic, c SheetChange) error {
	for _, d := range []struct {
		field, says string
		to          *string
		from        *string
	}{{"start", "begin writing", &r.Start, c.Start}, {"deadline", "deadline", &r.Deadline, c.Deadline},
		{"published", "day of publishing", &r.Published, c.Published}} {
		if d.from == nil {
			continue
		}
		day, err := readDay(*d.from)
		if err != nil {
			return badInput(d.field, "“%s” is no day, such as 2027-03-31.", clip(*d.from, 40))
		}
		if *d.to = ""; !day.IsZero() {
			*d.to = day.Format(time.DateOnly)
		}
	}
	if c.Hours != nil {
		r.Hours = 0
		if text := strings.TrimSpace(*c.Hours); text != "" {
			h, err := strconv.Atoi(text)
			if err != nil || h < 1 || h > plan.MostArticleHours {
				return badInput("hours", "An article takes 1 to %d hours.", plan.MostArticleHours)
			}
			r.Hours = h
		}
	}
	if c.Note != nil {
		r.Note = strings.TrimSpace(strings.ReplaceAll(*c.Note, "\r\n", "\n"))
		if k := len([]rune(r.Note)); k > MostSheetNote {
			return badInput("note", "The note has %d characters, more than %d.", k, MostSheetNote)
		}
	}
	if c.Address != nil {
		address, err := s.ownAddress(n, *c.Address)
		if err != nil {
			return err
		}
		r.Address = address
	}
	if c.State != nil {
		if !slices.Contains(plan.States, plan.State(*c.State)) {
			return badInput("state", "There is no such state.")
		}
		r.State = *c.State
	}
	if r.State == string(plan.Published) {
		today := plan.Day(s.store.Now())
		if r.Published == "" {
			r.Published = today.Format(time.DateOnly)
		}
		if day, _ := readDay(r.Published); day.After(today) {
			return badInput("published", "%s is still to come: it is published from then on.", r.Published)
		}
		if r.Address == "" {
			return badInput("address", "Say where it is published: the address of the page on your site.")
		}
	}
	return nil
}

// Bounds of days: what a calendar shows.
const (
	firstYear = 2000
	lastYear  = 2100
)

func readDay(text string) (time.Time, error) {
	if text = strings.TrimSpace(text); text == "" {
		return time.Time{}, nil
	}
	day, err := time.Parse(time.DateOnly, text)
	if err == nil && (day.Year() < firstYear || day.Year() > lastYear) {
		err = fmt.Errorf("%d is too far away", day.Year())
	}
	return day, err
}

// MostAddress is the longest address of a page, in bytes.
const MostAddress = 2000

// ownAddress reads the address of a page on the niche's own site.
func (s *Study) ownAddress(n Niche, text string) (string, error) {
	text = strings.TrimSpace(text)
	if text == "" {
		return "", nil
	}
	if !strings.Contains(text, "://") {
		text = "https://" + text
	}
	u, err := url.Parse(text)
	switch {
	case err != nil || u.Host == "" || u.Scheme != "http" && u.Scheme != "https" || len(text) > MostAddress:
		return "", badInput("address", "“%s” is no address of a page.", clip(text, 60))
	case n.OwnSite == "":
		return "", badInput("address", "Say in the settings which site is yours first.")
	case !s.isOwn(n, text):
		return "", badInput("address", "“%s” is not a page of %s.", clip(text, 60), n.OwnSite)
	}
	return u.String(), nil
}

// isOwn reports whether an address is of the niche's own site.
func (s *Study) isOwn(n Niche, address string) bool {
	return n.OwnSite != "" && s.suffixes.Site(links.Host(address)) == n.OwnSite
}

// placeBefore is a place on the sheet before another article, or at the end.
func placeBefore(e *store.TopicEdit, id, before uint) (float64, error) {
	all, err := e.All()
	if err != nil {
		return 0, err
	}
	all = slices.DeleteFunc(all, func(t store.Topic) bool { return t.State == "" || t.ID == id })
	slices.SortStableFunc(all, byPlace)
	if len(all) == 0 {
		return 1, nil
	}
	at := slices.IndexFunc(all, func(t store.Topic) bool { return t.ID == before })
	switch {
	case before == 0:
		return all[len(all)-1].Place + 1, nil
	case at < 0:
		return 0, badInput("before", "That article is not on the sheet any more.")
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

func byPlace(a, b store.Topic) int {
	switch {
	case a.Place != b.Place:
		return map[bool]int{true: -1, false: 1}[a.Place < b.Place]
	}
	return int(a.ID) - int(b.ID)
}

// TakeOff takes an article off the sheet. What was decided on its ideas stays.
func (s *Study) TakeOff(ctx context.Context, n Niche, id uint) error {
	none := string(plan.None)
	return s.ChangeSheet(ctx, n, id, SheetChange{State: &none})
}
