package sieve

import (
	"encoding/json"
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"sync"
	"testing"

	"cleverniche/core/demand"
	"cleverniche/core/intent"
	"cleverniche/core/phrase"
)

var heads = strings.Fields("best telescope how cheap moon review near small dark quiet halvorn ax15 for with " +
	"jobs login")

// facts are an idea as a test writes it down: −1 is not known.
type facts struct {
	ID                                                uint
	Phrase                                            string
	Words                                             int
	Decision                                          Decision
	Source                                            string
	Searches                                          int
	Under, Judged, Locked                             bool
	Season, NameFree, Near                            int
	Lasting                                           demand.Lasting
	CPC, Share, Difficulty, PageOne, TopFive, Weakest float64
	Beyond                                            float64
	Unread                                            int
	Labels                                            string
	ExactPages, TitlePages, Footholds, LinksNeeded    int
	Want                                              intent.Class
	Article                                           int
	Worth                                             int
}

func bare(id uint, phrase string, words int) facts {
	return facts{ID: id, Phrase: phrase, Words: words, Searches: -1, Season: -1, NameFree: -1, Near: -1, CPC: -1,
		Share:      -1,
		ExactPages: -1, TitlePages: -1, Worth: -1}
}

func (f facts) idea() Idea {
	i := Unmeasured(f.ID, f.Phrase, f.Words)
	number := func(fig *Figure, x float64) {
		if x >= 0 {
			i.Put(fig, Of(x))
		}
	}
	i.Put(Searches, Value{Known: f.Searches >= 0, Under: f.Under, Number: float64(f.Searches)})
	i.Put(Decided, Of(float64(f.Decision)))
	i.Put(Trend, Trend.Named(string(f.Lasting)))
	number(Coming, float64(f.Season))
	number(Subject, float64(f.Season))
	i.Put(Labels, Value{Known: f.Labels != "", Text: f.Labels})
	i.Put(Lists, Value{Known: f.Labels != "", Text: f.Labels})
	i.Put(Branch, Value{Known: f.Labels != "", Text: f.Labels})
	number(FreeName, float64(f.NameFree))
	number(NearName, float64(f.Near))
	number(CPC, f.CPC)
	number(Share, f.Share)
	number(ExactPages, float64(f.ExactPages))
	number(TitlePages, float64(f.TitlePages))
	number(MyPlace, float64(f.TitlePages)/1000)
	number(Youngest, float64(f.TitlePages)/1000)
	number(Steadiness, f.Share)
	number(Alike, f.Share)
	number(Worth, float64(f.Worth))
	if bit := slices.Index(FoundIn.Names, f.Source); bit >= 0 {
		i.Put(FoundIn, Of(float64(int(1)<<bit)))
	}
	if !f.Judged {
		return i
	}
	i.Put(LookedUp, Of(1e9))
	number(Difficulty, f.Difficulty)
	number(PageOne, f.PageOne)
	number(TopFive, f.TopFive)
	number(Footholds, float64(f.Footholds))
	number(Weakest, f.Weakest)
	number(Beyond, f.Beyond)
	number(Unread, float64(f.Unread))
	if !f.Locked {
		number(LinksNeeded, float64(f.LinksNeeded))
	}
	i.Put(Intent, Of(float64(f.Want)))
	i.Put(Article, Of(float64(f.Article)))
	return i
}

func ideas(list []facts) []Idea {
	out := make([]Idea, len(list))
	for i, f := range list {
		out[i] = f.idea()
	}
	return out
}

