package study

import (
	"context"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"io"
	"strconv"
	"strings"
	"text/tabwriter"

	"cleverniche/core/intent"
	"cleverniche/core/sieve"
	"cleverniche/market"
	"cleverniche/store"
)

// ImportReport says what became of a list.
type ImportReport struct {
	List     string
	Used     int // usable lines
	Added    int // new ideas
	Merged   int // lines whose idea was there already, here or earlier in the list
	Problems []market.LineProblem
}

// Import reads somebody's own list into the niche: every usable line goes in, the
// others are listed with their reason. All in one step: nothing half-done remains.
func (s *Study) Import(ctx context.Context, n store.Niche, list string, r io.Reader) (ImportReport, error) {
	rep := ImportReport{List: list}
	rows, problems, err := market.ReadIdeas(r, n.Currency)
	if err != nil {
		return rep, badInput("list", "The list cannot be read: %v.", err)
	}
	rep.Problems, rep.Used = problems, len(rows)
	if len(rows) == 0 && len(problems) == 0 {
		return rep, badInput("list", "The list is empty: paste phrases, one a line, or choose a file.")
	}
	finds := make([]store.Find, 0, len(rows))
	now := s.options.Now().UTC()
	for _, row := range rows {
		f := s.find(n, row.Phrase, store.Origin{Kind: FromList, Query: list})
		if row.Searches >= 0 {
			n := row.Searches
			f.Idea.DemandAt, f.Idea.DemandSource, f.Idea.Searches, f.Idea.Under = &now, store.ImportSource, &n, row.Under
		}
		if row.CPC.Known() {
			f.Idea.CPCMicros, f.Idea.Currency = &row.CPC.Micros, row.CPC.Currency
		}
		finds = append(finds, f)
	}
	rep.Added, err = s.store.AddIdeas(ctx, n.ID, finds)
	rep.Merged = rep.Used - rep.Added
	return rep, err
}

// Format is a way to write ideas out.
type Format string

// The formats.
const (
	CSV   Format = "csv"
	JSON  Format = "json"
	Table Format = "table"
)

// Record is an idea as it is exported. Absent figures are null in JSON and empty
// in CSV.
type Record struct {
	Phrase      string   `json:"phrase"`
	Decision    string   `json:"decision"`
	Searches    *int     `json:"searches"`
	Under       bool     `json:"under_floor"` // fewer than searches
	CPC         *string  `json:"cpc"`
	Currency    string   `json:"currency,omitempty"`
	Competition *float64 `json:"ad_competition"`
	Difficulty  *float64 `json:"difficulty"`
	Reach       *float64 `json:"reach"`
	PageOne     *float64 `json:"page_one_chance"`
	Footholds   *int     `json:"footholds"`
	Locked      bool     `json:"locked"`
	Wants       string   `json:"wants,omitempty"`
	JudgedAt    string   `json:"looked_up,omitempty"`
	Source      string   `json:"searches_from,omitempty"`
}

var decisionNames = map[int8]string{int8(sieve.Undecided): "", int8(sieve.Kept): "kept", int8(sieve.Dropped): "dropped"}

func recordOf(i store.Idea) Record {
	r := Record{Phrase: i.Phrase, Decision: decisionNames[i.Decision], Searches: i.Searches, Under: i.Under,
		Competition: i.Competition, Source: i.DemandSource}
	if i.CPCMicros != nil {
		amount := decimal(*i.CPCMicros)
		r.CPC, r.Currency = &amount, i.Currency
	}
	if i.JudgedAt != nil {
		d, reach, p, f := round(i.Difficulty, 1), round(i.Reach, 1), round(i.PageOne, 4), i.Footholds
		r.Difficulty, r.Reach, r.PageOne, r.Footholds = &d, &reach, &p, &f
		r.Locked = i.Locked
		r.Wants = intent.Want(i.Want).String()
		r.JudgedAt = i.JudgedAt.UTC().Format("2006-01-02T15:04:05Z")
	}
	return r
}

