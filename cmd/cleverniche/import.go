package main

import (
	"bufio"
	"cmp"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"cleverniche/market/files"
	"cleverniche/study"
	"cleverniche/study/imports"
	"cleverniche/study/niches"

	"github.com/spf13/cobra"
)

func importCommand() *cobra.Command {
	var yes bool
	var to imports.Settings
	var site string
	var as []string
	cmd := &cobra.Command{Use: "import FILE",
		Short: "Import a list or a table of phrases, whatever its form",
		Long: "Import a list or a table of phrases: CSV, TSV, XLSX, JSON, a plain list, ZIP or gzip of these. “-” is " +
			"standard input. It says first how the file is understood. Nothing is written before you agree, or say --yes.",
		Example: examples("cleverniche import list.csv", "sort -u list.txt | cleverniche import - --yes"), GroupID: "work",
		Args: args(cobra.ExactArgs(1)),
		RunE: working(func(cmd *cobra.Command, s *study.Study, n niches.Niche, list []string) (err error) {
			in, file := cmd.InOrStdin(), "standard input"
			if list[0] != "-" {
				f, err := os.Open(list[0])
				if err != nil {
					return &usageError{err}
				}
				defer f.Close()
				if info, err := f.Stat(); err == nil && info.IsDir() {
					return &usageError{files.ErrDirectory}
				}
				in, file = f, filepath.Base(list[0])
			}
			var u imports.Upload
			if site == "" {
				u, err = s.Imports.Receive(cmd.Context(), n, cmp.Or(to.Name, file), file, in)
			} else if site, err = s.Rivals.SiteOf(site); err == nil {
				u, err = s.Imports.ReceiveOf(cmd.Context(), n, site, cmp.Or(to.Name, file), in)
			}
			if err != nil {
				return err
			}
			p, err := understood(cmd, s, n, u.Token, to, as)
			if err != nil {
				return errors.Join(err, s.Imports.Discard(u.Token))
			}
			tell(cmd.ErrOrStderr(), p)
			switch {
			case p.Why != "":
				err = &usageError{errors.New(strings.ToLower(p.Why[:1]) + strings.TrimSuffix(p.Why[1:], "."))}
			case !yes && list[0] == "-", !yes && !isTerminal(cmd.InOrStdin()):
				err = &usageError{errors.New("nothing was imported: say --yes once this is right")}
			case !yes && !agreed(cmd):
				err = &usageError{errors.New("nothing was imported")}
			}
			if err != nil {
				return errors.Join(err, s.Imports.Discard(u.Token))
			}
			job, err := s.Imports.Confirm(cmd.Context(), n, u.Token)
			if err != nil {
				return err
			}
			if err := follow(cmd, s, job); err != nil {
				return err
			}
			if p.Bad > 0 {
				return &partlyError{fmt.Sprintf("%d lines were skipped", p.Bad)}
			}
			return nil
		})}
	cmd.Flags().BoolVar(&yes, "yes", false, "import without asking")
	cmd.Flags().StringVar(&site, "site", "", "it is a table about this site: its pages, months, countries or ads, or who "+
		"shares its places")
	cmd.Flags().StringVar(&to.Name, "name", "", "name of the list (default: the file's)")
	cmd.Flags().StringArrayVar(&as, "column", nil, "read a column as something: --column \"Term=phrase\"; may be repeated")
	cmd.Flags().StringVar(&to.Part, "part", "", "sheet of a spreadsheet, or file in an archive (default: the first)")
	cmd.Flags().StringVar(&to.Encoding, "encoding", "", "encoding of a text: UTF-8, Windows-1252")
	cmd.Flags().StringVar(&to.Decimal, "decimal", "", "mark before decimals: . or , (default: as the columns tell)")
	nicheFlag(cmd)
	return cmd
}

// understood is how a file is read, as somebody wants it.
func understood(cmd *cobra.Command, s *study.Study, n niches.Niche, token string, to imports.Settings,
	as []string) (imports.Preview, error) {
	p, err := s.Imports.Preview(cmd.Context(), n, token)
	if err != nil || len(as) == 0 && to.Part == "" && to.Encoding == "" && to.Decimal == "" {
		return p, err
	}
	for _, c := range p.Shape.Columns {
		to.Fields = append(to.Fields, c.Field)
	}
	for i, text := range as {
		name, field, ok := strings.Cut(text, "=")
		at := slices.IndexFunc(p.Shape.Columns, func(c files.Column) bool {
			return strings.EqualFold(c.Heading, strings.TrimSpace(name))
		})
		if at < 0 {
			fmt.Sscan(name, &at)
			at--
		}
		if !ok || at < 0 || at >= len(to.Fields) || !slices.Contains(files.Offered, files.Field(field)) {
			return p, &usageError{fmt.Errorf("column %d: “%s” is not of the form NAME=FIELD; fields are %s", i+1, text,
				joined(files.Offered))}
		}
		to.Fields[at] = files.Field(field)
	}
	if err := s.Imports.Set(cmd.Context(), n, token, to); err != nil {
		return p, err
	}
	return s.Imports.Preview(cmd.Context(), n, token)
}

func joined(list []files.Field) string {
	var out []string
	for _, f := range list {
		out = append(out, string(f))
	}
	return strings.Join(out, ", ")
}

// shownInTerminal is how many rows a preview in a terminal shows.
const shownInTerminal = 5

// tell says how a file is understood.
func tell(w io.Writer, p imports.Preview) {
	fmt.Fprintf(w, "%s: %s, %s", p.Upload.Name, p.Kind, p.Shape.Form)
	if p.Shape.Encoding != "" {
		fmt.Fprintf(w, ", %s", p.Shape.Encoding)
	}
	fmt.Fprintln(w)
	for i, c := range p.Shape.Columns {
		fmt.Fprintf(w, "  %s → %s", cmp.Or(c.Heading, fmt.Sprintf("column %d", i+1)), cmp.Or(string(c.Field), "not known"))
		if c.Ours {
			fmt.Fprint(w, " (computed anew)")
		}
		if c.Doubtful {
			fmt.Fprintf(w, " (its numbers may be meant otherwise: --decimal)")
		}
		fmt.Fprintln(w)
	}
	for _, row := range p.Rows[:min(shownInTerminal, len(p.Rows))] {
		fmt.Fprintf(w, "  line %d: %s", row.Line, row.Phrase)
		if row.Searches.Known {
			fmt.Fprintf(w, ", %.0f searches", row.Searches.Middle())
		}
		if row.CPC.Known() {
			fmt.Fprintf(w, ", %.2f %s", float64(row.CPC.Micros)/1e6, row.CPC.Currency)
		}
		fmt.Fprintln(w)
	}
	for _, bad := range p.Problems {
		fmt.Fprintf(w, "line %d skipped: %s\n", bad.Line, bad.Reason)
	}
	if p.Why == "" {
		fmt.Fprintf(w, "%d lines can be used, %d cannot\n", p.Usable, p.Bad)
	}
}

// agreed asks on a terminal.
func agreed(cmd *cobra.Command) bool {
	fmt.Fprint(cmd.ErrOrStderr(), "Import them? [y/N] ")
	answer, err := bufio.NewReader(cmd.InOrStdin()).ReadString('\n')
	return err == nil && strings.HasPrefix(strings.ToLower(strings.TrimSpace(answer)), "y")
}

// isTerminal reports whether somebody sits before a stream.
func isTerminal(in io.Reader) bool {
	f, is := in.(*os.File)
	if !is {
		return false
	}
	info, err := f.Stat()
	return err == nil && info.Mode()&os.ModeCharDevice != 0
}
