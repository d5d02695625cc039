package rivals

import (
	"context"
	"errors"
	"fmt"
	"net/url"
	"slices"
	"sort"
	"strconv"
	"strings"

	"cleverniche/core/demand"
	"cleverniche/core/sieve"
	"cleverniche/market"
	"cleverniche/study/ideas"
	"cleverniche/study/input"
	"cleverniche/study/jobs"
	"cleverniche/study/results"
	"cleverniche/study/rivals"
	"cleverniche/web/draw"
	"cleverniche/web/frame"
	progress "cleverniche/web/jobs"

	"github.com/gofiber/fiber/v3"
	"golang.org/x/sync/errgroup"
)

type onePage struct {
	frame.Page
	Site   results.Stander
	Age    string
	Rows   []stand
	More   int
	Gather string // from its pages
	Job    *jobs.Job
	Here   string // the address of this page
	Take   string // where what is ticked is sent

	Rival     rivals.Kept
	Wanted    rivals.Wanted
	Cost      string // of asking for Wanted; "" where nobody can be asked
	Error     string
	FileError string
	Sieve     Sieve
	Ranks     []ranked
	Total     int
	Before    string
	Next      string
	Sections  []block
	Within    []block // of the section that is chosen
	Details   rivals.Details
	Months    string // drawn
	Span      [2]string
	Recent    rivals.Recent
}

// ranked is a phrase that a rival ranks for, as it is shown.
type ranked struct {
	rivals.Ranked
	Difficulty, Chance, Wants, Season string
	of                                string // the rival
}

// block is a section of a site as it is drawn: as wide as phrases, filled as far as within reach.
type block struct {
	rivals.Section
	Name     string
	X, Width float64
	Fill     float64 // height, in px
	Href     string
	Chosen   bool
}

// How sections are drawn, in px, and how many; those behind are one.
const (
	blocksWidth  = 1000.0
	blockHeight  = 44.0
	mostSections = 9
)

type stand struct {
	results.Stand
	Idea       ideas.Idea
	Searches   string
	Difficulty string
	Chance     string
	Decision   string
	Href       string
}

// How many places of a site are shown at first, and at most; and how many of its phrases.
const (
	mostStands  = 12
	allStands   = 500
	shownRanked = 50
)

// showOne shows what is known of one site.
func showOne(r *frame.Request, wrong *input.Error) error {
	name, err := siteIn(r)
	if err != nil {
		return err
	}
	b, err := r.Table()
	if err != nil {
		return err
	}
	ctx := r.Context()
	s, ok, err := r.Study.Results.StandsFor(ctx, r.Niche, b.Revision, name)
	if err != nil {
		return err
	}
	if !ok {
		s = results.Stander{Site: name, Own: name == r.Niche.OwnSite}
	}
	v := onePage{Site: s, Age: frame.Age(s.Since, r.Now()), Sieve: ReadSieve(r),
		Gather: r.Path("gather/page") + "?at=" + url.QueryEscape("http://"+s.Site+"/")}
	if wrong != nil && slices.Contains([]string{"file", "list"}, wrong.Field) {
		v.FileError = wrong.Reason
	} else if wrong != nil {
		v.Error = wrong.Reason
	}
	if err := v.stands(r); err != nil {
		return err
	}
	if v.Rival, err = r.Study.Rivals.Rival(ctx, r.Niche, name); err != nil {
		return err
	}
	v.Wanted = wantedIn(r)
	v.Cost = r.Study.Rivals.Cost(v.Wanted)
	if err := v.ranks(r, b.Revision); err != nil {
		return err
	}
	if v.Details, err = r.Study.Rivals.Details(ctx, r.Niche, name); err != nil {
		return err
	}
	v.Months, v.Span = monthsDrawn(v.Details.Months.Value)
	v.Recent = rivals.RecentOf(v.Rival)
	list, err := r.Study.Jobs.List(ctx, r.Niche.ID, progress.Shown)
	if err != nil {
		return err
	}
	if at := slices.IndexFunc(list, func(j jobs.Job) bool {
		return j.Kind == rivals.RanksJob || j.Kind == rivals.PagesJob
	}); at >= 0 {
		v.Job = &list[at]
	}
	v.Here, v.Take = v.Sieve.At(pathOf(r, name)), v.Sieve.At(pathOf(r, name)+"/take")
	if v.Page, err = r.Page(s.Site, "rivals", -1); err != nil {
		return err
	}
	return r.Render("rivals/site", v)
}

