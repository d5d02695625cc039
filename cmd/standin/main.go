// Command standin serves a small simulated internet on loopback, over the open
// protocols that the application asks the real one with.
package main

import (
	"context"
	"errors"
	"flag"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"os"
	"os/signal"
	"syscall"
	"time"

	"cleverniche/standin"
)

func main() {
	if err := run(); err != nil {
		fmt.Fprintln(os.Stderr, "standin:", err)
		os.Exit(1)
	}
}

func run() error {
	address := flag.String("listen", "127.0.0.1:8571", "address to listen on; port 0 picks a free one")
	number := flag.Int("world", 1, "the world's number: another number is another web over the same hobbies")
	today := flag.String("today", "", "the world's present as 2006-01-02 (default: the real one)")
	latency := flag.Duration("latency", 0, "time added to every answer")
	flag.Parse()
	clock := time.Now()
	if *today != "" {
		t, err := time.Parse("2006-01-02", *today)
		if err != nil {
			return fmt.Errorf("-today: %q is no day of the form 2006-01-02", *today)
		}
		clock = t
	}
	scenarios, err := standin.Scenarios()
	if err != nil {
		return err
	}
	begun := time.Now()
	world := standin.Grow(*number, scenarios, clock)
	listener, err := net.Listen("tcp", *address)
	if err != nil {
		return err
	}
	count := world.Count()
	slog.Info("the stand-in web is up", "address", "http://"+listener.Addr().String(), "world", *number,
		"queries", count.Queries, "sites", count.Sites, "pages", count.Pages, "links", count.Links,
		"grown_in", time.Since(begun).Round(time.Millisecond).String())
	fmt.Println("http://" + listener.Addr().String()) // for a program that started this one
	server := &http.Server{Handler: world.Handler(standin.Options{Latency: *latency}), ReadHeaderTimeout: 5 * time.Second}
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
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
