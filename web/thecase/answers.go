package thecase

import (
	"fmt"
	"math"
	"net/url"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"cleverniche/core/niche"
	"cleverniche/study/thecase"
	"cleverniche/web/draw"
	"cleverniche/web/frame"
)

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
	Apart              string // its currency, where that is another: its money stands on its own bars
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
		money, hour := theirs.Bars.Pays, theirs.Assumed.Bar
		theirs.Bars, theirs.Assumed = set.Bars, set.Assumed // the same for all
		if n.Currency != r.Niche.Currency {                 // but money of another currency stands on its own bars
			theirs.Bars.Pays, theirs.Assumed.Bar = money, hour
		}
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
		if c.Niche.Currency != v.Case.Niche.Currency {
			one.Apart = c.Niche.Currency
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
	write := writer(a.Question, c, r)
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

// writer writes figures of a question.
func writer(q niche.Question, c thecase.Case, r *frame.Request) func(float64) string {
	return func(x float64) string {
		switch q {
		case niche.Pay:
			return thecase.Money(x, c.Niche.Currency)
		case niche.Last, niche.Hold:
			return fmt.Sprintf("%.0f %%", 100*x)
		}
		return r.Speak().Count(int(math.Round(x)))
	}
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
