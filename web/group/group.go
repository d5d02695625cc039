// Package group lists topics: which ideas are one article, why, and what was decided about that by hand.
package group

import (
	"fmt"
	"net/url"
	"strings"

	"cleverniche/core/sieve"
	"cleverniche/core/topic"
	"cleverniche/study/articles"
	"cleverniche/study/input"
	"cleverniche/study/niches"
	"cleverniche/study/topics"
	"cleverniche/web/frame"
	"cleverniche/web/idea"
	"cleverniche/web/list"

	"github.com/gofiber/fiber/v3"
)

// Screen is the list of topics, the drawer and the page of one, and what is done with topics by hand.
var Screen = frame.Screen{Stages: []frame.Stage{Stage}, Routes: func(s *frame.Server, niche, _ fiber.Router) {
	niche.Get("/group", s.In(func(r *frame.Request) error { return list.Show(r, kind) }))
	niche.Get("/topics.csv", s.In(export))
	niche.Get("/topics/:idea/drawer", s.In(func(r *frame.Request) error {
		v, err := read(r, drawerRows)
		if err != nil {
			return err
		}
		return r.Render("group/drawer", v)
	}))
	niche.Get("/topics/:idea", s.In(whole))
	niche.Post("/group/by", s.In(regroup))
	for name, do := range byHand {
		niche.Post("/topics/:idea/"+name, s.In(func(r *frame.Request) error { return change(r, do) }))
	}
}}

// How many ideas of a topic are shown: in the drawer, and on a page of its own.
const (
	drawerRows = 40
	pageRows   = 400
	besideRows = 3  // of each topic beside it
	nearShown  = 5  // topics that are most alike
	nearInGrid = 2  // of which are in the grid
	mostPages  = 26 // columns of the grid
)

// View is a topic as it is shown.
type View struct {
	frame.Page
	Topic   topics.Topic
	Article articles.Article
	Whole   bool
	Lead    *idea.View // of the idea that leads, on a page of its own
	Figures []Figure
	Season  string
	Grid    Grid
	More    int // ideas that are not shown
	Near    []Near
	Hub     *topics.Topic
	Spokes  []topics.Topic
	Beside  []topics.Topic
	Hubs    []topics.Topic // it could hang on
	Hand    string         // what was decided by hand, in words
	Because string         // why its lead leads
}

// Figure is a figure with its name.
type Figure struct{ Text, Name, Why string }

// Near is a topic that is like this one.
type Near struct {
	topics.Near
	Percent string
	Shared  int // pages that both leads have
}

// Grid is ideas against pages, as it is drawn.
type Grid struct {
	Columns int
	Blocks  []Block
}

// Block is the rows of one topic.
type Block struct {
	Topic topics.Topic
	Own   bool // it is the topic itself
	Rows  []Row
	More  int
}

// Row is one idea: where each page stands for it.
type Row struct {
	topics.TopicIdea
	Lead, Searches, Why string
	IsLead              bool
	Cells               []Cell
}

// Cell is a page that stands for an idea, or does not.
type Cell struct {
	Place int
	Shade string
	Says  string
}

// of is the view of the topic that an idea is in, as the drawer shows it.
func of(r *frame.Request, id uint) (View, error) { return view(r, id, drawerRows) }

func read(r *frame.Request, most int) (View, error) {
	id, err := r.ID("idea")
	if err != nil {
		return View{}, err
	}
	return view(r, id, most)
}

