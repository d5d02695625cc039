// Package filters is the sieve as one sees and changes it: its filters beside a list, what they removed, sieves that
// are saved, and how a sieve is written in an address. Whatever lists something has it beside the list.
package filters

import (
	"strings"

	"cleverniche/core/sieve"
	"cleverniche/study/ideas"
	"cleverniche/web/frame"

	"github.com/gofiber/fiber/v3"
)

// Screen is the page of saved sieves, and what a sieve is asked.
var Screen = frame.Screen{Routes: func(s *frame.Server, niche, _ fiber.Router) {
	niche.Get("/why", s.In(why))
	niche.Get("/chips", s.In(chips))
	sievesRoutes(s, niche)
}}

// Asked is the sieve that an address asks for at a stage.
type Asked struct {
	By      sieve.Sieve
	Stage   frame.Stage
	Problem string // what of the address was left out, and why
	pairs   []sieve.Pair
	short   short
}

// Ask reads the sieve of a request's address; where that asks for none, it is the niche's default one.
func Ask(r *frame.Request, stage frame.Stage) (a Asked, err error) {
	a.Stage = stage
	if a.pairs, a.Problem, err = lengthen(r, Pairs(string(r.Request().URI().QueryString()))); err != nil {
		return a, err
	}
	by, problems := sieve.Read(a.pairs, stage.First)
	if len(problems) > 0 {
		if a.Problem = problems[0].Reason; problems[0].Key != "" {
			a.Problem += " It was left out."
		}
	}
	if a.By, err = usual(r, stage, a.pairs, by); err == nil {
		a.short, err = shorten(r, a.By, stage.First)
	}
	return a, err
}

// Query is a sieve with the filters that were asked for as an address query.
func (a Asked) Query(by sieve.Sieve) string { return a.short.of(Query(by, a.Stage.First)) }

// View is the sieve as it is drawn, with what it did to a table, and what crossing its line costs.
func (a Asked) View(r *frame.Request, b ideas.Table, did sieve.Result) (View, error) {
	v := viewOf(a.By, a.Stage.First, draftsOf(a.pairs, a.By, a.Stage.First), did, r.Speak())
	v.Remade = r.Query("remade") != ""
	if err := v.ownChoices(r); err != nil {
		return v, err
	}
	if err := v.charge(r, b, a.By); err != nil {
		return v, err
	}
	return v, v.offer(r, a.By, a.Stage.First, r.Path(a.Stage.Path))
}

// usual is the niche's usual sieve where an address asks for none; else what it asks for.
func usual(r *frame.Request, stage frame.Stage, asked []sieve.Pair, by sieve.Sieve) (sieve.Sieve, error) {
	if !stage.CountsItsSieve || r.Niche.UsualSieve == 0 || sieve.Asked(asked) {
		return by, nil
	}
	saved, err := r.Study.Sieves.Get(r.Context(), r.Niche.UsualSieve)
	if err != nil {
		return by, err
	}
	return withBase(saved.Sieve, stage.First), nil
}

// TableAt is what a stage lists: the ideas, or the topics.
func TableAt(r *frame.Request, stage frame.Stage) (ideas.Table, error) {
	if !stage.Topics {
		return r.Table()
	}
	topics, err := r.Topics()
	if err != nil {
		return ideas.Table{}, err
	}
	return topics.Table(), nil
}

// Sifting is the sieve that a request's address carries, its stage, and what it is asked of.
func Sifting(r *frame.Request) (by sieve.Sieve, stage frame.Stage, b ideas.Table, err error) {
	if by, stage, err = Of(r, r.Query("stage"), string(r.Request().URI().QueryString())); err == nil {
		b, err = TableAt(r, stage)
	}
	return by, stage, b, err
}

// stop is a filter that stops a phrase, and the address of the sieve that would let it through.
type stop struct {
	sieve.Filter
	Loose string // the filter as it would have to be; "" when it has to go
	Href  string
}

// why says which filters stop a phrase that is not in the list, and what would let it through.
func why(r *frame.Request) error {
	text := strings.TrimSpace(r.Query("phrase"))
	if text == "" {
		return showWhy(r, whyNot{})
	}
	by, stage, b, err := Sifting(r)
	if err != nil {
		return err
	}
	loosened, found := b.LetThrough(text, by)
	var stops []stop
	all := by
	for _, l := range loosened {
		one := stop{Filter: by.Filters[l.At], Href: r.Path(stage.Path) + "?" + Query(l.Apply(by), stage.First)}
		if !l.Out {
			one.Loose = l.Filter.String()
		}
		stops, all = append(stops, one), l.Apply(all)
	}
	return showWhy(r, whyNot{Phrase: text, Found: found, Stops: stops,
		All: r.Path(stage.Path) + "?" + Query(all, stage.First)})
}

// whyNot is why a phrase is not in the list.
type whyNot struct {
	frame.Page
	Phrase, All string
	Found       bool
	Stops       []stop
}

// showWhy shows it beside the list, or, where scripts are off, on a page of its own.
func showWhy(r *frame.Request, w whyNot) (err error) {
	if r.Partial() {
		return r.Render("filters/why", w)
	}
	if w.Page, err = r.Page("Why is a phrase missing?", "", -1); err != nil {
		return err
	}
	return r.Render("filters/why-page", w)
}