// siteIn is the site that an address names.
func siteIn(r *frame.Request) (string, error) {
	text, err := url.PathUnescape(r.Params("site"))
	if err != nil {
		return "", input.ErrNotFound
	}
	name, err := r.Study.Rivals.SiteOf(text)
	if err != nil || name != text {
		return "", input.ErrNotFound
	}
	return name, nil
}

// stands are its places among the tens, those within reach first.
func (v *onePage) stands(r *frame.Request) error {
	stands := slices.Clone(v.Site.Stands)
	sort.SliceStable(stands, func(i, j int) bool {
		if stands[i].Foothold != stands[j].Foothold {
			return stands[i].Foothold
		}
		return stands[i].Place < stands[j].Place
	})
	most := mostStands
	if r.Query("places") == "all" {
		most = allStands
	}
	if n := len(stands) - most; n > 0 {
		stands, v.More = stands[:most], n
	}
	ids := make([]uint, len(stands))
	for i, st := range stands {
		ids[i] = st.Idea
	}
	list, err := r.Study.Ideas.Ideas(r.Context(), r.Niche.ID, ids)
	if err != nil {
		return err
	}
	byID := map[uint]ideas.Idea{}
	for _, i := range list {
		byID[i.ID] = i
	}
	sp := r.Speak()
	for _, st := range stands {
		i, there := byID[st.Idea]
		if !there {
			continue
		}
		v.Rows = append(v.Rows, stand{st, i, sp.Cell(i, sieve.Searches).Text, sp.Cell(i, sieve.Difficulty).Text,
			sp.Cell(i, sieve.PageOne).Text, []string{"", "kept", "dropped"}[min(2, max(0, int(i.Decision)))],
			r.Path(fmt.Sprint("ideas/", i.ID)) + fmt.Sprintf("?open=%d#place-%d", st.Place, st.Place)})
	}
	return nil
}

// ranks are what it ranks for by a service, and its sections.
func (v *onePage) ranks(r *frame.Request, revision int64) error {
	path, ctx := pathOf(r, v.Site.Site), r.Context()
	var parts errgroup.Group // both go through all phrases of a large site
	if !v.Rival.AskedAt.IsZero() {
		reach, err := reachOf(r)
		if err != nil {
			return err
		}
		parts.Go(func() error { return v.sections(ctx, r.Study.Rivals, revision, reach, path) })
	}
	list, total, err := r.Study.Rivals.Ranks(ctx, r.Niche, v.Rival, v.Sieve.Ranked(shownRanked))
	if err = errors.Join(err, parts.Wait()); err != nil {
		return err
	}
	v.Total = total
	v.Before, v.Next = v.Sieve.Along(path, total, shownRanked)
	sp := r.Speak()
	for _, one := range list {
		row := ranked{Ranked: one, of: v.Site.Site}
		if one.LookedUp() {
			row.Difficulty, row.Chance = sp.Cell(one.Row, sieve.Difficulty).Text, sp.Cell(one.Row, sieve.PageOne).Text
			row.Wants = sp.Cell(one.Row, sieve.Intent).Text
		}
		if one.Idea != 0 {
			row.Season = sp.Cell(one.Row, sieve.Coming).Text
		}
		v.Ranks = append(v.Ranks, row)
	}
	return nil
}

// sections draws its sections, and those of the one that is chosen.
func (v *onePage) sections(ctx context.Context, scout *rivals.Scout, revision int64, reach float64,
	path string) (err error) {
	draw := func(within string) ([]block, error) {
		sections, err := scout.Sections(ctx, v.Rival, revision, within, reach)
		if err != nil {
			return nil, err
		}
		return blocksOf(sections, within, v.Sieve, path), nil
	}
	if v.Sections, err = draw(""); err != nil || v.Sieve.Page == "" {
		return err
	}
	v.Within, err = draw(v.Sieve.Page)
	return err
}

