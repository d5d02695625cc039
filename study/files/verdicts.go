package files

import (
	"io"
	"time"

	"cleverniche/core/sieve"
	"cleverniche/study/checks"
)

// verdictColumns are those of a list that was checked.
var verdictColumns = []column{{name: "phrase", width: 36}, {name: "searches", form: wholeForm},
	{name: "difficulty"}, {name: "page-one chance", form: shareForm}, {name: "verdict", width: 22},
	{name: "stopped by", width: 36}, {name: "searched wording", width: 36}, {name: "its searches", form: wholeForm}}

func verdictCells(l checks.Line) []any {
	figure := func(f *sieve.Figure) any { return cell(l.Idea, f) }
	out := []any{l.Idea.Phrase, figure(sieve.Searches), figure(sieve.Difficulty), figure(sieve.PageOne),
		string(l.Verdict), l.Told(), l.Nearest, nil}
	if l.Nearest != "" {
		out[7] = l.Often
	}
	return out
}

// Verdicts writes what became of the phrases of a list that was checked, as CSV (RFC 4180) or as a workbook.
func Verdicts(w io.Writer, lines []checks.Line, title string, made time.Time, f Format) error {
	return writeTable(w, table{"Verdicts", title, verdictColumns}, made, f, func(row func([]any) error) error {
		for _, l := range lines {
			if err := row(verdictCells(l)); err != nil {
				return err
			}
		}
		return nil
	})
}
