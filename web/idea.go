package web

import (
	"errors"
	"fmt"
	"math"
	"strconv"
	"strings"
	"time"

	"cleverniche/core/demand"
	"cleverniche/core/intent"
	"cleverniche/core/serp"
	"cleverniche/core/worth"
	"cleverniche/store"
	"cleverniche/study"

	"github.com/gofiber/fiber/v3"
)

// drawerView is the evidence of one idea, short.
type drawerView struct {
	study.Story
	Whole      bool // on the page of the whole story
	Niche      store.Niche
	Row        rowView
	ReadAs     string // what the results took it for, when that is something else
	Ten        []tenColumn
	Behind     []tenColumn // the results after the ten
	ReachY     float64
	OddsY      float64 // of the difficulty
	Serve      []share
	Year       []yearBar
	YearWords  string
	Season     seasonView
	Estimate   *estimateView // of looking it up
	Again      *estimateView // of asking everything again
	Dig        *estimateView // of digging
	LinksWords string
	FitWords   string
	Found      string // how it was found, in a few words
	Months     []monthView
	Words, By  []share // the two witnesses
}

// tenColumn is one of the ten, drawn.
type tenColumn struct {
	serp.Entry
	Strength  float64
	Height, Y float64
	Mine      bool
	Reasons   []string
	Name      string
}

type share struct {
	Want  string
	Title string
	Share float64
	X, W  float64 // in a bar of 200
	Class string
}

type yearBar struct {
	Month   string
	Text    string
	X, Y, H float64
	Peak    bool // a month of the yearly peak
}

type monthView struct{ Month, Count string }

// Heights of the drawn columns: strength 0 to 100 on tenHeight units.
const tenHeight = 120

func (s *server) drawerOf(c fiber.Ctx, n store.Niche, id uint) (drawerView, error) {
	story, err := s.study.Story(c.Context(), n.ID, id)
	if err != nil {
		return drawerView{}, err
	}
	sp := speak(n)
	row := study.Row{Idea: story.Idea}
	counts, err := store.DecodeMonths(story.Idea.Months)
	if err != nil {
		return drawerView{}, err
	}
	row.Year = demand.Series{Counts: counts}.Latest(12)
	d := drawerView{Story: story, Niche: n, Row: sp.row(row), Found: foundWords(story.Origins)}
	series := demand.Series{Counts: counts}
	d.Season = seasonOf(series, time.Now())
	d.Year, d.YearWords = yearBars(row.Year, d.Season.peak, sp)
	for i := len(counts) - 1; i >= 0; i-- {
		d.Months = append(d.Months, monthView{counts[i].Month.String(), countText(counts[i], sp)})
	}
	dig, err := s.study.EstimateGather(c.Context(), n, study.DigPlan(story.Idea))
	if err != nil {
		return drawerView{}, err
	}
	d.Dig = &estimateView{Estimate: dig, Cost: s.study.Cost(dig)}
	if story.Evidence == nil {
		e, err := s.study.EstimateJudge(c.Context(), n, []uint{id})
		d.Estimate = &estimateView{Estimate: e, Cost: s.study.Cost(e)}
		return d, err
	}
	d.draw(*story.Evidence)
	return d, nil
}

func countText(c demand.Count, sp speaker) string {
	if c.Under {
		return "fewer than " + sp.count(c.Searches)
	}
	return sp.count(c.Searches)
}