// reachOf is up to which difficulty phrases are within the niche's reach.
func reachOf(r *frame.Request) (float64, error) {
	m, err := r.Study.Niches.Model(r.Context(), r.Niche)
	standing, _ := r.Study.Ask.KnownStanding(r.Context(), r.Niche.OwnSite)
	return m.Reach(m.Mine(r.Niche, standing)), err
}

// blocksOf draws sections side by side.
func blocksOf(list []rivals.Section, within string, s Sieve, path string) (out []block) {
	rest := rivals.Section{}
	all := 0
	for i, one := range list {
		all += one.Phrases
		if i >= mostSections {
			rest.Phrases, rest.Visits = rest.Phrases+one.Phrases, rest.Visits+one.Visits
			rest.Known, rest.Within = rest.Known+one.Known, rest.Within+one.Within
		}
	}
	list = list[:min(mostSections, len(list))]
	if rest.Phrases > 0 {
		list = append(list, rest)
	}
	x := 0.0
	for _, one := range list {
		b := block{Section: one, X: x, Width: blocksWidth * float64(one.Phrases) / float64(max(1, all)),
			Name: sectionName(one.Page, within), Chosen: one.Page != "" && strings.HasPrefix(s.Page, one.Page)}
		if one.Known > 0 {
			b.Fill = blockHeight * float64(one.Within) / float64(one.Known)
		}
		if one.Page != "" && one.Page != within {
			to := s
			to.Page, to.From = one.Page, 0
			b.Href = path + "?" + to.Values().Encode() + "#ranks"
		}
		x += b.Width
		out = append(out, b)
	}
	return out
}

// sectionName is what a section is called: without the host where that is the site's own, and without what it is in.
func sectionName(page, within string) string {
	switch {
	case page == "":
		return "others"
	case page == within:
		return "its own pages"
	case within != "":
		return strings.TrimSuffix(strings.TrimPrefix(page, within), "/")
	}
	host, path, _ := strings.Cut(page, "/")
	if strings.Trim(path, "/") == "" {
		return host + "/"
	}
	return "/" + strings.Trim(path, "/")
}

// How months are drawn, in px, and how many.
const (
	shownMonths  = 12
	monthsWidth  = 360
	monthsHeight = 70
)

// monthsDrawn is the path of what a site got by month, and the first and the last of them.
func monthsDrawn(m market.SiteMonths) (path string, span [2]string) {
	var counts []demand.Count
	list := m.List[max(0, len(m.List)-shownMonths):]
	for _, one := range list {
		month, err := demand.ParseMonth(one.Month)
		if err == nil && one.Visits != nil {
			counts = append(counts, demand.Count{Month: month, Searches: int(*one.Visits)})
		}
	}
	if len(counts) < 2 {
		return "", span
	}
	return draw.Months(counts, monthsWidth, monthsHeight), [2]string{list[0].Month, list[len(list)-1].Month}
}

// wantedIn is what a form asks for of a site; what it does not name is as usual.
func wantedIn(r *frame.Request) rivals.Wanted {
	text := func(name string) string { return strings.TrimSpace(r.FormValue(name)) }
	w := rivals.Wanted{Most: rivals.DefaultRanks}
	if n, err := strconv.Atoi(strings.ReplaceAll(text("most"), ",", "")); err == nil {
		w.Most = n
	}
	if r.Method() != "POST" {
		return w
	}
	w.Contains, w.Lacks, w.Starts, w.Ends = text("with"), text("without"), text("starts"), text("ends")
	w.PlaceTo, w.SearchesFrom, w.SearchesTo = whole(text("place-to")), whole(text("searches-from")),
		whole(text("searches-to"))
	w.Order = "visits"
	return w
}

// showCost says what a form would cost.
func showCost(r *frame.Request) error {
	return r.Render("rivals/cost", fiber.Map{"Cost": r.Study.Rivals.Cost(wantedIn(r)), "Most": wantedIn(r).Most})
}