// sample invents n ideas in which every figure is unknown now and then.
func sample(n int) []facts {
	rng := rand.New(rand.NewPCG(9, 9))
	maybe := func(v int) int {
		if rng.IntN(5) == 0 {
			return unknown
		}
		return v
	}
	out := make([]facts, n)
	for i := range out {
		said := make([]string, 1+rng.IntN(6))
		for k := range said {
			said[k] = heads[rng.IntN(len(heads))]
		}
		said = append(said, fmt.Sprintf("n%d", i%977))
		f := bare(uint(i+1), strings.Join(said, " "), len(said))
		f.Searches, f.Source = maybe(rng.IntN(5000)), []string{"seed", "list", "letter"}[i%3]
		if f.Searches >= 0 && f.Searches < 200 {
			f.Under, f.Searches = true, 10
		}
		f.CPC, f.Share = float64(maybe(rng.IntN(400)))/100, float64(maybe(rng.IntN(100)))/100
		f.Season, f.NameFree, f.Near = maybe(rng.IntN(2)), maybe(rng.IntN(2)), maybe(rng.IntN(2))
		f.Lasting = []demand.Lasting{"", demand.TooFew, demand.Rise, demand.Fade, demand.Evergreen,
			demand.Flash}[rng.IntN(6)]
		f.ExactPages, f.TitlePages = maybe(rng.IntN(200_000)), maybe(rng.IntN(30_000))
		f.Decision = Decision(rng.IntN(3))
		f.Labels = []string{"", "", "to write", "later" + LabelMark + "to write", "to write, or not"}[rng.IntN(5)]
		if rng.IntN(3) == 0 {
			f.Judged, f.Difficulty, f.Footholds = true, 100*rng.Float64(), rng.IntN(11)
			f.Unread = rng.IntN(4)
			f.Weakest, f.Beyond = float64(rng.IntN(100)), max(0, 120*rng.Float64()-40)
			f.PageOne, f.TopFive = float64(rng.IntN(1000))/1000, float64(rng.IntN(1000))/1000
			f.LinksNeeded, f.Want = rng.IntN(60), intent.Class(rng.IntN(4))
			f.Article = rng.IntN(len(Article.Names))
			f.Worth, f.Locked = maybe(rng.IntN(1000)), rng.IntN(20) == 0
		}
		out[i] = f
	}
	return out
}

// slowly says of one idea what a filter says of all, from the definition.
func slowly(m Filter, i facts, all []facts) bool {
	known := func(is, passes bool) bool { return is && passes || !is && m.Unmeasured }
	term := func(list []string, has func(a, b string) bool) bool {
		return slices.ContainsFunc(list, func(t string) bool { return has(" "+i.Phrase+" ", " "+t+" ") })
	}
	switch m.By {
	case ByDecision:
		return m.Choice == choiceKept && i.Decision == Kept || m.Choice == choiceDropped && i.Decision == Dropped ||
			m.Choice == choiceOpen && i.Decision != Dropped
	case ByLength:
		return float64(i.Words) >= m.Number
	case ByLeastSearches:
		return known(i.Searches >= 0 && !i.Under, float64(i.Searches) >= m.Number)
	case ByMostSearches:
		return known(i.Searches >= 0 && !i.Under, float64(i.Searches) <= m.Number)
	case ByVisits:
		return known(i.Searches >= 0 && !i.Under, float64(i.Searches)*0.421/30.4 >= m.Number)
	case ByHolding:
		return term(m.Terms, strings.Contains)
	case ByLacking:
		return !term(m.Terms, strings.Contains)
	case ByFitting: // these patterns have no gaps
		return slices.Contains(m.Terms, i.Phrase)
	case ByEdges:
		return term(m.Terms, strings.HasPrefix) || term(m.Ends, strings.HasSuffix)
	case ByNoPlace:
		return phrase.PlaceIn(i.Phrase, "en") == ""
	case ByShape:
		return phrase.Has(phrase.Shapes(i.Phrase, "en"), phrase.Shape(m.Choice))
	case BySeason:
		return known(i.Season >= 0, (m.Choice == "seasonal") == (i.Season == 1))
	case BySubject:
		return (i.Season == 1) == (m.Choice == choiceOff)
	case ByTrend:
		is := i.Lasting != "" && i.Lasting != demand.TooFew
		if m.Choice == choiceNotFading {
			return known(is, i.Lasting != demand.Fade && i.Lasting != demand.Flash)
		}
		return known(is, string(i.Lasting) == m.Choice)
	case ByLabel, ByList, ByBranch:
		return slices.Contains(strings.Split(i.Labels, LabelMark), m.Choice)
	case ByCost:
		return known(i.CPC >= 0, i.CPC >= m.Number)
	case ByShare:
		return known(i.Share >= 0, math.Round(100*i.Share) >= m.Number)
	case ByExact:
		return known(i.ExactPages >= 0, float64(i.ExactPages) <= m.Number)
	case ByTitles:
		return known(i.TitlePages >= 0, float64(i.TitlePages) <= m.Number)
	case ByMyPlace:
		return known(i.TitlePages >= 0, math.Round(float64(i.TitlePages)/10)/100 <= m.Number)
	case ByYoungest:
		return known(i.TitlePages >= 0, math.Round(float64(i.TitlePages)/10)/100 <= m.Number)
	case ByRestless, ByAlike:
		return known(i.Share >= 0, math.Round(100*i.Share) <= m.Number)
	case BySource:
		return i.Source == m.Choice
	case ByName:
		return known(i.NameFree >= 0, i.NameFree == 1)
	case ByNear:
		return known(i.Near >= 0, i.Near == 1)
	case ByLookedUp:
		return known(i.Judged, true)
	case ByPageOne:
		return known(i.Judged, 1000*i.PageOne >= 10*m.Number)
	case ByTopFive:
		return known(i.Judged, 1000*i.TopFive >= 10*m.Number)
	case ByMostDifficulty:
		return known(i.Judged, i.Difficulty < m.Number+0.5)
	case ByLeastDifficulty:
		return known(i.Judged, i.Difficulty >= m.Number-0.5) // as it is shown
	case ByLeastFootholds:
		return known(i.Judged, float64(i.Footholds) >= m.Number)
	case ByWeakest:
		return known(i.Judged, i.Weakest < m.Number+0.5)
	case ByUnread:
		return known(i.Judged, float64(i.Unread) <= m.Number)
	case ByBeyond:
		return known(i.Judged, i.Beyond < m.Number+0.5)
	case ByLinks:
		return known(i.Judged && !i.Locked, float64(i.LinksNeeded) <= m.Number)
	case ByIntent:
		return known(i.Judged, strings.ToLower(i.Want.String()) == m.Choice)
	case ByArticle:
		return known(i.Judged, Article.Names[i.Article] == m.Choice)
	case ByRank:
		better := 0
		for _, o := range all {
			if o.Worth > i.Worth {
				better++
			}
		}
		return known(i.Worth >= 0, float64(better) < m.Number)
	}
	return true
}

