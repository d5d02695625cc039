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

// Screen is the addresses of documents, in a niche and outside.
var Screen = frame.Screen{Routes: func(s *frame.Server, niche, root fiber.Router) {
	root.Get("/scale", func(c fiber.Ctx) error {
		p, err := s.Bare(c, scale)
		if err != nil {
			return err
		}
		return show(c, p, docs.Scale)
	})
	niche.Get("/scale", s.In(func(r *frame.Request) error {
		p, err := r.Page(scale, "", -1)
		if err != nil {
			return err
		}
		return show(r.Ctx, p, docs.Scale)
	}))
}}

const scale = "The scale"

// show shows a document of the program's own; it is never what somebody typed.
func show(c fiber.Ctx, p frame.Page, markdown []byte) error {
	var b bytes.Buffer
	md := goldmark.New(goldmark.WithExtensions(extension.Table), goldmark.WithParserOptions(parser.WithAutoHeadingID()))
	if err := md.Convert(markdown, &b); err != nil {
		return err
	}
	return c.Render("about/document", struct {
		frame.Page
		Body template.HTML
	}{p, template.HTML(b.String())})
}
