package topics

import (
	"context"
	"fmt"
	"slices"
	"strconv"
	"sync"
	"sync/atomic"
	"time"

	"cleverniche/core/phrase"
	"cleverniche/core/plan"
	"cleverniche/core/sieve"
	"cleverniche/core/topic"
	"cleverniche/ideatable"
	"cleverniche/store"
	"cleverniche/study/ideas"
	"cleverniche/study/input"
	"cleverniche/study/niches"

	"golang.org/x/sync/semaphore"
)

// scoped are the filters that let through what is grouped.
var scoped = map[niches.Scope]sieve.Filter{niches.ScopeKept: sieve.OnlyDecided(sieve.Kept),
	niches.ScopeLooked: sieve.On(sieve.ByLookedUp),
	niches.ScopeAll:    sieve.NotDropped()}

// MostGrouped is how many ideas are grouped at once; of more, those that are looked up, and the most
// searched: nobody walks through a million topics.
const MostGrouped = 100_000

// TopicIdea is an idea in a topic.
type TopicIdea struct {
	ID       uint
	Phrase   string
	Searches float64 // −1 while they are not known
	LookedUp bool
	topic.Member
}

// OwnAnswer is a page of my own site that answers a topic: it stands in its results, or its title says
// what the lead says.
type OwnAnswer struct {
	URL, Title string
	Phrase     string // that it stands for; "" when it is told by its title
	Position   int
}

// Topic is ideas that one article answers, and what was decided about it by hand.
type Topic struct {
	At       int  // its index in the list
	ID       uint // its lead's
	Name     string
	Ideas    []TopicIdea
	Searches float64 // of all wordings joined; −1 while none is known
	Hub      int     // index of the topic that it is a spoke of, or topic.NoHub
	HubHand  bool    // somebody chose that
	Spokes   []int
	Own      []OwnAnswer
	Changed  bool // something was decided by hand

	Decided store.TopicEdit // what was decided; its ID is 0 when nothing was
	worth   amounts         // a month, by the chances of all its wordings; −1 while it is not known
	stem    []string        // of its lead
	core    []string        // of these, what says the subject: none of best, buy, cheap
}

// Lead is the phrase that belongs in the title.
func (t Topic) Lead() string { return t.Ideas[0].Phrase }

// Hand is the ID of what was decided by hand, 0 when nothing was.
func (t Topic) Hand() uint { return t.Decided.ID }

// State is how far the article is.
func (t Topic) State() plan.State { return t.Decided.State }

// Called reports whether somebody named it.
func (t Topic) Called() bool { return t.Decided.Name != "" }

// LeadByHand reports whether somebody chose the lead.
func (t Topic) LeadByHand() bool { return t.Decided.LeadID != 0 && t.Decided.LeadID == t.ID }

// LookedUp reports whether its lead is looked up.
func (t Topic) LookedUp() bool { return t.Ideas[0].LookedUp }

// IDs are those of its ideas, the lead first.
func (t Topic) IDs() []uint {
	out := make([]uint, len(t.Ideas))
	for i, one := range t.Ideas {
		out[i] = one.ID
	}
	return out
}

// Topics are the topics of a niche at one moment. They do not change.
type Topics struct {
	List   []Topic
	Scope  niches.Scope
	Shared int
	Ideas  int // that were grouped
	Left   int // that were not, since there are more than are grouped at once: the least searched
	Empty  []store.TopicEdit
	// Revision is the number of the latest change by hand that is in them.
	Revision int64

	study    *Grouper
	Niche    niches.Niche
	From     ideas.Table // what was grouped
	table    ideas.Table // of the topics
	grouping *topic.Grouping
	grouped  []topic.Idea
	decided  []topic.Hand
	fitting  map[int][]topic.Near // for what is fixed: what would join it
	founds   ideatable.Founds
	byIdea   map[uint]int
	byHand   map[uint]int
	own      []store.OwnPage
	told     sync.Once // hubs, own answers and columns, which only those need who look at topics
	leads    *leadStems
}

// leadStems are the stems of leads, kept from one grouping to the next.
type leadStems struct {
	of sync.Map // by the lead's ID and the language
}

// stems are the content stems of a lead, and of these what says the subject.
type stems struct{ all, core []string }

func (l *leadStems) stems(id uint, normal, lang string) stems {
	key := fmt.Sprint(id, lang)
	if kept, some := l.of.Load(key); some {
		return kept.(stems)
	}
	all := phrase.ContentStems(normal, lang)
	s := stems{all, phrase.Subject(all, lang)}
	l.of.Store(key, s)
	return s
}

