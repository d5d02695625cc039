package thecase

import (
	"context"
	"fmt"
	"maps"
	"math"
	"slices"
	"sync"
	"time"

	"cleverniche/core/demand"
	"cleverniche/core/intent"
	"cleverniche/core/niche"
	"cleverniche/core/plan"
	"cleverniche/core/serp"
	"cleverniche/core/sieve"
	"cleverniche/core/worth"
	"cleverniche/study/ideas"
	"cleverniche/study/niches"
	"cleverniche/study/topics"
)

// counted is what was counted of a niche, at a revision.
type counted struct {
	key    string
	niche  niche.Niche
	pieces []niche.Piece
	lead   []uint // of each topic
	within niche.Range
	told   bool
	earned *earned
	gain   float64 // points of standing that such sites gain in two years; 0 not known
	dated  int     // sites that tell it, or too few
}

// earned are earnings that were reckoned, by what was assumed: moving a bar does not change them.
type earned struct {
	mu sync.Mutex
	of map[niche.Assumed]niche.Earnings
}

// mostEarned is for how many assumptions they are held.
const mostEarned = 16

func (c counted) earn(a niche.Assumed) (out niche.Earnings, err error) {
	c.earned.mu.Lock()
	defer c.earned.mu.Unlock()
	if held, is := c.earned.of[a]; is {
		return held, nil
	}
	if out, err = niche.Earn(c.pieces, a); err != nil {
		return out, err
	}
	if len(c.earned.of) >= mostEarned {
		clear(c.earned.of)
	}
	c.earned.of[a] = out
	return out, nil
}

// mostHeld is of how many niches that is held.
const mostHeld = 8

// spread is how far what a visit brings is taken to lie around what was said (ours): between half and half as much
// again.
const spread = 0.5

// perVisit is what a visit brings of somebody who wants something.
func perVisit(n niches.Niche, want intent.Class) worth.Range {
	x := float64(n.VisitMicros) / 1e6
	switch {
	case n.Earning != nil:
		x = n.Earning.For(want).PerVisit().Likely
	case n.VisitMicros == 0:
		x = niches.UsualEarning.For(want).PerVisit().Likely
	}
	return worth.Range{Low: x * (1 - spread), Likely: x, High: x * (1 + spread)}
}

// count counts what is known of a niche, or returns what was counted before when nothing has changed.
func (s *Examiner) count(ctx context.Context, n niches.Niche, set Settings) (counted, error) {
	n.Scope = niches.ScopeAll
	b, err := s.ideas.Table(ctx, n)
	if err != nil {
		return counted{}, err
	}
	t, err := s.topics.Of(ctx, n)
	if err != nil {
		return counted{}, err
	}
	seen, err := s.rivals.Seen(ctx, n)
	if err != nil {
		return counted{}, err
	}
	key := fmt.Sprint(b.Revision, t.Revision, n, set.Drawn, seen)
	s.mu.Lock()
	held, is := s.held[n.ID]
	s.mu.Unlock()
	if is && held.key == key {
		return held, nil
	}
	out, err := s.counting(ctx, n, t, b.Revision, set)
	if err != nil {
		return out, err
	}
	out.key = key
	s.mu.Lock()
	defer s.mu.Unlock()
	if len(s.held) >= mostHeld {
		clear(s.held)
	}
	s.held[n.ID] = out
	return out, nil
}