// anyFilter draws a filter of a criterion.
func anyFilter(by *Criterion, rng *rand.Rand) Filter {
	m := Filter{By: by, Unmeasured: rng.IntN(2) == 0}
	switch by.Control {
	case Bar:
		most := map[*Criterion]int{ByLength: 7, ByCost: 4, ByLeastFootholds: 10, ByVisits: 70, ByExact: 200_000,
			ByTitles: 30_000, ByLeastSearches: 5000, ByMostSearches: 5000, ByRank: 400}[by]
		if most == 0 {
			most = 100
		}
		m.Number = float64(rng.IntN(most) + 1)
	case OneOf:
		if by.Own() {
			m.Choice = "to write"
			break
		}
		m.Choice = by.Choices[rng.IntN(len(by.Choices))].Key
	case Words:
		m.Terms = []string{heads[rng.IntN(len(heads))],
			heads[rng.IntN(len(heads))] + " " + heads[rng.IntN(len(heads))], "nowhere"}
	case Edges:
		m.Terms, m.Ends = []string{"best", "how cheap"}, []string{"n7", "moon n12"}
	}
	return m
}

// TestEveryCriterionAsDefined passes random sieves of all criteria, and counts again
// one idea and one filter at a time.
func TestEveryCriterionAsDefined(t *testing.T) {
	all := sample(1000)
	table := NewTable("en", ideas(all))
	rng := rand.New(rand.NewPCG(4, 4))
	for round := range 6 {
		var filters []Filter
		for _, by := range Criteria() {
			m := anyFilter(by, rng)
			if err := m.Check(); err != nil {
				t.Fatal(err)
			}
			filters = append(filters, m)
		}
		rng.Shuffle(len(filters), func(i, j int) { filters[i], filters[j] = filters[j], filters[i] })
		res := table.Pass(filters)
		through := slices.Repeat([]bool{true}, len(all))
		for m, filter := range filters {
			left, alone := 0, 0
			for i, idea := range all {
				lets := slowly(filter, idea, all)
				if lets != table.Lets(i, filter) {
					t.Fatalf("round %d: %s lets %+v through: %v", round, filter, idea, !lets)
				}
				if !lets {
					alone++
				}
				if through[i] = through[i] && lets; through[i] {
					left++
				}
			}
			if s := res.Steps[m]; s.Left != left || s.Alone != alone || m > 0 && s.Removed != res.Steps[m-1].Left-left {
				t.Errorf("round %d, %s: left %d, alone %d; counted %d, %d", round, filter, s.Left, s.Alone, left, alone)
			}
		}
		for i := range all {
			if stops := table.Stops(i, filters); (len(stops) == 0) != res.Left.Has(i) || res.Left.Has(i) != through[i] {
				t.Fatalf("idea %d is stopped by %v and left %v", i, stops, res.Left.Has(i))
			}
		}
	}
}

