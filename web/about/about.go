// Package about shows the documents that explain the figures.
package about

import (
	"bytes"
	"html/template"
	"regexp"

	"cleverniche/docs"
	"cleverniche/study/input"
	"cleverniche/web/frame"

	"github.com/gofiber/fiber/v3"
	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/extension"
	"github.com/yuin/goldmark/parser"
)

// documents are those that are shown, by the last part of their address.
var documents = []struct {
	path, title string
	markdown    []byte
}{{"scale", "What the numbers mean", docs.Scale}, {"glossary", "Glossary", docs.Glossary},
	{"sources", "Ask any service", docs.Sources},
	{"unlinked", "Forecasts without links", docs.Unlinked}, {"case-measured", "The case, measured", docs.Case}}

// guide are the pages of the guide, by their names, with their titles; each stage opens the page of its path.
var guide = []struct{ name, title string }{{"start", "Three minutes to a first topic"},
	{"first-evening", "The first evening, with files only"}, {"gather", "Gather"},
	{"sift", "Sift"}, {"judge", "Judge"}, {"group", "Group"}, {"plan", "Plan"}, {"watch", "Watch"}, {"rivals", "Rivals"},
	{"case", "The case"},
	{"troubleshooting", "Troubleshooting"}, {"configuration", "Configuration"}, {"operating", "Run it for long"},
	{"people", "People: sign-in and roles"}}

// Screen is the addresses of documents, in a niche and outside.
var Screen = frame.Screen{Routes: func(s *frame.Server, niche, root fiber.Router) {
	root.Get("/sources/:name", func(c fiber.Ctx) error { return sourceFile(c, "sources/"+c.Params("name")) })
	root.Get("/sources.schema.json", func(c fiber.Ctx) error { return sourceFile(c, "sources.schema.json") })
	for _, d := range documents {
		root.Get("/"+d.path, func(c fiber.Ctx) error {
			p, err := s.Bare(c, d.title)
			if err != nil {
				return err
			}
			return show(c, p, d.markdown, nil)
		})
		niche.Get("/"+d.path, s.In(func(r *frame.Request) error {
			p, err := r.Page(d.title, "", -1)
			if err != nil {
				return err
			}
			return show(r.Ctx, p, d.markdown, nil)
		}))
	}
	root.Get("/guide", func(c fiber.Ctx) error { return c.Redirect().To("/guide/start") })
	root.Get("/guide/pictures/:name", picture)
	for _, g := range guide {
		root.Get("/guide/"+g.name, func(c fiber.Ctx) error {
			p, err := s.Bare(c, "Guide: "+g.title)
			if err != nil {
				return err
			}
			text, err := docs.Guide.ReadFile("guide/" + g.name + ".md")
			if err != nil {
				return err
			}
			return show(c, p, text, chapters(g.name))
		})
	}
}}

// chapter is a page of the guide in its contents.
type chapter struct {
	Name, Title string
	Here        bool
}

func chapters(here string) (out []chapter) {
	for _, g := range guide {
		out = append(out, chapter{g.name, g.title, g.name == here})
	}
	return out
}

// picture sends one of the guide's.
func picture(c fiber.Ctx) error {
	body, err := docs.Guide.ReadFile("screenshots/" + c.Params("name"))
	if err != nil {
		return input.ErrNotFound
	}
	c.Set(fiber.HeaderContentType, "image/png")
	c.Set(fiber.HeaderCacheControl, "max-age=3600")
	return c.Send(body)
}

// sourceFile sends an example of a file that describes a service, or their schema.
func sourceFile(c fiber.Ctx, name string) error {
	body, err := docs.SourceFiles.ReadFile(name)
	if err != nil {
		return input.ErrNotFound
	}
	c.Set(fiber.HeaderContentType, "text/plain; charset=utf-8")
	return c.Send(body)
}

// upLinks are links from a page of the guide to a document beside it.
var upLinks = regexp.MustCompile(`\]\(\.\./([a-z-]+)\.md\)`)

// fileLinks are links from one document to another.
var fileLinks = regexp.MustCompile(`\]\(([a-z]+)\.md\)`)

// show shows a document of the program's own; it is never what somebody typed.
func show(c fiber.Ctx, p frame.Page, markdown []byte, contents []chapter) error {
	var b bytes.Buffer
	md := goldmark.New(goldmark.WithExtensions(extension.Table), goldmark.WithParserOptions(parser.WithAutoHeadingID()))
	// Documents name each other by their files; here they are beside each other.
	markdown = fileLinks.ReplaceAll(markdown, []byte("]($1)"))
	markdown = upLinks.ReplaceAll(markdown, []byte("](/$1)"))
	markdown = bytes.ReplaceAll(markdown, []byte("](../screenshots/"), []byte("](/guide/pictures/"))
	if err := md.Convert(markdown, &b); err != nil {
		return err
	}
	return c.Render("about/document", struct {
		frame.Page
		Body     template.HTML
		Contents []chapter
	}{p, template.HTML(b.String()), contents})
}
