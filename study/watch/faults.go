package watch

import (
	"context"
	"encoding/json"
	"slices"
	"time"

	"cleverniche/core/faults"
	"cleverniche/store"
	"cleverniche/study/articles"
	"cleverniche/study/ask"
	"cleverniche/study/input"
	"cleverniche/study/jobs"
	"cleverniche/study/niches"
)

// Fault is a fault of a page of mine, and what somebody said of it.
type Fault struct {
	faults.Fault
	State string // "", done or ignored; what is done and still there after the page was read again is told again
}

// MyPages are the pages of mine that are watched or stand for ideas, and their faults.
type MyPages struct {
	Pages   []string // their addresses
	Unread  int      // of them, those that were never read
	Faults  []Fault  // open ones, most weight first
	Settled int      // faults that are ignored, or done since the page was last read
}

// mostPages is how many of my pages are looked through.
const mostPages = 200

// Mine looks through my pages as they were last read. Nobody is asked.
func (s *Watcher) Mine(ctx context.Context, n niches.Niche, watched []Page, ranking []articles.Action) (out MyPages,
	err error) {
	phrases := map[string]string{}
	add := func(url, phrase string) {
		if url == "" || len(out.Pages) >= mostPages {
			return
		}
		if _, is := phrases[url]; !is {
			out.Pages, phrases[url] = append(out.Pages, url), phrase
		}
	}
	for _, w := range watched {
		if w.Meant != "" {
			add(w.Meant, w.Phrase)
		} else {
			add(w.Stands, w.Phrase)
		}
	}
	for _, a := range ranking {
		add(a.Page, a.Idea.Phrase)
	}
	var list []faults.Page
	read := map[string]time.Time{}
	for _, url := range out.Pages {
		page, at, err := s.results.PageRead(ctx, url)
		if err != nil {
			return out, err
		}
		if page == nil {
			out.Unread++
			continue
		}
		read[url] = at
		list = append(list, faults.Page{URL: url, Phrase: phrases[url], Title: page.Title, Description: page.Description,
			Canonical: page.Canonical, Main: page.H1, Headings: page.Headings, Words: page.Words,
			Lands: page.URL})
	}
	said, err := s.store.Mendings(ctx, n.ID)
	if err != nil {
		return out, err
	}
	for _, f := range faults.Of(list, n.Language) {
		one := Fault{Fault: f}
		at := slices.IndexFunc(said, func(m store.Mending) bool { return m.URL == f.URL && m.Fault == f.Key })
		if at >= 0 && (said[at].State == Ignored || said[at].At.After(read[f.URL])) {
			out.Settled++
			continue
		}
		if at >= 0 {
			one.State = said[at].State
		}
		out.Faults = append(out.Faults, one)
	}
	return out, nil
}

// What may be said of a fault.
const (
	Done    = "done"
	Ignored = "ignored"
)

// Mend says that a fault is done, or ignored.
func (s *Watcher) Mend(ctx context.Context, n niches.Niche, url, fault, state string) error {
	if state != Done && state != Ignored || url == "" || fault == "" || len(url) > 2000 || len(fault) > 40 {
		return input.Bad("state", "That option is not available. Reload the page.")
	}
	return s.store.SetMending(ctx, store.Mending{NicheID: n.ID, URL: url, Fault: fault, State: state})
}

const pagesJob = "my pages"

// ReadMine starts a job that reads my pages again.
func (s *Watcher) ReadMine(ctx context.Context, n niches.Niche) (job jobs.Job, err error) {
	watched, err := s.Pages(ctx, n)
	if err != nil {
		return job, err
	}
	ranking, _, err := s.planner.Actions(ctx, n, 0)
	if err != nil {
		return job, err
	}
	mine, err := s.Mine(ctx, n, watched, ranking)
	if err != nil {
		return job, err
	}
	if len(mine.Pages) == 0 {
		return job, input.Bad("pages", "None of your pages is known yet.")
	}
	items := make([]again, len(mine.Pages))
	for i, url := range mine.Pages {
		items[i] = again{url, s.store.Now().UTC()}
	}
	return s.runner.Start(ctx, n, pagesJob, "Read your pages", jobs.Encode(items))
}

type again struct {
	URL    string    `json:"url"`
	Before time.Time `json:"before"`
}

func (s *Watcher) readMine(ctx context.Context, _ niches.Niche, payload string) (found int, err error) {
	var a again
	if err := json.Unmarshal([]byte(payload), &a); err != nil {
		return 0, err
	}
	if _, err := s.asker.Page(ask.Again(ctx, a.Before), a.URL); err != nil {
		return 0, err
	}
	return 1, nil
}