// draw fills in what the evidence gives.
func (d *drawerView) draw(ev study.Evidence) {
	scale := float64(tenHeight) / 100
	for _, e := range ev.Reading.Entries {
		t := tenColumn{Entry: e, Strength: ev.Strength(e)}
		t.Height = max(1, t.Strength*scale)
		t.Y = tenHeight - t.Height
		t.Name = strings.Split(e.Site, ".")[0]
		for _, p := range ev.MyPages {
			t.Mine = t.Mine || p == e.Position
		}
		for _, r := range e.Weak {
			t.Reasons = append(t.Reasons, string(r.Weakness))
		}
		if e.Position <= serp.FirstPage {
			d.Ten = append(d.Ten, t)
		} else {
			d.Behind = append(d.Behind, t)
		}
	}
	d.ReachY = tenHeight - ev.Verdict.Reach*scale
	d.OddsY = tenHeight - ev.Verdict.Difficulty*scale
	d.Serve = shares(servedShares(ev.Reading.Serve))
	d.Words, d.By = shares(ev.Intent.Words.Shares), shares(ev.Intent.Ten.Shares)
	if read := ev.Reading.ReadAs; read != ev.Phrase {
		d.ReadAs = read
	}
	v := ev.Verdict
	switch {
	case v.Locked != "":
		d.LinksWords = "Nothing that a page can do."
		return
	case v.Reach >= v.Difficulty:
		d.LinksWords = "My reach is enough as it is."
	case v.LinksOK:
		d.LinksWords = fmt.Sprintf("%d solid %s to the page", v.Links, plural(v.Links, "link", "links"))
	default:
		d.LinksWords = "More links than anyone gets."
	}
	if v.Reach < v.Difficulty {
		d.FitWords = "No fit alone is enough."
		if v.FitOK {
			d.FitWords = fmt.Sprintf("or a fit of %.1f instead of %.1f", v.FitNeeded, ev.Mine.Fit)
		}
	}
}

func servedShares(serve [4]int) intent.Shares {
	var s intent.Shares
	total := 0
	for _, n := range serve {
		total += n
	}
	for i, n := range serve {
		if total > 0 {
			s[i] = float64(n) / float64(total)
		}
	}
	return s
}

func shares(s intent.Shares) []share {
	var out []share
	x := 0.0
	for _, w := range intent.All {
		if s[w] > 0 {
			out = append(out, share{Want: w.String(), Title: w.Standard(), Share: s[w], X: x, W: 200 * s[w],
				Class: strings.ToLower(w.String())})
			x += 200 * s[w]
		}
	}
	return out
}

// seasonView is how a demand lasts and when it peaks, in words.
type seasonView struct {
	Words, Because, PublishBy string
	peak                      demand.Peak
}

func seasonOf(s demand.Series, now time.Time) seasonView {
	if len(s.Counts) == 0 {
		return seasonView{}
	}
	season, trend := demand.SeasonOf(s), demand.TrendOf(s)
	lasting := demand.LastingOf(s)
	v := seasonView{Words: capital(string(lasting)), peak: season.Peak}
	if !season.Known {
		v.Because = fmt.Sprintf("A season needs %d months and %d searches a month.", demand.SeasonMonths, demand.SeasonAverage)
		return v
	}
	v.Because = fmt.Sprintf("Over %d months: season strength %.2f of 1; %s.", len(s.Counts), season.Strength, trendWords(trend))
	day, ok := season.Peak.PublishBy(now, demand.Lead)
	if !ok {
		return v
	}
	span := season.Peak.First.String()
	if season.Peak.Months > 1 {
		span = season.Peak.First.String()[:3] + "–" + season.Peak.Last().String()[:3]
	}
	v.Words += fmt.Sprintf(": peaks %s", span)
	v.PublishBy = day.Format("2 January 2006")
	return v
}

// trendWords says what a trend comes to and how likely chance alone would show one.
func trendWords(t demand.Trend) string {
	p := fmt.Sprintf("p = %.2f", t.P)
	if t.P < 0.01 {
		p = "p < 0.01"
	}
	if t.P >= demand.TrendP {
		return fmt.Sprintf("no trend that chance would not show as well (%s)", p)
	}
	if math.Abs(t.Slope) < demand.TrendSlope {
		return fmt.Sprintf("trend %+.0f %% a year (%s), too little to call it rising or fading", 100*t.Slope, p)
	}
	return fmt.Sprintf("trend %+.0f %% a year (%s)", 100*t.Slope, p)
}

