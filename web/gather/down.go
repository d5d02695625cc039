package gather

import (
	"cmp"
	"fmt"
	"net/url"
	"slices"
	"strconv"

	"cleverniche/core/branch"
	"cleverniche/core/sieve"
	"cleverniche/study/input"
	"cleverniche/web/draw"
	"cleverniche/web/frame"
)

// down is the page of the way down.
type down struct {
	frame.Page
	Rows   []twig
	Orders []order
	Other  string // what was spent for no branch; "" nothing
	Order  string
}

// order is an order that the tree can be sorted by.
type order struct {
	Key, Name, Href string
	On              bool
}

// twig is a row of the tree: a node, or an idea that nothing was dug from yet.
type twig struct {
	*branch.Node
	Niche    uint
	Level    int // from 1 on
	Label    string
	Open     bool
	Folds    bool // something is below it
	Fold     string
	Kept     bar // of its ideas
	Easy     bar
	Rest     bar
	Searches string
	Cost     string // "" where nothing is known of it
	PerKept  string
	Idea     uint // 0 is none
	More     bool // it stands for ideas that are not shown
}

// bar is a part of a twig's bar, in px.
type bar struct{ From, Width int }

// barWidth is how wide the bar of the largest branch is.
const barWidth = 180

// waysCalled are ways as the tree calls them.
var waysCalled = map[string]string{"completion": "suggestions", "letter": "letters and digits", "question": "questions",
	"preposition": "prepositions", "comparison": "comparisons", "between": "letters between its words",
	"related": "questions beside its results", "ranking": "phrases that it ranks for"}

// tree writes rows of the tree.
type tree struct {
	*frame.Request
	most  int // ideas of the largest branch
	open  map[string]bool
	order string
	rows  []twig
}

func (t *tree) walk(n *branch.Node, level int) error {
	for _, kid := range n.Kids {
		row := t.twig(kid, level)
		t.rows = append(t.rows, row)
		if row.Open {
			if err := t.walk(kid, level+1); err != nil {
				return err
			}
		}
	}
	if n.Mark == "" {
		return nil
	}
	ideas, all, err := t.Study.Gathering.Under(t.Context(), t.Niche, n)
	sp := t.Speak()
	for _, i := range ideas {
		row := twig{Niche: t.Niche.ID, Node: &branch.Node{Kind: "idea", Mark: i.Phrase}, Level: level, Label: i.Phrase,
			Idea: i.ID}
		if v := i.Value(sieve.Searches); v.Known {
			row.Searches = sp.Cell(i, sieve.Searches).Text
		}
		t.rows = append(t.rows, row)
	}
	if more := all - len(ideas); more > 0 {
		t.rows = append(t.rows, twig{Niche: t.Niche.ID, Node: &branch.Node{Kind: "more", Mark: n.Mark}, Level: level,
			Label: sp.Count(more) + " more", More: true})
	}
	return err
}

func (t *tree) twig(n *branch.Node, level int) twig {
	sp := t.Speak()
	row := twig{Node: n, Niche: t.Niche.ID, Level: level, Label: cmp.Or(waysCalled[n.Kind], n.Name), Open: t.open[n.Mark],
		Folds: n.Ideas > 0, Searches: sp.Count(int(n.Searches + 0.5)), Cost: t.Study.Ask.Money(n.Micros)}
	if per, ok := n.PerKept(); ok {
		row.PerKept = t.Study.Ask.Money(per)
	}
	row.Kept.Width = draw.Share(n.Kept, t.most, barWidth)
	row.Easy = bar{row.Kept.Width, draw.Share(n.Easy-n.Both, t.most, barWidth)}
	row.Rest = bar{row.Easy.From + row.Easy.Width, draw.Share(n.Rest(), t.most, barWidth)}
	row.Fold = t.address(n.Mark, !row.Open)
	return row
}

// address is the page with a branch opened or folded.
func (t *tree) address(mark string, opened bool) string {
	q := url.Values{}
	for m := range t.open {
		if m != mark {
			q.Add("open", m)
		}
	}
	if opened {
		q.Add("open", mark)
	}
	slices.Sort(q["open"])
	if t.order != branch.Orders[0].Key {
		q.Set("sort", t.order)
	}
	return t.Path("gather/down") + "?" + q.Encode()
}

// treeOf is the tree as an address asks for it.
func treeOf(r *frame.Request) (*tree, *branch.Node, int64, error) {
	by := branch.OrderNamed(r.Query("sort"))
	all, err := r.Study.Gathering.Down(r.Context(), r.Niche, by)
	if err != nil {
		return nil, nil, 0, err
	}
	t := &tree{Request: r, open: map[string]bool{}, order: by.Key}
	for _, mark := range r.Request().URI().QueryArgs().PeekMulti("open") {
		t.open[string(mark)] = true
	}
	for _, kid := range all.Kids {
		t.most = max(t.most, kid.Ideas)
	}
	return t, all.Node, all.Elsewhere, nil
}

func showDown(r *frame.Request) error {
	t, all, other, err := treeOf(r)
	if err != nil {
		return err
	}
	if err := t.walk(all, 1); err != nil {
		return err
	}
	v := down{Rows: t.rows, Order: t.order}
	if other > 0 {
		v.Other = r.Study.Ask.Money(other)
	}
	for _, o := range branch.Orders {
		v.Orders = append(v.Orders, order{o.Key, o.Name, r.Path("gather/down") + "?sort=" + o.Key, o.Key == t.order})
	}
	if v.Page, err = r.Page("The way down", "gather", -1); err != nil {
		return err
	}
	return r.Render("gather/down", v)
}

// below is what stands under one branch.
func below(r *frame.Request) error {
	level, err := strconv.Atoi(r.Query("level"))
	if err != nil || level < 1 || level > 100 {
		return &input.Error{Field: "level", Reason: "There is no such place in the tree. Reload the page."}
	}
	t, all, _, err := treeOf(r)
	if err != nil {
		return err
	}
	n := all.Find(r.Query("at"))
	if n == nil {
		return &input.Error{Field: "at", Reason: "There is no such branch any more. Reload the page."}
	}
	if err := t.walk(n, level+1); err != nil {
		return err
	}
	return r.Render("gather/twigs", t.rows)
}

// dropBelow drops what is under one branch.
func dropBelow(r *frame.Request) error {
	dropped, kept, err := r.Study.Gathering.DropUnder(r.Context(), r.Niche, r.FormValue("branch"))
	if err != nil {
		return err
	}
	sp := r.Speak()
	said := "No change needed."
	if dropped > 0 {
		said = fmt.Sprintf("Dropped %s. Press u to undo.", sp.Counted(dropped, "idea", "ideas"))
	}
	if kept > 0 {
		said += fmt.Sprintf(" %s.", sp.Counted(kept, "kept idea stays", "kept ideas stay"))
	}
	if r.Get("HX-Request") == "" {
		return r.To(r.Path("gather/down"))
	}
	return r.Render("frame/notice", map[string]any{"Said": said})
}
