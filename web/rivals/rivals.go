// Package rivals is what already works for others: pages within reach, who one follows, what they rank for and I do
// not, and who links to them.
package rivals

import (
	"context"
	"fmt"
	"io"
	"net/url"

	"cleverniche/core/sieve"
	"cleverniche/study/files"
	"cleverniche/study/input"
	"cleverniche/study/money"
	"cleverniche/study/rivals"
	"cleverniche/web/frame"

	"github.com/gofiber/fiber/v3"
)

// Screen is its pages.
var Screen = frame.Screen{Routes: func(s *frame.Server, niche, _ fiber.Router) {
	niche.Get("/rivals", s.In(func(r *frame.Request) error { return show(r, "", nil) }))
	niche.Post("/rivals/follow", s.Form(follow, func(r *frame.Request, wrong *input.Error) error {
		return show(r, r.FormValue("site"), wrong)
	}))
	niche.Post("/rivals/sharers", s.In(askSharers))
	niche.Get("/rivals/openings", s.In(showOpenings))
	niche.Post("/rivals/openings", s.In(takeOpenings))
	niche.Get("/rivals/links", s.In(showLinks))
	niche.Get("/rivals/links/:format", s.In(exportLinks))
	niche.Post("/rivals/ranks", s.In(askOwn))
	niche.Get("/sites", s.In(showAll))
	niche.Get("/sites/:site", s.In(func(r *frame.Request) error { return showOne(r, nil) }))
	niche.Get("/sites/:site/cost", s.In(showCost))
	niche.Post("/sites/:site/ranks", s.Form(fetch, showOne))
	niche.Post("/sites/:site/details", s.In(askDetails))
	niche.Post("/sites/:site/file", s.Form(receive, showOne))
	niche.Post("/sites/:site/take", s.In(take))
	niche.Post("/sites/:site/forget", s.In(forget))
	niche.Post("/sites/:site/recent", s.In(askRecent))
}}

// Bounds of what one page shows.
const (
	shownWithin = 25
	shownSites  = 20
	shownMissed = 12
	shownRows   = 100
)

type page struct {
	frame.Page
	Within   []within
	Total    int
	From     int
	Before   string
	Next     string
	Of       string // the only site whose pages are shown; "" all that are followed, or all
	Scope    string
	Lack     bool // only what is not planned is shown
	Who      rivals.Who
	Rows     []site
	More     int
	Missed   []missed
	Misses   int
	Site     string
	Wrong    string
	NoSource bool
	Openings int
	Counted  []rivals.Kept
}

type within struct {
	rivals.Within
	Searches, ChanceText, PerHour string
	Href                          string
}

type site struct {
	rivals.Neighbour
	Age, Href, Worth string
	All              string // phrases
	Seen             int    // pages in its sitemap; 0 it was not read
}

type missed struct {
	rivals.Missed
	Searches, ChanceText, Href string
}

