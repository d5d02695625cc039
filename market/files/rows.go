package files

import (
	"bufio"
	"context"
	"encoding/csv"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/url"
	"strconv"
	"strings"
	"unicode/utf8"

	"github.com/xuri/excelize/v2"
)

// rows streams the rows of a file, headings and what stands before them among them, each with its line, and tells bad
// of lines that cannot be read. The cells are valid until the next row. A nil bad leaves them out.
func (f *File) rows(s Shape, each func(line int, cells []string) error,
	bad func(line int, text, why string) error) error {
	if bad == nil {
		bad = func(int, string, string) error { return nil }
	}
	if f.form == Spreadsheet {
		return f.sheetRows(s, each)
	}
	r, err := openText(f.path, s.Encoding)
	if err != nil {
		return err
	}
	defer r.Close()
	switch s.Form {
	case JSON:
		return jsonRows(r, s, each, bad)
	case Separated:
		return separatedRows(r, s, each, bad)
	case Log:
		return logRows(r, each, bad)
	case Blocks:
		return blockRows(r, each, bad)
	}
	return plainRows(r, each)
}

func plainRows(r io.Reader, each func(int, []string) error) error {
	lines := bufio.NewScanner(r)
	lines.Buffer(nil, MostLine+1)
	cells := make([]string, 1)
	for n := 1; lines.Scan(); n++ {
		if cells[0] = lines.Text(); strings.TrimSpace(cells[0]) == "" {
			continue
		}
		if err := each(n, cells); err != nil {
			return err
		}
	}
	if errors.Is(lines.Err(), bufio.ErrTooLong) {
		return ErrLine
	}
	return lines.Err()
}

// blockRows gives each address the phrase above it and its place under that.
func blockRows(r io.Reader, each func(int, []string) error, bad func(int, string, string) error) error {
	lines := bufio.NewScanner(r)
	lines.Buffer(nil, MostLine+1)
	cells, place := make([]string, 3), 0
	for n := 1; lines.Scan(); n++ {
		text := strings.TrimSpace(lines.Text())
		switch {
		case text == "":
		case !isAddress(text):
			cells[0], place = text, 0
		case cells[0] == "":
			if err := bad(n, text, "no phrase stands above it"); err != nil {
				return err
			}
		default:
			place++
			cells[1], cells[2] = strconv.Itoa(place), text
			if err := each(n, cells); err != nil {
				return err
			}
		}
	}
	return lines.Err()
}

func separatedRows(in io.Reader, s Shape, each func(int, []string) error, bad func(int, string, string) error) error {
	r := csv.NewReader(in)
	r.Comma, r.FieldsPerRecord, r.ReuseRecord = rune(s.Comma[0]), -1, true
	for {
		record, err := r.Read()
		if errors.Is(err, io.EOF) {
			return nil
		}
		var wrong *csv.ParseError
		if errors.As(err, &wrong) {
			if err := bad(wrong.StartLine, strings.Join(record, s.Comma), parseReason(wrong)); err != nil {
				return err
			}
			continue
		}
		if err != nil {
			return err
		}
		line, _ := r.FieldPos(0)
		if len(record) > MostColumns {
			if err := bad(line, record[0], fmt.Sprintf("it has %d cells, more than %d", len(record), MostColumns)); err != nil {
				return err
			}
			continue
		}
		if err := each(line, record); err != nil {
			return err
		}
	}
}

func parseReason(bad *csv.ParseError) string {
	switch {
	case errors.Is(bad.Err, csv.ErrQuote) && bad.Line > bad.StartLine:
		return fmt.Sprintf("a quotation mark that opens here is never closed properly; lines %d to %d were not read",
			bad.StartLine, bad.Line)
	case errors.Is(bad.Err, csv.ErrQuote):
		return "a quotation mark is out of place; inside a quoted cell, type it twice"
	case errors.Is(bad.Err, csv.ErrBareQuote):
		return "there is a quotation mark inside a cell that is not quoted"
	}
	return bad.Err.Error()
}

