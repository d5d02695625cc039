// Package thecase is whether a niche is worth entering: the decision, what it would earn, seven questions on bars that
// one moves, beside other niches, small sites that live from it, and the verdict one signs.
package thecase

import (
	"fmt"
	"io"
	"net/url"
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
	niche.Get("/case/money", s.In(showMoney))
	niche.Post("/case/bars", s.Form(keepBars, show))
	niche.Post("/case/draw", s.Form(drawMore, show))
	niche.Post("/case/sites", s.Form(askSites, show))
	niche.Post("/case/hand", s.In(hand))
	niche.Post("/case/candidate", s.Form(candidate, show))
	niche.Post("/case/subject", s.In(saySubject))
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
	Model    *small // of the small sites, the young one with few pages that gets most visits
	AnyDrawn bool
	Oldest   string
	Busiest  string
	Unseen   int // small sites of which age or pages are not known
	SeeCost  string
	Draw     drawing
	Strays   strays
	Money    *paying // nil until it is asked for
	// Candidate is the form of another subject.
	Candidate struct {
		Drawn      int
		Cost, Seed string
	}
	Hand   []handQuestion
	Signed []signed
	Job    *jobs.Job
	Papers []briefs.Paper
	Wrong  string
	Field  string
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
	Answers     []narrowed
}

// narrowed is what drawing more would tell of an answer.
type narrowed struct {
	Question  niche.Question
	Now, Then string
	Turns     bool // the range may then lie on one side of the bar
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
	e, err := r.Study.Case.CandidateCost(ctx, r.Niche)
	if err != nil {
		return err
	}
	v.Candidate.Drawn, v.Candidate.Cost = thecase.FirstDrawn, r.Study.Ask.Cost(e)
	v.Candidate.Seed = r.FormValue("seed")
	if r.FormValue("money") != "" {
		if v.Money, err = moneyOf(r, v.View.Case); err != nil {
			return err
		}
	}
	if err := v.strays(r); err != nil {
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
		b := v.View.Set.Bars
		if v.Model == nil && s.Months >= 0 && s.Months <= b.Months && s.Pages >= 0 && s.Pages <= b.Pages && s.Visits >= 1 {
			v.Model = &one
		}
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
	if c.Told && c.Drawn > 0 && drawn > 0 {
		for _, a := range c.Answers.Answers {
			if !a.Sampled {
				continue
			}
			write := func(x niche.Range) string {
				return writer(a.Question, c, r)(x.Low) + " to " + writer(a.Question, c, r)(x.High)
			}
			then := a.Range.Narrows(c.Drawn, drawn, c.Topics-c.LookedUp)
			v.Draw.Answers = append(v.Draw.Answers, narrowed{a.Question, write(a.Range), write(then),
				!a.Sure && a.Bar.Same(then)})
		}
	} else if drawn > 0 {
		v.Draw.Narrows = fmt.Sprintf("From %d drawn topics on, the answers hold for all of the niche, as ranges.",
			niche.EnoughDrawn)
	}
	return nil
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

// candidate makes a niche of a seed, and shows it beside this one.
func candidate(r *frame.Request) error {
	n, _, err := r.Study.Case.Candidate(r.Context(), r.Niche, r.FormValue("seed"))
	if err != nil {
		return err
	}
	return r.To(frame.PathOf(n, fmt.Sprintf("case?with=%d", r.Niche.ID)))
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
