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
	if f.Name == "xlsx" {
		book, err := newWorkbook(title, made)
		if err != nil {
			return err
		}
		defer book.file.Close()
		sheet, err := book.sheet("Verdicts", verdictColumns)
		if err != nil {
			return err
		}
		for _, l := range lines {
			if err := sheet.row(verdictCells(l)); err != nil {
				return err
			}
		}
		if err := sheet.end(); err != nil {
			return err
		}
		_, err = book.file.WriteTo(w)
		return err
	}
	heads := make([]string, len(verdictColumns))
	for i, c := range verdictColumns {
		heads[i] = c.name
	}
	return writeCSV(w, heads, func(row func([]any)) {
		for _, l := range lines {
			row(verdictCells(l))
		}
	})
}