func capital(s string) string { return strings.ToUpper(s[:1]) + s[1:] }

// yearBars draws the latest twelve months in a box of 180 by 40.
func yearBars(counts []demand.Count, peak demand.Peak, sp speaker) (bars []yearBar, words string) {
	if len(counts) == 0 {
		return nil, ""
	}
	most := 1
	var high, low demand.Count
	for _, c := range counts {
		if c.Under {
			continue
		}
		if c.Searches > high.Searches {
			high = c
		}
		if low.Month == 0 || c.Searches < low.Searches {
			low = c
		}
		most = max(most, c.Searches)
	}
	first := counts[len(counts)-1].Month - 11
	for _, c := range counts {
		value := float64(c.Searches)
		if c.Under {
			value /= 2
		}
		h := max(1, 40*value/float64(most))
		if c.Under && high.Month == 0 {
			h = 2
		}
		bars = append(bars, yearBar{Month: c.Month.Of().String()[:1], Text: c.Month.String() + ": " + countText(c, sp),
			X: 15 * float64(c.Month-first), Y: 40 - h, H: h, Peak: peak.Holds(c.Month.Of())})
	}
	if high.Month == 0 {
		return bars, "Every month is under the source's floor."
	}
	return bars, fmt.Sprintf("Most in %s (%s), least in %s (%s)", high.Month.Of(), sp.count(high.Searches), low.Month.Of(), sp.count(low.Searches))
}

// supposedOf is what is supposed for the idea already, as it is typed.
func supposedOf(i store.Idea) (f supposeForm) {
	text := func(x float64) string { return strconv.FormatFloat(x, 'f', -1, 64) }
	if i.MyStanding != nil {
		f.Standing = text(*i.MyStanding)
	}
	if i.MyLinks != nil {
		f.Links = strconv.Itoa(*i.MyLinks)
	}
	if i.MyFit != nil {
		f.Fit = text(*i.MyFit)
	}
	return f
}

// worthOf is what an idea could bring, figure by figure.
func worthOf(st study.Story, sp speaker) []figureView {
	if st.First.Because == "" {
		return nil
	}
	day := st.First.Number / worth.DaysAMonth
	out := []figureView{{"visits a day in first place", fmt.Sprintf("%.1f", day),
		fmt.Sprintf("%s. The first place is clicked by %.1f %% in the log study of 2006 that the curve is from; 80 to 100 a day is a common bar.",
			st.First.Because, 100*worth.DefaultCurve.At(1))}}
	if st.Visits.Because != "" {
		out = append(out, figureView{"visits a month to expect of my page", sp.count(int(math.Round(st.Visits.Number))),
			st.Visits.Because + ". The chances of the places are those of my reach against the ten."})
	}
	if st.Ceiling >= 0 {
		cautious := worth.Cautious(float64(*st.Idea.Searches), worth.Micros(*st.Idea.CPCMicros))
		out = append(out, figureView{"a month, what advertisers would pay at most", study.Money(int64(st.Ceiling), st.Idea.Currency),
			"Searches × cost per click: as if every search were a paid click. A ceiling, not a forecast."},
			figureView{"a month, a cautious tenth of that", study.Money(int64(cautious), st.Idea.Currency),
				"A tenth of the ceiling is what the trade reckons with before a site exists; common practice, no source."})
	}
	return out
}

// foundWords says how an idea was found.
func foundWords(origins []store.Origin) string {
	if len(origins) == 0 {
		return ""
	}
	o := origins[0]
	text := ""
	switch o.Kind {
	case study.FromSeed:
		text = "a seed of yours"
	case study.FromList:
		text = "from " + o.Query
	default:
		text = "from “" + o.Seed + "”"
	}
	if k := len(origins) - 1; k > 0 {
		text += fmt.Sprintf(", and %d more %s", k, plural(k, "way", "ways"))
	}
	return text
}

