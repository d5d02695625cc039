package main

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"time"

	"cleverniche/core/sieve"
	"cleverniche/store"
	"cleverniche/study"
	"cleverniche/study/ask"
	"cleverniche/study/gather"
	"cleverniche/study/niches"
	"cleverniche/web"

	"github.com/adrg/xdg"
	"github.com/spf13/cobra"
)

func serveCommand() *cobra.Command {
	return &cobra.Command{Use: "serve", Short: "Run the application", Args: args(cobra.NoArgs), GroupID: "run",
		Annotations: map[string]string{serving: "all"},
		Example:     examples("cleverniche serve", "cleverniche serve --listen 127.0.0.1:9000 --data niches.db"),
		RunE: func(cmd *cobra.Command, _ []string) error {
			c, err := readConfig(cmd.Flags())
			if err != nil {
				return err
			}
			log, err := c.logger()
			if err != nil {
				return err
			}
			d, err := c.listen(log)
			if err != nil {
				return err
			}
			s, _, closing, err := c.open(log)
			if err != nil {
				return errors.Join(err, d.listener.Close())
			}
			defer closing()
			return serve(cmd.Context(), c, s, log, d, func(address string) {
				fmt.Fprintln(cmd.OutOrStdout(), "Clever Niche is at", address)
			})
		}}
}

// shutdown is how long open requests may still take at the end.
const shutdown = 5 * time.Second

func serve(ctx context.Context, c config, s *study.Study, log *slog.Logger, d door, ready func(string)) error {
	if free, ok := store.Room(filepath.Dir(c.dataFile())); ok && free < leastRoom {
		log.Warn("the disk of the data file is nearly full: make room, or nothing can be kept soon", "free", free)
	}
	app, err := web.New(web.Options{Study: s, Log: log, Hosts: d.hosts, Reached: c.reached(), SourceFiles: c.sourceDir(),
		Metrics: c.GetString("metrics") == "yes", SignIn: d.signIn, Secure: d.secure, Proxied: d.proxied})
	if err != nil {
		d.listener.Close()
		return err
	}
	if d.signIn {
		if any, err := s.People.Any(ctx); err != nil || !any {
			if err != nil {
				d.listener.Close()
				return err
			}
			log.Warn("nobody can sign in yet: run “cleverniche people invite NAME --role owner”, and open the link it " +
				"prints")
		}
	}
	s.Jobs.Watch()
	s.Keep(c.copies())
	ready(d.address())
	return web.Serve(ctx, app, d.listener, shutdown)
}

// The demo's prices are invented; they show what cost looks like.
var demoPrices = map[string]string{"price-demand": "0.0005", "price-results": "0.002", "price-links": "0.001",
	"price-totals": "0.001", "price-rankings": "0.002",
	"budget": "25"}

func demoCommand() *cobra.Command {
	var standin, latency, today string
	var world int
	var reset bool
	cmd := &cobra.Command{Use: "demo", Short: "Run the application with demo data and a simulated web", GroupID: "run",
		Example: examples("cleverniche demo", "cleverniche demo --reset --listen 127.0.0.1:9000"),
		Args:    args(cobra.NoArgs),
		RunE: func(cmd *cobra.Command, _ []string) error {
			c, err := readConfig(cmd.Flags())
			if err != nil {
				return err
			}
			if !cmd.Flags().Changed("data") {
				c.Set("data", filepath.Join(xdg.DataHome, "cleverniche", "demo.db"))
			}
			if cmd.Flags().Lookup("copies").Value.String() == "" {
				c.Set("copies", "none") // the demo's data can be made again
			}
			log, err := c.logger()
			if err != nil {
				return err
			}
			d, err := c.listen(log)
			if err != nil {
				return err
			}
			defer d.listener.Close()
			unfinished := c.dataFile() + ".unfinished"
			if _, err := os.Stat(unfinished); reset || err == nil {
				if err := store.Remove(c.dataFile()); err != nil {
					return err
				}
			}
			ctx, cancel := context.WithCancel(cmd.Context())
			defer cancel()
			host, stop, err := startStandin(ctx, standin, fmt.Sprint("--world=", world), "--latency="+latency, "--today="+today)
			if err != nil {
				return err
			}
			defer stop()
			c.pointAt(host)
			stage := &rehearsal{host: host, base: c.now}
			c.now = stage.now
			s, _, closing, err := c.open(log)
			if err != nil {
				return err
			}
			defer closing()
			if err := stage.resume(ctx, s); err != nil {
				return fmt.Errorf("going on with the rehearsal: %w", err)
			}
			s.Watch.Rehearse(stage)
			if err := prepareOnce(ctx, s, unfinished, cmd.ErrOrStderr()); err != nil {
				return fmt.Errorf("preparing the demo: %w", err)
			}
			return serve(ctx, c, s, log, d, func(address string) {
				fmt.Fprintf(cmd.OutOrStdout(),
					"\n  Clever Niche is at %s\n  The stand-in web is at http://%s\n  One Ctrl-C stops both.\n\n", address, host)
			})
		}}
	cmd.Flags().StringVar(&standin, "standin", "",
		"the stand-in's program (default: standin beside this one), or the address of one that runs")
	cmd.Flags().StringVar(&latency, "latency", "15ms", "time the stand-in takes for every answer")
	cmd.Flags().StringVar(&today, "today", "", "the stand-in's present, as 2006-01-02")
	cmd.Flags().IntVar(&world, "world", 1, "the stand-in's world")
	cmd.Flags().BoolVar(&reset, "reset", false, "start afresh")
	return cmd
}

