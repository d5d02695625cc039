package study

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
	"cleverniche/market"
	"cleverniche/store"

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
	Columns      []Column
	VisitMicros  int64 // what a visit brings, in millionths of the currency; 0 is not said

	WeekHours int            // for writing, a week; 0 is not said
	KindHours map[string]int // hours that an article takes, by kind; those that are not there have the usual ones
	LeadDays  int            // from publishing to the place
	WeekStart time.Weekday
	Scope     Scope // which ideas are grouped
	Shared    int   // pages that two ideas share at least to be one article

	calibration string // name of the model that its ideas were judged with
}

// formerlyWellMade are what was taken for the fit of a well-made page by calibrations of
// the past, unless the user said otherwise.
var formerlyWellMade = []float64{85}

func nicheOf(n store.Niche) Niche {
	if n.Calibration != calibrationName && slices.Contains(formerlyWellMade, n.Fit) {
		n.Fit = difficulty.WellMade
	}
	return Niche{ID: n.ID, Name: n.Name, Country: n.Country, Language: n.Language, Currency: n.Currency,
		OwnSite: n.OwnSite, PlannedLinks: n.PlannedLinks, LinkStanding: n.LinkStanding, Fit: n.Fit,
		UsualSieve: n.UsualSieve, Endings: n.Endings, Columns: readColumns(n.Columns), VisitMicros: n.VisitMicros,
		WeekHours: n.WeekHours, KindHours: readHours(n.KindHours), LeadDays: n.LeadDays,
		WeekStart: time.Weekday(n.WeekStart), Scope: Scope(n.Scope), Shared: n.Shared,
		calibration: n.Calibration}
}

func (n Niche) row() store.Niche {
	return store.Niche{ID: n.ID, Name: n.Name, Country: n.Country, Language: n.Language, Currency: n.Currency,
		OwnSite: n.OwnSite, PlannedLinks: n.PlannedLinks, LinkStanding: n.LinkStanding, Fit: n.Fit,
		Endings: n.Endings, VisitMicros: n.VisitMicros, WeekHours: n.WeekHours, KindHours: writeHours(n.KindHours),
		LeadDays: n.LeadDays, WeekStart: int(n.WeekStart), Scope: string(n.Scope), Shared: n.Shared,
		Calibration: n.calibration}
}

func (n Niche) locale() market.Locale { return market.Locale{Country: n.Country, Language: n.Language} }

// DefaultEndings are tried for names until the user says otherwise; MostEndings is how many
// may be.
const (
	DefaultEndings = "com net org"
	MostEndings    = 6
)

// MostVisit is the most that a visit brings, in millionths of a currency.
const MostVisit = 1000 * 1_000_000

// MostNameRunes is the longest name of a niche.
const MostNameRunes = 80