func (s *server) drawer(c fiber.Ctx) error {
	n, id, err := s.nicheAnd(c, "idea")
	if err != nil {
		return err
	}
	d, err := s.drawerOf(c, n, id)
	if err != nil {
		return err
	}
	return c.Render("drawer", d)
}

// nicheAnd returns the niche in the address, and the number of the thing in it.
func (s *server) nicheAnd(c fiber.Ctx, name string) (store.Niche, uint, error) {
	n, err := s.niche(c)
	if err != nil {
		return n, 0, err
	}
	id, err := idParam(c, name)
	return n, id, err
}

// storyPage is the whole story of one idea.
type storyPage struct {
	page
	D        drawerView
	Back     string
	Suppose  supposeForm
	Worth    []figureView
	Supposed bool // something is, for this idea
}

// supposeForm is what was typed into the form of my reach for one idea.
type supposeForm struct{ Standing, Links, Fit, Field, Error string }

// figureView is a figure with what it is made of.
type figureView struct{ Label, Text, Why string }

func (s *server) story(c fiber.Ctx) error {
	n, id, err := s.nicheAnd(c, "idea")
	if err != nil {
		return err
	}
	return s.showStory(c, n, id, nil)
}

// suppose changes what is supposed of my page for one idea. Empty fields are as the
// niche says.
func (s *server) suppose(c fiber.Ctx) error {
	n, id, err := s.nicheAnd(c, "idea")
	if err != nil {
		return err
	}
	f := supposeForm{Standing: strings.TrimSpace(c.FormValue("standing")), Links: strings.TrimSpace(c.FormValue("links")), Fit: strings.TrimSpace(c.FormValue("fit"))}
	if c.FormValue("clear") != "" {
		f = supposeForm{}
	}
	var x study.Suppose
	number := func(field, text string) *float64 {
		v, err := strconv.ParseFloat(strings.ReplaceAll(text, ",", "."), 64)
		if text == "" || f.Error != "" {
			return nil
		}
		if err != nil {
			f.Field, f.Error = field, fmt.Sprintf("“%s” is not a number.", text)
		}
		return &v
	}
	x.Standing, x.Fit = number("standing", f.Standing), number("fit", f.Fit)
	if links := number("links", f.Links); links != nil && f.Error == "" {
		whole := int(*links)
		if x.Links = &whole; float64(whole) != *links {
			f.Field, f.Error = "links", "Links are counted in whole numbers."
		}
	}
	if f.Error == "" {
		var wrong *study.InputError
		if err := s.study.Suppose(c.Context(), n, id, x); errors.As(err, &wrong) {
			f.Field, f.Error = wrong.Field, wrong.Reason
		} else if err != nil {
			return err
		}
	}
	if f.Error != "" {
		c.Status(fiber.StatusUnprocessableEntity)
		return s.showStory(c, n, id, &f)
	}
	return c.Redirect().Status(fiber.StatusSeeOther).To(fmt.Sprintf("%s#my-reach", nichePath(n, fmt.Sprint("ideas/", id))))
}

func (s *server) showStory(c fiber.Ctx, n store.Niche, id uint, typed *supposeForm) (err error) {
	var v storyPage
	if v.D, err = s.drawerOf(c, n, id); err != nil {
		return err
	}
	v.D.Whole = true
	again, err := s.study.EstimateAgain(c.Context(), 1)
	if err != nil {
		return err
	}
	v.D.Again = &estimateView{Estimate: again, Cost: s.study.Cost(again)}
	if v.page, err = s.frame(c, n, v.D.Idea.Phrase, "judge", -1); err != nil {
		return err
	}
	v.Suppose = supposedOf(v.D.Idea)
	v.Supposed = v.Suppose != supposeForm{}
	if typed != nil {
		v.Suppose = *typed
	}
	v.Worth = worthOf(v.D.Story, speak(n))
	v.Back = nichePath(n, "sift") + "?idea=" + strconv.FormatUint(uint64(id), 10)
	return c.Render("story", v)
}
