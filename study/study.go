// Package study is the work itself, a use case a file: gather, sift, judge,
// decide, import, export, and the runner of long jobs. It joins the rules of core,
// the questions of market and the data of store, and knows no HTTP and no HTML.
package study

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"strings"
	"sync"
	"time"

	"cleverniche/core/difficulty"
	"cleverniche/core/links"
	"cleverniche/market"
	"cleverniche/store"

	"golang.org/x/sync/singleflight"
	"golang.org/x/text/currency"
	"golang.org/x/text/language"
)

// Market is the outside world as the study asks it. A nil source is one that is
// not set up.
type Market struct {
	Suggest market.Suggester
	Demand  market.Demander
	Search  market.Searcher
	Pages   market.Fetcher
	Links   market.Linker
	// Names of the sources, shown beside what they said.
	Names map[Question]string
}

// Options are the study's settings.
type Options struct {
	Prices    map[Question]int64 // micro-units of money a lookup; demand: a phrase
	Budget    int64              // micro-units a day; 0 is no limit
	Currency  string             // of prices and budget
	Lifetimes map[Question]time.Duration
	Depth     int // results looked up; 0 means DefaultDepth
	Suffixes  links.Suffixes
	Now       func() time.Time
	Log       *slog.Logger
}

// Study is the use cases over one data file.
type Study struct {
	store   *store.Store
	market  Market
	options Options
	flights singleflight.Group
	boards  boards
	graph   standings
	runner  *Runner
	purse   purse
	demand  sync.Mutex // one batch run of demand at a time
}

// New returns a study. Close it before its store.
func New(st *store.Store, m Market, o Options) *Study {
	if o.Now == nil {
		o.Now = time.Now
	}
	if o.Log == nil {
		o.Log = slog.New(slog.DiscardHandler)
	}
	if o.Depth == 0 {
		o.Depth = DefaultDepth
	}
	if o.Currency == "" {
		o.Currency = "USD"
	}
	s := &Study{store: st, market: m, options: o}
	s.boards.byNiche = map[uint]*Board{}
	s.runner = newRunner(s)
	return s
}

// Close stops the jobs that run here; they go on when the program is started again.
func (s *Study) Close() { s.runner.close() }

// PriceCurrency is the currency of prices and costs of lookups.
func (s *Study) PriceCurrency() string { return s.options.Currency }

// InputError is something the user gave that cannot be used. Field names it.
type InputError struct{ Field, Reason string }

func (e *InputError) Error() string { return e.Reason }

func badInput(field, format string, args ...any) error {
	return &InputError{field, fmt.Sprintf(format, args...)}
}

// ErrNotFound is returned for a niche, idea or job that is not there.
var ErrNotFound = store.ErrNotFound

// MostNameRunes is the longest name of a niche.
const MostNameRunes = 80

// CheckNiche reads what a user says of a niche, fills in defaults, and returns it
// as it would be kept, or an *InputError.
func (s *Study) CheckNiche(n store.Niche) (store.Niche, error) {
	n.Name = strings.Join(strings.Fields(n.Name), " ")
	if n.Name == "" {
		return n, badInput("name", "Give the niche a name.")
	}
	if len([]rune(n.Name)) > MostNameRunes {
		return n, badInput("name", "The name is longer than %d characters.", MostNameRunes)
	}
	region, err := language.ParseRegion(strings.TrimSpace(n.Country))
	if err != nil || !region.IsCountry() {
		return n, badInput("country", "“%s” is no two-letter country code, such as US.", n.Country)
	}
	n.Country = region.String()
	base, err := language.ParseBase(strings.TrimSpace(n.Language))
	if err != nil || len(base.String()) != 2 {
		return n, badInput("language", "“%s” is no two-letter language code, such as en.", n.Language)
	}
	n.Language = base.String()
	if n.Currency == "" {
		n.Currency = "USD"
		if unit, ok := currency.FromRegion(region); ok {
			n.Currency = unit.String()
		}
	}
	if n.OwnSite, err = s.ownSite(n.OwnSite); err != nil {
		return n, err
	}
	if n.Fit == 0 {
		n.Fit = difficulty.WellMade
	}
	if n.LinkStanding == 0 {
		n.LinkStanding = difficulty.PlannedStanding
	}
	switch {
	case n.PlannedLinks < 0 || n.PlannedLinks > difficulty.MostLinks:
		return n, badInput("links", "Planned links must be 0 to %d.", difficulty.MostLinks)
	case n.Fit < 1 || n.Fit > 100:
		return n, badInput("fit", "The fit of a well-made page must be 1 to 100.")
	case n.LinkStanding < links.SolidStanding || n.LinkStanding > 100:
		return n, badInput("standing", "A solid link comes from a site of standing %d to 100.", links.SolidStanding)
	}
	return n, nil
}

