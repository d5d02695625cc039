package watch

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"cleverniche/core/faults"
	"cleverniche/core/intent"
	"cleverniche/core/serp"
	"cleverniche/market"
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

// MyPage is a page of one of my sites.
type MyPage struct {
	URL      string
	Phrase   string // that it is watched for, or stands for; "" none
	Place    int
	Checked  bool    // Place is known
	Searches int     // a month, of that phrase; −1 not known
	Clicks   int     // of my latest search report; −1 not known
	Fit      float64 // with that phrase, by the checklist, 0 to 100; −1 not known
	Next     string
	Faults   int
	Weight   int // of these together
	Read     time.Time
}

// MyPages are the pages of a site of mine that are watched, stand for ideas or were read, and their faults.
type MyPages struct {
	Site    string
	Pages   []MyPage  // what most hangs on first
	Unread  int       // of them, those that were never read
	Faults  []Fault   // open ones, most weight first
	Settled int       // faults that are ignored, or done since the page was last read
	Read    time.Time // when the site was read as a whole; zero never
	Sitemap string    // why it has no sitemap that can be read; "" it has
}

// Bounds of my pages.
const (
	MostPages   = 500 // of a site that are read
	UsualPages  = 50
	mostKnown   = 200 // watched or ranking ones that are looked through
	mostProbed  = 20  // links of a page that are followed
	readWorkers = 2

	mostOwnLinks = 200 // of a page that are kept
	longLink     = 500 // bytes
)

// Mine looks through my pages as they were last read. Nobody is asked. "" is the niche's own site.
func (s *Watcher) Mine(ctx context.Context, n niches.Niche, site string, watched []Page,
	ranking []articles.Action) (out MyPages, err error) {
	n = on(n, site)
	out.Site = n.OwnSite
	by := s.knownPages(n, site, watched, ranking)
	reads, err := s.store.OwnReads(ctx, n.ID, n.OwnSite)
	if err != nil {
		return out, err
	}
	read := map[string]store.OwnRead{}
	for _, r := range reads {
		if r.URL == "" {
			out.Read, out.Sitemap = r.At, r.Says
			continue
		}
		read[r.URL] = r
		if by[r.URL] == nil {
			by[r.URL] = &MyPage{URL: r.URL, Searches: -1, Clicks: -1, Fit: -1}
		}
	}
	var list []faults.Page
	at := map[string]time.Time{}
	for _, url := range slices.Sorted(maps.Keys(by)) {
		one, r := by[url], read[url]
		p := faults.Page{URL: url, Phrase: one.Phrase}
		if r.URL != "" {
			one.Read = r.At
			p.Trouble, p.Why = faults.Trouble(r.Trouble), r.Says
			p.Unlisted, p.NoIndex = r.Listed == unlisted, r.NoIndex
			p.Broken, p.Took = split(r.Broken), time.Duration(r.Millis)*time.Millisecond
			for _, to := range split(r.Links) {
				if read[to].Trouble == string(faults.Gone) && !slices.Contains(p.Broken, to) {
					p.Broken = append(p.Broken, to)
				}
			}
		}
		page, asked, err := s.results.PageRead(ctx, url)
		if err != nil {
			return out, err
		}
		switch {
		case page != nil && p.Trouble == "":
			one.Read = later(one.Read, asked)
			p.Title, p.Description, p.Canonical, p.Main = page.Title, page.Description, page.Canonical, page.H1
			p.Headings, p.Words, p.Lands = page.Headings, page.Words, page.URL
			if one.Phrase != "" {
				kind, _ := serp.TypeOf(url, page.Title, page)
				one.Fit = serp.NewQuery(one.Phrase, n.Language).FitOf(serp.Result{URL: url, Title: page.Title, Page: page}, kind,
					intent.Learn, false).Total
			}
		case p.Trouble == "":
			out.Unread++
			continue
		}
		at[url] = one.Read
		list = append(list, p)
	}
	said, err := s.store.Mendings(ctx, n.ID)
	if err != nil {
		return out, err
	}
	for _, f := range faults.Of(list, n.Language) {
		one := Fault{Fault: f}
		k := slices.IndexFunc(said, func(m store.Mending) bool { return m.URL == f.URL && m.Fault == f.Key })
		if k >= 0 && (said[k].State == Ignored || said[k].At.After(at[f.URL])) {
			out.Settled++
			continue
		}
		if k >= 0 {
			one.State = said[k].State
		}
		out.Faults = append(out.Faults, one)
		by[f.URL].Faults++
		by[f.URL].Weight += f.Weight
	}
	for _, one := range by {
		out.Pages = append(out.Pages, *one)
	}
	slices.SortFunc(out.Pages, func(a, b MyPage) int {
		return cmp.Or(cmp.Compare(b.Clicks, a.Clicks), cmp.Compare(b.Searches, a.Searches), cmp.Compare(b.Weight, a.Weight),
			cmp.Compare(a.URL, b.URL))
	})
	return out, nil
}

