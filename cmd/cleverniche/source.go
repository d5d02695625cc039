package main

import (
	"cmp"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"math"
	"os"
	"path/filepath"
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

// sourceDir is the folder of files that describe services.
func (c config) sourceDir() string {
	return cmp.Or(c.GetString("sources"), filepath.Join(filepath.Dir(c.file), "sources"))
}

// described are the services that files describe, in the order of the files' names.
func (c config) described() (out []ask.Source, err error) {
	dir, wanted := c.sourceDir(), c.GetString("sources") != ""
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
		path := filepath.Join(dir, e.Name())
		d, err := readSource(path)
		if err != nil {
			return nil, &usageError{err}
		}
		client, err := market.NewDescribed(d, os.Getenv)
		if err != nil {
			return nil, &usageError{err}
		}
		out = append(out, ask.Source{Question: ask.Question(d.Question), Name: d.Name, From: path,
			Micros: int64(math.Round(d.Price * 1e6)), Life: d.Fresh, Beside: d.Beside, Client: client})
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

func sourceCommand() *cobra.Command {
	cmd := &cobra.Command{Use: "source", Short: "List who is asked what, and check files that describe services",
		Long: "List who is asked what, at what price, and how often. A file that describes a service lets any service be " +
			"asked (docs/sources.md).", GroupID: "work", Args: args(cobra.NoArgs),
		Example: examples("cleverniche source", "cleverniche source check volumes.yaml --phrase \"moon map\""),
		RunE: opened(func(cmd *cobra.Command, _ config, s *study.Study, _ []jobs.Job, _ []string) error {
			var rows [][]cell
			for _, a := range ask.Services() {
				states, err := s.Ask.States(cmd.Context(), a.Question)
				if err != nil {
					return err
				}
				for _, st := range states {
					last := ""
					if !st.Answered.IsZero() {
						last = st.Answered.Local().Format("2 January 2006, 15:04")
					}
					rows = append(rows, []cell{said(string(a.Question)), said(st.Name), said(st.From),
						said(money.Text(st.Micros, s.Ask.Currency())), said(last), said(money.Text(st.Spent, s.Ask.Currency()))})
				}
				if len(states) == 0 {
					rows = append(rows, []cell{said(string(a.Question)), said("nobody yet"), said(""), said(""), said(""), said("")})
				}
			}
			if err := printed(cmd, []column{{"Question", "question"}, {"Asked", "source"}, {"Set by", "from"},
				{"A lookup", "price"}, {"Last answer", "answered"}, {"Spent today", "spent"}}, rows); err != nil {
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
	var about []string
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
			if len(about) == 0 {
				about = []string{ask.Question(d.Question).Example()}
			}
			out := cmd.OutOrStdout()
			begun := time.Now()
			got, err := ask.Put(cmd.Context(), client, ask.Question(d.Question), about, in)
			for _, asked := range got.Asked {
				fmt.Fprintf(out, "asked:\n  %s\n", strings.ReplaceAll(asked, "\n", "\n  "))
			}
			fmt.Fprintf(out, "came: %s\n", cmp.Or(got.Came, "nothing"))
			if err != nil {
				return err
			}
			fmt.Fprintf(out, "understood, in %s:\n", time.Since(begun).Round(time.Millisecond))
			for _, line := range got.Understood {
				fmt.Fprintln(out, "  "+line)
			}
			for _, line := range got.Missing {
				fmt.Fprintln(out, "  missing: "+line)
			}
			asked := 1
			if d.Question == string(ask.Demand) {
				asked = len(about)
			}
			fmt.Fprintf(out, "cost, as the file says: %.4f\n", d.Price*float64(asked))
			return nil
		}}
	cmd.Flags().StringArrayVar(&about, "phrase", nil,
		"phrase to ask about, or address, or domain, as the question wants; of demand, several")
	cmd.Flags().StringVar(&in.Country, "country", "US", "country, by name or two-letter code")
	cmd.Flags().StringVar(&in.Language, "language", "en", "language, by name or two-letter code")
	return cmd
}
