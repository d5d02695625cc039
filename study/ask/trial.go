package ask

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"net/url"
	"slices"
	"strings"
	"time"

	"cleverniche/core/demand"
	"cleverniche/market"
	"cleverniche/study/input"
)

// Trial is one question put to one source, to see what becomes of it. Its answer is kept nowhere.
type Trial struct {
	Asked      []string // each request, without its secret
	Came       string   // what kind of answer, how long, and how it begins
	Understood []string
	Missing    []string // what an answer could say and this one does not
	Took       time.Duration
	Micros     int64 // what it cost, as the settings say
}

// About is what a question is put about: a phrase, an address or a domain.
func (q Question) About() string {
	switch q {
	case Page, Links:
		return "address"
	case Names, Rankings:
		return "domain"
	case Graph:
		return ""
	}
	return "phrase"
}

// Example is something that a question may be put about.
func (q Question) Example() string {
	return map[string]string{"phrase": "star chart", "address": "https://site.example/",
		"domain": "site.example"}[q.About()]
}

// MostTried is how long what a trial is about may be.
const MostTried = 500

// Try puts one question to a source, named among those of its question. It costs what that source takes, within the
// day's budget.
func (s *Asker) Try(ctx context.Context, q Question, name, about string, in market.Locale) (Trial, error) {
	at := slices.IndexFunc(s.sources[q], func(src *Source) bool { return src.Name == name })
	about = strings.TrimSpace(about)
	switch {
	case at < 0 || q.About() == "":
		return Trial{}, input.ErrNotFound
	case about == "" || len(about) > MostTried:
		return Trial{}, &input.Error{Field: "about", Reason: fmt.Sprintf("Type one %s.", q.About())}
	}
	if q.About() == "address" {
		if u, err := url.Parse(about); err != nil || u.Scheme != "http" && u.Scheme != "https" || u.Host == "" {
			return Trial{}, &input.Error{Field: "about", Reason: "Type a whole address, such as " + q.Example() + "."}
		}
	}
	src := s.sources[q][at]
	key := "trial\x00" + string(q) + "\x00" + name + "\x00" + about
	got, err, _ := s.inFlight.Do(key, func() (any, error) { return s.try(ctx, src, about, in) }) // pressed twice is once
	return got.(Trial), err
}

func (s *Asker) try(ctx context.Context, src *Source, about string, in market.Locale) (Trial, error) {
	turn, err := s.turn(ctx, src)
	if err != nil {
		return Trial{}, err
	}
	bg := context.WithoutCancel(ctx)
	bill, err := s.charge(bg, src, "trial "+rand.Text()) // no answer is at hand for it, and none is kept
	if err != nil {
		return Trial{}, err
	}
	begun := s.store.Now()
	out, err := Put(bill.watching(context.WithoutCancel(turn)), src.Client, src.Question, []string{about}, in)
	s.note(src, err)
	out.Micros, out.Took = src.Micros, s.store.Now().Sub(begun)
	if err != nil {
		if market.ChargeOf(err) == market.Free {
			out.Micros = 0
		}
		return out, bill.fail(bg, err)
	}
	return out, bill.settle(bg, market.Due)
}

// mostTold is how many lines of an answer are told.
const mostTold = 10

// Put puts one question to a client, of demand about several phrases, and tells what was asked, what came and what was
// understood.
func Put(ctx context.Context, client any, q Question, about []string, in market.Locale) (out Trial, err error) {
	ctx = market.WithTeller(ctx, func(asked, kind string, body []byte) {
		out.Asked = append(out.Asked, asked)
		if kind == "" {
			kind = "nothing that says its kind"
		}
		out.Came = fmt.Sprintf("%s, %d bytes: %s", kind, len(body), beginning(body))
	})
	if client == nil || len(about) == 0 {
		return out, errors.New("there is nobody to ask, or nothing to ask about")
	}
	err = out.put(ctx, client, q, about, in)
	return out, err
}

func (t *Trial) put(ctx context.Context, client any, q Question, about []string, in market.Locale) error {
	say := func(format string, values ...any) {
		t.Understood = append(t.Understood, fmt.Sprintf(format, values...))
	}
	lack := func(what string) { t.Missing = append(t.Missing, what) }
	switch q {
	case Suggestions:
		list, err := client.(market.Suggester).Suggest(ctx, about[0], in)
		if err == nil {
			say("suggestions: %d", len(list))
			t.Understood = append(t.Understood, list[:min(mostTold, len(list))]...)
		}
		return err
	case Demand:
		figures, err := client.(market.Demander).Demand(ctx, about, in)
		if err != nil {
			return err
		}
		for _, p := range about {
			if s, known := figures[p]; known {
				say("%s: %s", p, figuresSay(s))
			} else {
				lack(p + ": nothing is said of it")
			}
			for _, what := range figuresLack(figures, p) {
				lack(p + ": " + what)
			}
		}
		return nil
	case Results:
		r, err := client.(market.Searcher).Search(ctx, about[0], in, DefaultDepth)
		for _, o := range r.Organic {
			say("%d. %s  %s", o.Position, o.URL, o.Title)
		}
		if err == nil && len(r.Organic) < DefaultDepth {
			lack(fmt.Sprintf("only %d of %d results came", len(r.Organic), DefaultDepth))
		}
		return err
	case Totals:
		n, err := client.(market.Totaller).Total(ctx, about[0], in)
		if err == nil {
			say("pages: %d", n)
		}
		return err
	case Links:
		list, err := client.(market.Linker).Links(ctx, about[0])
		if err != nil {
			return err
		}
		say("links in all: %d", list.Total)
		for _, l := range list.Links[:min(mostTold, len(list.Links))] {
			say("%s  “%s”  %s", l.From, l.Anchor, l.Rel)
		}
		if list.Total > len(list.Links) {
			lack(fmt.Sprintf("%d of them are not listed", list.Total-len(list.Links)))
		}
		return nil
	case Names:
		r, err := client.(market.Registrar).Registered(ctx, about[0])
		switch {
		case err != nil:
		case !r.Taken:
			say("%s is free", about[0])
		case r.Since.IsZero():
			say("%s is taken", about[0])
			lack("since when")
		default:
			say("%s is taken since %s", about[0], r.Since.Format(time.DateOnly))
		}
		return err
	case Rankings:
		return t.putRankings(ctx, client, market.Target{Name: about[0], Scope: market.AllHosts}, in)
	case Page:
		f, err := client.(market.Fetcher).Fetch(ctx, about[0])
		if err != nil {
			return err
		}
		page, err := market.ReadPage(f)
		if err == nil {
			say("“%s”, %d words", page.Title, page.Words)
		}
		return err
	}
	return input.ErrNotFound
}

