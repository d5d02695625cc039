package rivals

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"sync"
	"time"

	"cleverniche/core/phrase"
	"cleverniche/market"
	"cleverniche/store"
	"cleverniche/study/ask"
	"cleverniche/study/ideas"
	"cleverniche/study/input"
	"cleverniche/study/niches"
)

// Details is what a service knows of a site beside its phrases, as far as it was asked.
type Details struct {
	Pages     ask.Asked[market.TopPages]
	Months    ask.Asked[market.SiteMonths]
	Countries ask.Asked[market.SiteCountries]
	Ads       ask.Asked[market.Advertised]
	Known     map[ask.Part]bool
	Cost      string // of asking for what is not known, or for all again; "" where nobody can be asked
}

// Told reports whether something of it is known.
func (d Details) Told() bool {
	return slices.ContainsFunc(siteParts, func(p ask.Part) bool { return d.Known[p] })
}

// Has reports whether a part is known, by its name.
func (d Details) Has(part string) bool { return d.Known[ask.Part(part)] }

// Said is who said something, and of which day that is.
type Said struct {
	Source string
	AsOf   time.Time
}

// Sources are those who said what is known, each once.
func (d Details) Sources() (out []Said) {
	for p, one := range map[ask.Part]Said{
		ask.TopPages:   {d.Pages.Source, dayOf(d.Pages.Value.AsOf, d.Pages.At)},
		ask.SiteMonths: {d.Months.Source, dayOf(d.Months.Value.AsOf, d.Months.At)},
		ask.Countries:  {d.Countries.Source, dayOf(d.Countries.Value.AsOf, d.Countries.At)},
		ask.Advertised: {d.Ads.Source, dayOf(d.Ads.Value.AsOf, d.Ads.At)},
	} {
		if d.Known[p] && !slices.ContainsFunc(out, func(s Said) bool { return s.Source == one.Source }) {
			out = append(out, one)
		}
	}
	slices.SortFunc(out, func(a, b Said) int { return strings.Compare(a.Source, b.Source) })
	return out
}

// dayOf is the first moment, or the second where nobody said one.
func dayOf(asOf, at time.Time) time.Time {
	if asOf.IsZero() {
		return at
	}
	return asOf
}

// siteParts are the parts that one page on a site shows.
var siteParts = []ask.Part{ask.TopPages, ask.SiteMonths, ask.Countries, ask.Advertised}

// Details tells what is known; nobody is asked.
func (s *Scout) Details(ctx context.Context, n niches.Niche, name string) (d Details, err error) {
	of, in := site(name), n.Locale()
	d.Known = map[ask.Part]bool{}
	note := func(p ask.Part, ok bool, e error) {
		if d.Known[p] = ok; err == nil {
			err = e
		}
	}
	var ok bool
	var e error
	d.Pages, ok, e = ask.PartAtHand[market.TopPages](ctx, s.asker, ask.TopPages, of, in)
	note(ask.TopPages, ok, e)
	d.Months, ok, e = ask.PartAtHand[market.SiteMonths](ctx, s.asker, ask.SiteMonths, of, in)
	note(ask.SiteMonths, ok, e)
	d.Countries, ok, e = ask.PartAtHand[market.SiteCountries](ctx, s.asker, ask.Countries, of, in)
	note(ask.Countries, ok, e)
	d.Ads, ok, e = ask.PartAtHand[market.Advertised](ctx, s.asker, ask.Advertised, of, in)
	note(ask.Advertised, ok, e)
	open, all := 0, 0
	for _, p := range siteParts {
		if s.asker.Knows(p) {
			if all++; !d.Known[p] {
				open++
			}
		}
	}
	if open == 0 { // to be asked again; what is fresh is not
		open = all
	}
	if open > 0 {
		d.Cost = s.asker.Money(int64(open) * s.asker.Price(ask.Rankings))
	}
	return d, err
}

