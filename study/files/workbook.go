package files

import (
	"io"
	"math"
	"time"

	"cleverniche/core/sieve"
	"cleverniche/study/briefs"
	"cleverniche/study/ideas"

	"github.com/xuri/excelize/v2"
)

// workbook is a workbook (ECMA-376) whose sheets are tables: numbers, money, shares and days as such, the head bold,
// held in place and with filters.
type workbook struct {
	file   *excelize.File
	styles map[string]int
	sheets int
}

// form says how a column's values are shown.
type form string

// The forms, as number formats (ECMA-376 part 1, 18.8.31).
const (
	plainForm form = ""
	moneyForm form = "#,##0.00"
	shareForm form = "0%"
	dayForm   form = "yyyy-mm-dd"
	timeForm  form = "yyyy-mm-dd hh:mm"
	wholeForm form = "#,##0"
)

// formOf is how a figure is shown.
func formOf(f *sieve.Figure) form {
	switch f.Form {
	case sieve.Amount:
		return moneyForm
	case sieve.Percent:
		return shareForm
	case sieve.Moment:
		return timeForm
	case sieve.Count:
		return wholeForm
	}
	return plainForm
}

// column is one of a sheet.
type column struct {
	name  string
	form  form
	width float64 // in characters; 0 as its form asks
}

func newWorkbook(title string, made time.Time) (*workbook, error) {
	b := &workbook{excelize.NewFile(), map[string]int{}, 0}
	stamp := made.UTC().Format(time.RFC3339)
	return b, b.file.SetDocProps(&excelize.DocProperties{Creator: "Clever Niche", LastModifiedBy: "Clever Niche",
		Title: title, Created: stamp, Modified: stamp})
}

func (b *workbook) style(bold bool, f form) (int, error) {
	key := string(f)
	if bold {
		key = "bold"
	}
	if id, made := b.styles[key]; made {
		return id, nil
	}
	s := &excelize.Style{}
	switch {
	case bold:
		s.Font = &excelize.Font{Bold: true}
	case f != plainForm:
		text := string(f)
		s.CustomNumFmt = &text
	}
	id, err := b.file.NewStyle(s)
	b.styles[key] = id
	return id, err
}

// sheetWriter writes the rows of one sheet.
type sheetWriter struct {
	book    *workbook
	name    string
	columns []column
	out     *excelize.StreamWriter
	rows    int
}

func (b *workbook) sheet(name string, columns []column) (*sheetWriter, error) {
	var err error
	if b.sheets == 0 {
		err = b.file.SetSheetName(b.file.GetSheetName(0), name)
	} else {
		_, err = b.file.NewSheet(name)
	}
	if err != nil {
		return nil, err
	}
	b.sheets++
	s := &sheetWriter{book: b, name: name, columns: columns}
	if s.out, err = b.file.NewStreamWriter(name); err != nil {
		return nil, err
	}
	err = s.out.SetPanes(&excelize.Panes{Freeze: true, XSplit: 1, YSplit: 1, TopLeftCell: "B2", ActivePane: "bottomRight"})
	for i, c := range columns {
		width := c.width
		if width == 0 {
			width = max(11, float64(len(c.name))+3)
		}
		if err == nil {
			err = s.out.SetColWidth(i+1, i+1, width)
		}
	}
	head := make([]any, len(columns))
	bold, styled := b.style(true, plainForm)
	for i, c := range columns {
		head[i] = excelize.Cell{StyleID: bold, Value: c.name}
	}
	for _, failed := range []error{styled, err} {
		if failed != nil {
			return nil, failed
		}
	}
	return s, s.out.SetRow("A1", head)
}

// row adds a row of cells.
func (s *sheetWriter) row(cells []any) error {
	s.rows++
	out := make([]any, len(cells))
	for i, c := range cells {
		style, err := s.book.style(false, s.columns[i].form)
		if err != nil {
			return err
		}
		switch v := c.(type) {
		case nil:
			continue
		case string:
			text := []rune(briefs.PlainText(v))
			out[i] = string(text[:min(mostCell, len(text))])
			continue
		case amount:
			c = float64(v) / 1e6
		case moment:
			c = serial(time.Time(v))
		case day:
			c = math.Trunc(serial(time.Time(v)))
		case bool:
			c = written(v)
		}
		out[i] = excelize.Cell{StyleID: style, Value: c}
	}
	at, err := excelize.CoordinatesToCellName(1, s.rows+1)
	if err != nil {
		return err
	}
	return s.out.SetRow(at, out)
}

// end ends the sheet. Filters need a row.
func (s *sheetWriter) end() error {
	if s.rows > 0 {
		last, err := excelize.CoordinatesToCellName(len(s.columns), s.rows+1)
		if err != nil {
			return err
		}
		if err := s.out.AddTable(&excelize.Table{Range: "A1:" + last, Name: s.name,
			StyleName: "TableStyleLight1"}); err != nil {
			return err
		}
	}
	return s.out.Flush()
}

// serial is a time as workbooks count: days since the last day of 1899 (ECMA-376 part 1, 18.17.4.1).
func serial(t time.Time) float64 {
	return t.Sub(time.Date(1899, 12, 30, 0, 0, 0, 0, t.Location())).Hours() / 24
}

// xlsxFile is a workbook of ideas.
type xlsxFile struct {
	w       io.Writer
	book    *workbook
	sheet   *sheetWriter
	figures []*sieve.Figure
	err     error
}

func beginXLSX(w io.Writer) exporter {
	x := &xlsxFile{w: w, figures: exported()}
	if x.book, x.err = newWorkbook("Ideas", time.Time{}); x.err != nil {
		return x
	}
	columns := make([]column, len(x.figures))
	for i, f := range x.figures {
		columns[i] = column{name: f.Name, form: formOf(f)}
		if f.Form == sieve.Text {
			columns[i].width = 28
		}
	}
	x.sheet, x.err = x.book.sheet("Ideas", columns)
	return x
}

func (x *xlsxFile) write(i ideas.Idea) error {
	if x.err != nil {
		return x.err
	}
	cells := make([]any, len(x.figures))
	for k, f := range x.figures {
		cells[k] = cell(i, f)
	}
	return x.sheet.row(cells)
}

func (x *xlsxFile) end() error {
	if x.err == nil {
		x.err = x.sheet.end()
	}
	if x.err == nil {
		_, x.err = x.book.file.WriteTo(x.w)
	}
	if x.book != nil {
		x.book.file.Close()
	}
	return x.err
}
