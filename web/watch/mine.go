package watch

import (
	"net/url"
	"strconv"
	"strings"

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
	list, err := r.Study.Watch.Pages(r.Context(), r.Niche)
	if err != nil {
		return err
	}
	ranking, _, err := r.Study.Articles.Actions(r.Context(), r.Niche, 0)
	if err != nil {
		return err
	}
	if v.Mine, err = r.Study.Watch.Mine(r.Context(), r.Niche, v.SiteKey, list, ranking); err != nil {
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
