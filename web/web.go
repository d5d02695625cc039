// Package web is the application in a browser: routes, view models, templates and
// static files. It holds no rules of the job; it asks study and shows what it says.
package web

import (
	"context"
	"crypto/sha256"
	"embed"
	"encoding/hex"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"net"
	"net/http"
	"time"

	"cleverniche/store"
	"cleverniche/study"

	"github.com/gofiber/fiber/v3"
	"github.com/gofiber/fiber/v3/extractors"
	"github.com/gofiber/fiber/v3/middleware/compress"
	"github.com/gofiber/fiber/v3/middleware/csrf"
	"github.com/gofiber/fiber/v3/middleware/helmet"
	recoverer "github.com/gofiber/fiber/v3/middleware/recover"
	"github.com/gofiber/fiber/v3/middleware/static"
	"github.com/gofiber/template/html/v2"
)

//go:embed templates static
var files embed.FS

// Options are what the application is made of.
type Options struct {
	Study  *study.Study
	Tokens *store.Store
	Log    *slog.Logger
}

// server holds what the handlers need.
type server struct {
	study   *study.Study
	log     *slog.Logger
	version string // of the static files, in their addresses
}

// policy lets the page load its own files only: no inline script or style, no
// other site, no framing.
const policy = "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; font-src 'self'; " +
	"connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'"

// New returns the application.
func New(o Options) (*fiber.App, error) {
	s := &server{study: o.Study, log: o.Log}
	if s.log == nil {
		s.log = slog.New(slog.DiscardHandler)
	}
	staticFiles, err := fs.Sub(files, "static")
	if err != nil {
		return nil, err
	}
	if s.version, err = digest(staticFiles); err != nil {
		return nil, err
	}
	templates, err := fs.Sub(files, "templates")
	if err != nil {
		return nil, err
	}
	engine := html.NewFileSystem(http.FS(templates), ".html")
	engine.AddFuncMap(s.templateFunctions())
	if err := engine.Load(); err != nil {
		return nil, fmt.Errorf("reading templates: %w", err)
	}
	app := fiber.New(fiber.Config{AppName: "Clever Niche", Views: engine, Immutable: true, ErrorHandler: s.fail,
		BodyLimit: 40 << 20, ReadTimeout: 30 * time.Second, IdleTimeout: 2 * time.Minute})
	app.Get("/healthz", func(c fiber.Ctx) error { return c.SendString("ok") })
	app.Use(recoverer.New())
	app.Use(compress.New(compress.Config{Level: compress.LevelBestSpeed}))
	app.Use(helmet.New(helmet.Config{ContentSecurityPolicy: policy, XFrameOptions: "DENY", ReferrerPolicy: "same-origin"}))
	app.Use("/static", static.New("", static.Config{FS: staticFiles, MaxAge: 365 * 24 * 3600}))
	app.Use(csrf.New(csrf.Config{CookieName: "cn_csrf", CookieHTTPOnly: true, CookieSameSite: "Strict",
		Storage: tokens{o.Tokens}, IdleTimeout: 30 * 24 * time.Hour, ErrorHandler: s.refuse,
		Extractor: extractors.Chain(extractors.FromHeader("X-Csrf-Token"), extractors.FromForm("csrf"))}))
	s.routes(app)
	return app, nil
}

func (s *server) routes(app *fiber.App) {
	app.Get("/", s.home)
	app.Get("/niches/new", s.newNiche)
	app.Post("/niches", s.createNiche)
	n := app.Group("/niches/:niche")
	n.Get("/settings", s.nicheSettings)
	n.Post("/settings", s.changeNiche)
	n.Get("/gather", s.gather)
	n.Post("/gather", s.startGather)
	n.Post("/gather/estimate", s.estimateGather)
	n.Post("/searches", s.startDemand)
	n.Post("/import", s.importList)
	n.Get("/arrivals", s.arrivals)
	n.Get("/export.:format", s.export)
	n.Post("/lookup/estimate", s.estimateLookup)
	n.Post("/lookup", s.startLookup)
	n.Post("/decide", s.decide)
	n.Post("/undo", s.undo)
	n.Get("/why", s.why)
	n.Get("/ideas/:idea/drawer", s.drawer)
	n.Get("/ideas/:idea", s.story)
	n.Post("/ideas/:idea/dig", s.dig)
	n.Post("/ideas/:idea/suppose", s.suppose)
	n.Get("/jobs/:job", s.job)
	n.Post("/jobs/:job/:action", s.steerJob)
	n.Get("/:stage", s.bench)
}

// Serve serves on the listener until ctx ends, and lets open requests finish.
func Serve(ctx context.Context, app *fiber.App, l net.Listener, patience time.Duration) error {
	served := make(chan error, 1)
	go func() { served <- app.Listener(l, fiber.ListenConfig{DisableStartupMessage: true}) }()
	select {
	case err := <-served:
		return err
	case <-ctx.Done():
	}
	end, cancel := context.WithTimeout(context.Background(), patience)
	defer cancel()
	if err := app.ShutdownWithContext(end); err != nil && !errors.Is(err, context.DeadlineExceeded) {
		return err
	}
	return nil
}

// digest is a short hash over all static files.
func digest(fsys fs.FS) (string, error) {
	sum := sha256.New()
	err := fs.WalkDir(fsys, ".", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		data, err := fs.ReadFile(fsys, path)
		sum.Write([]byte(path))
		sum.Write(data)
		return err
	})
	return hex.EncodeToString(sum.Sum(nil))[:12], err
}

// tokens keeps cross-site tokens in the data file, so that a page left open
// works after a restart.
type tokens struct{ store *store.Store }

func (t tokens) GetWithContext(ctx context.Context, key string) ([]byte, error) {
	return t.store.Token(ctx, key)
}
func (t tokens) Get(key string) ([]byte, error) { return t.GetWithContext(context.Background(), key) }
func (t tokens) SetWithContext(ctx context.Context, key string, value []byte, life time.Duration) error {
	return t.store.SetToken(ctx, key, value, life)
}
func (t tokens) Set(key string, value []byte, life time.Duration) error {
	return t.SetWithContext(context.Background(), key, value, life)
}
func (t tokens) DeleteWithContext(ctx context.Context, key string) error {
	return t.store.DropToken(ctx, key)
}
func (t tokens) Delete(key string) error                    { return t.DeleteWithContext(context.Background(), key) }
func (t tokens) ResetWithContext(ctx context.Context) error { return t.store.DropToken(ctx, "") }
func (t tokens) Reset() error                               { return t.ResetWithContext(context.Background()) }
func (t tokens) Close() error                               { return nil }
