package group

import (
	"io"

	"cleverniche/core/sieve"
	"cleverniche/core/topic"
	"cleverniche/study/ideas"
	"cleverniche/study/niches"
	"cleverniche/web/filters"
	"cleverniche/web/frame"
	"cleverniche/web/list"
)

// Stage is Group on the trail.
var Stage = frame.Stage{Place: 4, Path: "group", Name: "Group", Question: "Which ideas are one article?", Topics: true,
	Count: func(c ideas.Counts, sp frame.Speaker) string {
		kept := sp.Count(c.Kept) + " kept"
		if c.Topics < 0 {
			return kept
		}
		return kept + " · " + sp.Counted(c.Topics, "topic", "topics")
	},
	First: sieve.Sieve{Filters: []sieve.Filter{sieve.NotDropped()}}.By(sieve.Searches, true)}

var kind = list.Kind{Stage: Stage, Folder: "group", Export: "topics.csv", Add: add,
	Begun: func(r *frame.Request) { r.List(sieve.OfTopics()) },
	Open:  func(r *frame.Request, id uint) (any, error) { return of(r, id) }}

// grouped is what topics are made of, and the tree of hubs where that is shown.
type grouped struct {
	Scope   niches.Scope
	Scopes  []niches.Scope
	Shared  int
	Fewest  int
	Most    int
	Says    string
	OwnSite string
	Own     int    // topics that a page of my own answers
	Cost    string // of looking for my pages, at most
	Tree    *Tree  // nil when the list is shown
}

// add fills in what topics are made of, and their hubs where these are asked for.
func add(r *frame.Request, v *list.Page) error {
	topics, err := r.Topics()
	if err != nil {
		return err
	}
	g := grouped{Scope: topics.Scope, Scopes: niches.Scopes, Shared: topics.Shared, Fewest: topic.FewestShared,
		Most: topic.MostShared, Says: Grouped(topics, r.Speak()), OwnSite: r.Niche.OwnSite}
	for _, t := range topics.List {
		if len(t.Own) > 0 {
			g.Own++
		}
	}
	e, err := r.Study.Articles.EstimateOwnPages(r.Context())
	if err != nil {
		return err
	}
	g.Cost = r.Study.Ask.Cost(e)
	v.Look("hubs", "tree")
	if r.Query("view") == "tree" {
		left := map[uint]bool{}
		for _, id := range v.Left.IDs(0, -1) {
			left[id] = true
		}
		t := TreeOf(topics, left)
		g.Tree, v.Closed = &t, true
	}
	v.Own, v.Buttons = g, []list.Button{{Do: "join-chosen", Name: "Merge"}}
	v.Nothing = list.Nothing{Bold: "Nothing to group yet.", Says: "Topics are made of ideas that are " + string(g.Scope) +
		". Keep ideas in Judge, or choose other ideas above.", Href: r.Path("judge"), Do: "Go to Judge"}
	return nil
}

// export writes the topics that a sieve leaves, in its order.
func export(r *frame.Request) error {
	by, _, err := filters.Of(r, Stage.Path, string(r.Request().URI().QueryString()))
	if err != nil {
		return err
	}
	b, err := filters.TableAt(r, Stage)
	if err != nil {
		return err
	}
	leads := b.Pass(by).IDs(0, -1)
	return r.SendFile(r.FileName("topics", "csv"), "text/csv; charset=utf-8; header=present", func(w io.Writer) error {
		return r.Study.Files.TopicsCSV(r.Context(), r.Niche, w, leads)
	})
}
