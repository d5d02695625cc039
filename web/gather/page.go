package gather

import (
	"net/url"
	"slices"
	"strconv"

	"cleverniche/study/gather"
	"cleverniche/study/input"
	"cleverniche/study/jobs"
	"cleverniche/web/draw"
	"cleverniche/web/frame"
	progress "cleverniche/web/jobs"

	"github.com/gofiber/fiber/v3"
)

func pageRoutes(s *frame.Server, niche fiber.Router) {
	wrong := func(r *frame.Request, wrong *input.Error) error { return showAbout(r, wrong.Reason) }
	niche.Get("/gather/page", s.In(func(r *frame.Request) error { return showAbout(r, "") }))
	niche.Post("/gather/page", s.Form(readPage, wrong))
	niche.Post("/gather/page/ticked", s.Form(useTicked, wrong))
}

// aboutPage is what a page, or a site, seems to be about.
type aboutPage struct {
	Here string // the address of this page
	frame.Page
	page
	About gather.About
	At    string
	Site  bool
	Most  string
	Terms []term
	Job   *jobs.Job
	// What reading one page costs at most, and what reading the site does.
	OneCosts, SiteCosts string
	Error               string
	Waiting             bool // it is to be read first
}

// term is a phrase as it is listed.
type term struct {
	Phrase, Times, Pages, In string
	Width                    int
}

// termWidth is how wide the bar of the weightiest phrase is, in px.
const termWidth = 90

// sourceOf reads what page or site a request is about.
func sourceOf(r *frame.Request) (gather.Source, error) {
	most := gather.UsualPages
	if text := r.FormValue("most"); text != "" {
		var err error
		if most, err = strconv.Atoi(text); err != nil {
			most = 0
		}
	}
	return gather.ReadSource(r.FormValue("at"), r.FormValue("site") != "", most)
}

func showAbout(r *frame.Request, wrong string) (err error) {
	v := aboutPage{At: r.FormValue("at"), Site: r.FormValue("site") != "", Most: r.FormValue("most"), Error: wrong}
	if v.Most == "" {
		v.Most = strconv.Itoa(gather.UsualPages)
	}
	v.typed = wrong != ""
	if v.At != "" && wrong == "" {
		of, err := sourceOf(r)
		if err != nil {
			return frame.Again(r.Ctx, err, func(bad *input.Error) error { return showAbout(r, bad.Reason) })
		}
		if v.About, err = r.Study.Gathering.About(r.Context(), r.Niche, of); err != nil {
			return err
		}
		list, err := r.Study.Jobs.List(r.Context(), r.Niche.ID, progress.Shown)
		if err != nil {
			return err
		}
		if at := slices.IndexFunc(list, func(j jobs.Job) bool { return j.Kind == "read pages" }); at >= 0 {
			v.Job = &list[at]
		}
		v.Waiting, v.Here = v.About.Read == 0, pageOf(r, of)
		sp := r.Speak()
		for i, t := range v.About.Terms {
			one := term{Phrase: t.Phrase, Times: sp.Count(t.Times), Pages: sp.Count(t.Pages), Width: termWidth}
			if i > 0 {
				one.Width = draw.Share(int(1000*t.Weight), int(1000*v.About.Terms[0].Weight), termWidth)
			}
			for k, in := range t.In {
				if k > 0 {
					one.In += ", "
				}
				one.In += in
			}
			v.Terms = append(v.Terms, one)
		}
	}
	if err := v.offer(r); err != nil {
		return err
	}
	if v.OneCosts, err = readingCosts(r, gather.Source{}); err != nil {
		return err
	}
	most, _ := strconv.Atoi(v.Most)
	site := gather.Source{Site: true, Most: min(max(0, most), gather.MostPages)}
	if v.SiteCosts, err = readingCosts(r, site); err != nil {
		return err
	}
	if v.Page, err = r.Page("A page", "gather", -1); err != nil {
		return err
	}
	return r.Render("gather/page", v)
}

func readingCosts(r *frame.Request, of gather.Source) (string, error) {
	e, err := r.Study.Gathering.EstimatePages(r.Context(), of)
	return r.Study.Ask.Cost(e), err
}

func readPage(r *frame.Request) error {
	of, err := sourceOf(r)
	if err == nil {
		_, err = r.Study.Gathering.Read(r.Context(), r.Niche, of)
	}
	if err != nil {
		return err
	}
	return r.To(pageOf(r, of))
}

// pageOf is the address of the page about a source.
func pageOf(r *frame.Request, of gather.Source) string {
	q := url.Values{"at": {of.Address}}
	if of.Site {
		q.Set("site", "yes")
		q.Set("most", strconv.Itoa(of.Most))
	}
	return r.Path("gather/page") + "?" + q.Encode()
}

// useTicked adds ticked phrases as ideas, or gathers from them.
func useTicked(r *frame.Request) error {
	if r.FormValue("do") == "gather" {
		return growTicked(r)
	}
	of, err := sourceOf(r)
	if err != nil {
		return err
	}
	if _, err := r.Study.Gathering.AddFrom(r.Context(), r.Niche, of, r.Posted("seed")); err != nil {
		return err
	}
	return r.To(r.Path("gather"))
}