func view(r *frame.Request, id uint, most int) (v View, err error) {
	grouped, err := r.Topics()
	if err != nil {
		return v, err
	}
	if v.Topic, err = grouped.Of(id); err != nil {
		return v, err
	}
	v.Niche = r.Niche
	articles, err := r.Study.Articles.Read(r.Context(), r.Niche, grouped, []topics.Topic{v.Topic})
	if err != nil {
		return v, err
	}
	v.Article = articles[0]
	sp := r.Speak()
	lead := v.Article.Idea
	cell := func(f *sieve.Figure, name string) {
		c := sp.Cell(lead, f)
		if c.Text == "" {
			c.Text = "–"
		}
		v.Figures = append(v.Figures, Figure{c.Text, name, c.Title})
	}
	cell(sieve.Searches, "searches/mo")
	cell(sieve.Difficulty, "difficulty")
	cell(sieve.PageOne, "page one")
	cell(sieve.Worth, "a month")
	v.Season = SeasonWords(v.Article)
	shown := []topics.Topic{v.Topic}
	for i, n := range grouped.Near(v.Topic, nearShown) {
		g := grouped.GridOf(mostPages, trimmed(v.Topic, 1), trimmed(n.Topic, 1))
		near := Near{Near: n, Percent: fmt.Sprintf("%.0f %%", 100*n.Alike)}
		for k := range g.Pages {
			if g.Places[0][k] > 0 && g.Places[1][k] > 0 {
				near.Shared++
			}
		}
		v.Near = append(v.Near, near)
		if i < nearInGrid {
			shown = append(shown, n.Topic)
		}
	}
	v.grid(grouped, shown, most, sp)
	v.More = max(0, len(v.Topic.Ideas)-most)
	if v.Topic.Hub != topic.NoHub {
		v.Hub = &grouped.List[v.Topic.Hub]
	}
	for _, i := range v.Topic.Spokes {
		v.Spokes = append(v.Spokes, grouped.List[i])
	}
	v.Beside = grouped.Beside(v.Topic)
	v.Hubs = hubs(grouped, v)
	v.Hand = handWords(v.Topic)
	v.Because = v.Topic.Ideas[0].Because("")
	switch {
	case v.Topic.LeadByHand():
		v.Because = "chosen by hand"
	case v.Topic.Ideas[0].ByHand:
		v.Because = "the most searched of those put here by hand"
	}
	return v, nil
}

// mostHubs is how many topics are offered as hubs: those that are, those alike, and the most searched.
const mostHubs = 60

func hubs(grouped *topics.Topics, v View) (out []topics.Topic) {
	seen := map[int]bool{v.Topic.At: true}
	add := func(t topics.Topic) {
		if !seen[t.At] && len(out) < mostHubs {
			seen[t.At] = true
			out = append(out, t)
		}
	}
	if v.Hub != nil {
		add(*v.Hub)
	}
	for _, t := range grouped.List {
		if len(t.Spokes) > 0 {
			add(t)
		}
	}
	for _, n := range v.Near {
		add(n.Topic)
	}
	for _, t := range grouped.List {
		if len(out) == mostHubs {
			break
		}
		add(t)
	}
	return out
}

func handWords(t topics.Topic) string {
	var out []string
	if t.Called() {
		out = append(out, "named")
	}
	if t.LeadByHand() {
		out = append(out, "its lead chosen")
	}
	n := 0
	for _, i := range t.Ideas {
		if i.ByHand {
			n++
		}
	}
	if n > 0 {
		out = append(out, fmt.Sprintf("%d of its %d ideas put here", n, len(t.Ideas)))
	}
	if t.HubHand {
		out = append(out, "its hub chosen")
	}
	if len(out) == 0 {
		return ""
	}
	return "Your changes: " + strings.Join(out, ", ") + ". They stay when new ideas come."
}

// SeasonWords says when an article is looked for, and by when it has to be out.
func SeasonWords(a articles.Article) string {
	p := a.Season.Peak
	switch {
	case p.Months == 0 && a.Season.Known:
		return "searched all year"
	case p.Months == 0:
		return ""
	}
	says := p.First.String()[:3]
	if p.Months > 1 {
		says += "–" + p.Last().String()[:3]
	}
	says = fmt.Sprintf("peaks %s: out by %s", says, a.Schedule.Last.Format("2 January 2006"))
	if !a.Schedule.Missed.IsZero() {
		says += fmt.Sprintf("; for the peak before that it was %s", a.Schedule.Missed.Format("2 January 2006"))
	}
	return says
}

