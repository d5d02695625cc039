package bench

import (
	"strings"

	"cleverniche/study"
	"cleverniche/web/frame"

	"github.com/gofiber/fiber/v3"
)

// export writes the ideas that a sieve leaves as a file.
func export(r *frame.Request) error {
	stage := r.Query("stage")
	if stage == "" {
		stage = "plan"
	}
	by, _, err := sieveOf(r, stage, string(r.Request().URI().QueryString()))
	if err != nil {
		return err
	}
	format, err := study.FormatNamed(r.Params("format"))
	if err == nil && format.Media == "" {
		err = study.ErrNotFound
	}
	if err != nil {
		return err
	}
	b, err := r.Board()
	if err != nil {
		return err
	}
	var out strings.Builder
	if err := r.Study.Export(r.Context(), &out, b, by, format); err != nil {
		return err
	}
	r.Attachment(fileName(r.Niche.Name) + "." + format.Name)
	r.Set(fiber.HeaderContentType, format.Media) // Attachment guesses another one
	return r.SendString(out.String())
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