// groupings holds the last topics of each niche.
type groupings struct {
	most int // ideas that are grouped at once
	mu   sync.Mutex
	of   map[uint]*groupSeat
}

type groupSeat struct {
	turn   *semaphore.Weighted // who holds it groups, and may look at the next two
	key    string
	topics *Topics
	leads  leadStems
	count  atomic.Int64 // topics of the last grouping; −1 before the first
}

func (g *groupings) seat(niche uint) *groupSeat {
	g.mu.Lock()
	defer g.mu.Unlock()
	if g.of == nil {
		g.of = map[uint]*groupSeat{}
	}
	if g.of[niche] == nil {
		g.of[niche] = &groupSeat{turn: semaphore.NewWeighted(1)}
		g.of[niche].count.Store(-1)
	}
	return g.of[niche]
}

// Of groups the niche's ideas as they are now, or returns what they were grouped into before
// when nothing has changed.
func (s *Grouper) Of(ctx context.Context, n niches.Niche) (*Topics, error) {
	t, err := s.topicsOf(ctx, n)
	if err != nil {
		return nil, err
	}
	t.told.Do(func() {
		t.hang()
		t.answered()
		t.fitting = t.grouping.Fitting(t.decided, topic.Calibrated.Together)
		t.fillTable()
	})
	return t, nil
}

// topicsOf groups the niche's ideas, and tells no more of the topics than what is in them.
func (s *Grouper) topicsOf(ctx context.Context, n niches.Niche) (*Topics, error) {
	seat := s.groupings.seat(n.ID)
	if err := seat.turn.Acquire(ctx, 1); err != nil {
		return nil, err
	}
	return s.atTurn(ctx, n, seat)
}

// atTurn is topicsOf for who has the turn, which it gives back.
func (s *Grouper) atTurn(ctx context.Context, n niches.Niche, seat *groupSeat) (*Topics, error) {
	defer seat.turn.Release(1)
	b, err := s.ideas.Table(ctx, n)
	if err != nil {
		return nil, err
	}
	plans, err := s.store.TopicsRevision(ctx, n.ID)
	if err != nil {
		return nil, err
	}
	n.Columns = nil
	key := fmt.Sprint(b.Revision, plans, n)
	if seat.key == key {
		return seat.topics, nil
	}
	t, err := s.group(ctx, n, b)
	if err != nil {
		return nil, err
	}
	t.leads, t.Revision = &seat.leads, plans
	seat.key, seat.topics = key, t
	seat.count.Store(int64(len(t.List)))
	return t, nil
}

// fixed reports whether what was decided on a topic fixes its ideas and its lead: it is an article in the plan.
// (What was put into it before plans were fixed names no lead; it is fixed with the next change of how ideas are
// grouped.)
func fixed(h store.TopicEdit) bool { return h.State != plan.None && h.LeadID != 0 }

// group groups the ideas of a table.
func (s *Grouper) group(ctx context.Context, n niches.Niche, b ideas.Table) (*Topics, error) {
	founds, err := s.ideas.Founds(ctx, n)
	if err != nil {
		return nil, err
	}
	hands, placed, err := s.store.Topics(ctx, n.ID)
	if err != nil {
		return nil, err
	}
	own, err := s.store.OwnPages(ctx, n.ID)
	if err != nil {
		return nil, err
	}
	own = slices.DeleteFunc(own, func(p store.OwnPage) bool { return !s.niches.IsOwn(n, p.URL) }) // of a site before
	t := &Topics{Scope: n.Scope, Shared: n.Shared, study: s, Niche: n, From: b, founds: founds,
		byIdea: map[uint]int{}, byHand: map[uint]int{}, own: own}
	byHand := map[uint]store.TopicEdit{}
	for _, h := range hands {
		byHand[h.ID] = h
	}
	at, left := s.scope(n, b, placed, byHand)
	t.Left = left
	t.Ideas, t.grouped = len(at), make([]topic.Idea, len(at))
	decided := make([]topic.Hand, len(at))
	for k, i := range at {
		id := b.Table.ID(i)
		t.grouped[k] = groupedIdea(b, founds, i, n.Language)
		if hand := placed[id]; hand != 0 {
			decided[k] = topic.Hand{Topic: int32(hand), Leads: byHand[hand].LeadID == id, Closed: fixed(byHand[hand])}
		}
	}
	t.decided = decided
	t.grouping = topic.Calibrated.Grouped(t.grouped, decided, n.Shared)
	t.List = make([]Topic, len(t.grouping.Groups))
	for g, one := range t.grouping.Groups {
		t.List[g] = t.read(g, one, at, placed, byHand)
	}
	for _, h := range hands {
		if _, there := t.byHand[h.ID]; !there && h.State != "" {
			t.Empty = append(t.Empty, h)
		}
	}
	return t, nil
}

