// Package thecase is whether a niche is worth entering: the decision, what it would earn, seven questions on bars that
// one moves, beside other niches, small sites that live from it, and the verdict one signs.
package thecase

import (
	"cmp"
	"fmt"
	"io"
	"math"
	"net/url"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"cleverniche/core/niche"
	"cleverniche/study/briefs"
	"cleverniche/study/input"
	"cleverniche/study/jobs"
	"cleverniche/study/thecase"
	"cleverniche/web/draw"
	"cleverniche/web/frame"
	progress "cleverniche/web/jobs"

	"github.com/gofiber/fiber/v3"
)

// Screen is its page.
var Screen = frame.Screen{Routes: func(s *frame.Server, niche, _ fiber.Router) {
	niche.Get("/case", s.In(func(r *frame.Request) error { return show(r, nil) }))
	niche.Post("/case/answers", s.In(answers))
	niche.Post("/case/bars", s.Form(keepBars, show))
	niche.Post("/case/draw", s.Form(drawMore, show))
	niche.Post("/case/sites", s.Form(askSites, show))
	niche.Post("/case/hand", s.In(hand))
	niche.Post("/case/sign", s.Form(sign, show))
	niche.Post("/case/withdraw", s.In(withdraw))
	for _, p := range briefs.Papers() {
		niche.Get("/case/case."+p.Name, s.In(func(r *frame.Request) error { return report(r, p) }))
	}
}}

// Most is how many niches stand side by side.
const Most = 3

// drawnAtOnce is how many topics one draws, unless one says otherwise.
const drawnAtOnce = 40

type page struct {
	frame.Page
	View     view
	Others   []other
	Small    []small
	SmallAll int
	AnyDrawn bool
	Oldest   string
	Busiest  string
	Unseen   int // small sites of which age or pages are not known
	SeeCost  string
	Draw     drawing
	Hand     []handQuestion
	Signed   []signed
	Job      *jobs.Job
	Papers   []briefs.Paper
	Wrong    string
	Field    string
}

// view is what moves with the bars.
type view struct {
	ID     uint
	Case   thecase.Case
	Cases  []thecase.Case
	Months []month
	Band   draw.Band
	Most   string
	Hour   amounts
	Bar    string
	Visit  string
	Turn   string // what a visit must bring for so many hours to be worth it; "" they are
	Enough string
	Back   string
	// Clearing is what the articles that bring the bar are expected to bring a month.
	Clearing string
	Heads    []head
	Rows     []row
	Wrong    string
	Set      thecase.Settings
	Fields   []field
}

// head is a niche at the head of its answers.
type head struct {
	Name, Hour, Spread string
	Decision           thecase.Decision
}

type amounts struct{ Low, Likely, High string }

type month struct {
	At    int
	Money amounts
	Hours string
	Out   int
}

// row is a question, with the answers of all niches.
type row struct {
	Question niche.Question
	Means    string
	Yes      field
	Partly   field
	More     []field
	Cells    []cell
}

type cell struct {
	niche.Answer
	Says    string
	Spread  string
	Width   float64 // of the track that is filled; the bar stands in its middle
	From    float64 // of the range
	Long    float64
	Turns   string
	Least   string // so much at least, where the whole cannot be told
	Weakest bool
	Facts   []fact
	Niche   uint
	At      int // of the seven, from 0
}

// fact is one piece of evidence, and where it is shown.
type fact struct{ What, Says, Href string }

// field is a number that can be moved.
type field struct {
	Name, Label, Value, Unit string
}

type other struct {
	ID     uint
	Name   string
	Chosen bool
}

type small struct {
	thecase.Small
	Worth, Cautious string
	Dot             draw.Ball
	Drawn           bool
}

type drawing struct {
	Many, Drawn int
	Cost        string
	Five        int // how many look-ups so much buys
	Money       string
	Narrows     string
}

type handQuestion struct{ Key, Says, Text string }

type signed struct {
	thecase.Signed
	Income, Hour, Bar string
}

// Sizes of what is drawn.
const (
	bandWidth, bandHeight = 480.0, 120.0
	dotsWidth, dotsHeight = 480.0, 180.0
	trackWidth            = 200.0
)

