package frame

import (
	"bytes"
	"context"
	"errors"
	"io"
	"log/slog"
	"net"
	"net/http"
	"testing"
	"time"

	"github.com/gofiber/fiber/v3"
)

// TestFilesAreStreamed: the first of a file comes while the rest is made; one that fails is not taken for whole; what
// fails at once is told; and nobody goes on making a file for who is gone.
func TestFilesAreStreamed(t *testing.T) {
	goOn, gone := make(chan bool), make(chan error, 1)
	writers := map[string]func(ctx context.Context, w io.Writer) error{
		"/slow": func(_ context.Context, w io.Writer) error {
			w.Write(bytes.Repeat([]byte("a"), 2*enough))
			<-goOn
			_, err := w.Write([]byte("b"))
			return err
		},
		"/fails": func(_ context.Context, w io.Writer) error {
			w.Write(bytes.Repeat([]byte("a"), 3*enough))
			return errors.New("the disk is gone")
		},
		"/panics": func(_ context.Context, w io.Writer) error {
			w.Write(bytes.Repeat([]byte("a"), 3*enough))
			panic("a fault")
		},
		"/panics-at-once": func(context.Context, io.Writer) error { panic("a fault") },
		"/never":          func(context.Context, io.Writer) error { return errors.New("not at all") },
		"/small":          func(_ context.Context, w io.Writer) error { _, err := w.Write([]byte("small")); return err },
		"/endless": func(ctx context.Context, w io.Writer) error {
			for {
				if _, err := w.Write(make([]byte, enough)); err != nil {
					gone <- ctx.Err()
					return err
				}
			}
		},
	}
	app := fiber.New()
	for path, write := range writers {
		app.Get(path, func(c fiber.Ctx) error {
			r := &Request{Ctx: c, Server: &Server{Log: slog.New(slog.DiscardHandler)}}
			return r.Stream("x.txt", "text/plain", write)
		})
	}
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	go app.Listener(l, fiber.ListenConfig{DisableStartupMessage: true})
	defer app.Shutdown()
	get := func(path string) *http.Response {
		t.Helper()
		r, err := http.Get("http://" + l.Addr().String() + path)
		if err != nil {
			t.Fatal(err)
		}
		return r
	}
	slow := get("/slow")
	first := make([]byte, enough)
	if _, err := io.ReadFull(slow.Body, first); err != nil {
		t.Errorf("the first of it: %v", err)
	}
	close(goOn)
	if rest, err := io.ReadAll(slow.Body); err != nil || len(rest) != enough+1 {
		t.Errorf("the rest: %d bytes, %v", len(rest), err)
	}
	for _, path := range []string{"/fails", "/panics"} {
		if all, err := io.ReadAll(get(path).Body); err == nil {
			t.Errorf("%s: %d bytes of one that fails are taken for whole", path, len(all))
		}
	}
	for _, path := range []string{"/never", "/panics-at-once"} {
		if r := get(path); r.StatusCode != 500 {
			t.Errorf("%s: one that fails at once: %s", path, r.Status)
		}
	}
	r := get("/small")
	if all, err := io.ReadAll(r.Body); err != nil || string(all) != "small" ||
		r.Header.Get("Content-Disposition") != `attachment; filename="x.txt"` {
		t.Errorf("a small one: %q, %v, %v", all, err, r.Header)
	}
	if r, err := http.Head("http://" + l.Addr().String() + "/endless"); err != nil || r.StatusCode != 200 {
		t.Errorf("its head: %v", err)
	}
	endless := get("/endless")
	io.ReadFull(endless.Body, first)
	endless.Body.Close()
	select {
	case <-gone:
	case <-time.After(20 * time.Second):
		t.Error("it is still made for who is gone")
	}
}
