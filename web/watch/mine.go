package watch

import (
	"context"
	"io"
	"net/url"
	"strconv"
	"strings"

	"cleverniche/study/files"
	"cleverniche/study/input"
	"cleverniche/study/watch"
	"cleverniche/web/frame"
)

// minePage is the pages of one of my sites and what is wrong with them.
type minePage struct {
	head
	Mine    watch.MyPages
	Faults  []watch.Fault
	Rest    int // faults that are not shown
	Pages   []watch.MyPage
	Others  int // pages that are not shown
	Sites   []ownSite
	SiteKey string
	Most    int
	Cost    string
	Free    bool // it costs nothing
}

// What the page shows at most.
const (
	mostFaults = 50
	mostMine   = 200
)

func showMine(r *frame.Request, wrong *input.Error) (err error) {
	v := minePage{Most: watch.UsualPages}
	if v.head, err = headOf(r, "watch/mine", wrong); err != nil {
		return err
	}
	if v.Sites, v.SiteKey, err = sitesOf(r); err != nil {
		return err
	}
	if v.Mine, err = mineOf(r, v.SiteKey); err != nil {
		return err
	}
	v.Faults = v.Mine.Faults[:min(mostFaults, len(v.Mine.Faults))]
	v.Rest = len(v.Mine.Faults) - len(v.Faults)
	v.Pages = v.Mine.Pages[:min(mostMine, len(v.Mine.Pages))]
	v.Others = len(v.Mine.Pages) - len(v.Pages)
	e, err := r.Study.Watch.MineCost(r.Context(), v.Most)
	if err != nil {
		return err
	}
	v.Cost, v.Free = r.Study.Ask.Cost(e), e.Micros == 0
	return r.Render("watch/mine", v)
}

// mineOf are the pages of a site of mine.
func mineOf(r *frame.Request, site string) (out watch.MyPages, err error) {
	list, err := r.Study.Watch.Pages(r.Context(), r.Niche)
	if err != nil {
		return out, err
	}
	ranking, _, err := r.Study.Articles.Actions(r.Context(), r.Niche, 0)
	if err != nil {
		return out, err
	}
	return r.Study.Watch.Mine(r.Context(), r.Niche, site, list, ranking)
}

// toMine leads to the pages of the site that a form was about.
func toMine(r *frame.Request) error {
	if site := r.FormValue("site"); site != "" {
		return r.To(r.Path("watch/mine?site=" + url.QueryEscape(site)))
	}
	return r.To(r.Path("watch/mine"))
}

func mend(r *frame.Request) error {
	if err := r.Study.Watch.Mend(r.Context(), r.Niche, r.FormValue("url"), r.FormValue("fault"),
		r.FormValue("state")); err != nil {
		return err
	}
	return toMine(r)
}

func readMine(r *frame.Request) error {
	most, err := strconv.Atoi(strings.TrimSpace(r.FormValue("pages")))
	if err != nil {
		return input.Bad("pages", "Type a number of pages.")
	}
	if _, err := r.Study.Watch.ReadMine(r.Context(), r.Niche, r.FormValue("site"), most); err != nil {
		return err
	}
	return toMine(r)
}

// exportMine sends my pages and their faults as a table.
func exportMine(r *frame.Request) error {
	format, err := files.FormatNamed(r.Params("format"))
	if err != nil || format.Name != "csv" && format.Name != "xlsx" {
		return input.ErrNotFound
	}
	_, site, err := sitesOf(r)
	if err != nil {
		return err
	}
	mine, err := mineOf(r, site)
	if err != nil {
		return err
	}
	var out []files.OwnPage
	for _, p := range mine.Pages {
		row := files.OwnPage{URL: p.URL, Phrase: p.Phrase, Next: p.Next, Place: p.Place, Searches: p.Searches,
			Clicks: p.Clicks, Fit: p.Fit}
		some := false
		for _, f := range mine.Faults {
			if f.URL == p.URL {
				some = true
				row.Fault, row.Fix, row.Weight = f.Says, f.Mend, f.Weight
				out = append(out, row)
			}
		}
		if !some {
			out = append(out, row)
		}
	}
	title, now := "Pages of "+mine.Site, r.Now()
	return r.Stream(r.FileName("pages", format.Ending), format.Media, func(_ context.Context, w io.Writer) error {
		return files.OwnPages(w, out, title, now, format)
	})
}
