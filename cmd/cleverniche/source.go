package main

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"cleverniche/market"
	"cleverniche/study"
	"cleverniche/study/ask"
	"cleverniche/study/jobs"
	"cleverniche/study/money"
	"cleverniche/study/places"

	"github.com/spf13/cobra"
)

// described reads the files that describe services, by name.
func (c config) described() (out []market.Description, err error) {
	dir := c.GetString("sources")
	wanted := dir != ""
	if !wanted {
		dir = filepath.Join(filepath.Dir(c.file), "sources")
	}
	entries, err := os.ReadDir(dir)
	if errors.Is(err, fs.ErrNotExist) && !wanted {
		return nil, nil
	}
	if err != nil {
		return nil, &usageError{fmt.Errorf("--sources: %w", err)}
	}
	for _, e := range entries { // in the order of their names
		if ending := filepath.Ext(e.Name()); e.IsDir() || ending != ".yaml" && ending != ".yml" {
			continue
		}
		d, err := readSource(filepath.Join(dir, e.Name()))
		if err != nil {
			return nil, &usageError{err}
		}
		out = append(out, d)
	}
	return out, nil
}

// mostSourceFile is how long a file that describes a service may be.
const mostSourceFile = 256 << 10

func readSource(path string) (d market.Description, err error) {
	file, err := os.Open(path)
	if err != nil {
		return d, err
	}
	defer file.Close()
	data, err := io.ReadAll(io.LimitReader(file, mostSourceFile+1))
	if err == nil && len(data) > mostSourceFile {
		err = fmt.Errorf("it is longer than %d KB", mostSourceFile>>10)
	}
	if err == nil {
		d, err = market.ReadDescription(data)
	}
	if err != nil {
		return d, fmt.Errorf("%s: %w", path, err)
	}
	return d, nil
}

// connect puts a described service in the place of its question, or behind those that are there: the first
// that answers.
func connect(m *ask.Market, d market.Description) error {
	client, err := market.NewDescribed(d, os.Getenv)
	if err != nil {
		return err
	}
	q := ask.Question(d.Question)
	named := func(there bool) {
		if name := d.Name; there {
			m.Names[q] += ", else " + name
		} else {
			m.Names[q] = name
		}
	}
	switch q {
	case ask.Suggestions:
		named(m.Suggest != nil)
		m.Suggest = market.FirstSuggester(m.Suggest, client)
	case ask.Demand:
		named(m.Demand != nil)
		m.Demand = market.FirstDemander(m.Demand, client)
	case ask.Results:
		named(m.Search != nil)
		m.Search = market.FirstSearcher(m.Search, client)
	}
	return nil
}

func sourceCommand() *cobra.Command {
	cmd := &cobra.Command{Use: "source", Short: "List who is asked what, and check files that describe services",
		Long: "List who is asked what, at what price, and how often. A file that describes a service lets any service be " +
			"asked (docs/sources.md).", GroupID: "work", Args: args(cobra.NoArgs),
		Example: examples("cleverniche source", "cleverniche source check volumes.yaml --phrase \"moon map\""),
		RunE: opened(func(cmd *cobra.Command, _ config, s *study.Study, _ []jobs.Job, _ []string) error {
			var rows [][]cell
			for _, a := range ask.Services() {
				name := s.Ask.SourceNames()[a.Question]
				if !s.Ask.Has(a.Question) {
					name = "nobody yet"
				}
				price := money.Text(s.Ask.Price(a.Question), s.Ask.Currency())
				rows = append(rows, []cell{said(string(a.Question)), said(name), said(price)})
			}
			if err := printed(cmd, []column{{"Question", "question"}, {"Asked", "source"}, {"A lookup", "price"}},
				rows); err != nil {
				return err
			}
			spent, err := s.Ask.SpentToday(cmd.Context())
			if spent != "" {
				fmt.Fprintln(cmd.ErrOrStderr(), spent)
			}
			return err
		})}
	jsonFlag(cmd)
	cmd.AddCommand(sourceCheckCommand())
	return cmd
}

