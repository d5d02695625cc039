package idea

import (
	"fmt"
	"strings"

	"cleverniche/core/phrase"
	"cleverniche/core/serp"
	"cleverniche/core/worth"
	"cleverniche/study/input"
	"cleverniche/web/frame"
)

// pageView is the results page as searchers see it: everything in its place.
type pageView struct {
	Idea   uint
	Blocks []block
	Left   string // what that leaves of the clicks
	Placed bool   // the source says where things stand
	Asked  []aroundIt
	New    int // of these
}

// block is one thing on the page.
type block struct {
	Kind  string // ad, answer, offers, questions, result
	Head  string
	Lines []string
	URL   string
	Place int
	Mine  bool
}

// aroundIt is a question around the phrase, and whether it is an idea already.
type aroundIt struct {
	Text  string
	Known uint // the idea that it is; 0 none
}

// pageOf lays the page out.
func pageOf(r *frame.Request, v *View) (p pageView, err error) {
	ev := v.Evidence
	p.Idea = v.Idea.ID
	at := map[int][]block{}
	add := func(above int, b block) {
		if above > 0 {
			p.Placed = true
		} else {
			above = 1
		}
		above = min(above, serp.FirstPage+1, len(ev.Reading.Entries)+1)
		at[above] = append(at[above], b)
	}
	page := ev.Results
	for _, a := range page.Copy {
		add(a.Above, block{Kind: "ad", Head: a.Title, Lines: []string{a.Text, a.Advertiser}, URL: a.URL})
	}
	if n := page.Ads - len(page.Copy); n > 0 {
		add(0, block{Kind: "ad", Head: fmt.Sprintf("%d more %s", n, frame.Plural(n, "ad", "ads")),
			Lines: []string{"the source does not say what they say"}})
	}
	switch {
	case page.Answer != nil:
		add(page.Answer.Above, block{Kind: "answer", Head: "Answer box", Lines: []string{input.Clip(page.Answer.Text, 240)},
			URL: page.Answer.URL})
	case page.AnswerBox:
		add(0, block{Kind: "answer", Head: "Answer box", Lines: []string{"the source does not say what it says"}})
	}
	if page.ShoppingRow {
		b := block{Kind: "offers", Head: "Shopping"}
		for _, o := range page.Offers {
			b.Lines = append(b.Lines, fmt.Sprintf("%s, %s %s, %s", o.Name, o.Price, o.Currency, o.Seller))
		}
		add(page.ShopAbove, b)
	}
	if len(page.Related) > 0 {
		add(page.RelatedAbove, block{Kind: "questions", Head: "Questions around it", Lines: page.Related})
	}
	mine := map[int]bool{}
	for _, place := range ev.MyPages {
		mine[place] = true
	}
	ten := ev.Reading.Ten()
	for i := range len(ten) + 1 {
		p.Blocks = append(p.Blocks, at[i+1]...)
		if i < len(ten) {
			p.Blocks = append(p.Blocks, block{Kind: "result", Head: ten[i].Title, Lines: []string{ten[i].Site}, Place: i + 1,
				Mine: mine[ten[i].Position]})
		}
	}
	p.Left = leftWords(worth.Beside{Ads: page.Ads, AnswerBox: page.AnswerBox, ShoppingRow: page.ShoppingRow})
	b, err := r.Table()
	if err != nil {
		return p, err
	}
	for _, text := range page.Related {
		one := aroundIt{Text: text}
		if ids := b.Named(phrase.Normal(text)); len(ids) > 0 {
			one.Known = ids[0]
		} else {
			p.New++
		}
		p.Asked = append(p.Asked, one)
	}
	return p, nil
}

// leftWords says what stands beside the results takes of the clicks, and what is left.
func leftWords(b worth.Beside) string {
	var takes []string
	if b.Ads > 0 {
		takes = append(takes, fmt.Sprintf("%d %s", b.Ads, frame.Plural(b.Ads, "ad", "ads")))
	}
	if b.AnswerBox {
		takes = append(takes, "an answer box")
	}
	if b.ShoppingRow {
		takes = append(takes, "a shopping row")
	}
	click := 100 * worth.Clicking
	if len(takes) == 0 {
		return fmt.Sprintf("Nothing else takes clicks. Of 100 searches about %.0f click a result at all.", click)
	}
	return fmt.Sprintf("With %s about %.0f of 100 clicks are left for the results: of 100 searches about %.0f click one.",
		strings.Join(takes, ", "), 100*b.Left(), click*b.Left())
}

// takeQuestions makes ideas of questions around an idea: one, or all that are none yet.
func takeQuestions(r *frame.Request) error {
	v, err := looked(r)
	if err != nil {
		return err
	}
	var take []string
	asked := r.FormValue("question")
	for _, text := range v.Evidence.Results.Related {
		if asked == "" || text == asked {
			take = append(take, text)
		}
	}
	if len(take) == 0 {
		return input.Bad("question", "That question is no longer shown for this idea. Reload the page.")
	}
	if _, err := r.Study.Gathering.AddRelated(r.Context(), r.Niche, v.Idea.Phrase, take); err != nil {
		return err
	}
	return r.To(r.Path(fmt.Sprint("ideas/", v.Idea.ID)) + "#page-one")
}