// scope is which ideas are grouped, by their places in the table: those of the niche's scope, of too many what is
// looked up and the most searched, and those of articles in the plan, which keep theirs. left is how many of the
// scope are not.
func (s *Grouper) scope(n niches.Niche, b ideas.Table, placed map[uint]uint,
	byHand map[uint]store.TopicEdit) (at []int, left int) {
	scope := b.Pass(sieve.Sieve{Filters: []sieve.Filter{sieve.NotDropped(), scoped[n.Scope]}})
	ids := scope.Left
	if most := s.groupings.most; scope.Count > most {
		looked := b.Pass(sieve.Sieve{Filters: []sieve.Filter{sieve.NotDropped(), sieve.On(sieve.ByLookedUp)}}).Left
		at = b.Table.Top(ids, sieve.Searches, true, 0, most)
		for i := range looked.All() {
			if ids.Has(i) {
				at = append(at, i)
			}
		}
	} else {
		for i := range ids.All() {
			at = append(at, i)
		}
	}
	for idea, hand := range placed {
		i, ok := b.Table.Find(idea)
		if ok && byHand[hand].State != "" && b.Table.Lets(i, sieve.NotDropped()) {
			at = append(at, i)
		}
	}
	slices.Sort(at)
	at = slices.Compact(at)
	left = scope.Count
	for _, i := range at {
		if ids.Has(i) {
			left--
		}
	}
	return at, left
}

// groupedIdea is an idea of a table as grouping looks at it.
func groupedIdea(b ideas.Table, founds ideatable.Founds, i int, lang string) topic.Idea {
	idea := founds.Of[b.Table.ID(i)]
	idea.Phrase = b.Table.Phrase(i)
	if len(idea.Results) > 0 { // only what is looked up is compared
		idea.Intent = topic.Asked(idea.Phrase, lang)
	}
	searches, _ := b.Table.Number(i, sieve.Searches)
	idea.Searches = max(0, searches)
	if v, known := b.Table.Number(i, sieve.Variant); known {
		idea.Variant = strconv.FormatUint(uint64(v), 36)
	}
	return idea
}

// read makes a topic of a grouped one.
func (t *Topics) read(g int, one topic.Group, at []int, placed map[uint]uint, byHand map[uint]store.TopicEdit) Topic {
	table := t.From.Table
	out := Topic{At: g, Hub: topic.NoHub, Searches: -1, Ideas: make([]TopicIdea, len(one.Members))}
	for k, m := range one.Members {
		i := at[m.Idea]
		idea := TopicIdea{ID: table.ID(i), Phrase: table.Phrase(i), Searches: -1, Member: m}
		if n, known := table.Number(i, sieve.Searches); known {
			idea.Searches, out.Searches = n, 0
		}
		_, idea.LookedUp = table.Number(i, sieve.LookedUp)
		if hand := placed[idea.ID]; hand != 0 {
			out.Decided, out.Changed = byHand[hand], true
			t.byHand[hand] = g
		}
		t.byIdea[idea.ID] = g
		out.Ideas[k] = idea
	}
	if out.Searches == 0 {
		out.Searches = one.Searches(t.grouped)
	}
	for k, f := range worths {
		out.worth[k] = t.worth(one, at, f)
	}
	out.ID, out.Name = out.Ideas[0].ID, out.Ideas[0].Phrase
	if out.Decided.Name != "" {
		out.Name = out.Decided.Name
	}
	return out
}

// amounts are the least, the likely and the most that something is worth.
type amounts [3]float64

// worths are their figures, and the shares of clicks of an idea that they follow from.
var worths = [3]*sieve.Figure{sieve.WorthLow, sieve.Worth, sieve.WorthHigh}

func sharesOf(i *store.Idea) [3]*float64 {
	return [3]*float64{&i.ClickShareLow, &i.ClickShare, &i.ClickShareHigh}
}