func (s *Examiner) counting(ctx context.Context, n niches.Niche, t *topics.Topics, revision int64,
	set Settings) (out counted, err error) {
	standers, err := s.results.InTheWay(ctx, n, revision)
	if err != nil {
		return out, err
	}
	tens := map[uint][]niche.Result{}
	for _, st := range standers {
		for _, at := range st.Stands {
			tens[at.Idea] = append(tens[at.Idea], niche.Result{Site: st.Site, Foothold: at.Foothold})
		}
	}
	drawn := map[uint]bool{}
	for _, id := range set.Drawn {
		drawn[id] = true
	}
	var ids []uint // what stands for each topic: its likeliest wording that was looked up, or its lead
	for _, one := range t.List {
		id := one.ID
		if best, _, ok := t.Likeliest(one); ok {
			id = best.ID
		}
		ids = append(ids, id)
	}
	rows, err := s.ideas.Ideas(ctx, n.ID, ids)
	if err != nil {
		return out, err
	}
	byID := make(map[uint]ideas.Idea, len(rows))
	for _, r := range rows {
		byID[r.ID] = r
	}
	small, err := s.small(ctx, n, revision)
	if err != nil {
		return out, err
	}
	var open []niche.Piece
	pieceIdeas := map[string]uint{}
	var drawnOnes []*niche.Piece
	var openIn, drawnIn []int
	out.niche = niche.Niche{Name: n.Name, Ideas: t.Ideas + t.Left}
	for _, site := range small {
		out.niche.Sites = append(out.niche.Sites, site.Site)
	}
	for i, one := range t.List {
		row := byID[ids[i]]
		if row.Off() {
			out.niche.Ideas -= len(one.Ideas)
			continue
		}
		x := niche.Topic{Lead: one.Lead(), Ideas: len(one.Ideas), Searches: one.Searches,
			Lasting: lastingOf(row), CPC: cpcOf(row, n),
			Judged: row.LookedUp(), Results: tens[row.ID]}
		for _, idea := range one.Ideas {
			x.Drawn = x.Drawn || drawn[idea.ID]
		}
		if row.Row.Steadiness != nil {
			x.Steadiness = &serp.Steadiness{Known: row.Row.Weeks > 1, Steady: *row.Row.Steadiness >= serp.SteadyFrom}
		}
		if x.Judged {
			x.Difficulty, x.Reach, x.Locked = row.Row.Difficulty, row.Row.Reach, row.Locked()
			x.Footholds = row.Row.Footholds
			x.Sells = wantOf(row) == intent.Compare || wantOf(row) == intent.Buy
		}
		out.niche.Topics, out.lead = append(out.niche.Topics, x), append(out.lead, one.ID)
		p, is := pieceOf(n, one, row)
		if is {
			out.pieces = append(out.pieces, p)
			pieceIdeas[p.Lead] = row.ID
		}
		switch {
		case !x.Judged:
			open, openIn = append(open, niche.Piece{Lead: x.Lead, Searches: x.Searches, Season: seasonOf(row)}),
				append(openIn, x.Stratum())
		case x.Drawn && is:
			drawnOnes, drawnIn = append(drawnOnes, &p), append(drawnIn, x.Stratum())
		case x.Drawn:
			drawnOnes, drawnIn = append(drawnOnes, nil), append(drawnIn, x.Stratum())
		}
	}
	out.within, out.told = niche.Whole(out.niche.Topics, func(t niche.Topic) bool {
		return !t.Locked && math.Round(t.Difficulty) <= math.Round(t.Reach)
	}, func(niche.Topic) float64 { return 1 })
	if err := s.grow(ctx, n, &out, pieceIdeas, drawnOnes); err != nil {
		return out, err
	}
	if out.told {
		out.pieces = append(out.pieces, niche.Suppose(open, openIn, drawnOnes, drawnIn)...)
	}
	slices.SortStableFunc(out.pieces, func(a, b niche.Piece) int {
		x, y := hourOf(a), hourOf(b)
		switch {
		case x > y:
			return -1
		case x < y:
			return 1
		}
		return 0
	})
	out.earned = &earned{of: map[niche.Assumed]niche.Earnings{}}
	return out, nil
}

// grow says what chances the pieces, and those that were drawn, have once my site has gained what such sites gain.
func (s *Examiner) grow(ctx context.Context, n niches.Niche, out *counted, ideas map[string]uint,
	drawn []*niche.Piece) error {
	if out.gain, out.dated = niche.Grows(out.niche.Sites); out.gain <= 0 || len(ideas) == 0 {
		return nil
	}
	own, _ := s.asker.KnownStanding(ctx, n.OwnSite)
	later, err := s.results.AtStanding(ctx, n, slices.Sorted(maps.Values(ideas)), min(100, own+out.gain))
	if err != nil {
		return err
	}
	grown := func(p *niche.Piece) {
		if c, is := later[ideas[p.Lead]]; is {
			p.Later = &niche.Chances{PageOne: max(p.PageOne, c.PageOne), TopFive: max(p.TopFive, min(c.TopFive, c.PageOne)),
				Clicks: max(p.Clicks, c.Clicks)}
		}
	}
	for i := range out.pieces {
		grown(&out.pieces[i])
	}
	for _, p := range drawn {
		if p != nil {
			grown(p)
		}
	}
	return nil
}

