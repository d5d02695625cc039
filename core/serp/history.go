package serp

import (
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"sort"
	"strings"
	"time"
)

// History is what the results of one phrase were, snapshot by snapshot, as small as it can be kept: pages once, each
// snapshot the places of these.
type History struct {
	Pages []HistoryPage `json:"pages"`
	Weeks []HistoryWeek `json:"weeks"` // by day
}

// HistoryPage is a page that stood among the ten once.
type HistoryPage struct {
	URL   string   `json:"url"`
	Title string   `json:"title"`
	Type  PageType `json:"type,omitempty"` // "" was never looked at
}

// HistoryWeek is the first page of one day on one engine.
type HistoryWeek struct {
	Day    string `json:"day"` // 2006-01-02
	Engine string `json:"engine,omitempty"`
	Places []int  `json:"places"` // which page stands first, second …, by its number in Pages
}

// MostWeeks is how many snapshots are kept: weekly ones of five years.
const MostWeeks = 260

// Shown is a page as a snapshot shows it.
type Shown struct {
	URL, Title string
	Type       PageType
}

// ReadHistory reads a history as it is kept, and refuses one that is none.
func ReadHistory(body string) (h History, err error) {
	if body == "" {
		return h, nil
	}
	if err := json.Unmarshal([]byte(body), &h); err != nil {
		return History{}, err
	}
	if len(h.Weeks) > MostWeeks || len(h.Pages) > MostWeeks*FirstPage {
		return History{}, fmt.Errorf("it has more than %d snapshots, or more pages than these can hold", MostWeeks)
	}
	last := ""
	for _, w := range h.Weeks {
		if _, err := time.Parse(time.DateOnly, w.Day); err != nil || w.Day < last || len(w.Places) > FirstPage {
			return History{}, errors.New("a snapshot has no day, no order, or more than a page")
		}
		last = w.Day
		for _, p := range w.Places {
			if p < 0 || p >= len(h.Pages) {
				return History{}, errors.New("a snapshot names a page that is not there")
			}
		}
	}
	return h, nil
}

// CheckHistory refuses what is no history.
func CheckHistory(body string) error {
	_, err := ReadHistory(body)
	return err
}

// Body is the history as it is kept.
func (h History) Body() (string, error) {
	body, err := json.Marshal(h)
	return string(body), err
}

// With is the history with one more snapshot; one of the same day and engine takes the place of the one before. What
// stands twice on a page counts where it stands first.
func (h History) With(day time.Time, engine string, shown []Shown) History {
	at := day.UTC().Format(time.DateOnly)
	number := map[string]int{}
	pages := append([]HistoryPage(nil), h.Pages...)
	for i, p := range pages {
		number[p.URL] = i
	}
	week := HistoryWeek{Day: at, Engine: engine}
	on := map[int]bool{}
	for _, s := range shown {
		i, known := number[s.URL]
		if !known {
			i = len(pages)
			number[s.URL] = i
			pages = append(pages, HistoryPage{URL: s.URL})
		}
		if s.Title != "" {
			pages[i].Title = s.Title
		}
		if s.Type != "" && s.Type != Unknown {
			pages[i].Type = s.Type
		}
		if !on[i] && len(week.Places) < FirstPage {
			on[i] = true
			week.Places = append(week.Places, i)
		}
	}
	var weeks []HistoryWeek
	for _, w := range h.Weeks {
		if w.Day != at || w.Engine != engine {
			weeks = append(weeks, w)
		}
	}
	weeks = append(weeks, week)
	sort.SliceStable(weeks, func(i, j int) bool { return weeks[i].Day < weeks[j].Day })
	return History{pages, weeks[max(0, len(weeks)-MostWeeks):]}.tidied()
}

// tidied is the history without pages that no snapshot names.
func (h History) tidied() (out History) {
	to := map[int]int{}
	for _, w := range h.Weeks {
		places := make([]int, len(w.Places))
		for i, p := range w.Places {
			n, known := to[p]
			if !known {
				n = len(out.Pages)
				to[p] = n
				out.Pages = append(out.Pages, h.Pages[p])
			}
			places[i] = n
		}
		w.Places = places
		out.Weeks = append(out.Weeks, w)
	}
	return out
}

// On is the history on the engine that was asked last: places of two engines are not compared.
func (h History) On() History {
	if len(h.Weeks) == 0 {
		return h
	}
	engine := h.Weeks[len(h.Weeks)-1].Engine
	out := History{Pages: h.Pages}
	for _, w := range h.Weeks {
		if w.Engine == engine {
			out.Weeks = append(out.Weeks, w)
		}
	}
	return out.tidied()
}

