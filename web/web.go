// Package web is the application in a browser: the frame, and the screens in it, a
// package each. It holds no rules of the job; it asks study and shows what it says.
package web

import (
	"context"
	"embed"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"runtime/debug"
	"strings"
	"time"

	"cleverniche/study"
	"cleverniche/study/ask"
	"cleverniche/web/about"
	"cleverniche/web/asked"
	"cleverniche/web/checks"
	"cleverniche/web/compare"
	"cleverniche/web/engine"
	"cleverniche/web/filters"
	"cleverniche/web/frame"
	"cleverniche/web/gather"
	"cleverniche/web/group"
	"cleverniche/web/idea"
	"cleverniche/web/jobs"
	"cleverniche/web/list"
	"cleverniche/web/niches"
	"cleverniche/web/people"
	"cleverniche/web/plan"
	"cleverniche/web/read"
	"cleverniche/web/rivals"
	"cleverniche/web/sift"
	"cleverniche/web/start"
	"cleverniche/web/thecase"
	"cleverniche/web/watch"

	"github.com/gofiber/fiber/v3"
	"github.com/gofiber/fiber/v3/extractors"
	"github.com/gofiber/fiber/v3/middleware/compress"
	"github.com/gofiber/fiber/v3/middleware/csrf"
	"github.com/gofiber/fiber/v3/middleware/helmet"
	recoverer "github.com/gofiber/fiber/v3/middleware/recover"
	"github.com/gofiber/fiber/v3/middleware/requestid"
	"github.com/gofiber/template/html/v2"
)

// Each screen's templates, styles and scripts lie in its folder.
//
//go:embed */*.html */*.css */*.js static
var files embed.FS

// screens are the places of the application.
var screens = []frame.Screen{niches.Screen, gather.Screen, checks.Screen, filters.Screen, list.Screen, sift.Screen,
	group.Screen, plan.Screen, idea.Screen, read.Screen, jobs.Screen, engine.Screen, asked.Screen, rivals.Screen,
	thecase.Screen, watch.Screen, compare.Screen, about.Screen, start.Screen, people.Screen}

// Options are what the application is made of.
type Options struct {
	Study *study.Study
	Log   *slog.Logger
	Hosts []string // names that it is served by, beside this machine's own
	// Reached are endings of host names, such as “.example”, that only the application reaches: a browser is not sent
	// there.
	Reached []string
	// SourceFiles is the folder of files that describe services.
	SourceFiles string
	// Metrics tells figures at /metrics.
	Metrics bool
	// SignIn lets in only who signs in; Secure says that browsers reach us by a secure connection, here or before us.
	SignIn, Secure bool
	// Proxied says that a proxy before us tells who asks, and how: one of this machine, or of a private network.
	Proxied bool
}

// policy lets the page load its own files only: no inline script or style, no
// other site, no framing.
const policy = "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; font-src 'self'; " +
	"connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'"

// New returns the application.
func New(o Options) (*fiber.App, error) {
	if o.Log == nil {
		o.Log = slog.New(slog.DiscardHandler)
	}
	assets, err := frame.ReadAssets(files)
	if err != nil {
		return nil, err
	}
	s := frame.NewServer(o.Study, o.Log, assets, screens...)
	s.Reached, s.SourceFiles = o.Reached, o.SourceFiles
	s.SignIn, s.Secure, s.Proxied = o.SignIn, o.Secure, o.Proxied
	engine := html.NewFileSystem(http.FS(frame.Templates{FS: files}), ".html")
	engine.AddFuncMap(s.Functions())
	if err := engine.Load(); err != nil {
		return nil, fmt.Errorf("reading templates: %w", err)
	}
	tokens, err := frame.NewTokens(context.Background(), o.Study)
	if err != nil {
		return nil, err
	}
	app := fiber.New(fiber.Config{AppName: "Clever Niche", Views: engine, Immutable: true, ErrorHandler: s.Fail,
		StreamRequestBody: true, DisablePreParseMultipartForm: true, BodyLimit: mostBody, ReadBufferSize: mostHead,
		ReadTimeout: 30 * time.Second, TrustProxy: o.Proxied,
		TrustProxyConfig: fiber.TrustProxyConfig{Loopback: true, Private: true},
		IdleTimeout:      2 * time.Minute})
	app.Get("/healthz", func(c fiber.Ctx) error { return c.SendString("ok") })
	app.Get("/readyz", s.Ready)
	m := newMetrics(o.Study)
	if o.Metrics {
		app.Use(m.count(o.Study))
	}
	app.Use(requestid.New())
	app.Use(note(s))
	app.Use(recoverer.New(recoverer.Config{EnableStackTrace: true, StackTraceHandler: func(c fiber.Ctx, p any) {
		o.Log.Error("a request panicked", "id", requestid.FromContext(c), "method", c.Method(), "route", c.Route().Path,
			"panic", fmt.Sprint(p), "stack", string(debug.Stack()))
	}}))
	app.Use(guard(s, o.Hosts, tokens))
	if o.Metrics && !o.SignIn {
		app.Get("/metrics", m.handler())
	}
	app.Use(compress.New(compress.Config{Level: compress.LevelBestSpeed, Next: streams}))
	app.Use(helmet.New(helmet.Config{ContentSecurityPolicy: policy, XFrameOptions: "DENY", ReferrerPolicy: "same-origin",
		HSTSMaxAge: hsts(o.Secure), HSTSExcludeSubdomains: true}))
	app.Get("/static/:version/*", assets.Serve)
	app.Use(csrf.New(csrf.Config{CookieName: s.CSRFCookie(), CookieSecure: o.Secure, CookieHTTPOnly: true,
		CookieSameSite: "Strict",
		Storage:        tokens, KeyGenerator: tokens.New, IdleTimeout: 30 * ask.Day, ErrorHandler: s.Refuse,
		Extractor: extractors.Chain(extractors.FromHeader("X-Csrf-Token"), extractors.FromForm("csrf"))}))
	if o.SignIn {
		app.Use(gate(s))
		if o.Metrics {
			app.Get("/metrics", m.handler())
		}
	}
	s.Routes(app)
	return app, nil
}

// hsts is for how long browsers reach us by a secure connection only (RFC 6797), in seconds: a year.
func hsts(secure bool) int {
	if secure {
		return 365 * 24 * 60 * 60
	}
	return 0
}

// streams reports whether what is asked for is sent while it is made: whoever compresses it would wait for all of it.
func streams(c fiber.Ctx) bool {
	return strings.Contains(c.Path(), "/export.") || strings.HasSuffix(c.Path(), "/whole.zip")
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