// show shows what to go after first.
func show(r *frame.Request, typed string, wrong *input.Error) error {
	b, err := r.Table()
	if err != nil {
		return err
	}
	topics, err := r.Topics()
	if err != nil {
		return err
	}
	ctx, sp := r.Context(), r.Speak()
	v := page{Site: typed, Of: r.Query("site"), Lack: r.Query("lack") != "", From: max(0, fiber.Query(r.Ctx, "from", 0))}
	if wrong != nil {
		v.Wrong = wrong.Reason
	}
	if v.Who, err = r.Study.Rivals.Who(ctx, r.Niche, b.Revision); err != nil {
		return err
	}
	only := map[string]bool{}
	switch {
	case v.Of != "":
		only[v.Of] = true
		v.Scope = "from " + v.Of
	case v.Who.Followed > 0:
		for _, s := range v.Who.Sites {
			if s.Rival.Followed {
				only[s.Site] = true
			}
		}
		v.Scope = fmt.Sprintf("from the %d %s you follow", v.Who.Followed, frame.Plural(v.Who.Followed, "site", "sites"))
	default:
		v.Scope = "from any site"
	}
	list, total, err := r.Study.Rivals.Within(ctx, r.Niche, b.Revision, topics, only, v.Lack, v.From, shownWithin)
	if err != nil {
		return err
	}
	v.Total = total
	at := func(from int) string {
		q := url.Values{"from": {fmt.Sprint(from)}}
		if v.Of != "" {
			q.Set("site", v.Of)
		}
		if v.Lack {
			q.Set("lack", "yes")
		}
		return r.Path("rivals") + "?" + q.Encode()
	}
	if v.From > 0 {
		v.Before = at(max(0, v.From-shownWithin))
	}
	if v.From+shownWithin < total {
		v.Next = at(v.From + shownWithin)
	}
	for _, w := range list {
		v.Within = append(v.Within, within{w, sp.Cell(w.Idea, sieve.Searches).Text, sp.Cell(w.Idea, sieve.PageOne).Text,
			perHour(r, w.PerHour),
			r.Path(fmt.Sprint("ideas/", w.ID)) + fmt.Sprintf("?open=%d#place-%d", w.Place, w.Place)})
	}
	for i, s := range v.Who.Sites {
		if i < shownSites || s.Rival.Followed {
			v.Rows = append(v.Rows, site{s, frame.Age(s.Since, r.Now()), pathOf(r, s.Site),
				worthOf(r, s.Visits), allOf(r, s), rivals.RecentOf(s.Rival).Pages})
		}
	}
	v.More = len(v.Who.Sites) - len(v.Rows)
	misses, all, err := r.Study.Rivals.Missed(ctx, r.Niche, b.Revision, topics, shownMissed)
	if err != nil {
		return err
	}
	v.Misses = all
	for _, m := range misses {
		v.Missed = append(v.Missed, missed{m, sp.Cell(m.Idea, sieve.Searches).Text, sp.Cell(m.Idea, sieve.PageOne).Text,
			r.Path(fmt.Sprint("ideas/", m.ID))})
	}
	o, err := r.Study.Rivals.Openings(ctx, r.Niche, 1, rivals.Filter{Limit: 1})
	if err != nil {
		return err
	}
	v.Openings, v.Counted = o.Total, o.Rivals
	v.NoSource = r.Study.Rivals.Cost(rivals.Wanted{Most: 1}) == ""
	if v.Page, err = r.Page("Rivals", "rivals", -1); err != nil {
		return err
	}
	return r.Render("rivals/rivals", v)
}

// allOf is how many phrases a site ranks for; "" where that is not known.
func allOf(r *frame.Request, s rivals.Neighbour) string {
	n, known := s.All()
	if !known {
		return ""
	}
	return r.Speak().Count(n)
}

// worthOf is what so many visits would bring in this niche; "" where that is not known.
func worthOf(r *frame.Request, visits *float64) string {
	if visits == nil || r.Niche.VisitMicros == 0 {
		return ""
	}
	return money.Text(int64(*visits*float64(r.Niche.VisitMicros)), r.Niche.Currency)
}

func perHour(r *frame.Request, x float64) string {
	if x < 0 {
		return ""
	}
	return money.Text(int64(1e6*x), r.Niche.Currency)
}

func follow(r *frame.Request) error {
	name, err := r.Study.Rivals.Follow(r.Context(), r.Niche, r.FormValue("site"), r.FormValue("follow") != "no")
	if err != nil {
		return err
	}
	if r.FormValue("from") == "site" {
		return r.To(pathOf(r, name))
	}
	return r.To(r.Path("rivals") + "#who")
}

func askSharers(r *frame.Request) error {
	if err := r.Study.Rivals.AskSharers(r.Context(), r.Niche); err != nil {
		return err
	}
	return r.To(r.Path("rivals") + "#who")
}

type openingsPage struct {
	frame.Page
	rivals.Openings
	Rows   []opening
	Sieve  Sieve
	Before string
	Next   string
	Take   string // where what is ticked is sent
	Own    string // cost of asking for my own places; "" where they are known, or nobody can be asked
}

type opening struct {
	rivals.Opening
	Difficulty, Chance string
	Href               string
}

// worksTo is down to which place a page of theirs counts as one that works, unless one says otherwise (ours).
const worksTo = 20