// Near reports whether there is a snapshot within so many days of one.
func (h History) Near(day time.Time, within int) bool {
	for _, w := range h.Weeks {
		at, err := time.Parse(time.DateOnly, w.Day)
		if gap := at.Sub(day).Abs(); err == nil && gap <= time.Duration(within)*24*time.Hour {
			return true
		}
	}
	return false
}

// Snapshots are the history as steadiness is told from.
func (h History) Snapshots() (out []Snapshot) {
	for _, w := range h.Weeks {
		var s Snapshot
		for _, p := range w.Places {
			s.Pages = append(s.Pages, h.Pages[p].URL)
			s.Types = append(s.Types, h.Pages[p].Type)
		}
		out = append(out, s)
	}
	return out
}

// PlaceLine is where a page stood, snapshot by snapshot.
type PlaceLine struct {
	HistoryPage
	Places []int // from 1; 0 not among the ten
	Weeks  int   // in how many snapshots it stood there
	Best   int
	Now    int // in the last; 0 not there
}

// Lines are the pages that stood among the ten: those that do now by place, then former ones, longest there first.
func (h History) Lines() []PlaceLine {
	out := make([]PlaceLine, len(h.Pages))
	for i, p := range h.Pages {
		out[i] = PlaceLine{HistoryPage: p, Places: make([]int, len(h.Weeks))}
	}
	for w, week := range h.Weeks {
		for at, p := range week.Places {
			l := &out[p]
			l.Places[w], l.Weeks = at+1, l.Weeks+1
			if l.Best == 0 || at+1 < l.Best {
				l.Best = at + 1
			}
			if w == len(h.Weeks)-1 {
				l.Now = at + 1
			}
		}
	}
	sort.SliceStable(out, func(i, j int) bool {
		a, b := out[i], out[j]
		switch {
		case (a.Now > 0) != (b.Now > 0):
			return a.Now > 0
		case a.Now != b.Now:
			return a.Now < b.Now
		}
		return a.Weeks > b.Weeks
	})
	return out
}

// FrontRow is how many of the first places are watched for change.
const FrontRow = 5

// Course is how results went over their snapshots.
type Course struct {
	Steadiness
	Snapshots int
	Days      int // from the first to the last
	Changed   int // from how many snapshots to the next one of the first five came or went
	Stayed    int // pages that stood among the ten in each
	Came      []TypeCount
}

// TypeCount is how many pages of a type came or went.
type TypeCount struct {
	Type  PageType
	Count int
}

// fewestApart is how many days lie between snapshots that are compared: who looks twice in a week finds results alike.
const fewestApart = 7

// Spaced is the history without snapshots that follow another within a week, from the latest on backwards.
func (h History) Spaced() (out History) {
	out.Pages = h.Pages
	var next time.Time
	for i := len(h.Weeks) - 1; i >= 0; i-- {
		day, _ := time.Parse(time.DateOnly, h.Weeks[i].Day)
		if next.IsZero() || next.Sub(day) >= fewestApart*24*time.Hour {
			next, out.Weeks = day, append(out.Weeks, h.Weeks[i])
		}
	}
	slices.Reverse(out.Weeks)
	return out.tidied()
}

// CourseOf tells how results went, on the engine that was asked last, from snapshots that are a week apart or more.
func CourseOf(h History) (c Course) {
	h = h.On().Spaced()
	list := h.Snapshots()
	if c.Snapshots = len(list); c.Snapshots == 0 {
		return c
	}
	c.Steadiness = SteadinessOf(list)
	first, _ := time.Parse(time.DateOnly, h.Weeks[0].Day)
	last, _ := time.Parse(time.DateOnly, h.Weeks[len(h.Weeks)-1].Day)
	c.Days = int(last.Sub(first).Hours() / 24)
	count := map[PageType]int{}
	for i := 1; i < len(h.Weeks); i++ {
		was, is := h.Weeks[i-1].Places, h.Weeks[i].Places
		if len(gone(was[:min(FrontRow, len(was))], is[:min(FrontRow, len(is))])) > 0 {
			c.Changed++
		}
		for _, p := range append(gone(was, is), gone(is, was)...) {
			count[h.Pages[p].Type]++
		}
	}
	for _, l := range h.Lines() {
		if l.Weeks == c.Snapshots {
			c.Stayed++
		}
	}
	for t, n := range count {
		if t != "" {
			c.Came = append(c.Came, TypeCount{t, n})
		}
	}
	sort.Slice(c.Came, func(i, j int) bool {
		if c.Came[i].Count != c.Came[j].Count {
			return c.Came[i].Count > c.Came[j].Count
		}
		return c.Came[i].Type < c.Came[j].Type
	})
	return c
}

