package main

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"

	"cleverniche/core/links"
	"cleverniche/market"
	"cleverniche/market/webgraph"
	"cleverniche/store"
	"cleverniche/study"
	"cleverniche/study/ask"
	"cleverniche/study/jobs"

	"github.com/adrg/xdg"
	edlib "github.com/hbollon/go-edlib"
	"github.com/spf13/cobra"
	"github.com/spf13/pflag"
	"github.com/spf13/viper"
)

// setting is one setting: a flag, an environment variable CLEVERNICHE_NAME and a
// line of the configuration file; the flag wins, then the environment.
type setting struct {
	name, value, help string
}

// settings lists all: those of the program, and an address and a price for each question
// to the outside that has one.
func settings() []setting {
	out := []setting{
		{"data", "", "the data file (default: cleverniche/cleverniche.db in the XDG data directory)"},
		{"listen", "127.0.0.1:8570", "address to serve on; on others than this machine's own people sign in, by a " +
			"secure connection"},
		{"hosts", "", "names that the application is reached by, beside this machine's own, separated by commas"},
		{"sign-in", "", "yes: people sign in on this machine's own address, too"},
		{"tls-cert", "", "file with the certificate of a secure connection, in PEM"},
		{"tls-key", "", "file with its private key"},
		{"acme", "", "yes: fetch certificates for --hosts by ACME, and accept the terms of who gives them"},
		{"acme-directory", "", "address of the ACME directory that gives them (default: the best-known free one)"},
		{"behind-proxy", "", "yes: a proxy before this program makes connections secure, and tells who asks"},
		{"anyone-may-do-everything", "", "yes: nobody signs in, on an address that others can reach"},
		{"copies", "", "folder for the daily copies; none: no copies (default: copies beside the data file)"},
		{"metrics", "", "yes: figures for Prometheus at /metrics"},
	}
	var prices []setting
	for _, a := range ask.Services() {
		if a.Address != "" {
			out = append(out, setting{string(a.Question), "", a.Address})
		}
		if a.Price != "" {
			prices = append(prices, setting{priceOf(a.Question), "0", a.Price})
		}
	}
	out = append(out, setting{"engine", "", "engine to use, where the results service has several"},
		setting{"depth", "10", "results looked up for an idea; 20 teach more of what the engine leans on, and cost twice"},
		setting{"key-file", "", "file with the bearer token for the services; or set it as CLEVERNICHE_KEY, or as key " +
			"in the configuration file"},
		setting{"per-second", "10", "requests a second to each service"},
		setting{"pages-per-host", "2", "page requests a second to one host"},
		setting{"reach", "", "hosts served elsewhere, and allowed though private: .suffix=host:port, separated by commas"},
		setting{"free-hosts", "", "domains under which anyone can have a site, beside the public suffix list, separated " +
			"by commas"})
	out = append(out, setting{"thesauri", "/usr/share/mythes", "folder of thesauri in the MyThes format, for other " +
		"words (Debian: mythes-en-us)"})
	out = append(out, setting{"sources", "", "folder of files that describe services (docs/sources.md) (default: " +
		"sources beside the configuration file, if it is there)"})
	return append(append(out, prices...),
		setting{"budget", "0", "money to spend on lookups a day; 0 is no limit"},
		setting{"currency", "USD", "currency of prices and budget"},
		setting{"log", "info", "what is logged: debug, info, warn or error"})
}

func priceOf(q ask.Question) string { return "price-" + string(q) }

// addSettings gives a command the settings as flags.
func addSettings(cmd *cobra.Command) {
	flags := cmd.PersistentFlags()
	for _, s := range settings() {
		flags.String(s.name, s.value, s.help)
	}
	flags.String("config", "",
		"configuration file (default: cleverniche/config.yaml in the XDG config directory, if it is there)")
}

// config is the settings, and the clock that all is done by.
type config struct {
	*viper.Viper
	file string
	now  func() time.Time
}

