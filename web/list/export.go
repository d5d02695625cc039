package list

import (
	"context"
	"io"

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
	return r.Stream(r.FileName("ideas", format.Ending), format.Media, func(ctx context.Context, w io.Writer) error {
		return r.Study.Files.Export(ctx, w, b, by, format)
	})
}
