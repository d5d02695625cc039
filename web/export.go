package web

import (
	"strings"

	"cleverniche/study"

	"github.com/gofiber/fiber/v3"
)

func (s *server) export(c fiber.Ctx) error {
	n, err := s.niche(c)
	if err != nil {
		return err
	}
	base, ok := stageSifts[c.Query("stage")]
	if !ok {
		base = stageSifts["plan"]
	}
	f, _ := readSift(queryValues(c), base)
	var b strings.Builder
	format := study.Format(c.Params("format"))
	if format == study.Table {
		return study.ErrNotFound
	}
	if err := s.study.Export(c.Context(), &b, n.ID, f, format); err != nil {
		return err
	}
	c.Attachment(fileName(n.Name) + "." + string(format))
	// Attachment guesses a type; ours says that the first line is a header (RFC 4180).
	c.Set(fiber.HeaderContentType, map[study.Format]string{study.CSV: "text/csv; charset=utf-8; header=present", study.JSON: "application/json"}[format])
	return c.SendString(b.String())
}

// fileName keeps the letters and digits of a niche's name.
func fileName(name string) string {
	f := strings.Map(func(r rune) rune {
		switch {
		case r >= 'a' && r <= 'z', r >= '0' && r <= '9':
			return r
		case r >= 'A' && r <= 'Z':
			return r + 32
		}
		return '-'
	}, name)
	if f = strings.Trim(f, "-"); f == "" {
		return "ideas"
	}
	return f
}
