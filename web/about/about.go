// Package about shows the documents that explain the figures.
package about

import (
	"bytes"
	"html/template"

	"cleverniche/docs"
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
}{{"scale", "What the numbers mean", docs.Scale}, {"glossary", "Glossary", docs.Glossary}}

// Screen is the addresses of documents, in a niche and outside.
var Screen = frame.Screen{Routes: func(s *frame.Server, niche, root fiber.Router) {
	for _, d := range documents {
		root.Get("/"+d.path, func(c fiber.Ctx) error {
			p, err := s.Bare(c, d.title)
			if err != nil {
				return err
			}
			return show(c, p, d.markdown)
		})
		niche.Get("/"+d.path, s.In(func(r *frame.Request) error {
			p, err := r.Page(d.title, "", -1)
			if err != nil {
				return err
			}
			return show(r.Ctx, p, d.markdown)
		}))
	}
}}

// show shows a document of the program's own; it is never what somebody typed.
func show(c fiber.Ctx, p frame.Page, markdown []byte) error {
	var b bytes.Buffer
	md := goldmark.New(goldmark.WithExtensions(extension.Table), goldmark.WithParserOptions(parser.WithAutoHeadingID()))
	// Documents name each other by their files; here they are beside each other.
	markdown = bytes.ReplaceAll(markdown, []byte("](scale.md)"), []byte("](scale)"))
	if err := md.Convert(markdown, &b); err != nil {
		return err
	}
	return c.Render("about/document", struct {
		frame.Page
		Body template.HTML
	}{p, template.HTML(b.String())})
}