// TestLooserFilterNeverLetsFewerThrough moves each bar from tight to loose.
func TestLooserFilterNeverLetsFewerThrough(t *testing.T) {
	table := NewTable("en", ideas(sample(1500)))
	for _, by := range Criteria() {
		if by.Control != Bar {
			continue
		}
		rising := strings.Contains(by.Name, "at most") || strings.Contains(by.Name, " to") || by == ByRank
		last := -1
		for k := range 40 {
			bar := float64(k * k * k * 4)
			if !rising {
				bar = float64((39 - k) * (39 - k) / 4)
			}
			left := table.Pass([]Filter{{By: by, Number: bar}}).Count
			if left < last {
				t.Errorf("%s %v lets %d through, a tighter one let %d", by, bar, left, last)
			}
			last = left
		}
	}
}

func TestUnmeasuredIsNotZero(t *testing.T) {
	under, few := bare(2, "b", 1), bare(3, "c", 1)
	under.Searches, under.Under, few.Searches = 10, true, 5
	table := NewTable("en", ideas([]facts{bare(1, "a", 1), under, few}))
	if s := table.Pass([]Filter{At(ByLeastSearches, 100)}).Steps[0]; s.Removed != 3 || s.Unknown != 2 {
		t.Errorf("%d removed, %d of them not measured", s.Removed, s.Unknown)
	}
	res := table.Pass([]Filter{{By: ByLeastSearches, Number: 100, Unmeasured: true}})
	if got := slices.Collect(res.Left.All()); !slices.Equal(got, []int{0, 1}) {
		t.Errorf("with what is not measured, %v are left", got)
	}
}

func TestDifficultyIsComparedAsShown(t *testing.T) {
	a, b := bare(1, "a", 1), bare(2, "b", 1)
	a.Judged, a.Difficulty, b.Judged, b.Difficulty = true, 20.4, true, 20.6
	table := NewTable("en", ideas([]facts{a, b}))
	if m := At(ByMostDifficulty, 20); !table.Lets(0, m) || table.Lets(1, m) {
		t.Error("an idea shown as 20 is stopped by “at most 20”, or one shown as 21 is not")
	}
}

// TestAHugeBarIsNoSmallOne: what no value reaches lets nothing through, or everything.
func TestAHugeBarIsNoSmallOne(t *testing.T) {
	table := NewTable("en", ideas(sample(300)))
	for _, by := range Criteria() {
		if by.Control != Bar || by.ranked {
			continue
		}
		m := At(by, mostNumber)
		known := table.Pass([]Filter{{By: by, Number: mostNumber, Unmeasured: true}}).Count
		left := table.Pass([]Filter{{By: by, Number: mostNumber}}).Count
		atMost := strings.Contains(by.Name, "at most") || by == ByMostSearches
		if err := m.Check(); err != nil || atMost && known != table.Len() || !atMost && left != 0 {
			t.Errorf("%s %v leaves %d of %d, %v", by, m.Number, left, table.Len(), err)
		}
	}
}

func TestTermsAreWholeWords(t *testing.T) {
	if got := Terms(" Best, near me\nbest;; ?"); !slices.Equal(got, []string{"best", "near me"}) {
		t.Errorf("terms %q", got)
	}
	table := NewTable("en", []Idea{Unmeasured(1, "stargazing chair", 2), Unmeasured(2, "north star", 2),
		Unmeasured(3, "star star", 2)})
	for m, want := range map[string][]int{"star": {1, 2}, "star star": {2}, "stargazing chair": {0}, "chair star": nil} {
		if got := slices.Collect(table.Pass([]Filter{Holding(ByHolding, m)}).Left.All()); !slices.Equal(got,
			want) {
			t.Errorf("%q is held by %v, not %v", m, got, want)
		}
	}
	if at, ok := table.Matching("north star"); !ok || at != 1 {
		t.Errorf("the phrase is found at %d %v", at, ok)
	}
	if _, ok := table.Matching("north"); ok {
		t.Error("half a phrase is found")
	}
}