// showOpenings shows what rivals rank for and I do not.
func showOpenings(r *frame.Request) error {
	s := ReadSieve(r)
	if !r.Request().URI().QueryArgs().Has("place-to") {
		s.PlaceTo = fmt.Sprint(worksTo)
	}
	s.Of = max(1, s.Of)
	v := openingsPage{Sieve: s, Take: s.At(r.Path("rivals/openings"))}
	var err error
	if v.Openings, err = r.Study.Rivals.Openings(r.Context(), r.Niche, s.Of, s.Ranked(shownRows)); err != nil {
		return err
	}
	v.Before, v.Next = s.Along(r.Path("rivals/openings"), v.Total, shownRows)
	if r.Niche.OwnSite != "" && v.Mine.AskedAt.IsZero() {
		v.Own = r.Study.Rivals.Cost(rivals.Wanted{Most: rivals.DefaultRanks})
	}
	sp := r.Speak()
	for _, o := range v.List {
		row := opening{Opening: o}
		if o.LookedUp() {
			row.Difficulty, row.Chance = sp.Cell(o.Row, sieve.Difficulty).Text, sp.Cell(o.Row, sieve.PageOne).Text
		}
		if o.Gap.Idea != 0 {
			row.Href = r.Path(fmt.Sprint("ideas/", o.Gap.Idea))
		}
		v.Rows = append(v.Rows, row)
	}
	if v.Page, err = r.Page("Openings", "rivals", -1); err != nil {
		return err
	}
	return r.Render("rivals/openings", v)
}

// takeOpenings makes ideas of the phrases that were ticked.
func takeOpenings(r *frame.Request) error {
	if _, err := r.Study.Rivals.TakeOpenings(r.Context(), r.Niche, r.Posted("phrase")); err != nil {
		return err
	}
	return r.To(ReadSieve(r).At(r.Path("rivals/openings")))
}

// askOwn asks what my own site ranks for.
func askOwn(r *frame.Request) error {
	if r.Niche.OwnSite == "" {
		return input.Bad("own", "This niche has no site of yours. Name it in the settings.")
	}
	if _, err := r.Study.Rivals.Fetch(r.Context(), r.Niche, r.Niche.OwnSite,
		rivals.Wanted{Most: rivals.DefaultRanks}); err != nil {
		return err
	}
	return r.To(r.Path("rivals/openings"))
}

type linksPage struct {
	frame.Page
	rivals.Linkers
	Least    int
	More     int
	Followed bool
}

// linkers are those who link to rivals: to those that are followed, or to the first within reach.
func linkers(r *frame.Request) (out rivals.Linkers, followed bool, least int, err error) {
	b, err := r.Table()
	if err != nil {
		return out, false, 0, err
	}
	who, err := r.Study.Rivals.Who(r.Context(), r.Niche, b.Revision)
	if err != nil {
		return out, false, 0, err
	}
	var names []string
	for _, s := range who.Sites {
		if s.Rival.Followed || who.Followed == 0 && len(names) < shownSites && s.Within() && s.Places > 0 {
			names = append(names, s.Site)
		}
	}
	if least = min(2, len(names)); r.Query("of") == "1" {
		least = min(1, len(names))
	}
	out, err = r.Study.Rivals.Linkers(r.Context(), r.Niche, b.Revision, names, least)
	return out, who.Followed > 0, least, err
}

// showLinks shows who links to rivals and not to me.
func showLinks(r *frame.Request) (err error) {
	var v linksPage
	if v.Linkers, v.Followed, v.Least, err = linkers(r); err != nil {
		return err
	}
	if n := len(v.List); n > shownRows {
		v.List, v.More = v.List[:shownRows], n-shownRows
	}
	if v.Page, err = r.Page("Where rivals get their links", "rivals", -1); err != nil {
		return err
	}
	return r.Render("rivals/links", v)
}

// exportLinks sends them as a file.
func exportLinks(r *frame.Request) error {
	out, _, _, err := linkers(r)
	if err != nil {
		return err
	}
	format, err := files.FormatNamed(r.Params("format"))
	if err != nil || format.Name != "csv" && format.Name != "xlsx" {
		return input.ErrNotFound
	}
	title, now := "Links of rivals: "+r.Niche.Name, r.Now()
	return r.Stream(r.FileName("links-of-rivals", format.Ending), format.Media, func(_ context.Context,
		w io.Writer) error {
		return files.Asking(w, out.List, title, now, format)
	})
}
