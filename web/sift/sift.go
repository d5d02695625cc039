// Package sift is the list of ideas at two stages, Sift and Judge, with the evidence of the selected idea below it.
package sift

import (
	"cleverniche/core/sieve"
	"cleverniche/study/ideas"
	"cleverniche/web/frame"
	"cleverniche/web/idea"
	"cleverniche/web/list"

	"github.com/gofiber/fiber/v3"
)

// stages are the stages at which it is shown.
var stages = []frame.Stage{
	{Place: 2, Path: "sift", Name: "Sift", Question: "Which are worth a closer look?", CountsItsSieve: true,
		Count: func(c ideas.Counts, sp frame.Speaker) string { return sp.Count(c.Left) + " left" },
		First: sieve.Sieve{Filters: []sieve.Filter{sieve.On(sieve.ByNoPlace),
			sieve.NotDropped()}}.By(sieve.Searches, true)},
	{Place: 3, Path: "judge", Name: "Judge", Question: "Can your site reach page one, and what do searchers want?",
		Count: func(c ideas.Counts, sp frame.Speaker) string { return sp.Count(c.LookedUp) + " looked up" },
		First: sieve.Sieve{Filters: []sieve.Filter{sieve.NotDropped(), sieve.On(sieve.ByLookedUp)}}.By(sieve.Difficulty,
			false)},
}

// Screen is both stages.
var Screen = frame.Screen{Stages: stages, Routes: func(s *frame.Server, niche, _ fiber.Router) {
	for _, stage := range stages {
		kind := list.Kind{Stage: stage, Folder: "sift", Export: "export.csv", Add: add,
			Open: func(r *frame.Request, id uint) (any, error) { return idea.Of(r, id) }}
		niche.Get("/"+stage.Path, s.In(func(r *frame.Request) error { return list.Show(r, kind) }))
	}
}}

func add(r *frame.Request, v *list.Page) error {
	v.Buttons = []list.Button{{Do: "compare", Name: "Compare"}, {Do: "label", Name: "Label"},
		{Do: "off-subject", Name: "Off the subject"}, {Do: "on-subject", Name: "On the subject"},
		{Do: "bulk-delete", Name: "Delete"}}
	v.Nothing = list.Nothing{Bold: "No ideas yet.", Says: "Type a few seeds to see what people search for.",
		Href: r.Path("gather"), Do: "Gather ideas"}
	return nil
}
