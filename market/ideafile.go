package market

import (
	"bufio"
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"strconv"
	"strings"
	"unicode/utf8"

	"cleverniche/core/demand"
	"cleverniche/core/phrase"

	"golang.org/x/text/encoding/unicode"
	"golang.org/x/text/transform"
)

// IdeaRow is one usable line of somebody's own list.
type IdeaRow struct {
	Line     int
	Phrase   string // normal form
	Searches int    // a month; −1 when the file does not say
	Under    bool   // fewer than Searches
	CPC      demand.Cost
	// What a file of this program's own says besides, as it is written there; "" nothing.
	Decision, Labels, Note, Season, Trend string
	Ads                                   *float64 // competition among advertisers, 0 to 1
}

// LineProblem is a line that cannot be used, and why.
type LineProblem struct {
	Line   int
	Text   string // as written, shortened
	Reason string
}

// MostFileBytes and MostLines bound a list that is read at once.
const (
	MostFileBytes = 16 << 20
	MostLines     = 100_000
)

// ErrTooLarge and ErrTooLong are returned for larger ones.
var (
	ErrTooLarge = fmt.Errorf("it is larger than %d MB. Split it into several files", MostFileBytes>>20)
	ErrTooLong  = fmt.Errorf("it has more than %d lines. Split it into several files", MostLines)
)

// ReadIdeas reads a list of phrases: one a line, or a table with a header line
// that names at least the column phrase, and maybe searches, cpc and others of ideaColumns, in any order,
// separated by commas, semicolons or tabs (RFC 4180 quoting). Amounts without a
// currency sign are in the given currency. Text is UTF-8, or UTF-16 with a byte
// order mark. Lines that cannot be used come back with their reason; the error is
// for a list that cannot be read at all.
func ReadIdeas(r io.Reader, currency string) ([]IdeaRow, []LineProblem, error) {
	data, err := io.ReadAll(io.LimitReader(r, MostFileBytes+1))
	if err != nil {
		return nil, nil, err
	}
	if len(data) > MostFileBytes {
		return nil, nil, ErrTooLarge
	}
	if data, err = decodeUTF16(data); err != nil {
		return nil, nil, err
	}
	data = bytes.TrimPrefix(data, []byte("\xef\xbb\xbf"))
	if bytes.IndexByte(data, 0) >= 0 {
		return nil, nil, errors.New("it is not text: it holds zero bytes (a spreadsheet file must be saved as CSV first)")
	}
	if head, comma, ok := tableHead(data); ok {
		return readTable(data, head, comma, currency)
	}
	return readLines(data)
}

func decodeUTF16(data []byte) ([]byte, error) {
	if !bytes.HasPrefix(data, []byte("\xff\xfe")) && !bytes.HasPrefix(data, []byte("\xfe\xff")) {
		return data, nil
	}
	decoder := unicode.UTF16(unicode.BigEndian, unicode.UseBOM).NewDecoder()
	out, _, err := transform.Bytes(decoder, data)
	return out, err
}

// ideaColumns are the columns that a table of ideas may have, by their heading, and how
// a cell that is not empty is read.
var ideaColumns = []struct {
	heading string
	read    func(row *IdeaRow, cell, currency string) error
}{
	{"phrase", func(row *IdeaRow, cell, _ string) (err error) {
		row.Phrase, err = phrase.Parse(cell)
		if errors.Is(err, phrase.ErrEncoding) {
			return errors.New("it is not UTF-8 text; save the file as UTF-8")
		}
		return err
	}},
	{"searches", func(row *IdeaRow, cell, _ string) (err error) {
		row.Searches, row.Under, err = readCount(cell)
		return err
	}},
	{"cpc", func(row *IdeaRow, cell, currency string) (err error) {
		row.CPC, err = ReadCost(cell, currency)
		return err
	}},
	{"currency", func(row *IdeaRow, cell, _ string) error {
		if row.CPC.Known() && len(cell) == 3 {
			row.CPC.Currency = strings.ToUpper(cell)
		}
		return nil
	}},
	{"under floor", func(row *IdeaRow, cell, _ string) error {
		row.Under = row.Under || row.Searches >= 0 && strings.EqualFold(cell, "yes")
		return nil
	}},
	{"ad competition", func(row *IdeaRow, cell, _ string) error {
		if x, err := strconv.ParseFloat(cell, 64); err == nil && x >= 0 && x <= 1 {
			row.Ads = &x
		}
		return nil
	}},
	{"decision", words(func(row *IdeaRow) *string { return &row.Decision })},
	{"labels", words(func(row *IdeaRow) *string { return &row.Labels })},
	{"note", words(func(row *IdeaRow) *string { return &row.Note })},
	{"season", words(func(row *IdeaRow) *string { return &row.Season })},
	{"trend", words(func(row *IdeaRow) *string { return &row.Trend })},
}

// words reads a cell as it is. A sign that kept a spreadsheet from taking it for a formula is left out.
func words(of func(row *IdeaRow) *string) func(*IdeaRow, string, string) error {
	return func(row *IdeaRow, cell, _ string) error {
		if len(cell) > 1 && cell[0] == '\'' && strings.ContainsRune("=+-@\t\r\n|", rune(cell[1])) {
			cell = cell[1:]
		}
		*of(row) = cell
		return nil
	}
}

// columns are the places of ideaColumns in a table; −1 for one that is not there.
type columns []int