// knownPages are the pages of a site of mine that are watched or stand for ideas, each with the phrase that it is meant
// for, or else the one for which it stands best, where that is high enough to be about it.
func (s *Watcher) knownPages(n niches.Niche, site string, watched []Page,
	ranking []articles.Action) map[string]*MyPage {
	by := map[string]*MyPage{}
	of := func(url string) *MyPage {
		if by[url] == nil && len(by) < mostKnown {
			by[url] = &MyPage{URL: url, Searches: -1, Clicks: -1, Fit: -1}
		}
		return by[url]
	}
	meant := map[string]bool{}
	stands := func(url, phrase string, place int, checked, isMeant bool) {
		p := of(url)
		better := p != nil && place > 0 && place <= within && (p.Place == 0 || place < p.Place) && !meant[url]
		if p == nil || !isMeant && !better || isMeant && meant[url] {
			return
		}
		p.Phrase, p.Place, p.Checked, meant[url] = phrase, place, checked, isMeant
	}
	for _, w := range watched {
		if url := cmp.Or(w.Meant, w.Stands); w.Site == site && url != "" {
			stands(url, w.Phrase, w.Place, !w.Checked.IsZero(), w.Meant != "")
		}
	}
	for _, a := range ranking {
		if a.Page == "" || !s.niches.IsOwn(n, a.Page) {
			continue
		}
		stands(a.Page, a.Idea.Phrase, a.Now.Position, a.Now.Position > 0, false)
		p := by[a.Page]
		if p == nil {
			continue
		}
		if p.Phrase == a.Idea.Phrase {
			if !a.IsDone && a.Now.Position != 1 {
				p.Next = input.Sentence(a.Next)
			}
			if a.Idea.Row.Searches != nil {
				p.Searches = *a.Idea.Row.Searches
			}
		}
		if a.Idea.Row.MyClicks != nil {
			p.Clicks = max(0, p.Clicks) + *a.Idea.Row.MyClicks
		}
	}
	return by
}

