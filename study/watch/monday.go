package watch

import (
	"cmp"
	"context"
	"fmt"
	"math"
	"strings"
	"time"

	"cleverniche/core/faults"
	"cleverniche/core/plan"
	"cleverniche/core/watch"
	"cleverniche/store"
	"cleverniche/study/articles"
	"cleverniche/study/input"
	"cleverniche/study/money"
	"cleverniche/study/niches"
)

// Task is one line of what to do this week, with its reason and where it leads.
type Task struct {
	What, Why string
	Path      string // below the niche
}

// Bounds of what is said (ours).
const (
	mostTasks  = 10
	mostOfKind = 2      // lines of one kind, so that one kind does not crowd out the others
	noticed    = 1.3    // factor by which a place must change to be said
	soon       = 28     // days until a deadline
	rushFrom   = 3 * 7  // days until the months of a season begin, from which an update comes in time
	rushTo     = 10 * 7 // and until which it is too early to say so
	stale      = 14     // days after which places are to be checked again
	within     = 20     // place down to which little may be missing
	aDay       = 24 * time.Hour
)

// Monday is what to do this week: one thing to write, pages that nobody can find, that failed their forecast or moved,
// deadlines, pages where little is missing, openings, rivals, pages in each other's way, seasons that come up, what has
// settled, new phrases, and what to ask again. The most pressing first.
func (s *Watcher) Monday(ctx context.Context, n niches.Niche, pages []Page, mine []articles.Action) (out []Task,
	err error) {
	sheet, err := s.planner.Plan(ctx, n)
	if err != nil {
		return nil, err
	}
	next := nextSteps(mine)
	now := s.store.Now()
	var write, deadlines, seasons []Task
	published := map[uint]bool{} // ideas that are leads of what is out
	for _, a := range sheet.Articles {
		switch {
		case a.Gone:
		case a.State() == plan.Published:
			published[a.ID] = true
			if t, ok := rush(a, now); ok {
				seasons = append(seasons, t)
			}
		default:
			if len(write) == 0 {
				write = append(write, toWrite(a, n.Currency))
			} else if left := int(a.Deadline.Sub(now) / aDay); !a.Deadline.IsZero() && left <= soon {
				deadlines = append(deadlines, Task{fmt.Sprintf("Finish “%s” by %s.", a.Lead(), a.Deadline.Format("2 January")),
					inDays(left), fmt.Sprintf("briefs/%d", a.ID)})
			}
		}
	}
	var failed, moved, little, crossed, settled, rose []Task
	ill, err := s.ill(ctx, n, pages)
	if err != nil {
		return nil, err
	}
	for _, one := range pages {
		path := fmt.Sprintf("watch/%d", one.ID)
		step := ""
		if one.Site == "" { // fixes are of the niche's own site
			step = next[one.Phrase]
		}
		switch by, since, is := movement(one); {
		case one.Verdict == watch.Worse && !one.Late:
			why := strings.TrimSpace(fmt.Sprintf("It ranks %s, worse than forecast. %s", rank(one.Place), step))
			failed = append(failed, Task{fmt.Sprintf("Look at “%s”.", one.Phrase), why, path})
		case is && by < 0:
			why := strings.TrimSpace(fmt.Sprintf("It fell by %d since %s and ranks %s. %s", -by, since, rank(one.Place), step))
			moved = append(moved, Task{fmt.Sprintf("Look at “%s”.", one.Phrase), why, path})
		case one.Place >= 4 && one.Place <= within && step != "":
			little = append(little, Task{step, fmt.Sprintf("“%s” ranks %s.", one.Phrase, rank(one.Place)), path})
		case is && by > 0:
			rose = append(rose, Task{fmt.Sprintf("“%s” rose.", one.Phrase),
				fmt.Sprintf("It ranks %s, up %d since %s. Nothing to do.", rank(one.Place), by, since), path})
		}
		if is := one.Verdict == watch.Better || one.Verdict == watch.As; is && !one.Late && now.Sub(one.Tells) < lately {
			best, worst := one.Forecast.Band()
			places := fmt.Sprintf("no. %d to %d", best, worst)
			if worst == 0 {
				places = fmt.Sprintf("no. %d or lower", best)
			}
			settled = append(settled, Task{fmt.Sprintf("“%s” has settled, %s.", one.Phrase, one.Verdict),
				fmt.Sprintf("It ranks %s; the forecast was %s. Nothing to do.", rank(one.Place), places), path})
		}
		if len(one.Others) > 0 && one.Place <= within || one.Other() {
			crossed = append(crossed, Task{fmt.Sprintf("Keep one page for “%s”.", one.Phrase),
				"Two of your pages rank for it, or a different one than you meant.", path})
		}
	}
	openings, err := s.openings(ctx, n, published)
	if err != nil {
		return nil, err
	}
	rivalry, err := s.rivalry(ctx, n, pages)
	if err != nil {
		return nil, err
	}
	found, err := s.gathered(ctx, n)
	if err != nil {
		return nil, err
	}
	again, err := s.toAsk(ctx, n, pages)
	if err != nil {
		return nil, err
	}
	for _, kind := range [][]Task{write, ill, failed, moved, deadlines, little, openings, rivalry, crossed, seasons,
		found, again, settled, rose} {
		out = append(out, kind[:min(mostOfKind, len(kind))]...)
	}
	return out[:min(mostTasks, len(out))], nil
}

