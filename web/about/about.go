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

// Screen is the addresses of documents.
var Screen = frame.Screen{Routes: func(s *frame.Server, _, root fiber.Router) {
	root.Get("/scale", func(c fiber.Ctx) error { return show(s, c, "The scale", docs.Scale) })
}}

type page struct {
	frame.Page
	Body template.HTML
}

// show shows a document of the program's own; it is never what somebody typed.
func show(s *frame.Server, c fiber.Ctx, title string, markdown []byte) (err error) {
	var p page
	if p.Page, err = s.Bare(c, title); err != nil {
		return err
	}
	var b bytes.Buffer
	md := goldmark.New(goldmark.WithExtensions(extension.Table), goldmark.WithParserOptions(parser.WithAutoHeadingID()))
	if err := md.Convert(markdown, &b); err != nil {
		return err
	}
	p.Body = template.HTML(b.String())
	return c.Render("about/document", p)
}
