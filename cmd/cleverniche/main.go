// Command cleverniche serves the application, and does its work without a
// browser.
package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"os/signal"
	"syscall"

	"cleverniche/market"
	"cleverniche/study/input"
)

// Exit codes.
const (
	exitFailed      = 1   // something went wrong
	exitInput       = 2   // what was given cannot be used
	exitUnreachable = 3   // a source does not answer; what was fetched is kept
	exitPartly      = 4   // done, but for some lines or lookups, which are listed
	exitInterrupted = 130 // by a signal, as shells have it
)

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	err := rootCommand().ExecuteContext(ctx)
	interrupted := ctx.Err() != nil
	stop()
	if err == nil {
		return
	}
	if !errors.Is(err, context.Canceled) {
		fmt.Fprintln(os.Stderr, "cleverniche:", err)
	}
	if interrupted {
		os.Exit(exitInterrupted)
	}
	os.Exit(exitCode(err))
}

// partlyError says that the work is done but for some of it.
type partlyError struct{ reason string }

func (e *partlyError) Error() string { return e.reason }

// usageError is a command line that cannot be understood.
type usageError struct{ err error }

func (e *usageError) Error() string { return e.err.Error() }
func (e *usageError) Unwrap() error { return e.err }

func exitCode(err error) int {
	var invalid *input.Error
	var usage *usageError
	var partly *partlyError
	var stopped *stoppedError
	switch {
	case errors.As(err, &invalid), errors.As(err, &usage), errors.Is(err, input.ErrNotFound):
		return exitInput
	case errors.As(err, &partly):
		return exitPartly
	case errors.As(err, &stopped), market.IsUnreachable(err):
		return exitUnreachable
	}
	return exitFailed
}