func (f *File) sheetRows(s Shape, each func(int, []string) error) error {
	book, err := openBook(f.path)
	if err != nil {
		return err
	}
	defer book.Close()
	sheet := s.Part
	if sheet == "" {
		sheet = f.Took
	}
	rows, err := book.Rows(sheet)
	if err != nil {
		return fmt.Errorf("the spreadsheet cannot be read: %w", err)
	}
	defer rows.Close()
	for n := 1; rows.Next(); n++ {
		cells, err := rows.Columns(excelize.Options{RawCellValue: true})
		if err != nil {
			return fmt.Errorf("row %d cannot be read: %w", n, err)
		}
		if len(cells) > MostColumns {
			cells = cells[:MostColumns]
		}
		if strings.TrimSpace(strings.Join(cells, "")) == "" {
			continue
		}
		if err := each(n, cells); err != nil {
			return err
		}
	}
	return rows.Error()
}

// jsonKeys are the names in the first objects of a file, in the order in which they come.
func (f *File) jsonKeys(e Encoding) (keys []string, err error) {
	r, err := openText(f.path, e)
	if err != nil {
		return nil, err
	}
	defer r.Close()
	seen := map[string]bool{}
	n := 0
	err = objects(r, func(_ int, raw json.RawMessage) error {
		d := json.NewDecoder(strings.NewReader(string(raw)))
		if _, err := d.Token(); err != nil {
			return err
		}
		for d.More() {
			key, err := d.Token()
			if err != nil {
				return err
			}
			var value json.RawMessage
			if err := d.Decode(&value); err != nil {
				return err
			}
			if name, is := key.(string); is && !seen[name] && len(keys) < MostColumns {
				seen[name] = true
				keys = append(keys, name)
			}
		}
		if n++; n == sampleRows {
			return io.EOF
		}
		return nil
	}, func(int, string, string) error { return nil })
	if err != nil && !errors.Is(err, io.EOF) {
		return nil, err
	}
	if len(keys) == 0 {
		return nil, errors.New("it is JSON without objects that could be rows")
	}
	return keys, nil
}

// objects streams the objects of a JSON array, of the first array in an object, or of lines. Its number stands for a
// line.
func objects(r io.Reader, each func(n int, raw json.RawMessage) error, bad func(int, string, string) error) error {
	in := bufio.NewReaderSize(r, 1<<16)
	d := json.NewDecoder(in)
	first, err := d.Token()
	if err != nil {
		return jsonTrouble(err)
	}
	if first != json.Delim('[') {
		return lineObjects(io.MultiReader(strings.NewReader("{"), d.Buffered(), in), each, bad)
	}
	for n := 1; d.More(); n++ {
		var raw json.RawMessage
		if err := d.Decode(&raw); err != nil {
			return jsonTrouble(err)
		}
		if len(raw) > MostLine {
			return ErrLine
		}
		if raw[0] != '{' {
			if err := bad(n, string(raw), "it is no object"); err != nil {
				return err
			}
			continue
		}
		if err := each(n, raw); err != nil {
			return err
		}
	}
	if _, err := d.Token(); err != nil {
		return jsonTrouble(err)
	}
	return nil
}

// lineObjects reads objects that follow each other. One that alone is all and holds an array of objects stands for it.
func lineObjects(r io.Reader, each func(int, json.RawMessage) error, bad func(int, string, string) error) error {
	d := json.NewDecoder(r)
	for n := 1; ; n++ {
		var raw json.RawMessage
		err := d.Decode(&raw)
		if errors.Is(err, io.EOF) {
			return nil
		}
		if err != nil {
			return jsonTrouble(err)
		}
		if n == 1 && !d.More() {
			var outer map[string]json.RawMessage
			if json.Unmarshal(raw, &outer) == nil {
				for _, inner := range outer {
					if t := strings.TrimSpace(string(inner)); strings.HasPrefix(t, "[") && isJSON(t) {
						return objects(strings.NewReader(t), each, bad)
					}
				}
			}
		}
		if raw[0] != '{' {
			if err := bad(n, string(raw), "it is no object"); err != nil {
				return err
			}
			continue
		}
		if err := each(n, raw); err != nil {
			return err
		}
	}
}