func sourceCheckCommand() *cobra.Command {
	var in market.Locale
	var phrases []string
	cmd := &cobra.Command{Use: "check FILE",
		Short: "Say what a described service would be asked, what comes, and what is understood",
		Long: "Put one question to a described service. It says what was asked, what came, what was understood and what is " +
			"missing. The secret is not shown. It costs what the service takes for one question.",
		Example: examples("cleverniche source check volumes.yaml --phrase \"moon map\"",
			"cleverniche source check volumes.yaml --phrase \"moon map\" --phrase \"star chart\" --country DE --language de"),
		Args: args(cobra.ExactArgs(1)),
		RunE: func(cmd *cobra.Command, list []string) error {
			d, err := readSource(list[0])
			if err != nil {
				return &usageError{err}
			}
			in = market.Locale{Country: places.Countries().Code(in.Country), Language: places.Languages().Code(in.Language)}
			if in.Country == "" || in.Language == "" {
				return &usageError{errors.New("that country or language is not known; try US and en")}
			}
			client, err := market.NewDescribed(d, os.Getenv)
			if err != nil {
				return &usageError{err}
			}
			out := cmd.OutOrStdout()
			client.Tell = func(asked, kind string, body []byte) {
				fmt.Fprintf(out, "asked:\n  %s\n", strings.ReplaceAll(asked, "\n", "\n  "))
				fmt.Fprintf(out, "came: %s, %d bytes\n  %s\n", cmp.Or(kind, "nothing"), len(body), beginning(body))
			}
			begun := time.Now()
			said, err := understand(cmd.Context(), client, d, phrases, in)
			if err != nil {
				return err
			}
			fmt.Fprintf(out, "understood, in %s:\n", time.Since(begun).Round(time.Millisecond))
			for _, line := range said {
				fmt.Fprintln(out, "  "+line)
			}
			asked := 1
			if d.Question == string(ask.Demand) {
				asked = len(phrases)
			}
			fmt.Fprintf(out, "cost, as the file says: %.4f\n", d.Price*float64(asked))
			return nil
		}}
	cmd.Flags().StringArrayVar(&phrases, "phrase", []string{"star chart"}, "phrase to ask about; of demand, several")
	cmd.Flags().StringVar(&in.Country, "country", "US", "country, by name or two-letter code")
	cmd.Flags().StringVar(&in.Language, "language", "en", "language, by name or two-letter code")
	return cmd
}

// beginning is the beginning of an answer, in one line.
func beginning(body []byte) string {
	text := []rune(strings.Join(strings.Fields(strings.ToValidUTF8(string(body[:min(len(body), 4000)]), "?")), " "))
	if len(text) > 400 {
		return string(text[:399]) + "…"
	}
	return string(text)
}

// understand asks, and says what was understood and what is missing.
func understand(ctx context.Context, c *market.Described, d market.Description, phrases []string,
	in market.Locale) (out []string, err error) {
	switch ask.Question(d.Question) {
	case ask.Suggestions:
		list, err := c.Suggest(ctx, phrases[0], in)
		if err != nil {
			return nil, err
		}
		out = append(out, fmt.Sprintf("%d suggestions", len(list)))
		return append(out, list[:min(10, len(list))]...), nil
	case ask.Results:
		r, err := c.Search(ctx, phrases[0], in, ask.DefaultDepth)
		if err != nil {
			return nil, err
		}
		for _, o := range r.Organic {
			out = append(out, fmt.Sprintf("%d. %s  %s", o.Position, o.URL, o.Title))
		}
		if len(r.Organic) < ask.DefaultDepth {
			out = append(out, fmt.Sprintf("missing: only %d of %d results came", len(r.Organic), ask.DefaultDepth))
		}
		return out, nil
	}
	figures, err := c.Demand(ctx, phrases, in)
	if err != nil {
		return nil, err
	}
	for _, p := range phrases {
		s, known := figures[p]
		if !known {
			out = append(out, fmt.Sprintf("%s: missing, nothing is said of it", p))
			continue
		}
		line := p + ":"
		switch {
		case s.Average != nil && s.Average.Under:
			line += fmt.Sprintf(" fewer than %d searches a month", s.Average.Searches)
		case s.Average != nil:
			line += fmt.Sprintf(" %d searches a month", s.Average.Searches)
		}
		line += fmt.Sprintf(", %d months", len(s.Counts))
		var lacks []string
		if s.CPC.Known() {
			line += fmt.Sprintf(", %.2f %s a click", float64(s.CPC.Micros)/1e6, s.CPC.Currency)
		} else {
			lacks = append(lacks, "cost per click")
		}
		if s.Competition >= 0 {
			line += fmt.Sprintf(", ad competition %.2f", s.Competition)
		} else {
			lacks = append(lacks, "ad competition")
		}
		if len(lacks) > 0 {
			line += "; missing: " + strings.Join(lacks, ", ")
		}
		out = append(out, line)
	}
	return slices.Clip(out), nil
}