// TestChangingOneFilterComputesOnlyThat counts what is computed.
func TestChangingOneFilterComputesOnlyThat(t *testing.T) {
	table := NewTable("en", ideas(sample(500)))
	sieve := []Filter{NotDropped(), At(ByLength, 3), At(ByLeastSearches, 300), At(ByMostDifficulty, 60)}
	table.Pass(sieve)
	if table.asked != 4 {
		t.Fatalf("four filters took %d computations", table.asked)
	}
	sieve[3].Number = 50
	table.Pass(append(sieve, At(ByLeastFootholds, 2)))
	if table.asked != 6 {
		t.Errorf("a changed filter and a new one took %d computations", table.asked-4)
	}
	for k := range 200 {
		table.Pass([]Filter{At(ByLength, float64(k))})
	}
	if len(table.passed) > mostKept {
		t.Errorf("%d sets are kept", len(table.passed))
	}
}

// TestWith changes, adds, puts between and renames, and compares with a table that is
// built from nothing.
func TestWith(t *testing.T) {
	all := sample(400)
	whole := NewTable("en", ideas(all))
	changed := all[17]
	changed.Decision, changed.Searches, changed.Under = Kept, 6000, false
	renamed := bare(9, "quite another phrase", 3)
	for name, c := range map[string]struct{ start, changed []facts }{
		"added":          {all[:300], all[300:]},
		"added in turns": {all[:1], slices.Concat(all[1:], all[1:])},
		"put between":    {slices.Concat(all[:100], all[200:]), all[100:200]},
		"nothing":        {all, nil},
	} {
		got := NewTable("en", ideas(c.start)).With(ideas(c.changed))
		for _, by := range Criteria() {
			m := anyFilter(by, rand.New(rand.NewPCG(2, 8)))
			if !slices.Equal(got.Pass([]Filter{m}).Left, whole.Pass([]Filter{m}).Left) {
				t.Errorf("%s: %s lets other ideas through", name, m)
			}
		}
	}
	later := whole.With(ideas([]facts{changed, renamed}))
	if at, ok := later.Find(18); !ok || later.ID(at) != 18 || !later.Lets(at, OnlyDecided(Kept)) ||
		!later.Lets(at, At(ByLeastSearches, 6000)) {
		t.Error("a change does not show")
	}
	if at, ok := later.Matching("quite another phrase"); !ok || later.ID(at) != 9 ||
		later.Phrase(at) != "quite another phrase" {
		t.Error("a new phrase is not found")
	}
	if at, _ := whole.Find(18); whole.Lets(at, At(ByLeastSearches, 6000)) || whole.Len() != 400 {
		t.Error("the old table has changed")
	}
	// Two tables grown from one do not see each other's ideas.
	a := whole.With([]Idea{Unmeasured(500, "only in a", 3), Unmeasured(501, "same end", 2)})
	b := whole.With([]Idea{Unmeasured(600, "only in b", 3), Unmeasured(601, "same end", 2)})
	if _, ok := a.Matching("only in b"); ok {
		t.Error("a sees an idea of b")
	}
	if at, ok := b.Matching("only in b"); !ok || b.ID(at) != 600 {
		t.Error("b does not see its own")
	}
}

func TestTopIsTheHeadOfTheSortedList(t *testing.T) {
	table := NewTable("en", ideas(sample(3000)))
	all := table.Pass([]Filter{NotDropped()}).Left
	for _, by := range Sorted() {
		for _, down := range []bool{true, false} {
			whole := table.Top(all, by, down, 0, -1)
			if len(whole) != all.Count() {
				t.Fatalf("%s: %d of %d", by, len(whole), all.Count())
			}
			o := table.order(by, down)
			if !slices.IsSortedFunc(whole, func(a, b int) int { return o.compare(int32(a), int32(b)) }) {
				t.Errorf("%s is not sorted", by)
			}
			for _, part := range [][2]int{{0, 100}, {100, 50}, {0, 0}, {len(whole) - 3, 100}, {5000, 5}, {-3, 3}} {
				from, to := max(0, min(part[0], len(whole))), 0
				to = min(len(whole), from+part[1])
				if got := table.Top(all, by, down, part[0], part[1]); !slices.Equal(got, whole[from:to]) {
					t.Errorf("%s, from %d: %v, not %v", by, part[0], got, whole[from:to])
				}
			}
		}
	}
}