func readConfig(flags *pflag.FlagSet) (config, error) {
	v := viper.New()
	v.SetEnvPrefix("CLEVERNICHE")
	v.SetEnvKeyReplacer(strings.NewReplacer("-", "_"))
	v.AutomaticEnv()
	if err := v.BindPFlags(flags); err != nil {
		return config{}, err
	}
	file := v.GetString("config")
	wanted := file != ""
	if !wanted {
		file = filepath.Join(xdg.ConfigHome, "cleverniche", "config.yaml")
	}
	v.SetConfigFile(file)
	v.SetConfigType("yaml")
	err := v.ReadInConfig()
	if errors.Is(err, fs.ErrNotExist) && !wanted {
		err = nil
	}
	if err != nil {
		return config{}, &usageError{fmt.Errorf("reading the configuration file %s: %w", file, err)}
	}
	if err := known(v); err != nil {
		return config{}, &usageError{fmt.Errorf("the configuration file %s: %w", file, err)}
	}
	for _, name := range []string{"anyone-may-do-everything", "metrics", "sign-in", "acme", "behind-proxy"} {
		if text := v.GetString(name); text != "" && text != "yes" && text != "no" {
			return config{}, &usageError{fmt.Errorf("--%s: %q is neither yes nor no", name, text)}
		}
	}
	return config{v, file, time.Now}, nil
}

// known returns an error for a key of the configuration file that is no setting, and tells of variables of the
// environment that look like settings and are none.
func known(v *viper.Viper) error {
	names := map[string]bool{"key": true, "config": true}
	for _, s := range settings() {
		names[s.name] = true
	}
	for _, key := range slices.Sorted(maps.Keys(v.AllSettings())) {
		if !names[key] && v.InConfig(key) {
			return fmt.Errorf("there is no setting %q%s", key, likeOf(key, names))
		}
	}
	for _, line := range os.Environ() {
		name, _, _ := strings.Cut(line, "=")
		key, ours := strings.CutPrefix(name, "CLEVERNICHE_")
		key = strings.ReplaceAll(strings.ToLower(key), "_", "-")
		if like := likeOf(key, names); ours && !names[key] && like != "" {
			fmt.Fprintf(os.Stderr, "%s in the environment is no setting%s\n", name, like)
		}
	}
	return nil
}

// likeOf names the setting that was likely meant; "" when none is like it.
func likeOf(key string, names map[string]bool) string {
	best, least := "", 3
	for name := range names {
		if d := edlib.LevenshteinDistance(key, name); d < least || d == least && name < best {
			best, least = name, d
		}
	}
	if best == "" {
		return ""
	}
	return fmt.Sprintf(": did you mean %q?", best)
}

// list reads a setting of several values.
func (c config) list(name string) []string {
	var out []string
	for _, s := range strings.Split(c.GetString(name), ",") {
		if s = strings.TrimSpace(s); s != "" {
			out = append(out, s)
		}
	}
	return out
}

func (c config) dataFile() string {
	if f := c.GetString("data"); f != "" {
		return f
	}
	return filepath.Join(xdg.DataHome, "cleverniche", "cleverniche.db")
}

// micros reads an amount of money as millionths, exactly.
func (c config) micros(name string) (int64, error) {
	text := c.GetString(name)
	whole, part, _ := strings.Cut(text, ".")
	units, err1 := strconv.ParseUint(whole, 10, 31)
	small, err2 := strconv.ParseUint((part + "000000")[:6], 10, 31)
	if err1 != nil || err2 != nil || len(part) > 6 {
		return 0, &usageError{fmt.Errorf("--%s: %q is no amount of money, such as 0.002", name, text)}
	}
	return int64(units)*1_000_000 + int64(small), nil
}

func (c config) number(name string) (float64, error) {
	x, err := strconv.ParseFloat(c.GetString(name), 64)
	if err != nil || !(x >= 0 && x <= 1e6) {
		return 0, &usageError{fmt.Errorf("--%s: %q is no number", name, c.GetString(name))}
	}
	return x, nil
}

func (c config) logger() (*slog.Logger, error) {
	var level slog.Level
	if err := level.UnmarshalText([]byte(c.GetString("log"))); err != nil {
		return nil, &usageError{fmt.Errorf("--log: %q is none of debug, info, warn, error", c.GetString("log"))}
	}
	return slog.New(slog.NewTextHandler(os.Stderr, &slog.HandlerOptions{Level: level})), nil
}