// Says is "32 articles".
func (t TypeCount) Says() string {
	if t.Count == 1 {
		return "1 " + string(t.Type)
	}
	return fmt.Sprintf("%d %s", t.Count, pluralOf(t.Type))
}

// gone are the pages of one list that another has not.
func gone(from, in []int) (out []int) {
	there := map[int]bool{}
	for _, p := range in {
		there[p] = true
	}
	for _, p := range from {
		if !there[p] {
			out = append(out, p)
		}
	}
	return out
}

// Says is how results went in one sentence or two, and what that means for somebody who wants to get in.
func (c Course) Says() string {
	switch {
	case c.Snapshots == 0:
		return "No snapshot is kept yet."
	case !c.Known:
		return "One snapshot so far. How steady these results are shows once there is another, a week apart."
	}
	span := spanOf(c.Days)
	front := fmt.Sprintf("The first five changed %d of %d times over %s", c.Changed, c.Snapshots-1, span)
	switch {
	case c.Changed == 0:
		front = fmt.Sprintf("The first five have been the same over %s", span)
	case c.Changed == c.Snapshots-1 && c.Snapshots > 2:
		front = fmt.Sprintf("The first five have changed at each look over %s", span)
	}
	stayed := fmt.Sprintf("%d of the ten stood there all the time", c.Stayed)
	if c.Stayed == 0 {
		stayed = "none of the ten stood there all the time"
	}
	switch {
	case c.Steady && 2*c.Changed < c.Snapshots-1:
		return fmt.Sprintf("%s, and %s: these results are steady.", front, stayed)
	case c.Steady:
		return fmt.Sprintf("%s, and %s: little changes from one look to the next, yet new pages get in.", front, stayed)
	}
	says := front + ", and what comes and goes is " + c.movers()
	if len(c.Swings) > 1 {
		return says + ": the words seem to mean two things."
	}
	return says + ": the engine is not satisfied yet, or the words mean two things."
}

// movers names the types of which most pages come and go.
func (c Course) movers() string {
	all := 0
	for _, t := range c.Came {
		all += t.Count
	}
	if all == 0 {
		return "of kinds not known"
	}
	var names []string
	sum := 0
	for _, t := range c.Came {
		if 2*sum >= all && len(names) > 0 || len(names) == 2 {
			break
		}
		names = append(names, pluralOf(t.Type))
		sum += t.Count
	}
	if 2*sum < all {
		return "pages of all kinds"
	}
	if len(names) == 1 {
		return "mostly " + names[0]
	}
	return "mostly " + strings.Join(names, " and ")
}

// pluralOf is a type of page, several of it.
func pluralOf(t PageType) string {
	switch t {
	case Encyclopedia:
		return "encyclopedia entries"
	case Official:
		return "official pages"
	case Shelf:
		return "shop shelves"
	case HowTo:
		return "how-to pages"
	}
	return string(t) + "s"
}

// spanOf is so many days in words.
func spanOf(days int) string {
	switch {
	case days >= 340:
		return "a year"
	case days >= 60:
		return fmt.Sprintf("%d months", (days+15)/30)
	case days >= 14:
		return fmt.Sprintf("%d weeks", (days+3)/7)
	case days == 1:
		return "a day"
	}
	return fmt.Sprintf("%d days", days)
}

// strongPlace is down to which place a page counts as strong in a ten, and farFall by how many places it must fall for
// that to be an opening (ours).
const (
	strongPlace = 3
	farFall     = 5
)

// Fallen is a page that stood high and fell far between the latest two snapshots of one engine.
type Fallen struct {
	URL      string
	From, To int // To is 0 where it left the first page
	Day      string
}

// Fallen are these, the highest first.
func (h History) Fallen() (out []Fallen) {
	weeks := h.On().Weeks
	if len(weeks) < 2 {
		return nil
	}
	was, is := weeks[len(weeks)-2], weeks[len(weeks)-1]
	for i, p := range was.Places[:min(strongPlace, len(was.Places))] {
		to := 1 + slices.Index(is.Places, p)
		if to == 0 || to-(i+1) >= farFall {
			out = append(out, Fallen{h.Pages[p].URL, i + 1, to, is.Day})
		}
	}
	return out
}

// Between is when the latest two snapshots of one engine were made; ok is false where there are fewer.
func (h History) Between() (was, is time.Time, ok bool) {
	weeks := h.On().Weeks
	if len(weeks) < 2 {
		return was, is, false
	}
	was, _ = time.Parse(time.DateOnly, weeks[len(weeks)-2].Day)
	is, _ = time.Parse(time.DateOnly, weeks[len(weeks)-1].Day)
	return was, is, true
}