// Pages of a long list, asked for in any order, are those of the list as it is sorted whole,
// whatever other list was looked at in between.
func TestPagesOfALongListAsTheyAreAskedFor(t *testing.T) {
	rng := rand.New(rand.NewPCG(7, 7))
	list := ideas(sample(20_000))
	for _, keys := range [][]Key{{{Searches, true}}, {{Length, false}, {CPC, true}}, {{Difficulty, false}}} {
		table := NewTable("en", list)
		all, kept := table.Pass(nil).Left, table.Pass([]Filter{NotDropped()}).Left
		whole := NewTable("en", list).TopBy(all, keys, 0, -1)
		for range 200 {
			from := rng.IntN(len(whole))
			to := min(len(whole), from+1+rng.IntN(300))
			if got := table.TopBy(all, keys, from, to-from); !slices.Equal(got, whole[from:to]) {
				t.Fatalf("%s: from %d to %d are others", keys[0].By, from, to)
			}
			if got := table.Place(all, keys, whole[from]); got != from {
				t.Fatalf("%s: %d stands at %d, not %d", keys[0].By, whole[from], got, from)
			}
			if rng.IntN(20) == 0 {
				table.TopBy(kept, keys, 600, 10)
				table.TopBy(all, []Key{{Found, false}}, 600, 10)
			}
		}
		if len(table.sortings) > mostSortings {
			t.Errorf("%d orders are kept", len(table.sortings))
		}
	}
}

func TestUnknownComesLastEitherWay(t *testing.T) {
	list := []facts{bare(1, "c", 1), bare(2, "b", 1), bare(3, "a", 1), bare(4, "d", 1)}
	for i, d := range map[int]float64{1: 50, 2: 10} {
		list[i].Judged, list[i].Difficulty, list[i].Searches = true, d, 3
	}
	list[3].Searches, list[3].Under = 10, true
	table := NewTable("en", ideas(list))
	all := table.Pass(nil).Left
	for down, want := range map[bool][]int{false: {2, 1, 3, 0}, true: {1, 2, 3, 0}} {
		if got := table.Top(all, Difficulty, down, 0, -1); !slices.Equal(got, want) {
			t.Errorf("down=%v: %v, not %v", down, got, want)
		}
	}
	easy := []facts{bare(1, "a", 1), bare(2, "b", 1), bare(3, "c", 1)}
	for i, chance := range []float64{0.6, 0.9, 0.7} {
		easy[i].Judged, easy[i].TopFive = true, chance
	}
	level := NewTable("en", ideas(easy))
	for down, want := range map[bool][]int{false: {1, 2, 0}, true: {0, 2, 1}} {
		if got := level.Top(level.Pass(nil).Left, Difficulty, down, 0, -1); !slices.Equal(got, want) {
			t.Errorf("what is equally easy, down=%v: %v, not %v", down, got, want)
		}
	}
	two := []facts{bare(1, "a", 2), bare(2, "b", 3), bare(3, "c", 2), bare(4, "d", 3)}
	for i, cost := range []float64{0.5, 0.2, 0.9, -1} {
		two[i].CPC = cost
	}
	twice := NewTable("en", ideas(two))
	for down, want := range map[bool][]int{true: {2, 0, 1, 3}, false: {0, 2, 1, 3}} {
		if got := twice.TopBy(twice.Pass(nil).Left, []Key{{Length, false}, {CPC, down}}, 0, -1); !slices.Equal(got, want) {
			t.Errorf("by words and cost, down=%v: %v, not %v", down, got, want)
		}
	}
	if got := table.Top(all, Searches, true, 0, -1); got[2] != 3 || got[3] != 0 {
		t.Errorf("fewer than ten, and not known, stand at %v", got)
	}
}

