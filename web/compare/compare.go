// Package compare is two to five ideas side by side: all figures, the results that they share, and whether one article
// answers both.
package compare

import (
	"cmp"
	"errors"
	"fmt"
	"slices"

	"cleverniche/core/sieve"
	"cleverniche/study/ideas"
	"cleverniche/study/input"
	"cleverniche/study/results"
	"cleverniche/study/topics"
	"cleverniche/web/frame"

	"github.com/gofiber/fiber/v3"
)

// Screen is its page.
var Screen = frame.Screen{Routes: func(s *frame.Server, niche, _ fiber.Router) {
	niche.Get("/compare", s.In(show))
}}

// Most is how many ideas are compared at once.
const Most = 5

type page struct {
	frame.Page
	Ideas   []ideas.Idea
	Rows    []row
	Pairs   []pair
	Results []shared
}

type row struct {
	Name, Means string
	Cells       []string
	Same        bool
	Number      bool
}

type pair struct {
	topics.Compared
	First, Second string
}

// shared is a page that stands for more than one of the ideas.
type shared struct {
	URL, Title, Site string
	Places           []int // of each idea; 0 none
}

func show(r *frame.Request) error {
	list, err := chosen(r)
	if err != nil {
		return err
	}
	b, err := r.Table()
	if err != nil {
		return err
	}
	v := page{Ideas: list}
	sp := r.Speak()
	for _, f := range sieve.Figures() {
		if f.OfTopics || f.End || f.Form == sieve.Hidden || f == sieve.Phrase || f == sieve.UnderFloor {
			continue
		}
		one := row{Name: nameOf(f), Means: f.Means, Same: true, Number: f.Form != sieve.Text && f.Form != sieve.Name}
		some := false
		for _, i := range list {
			text := sp.Cell(i, f).Text
			some = some || text != ""
			one.Same = one.Same && (len(one.Cells) == 0 || text == one.Cells[0])
			one.Cells = append(one.Cells, text)
		}
		if some {
			v.Rows = append(v.Rows, one)
		}
	}
	ids, names := make([]uint, len(list)), map[uint]string{}
	for k, i := range list {
		ids[k], names[i.ID] = i.ID, i.Phrase
	}
	pairs, err := r.Study.Topics.Compare(r.Context(), r.Niche, b, ids)
	if err != nil {
		return err
	}
	for _, p := range pairs {
		v.Pairs = append(v.Pairs, pair{p, names[p.A], names[p.B]})
	}
	if v.Results, err = sharedBy(r, ids); err != nil {
		return err
	}
	if v.Page, err = r.Page("Side by side", "judge", -1); err != nil {
		return err
	}
	return r.Render("compare/compare", v)
}

// nameOf is what a figure is called: as its column is, where it has one.
func nameOf(f *sieve.Figure) string { return frame.Capital(cmp.Or(f.Heading, f.Name)) }

// chosen are the ideas that the address names.
func chosen(r *frame.Request) ([]ideas.Idea, error) {
	var ids []uint
	for _, text := range r.Request().URI().QueryArgs().PeekMulti("id") {
		id, err := frame.IDOf(string(text))
		if err != nil {
			return nil, err
		}
		if !slices.Contains(ids, id) {
			ids = append(ids, id)
		}
	}
	if len(ids) < 2 || len(ids) > Most {
		return nil, input.Bad("ideas", "Select two to %d ideas to compare.", Most)
	}
	list, err := r.Study.Ideas.Ideas(r.Context(), r.Niche.ID, ids)
	if err == nil && len(list) < 2 {
		err = input.Bad("ideas", "Fewer than two of these ideas are in this niche.")
	}
	return list, err
}

// sharedBy are the pages that stand for more than one of the ideas, those of most first.
func sharedBy(r *frame.Request, ids []uint) (out []shared, err error) {
	at := map[string]int{}
	for k, id := range ids {
		ev, err := r.Study.Results.Evidence(r.Context(), r.Niche, id)
		if errors.Is(err, input.ErrNotFound) || errors.Is(err, results.ErrUnreadable) {
			continue // the figures say so
		}
		if err != nil {
			return nil, err
		}
		for _, e := range ev.Reading.Ten() {
			i, known := at[e.URL]
			if !known {
				i = len(out)
				at[e.URL] = i
				out = append(out, shared{e.URL, e.Title, e.Site, make([]int, len(ids))})
			}
			if out[i].Places[k] == 0 {
				out[i].Places[k] = e.Position
			}
		}
	}
	out = slices.DeleteFunc(out, func(s shared) bool { return s.count() < 2 })
	slices.SortStableFunc(out, func(a, b shared) int { return b.count() - a.count() })
	return out, nil
}

func (s shared) count() (n int) {
	for _, p := range s.Places {
		if p > 0 {
			n++
		}
	}
	return n
}

// Texts are the places, in words.
func (s shared) Texts() (out []string) {
	for _, p := range s.Places {
		text := "–"
		if p > 0 {
			text = fmt.Sprint(p)
		}
		out = append(out, text)
	}
	return out
}