func round(x float64, digits int) float64 {
	v, _ := strconv.ParseFloat(strconv.FormatFloat(x, 'f', digits, 64), 64)
	return v
}

// decimal writes micro-units exactly, with at least two decimals.
func decimal(micros int64) string {
	s := strings.TrimRight(fmt.Sprintf("%d.%06d", micros/1_000_000, micros%1_000_000), "0")
	for dot := strings.IndexByte(s, '.'); len(s)-dot < 3; {
		s += "0"
	}
	return s
}

// ExportHeader is the header line of the CSV export.
var ExportHeader = []string{"phrase", "decision", "searches", "under floor", "cpc", "currency", "ad competition",
	"difficulty", "reach", "page-one chance", "footholds", "wants", "looked up", "searches from", "locked"}

func (r Record) cells() []string {
	return []string{r.Phrase, r.Decision, number(r.Searches), yes(r.Under), str(r.CPC), r.Currency, decimals(r.Competition),
		decimals(r.Difficulty), decimals(r.Reach), decimals(r.PageOne), number(r.Footholds), r.Wants, r.JudgedAt, r.Source, yes(r.Locked)}
}

func number(n *int) string {
	if n == nil {
		return ""
	}
	return strconv.Itoa(*n)
}

func decimals(x *float64) string {
	if x == nil {
		return ""
	}
	return strconv.FormatFloat(*x, 'f', -1, 64)
}

func str(s *string) string {
	if s == nil {
		return ""
	}
	return *s
}

func yes(b bool) string {
	if b {
		return "yes"
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

// Export writes the ideas that the sift leaves, in its order.
func (s *Study) Export(ctx context.Context, w io.Writer, niche uint, f Sift, format Format) error {
	b, err := s.Board(ctx, niche)
	if err != nil {
		return err
	}
	rows := b.Pass(f).Rows(0, -1)
	records := make([]Record, len(rows))
	for i, r := range rows {
		records[i] = recordOf(r.Idea)
	}
	switch format {
	case JSON:
		enc := json.NewEncoder(w)
		enc.SetIndent("", "  ")
		enc.SetEscapeHTML(false)
		return enc.Encode(records)
	case Table:
		return writeTable(w, records)
	case CSV:
		return writeCSV(w, records)
	}
	return badInput("format", "There is no format “%s”; there are csv, json and table.", format)
}

// writeCSV writes RFC 4180: UTF-8, a header line, lines that end in CR LF.
func writeCSV(w io.Writer, records []Record) error {
	out := csv.NewWriter(w)
	out.UseCRLF = true
	if err := out.Write(ExportHeader); err != nil {
		return err
	}
	for _, r := range records {
		cells := r.cells()
		for i := range cells {
			cells[i] = Harmless(cells[i])
		}
		if err := out.Write(cells); err != nil {
			return err
		}
	}
	out.Flush()
	return out.Error()
}

func writeTable(w io.Writer, records []Record) error {
	t := tabwriter.NewWriter(w, 2, 0, 2, ' ', 0)
	fmt.Fprintln(t, "PHRASE\tSEARCHES\tCPC\tDIFFICULTY\tPAGE ONE\tFOOTHOLDS\tWANTS\tDECISION")
	for _, r := range records {
		searches := number(r.Searches)
		if r.Under {
			searches = "<" + searches
		}
		chance := ""
		if r.PageOne != nil {
			chance = strconv.FormatFloat(100**r.PageOne, 'f', 0, 64) + " %"
		}
		difficulty := decimals(r.Difficulty)
		if r.Locked {
			difficulty, chance = "locked", "none"
		}
		fmt.Fprintf(t, "%s\t%s\t%s\t%s\t%s\t%s\t%s\t%s\n", r.Phrase, searches, str(r.CPC), difficulty,
			chance, number(r.Footholds), r.Wants, r.Decision)
	}
	return t.Flush()
}