// pointAt points every source that is not set at the stand-in.
func (c config) pointAt(host string) {
	set := func(name, value string) {
		if c.GetString(name) == "" {
			c.Set(name, value)
		}
	}
	base := "http://" + host
	for _, a := range ask.Services() {
		if a.StandIn != "" {
			set(string(a.Question), base+a.StandIn)
		}
	}
	set("engine", "lantern")
	set("reach", fmt.Sprintf(".example=%s,.test=%s,.invalid=%s", host, host, host))
	set("free-hosts", "inkwellpages.example,plainpost.example")
	c.Set("per-second", "400")
	c.Set("pages-per-host", "200")
	for name, price := range demoPrices {
		if c.GetString(name) == "0" {
			c.Set(name, price)
		}
	}
}

// startStandin starts the stand-in on a free port and waits until it listens. It
// ends with ctx, with stop, and with this process, however that ends. One that runs already, which program
// is the address of then, is left running.
func startStandin(ctx context.Context, program string, args ...string) (host string, stop func(), err error) {
	if host, runs := strings.CutPrefix(program, "http://"); runs {
		return host, func() {}, nil
	}
	if program == "" {
		self, err := os.Executable()
		if err != nil {
			return "", nil, err
		}
		program = filepath.Join(filepath.Dir(self), "standin")
	}
	cmd := exec.CommandContext(ctx, program, append([]string{"--listen", "127.0.0.1:0"}, args...)...)
	cmd.Stderr = os.Stderr
	cmd.Cancel = func() error { return cmd.Process.Signal(syscall.SIGTERM) }
	cmd.WaitDelay = 3 * time.Second
	cmd.SysProcAttr = endWithParent()
	said, err := cmd.StdoutPipe()
	if err == nil {
		err = cmd.Start()
	}
	if err != nil {
		return "", nil, fmt.Errorf("starting the stand-in web: %w (build it with: go build -o bin/ ./cmd/...)", err)
	}
	// Its first line is its address, said once it listens; nothing when it ends.
	line, err := bufio.NewReader(said).ReadString('\n')
	host = strings.TrimPrefix(strings.TrimSpace(line), "http://")
	if err != nil || host == "" {
		return "", nil, fmt.Errorf("the stand-in web ended at once: %v", cmd.Wait())
	}
	return host, func() {
		cmd.Process.Signal(syscall.SIGTERM)
		cmd.Wait()
	}, nil
}

// The demo's niche, and what is gathered and looked up before it is first opened.
var (
	demoNiche = niches.Niche{Name: "Backyard astronomy", Country: "US", Language: "en", OwnSite: "nightporch.example",
		Endings: "example test", VisitMicros: 60_000}
	demoSeeds = []string{"astronomy binoculars", "telescope for", "see saturn", "how to find", "star tracker"}
)

// What is sifted before it is looked up, so that money goes to what a young site can use: longer phrases in the middle
// of the field, and a few of the large ones, to know what they are like.
var (
	demoFinds = sieve.Sieve{Filters: []sieve.Filter{sieve.NotDropped(), sieve.At(sieve.ByLength, 4),
		sieve.At(sieve.ByLeastSearches, 100), {By: sieve.ByMostSearches, Number: 800},
		sieve.Holding(sieve.ByLacking, "login", "jobs", "near me")}}
	demoLarge = sieve.Sieve{Filters: []sieve.Filter{sieve.NotDropped(), sieve.At(sieve.ByLength, 3),
		sieve.At(sieve.ByLeastSearches, 900), sieve.Holding(sieve.ByLacking, "login", "jobs")}}
	// demoKept are the finds that are kept.
	demoKept = sieve.Sieve{Filters: []sieve.Filter{sieve.NotDropped(), sieve.On(sieve.ByLookedUp),
		sieve.At(sieve.ByLeastSearches, 100), {By: sieve.ByMostSearches, Number: 800},
		{By: sieve.ByMostDifficulty, Number: 20}}}.By(sieve.Worth, true)
)

const (
	demoJudged     = 60
	demoLargest    = 12
	demoKeptAtMost = 14
)