// tableHead reports whether the first line names a phrase column.
func tableHead(data []byte) (columns, rune, bool) {
	line, _, _ := bytes.Cut(data, []byte("\n"))
	for _, comma := range []rune{',', ';', '\t'} {
		c := make(columns, len(ideaColumns))
		for k := range c {
			c[k] = -1
		}
		for i, cell := range strings.Split(strings.TrimSpace(string(line)), string(comma)) {
			name := strings.ToLower(strings.Trim(strings.TrimSpace(cell), `"`))
			for k, known := range ideaColumns {
				if name == known.heading {
					c[k] = i
				}
			}
		}
		if c[0] >= 0 {
			return c, comma, true
		}
	}
	return nil, 0, false
}

func readLines(data []byte) (rows []IdeaRow, problems []LineProblem, err error) {
	lines := bufio.NewScanner(bytes.NewReader(data))
	lines.Buffer(nil, MostFileBytes+1)
	for n := 1; lines.Scan(); n++ {
		raw := lines.Text()
		if strings.TrimSpace(raw) == "" {
			continue
		}
		row, reason := readRow(n, columns{0}, []string{raw}, "")
		if reason != "" {
			if problems = append(problems, LineProblem{n, printable(raw), reason}); len(problems) > MostLines {
				return nil, nil, ErrTooLong
			}
			continue
		}
		if rows = append(rows, row); len(rows)+len(problems) > MostLines {
			return nil, nil, ErrTooLong
		}
	}
	return rows, problems, lines.Err()
}

func readTable(data []byte, head columns, comma rune, currency string) (rows []IdeaRow, problems []LineProblem,
	err error) {
	r := csv.NewReader(bytes.NewReader(data))
	r.Comma, r.FieldsPerRecord = comma, -1
	for first := true; ; first = false {
		record, err := r.Read()
		if len(rows)+len(problems) > MostLines {
			return nil, nil, ErrTooLong
		}
		if errors.Is(err, io.EOF) {
			return rows, problems, nil
		}
		var bad *csv.ParseError
		if errors.As(err, &bad) {
			problems = append(problems, LineProblem{bad.StartLine, strings.Join(record, string(comma)), parseReason(bad)})
			continue
		}
		if err != nil {
			return nil, nil, err
		}
		if first {
			continue
		}
		line, _ := r.FieldPos(0)
		if strings.TrimSpace(strings.Join(record, "")) == "" {
			continue
		}
		row, reason := readRow(line, head, record, currency)
		if reason != "" {
			problems = append(problems, LineProblem{line, printable(strings.Join(record, string(comma))), reason})
			continue
		}
		rows = append(rows, row)
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

// readRow reads the cells of one line. A phrase is read though it is empty, so that it
// is said to be missing.
func readRow(line int, head columns, record []string, currency string) (row IdeaRow, reason string) {
	row = IdeaRow{Line: line, Searches: -1}
	for k, at := range head {
		cell := ""
		if at >= 0 && at < len(record) {
			cell = strings.TrimSpace(record[at])
		}
		if cell == "" && k > 0 {
			continue
		}
		if err := ideaColumns[k].read(&row, cell, currency); err != nil {
			return row, err.Error()
		}
	}
	return row, ""
}

// MostSearches is the largest count believed: more than the world's population
// searching once a day.
const MostSearches = 300_000_000_000

// readCount reads "1900", "1,900", "1 900" and "<10".
func readCount(s string) (n int, under bool, err error) {
	digits := s
	if rest, ok := strings.CutPrefix(strings.TrimSpace(s), "<"); ok {
		digits, under = rest, true
	}
	digits = strings.NewReplacer(",", "", " ", "", "\u00a0", "", "\u202f", "", "'", "").Replace(digits)
	n, err = strconv.Atoi(strings.TrimSuffix(digits, ".0"))
	if err != nil || n < 0 || n > MostSearches {
		return 0, false, fmt.Errorf("searches %q is not a whole number", shorten(printable(s), 30))
	}
	return n, under, nil
}

var currencySigns = map[string]string{"$": "USD", "€": "EUR", "£": "GBP"}

// ReadCost reads "0.85", "0,85", "$0.85" and "0.85 EUR", exactly.
func ReadCost(s, currency string) (demand.Cost, error) {
	bad := fmt.Errorf("cpc %q is not an amount of money", shorten(printable(s), 30))
	amount := strings.TrimSpace(s)
	for sign, code := range currencySigns {
		if rest, ok := strings.CutPrefix(amount, sign); ok {
			amount, currency = rest, code
		} else if rest, ok := strings.CutSuffix(amount, sign); ok {
			amount, currency = rest, code
		}
	}
	if f := strings.Fields(amount); len(f) == 2 && len(f[1]) == 3 {
		amount, currency = f[0], strings.ToUpper(f[1])
	}
	whole, part, _ := strings.Cut(strings.ReplaceAll(strings.TrimSpace(amount), ",", "."), ".")
	if whole == "" {
		whole = "0"
	}
	if len(part) > 6 || len(whole) > 7 || strings.Contains(part, ".") || strings.HasPrefix(whole, "-") ||
		strings.HasPrefix(whole, "+") {
		return demand.Cost{}, bad
	}
	units, err1 := strconv.ParseUint(whole, 10, 32)
	micros, err2 := strconv.ParseUint((part + "000000")[:6], 10, 32)
	if err1 != nil || err2 != nil {
		return demand.Cost{}, bad
	}
	return demand.Cost{Micros: int64(units)*1_000_000 + int64(micros), Currency: currency}, nil
}

// printable shortens a hostile line for showing.
func printable(s string) string {
	if !utf8.ValidString(s) {
		s = strings.ToValidUTF8(s, "\ufffd")
	}
	return shorten(s, 120)
}