func show(r *frame.Request, wrong *input.Error) error {
	ctx := r.Context()
	v := page{Papers: briefs.Papers()}
	if wrong != nil {
		v.Wrong, v.Field = wrong.Reason, wrong.Field
	}
	var err error
	if v.View, err = viewOf(r); err != nil {
		return err
	}
	if err := v.others(r); err != nil {
		return err
	}
	if err := v.small(r); err != nil {
		return err
	}
	if err := v.drawing(r); err != nil {
		return err
	}
	for _, q := range thecase.HandQuestions {
		v.Hand = append(v.Hand, handQuestion{q.Key, q.Says, v.View.Set.Hand[q.Key]})
	}
	list, err := r.Study.Case.Signed(ctx, r.Niche)
	if err != nil {
		return err
	}
	for _, one := range list {
		f := one.Figures
		v.Signed = append(v.Signed, signed{one, thecase.Money(f.Income[1], f.Currency), thecase.Money(f.Hour[1], f.Currency),
			thecase.Money(f.Bar, f.Currency)})
	}
	running, err := r.Study.Jobs.List(ctx, r.Niche.ID, progress.Shown)
	if err != nil {
		return err
	}
	if at := slices.IndexFunc(running, func(j jobs.Job) bool { return j.Runs() }); at >= 0 {
		v.Job = &running[at]
	}
	if v.Page, err = r.Page("The case", "case", -1); err != nil {
		return err
	}
	return r.Render("thecase/page", v)
}

// answers are what moves with the bars.
func answers(r *frame.Request) error {
	v, err := viewOf(r)
	if err != nil {
		return err
	}
	return r.Render("thecase/answers", v)
}

// thousands is a number whose commas stand between groups of three; any other comma stands before decimals.
var thousands = regexp.MustCompile(`^\d{1,3}(,\d{3})+(\.\d+)?$`)

// settingsIn are the niche's bars and assumptions, with what the address or a form says otherwise.
func settingsIn(r *frame.Request, set thecase.Settings) (out thecase.Settings, err error) {
	out = set
	for _, f := range fieldsOf(&out) {
		text := strings.TrimSpace(r.FormValue(f.name))
		if text == "" {
			continue
		}
		if thousands.MatchString(text) {
			text = strings.ReplaceAll(text, ",", "")
		}
		x, bad := strconv.ParseFloat(strings.ReplaceAll(text, ",", "."), 64)
		if bad != nil || math.IsNaN(x) || math.IsInf(x, 0) {
			return set, input.Bad("bars", "“%s” is no number.", input.Clip(text, 20))
		}
		if f.get() != x { // what is shown rounded stays as it is
			f.set(x)
		}
	}
	return out, cmp.Or(out.Bars.Check(), out.Assumed.Check())
}

// moving is a number of the settings, by its name in forms.
type moving struct {
	name, label, unit string
	question          niche.Question // that it belongs to; "" it is an assumption
	get               func() float64
	set               func(float64)
}

func number(name, label, unit string, q niche.Question, at *float64) moving {
	return moving{name, label, unit, q, func() float64 { return *at }, func(x float64) { *at = x }}
}

func whole(name, label, unit string, q niche.Question, at *int) moving {
	return moving{name, label, unit, q, func() float64 { return float64(*at) },
		func(x float64) { *at = int(math.Round(max(-1e6, min(x, 1e6)))) }}
}

// percentage is a share that is shown as a hundredfold.
func percentage(name, label string, q niche.Question, at *float64) moving {
	return moving{name, label, "%", q, func() float64 { return math.Round(1000**at) / 10 },
		func(x float64) { *at = x / 100 }}
}

