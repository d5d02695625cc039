package main

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"strings"
	"text/tabwriter"
	"time"

	"github.com/mattn/go-isatty"
	"github.com/spf13/cobra"
)

// terminal reports whether a stream is one that a person looks at.
func terminal(w any) bool {
	f, ok := w.(*os.File)
	return ok && isatty.IsTerminal(f.Fd())
}

// colours reports whether a stream may have colours: a terminal's, where nobody asked for none (no-color.org).
func colours(w io.Writer) bool {
	return terminal(w) && os.Getenv("NO_COLOR") == "" && os.Getenv("TERM") != "dumb"
}

// bold is a text as heads of tables stand on a terminal.
func bold(w io.Writer, text string) string {
	if !colours(w) {
		return text
	}
	return "\x1b[1m" + text + "\x1b[0m"
}

// column is one of a list that a command writes: its head, and its name in JSON.
type column struct{ head, key string }

// cell is a value with what it is called for people; nil is what is not known.
type cell struct {
	value any
	says  string
}

// said is a value that is called what it is.
func said(v any) cell { return cell{v, fmt.Sprint(v)} }

// unknown is a value that is not known.
var unknown = cell{nil, "–"}

// printed writes a list to standard output: a table, or with --json a line of JSON for each.
func printed(cmd *cobra.Command, columns []column, rows [][]cell) error {
	w := cmd.OutOrStdout()
	if asJSON(cmd) {
		for _, row := range rows {
			if err := writeLine(w, columns, row); err != nil {
				return err
			}
		}
		return nil
	}
	if len(rows) == 0 {
		return nil
	}
	// Bold is put in once all is laid out: tabwriter would count its signs.
	var laid strings.Builder
	table := tabwriter.NewWriter(&laid, 0, 8, 2, ' ', 0)
	line := func(cells []string) { fmt.Fprintln(table, strings.TrimRight(strings.Join(cells, "\t"), "\t ")) }
	heads := make([]string, len(columns))
	for i, c := range columns {
		heads[i] = c.head
	}
	line(heads)
	for _, row := range rows {
		cells := make([]string, len(row))
		for i, c := range row {
			cells[i] = plainCell(c.says)
		}
		line(cells)
	}
	if err := table.Flush(); err != nil {
		return err
	}
	head, rest, _ := strings.Cut(laid.String(), "\n")
	_, err := fmt.Fprint(w, bold(w, head), "\n", rest)
	return err
}

// plainCell is a text without what would break a table or a terminal.
func plainCell(s string) string {
	return strings.Map(func(r rune) rune {
		if r < ' ' || r == 0x7f || r >= 0x80 && r < 0xa0 {
			return ' '
		}
		return r
	}, s)
}

func writeLine(w io.Writer, columns []column, row []cell) error {
	var b strings.Builder
	b.WriteByte('{')
	for i, c := range row {
		value, err := jsonOf(c.value)
		if err != nil {
			return err
		}
		if i > 0 {
			b.WriteString(", ")
		}
		fmt.Fprintf(&b, "%q: %s", columns[i].key, value)
	}
	_, err := fmt.Fprintln(w, b.String()+"}")
	return err
}

func jsonOf(v any) (string, error) {
	var b strings.Builder
	e := json.NewEncoder(&b)
	e.SetEscapeHTML(false)
	err := e.Encode(v)
	return strings.TrimSuffix(b.String(), "\n"), err
}

// jsonFlag gives a command --json.
func jsonFlag(cmd *cobra.Command) {
	cmd.Flags().Bool("json", false, "write a line of JSON for each instead of a table")
}

func asJSON(cmd *cobra.Command) bool {
	on, err := cmd.Flags().GetBool("json")
	return err == nil && on
}

// stdin is the argument that stands for standard input.
const stdin = "-"

// mostRead is how much is read from standard input at most, in bytes.
const mostRead = 64 << 20

// linesOf are arguments, with the lines of standard input in the place of “-”.
func linesOf(cmd *cobra.Command, list []string) (out []string, err error) {
	for _, one := range list {
		if one != stdin {
			out = append(out, one)
			continue
		}
		data, err := io.ReadAll(io.LimitReader(cmd.InOrStdin(), mostRead+1))
		if err != nil {
			return nil, err
		}
		if len(data) > mostRead {
			return nil, &usageError{errors.New("standard input is larger than 64 MB")}
		}
		for _, line := range strings.Split(strings.TrimPrefix(string(data), "\ufeff"), "\n") {
			if line = strings.TrimSpace(line); line != "" {
				out = append(out, line)
			}
		}
	}
	return out, nil
}

// bar is how far some work is, with the time left: "[#####-----] 12 of 40, 2 min left".
type bar struct {
	w     io.Writer
	began time.Time
	first int // steps that were done before
	shown bool
}

const barWidth = 24

// show draws the bar on a terminal, and nothing anywhere else.
func (b *bar) show(done, all int, now time.Time, beside string) {
	if !terminal(b.w) || all == 0 {
		return
	}
	if !b.shown {
		b.began, b.first, b.shown = now, done, true
	}
	full := barWidth * done / all
	fmt.Fprintf(b.w, "\r\x1b[K[%s%s] %d of %d%s, %s", strings.Repeat("#", full), strings.Repeat("-", barWidth-full),
		done, all, left(done-b.first, all-done, now.Sub(b.began)), beside)
}

// left says how long the rest will take, by what the steps so far took.
func left(done, rest int, took time.Duration) string {
	if done < 1 || rest < 1 {
		return ""
	}
	d := took / time.Duration(done) * time.Duration(rest)
	if d < time.Minute {
		return fmt.Sprintf(", %d s left", int(d.Seconds())+1)
	}
	return fmt.Sprintf(", %d min left", int(d.Minutes())+1)
}

// end takes the bar away.
func (b *bar) end() {
	if b.shown {
		fmt.Fprint(b.w, "\r\x1b[K")
	}
}