// ill are pages of mine that are watched and that nobody can find: gone, kept away or hidden.
func (s *Watcher) ill(ctx context.Context, n niches.Niche, pages []Page) (list []Task, err error) {
	if n.OwnSite == "" {
		return nil, nil
	}
	reads, err := s.store.OwnReads(ctx, n.ID, n.OwnSite)
	if err != nil {
		return nil, err
	}
	by := map[string]store.OwnRead{}
	for _, r := range reads {
		by[r.URL] = r
	}
	for _, p := range pages {
		r, is := by[cmp.Or(p.Meant, p.Stands)]
		says := ""
		switch {
		case p.Site != "" || !is || r.URL == "":
		case r.Trouble == string(faults.Gone):
			says = "Your page is gone."
		case r.Trouble == string(faults.Robots):
			says = "Your robots.txt keeps engines away from it."
		case r.NoIndex:
			says = "Your page asks engines not to list it."
		}
		if says != "" {
			list = append(list, Task{fmt.Sprintf("Repair your page for “%s”.", p.Phrase), says, "watch/mine"})
		}
	}
	return list, nil
}

// nextSteps are the fixes that are most likely to matter, by phrase.
func nextSteps(list []articles.Action) map[string]string {
	out := make(map[string]string, len(list))
	for _, a := range list {
		if !a.IsDone && a.Now.Position > 1 { // else the fix is to look for its place, which is known here
			out[a.Idea.Phrase] = input.Sentence(a.Next)
		}
	}
	return out
}

func toWrite(a articles.Article, in string) Task {
	why := fmt.Sprintf("%d hours", a.Hours)
	if low, likely, high, known := a.Worth(); known {
		why += fmt.Sprintf(", likely %s a month (%s)", money.Text(likely, in), money.Range(low, high, in))
	}
	if a.Schedule.Late > 0 && a.Schedule.Misses {
		why += ", late for its season"
	}
	return Task{fmt.Sprintf("Write “%s”.", a.Lead()), why + ".", fmt.Sprintf("briefs/%d", a.ID)}
}

// rank is a place in words: “no. 7”.
func rank(place int) string {
	if place == 0 {
		return watch.Says(0)
	}
	return fmt.Sprintf("no. %d", place)
}

func inDays(left int) string {
	switch {
	case left < 0:
		return fmt.Sprintf("That was %d days ago.", -left)
	case left == 0:
		return "That is today."
	}
	return fmt.Sprintf("That is in %d days.", left)
}

// rush is an update of a page whose season comes up.
func rush(a articles.Article, now time.Time) (Task, bool) {
	if !a.Season.Known || a.Season.Peak.Months == 0 {
		return Task{}, false
	}
	begins := time.Date(now.Year(), a.Season.Peak.First, 1, 0, 0, 0, 0, time.UTC)
	if begins.Before(now) {
		begins = begins.AddDate(1, 0, 0)
	}
	left := int(begins.Sub(now) / aDay)
	if left < rushFrom || left > rushTo {
		return Task{}, false
	}
	return Task{fmt.Sprintf("Update “%s” before its season.", a.Lead()),
		fmt.Sprintf("Searches rise in %s.", begins.Month()), fmt.Sprintf("ideas/%d", a.ID)}, true
}

// movement is by how many places a page moved since a week ago, or since last time where that is not known; is is false
// where that is hardly noticed.
func movement(p Page) (by int, since string, is bool) {
	c, since := p.Week, "a week ago"
	if !c.OK {
		c, since = p.Day, "last time"
	}
	if !c.OK || c.By == 0 {
		return 0, "", false
	}
	now := float64(p.Place)
	if p.Place == 0 {
		now = watch.Depth + 1
	}
	return c.By, since, math.Abs(math.Log((now+float64(c.By))/now)) >= math.Log(noticed)
}