// TestBuiltIn: each comes from computation.md §9; what it lets through is told by one
// idea on each side of a bar.
func TestBuiltIn(t *testing.T) {
	easy := bare(1, "best quiet dark sky chair", 5)
	easy.Searches, easy.Share, easy.ExactPages, easy.TitlePages = 500, 0.15, 30_000, 10_000
	easy.Judged, easy.Difficulty, easy.Weakest, easy.LinksNeeded = true, 10, 20, 20
	many := easy
	many.ID, many.Searches = 2, 8000
	hard := easy
	hard.ID, hard.Difficulty, hard.Weakest, hard.LinksNeeded, hard.Share = 3, 36, 60, 40, 0.1
	fair := hard
	fair.ID, fair.Difficulty = 4, 21
	table := NewTable("en", ideas([]facts{easy, many, hard, fair}))
	want := map[string][]int{"New site: easy and searched": {0, 1}, "Long tail": {0, 1, 2, 3},
		"Small buying phrases": {0, 2, 3},
		"Weak top five":        {0, 1}, "100 visits a day": {1}, "Mid volume": {0, 3}, "Few links needed": {0, 1}}
	for _, s := range BuiltIn() {
		if err := s.Check(); err != nil {
			t.Errorf("%s: %v", s.Name, err)
		}
		if got := slices.Collect(table.Pass(s.Filters).Left.All()); !slices.Equal(got, want[s.Name]) {
			t.Errorf("%s leaves %v, not %v", s.Name, got, want[s.Name])
		}
		data, err := json.Marshal(s)
		var back Sieve
		if err != nil || json.Unmarshal(data, &back) != nil || fmt.Sprint(back) != fmt.Sprint(s) {
			t.Errorf("%s is not the same after a round trip: %v", s.Name, back)
		}
	}
}

func TestFilteresThatCannotBeUsed(t *testing.T) {
	for _, m := range []Filter{{}, {By: ByLength, Number: -1}, {By: ByDecision, Choice: "maybe"},
		{By: ByHolding}, {By: BySource}, {By: ByLacking, Terms: []string{"Not, normal"}},
		{By: ByLacking, Terms: make([]string, mostTerms+1)}, {By: ByLinks, Number: 1e300}} {
		if m.Check() == nil {
			t.Errorf("%v is taken", m)
		}
		if got := NewTable("en", ideas(sample(10))).Pass([]Filter{m}).Count; got != 10 {
			t.Errorf("%v stops %d ideas", m, 10-got)
		}
	}
	if (Sieve{}).Check() != ErrNoFilter || (Sieve{Filters: []Filter{{}}}).Check() == nil {
		t.Error("an empty sieve, or one with a bad filter, is taken")
	}
	for m, want := range map[string]Filter{"words at least 4": At(ByLength, 4), "ideas kept": OnlyDecided(Kept),
		"looked up":                              {By: ByLookedUp},
		"starts with best or ends with review":   {By: ByEdges, Terms: []string{"best"}, Ends: []string{"review"}},
		"contains any of moon, near me":          {By: ByHolding, Terms: []string{"moon", "near me"}},
		"share in this word order at least 15 %": At(ByShare, 15),
		"searches at least 100, or not measured": {By: ByLeastSearches, Number: 100, Unmeasured: true}} {
		if want.String() != m {
			t.Errorf("%q is written %q", m, want)
		}
	}
	if !ByLinks.Paid() || ByCost.Paid() {
		t.Error("the line is in the wrong place")
	}
}

// TestBrandsAreAShape: what is a brand, the niche says.
func TestBrandsAreAShape(t *testing.T) {
	brand := []Filter{Choosing(ByShape, string(phrase.Brand))}
	list := []Idea{Unmeasured(2, "halvorn telescope", 2), Unmeasured(3, "best telescope", 2)}
	if got := slices.Collect(NewTable("en", list, "halvorn").Pass(brand).Left.All()); !slices.Equal(got, []int{0}) {
		t.Errorf("with its brand the niche has %v", got)
	}
	later := NewTable("en", list, "halvorn").With([]Idea{Unmeasured(1, "old halvorn", 2)})
	if got := slices.Collect(later.Pass(brand).Left.All()); !slices.Equal(got, []int{0, 1}) {
		t.Errorf("with an idea put before them, %v", got)
	}
	if got := NewTable("en", list).Pass(brand).Count; got != 0 {
		t.Errorf("without brand words %d ideas name a brand", got)
	}
}

func TestManyAtOnce(t *testing.T) {
	table := NewTable("en", ideas(sample(2000)))
	var wg sync.WaitGroup
	for k := range 8 {
		wg.Go(func() {
			rng := rand.New(rand.NewPCG(uint64(k), 1))
			for _, by := range Criteria() {
				table.Top(table.Pass([]Filter{anyFilter(by, rng)}).Left, Searches, true, 0, 10)
			}
			table.With([]Idea{Unmeasured(uint(5000+k), fmt.Sprintf("another %d", k), 2)})
		})
	}
	wg.Wait()
}

