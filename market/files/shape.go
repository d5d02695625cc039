package files

import (
	"encoding/csv"
	"errors"
	"io"
	"math"
	"net/url"
	"regexp"
	"slices"
	"strings"
	"unicode"
)

// Kind is what a file is about.
type Kind string

// The kinds.
const (
	IdeaList     Kind = "a list of ideas"
	SearchReport Kind = "a search report"
	ResultsFile  Kind = "results"
	RankingsFile Kind = "rankings of one site"
	RivalFile    Kind = "rankings of another site" // which it is only who knows one's own can tell
	SiteFile     Kind = "figures"                  // of a site that somebody named
	LinksFile    Kind = "links"
	RanksFile    Kind = "ranks of sites"
	ServerLog    Kind = "a web server's log"
	Unknown      Kind = "a table"
)

// Shape is how a file is read: what was recognised of it, or what somebody said.
type Shape struct {
	Part     string `json:",omitempty"`
	Form     Form
	Encoding Encoding `json:",omitempty"`
	Comma    string   `json:",omitempty"`
	Skip     int      `json:",omitempty"` // rows before the heading
	Header   bool     `json:",omitempty"`
	Columns  []Column `json:",omitempty"`
}

// Separators are what may stand between cells.
var Separators = []string{",", ";", "\t", "|"}

// Key tells files of one shape: their headings, and how they are written.
func (s Shape) Key() string {
	parts := []string{string(s.Form), s.Comma}
	for _, c := range s.Columns {
		parts = append(parts, normalHeading(c.Heading))
	}
	return strings.Join(parts, "\x1f")
}

// Has is the first column of a field, −1 where there is none.
func (s Shape) Has(f Field) int {
	return slices.IndexFunc(s.Columns, func(c Column) bool { return c.Field == f })
}

// Kind tells what a file of this shape is about, by its columns and some of its rows.
func (s Shape) Kind(rows [][]string) Kind {
	has := func(list ...Field) bool {
		return !slices.ContainsFunc(list, func(f Field) bool { return s.Has(f) < 0 })
	}
	switch {
	case s.Form == Log:
		return ServerLog
	case has(From, To):
		return LinksFile
	case has(Clicks, Impressions) && (has(Phrase) || has(URL)):
		return SearchReport
	case has(Phrase, Position, URL):
		if s.Form != Blocks && s.oneSite(rows) {
			return RankingsFile
		}
		return ResultsFile
	case has(Phrase):
		return IdeaList
	case has(Site, Rank), has(Site) && has(Position):
		return RanksFile
	}
	return Unknown
}

// oneSite reports whether nine of ten addresses are of one site.
func (s Shape) oneSite(rows [][]string) bool {
	count, all, most := map[string]int{}, 0, 0
	at := s.Has(URL)
	for _, row := range rows {
		if at >= len(row) {
			continue
		}
		if u, err := url.Parse(row[at]); err == nil && u.Host != "" {
			count[u.Host]++
			all++
			most = max(most, count[u.Host])
		}
	}
	return all > 0 && 10*most >= 9*all
}

// logLine is a line of the combined log format: host, ident, user, time, request, status, bytes, referrer, agent.
var logLine = regexp.MustCompile(`^(\S+) \S+ \S+ \[([^\]]+)\] "((?:[^"\\]|\\.)*)" (\d{3}|-) (\d+|-) ` +
	`"((?:[^"\\]|\\.)*)" ` +
	`"((?:[^"\\]|\\.)*)"`)

// Recognise tells how a file is written and what its columns hold.
func (f *File) Recognise() (Shape, error) {
	if f.form == Spreadsheet {
		return f.recogniseSheet()
	}
	e, err := encodingOf(f.path)
	if err != nil {
		return Shape{}, err
	}
	text, err := sampleOf(f.path, e)
	if err != nil {
		return Shape{}, err
	}
	if strings.TrimSpace(text) == "" {
		return Shape{}, ErrEmpty
	}
	s := Shape{Part: f.Took, Encoding: e}
	lines := strings.Split(strings.TrimRight(text, "\n"), "\n")
	switch first := strings.TrimSpace(text); {
	case strings.HasPrefix(first, "[{"), strings.HasPrefix(first, "{"), strings.HasPrefix(first, "[") && isJSON(first):
		s.Form = JSON
	case logs(lines) > len(lines)*4/5:
		s.Form = Log
		s.Columns = []Column{{Heading: "search terms of referrers", Field: Phrase}, {Heading: "requested page", Field: Note}}
		return s, nil
	case areBlocks(lines):
		s.Form = Blocks
		s.Columns = []Column{{Heading: "phrase", Field: Phrase}, {Heading: "place", Field: Position, Decimal: "."},
			{Heading: "address", Field: URL}}
		return s, nil
	default:
		s.separated(text, lines)
	}
	if s.Form == JSON {
		keys, err := f.jsonKeys(e)
		if err != nil {
			return s, err
		}
		s.Header, s.Columns = true, columnsOf(keys)
	}
	return s, f.Decide(&s)
}