// open opens the data file and sets the study up over it, until it is closed. What must
// be reckoned anew is begun.
func (c config) open(log *slog.Logger) (s *study.Study, renewing []jobs.Job, closing func(), err error) {
	options, err := c.options(log)
	if err != nil {
		return nil, nil, nil, err
	}
	sources, err := c.market()
	if err != nil {
		return nil, nil, nil, err
	}
	st, err := c.openFile()
	if err != nil {
		return nil, nil, nil, err
	}
	s = study.New(st, sources, options)
	renewing, err = s.Results.Renew(context.Background())
	if err != nil {
		s.Close()
		return nil, nil, nil, errors.Join(err, st.Close())
	}
	return s, renewing, func() { s.Close(); st.Close() }, nil
}

// openFile opens the data file. That there was none, or that something of it is missing, is told.
func (c config) openFile() (*store.Store, error) {
	_, err := os.Stat(c.dataFile())
	st, failed := store.Open(c.dataFile(), c.now)
	if failed != nil {
		return nil, failed
	}
	if errors.Is(err, fs.ErrNotExist) {
		fmt.Fprintf(os.Stderr, "There was no data file %s: a new one was made.\n", c.dataFile())
	}
	if t := st.Missing(); t != nil {
		fmt.Fprintf(os.Stderr, "Take care: %s.\n", t)
	}
	return st, nil
}

func (c config) options(log *slog.Logger) (study.Options, error) {
	o := study.Options{Thesauri: c.GetString("thesauri"),
		Options:  ask.Options{Prices: map[ask.Question]int64{}, Currency: c.GetString("currency")},
		Suffixes: links.NewSuffixes(c.list("free-hosts")...), Log: log}
	for _, a := range ask.Services() {
		if a.Price == "" {
			continue
		}
		price, err := c.micros(priceOf(a.Question))
		if err != nil {
			return o, err
		}
		o.Prices[a.Question] = price
	}
	var err error
	if o.Depth, err = strconv.Atoi(c.GetString("depth")); err != nil || o.Depth < 10 || o.Depth > 100 {
		return o, &usageError{fmt.Errorf("--depth: %q is not 10 to 100", c.GetString("depth"))}
	}
	budget, err := c.micros("budget")
	o.Budget = budget
	return o, err
}

// graphFile is the index of the web graph, beside the data file.
func (c config) graphFile() string { return c.dataFile() + "." + webgraph.Name }

// reached are the endings of host names that are served elsewhere.
func (c config) reached() (out []string) {
	for _, pair := range c.list("reach") {
		suffix, _, _ := strings.Cut(pair, "=")
		out = append(out, suffix)
	}
	return out
}

func (c config) market() (ask.Market, error) {
	perSecond, err := c.number("per-second")
	if err != nil {
		return ask.Market{}, err
	}
	perHost, err := c.number("pages-per-host")
	if err != nil {
		return ask.Market{}, err
	}
	reach := map[string]string{}
	for _, pair := range c.list("reach") {
		suffix, address, ok := strings.Cut(pair, "=")
		if !ok || !strings.HasPrefix(suffix, ".") || address == "" {
			return ask.Market{}, &usageError{fmt.Errorf("--reach: %q is not of the form .suffix=host:port", pair)}
		}
		reach[suffix] = address
	}
	key, err := secretKey(c.Viper)
	if err != nil {
		return ask.Market{}, err
	}
	m := ask.Market{Pages: market.NewPages(market.PageOptions{PerHost: perHost, Reach: reach, Clock: time.Now}),
		Names: map[ask.Question]string{}}
	for _, a := range ask.Services() {
		m.Names[a.Question] = a.Source
		if a.Connect == nil {
			continue
		}
		at := ask.Connection{Engine: c.GetString("engine"), Source: market.Source{Name: a.Source,
			Base: c.GetString(string(a.Question)), PerSecond: perSecond, Key: key}}
		if a.Question == ask.Results && at.Engine != "" {
			at.Name += " " + at.Engine
			m.Names[a.Question] = at.Name
		}
		if at.Base != "" {
			a.Connect(&m, at)
		}
	}
	switch graph, err := webgraph.Open(c.graphFile()); {
	case err == nil:
		m.Ranks = graph // it is open as long as the program runs
	case !errors.Is(err, fs.ErrNotExist):
		return m, &usageError{err}
	}
	m.More, err = c.described()
	return m, err
}
