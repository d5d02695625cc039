package rivals

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"

	"cleverniche/core/phrase"
	"cleverniche/market"
	"cleverniche/store"
	"cleverniche/study/ask"
	"cleverniche/study/input"
	"cleverniche/study/jobs"
	"cleverniche/study/niches"
)

// The kinds of jobs: asking what a site ranks for, and reading its sitemaps.
const (
	RanksJob = "rankings"
	PagesJob = "sitemaps"
)

// Bounds of what is asked for of a site.
const (
	MostRanks    = 350_000
	DefaultRanks = 2000
)

// Wanted is what is asked for of a site: sifted at the source, at most so many.
type Wanted struct {
	market.RanksAsked
	Most int
}

// page is one question of a job.
type page struct {
	Site string            `json:"site"`
	Q    market.RanksAsked `json:"q"`
	Of   Wanted            `json:"of"` // all of it
}

// questions is how many that takes at most.
func (w Wanted) questions() int { return (w.Most + market.MostRanks - 1) / market.MostRanks }

// question is one of them, from 0.
func (w Wanted) question(i int) market.RanksAsked {
	q := w.RanksAsked
	q.Offset, q.Limit = i*market.MostRanks, min(market.MostRanks, w.Most-i*market.MostRanks)
	return q
}

// Cost is what that costs at most; "" where nobody can be asked.
func (s *Scout) Cost(w Wanted) string {
	if !s.asker.Has(ask.Rankings) {
		return ""
	}
	return s.asker.Money(int64(w.questions()) * s.asker.Price(ask.Rankings))
}

// check reads what is wanted.
func (w *Wanted) check() error {
	switch {
	case w.Most < 1 || w.Most > MostRanks:
		return input.Bad("most", "Ask for 1 to %d phrases.", MostRanks)
	case w.PlaceTo < 0 || w.PlaceTo > 100 || w.PlaceFrom < 0:
		return input.Bad("place-to", "Places are 1 to 100.")
	case w.SearchesFrom < 0 || w.SearchesTo < 0:
		return input.Bad("searches-from", "Searches are 0 or more.")
	}
	for _, text := range []*string{&w.Contains, &w.Lacks, &w.Starts, &w.Ends} {
		if *text = phrase.Normal(*text); len(*text) > 200 {
			return input.Bad("contains", "These are too many words.")
		}
	}
	return nil
}

// Fetch starts a job that asks what a site ranks for, a page of phrases at a time.
func (s *Scout) Fetch(ctx context.Context, n niches.Niche, text string, w Wanted) (jobs.Job, error) {
	name, err := s.SiteOf(text)
	if err == nil {
		err = w.check()
	}
	if err != nil {
		return jobs.Job{}, err
	}
	if !s.asker.Has(ask.Rankings) {
		return jobs.Job{}, input.Bad("site", "%s.", &ask.MissingSourceError{Question: ask.Rankings})
	}
	w.Target = site(name)
	s.starting.Lock() // pressed twice is once
	defer s.starting.Unlock()
	r, err := s.Rival(ctx, n, name)
	if err != nil {
		return jobs.Job{}, err
	}
	if r.Asked == w.text() && s.asker.IsFresh(ask.Rankings, r.AskedAt) {
		return jobs.Job{}, input.Bad("most",
			"You asked for these on %s, and they are still fresh. To ask again, forget them first.",
			r.AskedAt.Format("2 January 2006"))
	}
	open, err := s.runner.Open(ctx, n.ID, mostOpen)
	if err != nil {
		return jobs.Job{}, err
	}
	for _, j := range open {
		if j.Kind != RanksJob {
			continue
		}
		if of, err := s.runner.Params(ctx, j.ID); err != nil || of == w.text() {
			return j, err
		}
	}
	var items []page
	for i := range w.questions() {
		items = append(items, page{name, w.question(i), w})
	}
	return s.runner.StartWith(ctx, n, RanksJob, "Ask what "+input.Clip(name, 60)+" ranks for", jobs.Encode(items),
		w.text())
}