// figuresSay says what is known of a phrase's searches.
func figuresSay(s demand.Series) string {
	var out []string
	switch sum, ok := demand.Summarise(s); {
	case ok && sum.Under:
		out = append(out, fmt.Sprintf("fewer than %d searches a month", sum.Average))
	case ok:
		out = append(out, fmt.Sprintf("%d searches a month", sum.Average))
	}
	out = append(out, fmt.Sprintf("%d months", len(s.Counts)))
	if s.CPC.Known() {
		out = append(out, fmt.Sprintf("%.2f %s a click", float64(s.CPC.Micros)/1e6, s.CPC.Currency))
	}
	if s.Competition >= 0 {
		out = append(out, fmt.Sprintf("ad competition %.2f", s.Competition))
	}
	return strings.Join(out, ", ")
}

// figuresLack lists what is not known of a phrase's searches.
func figuresLack(figures map[string]demand.Series, phrase string) (out []string) {
	s, known := figures[phrase]
	if !known {
		return nil
	}
	if len(s.Counts) == 0 {
		out = append(out, "single months, so no season")
	}
	if !s.CPC.Known() {
		out = append(out, "cost per click")
	}
	if s.Competition < 0 {
		out = append(out, "ad competition")
	}
	return out
}

// beginning is the beginning of an answer, in one line.
func beginning(body []byte) string {
	text := []rune(strings.Join(strings.Fields(strings.ToValidUTF8(string(body[:min(len(body), 4000)]), "?")), " "))
	if len(text) > 400 {
		return string(text[:399]) + "…"
	}
	return string(text)
}

// putRankings asks for the first part that a source knows.
func (t *Trial) putRankings(ctx context.Context, client any, of market.Target, in market.Locale) error {
	say := func(format string, values ...any) {
		t.Understood = append(t.Understood, fmt.Sprintf(format, values...))
	}
	visits := func(x *float64) string {
		if x == nil {
			return ""
		}
		return fmt.Sprintf("  %.0f visits a month", *x)
	}
	known := func(p Part) bool { return knows(client, p) }
	site, _ := client.(market.SiteRanker)
	switch {
	case known(market.PhrasesPart):
		r, err := client.(market.PhraseRanker).Ranks(ctx, market.RanksAsked{Target: of, Limit: mostTold}, in)
		if err != nil {
			return err
		}
		say("phrases in all: %d", r.Total)
		n := 0
		for _, one := range r.List {
			said := fmt.Sprintf("%d. %s  %s", one.Place, one.Phrase, one.URL)
			if one.Searches != nil {
				n++
				said += fmt.Sprintf("  %d searches a month", *one.Searches)
			}
			t.Understood = append(t.Understood, said)
		}
		if n < len(r.List) {
			t.Missing = append(t.Missing, fmt.Sprintf("searches of %d phrases", len(r.List)-n))
		}
		return nil
	case known(Sharers):
		r, err := site.Sharers(ctx, of, in, mostTold)
		for _, one := range r.List {
			say("%s shares %d phrases%s", one.Site, one.Shared, visits(one.Visits))
		}
		return err
	case known(TopPages):
		r, err := site.TopPages(ctx, of, in, mostTold)
		for _, one := range r.List {
			say("%s  %d phrases%s", one.URL, one.Phrases, visits(one.Visits))
		}
		return err
	case known(SiteMonths):
		r, err := site.Months(ctx, of, in)
		for _, one := range r.List {
			say("%s%s", one.Month, visits(one.Visits))
		}
		return err
	case known(Countries):
		r, err := site.Countries(ctx, of, in)
		for _, one := range r.List {
			say("%s%s", one.Country, visits(one.Visits))
		}
		return err
	}
	r, err := site.Advertised(ctx, of, in, mostTold)
	for _, one := range r.List {
		said := fmt.Sprintf("%s  “%s”  %s", one.Phrase, one.Title, one.URL)
		if one.Cost != nil {
			said += fmt.Sprintf("  %.2f %s a month", float64(one.Cost.Micros)/1e6, one.Cost.Currency)
		}
		say("%s", said)
	}
	return err
}