// worth is what an article on a topic would bring a month, in whole units, at the least, likely or at most, as the
// figure says; −1 while that is not known. What is looked up brings what it would alone, by its own chances: as all
// of them hang on the same engine and the same page, their ends are added up. The rest of the wordings count as much a
// search as the lead does.
func (t *Topics) worth(one topic.Group, at []int, figure *sieve.Figure) float64 {
	table := t.From.Table
	lead := at[one.Lead()]
	if _, judged := table.Number(lead, sieve.LookedUp); !judged {
		return -1
	}
	sum, own, rest := 0.0, 0.0, 0.0 // own and rest are searches
	for _, i := range one.Counted(t.grouped) {
		searches := t.grouped[i].Searches
		if brings, known := table.Number(at[i], figure); known {
			sum, own = sum+brings, own+searches
		} else {
			rest += searches
		}
	}
	rate := 0.0
	if brings, known := table.Number(lead, figure); known && brings > 0 {
		searches, _ := table.Number(lead, sieve.Searches)
		rate = brings / searches
	} else if own > 0 {
		rate = sum / own
	} else {
		return -1
	}
	return sum + rest*rate
}

// Table is the topics as a table: each is its lead, with the searches of all its wordings.
func (t *Topics) Table() ideas.Table { return t.table }

// Of returns the topic that an idea is in.
func (t *Topics) Of(idea uint) (Topic, error) {
	i, there := t.byIdea[idea]
	if !there {
		return Topic{}, input.ErrNotFound
	}
	return t.List[i], nil
}

// Likeliest is the wording of a topic with the best chance of page one, of those that were looked up; ok is false where
// none was.
func (t *Topics) Likeliest(one Topic) (best TopicIdea, chance float64, ok bool) {
	for _, i := range one.Ideas {
		at, there := t.From.Table.Find(i.ID)
		if !there || !i.LookedUp {
			continue
		}
		if v, known := t.From.Table.Number(at, sieve.PageOne); known && (!ok || v > chance) {
			best, chance, ok = i, v, true
		}
	}
	return best, chance, ok
}

// Expand puts for each lead all ideas of its topic.
func (t *Topics) Expand(leads []uint) (out []uint) {
	seen := map[int]bool{}
	for _, id := range leads {
		if i, there := t.byIdea[id]; there && !seen[i] {
			seen[i] = true
			out = append(out, t.List[i].IDs()...)
		}
	}
	return out
}

// Overlay puts into an idea that leads a topic what is joined.
func (t *Topics) Overlay(i ideas.Idea) ideas.Idea {
	if one, err := t.Of(i.ID); err == nil {
		i.Joined = &ideas.Joined{Name: one.Name, Members: len(one.Ideas), Changed: one.Changed, State: string(one.State())}
		if len(one.Own) > 0 {
			i.Joined.Page = one.Own[0].URL
		}
		if one.Searches >= 0 {
			n := int(one.Searches)
			i.Row.Searches, i.Row.Under = &n, i.Row.Under && n == 0
		}
		var by amounts
		for k, f := range worths { // before one of them is changed
			by[k] = 1
			if lead := i.Value(f); lead.Known && lead.Number > 0 && one.worth[k] >= 0 {
				by[k] = one.worth[k] / lead.Number
			}
		}
		for k, clicks := range sharesOf(&i.Row) {
			if *clicks >= 0 {
				*clicks = min(1, *clicks*by[k])
			}
		}
	}
	return i
}

// mostCounted is of how many ideas the topics are counted on every page; more are counted where topics
// are shown.
const mostCounted = 3000

// countWaits is how long a page waits for its turn to count topics; then it says the last count, as in a
// niche that many look at while a job changes it.
const countWaits = 100 * time.Millisecond

// Published is how many articles of a niche are out.
func (s *Grouper) Published(ctx context.Context, n niches.Niche) (int, error) {
	states, err := s.store.CountStates(ctx, n.ID)
	return states[plan.Published], err
}

// Counts is how many topics there are, −1 while nobody has grouped them, and how many articles are to
// write or being written.
func (s *Grouper) Counts(ctx context.Context, n niches.Niche, b ideas.Table) (topics, sheet,
	out int, err error) {
	states, err := s.store.CountStates(ctx, n.ID)
	if err != nil {
		return 0, 0, 0, err
	}
	sheet, out = states[plan.ToWrite]+states[plan.Writing], states[plan.Published]
	scope := b.Table.Count(scoped[n.Scope])
	if scope == 0 && len(states) == 0 {
		return 0, 0, 0, nil
	}
	seat := s.groupings.seat(n.ID)
	soon, done := context.WithTimeout(ctx, countWaits)
	defer done()
	if scope > mostCounted || seat.turn.Acquire(soon, 1) != nil {
		return int(seat.count.Load()), sheet, out, nil
	}
	t, err := s.atTurn(ctx, n, seat)
	if err != nil {
		return 0, 0, 0, err
	}
	return len(t.List), sheet, out, nil
}