// fieldsOf are all numbers that can be moved.
func fieldsOf(s *thecase.Settings) []moving {
	b, a := &s.Bars, &s.Assumed
	return []moving{
		number("hours", "hours a week", "", "", &a.WeekHours),
		number("most", "hours in all, 0 until it runs dry", "", "", &a.MostHours),
		number("bar", "an hour must bring", "money", "", &a.Bar),
		number("lead", "months to the place", "", "", &a.LeadMonths),
		number("tied", "outcomes tied, 0 to 0.99", "", "", &a.Tied),
		number("chosen", "of its forecast comes, 0 to 1", "", "", &a.Chosen),
		number("open-yes", "yes from", "topics", niche.GetIn, &b.Open.Yes),
		number("open-partly", "partly from", "topics", niche.GetIn, &b.Open.Partly),
		number("difficulty", "difficulty at most", "", niche.GetIn, &b.Difficulty),
		number("demand-yes", "yes from", "searches", niche.Searched, &b.Demand.Yes),
		number("demand-partly", "partly from", "searches", niche.Searched, &b.Demand.Partly),
		number("enough-yes", "yes from", "topics", niche.Write, &b.Enough.Yes),
		number("enough-partly", "partly from", "topics", niche.Write, &b.Enough.Partly),
		number("searches", "each searched", "a month", niche.Write, &b.Searches),
		number("done-yes", "yes from", "sites", niche.Small, &b.Done.Yes),
		number("done-partly", "partly from", "sites", niche.Small, &b.Done.Partly),
		number("standing", "standing at most", "", niche.Small, &b.Standing),
		whole("age", "months old at most", "", niche.Small, &b.Months),
		whole("pages", "pages at most", "", niche.Small, &b.Pages),
		whole("phrases", "phrases at least", "", niche.Small, &b.Phrases),
		number("pays-yes", "yes from", "a month", niche.Pay, &b.Pays.Yes),
		number("pays-partly", "partly from", "a month", niche.Pay, &b.Pays.Partly),
		percentage("lasts-yes", "yes from", niche.Last, &b.Lasts.Yes),
		percentage("lasts-partly", "partly from", niche.Last, &b.Lasts.Partly),
		percentage("held-yes", "yes from", niche.Hold, &b.Held.Yes),
		percentage("held-partly", "partly from", niche.Hold, &b.Held.Partly),
	}
}

// means is what a question counts.
var means = map[niche.Question]string{niche.GetIn: "topics under the bar of difficulty",
	niche.Searched: "their searches a month", niche.Write: "topics with enough searches",
	niche.Small: "sites with low standing, young, few pages, many phrases",
	niche.Pay:   "a tenth of what advertisers would pay, a month", niche.Last: "share of searches that do not fade",
	niche.Hold: "share of results that are footholds"}

// viewOf reckons what is shown, by what the address says.
func viewOf(r *frame.Request) (v view, err error) {
	ctx := r.Context()
	v.ID = r.Niche.ID
	kept, err := r.Study.Case.Settings(ctx, r.Niche)
	if err != nil {
		return v, err
	}
	set, bad := settingsIn(r, kept)
	if bad == nil {
		v.Case, bad = r.Study.Case.Of(ctx, r.Niche, set)
	}
	v.Set = set
	if bad != nil { // what was typed cannot be: the answers by the kept bars, and why; what was typed stays
		v.Wrong, set = bad.Error(), kept
		if v.Case, err = r.Study.Case.Of(ctx, r.Niche, kept); err != nil {
			return v, err
		}
	}
	v.Cases = []thecase.Case{v.Case}
	for _, id := range chosen(r) {
		n, err := r.Study.Niches.Get(ctx, id)
		if err != nil {
			v.Wrong = "One of the subjects is not there any more."
			continue
		}
		theirs, err := r.Study.Case.Settings(ctx, n)
		if err != nil {
			return v, err
		}
		theirs.Bars = set.Bars // the same for all
		theirs.Assumed = set.Assumed
		c, err := r.Study.Case.Of(ctx, n, theirs)
		if err != nil {
			return v, err
		}
		v.Cases = append(v.Cases, c)
	}
	v.earnings()
	v.rows(r)
	return v, nil
}

// chosen are the other niches that stand beside this one.
func chosen(r *frame.Request) (out []uint) {
	list := r.Posted("with")
	for _, text := range r.Request().URI().QueryArgs().PeekMulti("with") {
		list = append(list, string(text))
	}
	for _, text := range list {
		id, err := strconv.ParseUint(text, 10, 32)
		if err == nil && uint(id) != r.Niche.ID && !slices.Contains(out, uint(id)) && len(out) < Most-1 {
			out = append(out, uint(id))
		}
	}
	return out
}

