package niches

import (
	"fmt"

	"cleverniche/study/input"
	"cleverniche/study/niches"
	"cleverniche/web/frame"

	"github.com/gofiber/fiber/v3"
)

// all is the page of all niches: those in use, those out of sight, and those that can still be brought back.
type all struct {
	frame.Page
	Used, Archived []niches.Niche
	Deleted        []deleted
	Said           string
}

type deleted struct {
	niches.Niche
	Until string // the day it is erased
}

func showAll(s *frame.Server, c fiber.Ctx, said string) error {
	v := all{Said: said}
	var err error
	if v.Page, err = s.Bare(c, "Niches"); err != nil {
		return err
	}
	for _, n := range v.Niches {
		if n = named(n); n.Archived {
			v.Archived = append(v.Archived, n)
		} else {
			v.Used = append(v.Used, n)
		}
	}
	gone, err := s.Study.Niches.Deleted(c.Context())
	if err != nil {
		return err
	}
	for _, d := range gone {
		v.Deleted = append(v.Deleted, deleted{named(d.Niche), d.Until.In(s.Study.Now().Location()).Format("2 January 2006")})
	}
	return c.Render("niches/all", v)
}

func archive(r *frame.Request) error {
	away := r.FormValue("away") == "yes"
	if err := r.Study.Niches.Archive(r.Context(), r.Niche.ID, away); err != nil {
		return err
	}
	said := "“%s” is archived."
	if !away {
		said = "“%s” is back in your list."
	}
	return showAll(r.Server, r.Ctx, fmt.Sprintf(said, r.Niche.Name))
}

// remove deletes a niche, and ends what works on it.
func remove(r *frame.Request) error {
	if err := r.Study.Niches.Delete(r.Context(), r.Niche, r.FormValue("confirm")); err != nil {
		return err
	}
	if err := r.Study.Jobs.CancelAll(r.Context(), r.Niche.ID); err != nil {
		return err
	}
	return showAll(r.Server, r.Ctx, fmt.Sprintf("“%s” is deleted. You can restore it below.", r.Niche.Name))
}

func bringBack(s *frame.Server, c fiber.Ctx) error {
	id, err := frame.IDOf(c.Params("id"))
	if err != nil {
		return input.ErrNotFound
	}
	n, err := s.Study.Niches.BringBack(c.Context(), id)
	if err != nil {
		return err
	}
	return showAll(s, c, fmt.Sprintf("“%s” is restored.", n.Name))
}