// eight filters, all of which some ideas pass.
func eight() []Filter {
	return []Filter{NotDropped(), At(ByLength, 3), At(ByLeastSearches, 250), At(ByMostSearches, 4900),
		{By: ByLacking, Terms: []string{"jobs", "login"}}, {By: ByHolding, Terms: []string{"best", "how", "moon", "dark"}},
		At(ByMostDifficulty, 70), At(ByLeastFootholds, 1)}
}

// BenchmarkMillion is a sieve of eight filters put on a million ideas for the first
// time: all counts, and the first hundred sorted.
func BenchmarkMillion(b *testing.B) {
	table := NewTable("en", ideas(sample(1_000_000)))
	for b.Loop() {
		table.passed, table.blind = nil, nil
		table.Top(table.Pass(eight()).Left, Searches, true, 0, 100)
	}
}

// BenchmarkMillionOneMoved is the same when one bar moves.
func BenchmarkMillionOneMoved(b *testing.B) {
	table := NewTable("en", ideas(sample(1_000_000)))
	filters := eight()
	table.Pass(filters)
	k := 0
	for b.Loop() {
		k++
		filters[6].Number = float64(30 + k%60)
		delete(table.passed, filters[6].key())
		table.Top(table.Pass(filters).Left, Searches, true, 0, 100)
	}
}

// BenchmarkMillionSortedBy sorts all ideas' first hundred by the phrase.
func BenchmarkMillionSortedByPhrase(b *testing.B) {
	table := NewTable("en", ideas(sample(1_000_000)))
	all := table.Pass(nil).Left
	for b.Loop() {
		table.Top(all, Phrase, false, 0, 100)
	}
}

// BenchmarkMillionScrolled looks at a page in the middle of a million ideas for the first
// time, and at the pages behind it.
func BenchmarkMillionScrolled(b *testing.B) {
	table := NewTable("en", ideas(sample(1_000_000)))
	all := table.Pass(nil).Left
	for _, by := range []*Figure{Searches, Length, Phrase} {
		b.Run(by.Key+"/first", func(b *testing.B) {
			for b.Loop() {
				table.sortings = nil
				table.Top(all, by, true, 500_000, 50)
			}
		})
		b.Run(by.Key+"/next", func(b *testing.B) {
			k := 0
			for b.Loop() {
				k++
				table.Top(all, by, true, 400_000+50*k%500_000, 50)
			}
		})
	}
}

// FuzzTerms: whatever is typed, terms are in normal form and a filter of them passes
// ideas without harm.
func FuzzTerms(f *testing.F) {
	f.Add("best, near me\nbest;; ?")
	f.Add("\xff,\u200d;ﬁ")
	table := NewTable("en", ideas(sample(50)))
	f.Fuzz(func(t *testing.T, s string) {
		terms := Terms(s)
		for _, term := range terms {
			if phrase.Normal(term) != term || term == "" {
				t.Errorf("%q is not in normal form", term)
			}
		}
		m := Filter{By: ByEdges, Terms: terms, Ends: terms}
		if res := table.Pass([]Filter{m, {By: ByHolding, Terms: terms}}); res.Count > table.Len() ||
			m.Check() == nil && res.Steps[1].Removed != 0 {
			t.Errorf("%q: what starts or ends with a term does not hold it", s)
		}
	})
}

// TestSievesOfEarlierDays: a sieve that was written when filters were called otherwise is the same one.
func TestSievesOfEarlierDays(t *testing.T) {
	var old, now Sieve
	const filters = `[{"by":"words","number":4},{"by":"lacks","terms":["jobs"]}]`
	for key, s := range map[string]*Sieve{"meshes": &old, "filters": &now} {
		if err := json.Unmarshal([]byte(`{"name":"a","sort":"cpc","`+key+`":`+filters+`}`), s); err != nil {
			t.Fatal(err)
		}
	}
	if len(now.Filters) != 2 || !old.Same(now) || old.Name != "a" || old.Sort != "cpc" {
		t.Errorf("%+v, %+v", old, now)
	}
	if out, _ := json.Marshal(old); !strings.Contains(string(out), `"filters":[{"by":"words"`) {
		t.Errorf("%s", out)
	}
}