// areBlocks reports whether lines are phrases with addresses under them.
func areBlocks(lines []string) bool {
	phrases, addresses := 0, 0
	for _, l := range lines {
		switch l = strings.TrimSpace(l); {
		case l == "":
		case isAddress(l) && !strings.ContainsAny(l, ",;|"): // or it is a cell of a table
			if phrases == 0 {
				return false
			}
			addresses++
		default:
			phrases++
		}
	}
	return phrases > 0 && addresses >= phrases
}

// isAddress holds for a web address that stands alone.
func isAddress(text string) bool {
	u, err := url.Parse(text)
	return err == nil && (u.Scheme == "http" || u.Scheme == "https") && u.Host != "" && !strings.ContainsAny(text, " \t")
}

func logs(lines []string) (n int) {
	for _, l := range lines {
		if logLine.MatchString(l) {
			n++
		}
	}
	return n
}

func isJSON(text string) bool {
	rest := strings.TrimLeftFunc(text[1:], unicode.IsSpace)
	return strings.HasPrefix(rest, "{")
}

// recordsOf reads a sample's rows with a separator.
func recordsOf(text, comma string) (out [][]string) {
	r := csv.NewReader(strings.NewReader(text))
	r.Comma, r.FieldsPerRecord, r.LazyQuotes = rune(comma[0]), -1, true
	for len(out) < sampleRows {
		row, err := r.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			continue
		}
		out = append(out, row)
	}
	return out
}

// MostSkipped is how many rows before the headings somebody may say there are.
const MostSkipped = 1000

// mostPreface is how many rows may stand before the headings.
const mostPreface = 30

// separated tells a table by its separator, that with which most rows have as many cells; or a plain list.
func (s *Shape) separated(text string, lines []string) {
	best := 0.0
	said := ""
	if first := strings.TrimSpace(strings.ToLower(lines[0])); strings.HasPrefix(first, "sep=") && len(first) == 5 {
		said = first[4:]
	}
	s.Form = Plain
	for _, comma := range Separators {
		rows := recordsOf(text, comma)
		if comma == said {
			rows = rows[min(1, len(rows)):]
		}
		width, share := usualWidth(rows)
		head, named := headingRow(rows, width)
		score := 0.0
		switch {
		case named:
			score = 10 + float64(len(rows[head]))/10 + share
		case width > 1 && share >= 0.9 && len(rows) > 1 && (comma != "," || numeric(rows, width)):
			score = 1 + share + float64(width)/10
		}
		if comma == said && score > 0 {
			score += 100
		}
		if score <= best {
			continue
		}
		best = score
		s.Form, s.Comma = Separated, comma
		s.Skip, s.Header = head, named
		if comma == said {
			s.Skip++
		}
		switch {
		case named:
			s.Columns = columnsOf(rows[head])
		default:
			s.unnamed(rows, width)
		}
	}
	if s.Form == Plain || s.Form == Separated && len(s.Columns) == 1 {
		s.Form, s.Comma, s.Skip = Plain, "", 0
		s.Columns = []Column{{Heading: "phrase", Field: Phrase}}
		for i, l := range lines[:min(len(lines), mostPreface)] {
			if columnOf(l).Field == Phrase {
				s.Skip, s.Header = i, true
				s.Columns[0].Heading = strings.TrimSpace(l)
				break
			}
		}
	}
}

// unnamed are the columns of a table whose headings name nothing that is known: the first row of the usual width, where
// it alone has no number, is headings all the same. Which column holds phrases is not guessed.
func (s *Shape) unnamed(rows [][]string, width int) {
	s.Skip = max(0, slices.IndexFunc(rows, func(r []string) bool { return len(r) == width }))
	first := rows[s.Skip]
	s.Header = !slices.ContainsFunc(first, isNumber) && numeric(rows[s.Skip+1:], width)
	s.Columns = make([]Column, width)
	for i := range s.Columns {
		s.Columns[i].Field = Note
		if s.Header {
			s.Columns[i].Heading = strings.TrimSpace(first[i])
		}
	}
}

// usualWidth is how many cells most rows have, and which share of them.
func usualWidth(rows [][]string) (width int, share float64) {
	count := map[int]int{}
	for _, row := range rows {
		count[len(row)]++
	}
	for w, n := range count {
		if n > count[width] || n == count[width] && w > width {
			width = w
		}
	}
	return width, float64(count[width]) / math.Max(1, float64(len(rows)))
}

