package bench

import (
	"io"
	"strings"

	"cleverniche/study/files"
	"cleverniche/study/input"
	"cleverniche/web/frame"
	"cleverniche/web/group"
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
	format, err := files.FormatNamed(r.Params("format"))
	if err == nil && format.Media == "" {
		err = input.ErrNotFound
	}
	if err != nil {
		return err
	}
	b, err := r.Board()
	if err != nil {
		return err
	}
	return r.SendFile(fileName(r.Niche.Name)+"."+format.Name, format.Media, func(w io.Writer) error {
		return r.Study.Files.Export(r.Context(), w, b, by, format)
	})
}

// exportTopics writes the topics that a sieve leaves, in its order.
func exportTopics(r *frame.Request) error {
	by, _, err := sieveOf(r, group.Stage.Path, string(r.Request().URI().QueryString()))
	if err != nil {
		return err
	}
	b, err := boardAt(r, group.Stage)
	if err != nil {
		return err
	}
	leads := b.Pass(by).IDs(0, -1)
	return r.SendFile("topics.csv", "text/csv; charset=utf-8; header=present", func(w io.Writer) error {
		return r.Study.Files.TopicsCSV(r.Context(), r.Niche, w, leads)
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