// trimmed is a topic with its first ideas only.
func trimmed(t topics.Topic, most int) topics.Topic {
	t.Ideas = t.Ideas[:min(most, len(t.Ideas))]
	return t
}

func (v *View) grid(grouped *topics.Topics, shown []topics.Topic, most int, sp frame.Speaker) {
	blocks := make([]topics.Topic, len(shown))
	for i, t := range shown {
		rows := besideRows
		if i == 0 {
			rows = most
		}
		blocks[i] = trimmed(t, rows)
	}
	g := grouped.GridOf(mostPages, blocks...)
	v.Grid.Columns = len(g.Pages)
	at := 0
	for i, t := range blocks {
		b := Block{Topic: t, Own: i == 0, More: len(shown[i].Ideas) - len(t.Ideas)}
		for k, idea := range t.Ideas {
			row := Row{TopicIdea: idea, Searches: "–", IsLead: k == 0}
			if idea.Searches >= 0 {
				row.Searches = sp.Count(int(idea.Searches))
			}
			if k > 0 || !b.Own {
				row.Lead = t.Lead()
			}
			if row.Why = "Leads: " + idea.Because("") + "."; k > 0 {
				row.Why = frame.Capital(idea.Because(t.Lead())) + "."
			}
			for c, place := range g.Places[at] {
				row.Cells = append(row.Cells, cellOf(place, g.URLs[c], i == 0))
			}
			at++
			b.Rows = append(b.Rows, row)
		}
		v.Grid.Blocks = append(v.Grid.Blocks, b)
	}
}

func cellOf(place int, address string, own bool) Cell {
	page := address
	if u, err := url.Parse(address); err == nil && u.Host != "" {
		page = strings.TrimPrefix(u.Host, "www.") + u.RequestURI()
	}
	if place == 0 {
		return Cell{Says: page + " does not rank for it"}
	}
	shade := "p" + fmt.Sprint((place+2)/3) // three places share a shade
	if !own {
		shade += " other"
	}
	return Cell{place, shade, fmt.Sprintf("%s: no. %d", page, place)}
}

// whole shows a topic on a page of its own.
func whole(r *frame.Request) error {
	v, err := read(r, pageRows)
	if err != nil {
		return err
	}
	v.Whole = true
	lead, err := idea.Of(r, v.Topic.ID)
	if err != nil {
		return err
	}
	v.Lead = &lead
	if v.Page, err = r.Page(v.Topic.Name, Stage.Path, -1); err != nil {
		return err
	}
	return r.Render("group/topic", v)
}

// regroup groups other ideas, or by other shared pages.
func regroup(r *frame.Request) error {
	shared := r.Niche.Shared
	if text := r.FormValue("shared"); text != "" {
		if _, err := fmt.Sscan(text, &shared); err != nil {
			return &input.Error{Field: "shared", Reason: "Shared results must be a number."}
		}
	}
	scope := r.Niche.Scope
	if text := r.FormValue("scope"); text != "" {
		scope = niches.Scope(text)
	}
	n, err := r.Study.Topics.Regroup(r.Context(), r.Niche, scope, shared)
	if err != nil {
		return err
	}
	r.Niche = n
	topics, err := r.Topics()
	if err != nil {
		return err
	}
	return r.Render("frame/notice", map[string]any{"Said": Grouped(topics, r.Speak())})
}

// Grouped says what was grouped into how many topics.
func Grouped(t *topics.Topics, sp frame.Speaker) string {
	says := fmt.Sprintf("%s in %s, by %d shared results.", sp.Counted(t.Ideas, "idea", "ideas"),
		sp.Counted(len(t.List), "topic", "topics"), t.Shared)
	if t.Left > 0 {
		says += fmt.Sprintf(" The %s least searched are left out.", sp.Count(t.Left))
	}
	return says
}