func later(a, b time.Time) time.Time {
	if b.After(a) {
		return b
	}
	return a
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

// Whether a sitemap has a page, as it is kept.
const (
	listed   = 1
	unlisted = 2
)

// reading is one item: a page of a site of mine, or that site as a whole, from which the pages follow.
type reading struct {
	Site   string    `json:"site"`
	URL    string    `json:"url,omitempty"`
	Most   int       `json:"most,omitempty"` // pages; of a site as a whole
	Known  []string  `json:"known,omitempty"`
	Listed int       `json:"listed,omitempty"`
	Before time.Time `json:"before"`
}

// MineCost says what reading so many pages would ask at most: each, and the links of it that are followed.
func (s *Watcher) MineCost(ctx context.Context, pages int) (e ask.Estimate, err error) {
	return e, s.asker.EstimateOpen(ctx, &e, ask.Page, 2+pages*(1+mostProbed), 0, readWorkers)
}

// ReadMine starts a job that reads a site of mine: those of its pages that are known to matter, and those that its
// sitemap lists or its first page links to, at most so many.
func (s *Watcher) ReadMine(ctx context.Context, n niches.Niche, site string, most int) (job jobs.Job, err error) {
	if err := s.isMine(ctx, n, site); err != nil {
		return job, err
	}
	own := on(n, site)
	switch {
	case own.OwnSite == "":
		return job, input.Bad("pages", "Set your site in Settings first.")
	case most < 1 || most > MostPages:
		return job, input.Bad("pages", "Read 1 to %d pages.", MostPages)
	}
	watched, err := s.Pages(ctx, n)
	if err != nil {
		return job, err
	}
	ranking, _, err := s.planner.Actions(ctx, n, 0)
	if err != nil {
		return job, err
	}
	first := reading{Site: own.OwnSite, Most: most, Before: s.store.Now().UTC()}
	for url := range s.knownPages(own, site, watched, ranking) {
		first.Known = append(first.Known, url)
	}
	slices.Sort(first.Known)
	return s.runner.Start(ctx, n, pagesJob, "Read the pages of "+own.OwnSite, jobs.Encode([]reading{first}))
}

func (s *Watcher) readMine(ctx context.Context, n niches.Niche, payload string) (found int, err error) {
	var r reading
	if err := json.Unmarshal([]byte(payload), &r); err != nil {
		return 0, err
	}
	ctx = ask.Again(ctx, r.Before)
	n.OwnSite = r.Site
	if r.URL == "" {
		return 0, s.readSite(ctx, n, r, payload)
	}
	return s.readOne(ctx, n, r)
}

// readSite reads which pages a site has, and adds them to the job.
func (s *Watcher) readSite(ctx context.Context, n niches.Niche, r reading, payload string) error {
	whole := store.OwnRead{NicheID: n.ID, Site: r.Site, At: s.store.Now().UTC()}
	pages, all, err := s.asker.SitePages(ctx, r.Site, mostListed)
	if ctx.Err() != nil {
		return ctx.Err()
	}
	if err != nil {
		whole.Trouble, whole.Says = string(faults.Unreachable), input.Clip(input.Sentence(err.Error()), 300)
	}
	in := map[string]string{} // pages of the sitemap, without schemes
	for _, p := range pages {
		in[bare(p.URL)] = p.URL
	}
	var items []reading
	took := map[string]bool{}
	take := func(url string) {
		if len(items) >= r.Most || took[bare(url)] || !s.niches.IsOwn(n, url) {
			return
		}
		took[bare(url)] = true
		one := reading{Site: r.Site, URL: url, Before: r.Before}
		switch {
		case in[bare(url)] != "":
			one.Listed = listed
		case all:
			one.Listed = unlisted
		}
		items = append(items, one)
	}
	for _, url := range r.Known {
		take(url)
	}
	for _, p := range pages {
		take(p.URL)
	}
	for _, home := range []string{"https://" + r.Site + "/", "http://" + r.Site + "/"} {
		if len(items) >= r.Most || took[bare(home)] && len(in) > 0 {
			break
		}
		got, err := s.asker.Page(ctx, home)
		if err != nil {
			continue
		}
		take(home)
		if inside, err := market.ReadInside(got.Value); err == nil && len(in) == 0 { // all that is known of it
			for _, link := range inside.Links {
				take(link)
			}
		}
		break
	}
	if len(items) == 0 {
		return fmt.Errorf("no page of %s is known: its sitemap and its first page cannot be read", r.Site)
	}
	if err := s.store.DeleteOwnReads(ctx, n.ID, r.Site, r.Before); err != nil {
		return err
	}
	if err := s.store.SaveOwnRead(ctx, whole); err != nil {
		return err
	}
	return s.store.AddItems(ctx, ask.RequestOf(ctx).Job, payload, jobs.Encode(items), nil)
}

// mostListed is how many pages of a sitemap are looked for.
const mostListed = 50_000

// readOne reads a page, and follows some of its links.
func (s *Watcher) readOne(ctx context.Context, n niches.Niche, r reading) (found int, err error) {
	row := store.OwnRead{NicheID: n.ID, Site: r.Site, URL: r.URL, At: s.store.Now().UTC(), Listed: r.Listed}
	got, err := s.asker.Page(ctx, r.URL)
	var e *market.Error
	switch {
	case ctx.Err() != nil:
		return 0, ctx.Err()
	case errors.Is(err, market.ErrRobots):
		row.Trouble = string(faults.Robots)
	case market.Gone(err):
		row.Trouble, row.Says = string(faults.Gone), reasonOf(err)
	case errors.As(err, &e) && e.Trouble == market.Unreachable:
		row.Trouble, row.Says = string(faults.Unreachable), reasonOf(err)
	case errors.As(err, &e):
		row.Trouble, row.Says = string(faults.Unreadable), reasonOf(err)
	case err != nil: // money, or nobody to ask
		return 0, err
	default:
		found = 1
		row.Millis = int(got.Value.Took.Milliseconds())
		if err := s.follow(ctx, n, got.Value, &row); err != nil {
			return 0, err
		}
	}
	return found, s.store.SaveOwnRead(ctx, row)
}

func reasonOf(err error) string {
	var e *market.Error
	if errors.As(err, &e) {
		err = e.Err
	}
	return input.Clip(strings.Split(err.Error(), "\n")[0], 200)
}

// follow looks where a page's links lead: to my pages, and to others as far as some are followed.
func (s *Watcher) follow(ctx context.Context, n niches.Niche, page market.Fetched, row *store.OwnRead) error {
	inside, err := market.ReadInside(page)
	if err != nil {
		return nil // what is no page has no links
	}
	row.NoIndex = inside.NoIndex
	var own, broken []string
	probed := 0
	for _, link := range inside.Links {
		if s.niches.IsOwn(n, link) && len(own) < mostOwnLinks && len(link) < longLink {
			own = append(own, link)
		}
		if link == row.URL || probed >= mostProbed {
			continue
		}
		probed++
		gone, err := s.asker.Leads(ctx, link)
		switch {
		case ctx.Err() != nil:
			return ctx.Err()
		case errors.As(err, new(*market.Error)): // who does not answer says nothing of a link
		case err != nil:
			return err
		case gone:
			broken = append(broken, link)
		}
	}
	row.Links, row.Broken = strings.Join(own, "\n"), strings.Join(broken, "\n")
	return nil
}

// bare is an address without its scheme and a slash at its end.
func bare(url string) string {
	_, rest, _ := strings.Cut(url, "://")
	return strings.TrimSuffix(rest, "/")
}
