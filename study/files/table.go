package files

import (
	"io"
	"time"
)

// table is a list that is written by itself: its sheet, its title, its columns.
type table struct {
	sheet, title string
	columns      []column
}

// writeTable writes rows, which each hands over one by one, as CSV (RFC 4180) or as a workbook.
func writeTable(w io.Writer, t table, made time.Time, f Format, each func(row func([]any) error) error) error {
	if f.Name == "xlsx" {
		book, err := newWorkbook(t.title, made)
		if err != nil {
			return err
		}
		defer book.file.Close()
		sheet, err := book.sheet(t.sheet, t.columns)
		if err != nil {
			return err
		}
		if err := each(sheet.row); err != nil {
			return err
		}
		if err := sheet.end(); err != nil {
			return err
		}
		_, err = book.file.WriteTo(w)
		return err
	}
	heads := make([]string, len(t.columns))
	for i, c := range t.columns {
		heads[i] = c.name
	}
	return writeCSV(w, heads, func(row func([]any)) {
		each(func(cells []any) error {
			row(cells)
			return nil
		})
	})
}