func jsonTrouble(err error) error {
	if errors.Is(err, io.ErrUnexpectedEOF) || errors.Is(err, io.EOF) {
		return ErrCut
	}
	if errors.Is(err, ErrLine) {
		return err
	}
	return fmt.Errorf("the JSON cannot be read: %w", err)
}

func jsonRows(r io.Reader, s Shape, each func(int, []string) error, bad func(int, string, string) error) error {
	heads := make([]string, len(s.Columns))
	at := map[string]int{}
	for i, c := range s.Columns {
		heads[i], at[c.Heading] = c.Heading, i
	}
	if err := each(0, heads); err != nil { // so that it has headings as other forms do
		return err
	}
	cells := make([]string, len(s.Columns))
	return objects(r, func(n int, raw json.RawMessage) error {
		var values map[string]json.RawMessage
		if err := json.Unmarshal(raw, &values); err != nil {
			return bad(n, string(raw), "it is no object")
		}
		clear(cells)
		for key, value := range values {
			if i, is := at[strings.TrimSpace(key)]; is {
				cells[i] = plainJSON(value)
			}
		}
		return each(n, cells)
	}, bad)
}

// plainJSON is a value as a cell: a text without its quotes, nothing for null.
func plainJSON(raw json.RawMessage) string {
	text := string(raw)
	if text == "null" {
		return ""
	}
	var s string
	if strings.HasPrefix(text, `"`) && json.Unmarshal(raw, &s) == nil {
		return s
	}
	return text
}

// logRows takes the search terms of referrers, with the page that was asked for. Lines without them are left out.
func logRows(r io.Reader, each func(int, []string) error, bad func(int, string, string) error) error {
	lines := bufio.NewScanner(r)
	lines.Buffer(nil, MostLine+1)
	cells := make([]string, 2)
	for n := 1; lines.Scan(); n++ {
		m := logLine.FindStringSubmatch(lines.Text())
		if m == nil {
			if strings.TrimSpace(lines.Text()) != "" {
				if err := bad(n, lines.Text(), "it is no line of a log in the combined format"); err != nil {
					return err
				}
			}
			continue
		}
		if cells[0] = termsIn(m[6]); cells[0] == "" {
			continue
		}
		if _, rest, ok := strings.Cut(m[3], " "); ok {
			cells[1], _, _ = strings.Cut(rest, " ")
		}
		if err := each(n, cells); err != nil {
			return err
		}
	}
	return lines.Err()
}

// termsIn are the search terms in a referrer's address, by the names that search engines give them (common practice, no
// source).
func termsIn(referrer string) string {
	u, err := url.Parse(referrer)
	if err != nil || u.Host == "" {
		return ""
	}
	for _, name := range []string{"q", "query", "p", "text", "wd", "search"} {
		if terms := strings.TrimSpace(u.Query().Get(name)); terms != "" {
			return terms
		}
	}
	return ""
}

// LineProblem is a line that cannot be used, and why.
type LineProblem struct {
	Line   int
	Text   string // as written, shortened
	Reason string
}

// Each streams the rows under the headings, until the context ends.
func (f *File) Each(ctx context.Context, s Shape, each func(line int, cells []string) error,
	bad func(LineProblem) error) error {
	n, skip := 0, s.Skip
	if s.Header {
		skip++
	}
	if s.Form == JSON {
		skip = 1
	}
	err := f.rows(s, func(line int, cells []string) error {
		if n++; n <= skip {
			return nil
		}
		if n%1024 == 0 && ctx.Err() != nil {
			return ctx.Err()
		}
		if n-skip > MostRows {
			return ErrRows
		}
		return each(line, cells)
	}, func(line int, text, why string) error {
		return bad(LineProblem{line, printable(text), why})
	})
	return err
}

// printable shortens a hostile line for showing.
func printable(s string) string {
	if !utf8.ValidString(s) {
		s = strings.ToValidUTF8(s, "\ufffd")
	}
	return shorten(s, 120)
}

func shorten(s string, n int) string {
	if r := []rune(s); len(r) > n {
		return string(r[:n-1]) + "…"
	}
	return s
}