// ownSite reads a domain or an address and returns its site.
func (s *Study) ownSite(text string) (string, error) {
	text = strings.TrimSpace(text)
	if text == "" {
		return "", nil
	}
	host := text
	if strings.Contains(text, "://") {
		host = links.Host(text)
	} else if i := strings.IndexAny(host, "/?#"); i >= 0 {
		host = host[:i]
	}
	site := s.options.Suffixes.Site(host)
	if site == "" || links.IsAddress(site) || strings.ContainsAny(site, " \t<>\"") || !strings.Contains(site, ".") {
		return "", badInput("site", "“%s” is no domain of a site, such as nightporch.example.", text)
	}
	return site, nil
}

// CreateNiche checks and keeps a new niche.
func (s *Study) CreateNiche(ctx context.Context, n store.Niche) (store.Niche, error) {
	n, err := s.CheckNiche(n)
	if err != nil {
		return n, err
	}
	n.Calibration = difficulty.Calibrated.Name
	if _, err := s.store.NicheNamed(ctx, n.Name); err == nil {
		return n, badInput("name", "There is a niche named “%s” already.", n.Name)
	} else if !errors.Is(err, ErrNotFound) {
		return n, err
	}
	return n, s.store.CreateNiche(ctx, &n)
}

// ChangeNiche keeps what the user changed of a niche and computes anew what hangs
// on it, from the evidence at hand.
func (s *Study) ChangeNiche(ctx context.Context, n store.Niche) (store.Niche, error) {
	n, err := s.CheckNiche(n)
	if err != nil {
		return n, err
	}
	if other, err := s.store.NicheNamed(ctx, n.Name); err == nil && other.ID != n.ID {
		return n, badInput("name", "There is a niche named “%s” already.", n.Name)
	}
	if err := s.store.SaveNiche(ctx, n); err != nil {
		return n, err
	}
	return n, s.rejudge(ctx, n)
}

// Renew reckons anew what was judged with another calibration than the present one,
// in every niche, from the evidence at hand.
func (s *Study) Renew(ctx context.Context) error {
	niches, err := s.store.Niches(ctx)
	if err != nil {
		return err
	}
	for _, n := range niches {
		if n.Calibration == difficulty.Calibrated.Name {
			continue
		}
		if err := s.rejudge(ctx, n); err != nil {
			return fmt.Errorf("reckoning the niche %s anew: %w", n.Name, err)
		}
		n.Calibration = difficulty.Calibrated.Name
		if err := s.store.SaveNiche(ctx, n); err != nil {
			return err
		}
		s.options.Log.Info("reckoned anew", "niche", n.Name, "calibration", n.Calibration)
	}
	return nil
}

// Niche returns one niche.
func (s *Study) Niche(ctx context.Context, id uint) (store.Niche, error) {
	return s.store.Niche(ctx, id)
}

// NicheNamed returns the niche of that name.
func (s *Study) NicheNamed(ctx context.Context, name string) (store.Niche, error) {
	return s.store.NicheNamed(ctx, name)
}

// Niches lists the niches, the one opened last first.
func (s *Study) Niches(ctx context.Context) ([]store.Niche, error) { return s.store.Niches(ctx) }

// OpenNiche remembers that a niche is being worked on.
func (s *Study) OpenNiche(ctx context.Context, id uint) error { return s.store.TouchNiche(ctx, id) }

// Seeds lists a niche's seeds.
func (s *Study) Seeds(ctx context.Context, niche uint) ([]store.Seed, error) {
	return s.store.Seeds(ctx, niche)
}

func localeOf(n store.Niche) market.Locale {
	return market.Locale{Country: n.Country, Language: n.Language}
}