// fetch begins to ask what a site ranks for.
func fetch(r *frame.Request) error {
	name, err := siteIn(r)
	if err != nil {
		return err
	}
	if _, err := r.Study.Rivals.Fetch(r.Context(), r.Niche, name, wantedIn(r)); err != nil {
		return err
	}
	return r.To(pathOf(r, name))
}

// pathOf is the address of a site's page.
func pathOf(r *frame.Request, name string) string { return r.Path("sites/" + url.PathEscape(name)) }

// back leads to the site again.
func back(r *frame.Request, do func(name string) error) error {
	name, err := siteIn(r)
	if err != nil {
		return err
	}
	if err := do(name); err != nil {
		return err
	}
	return r.To(ReadSieve(r).At(pathOf(r, name)) + "#ranks")
}

func askDetails(r *frame.Request) error {
	return back(r, func(name string) error { return r.Study.Rivals.AskDetails(r.Context(), r.Niche, name) })
}

// receive keeps a table about the site aside, and shows how it is understood.
func receive(r *frame.Request) error {
	name, err := siteIn(r)
	if err != nil {
		return err
	}
	head, err := r.FormFile("file")
	if err != nil || head.Size == 0 {
		return input.Bad("file", "Choose a file.")
	}
	in, err := head.Open()
	if err != nil {
		return err
	}
	defer in.Close()
	u, err := r.Study.Imports.ReceiveOf(r.Context(), r.Niche, name, head.Filename, in)
	if err != nil {
		return err
	}
	return r.To(r.Path("import/" + u.Token))
}

func forget(r *frame.Request) error {
	return back(r, func(name string) error { return r.Study.Rivals.Forget(r.Context(), r.Niche, name) })
}

func askRecent(r *frame.Request) error {
	return back(r, func(name string) error {
		_, err := r.Study.Rivals.AskRecent(r.Context(), r.Niche, name)
		return err
	})
}

// take makes ideas of the phrases that were ticked, or seeds of their subjects.
func take(r *frame.Request) error {
	if r.FormValue("gather") != "" {
		q := url.Values{"seed": {strings.Join(r.Posted("subject"), "\n")}}
		if len(q["seed"][0]) == 0 {
			return input.Bad("phrases", "Tick at least one phrase.")
		}
		return r.To(r.Path("gather") + "?" + q.Encode())
	}
	if r.FormValue("cross") != "" {
		return cross(r)
	}
	if r.FormValue("niche") != "" {
		subjects := r.Posted("subject")
		if len(subjects) == 0 {
			return input.Bad("phrases", "Tick a subject.")
		}
		q := url.Values{"name": {frame.Capital(subjects[0])}, "seed": {strings.Join(subjects, "\n")},
			"country": {r.Niche.Country}, "language": {r.Niche.Language}}
		return r.To("/niches/new?" + q.Encode())
	}
	return back(r, func(name string) error {
		_, err := r.Study.Rivals.Take(r.Context(), r.Niche, name, r.Posted("phrase"))
		return err
	})
}

// mostCrossed is how many phrases are taken along to be combined: an address holds no more.
const mostCrossed = 40

// cross leads to where the phrases that were ticked are combined with the niche's seeds.
func cross(r *frame.Request) error {
	phrases := r.Posted("phrase")
	if len(phrases) == 0 {
		return input.Bad("phrases", "Tick at least one phrase.")
	}
	seeds, err := r.Study.Niches.Seeds(r.Context(), r.Niche.ID)
	if err != nil {
		return err
	}
	var mine []string
	for _, s := range seeds[:min(mostCrossed, len(seeds))] {
		mine = append(mine, s.Phrase)
	}
	q := url.Values{"list1": {strings.Join(phrases[:min(mostCrossed, len(phrases))], "\n")},
		"list2": {strings.Join(mine, "\n")}}
	return r.To(r.Path("gather/cross") + "?" + q.Encode())
}

// Short is its page without the host, where that is the rival's own.
func (r ranked) Short() string {
	host, path, _ := strings.Cut(r.Ranked.Page, "/")
	if strings.TrimPrefix(host, "www.") == r.of {
		return "/" + path
	}
	return r.Ranked.Page
}

// Top is where what is filled of a block begins.
func (b block) Top() float64 { return blockHeight - b.Fill }