// headingRow is the first row that names what a file is about.
func headingRow(rows [][]string, width int) (at int, named bool) {
	for i, row := range rows[:min(len(rows), mostPreface)] {
		if n, main := known(row); main && (n > 1 || len(row) == 1 || width == len(row)) && len(row) > 1 {
			return i, true
		}
	}
	return 0, false
}

func isNumber(cell string) bool {
	n, err := ReadNumber(strings.TrimLeft(cell, "$€£ "), ".")
	return err == nil && n.Known
}

// numeric reports whether a column holds numbers in most rows.
func numeric(rows [][]string, width int) bool {
	for c := range width {
		n := 0
		for _, row := range rows {
			if c < len(row) && isNumber(row[c]) {
				n++
			}
		}
		if 2*n > len(rows) {
			return true
		}
	}
	return false
}

func (f *File) recogniseSheet() (Shape, error) {
	s := Shape{Part: f.Took, Form: Spreadsheet}
	var rows [][]string
	err := f.rows(s, func(_ int, cells []string) error {
		if rows = append(rows, slices.Clone(cells)); len(rows) == sampleRows {
			return io.EOF
		}
		return nil
	}, nil)
	if err != nil && !errors.Is(err, io.EOF) {
		return s, err
	}
	if len(rows) == 0 {
		return s, ErrEmpty
	}
	width, _ := usualWidth(rows)
	for _, row := range rows {
		width = max(width, len(row))
	}
	if at, named := headingRow(rows, len(rows[0])); named {
		s.Skip, s.Header, s.Columns = at, true, columnsOf(rows[at])
	} else if width == 1 {
		s.Columns = []Column{{Heading: "phrase", Field: Phrase}}
		if s.Header = columnOf(rows[0][0]).Field == Phrase; s.Header {
			s.Columns[0].Heading = rows[0][0]
		}
	} else {
		w, _ := usualWidth(rows)
		s.unnamed(rows, w)
	}
	return s, f.Decide(&s)
}

// Decide tells by all cells of each column of numbers how they are written.
func (f *File) Decide(s *Shape) error {
	all := make([]marks, len(s.Columns))
	wanted := func(c Column) bool {
		switch c.Field {
		case Searches, CPC, BidLow, BidHigh, Competition, Month, Position, Clicks, Impressions, CTR:
			return true
		}
		return false
	}
	if !slices.ContainsFunc(s.Columns, wanted) {
		return nil
	}
	err := f.rows(*s, func(_ int, cells []string) error {
		for i, c := range s.Columns {
			if i < len(cells) && wanted(c) {
				all[i].add(cells[i])
			}
		}
		return nil
	}, func(int, string, string) error { return nil })
	counts := marks{} // counts of one file are written alike
	for i, c := range s.Columns {
		if c.Field == Searches || c.Field == Month || c.Field == Clicks || c.Field == Impressions {
			counts.dot, counts.comma = counts.dot+all[i].dot, counts.comma+all[i].comma
			counts.groups[byDot] += all[i].groups[byDot]
			counts.groups[byComma] += all[i].groups[byComma]
			counts.dotAny, counts.some = counts.dotAny+all[i].dotAny, counts.some+all[i].some
		}
	}
	for i := range s.Columns {
		c := &s.Columns[i]
		switch {
		case !wanted(*c):
		case c.Field == Searches || c.Field == Month || c.Field == Clicks || c.Field == Impressions:
			c.Decimal, c.Doubtful = counts.decimal(true)
		default:
			c.Decimal, c.Doubtful = all[i].decimal(false)
		}
	}
	return err
}

// Columns tells what columns a file has once somebody said how its rows are written: by the row that is said to hold
// the headings, or else numbered.
func (f *File) Columns(s *Shape) error {
	s.Columns = nil
	var head []string
	n, width := 0, 0
	err := f.rows(*s, func(_ int, cells []string) error {
		if n++; n == s.Skip+1 {
			head = slices.Clone(cells)
		}
		width = max(width, len(cells))
		if n >= s.Skip+sampleRows {
			return io.EOF
		}
		return nil
	}, nil)
	if err != nil && !errors.Is(err, io.EOF) {
		return err
	}
	if head == nil {
		return ErrEmpty
	}
	if s.Form == Plain {
		s.Columns = []Column{{Heading: "phrase", Field: Phrase}}
		return nil
	}
	if s.Header {
		s.Columns = columnsOf(head)
	}
	for len(s.Columns) < min(width, MostColumns) {
		s.Columns = append(s.Columns, Column{Field: Note})
	}
	return nil
}
