package files

import (
	"bytes"
	"context"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"io"
	"math"
	"slices"
	"strconv"
	"strings"
	"text/tabwriter"
	"time"

	"cleverniche/core/sieve"
	"cleverniche/study/ideas"
	"cleverniche/study/input"
)

// Format is a way to write ideas out.
type Format struct {
	Name   string // in addresses and flags
	Ending string // of a file's name
	Says   string // what it is called for people
	Media  string // "" when it is for terminals only
	begin  func(w io.Writer) exporter
}

// exporter writes ideas one by one.
type exporter interface {
	write(i ideas.Idea) error
	end() error
}

// Formats are the ways there are.
func Formats() []Format {
	return []Format{
		{"csv", "csv", "CSV", csvMedia, beginCSV},
		{"csv-marked", "csv", "CSV for spreadsheets", csvMedia, beginMarkedCSV},
		{"xlsx", "xlsx", "Workbook (XLSX)", xlsxMedia, beginXLSX},
		{"tsv", "tsv", "Tabs (TSV)", "text/tab-separated-values; charset=utf-8; header=present", beginTSV}, // can be pasted
		{"json", "json", "JSON", "application/json", beginJSON},
		{"table", "", "", "", beginTable},
	}
}

const (
	csvMedia  = "text/csv; charset=utf-8; header=present" // the first line is a header: RFC 4180
	xlsxMedia = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
)

// FormatNamed returns the format of a name, or an *input.Error.
func FormatNamed(name string) (Format, error) {
	var known []string
	for _, f := range Formats() {
		if f.Name == name {
			return f, nil
		}
		known = append(known, f.Name)
	}
	return Format{}, input.Bad("format", "There is no format “%s”; there are %s.", name, strings.Join(known, ", "))
}

// readAtOnce is how many rows are read from the data file at a time.
const readAtOnce = 500

// Export writes the ideas of a table that a sieve leaves, in its order.
func (s *Exporter) Export(ctx context.Context, w io.Writer, b ideas.Table, by sieve.Sieve, f Format) error {
	return s.ExportIdeas(ctx, w, b.Niche, b.Pass(by).IDs(0, -1), f)
}

// ExportIdeas writes ideas of a niche, in the order of the IDs.
func (s *Exporter) ExportIdeas(ctx context.Context, w io.Writer, niche uint, ids []uint, f Format) error {
	out := f.begin(w)
	for part := range slices.Chunk(ids, readAtOnce) {
		ideas, err := s.ideas.Ideas(ctx, niche, part)
		if err != nil {
			return err
		}
		for _, i := range ideas {
			if err := out.write(i); err != nil {
				return err
			}
		}
	}
	return out.end()
}

// exported are the figures that files hold, a column each.
func exported() []*sieve.Figure {
	return slices.DeleteFunc(sieve.Figures(), func(f *sieve.Figure) bool { return !f.Export })
}

// cell is a figure's value as a file has it: a number, a text, a truth, or nil while it
// is not known.
func cell(i ideas.Idea, f *sieve.Figure) any {
	v := i.Value(f)
	switch f.Form {
	case sieve.Yes:
		if !v.Known && !f.Unheld {
			return nil
		}
		return v.Known && v.Number == 1
	case sieve.Name, sieve.Several:
		return f.NameOf(v)
	case sieve.Marks:
		return strings.ReplaceAll(v.Text, sieve.LabelMark, "; ")
	case sieve.Text:
		if f == sieve.Phrase {
			return i.Phrase
		}
		if f == sieve.Currency && !i.Value(sieve.CPC).Known {
			return ""
		}
		return v.Text
	}
	switch {
	case !v.Known:
		return nil
	case f.Form == sieve.Amount:
		return amount(int64(math.Round(v.Number * 1e6)))
	case f.Form == sieve.Moment:
		return moment(time.Unix(int64(v.Number), 0).UTC())
	case f.Form == sieve.Count:
		return int(v.Number)
	}
	return round(v.Number, f.Places)
}

// amount is money in millionths, moment a time, day a date: each is written as its kind of file has it.
type (
	amount int64
	moment time.Time
	day    time.Time
)

func (a amount) String() string               { return decimal(int64(a)) }
func (a amount) MarshalJSON() ([]byte, error) { return []byte(a.String()), nil } // a number: RFC 8259, 6
func (m moment) String() string               { return time.Time(m).Format("2006-01-02T15:04:05Z") }
func (m moment) MarshalJSON() ([]byte, error) { return json.Marshal(m.String()) }
func (d day) String() string                  { return time.Time(d).Format(time.DateOnly) }
func (d day) MarshalJSON() ([]byte, error)    { return json.Marshal(d.String()) }

// round rounds to so many decimals.
func round(x float64, digits int) float64 {
	v, _ := strconv.ParseFloat(strconv.FormatFloat(x, 'f', digits, 64), 64)
	return v
}