// AskDetails asks for the parts that are not fresh.
func (s *Scout) AskDetails(ctx context.Context, n niches.Niche, text string) error {
	name, err := s.SiteOf(text)
	if err != nil {
		return err
	}
	of, in := site(name), n.Locale()
	put := map[ask.Part]func() error{
		ask.TopPages:   func() error { _, err := s.asker.TopPages(ctx, of, in); return err },
		ask.SiteMonths: func() error { _, err := s.asker.SiteMonths(ctx, of, in); return err },
		ask.Countries:  func() error { _, err := s.asker.Countries(ctx, of, in); return err },
		ask.Advertised: func() error { _, err := s.asker.Advertised(ctx, of, in); return err },
	}
	for _, p := range siteParts {
		if !s.asker.Knows(p) {
			continue
		}
		if err := put[p](); err != nil {
			return err
		}
	}
	return nil
}

// Ranked is a phrase of a rival with what I know of it.
type Ranked struct {
	store.KnownRank
	Row     ideas.Idea // where it is one
	Subject string     // what is left of it without the words that it begins or ends with
}

// LookedUp reports whether it is an idea that was looked up.
func (r Ranked) LookedUp() bool { return r.Idea != 0 && r.Row.LookedUp() }

// Ranks are phrases of a rival that are let through, and how many these are in all.
func (s *Scout) Ranks(ctx context.Context, n niches.Niche, r store.Rival, f store.Ranked) (out []Ranked, total int,
	err error) {
	if r.ID == 0 {
		return nil, 0, nil
	}
	f = tidied(f)
	list, total, err := s.store.Ranks(ctx, r, f)
	if err != nil {
		return nil, 0, err
	}
	var ids []uint
	for _, one := range list {
		if one.Idea != 0 {
			ids = append(ids, one.Idea)
		}
	}
	rows, err := s.known(ctx, n, ids)
	if err != nil {
		return nil, 0, err
	}
	for _, one := range list {
		subject := strings.TrimSuffix(strings.TrimPrefix(one.Phrase+" ", f.Starts+" "), " ")
		if f.Ends != "" {
			subject = strings.TrimSpace(strings.TrimSuffix(subject, f.Ends))
		}
		if subject == one.Phrase {
			subject = ""
		}
		out = append(out, Ranked{one, rows[one.Idea], subject})
	}
	return out, total, nil
}

// known are ideas by their IDs.
func (s *Scout) known(ctx context.Context, n niches.Niche, ids []uint) (map[uint]ideas.Idea, error) {
	rows, err := s.ideas.Ideas(ctx, n.ID, ids)
	out := make(map[uint]ideas.Idea, len(rows))
	for _, row := range rows {
		out[row.ID] = row
	}
	return out, err
}

// tidied puts what is typed into the form in which phrases are kept.
func tidied(f store.Ranked) store.Ranked {
	words := func(list []string) (out []string) {
		for _, w := range list {
			out = append(out, strings.Fields(phrase.Normal(w))...)
		}
		return out
	}
	f.Contains, f.Lacks = words(f.Contains), words(f.Lacks)
	f.Starts, f.Ends = phrase.Normal(f.Starts), phrase.Normal(f.Ends)
	return f
}

// parted holds the sections of rivals, as they were when these were asked.
type parted struct {
	mu sync.Mutex
	of map[string]partedAt
}

type partedAt struct {
	at       time.Time
	revision int64
	list     []store.Section
}

// mostParted is of how many they are held.
const mostParted = 50