// demoOwn are phrases that pages of the own site were written for.
const demoOwn = "how to find the andromeda galaxy\nbest telescope for deep sky objects\n" +
	"best way to polar align a mount\n" +
	"is there a good dobsonian telescope under 200\ngood astronomy binoculars for travel\n" +
	"types of telescope eyepieces\neasiest way to keep an observing log"

// Two more niches: one half way, one just begun.
var demoMore = []struct {
	niche niches.Niche
	seeds []string
	look  int // ideas that are looked up
}{
	{niches.Niche{Name: "Home cheesemaking", Country: "US", Language: "en", OwnSite: "curdcorner.example",
		VisitMicros: 30_000}, []string{"mozzarella", "cheese press"}, 16},
	{niches.Niche{Name: "Letterpress at home", Country: "US", Language: "en"}, []string{"linocut"}, 0},
}

// prepareOnce prepares the demo in a data file without niches. A file stands beside it as long as that is not
// finished: a demo that was ended meanwhile is half made, and is made again.
func prepareOnce(ctx context.Context, s *study.Study, unfinished string, w io.Writer) error {
	all, err := s.Niches.All(ctx)
	if err != nil || len(all) > 0 {
		return err
	}
	if err := os.WriteFile(unfinished, nil, 0o600); err != nil {
		return err
	}
	fmt.Fprintln(w, "Preparing the demo, once…")
	if err := sow(ctx, s); err != nil {
		return err
	}
	return os.Remove(unfinished)
}

// sow prepares the demo by the same use cases that its users have.
func sow(ctx context.Context, s *study.Study) error {
	n, err := s.Niches.Create(ctx, demoNiche)
	if err != nil {
		return err
	}
	if _, err := s.Imports.Take(ctx, n, "what your pages are for", strings.NewReader(demoOwn)); err != nil {
		return err
	}
	job, err := s.Gathering.Gather(ctx, n, gather.Plan{Seeds: demoSeeds, Ways: gather.Usual})
	if err != nil {
		return err
	}
	if err := s.Jobs.Wait(ctx, job.ID); err != nil {
		return err
	}
	b, err := s.Ideas.Table(ctx, n)
	if err != nil {
		return err
	}
	ids := b.Named(strings.Split(demoOwn, "\n")...)
	for _, some := range []struct {
		by   sieve.Sieve
		most int
	}{{demoFinds, demoJudged}, {demoLarge, demoLargest}} {
		more, err := choose(ctx, s, n, some.by, nil, some.most)
		if err != nil {
			return err
		}
		ids = append(ids, more...)
	}
	if job, err = s.Results.LookUp(ctx, n, ids, false); err != nil {
		return err
	}
	if err := s.Jobs.Wait(ctx, job.ID); err != nil {
		return err
	}
	if err := keepFinds(ctx, s, n, demoKeptAtMost); err != nil {
		return err
	}
	if err := plot(ctx, s, n); err != nil {
		return err
	}
	if job, err = s.Watch.AskPast(ctx, n); err != nil { // so that it begins with twelve weeks of its pages
		return err
	}
	if err := s.Jobs.Wait(ctx, job.ID); err != nil {
		return err
	}
	for _, more := range demoMore {
		if err := sowMore(ctx, s, more.niche, more.seeds, more.look); err != nil {
			return err
		}
	}
	return s.Niches.Opened(ctx, n.ID) // it is what one sees first
}

// sowMore makes a niche, gathers, and looks so many ideas up, of which the easiest are kept.
func sowMore(ctx context.Context, s *study.Study, niche niches.Niche, seeds []string, look int) error {
	n, err := s.Niches.Create(ctx, niche)
	if err != nil {
		return err
	}
	job, err := s.Gathering.Gather(ctx, n, gather.Plan{Seeds: seeds, Ways: []gather.Way{gather.Questions}})
	if err == nil {
		err = s.Jobs.Wait(ctx, job.ID)
	}
	if err != nil || look == 0 {
		return err
	}
	ids, err := choose(ctx, s, n, demoFinds, nil, look)
	if err != nil || len(ids) == 0 {
		return err
	}
	if job, err = s.Results.LookUp(ctx, n, ids, false); err == nil {
		err = s.Jobs.Wait(ctx, job.ID)
	}
	if err != nil {
		return err
	}
	return keepFinds(ctx, s, n, 2)
}

// keepFinds keeps the looked up ideas that are easy and searched enough, those that bring most first.
func keepFinds(ctx context.Context, s *study.Study, n niches.Niche, most int) error {
	b, err := s.Ideas.Table(ctx, n)
	if err != nil {
		return err
	}
	ids := b.Pass(demoKept).IDs(0, most)
	if len(ids) == 0 {
		return nil
	}
	_, err = s.Ideas.Decide(ctx, n.ID, ids, sieve.Kept)
	return err
}