// decimal writes micro-units exactly, with at least two decimals.
func decimal(micros int64) string {
	s := strings.TrimRight(strconv.FormatInt(micros/1_000_000, 10)+"."+
		strconv.FormatInt(1_000_000+micros%1_000_000, 10)[1:], "0")
	for dot := strings.IndexByte(s, '.'); len(s)-dot < 3; {
		s += "0"
	}
	return s
}

// written is a cell as text.
func written(c any) string {
	switch v := c.(type) {
	case int:
		return strconv.Itoa(v)
	case float64:
		return strconv.FormatFloat(v, 'f', -1, 64)
	case string:
		return v
	case bool:
		if v {
			return "yes"
		}
		return "no"
	case fmt.Stringer:
		return v.String()
	}
	return ""
}

// Harmless returns a cell that no spreadsheet takes for a formula: text that
// begins with a sign that starts one gets an apostrophe before it.
func Harmless(cell string) string {
	if cell != "" && strings.ContainsRune("=+-@\t\r\n|", rune(cell[0])) {
		return "'" + cell
	}
	return cell
}

// csvFile is RFC 4180: UTF-8, a header line, lines that end in CR LF.
type csvFile struct {
	out     *csv.Writer
	figures []*sieve.Figure
}

func beginCSV(w io.Writer) exporter { return beginTable4180(w, ',') }

// byteOrderMark tells programs that go by it that a text is UTF-8.
const byteOrderMark = "\ufeff"

// beginMarkedCSV is the same behind a byte order mark, without which some spreadsheets take UTF-8 for something else.
func beginMarkedCSV(w io.Writer) exporter {
	io.WriteString(w, byteOrderMark) // what is wrong shows with the next write
	return beginCSV(w)
}

// beginTSV is the same with tabs for commas.
func beginTSV(w io.Writer) exporter { return beginTable4180(w, '\t') }

func beginTable4180(w io.Writer, comma rune) exporter {
	c := &csvFile{csv.NewWriter(w), exported()}
	c.out.UseCRLF, c.out.Comma = true, comma
	head := make([]string, len(c.figures))
	for i, f := range c.figures {
		head[i] = f.Name
	}
	c.out.Write(head) // an error stays until Flush
	return c
}

func (c *csvFile) write(i ideas.Idea) error {
	cells := make([]string, len(c.figures))
	for k, f := range c.figures {
		cells[k] = Harmless(written(cell(i, f)))
	}
	return c.out.Write(cells)
}

func (c *csvFile) end() error {
	c.out.Flush()
	return c.out.Error()
}

// jsonFile is an array of objects. What is not known is null, or "" for words.
type jsonFile struct {
	w       io.Writer
	figures []*sieve.Figure
	some    bool
}

func beginJSON(w io.Writer) exporter { return &jsonFile{w: w, figures: exported()} }

func (j *jsonFile) write(i ideas.Idea) error {
	var b bytes.Buffer
	before := "["
	if j.some {
		before = ","
	}
	b.WriteString(before + "\n  {")
	j.some = true
	text := json.NewEncoder(&b)
	text.SetEscapeHTML(false)
	for k, f := range j.figures {
		if k > 0 {
			b.WriteString(", ")
		}
		b.WriteString(strconv.Quote(f.Column()) + ": ")
		if err := text.Encode(cell(i, f)); err != nil {
			return err
		}
		b.Truncate(b.Len() - 1) // the encoder ends with a line
	}
	b.WriteString("}")
	_, err := b.WriteTo(j.w)
	return err
}

func (j *jsonFile) end() error {
	end := "[]\n"
	if j.some {
		end = "\n]\n"
	}
	_, err := io.WriteString(j.w, end)
	return err
}

// terminal is a short table for people.
type terminal struct {
	out     *tabwriter.Writer
	figures []*sieve.Figure
}

func beginTable(w io.Writer) exporter {
	t := &terminal{tabwriter.NewWriter(w, 2, 0, 2, ' ', 0), slices.DeleteFunc(sieve.Figures(),
		func(f *sieve.Figure) bool { return !f.Brief })}
	var head []string
	for _, f := range t.figures {
		head = append(head, strings.ToUpper(f.Name))
	}
	io.WriteString(t.out, strings.Join(head, "\t")+"\n") // an error stays until Flush
	return t
}

func (t *terminal) write(i ideas.Idea) error {
	cells := make([]string, len(t.figures))
	for k, f := range t.figures {
		cells[k] = written(cell(i, f))
		v := i.Value(f)
		switch {
		case f.Locked != "" && i.Locked():
			cells[k] = f.Locked
		case v.Under:
			cells[k] = "<" + cells[k]
		case v.Known && f.Form == sieve.Percent:
			cells[k] = f.Ranged(i).String()
		}
	}
	_, err := io.WriteString(t.out, strings.Join(cells, "\t")+"\n")
	return err
}

func (t *terminal) end() error { return t.out.Flush() }
