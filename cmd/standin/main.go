// Command standin serves a small simulated internet on loopback, over the open
// protocols that the application asks the real one with. See standin/README.md.
package main

import (
	"context"
	"crypto/sha256"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"os"
	"os/signal"
	"path/filepath"
	"runtime/debug"
	"syscall"
	"time"

	"cleverniche/standin"

	"github.com/spf13/cobra"
)

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	if err := command().ExecuteContext(ctx); err != nil {
		fmt.Fprintln(os.Stderr, "standin:", err)
		os.Exit(1)
	}
}

// options are what a world is grown from.
type options struct {
	number               int
	today, now, scenario string
	keep                 string // directory of grown worlds; "" keeps none
}

func command() *cobra.Command {
	var o options
	var address string
	var latency time.Duration
	var background bool
	root := &cobra.Command{Use: "standin", Short: "A small simulated internet over open protocols, on loopback",
		Args: cobra.NoArgs, SilenceUsage: true, SilenceErrors: true,
		RunE: func(cmd *cobra.Command, _ []string) error {
			if background {
				return inBackground(cmd.OutOrStdout(), os.Args[1:])
			}
			begun := time.Now()
			world, err := grow(o)
			if err != nil {
				return err
			}
			return serve(cmd.Context(), world, address, latency, begun)
		}}
	root.PersistentFlags().IntVar(&o.number, "world", 1,
		"the world's number: another number is another web over the same hobbies")
	root.PersistentFlags().StringVar(&o.today, "today", "", "the day the world is founded, as 2006-01-02 (default: today)")
	root.PersistentFlags().StringVar(&o.now, "clock", "",
		"the day its clock stands at, not before that (default: the same)")
	root.PersistentFlags().StringVar(&o.scenario, "scenarios", "",
		"a directory of scenario files instead of those that ship with it")
	root.PersistentFlags().StringVar(&o.keep, "keep", placeToKeep(),
		"a directory in which grown worlds are kept, to be ready sooner the next time; empty for none")
	root.Flags().StringVar(&address, "listen", "127.0.0.1:8571", "address to listen on; port 0 picks a free one")
	root.Flags().BoolVar(&background, "background", false, "start it in the background, and return once it listens")
	root.Flags().DurationVar(&latency, "latency", 0, "time added to every answer")
	root.AddCommand(exportCommand(&o), checkCommand(), clockCommand(), faultCommand(), publishCommand())
	return root
}

// roomToGrow is the memory in which a world grows without stopping to collect
// garbage, in bytes.
const roomToGrow = 640 << 20

func grow(o options) (*standin.World, error) {
	day, err := dayOr(o.today, "today", time.Now())
	if err != nil {
		return nil, err
	}
	now, err := dayOr(o.now, "clock", day)
	if err != nil {
		return nil, err
	}
	scenarios, err := scenariosIn(o.scenario)
	if err != nil {
		return nil, err
	}
	percent, limit := debug.SetGCPercent(-1), debug.SetMemoryLimit(roomToGrow)
	world, keepIt := standin.GrowKept(o.number, scenarios, day, standin.Keep{Dir: o.keep, Build: build()})
	if keepIt != nil {
		go func() {
			if err := keepIt(); err != nil {
				slog.Warn("the grown world is not kept", "why", err)
			}
		}()
	}
	debug.SetGCPercent(percent)
	debug.SetMemoryLimit(limit)
	if o.now == "" {
		return world, nil
	}
	return world, world.MoveTo(now)
}

// placeToKeep is where worlds are kept unless something else is said; "" when there is no
// such place.
func placeToKeep() string {
	dir, err := os.UserCacheDir()
	if err != nil {
		return ""
	}
	return filepath.Join(dir, "cleverniche-standin")
}

// build tells this program's build from any other: what it grows may differ.
func build() string {
	name, err := os.Executable()
	if err != nil {
		return ""
	}
	data, err := os.ReadFile(name)
	if err != nil {
		return ""
	}
	return fmt.Sprintf("%x", sha256.Sum256(data))
}

func scenariosIn(dir string) ([]*standin.Scenario, error) {
	if dir == "" {
		return standin.Scenarios()
	}
	return standin.ReadScenarios(os.DirFS(dir), ".")
}

func dayOr(s, flag string, otherwise time.Time) (time.Time, error) {
	if s == "" {
		return otherwise, nil
	}
	t, err := time.Parse(time.DateOnly, s)
	if err != nil {
		return t, fmt.Errorf("--%s: %q is no day of the form 2006-01-02", flag, s)
	}
	return t, nil
}

func serve(ctx context.Context, world *standin.World, address string, latency time.Duration, begun time.Time) error {
	plain, err := net.Listen("tcp", address)
	if err != nil {
		return err
	}
	listener, err := standin.EitherWay(plain)
	if err != nil {
		return err
	}
	count := world.Count()
	slog.Info("the stand-in web is up", "address", "http://"+plain.Addr().String(), "world", world.Number,
		"clock", world.Now().Format(time.DateOnly), "queries", count.Queries, "sites", count.Sites, "pages", count.Pages,
		"links", count.Links, "grown_in", time.Since(begun).Round(time.Millisecond).String())
	fmt.Println("http://" + plain.Addr().String()) // for a program that started this one
	server := &http.Server{Handler: world.Handler(standin.Options{Latency: latency}), ReadHeaderTimeout: 5 * time.Second,
		ErrorLog: slog.NewLogLogger(slog.Default().Handler(), slog.LevelDebug)}
	go func() {
		<-ctx.Done()
		end, cancel := context.WithTimeout(context.Background(), 2*time.Second)
		defer cancel()
		server.Shutdown(end)
	}()
	if err := server.Serve(listener); !errors.Is(err, http.ErrServerClosed) {
		return err
	}
	return nil
}