// CheckNiche reads what a user says of a niche, fills in defaults, and returns it
// as it would be kept, or an *InputError.
func (s *Study) CheckNiche(n Niche) (Niche, error) {
	n.Name = strings.Join(strings.Fields(n.Name), " ")
	if n.Name == "" {
		return n, badInput("name", "Give the niche a name.")
	}
	if len([]rune(n.Name)) > MostNameRunes {
		return n, badInput("name", "The name is longer than %d characters.", MostNameRunes)
	}
	country, spoken := Countries().Code(n.Country), Languages().Code(n.Language)
	if country == "" {
		return n, badInput("country", "“%s” is no country, such as United States or US.", n.Country)
	}
	if spoken == "" {
		return n, badInput("language", "“%s” is no language, such as English or en.", n.Language)
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
		return n, badInput("endings", "“%s” is no ending of a name, such as com or org.", clip(bad[0], 40))
	case len(endings) > MostEndings:
		return n, badInput("endings", "No more than %d endings are tried.", MostEndings)
	}
	n.Endings = strings.Join(endings, " ")
	if n.VisitMicros < 0 || n.VisitMicros > MostVisit {
		return n, badInput("visit", "What a visit brings is 0 to %s.", Money(MostVisit, n.Currency))
	}
	if n.Fit == 0 {
		n.Fit = difficulty.WellMade
	}
	if err := n.checkPlan(); err != nil {
		return n, err
	}
	if n.LinkStanding == 0 {
		n.LinkStanding = difficulty.PlannedStanding
	}
	switch {
	case n.PlannedLinks < 0 || n.PlannedLinks > difficulty.MostLinks:
		return n, badInput("links", "Planned links must be 0 to %d.", difficulty.MostLinks)
	case !(n.Fit >= 1 && n.Fit <= 100):
		return n, badInput("fit", "The fit of a well-made page must be 1 to 100.")
	case !(n.LinkStanding >= links.SolidStanding && n.LinkStanding <= 100):
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
	site := s.suffixes.Site(host)
	if site == "" || links.IsAddress(site) || strings.ContainsAny(site, " \t<>\"") || !strings.Contains(site, ".") {
		return "", badInput("site", "“%s” is no domain of a site, such as nightporch.example.", text)
	}
	return site, nil
}

// free returns an *InputError when another niche has the name.
func (s *Study) free(ctx context.Context, n Niche) error {
	other, err := s.store.NicheNamed(ctx, n.Name)
	if err == nil && other.ID != n.ID {
		return badInput("name", "There is a niche named “%s” already.", n.Name)
	}
	if errors.Is(err, ErrNotFound) {
		return nil
	}
	return err
}

// CreateNiche checks and keeps a new niche.
func (s *Study) CreateNiche(ctx context.Context, n Niche) (Niche, error) {
	n, err := s.CheckNiche(n)
	if err != nil {
		return n, err
	}
	if err := s.free(ctx, n); err != nil {
		return n, err
	}
	n.calibration = calibrationName
	if n.WeekHours == 0 {
		n.WeekHours, n.WeekStart = usualWeek, time.Monday
	}
	row := n.row()
	err = s.store.CreateNiche(ctx, &row)
	n.ID = row.ID
	return n, err
}

// ChangeNiche keeps what the user changed of a niche. What hangs on it is reckoned anew
// from the evidence at hand by a job, which is returned; nil when nothing does.
func (s *Study) ChangeNiche(ctx context.Context, n Niche) (Niche, *Job, error) {
	n, err := s.CheckNiche(n)
	if err != nil {
		return n, nil, err
	}
	if err := s.free(ctx, n); err != nil {
		return n, nil, err
	}
	if err := s.store.SaveNiche(ctx, n.row()); err != nil {
		return n, nil, err
	}
	// Where the calibration is still to be reckoned with, all of that is begun again.
	job, err := s.reckonAnew(ctx, n, n.calibration != calibrationName)
	return n, job, err
}

// ReadVisit reads what a visit brings as people write it: "0.05", "$0.05"; nothing is 0.
func ReadVisit(text, currency string) (micros int64, err error) {
	if strings.TrimSpace(text) == "" {
		return 0, nil
	}
	cost, err := market.ReadCost(text, currency)
	if err != nil || cost.Currency != currency {
		return 0, badInput("visit", "What a visit brings must be an amount in %s, such as 0.05.", currency)
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

// Niche returns one niche.
func (s *Study) Niche(ctx context.Context, id uint) (Niche, error) {
	n, err := s.store.Niche(ctx, id)
	return nicheOf(n), err
}

// NicheNamed returns the niche of that name.
func (s *Study) NicheNamed(ctx context.Context, name string) (Niche, error) {
	n, err := s.store.NicheNamed(ctx, name)
	return nicheOf(n), err
}

// Niches lists the niches, the one opened last first.
func (s *Study) Niches(ctx context.Context) ([]Niche, error) {
	rows, err := s.store.Niches(ctx)
	out := make([]Niche, len(rows))
	for i, n := range rows {
		out[i] = nicheOf(n)
	}
	return out, err
}

// OpenNiche remembers that a niche is being worked on.
func (s *Study) OpenNiche(ctx context.Context, id uint) error { return s.store.TouchNiche(ctx, id) }

// Seed is a phrase that ideas are grown from.
type Seed struct {
	Phrase string
	Dug    bool // from an idea
}

// Seeds lists a niche's seeds, in the order they were put in.
func (s *Study) Seeds(ctx context.Context, niche uint) ([]Seed, error) {
	rows, err := s.store.Seeds(ctx, niche)
	out := make([]Seed, len(rows))
	for i, seed := range rows {
		out[i] = Seed{seed.Phrase, seed.FromIdea != nil}
	}
	return out, err
}