// Sections are the parts of a rival's site, or of one of its parts; reach is the difficulty up to which phrases are
// within reach.
func (s *Scout) Sections(ctx context.Context, r store.Rival, revision int64, within string,
	reach float64) ([]store.Section, error) {
	if r.ID == 0 {
		return nil, nil
	}
	key := fmt.Sprintf("%d\x00%s\x00%g", r.ID, within, reach)
	s.parted.mu.Lock()
	held, is := s.parted.of[key]
	s.parted.mu.Unlock()
	if is && held.at.Equal(r.AskedAt) && held.revision == revision {
		return held.list, nil
	}
	list, err := s.store.Sections(ctx, r, within, reach)
	if err != nil {
		return nil, err
	}
	s.parted.mu.Lock()
	defer s.parted.mu.Unlock()
	if s.parted.of == nil || len(s.parted.of) >= mostParted {
		s.parted.of = map[string]partedAt{}
	}
	s.parted.of[key] = partedAt{r.AskedAt, revision, list}
	return list, nil
}

// Forget takes out what is known of a site's places.
func (s *Scout) Forget(ctx context.Context, n niches.Niche, text string) error {
	name, err := s.SiteOf(text)
	if err != nil {
		return err
	}
	return s.store.ForgetRanks(ctx, n.ID, name)
}

// Pick names a phrase of an opening, and the rival that stands highest for it.
func (o Opening) Pick() string { return o.Site + "|" + o.Phrase }

// TakeOpenings makes ideas of openings that were picked. It returns how many are new.
func (s *Scout) TakeOpenings(ctx context.Context, n niches.Niche, picks []string) (added int, err error) {
	if len(picks) == 0 {
		return 0, input.Bad("phrases", "Tick at least one phrase.")
	}
	rows, err := s.store.Rivals(ctx, n.ID)
	if err != nil {
		return 0, err
	}
	of := map[string][]string{}
	for _, pick := range picks {
		name, text, _ := strings.Cut(pick, "|")
		of[name] = append(of[name], text)
	}
	for _, r := range rows {
		if list := of[r.Site]; len(list) > 0 {
			k, err := s.Take(ctx, n, r.Site, list)
			if err != nil {
				return added, err
			}
			added += k
		}
	}
	return added, nil
}

// Opening is a phrase for which rivals rank and my site does not, or far below.
type Opening struct {
	store.Gap
	Site string // of the rival that stands highest
	Row  ideas.Idea
}

// LookedUp reports whether it is an idea that was looked up.
func (o Opening) LookedUp() bool { return o.Gap.Idea != 0 && o.Row.LookedUp() }

// Openings are those of the rivals that are followed and whose places are known.
type Openings struct {
	List               []Opening
	Total              int
	Rivals             []store.Rival // that they are counted over
	Mine               store.Rival   // my own site's places
	Theirs, Both, Only int           // phrases: only theirs, both, only mine
}

// farBelow is how many places below the best of theirs my own place is an opening, too (ours: a page).
const farBelow = 10

// Openings lists them.
func (s *Scout) Openings(ctx context.Context, n niches.Niche, least int, f store.Ranked) (out Openings, err error) {
	rows, err := s.store.Rivals(ctx, n.ID)
	if err != nil {
		return out, err
	}
	var ids []uint
	names := map[uint]string{}
	for _, r := range rows {
		switch {
		case r.Site == n.OwnSite && n.OwnSite != "":
			out.Mine = r
		case r.Followed && !r.AskedAt.IsZero():
			out.Rivals, names[r.ID] = append(out.Rivals, r), r.Site
			ids = append(ids, r.ID)
		}
	}
	if len(ids) == 0 {
		return out, nil
	}
	list, total, err := s.store.Gaps(ctx, n.ID, ids, out.Mine.ID, max(1, least), farBelow, tidied(f))
	if err != nil {
		return out, err
	}
	var known []uint
	for _, g := range list {
		if g.Idea != 0 {
			known = append(known, g.Idea)
		}
	}
	ideas, err := s.known(ctx, n, known)
	if err != nil {
		return out, err
	}
	for _, g := range list {
		out.List = append(out.List, Opening{g, names[g.Rival], ideas[g.Idea]})
	}
	out.Total = total
	out.Theirs, out.Both, out.Only, err = s.store.Shares(ctx, n.ID, ids, out.Mine.ID)
	return out, err
}