// mostOpen is among how many unfinished jobs one that asks the same is looked for.
const mostOpen = 100

// Kinds are the kinds of jobs of rivals.
func (s *Scout) Kinds() []jobs.Kind {
	return []jobs.Kind{{Name: RanksJob, Workers: 1, Brings: "new phrases", Do: s.fetch},
		{Name: PagesJob, Workers: 1, Brings: "pages seen", Do: s.askRecent}}
}

// fetch asks for one page, and keeps it. Behind the last one nothing is asked.
func (s *Scout) fetch(ctx context.Context, n niches.Niche, payload string) (int, error) {
	var p page
	if err := json.Unmarshal([]byte(payload), &p); err != nil {
		return 0, err
	}
	said := p.Of.text()
	known, err := s.Rival(ctx, n, p.Site)
	if err != nil {
		return 0, err
	}
	if p.Q.Offset > 0 && known.Asked == said && p.Q.Offset >= known.Total {
		return 0, nil
	}
	got, err := s.asker.Ranks(ctx, p.Q, n.Locale())
	if err != nil {
		return 0, err
	}
	most := p.Of.Most - p.Q.Offset
	whole := p.Q.Offset+len(got.Value.List) >= min(p.Of.Most, got.Value.Total)
	got.Value.List = got.Value.List[:min(most, len(got.Value.List))]
	if !whole { // who asks again goes on with the answers at hand
		return s.keep(ctx, n, p.Site, got, "")
	}
	added, err := s.keep(ctx, n, p.Site, got, said)
	if err != nil {
		return added, err
	}
	var keys []string // they are held with the rival by now
	for i := range p.Of.questions() {
		keys = append(keys, ask.RanksKey(p.Of.question(i), n.Locale()))
	}
	return added, s.store.Forget(ctx, string(ask.Rankings), keys)
}

// text is what is wanted, as it is kept with a rival.
func (w Wanted) text() string {
	body, err := json.Marshal(w)
	if err != nil { // texts and numbers
		panic(err)
	}
	return string(body)
}

// keep keeps phrases of a site, in normal form: of two wordings that are one, the better place.
func (s *Scout) keep(ctx context.Context, n niches.Niche, name string, got ask.Asked[market.Ranks],
	asked string) (int, error) {
	at := map[string]int{}
	var rows []store.RivalPhrase
	for _, r := range got.Value.List {
		text, err := phrase.Parse(r.Phrase)
		if err != nil {
			continue
		}
		row := store.RivalPhrase{Phrase: text, Place: r.Place, Page: bare(r.URL), Searches: r.Searches, Visits: r.Visits}
		if i, twice := at[text]; twice {
			if rows[i].Place > row.Place {
				rows[i] = row
			}
			continue
		}
		at[text] = len(rows)
		rows = append(rows, row)
	}
	rival := store.Rival{NicheID: n.ID, Site: name, Source: got.Source, Total: got.Value.Total, Asked: asked,
		AskedAt: got.At}
	if !got.Value.AsOf.IsZero() {
		rival.AsOf = got.Value.AsOf.Format("2006-01-02")
	}
	return s.store.SaveRanks(ctx, rival, rows)
}

// bare is an address without its scheme.
func bare(address string) string {
	_, rest, ok := strings.Cut(address, "://")
	if !ok {
		return address
	}
	if !strings.Contains(rest, "/") {
		rest += "/"
	}
	return rest
}

// Take makes ideas of phrases that a site is known to rank for. It returns how many are new.
func (s *Scout) Take(ctx context.Context, n niches.Niche, name string, phrases []string) (int, error) {
	if len(phrases) == 0 {
		return 0, input.Bad("phrases", "Tick at least one phrase.")
	}
	return s.gatherer.AddRanked(ctx, n, fmt.Sprintf("http://%s/", name), phrases)
}
