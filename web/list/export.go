package list

import (
	"context"
	"io"
	"strings"

	"cleverniche/study/files"
	"cleverniche/study/input"
	"cleverniche/web/filters"
	"cleverniche/web/frame"
)

// export writes the ideas that a sieve leaves as a file.
func export(r *frame.Request) error {
	stage := r.Query("stage")
	if stage == "" {
		stage = "plan"
	}
	by, _, err := filters.Of(r, stage, string(r.Request().URI().QueryString()))
	if err != nil {
		return err
	}
	format, err := files.FormatNamed(r.Params("format"))
	if err == nil && format.Media == "" {
		err = input.ErrNotFound
	}
	if err != nil {
		return err
	}
	b, err := r.Table()
	if err != nil {
		return err
	}
	return r.Stream(fileName(r.Niche.Name)+"."+format.Name, format.Media, func(ctx context.Context, w io.Writer) error {
		return r.Study.Files.Export(ctx, w, b, by, format)
	})
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
