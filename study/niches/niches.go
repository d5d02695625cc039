package niches

import (
	"context"
	"errors"
	"slices"
	"strconv"
	"strings"
	"time"

	"cleverniche/core/difficulty"
	"cleverniche/core/links"
	"cleverniche/core/naming"
	"cleverniche/core/phrase"
	"cleverniche/market"
	"cleverniche/market/files"
	"cleverniche/store"
	"cleverniche/study/ask"
	"cleverniche/study/input"
	"cleverniche/study/money"
	"cleverniche/study/places"

	"golang.org/x/text/currency"
	"golang.org/x/text/language"
)

// Niche is the workspace: one subject, one country and language, one own site.
type Niche struct {
	ID           uint
	Name         string
	Country      string // ISO 3166-1 alpha-2
	Language     string // ISO 639-1
	Currency     string // ISO 4217
	OwnSite      string // registrable domain; may be empty
	PlannedLinks int    // solid links planned to a new page
	LinkStanding float64
	Fit          float64 // of a well-made page
	UsualSieve   uint    // that its list begins with; 0 is none
	Endings      string  // of names to ask for, separated by blanks
	Unwanted     string  // words and phrases that no gathered idea may hold, between commas
	Columns      []Column
	TenColumns   []string // of the top ten of an idea; none are the usual ones
	Depth        int      // results looked up; 0 as the settings say
	Elsewhere    Elsewhere
	VisitMicros  int64    // what a visit brings, in millionths of the currency; 0 is not said
	Earning      *Earning // how visits become money; nil is not said

	WeekHours int            // for writing, a week; 0 is not said
	KindHours map[string]int // hours that an article takes, by kind; those that are not there have the usual ones
	LeadDays  int            // from publishing to the place
	WeekStart time.Weekday
	Scope     Scope // which ideas are grouped
	Shared    int   // pages that two ideas share at least to be one article

	ListOf      uint   // it is a list that is checked, apart from this niche; 0 none
	Archived    bool   // out of sight
	Calibration string // name of the model that its ideas were judged with
}

// formerlyWellMade are what was taken for the fit of a well-made page by calibrations of
// the past, unless the user said otherwise.
var formerlyWellMade = []float64{85}

// FromRow reads a niche.
func FromRow(n store.Niche) Niche {
	if n.Calibration != CalibrationName && slices.Contains(formerlyWellMade, n.Fit) {
		n.Fit = difficulty.WellMade
	}
	return Niche{ID: n.ID, Name: n.Name, Country: n.Country, Language: n.Language, Currency: n.Currency,
		OwnSite: n.OwnSite, PlannedLinks: n.PlannedLinks, LinkStanding: n.LinkStanding, Fit: n.Fit,
		UsualSieve: n.UsualSieve, Endings: n.Endings, Unwanted: n.Unwanted, Columns: readColumns(n.Columns),
		TenColumns: strings.Fields(n.TenColumns), Depth: n.Depth, Elsewhere: readElsewhere(n.Elsewhere),
		VisitMicros: n.VisitMicros, Earning: readEarning(n.Earning),
		WeekHours: n.WeekHours, KindHours: readHours(n.KindHours), LeadDays: n.LeadDays,
		WeekStart: time.Weekday(n.WeekStart), Scope: Scope(n.Scope), Shared: n.Shared,
		Calibration: n.Calibration, ListOf: n.ListOf, Archived: n.ArchivedAt != nil}
}

// Row is a niche as it is kept.
func (n Niche) Row() store.Niche {
	return store.Niche{ID: n.ID, Name: n.Name, Country: n.Country, Language: n.Language, Currency: n.Currency,
		OwnSite: n.OwnSite, PlannedLinks: n.PlannedLinks, LinkStanding: n.LinkStanding, Fit: n.Fit,
		Endings: n.Endings, Unwanted: n.Unwanted, VisitMicros: n.VisitMicros, Earning: n.Earning.write(),
		Depth: n.Depth, Elsewhere: n.Elsewhere.write(),
		WeekHours: n.WeekHours, KindHours: writeHours(n.KindHours),
		LeadDays: n.LeadDays, WeekStart: int(n.WeekStart), Scope: string(n.Scope), Shared: n.Shared,
		Calibration: n.Calibration, ListOf: n.ListOf}
}