// hourOf is what an article brings a month for an hour of writing.
func hourOf(p niche.Piece) float64 { return p.Searches * p.Clicks * p.PerVisit.Likely / p.Hours }

func lastingOf(i ideas.Idea) demand.Lasting { return demand.Lasting(i.Row.Lasting) }

// cpcOf is what a click costs, −1 where it is not known in the niche's currency.
func cpcOf(i ideas.Idea, n niches.Niche) worth.Micros {
	if micros, ok := i.CPCMicros(); ok && i.Currency() == n.Currency {
		return worth.Micros(micros)
	}
	return -1
}

// wantOf is what who searches for an idea wants.
func wantOf(i ideas.Idea) intent.Class {
	for _, w := range intent.All {
		if i.Value(sieve.Intent).Known && sieve.Intent.NameOf(i.Value(sieve.Intent)) == w.String() {
			return w
		}
	}
	return intent.Learn
}

// pieceOf is a topic as something to write; is is false where it is not looked up, locked, out already, or nobody knows
// how often it is searched.
func pieceOf(n niches.Niche, one topics.Topic, row ideas.Idea) (p niche.Piece, is bool) {
	if !row.LookedUp() || row.Locked() || one.Searches < 0 || one.State() == plan.Published || row.Row.ClickShare < 0 {
		return p, false
	}
	kind := serp.PageType(row.Row.Article)
	if kind == "" {
		kind = serp.Article
	}
	hours := one.Decided.Hours
	if hours == 0 {
		hours = n.HoursOf(kind)
	}
	p = niche.Piece{Lead: one.Lead(), Searches: one.Searches, PageOne: row.Row.PageOne,
		TopFive: min(row.Row.TopFive, row.Row.PageOne), Clicks: row.Row.ClickShare, PerVisit: perVisit(n, wantOf(row)),
		Hours: float64(hours)}
	p.Season = seasonOf(row)
	return p, hours > 0
}

// seasonOf is the year of an idea; all zero where that is not known.
func seasonOf(row ideas.Idea) [12]float64 {
	if season := demand.SeasonOf(row.Series()); season.Known {
		return season.Index
	}
	return [12]float64{}
}

// rests tells on how little the first pieces rest.
func (c counted) rests(pieces int) (out Rests) {
	var list []niche.Piece
	for _, p := range c.pieces[:min(pieces, len(c.pieces))] {
		if !p.Supposed {
			list = append(list, p)
		}
	}
	all := 0.0
	var months [12]float64
	for _, p := range list {
		x := p.Searches * p.Clicks
		all += x
		if x > out.PhraseShare {
			out.PhraseShare, out.Phrase = x, p.Lead
		}
		for m := range months {
			if f := p.Season[m]; p.Season != [12]float64{} {
				months[m] += x * f / 12
			} else {
				months[m] += x / 12
			}
		}
	}
	if all == 0 {
		return Rests{}
	}
	out.PhraseShare /= all
	for m := range months {
		if x := (months[m] + months[(m+1)%12] + months[(m+2)%12]) / all; x > out.SeasonShare {
			out.SeasonShare = x
			out.Season = fmt.Sprintf("%s to %s", time.Month(m+1), time.Month((m+2)%12+1))
		}
	}
	ten := map[string]map[string]bool{}
	for _, t := range c.niche.Topics {
		ten[t.Lead] = map[string]bool{}
		for _, r := range t.Results {
			ten[t.Lead][r.Site] = true
		}
	}
	by := map[string]float64{}
	for _, p := range list {
		for site := range ten[p.Lead] {
			by[site] += p.Searches * p.Clicks / all
		}
	}
	for site, x := range by {
		if x > out.RivalShare || x == out.RivalShare && site < out.Rival {
			out.Rival, out.RivalShare = site, x
		}
	}
	return out
}