func (v *view) amounts(x niche.Range) amounts {
	c := v.Case.Niche.Currency
	return amounts{thecase.Money(x.Low, c), thecase.Money(x.Likely, c), thecase.Money(x.High, c)}
}

func (v *view) earnings() {
	c, e := v.Case.Niche.Currency, v.Case.Earn
	v.Bar, v.Visit = thecase.Money(v.Set.Assumed.Bar, c), thecase.Money(v.Case.Visit.Likely, c)
	if v.Case.EarnWhy != "" {
		return
	}
	v.Hour, v.Clearing = v.amounts(e.Hour), thecase.Money(e.AboveIncome, c)
	for _, m := range thecase.Marks {
		one := e.Months[m-1]
		v.Months = append(v.Months, month{m, v.amounts(one.Income), fmt.Sprintf("%.0f", one.Hours), one.Out})
	}
	if e.Turn > 1 {
		v.Turn, v.Enough = thecase.Money(v.Case.Visit.Likely*e.Turn, c), fmt.Sprintf("%.0f", v.Case.Enough())
	}
	var low, likely, high []float64
	most := 0.0
	for _, m := range e.Months {
		low, likely, high = append(low, m.Income.Low), append(likely, m.Income.Likely), append(high, m.Income.High)
		most = max(most, m.Income.High)
	}
	v.Band, v.Most = draw.Along(low, likely, high, most, bandWidth, bandHeight), thecase.Money(most, c)
	if e.Back.Likely <= float64(len(e.Months)) {
		v.Back = fmt.Sprintf("after %.0f months", e.Back.Likely)
	}
}

func (v *view) rows(r *frame.Request) {
	for _, c := range v.Cases {
		one := head{Name: c.Niche.Name, Decision: c.Decision}
		if c.EarnWhy == "" {
			h, in := c.Earn.Hour, c.Niche.Currency
			one.Hour, one.Spread = thecase.Money(h.Likely, in), thecase.Money(h.Low, in)+" to "+thecase.Money(h.High, in)
		}
		v.Heads = append(v.Heads, one)
	}
	moving := fieldsOf(&v.Set)
	for i, q := range niche.Questions {
		one := row{Question: q, Means: means[q]}
		for _, m := range moving {
			if m.question != q {
				continue
			}
			f := shown(m)
			switch {
			case strings.HasSuffix(m.name, "-yes"):
				one.Yes = f
			case strings.HasSuffix(m.name, "-partly"):
				one.Partly = f
			default:
				one.More = append(one.More, f)
			}
		}
		for _, c := range v.Cases {
			one.Cells = append(one.Cells, v.cell(c, c.Answers.Answers[i], r))
		}
		v.Rows = append(v.Rows, one)
	}
	for _, m := range moving {
		if m.question == "" {
			f := shown(m)
			if f.Unit == "money" {
				f.Unit = v.Case.Niche.Currency
			}
			v.Fields = append(v.Fields, f)
		}
	}
}

func shown(m moving) field {
	return field{m.name, m.label, strconv.FormatFloat(m.get(), 'f', -1, 64), m.unit}
}

// cell is one answer, drawn: the bar of yes stands in the middle of its track.
func (v *view) cell(c thecase.Case, a niche.Answer, r *frame.Request) cell {
	at := func(x float64) float64 {
		if a.Bar.Yes <= 0 {
			return trackWidth
		}
		return math.Round(10*trackWidth*min(1, max(0, x/(2*a.Bar.Yes)))) / 10
	}
	sp := r.Speak()
	a.Because = grouped(a.Because, sp)
	out := cell{Answer: a, Niche: c.Niche.ID, At: slices.Index(niche.Questions, a.Question),
		Turns: grouped(a.Turns(), sp), Weakest: a.Question == c.Answers.Weakest()}
	write := func(x float64) string {
		switch a.Question {
		case niche.Pay:
			return thecase.Money(x, c.Niche.Currency)
		case niche.Last, niche.Hold:
			return fmt.Sprintf("%.0f %%", 100*x)
		}
		return sp.Count(int(math.Round(x)))
	}
	for _, e := range a.Evidence {
		path := "sift?holds=" + url.QueryEscape(e.What)
		if a.Question == niche.Small || a.Question == niche.Hold {
			path = "sites/" + url.PathEscape(e.What)
		}
		out.Facts = append(out.Facts, fact{e.What, grouped(e.Says, sp), frame.PathOf(c.Niche, path)})
	}
	if a.Verdict == niche.Cannot {
		if a.Range.Likely > 0 {
			out.Least = write(a.Range.Likely)
		}
		return out
	}
	out.Says, out.Width = write(a.Figure), at(a.Figure)
	if a.Sampled {
		out.Spread = fmt.Sprintf("%s to %s", write(a.Range.Low), write(a.Range.High))
		out.From, out.Long = at(a.Range.Low), at(a.Range.High)-at(a.Range.Low)
	}
	return out
}