// MostUnwanted is how many words a niche may not want, and how long they may be in all.
const (
	MostUnwanted      = 200
	MostUnwantedBytes = 2000
)

// UnwantedWords are the words and phrases that no gathered idea may hold, in normal form.
func (n Niche) UnwantedWords() (out []string) {
	for _, part := range strings.FieldsFunc(n.Unwanted, func(r rune) bool { return r == ',' || r == '\n' || r == ';' }) {
		if word := phrase.Normal(part); word != "" && !slices.Contains(out, word) {
			out = append(out, word)
		}
	}
	return out
}

// Locale is where and in what language is searched.
func (n Niche) Locale() market.Locale { return market.Locale{Country: n.Country, Language: n.Language} }

// DefaultEndings are tried for names until the user says otherwise; MostEndings is how many
// may be.
const (
	DefaultEndings = "com net org"
	MostEndings    = 6
)

// MostVisit is the most that a visit brings, in millionths of a currency.
const MostVisit = 1000 * 1_000_000

// MostName is the longest name of a niche, and MostDomain that of a domain (RFC 1035).
const (
	MostName   = 80
	MostDomain = 253
)

// Check reads what a user says of a niche, fills in defaults, and returns it
// as it would be kept, or an *input.Error.
func (s *Keeper) Check(n Niche) (Niche, error) {
	n.Name = strings.Join(strings.Fields(n.Name), " ")
	if n.Name == "" {
		return n, input.Bad("name", "Give the niche a name.")
	}
	if len([]rune(n.Name)) > MostName {
		return n, input.Bad("name", "The name is longer than %d characters.", MostName)
	}
	country, spoken := places.Countries().Code(n.Country), places.Languages().Code(n.Language)
	if country == "" {
		return n, input.Bad("country", "“%s” is not a country. Try United States or US.", n.Country)
	}
	if spoken == "" {
		return n, input.Bad("language", "“%s” is not a language. Try English or en.", n.Language)
	}
	n.Country, n.Language = country, spoken
	if n.Currency == "" {
		n.Currency = "USD"
		if unit, ok := currency.FromRegion(language.MustParseRegion(country)); ok {
			n.Currency = unit.String()
		}
	}
	var err error
	if n.OwnSite, err = s.ownSite(n.OwnSite); err != nil {
		return n, err
	}
	if strings.TrimSpace(n.Endings) == "" {
		n.Endings = DefaultEndings
	}
	endings, bad := naming.Endings(n.Endings)
	switch {
	case len(bad) > 0:
		return n, input.Bad("endings", "“%s” is not a domain ending. Try com or org.", input.Clip(bad[0], 40))
	case len(endings) > MostEndings:
		return n, input.Bad("endings", "At most %d endings.", MostEndings)
	}
	n.Endings = strings.Join(endings, " ")
	if words := n.UnwantedWords(); len(words) > MostUnwanted {
		return n, input.Bad("unwanted", "At most %d words.", MostUnwanted)
	} else if n.Unwanted = strings.Join(words, ", "); len(n.Unwanted) > MostUnwantedBytes {
		return n, input.Bad("unwanted", "These are too many words: at most %d characters.", MostUnwantedBytes)
	}
	if n.VisitMicros < 0 || n.VisitMicros > MostVisit {
		return n, input.Bad("visit", "Income per visit is 0 to %s.", money.Text(MostVisit, n.Currency))
	}
	if err := n.Earning.check(); err != nil {
		return n, err
	}
	if n.Depth != 0 && !slices.Contains(ask.Depths, n.Depth) {
		return n, input.Bad("depth", "Look up 10, 20 or 100 results.")
	}
	if err := n.Elsewhere.check(&n); err != nil {
		return n, err
	}
	if n.Fit == 0 {
		n.Fit = difficulty.WellMade
	}
	if err := n.CheckPlan(); err != nil {
		return n, err
	}
	if n.LinkStanding == 0 {
		n.LinkStanding = difficulty.PlannedStanding
	}
	switch {
	case n.PlannedLinks < 0 || n.PlannedLinks > difficulty.MostLinks:
		return n, input.Bad("links", "Planned links must be 0 to %d.", difficulty.MostLinks)
	case !(n.Fit >= 1 && n.Fit <= 100):
		return n, input.Bad("fit", "The fit of a well-made page must be 1 to 100.")
	case !(n.LinkStanding >= links.SolidStanding && n.LinkStanding <= 100):
		return n, input.Bad("standing", "A solid link comes from a site of standing %d to 100.", links.SolidStanding)
	}
	return n, nil
}

