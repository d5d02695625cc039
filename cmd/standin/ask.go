package main

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"time"

	"cleverniche/standin"

	"github.com/spf13/cobra"
)

// exports are the files that "export" writes, and what each is asked from.
var exports = []struct{ file, path string }{
	{"vertices.txt", "/links/v1/graph/vertices"}, {"edges.txt", "/links/v1/graph/edges"},
	{"page-vertices.txt", "/links/v1/pages/vertices"}, {"page-edges.txt", "/links/v1/pages/edges"},
	{"truth.json", "/lab/truth"},
}

func exportCommand(o *options) *cobra.Command {
	return &cobra.Command{Use: "export DIRECTORY", Short: "Grow a world and write its link graphs and its truth to files",
		Args: cobra.ExactArgs(1), RunE: func(cmd *cobra.Command, args []string) error {
			world, err := grow(*o)
			if err != nil {
				return err
			}
			if err := os.MkdirAll(args[0], 0o755); err != nil {
				return err
			}
			handler := world.Handler(standin.Options{})
			for _, e := range exports {
				rec := httptest.NewRecorder()
				handler.ServeHTTP(rec, httptest.NewRequest(http.MethodGet, e.path, nil))
				name := filepath.Join(args[0], e.file)
				if err := os.WriteFile(name, rec.Body.Bytes(), 0o644); err != nil {
					return err
				}
				fmt.Fprintln(cmd.OutOrStdout(), name)
			}
			return nil
		}}
}

// checkCommand reads one scenario and prints phrases of it for its author to read.
func checkCommand() *cobra.Command {
	var n, seed int
	c := &cobra.Command{Use: "check FILE", Short: "Check a scenario file and print a sample of its phrases, to be read",
		Args: cobra.ExactArgs(1), RunE: func(cmd *cobra.Command, args []string) error {
			data, err := os.ReadFile(args[0])
			if err != nil {
				return err
			}
			s, err := standin.ReadScenario(args[0], data)
			if err != nil {
				return err
			}
			drawn, total := standin.Sample(s, n, seed, time.Now())
			for _, p := range drawn {
				fmt.Fprintf(cmd.OutOrStdout(), "%8.0f  %s\n", p.Searches, p.Phrase)
			}
			fmt.Fprintf(cmd.ErrOrStderr(), "%s: %d of %d phrases; another --seed draws others\n", s.Name, len(drawn), total)
			return nil
		}}
	c.Flags().IntVar(&n, "phrases", 300, "how many to print")
	c.Flags().IntVar(&seed, "seed", 1, "which sample")
	return c
}

// asking is a command that asks a running stand-in.
func asking(c *cobra.Command, request func() (method, path string, body any)) *cobra.Command {
	base := c.Flags().String("at", "http://127.0.0.1:8571", "address of the running stand-in")
	c.Args = cobra.NoArgs
	c.RunE = func(cmd *cobra.Command, _ []string) error {
		method, path, body := request()
		return ask(cmd, *base, method, path, body)
	}
	return c
}

func ask(cmd *cobra.Command, base, method, path string, body any) error {
	var data []byte
	if body != nil {
		var err error
		if data, err = json.Marshal(body); err != nil {
			return err
		}
	}
	req, err := http.NewRequestWithContext(cmd.Context(), method, base+path, bytes.NewReader(data))
	if err != nil {
		return err
	}
	client := http.Client{Timeout: 5 * time.Minute}
	res, err := client.Do(req)
	if err != nil {
		return err
	}
	defer res.Body.Close()
	answer, err := io.ReadAll(res.Body)
	if err != nil {
		return err
	}
	if res.StatusCode >= 300 {
		var problem struct{ Detail string }
		if json.Unmarshal(answer, &problem) == nil && problem.Detail != "" {
			return fmt.Errorf("%s", problem.Detail)
		}
		return fmt.Errorf("%s answers %s", base, res.Status)
	}
	_, err = cmd.OutOrStdout().Write(answer)
	return err
}

func clockCommand() *cobra.Command {
	var to string
	var days int
	c := asking(&cobra.Command{Use: "clock", Short: "Tell or move the clock of a running stand-in",
		Example: "  standin clock --days 28\n  standin clock --to 2027-03-01"}, func() (string, string, any) {
		if to == "" && days == 0 {
			return http.MethodGet, "/lab/clock", nil
		}
		return http.MethodPost, "/lab/clock", map[string]any{"to": to, "days": days}
	})
	c.Flags().StringVar(&to, "to", "", "the day to move it to, as 2006-01-02")
	c.Flags().IntVar(&days, "days", 0, "how many days to move it on")
	return c
}

func faultCommand() *cobra.Command {
	var f standin.Fault
	var none bool
	c := asking(&cobra.Command{Use: "fault", Short: "List, make or take back the faults of a running stand-in",
		Example: "  standin fault --where search --kind too-many --times 3\n  standin fault --none"}, func() (string,
		string, any) {
		switch {
		case none:
			return http.MethodDelete, "/lab/faults", nil
		case f.Kind == "" && f.Where == "":
			return http.MethodGet, "/lab/faults", nil
		}
		return http.MethodPost, "/lab/faults", f
	})
	c.Flags().StringVar(&f.Where, "where", "", "suggest, demand, search, links, rdap, pages, or the host of a site")
	c.Flags().StringVar(&f.Kind, "kind", "", "what goes wrong; without flags the kinds are listed")
	c.Flags().Float64Var(&f.Share, "share", 1, "share of the requests that it befalls")
	c.Flags().IntVar(&f.Times, "times", 0, "how often at most; 0 means until it is taken back")
	c.Flags().Float64Var(&f.Seconds, "seconds", 2, "how slow, or what Retry-After says")
	c.Flags().BoolVar(&none, "none", false, "take all faults back")
	return c
}

func publishCommand() *cobra.Command {
	var x standin.Experiment
	var from []string
	c := asking(&cobra.Command{Use: "publish", Short: "Publish a page in a running stand-in, as an experiment",
		Example: "  standin publish --site nightporch.example --phrase \"how to clean a barlow lens\" --fit 85"}, func() (
		string, string, any) {
		for _, site := range from {
			x.Links = append(x.Links, standin.LabLink{From: site})
		}
		return http.MethodPost, "/lab/pages", x
	})
	c.Flags().StringVar(&x.Site, "site", "", "domain of the site")
	c.Flags().StringVar(&x.Phrase, "phrase", "", "what the page is written for")
	c.Flags().StringVar(&x.Kind, "kind", "", "kind of page (default: what the need calls for)")
	c.Flags().IntVar(&x.Fit, "fit", 85, "how well it is made for the phrase, 0 to 100")
	c.Flags().StringVar(&x.Title, "title", "", "its title (default: one is written)")
	c.Flags().StringVar(&x.Date, "date", "", "day it is published, as 2006-01-02 (default: now)")
	c.Flags().StringSliceVar(&from, "link-from", nil, "domains that link to it")
	return c
}