// large are whole numbers that are written in groups of three.
var large = regexp.MustCompile(`\b\d{4,}\b`)

func grouped(text string, sp frame.Speaker) string {
	return large.ReplaceAllStringFunc(text, func(digits string) string {
		n, err := strconv.Atoi(digits)
		if err != nil {
			return digits
		}
		return sp.Count(n)
	})
}

// others are the niches that may stand beside this one.
func (v *page) others(r *frame.Request) error {
	list, err := r.Study.Niches.All(r.Context())
	if err != nil {
		return err
	}
	beside := chosen(r)
	for _, n := range list {
		if n.ID == r.Niche.ID || n.ListOf != 0 || n.Archived {
			continue
		}
		v.Others = append(v.Others, other{n.ID, n.Name, slices.Contains(beside, n.ID)})
	}
	return nil
}

// small are the sites that may live from the niche, listed and drawn by age, visits and pages.
func (v *page) small(r *frame.Request) error {
	list, all, err := r.Study.Case.Small(r.Context(), r.Niche, v.View.Set.Bars, thecase.MostSmall)
	if err != nil {
		return err
	}
	v.SmallAll = all
	oldest, busiest, largest := 0.0, 0.0, 0.0
	for _, s := range list {
		oldest, busiest, largest = max(oldest, float64(s.Months)), max(busiest, s.Visits), max(largest, float64(s.Pages))
	}
	for _, s := range list {
		one := small{Small: s, Worth: thecase.Money(s.Worth, r.Niche.Currency), Drawn: s.Months >= 0,
			Cautious: thecase.Money(s.Cautious, r.Niche.Currency)}
		one.Dot = draw.Scattered(float64(s.Months), s.Visits, float64(max(0, s.Pages)), oldest, busiest, largest, dotsWidth,
			dotsHeight)
		v.Small = append(v.Small, one)
		v.AnyDrawn = v.AnyDrawn || one.Drawn
	}
	if v.Unseen, v.SeeCost, err = r.Study.Case.SitesCost(r.Context(), r.Niche, v.View.Set.Bars); err != nil {
		return err
	}
	v.Oldest, v.Busiest = frame.MonthsOld(int(oldest)), r.Speak().Count(int(busiest))
	return nil
}

// drawing says what it costs to draw more, and what that would narrow.
func (v *page) drawing(r *frame.Request) error {
	many, err := strconv.Atoi(r.FormValue("many"))
	if err != nil || many < 1 || many > thecase.MostDrawn {
		many = drawnAtOnce
	}
	v.Draw.Many = many
	e, drawn, err := r.Study.Case.DrawCost(r.Context(), r.Niche, many)
	if err != nil {
		return err
	}
	v.Draw.Drawn, v.Draw.Cost = drawn, r.Study.Ask.Cost(e)
	if drawn > 0 && e.Micros > 0 {
		v.Draw.Money = r.Study.Ask.Money(5_000_000)
		v.Draw.Five = int(5_000_000 * int64(drawn) / e.Micros)
	}
	c := v.View.Case
	if n := c.Drawn; c.Told && n > 0 {
		now, then := wide(c, n), wide(c, n+drawn)
		v.Draw.Narrows = fmt.Sprintf("The share of topics within reach is known to %.0f points either way now, and would be "+
			"to about %.0f.", now, then)
	} else if drawn > 0 {
		v.Draw.Narrows = fmt.Sprintf("From %d drawn topics on, the answers hold for all of the niche, as ranges.",
			niche.EnoughDrawn)
	}
	return nil
}