// Site is the site that a domain or an address is of, or "".
func (s *Keeper) Site(text string) string { return s.suffixes.Named(text) }

// ownSite reads a domain or an address and returns its site.
func (s *Keeper) ownSite(text string) (string, error) {
	text = strings.TrimSpace(text)
	if text == "" {
		return "", nil
	}
	site := s.Site(text)
	if site == "" {
		return "", input.Bad("site", "“%s” is not a site’s domain. Try nightporch.example.", text)
	}
	return site, nil
}

// Free returns an *input.Error when another niche has the name.
func (s *Keeper) Free(ctx context.Context, n Niche) error {
	other, err := s.store.NicheNamed(ctx, n.Name)
	if err == nil && other.ID != n.ID {
		return input.Bad("name", "There is a niche named “%s” already.", n.Name)
	}
	if errors.Is(err, input.ErrNotFound) {
		return nil
	}
	return err
}

// Create checks and keeps a new niche.
func (s *Keeper) Create(ctx context.Context, n Niche) (Niche, error) {
	n, err := s.Check(n)
	if err != nil {
		return n, err
	}
	if err := s.Free(ctx, n); err != nil {
		return n, err
	}
	n.Calibration = CalibrationName
	if n.WeekHours == 0 {
		n.WeekHours, n.WeekStart = usualWeek, time.Monday
	}
	row := n.Row()
	err = s.store.CreateNiche(ctx, &row)
	n.ID = row.ID
	return n, err
}

// ReadVisit reads what a visit brings as people write it: "0.05", "$0.05"; nothing is 0.
func ReadVisit(text, currency string) (micros int64, err error) {
	if strings.TrimSpace(text) == "" {
		return 0, nil
	}
	cost, err := files.ReadAmount(text, currency)
	if err != nil || cost.Currency != currency {
		return 0, input.Bad("visit", "Income per visit is an amount in %s, such as 0.05.", currency)
	}
	return cost.Micros, nil
}

// Visit writes what a visit brings as it is typed; "" when it is not said.
func (n Niche) Visit() string {
	if n.VisitMicros == 0 {
		return ""
	}
	return strconv.FormatFloat(float64(n.VisitMicros)/1e6, 'f', -1, 64)
}

// Get returns one niche.
func (s *Keeper) Get(ctx context.Context, id uint) (Niche, error) {
	n, err := s.store.Niche(ctx, id)
	return FromRow(n), err
}

// Named returns the niche of that name.
func (s *Keeper) Named(ctx context.Context, name string) (Niche, error) {
	n, err := s.store.NicheNamed(ctx, name)
	return FromRow(n), err
}

// All lists the niches, the one opened last first.
func (s *Keeper) All(ctx context.Context) ([]Niche, error) {
	rows, err := s.store.Niches(ctx)
	out := make([]Niche, len(rows))
	for i, n := range rows {
		out[i] = FromRow(n)
	}
	return out, err
}

// Opened remembers that a niche is being worked on.
func (s *Keeper) Opened(ctx context.Context, id uint) error { return s.store.TouchNiche(ctx, id) }

// Seed is a phrase that ideas are grown from.
type Seed struct {
	Phrase string
	Dug    bool // from an idea
}

// Seeds lists a niche's seeds, in the order they were put in.
func (s *Keeper) Seeds(ctx context.Context, niche uint) ([]Seed, error) {
	rows, err := s.store.Seeds(ctx, niche)
	out := make([]Seed, len(rows))
	for i, seed := range rows {
		out[i] = Seed{seed.Phrase, seed.FromIdea != nil}
	}
	return out, err
}