// wide is half the range of a share within reach that so many drawn topics would tell, in points.
func wide(c thecase.Case, n int) float64 {
	share := 0.0
	if c.Topics > 0 {
		share = c.Within.Likely / float64(c.Topics)
	}
	low, high := niche.Wilson(int(math.Round(share*float64(n))), n)
	return 50 * (high - low)
}

// back leads to the page again, with the same niches beside it.
func back(r *frame.Request, at string) error {
	q := url.Values{}
	for _, id := range r.Posted("with") {
		q.Add("with", id)
	}
	path := r.Path("case")
	if len(q) > 0 {
		path += "?" + q.Encode()
	}
	return r.To(path + at)
}

func keepBars(r *frame.Request) error {
	kept, err := r.Study.Case.Settings(r.Context(), r.Niche)
	if err != nil {
		return err
	}
	switch {
	case r.FormValue("keep") == "" && r.FormValue("reset") == "":
		q := url.Values{"with": r.Posted("with")}
		for _, f := range fieldsOf(&kept) {
			q.Set(f.name, r.FormValue(f.name))
		}
		return r.To(r.Path("case") + "?" + q.Encode())
	case r.FormValue("reset") != "":
		if err := r.Study.Case.Reset(r.Context(), r.Niche); err != nil {
			return err
		}
		return back(r, "")
	}
	set, err := settingsIn(r, kept)
	if err != nil {
		return err
	}
	if err := r.Study.Case.Move(r.Context(), r.Niche, set.Bars, set.Assumed); err != nil {
		return err
	}
	return back(r, "")
}

func drawMore(r *frame.Request) error {
	many, err := strconv.Atoi(strings.TrimSpace(r.FormValue("many")))
	if err != nil {
		return input.Bad("many", "Type how many topics to draw.")
	}
	if _, err := r.Study.Case.Draw(r.Context(), r.Niche, many); err != nil {
		return err
	}
	return back(r, "#sure")
}

func askSites(r *frame.Request) error {
	set, err := r.Study.Case.Settings(r.Context(), r.Niche)
	if err != nil {
		return err
	}
	if _, err := r.Study.Case.AskSites(r.Context(), r.Niche, set.Bars); err != nil {
		return err
	}
	return back(r, "#small")
}

func hand(r *frame.Request) error {
	said := map[string]string{}
	for _, q := range thecase.HandQuestions {
		said[q.Key] = strings.TrimSpace(r.FormValue(q.Key))
	}
	if err := r.Study.Case.Answer(r.Context(), r.Niche, said); err != nil {
		return err
	}
	return back(r, "#hand")
}

// now is the case as it is kept.
func now(r *frame.Request) (thecase.Case, error) {
	set, err := r.Study.Case.Settings(r.Context(), r.Niche)
	if err != nil {
		return thecase.Case{}, err
	}
	return r.Study.Case.Of(r.Context(), r.Niche, set)
}

func sign(r *frame.Request) error {
	c, err := now(r)
	if err != nil {
		return err
	}
	if err := r.Study.Case.Sign(r.Context(), c, thecase.Decision(r.FormValue("said")), r.FormValue("words")); err != nil {
		return err
	}
	return back(r, "#verdict")
}

func withdraw(r *frame.Request) error {
	id, err := strconv.ParseUint(r.FormValue("id"), 10, 32)
	if err != nil {
		return input.ErrNotFound
	}
	if err := r.Study.Case.Withdraw(r.Context(), r.Niche, uint(id)); err != nil {
		return err
	}
	return back(r, "#verdict")
}

// report sends the case as a file.
func report(r *frame.Request, p briefs.Paper) error {
	c, err := now(r)
	if err != nil {
		return err
	}
	b, err := r.Study.Case.Report(r.Context(), r.Niche, c)
	if err != nil {
		return err
	}
	return r.SendFile("case-"+briefs.FileName(r.Niche.Name)+"."+p.Name, p.Media, func(w io.Writer) error {
		return p.Write(w, b)
	})
}
