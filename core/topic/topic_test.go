package topic

import (
	"encoding/json"
	"fmt"
	"math"
	"math/rand/v2"
	"os"
	"slices"
	"sort"
	"strings"
	"testing"
	"testing/quick"
)

func pages(list ...uint32) []uint32 { return list }

// told writes topics by the phrases in them.
func told(ideas []Idea, topics []Group) string {
	var out []string
	for _, t := range topics {
		var names []string
		for _, m := range t.Members {
			name := ideas[m.Idea].Phrase
			if m.Assumed {
				name += "?"
			}
			names = append(names, name)
		}
		out = append(out, strings.Join(names, "+"))
	}
	return strings.Join(out, " ")
}

// TestPairsByHand: d(1), d(2), d(3) are 1, 0.6309 and 0.5; a page that two ideas have
// counts 1/ln 3 = 0.9102, one that three have 1/ln 4 = 0.7213.
func TestPairsByHand(t *testing.T) {
	ideas := []Idea{
		{"a", 100, "", pages(1, 2, 3), []uint32{7, 8, 8}, nil, 0},
		{"b", 90, "", pages(1, 3, 2), []uint32{8, 7, 9}, nil, 0},
		{"c", 80, "", pages(9, 9, 3, 1), nil, nil, 0}, // one page twice is one page, where it stands first
	}
	want := []Pair{
		{0, 1, 3, 0.7213*1*1 + 0.7213*0.5*0.6309 + 0.9102*0.6309*0.5, 0.9102, 2.0 / 3, Nothing, true},
		{0, 2, 2, 0.7213*1*0.4307 + 0.7213*0.5*0.5, 0.7213, 0, Nothing, true},
		{1, 2, 2, 0.7213*1*0.4307 + 0.7213*0.6309*0.5, 0.7213, 0, Nothing, true},
	}
	got := Pairs(ideas, 2)
	slices.SortFunc(got, func(a, b Pair) int { return 10*(a.A-b.A) + a.B - b.B })
	for i, p := range got {
		w := want[i]
		if p.A != w.A || p.B != w.B || p.Shared != w.Shared || math.Abs(p.Pages-w.Pages) > 1e-4 ||
			math.Abs(p.Rarest-w.Rarest) > 1e-4 || math.Abs(p.Words-w.Words) > 1e-12 {
			t.Errorf("%+v, want %+v", p, w)
		}
	}
	if len(got) != 3 || len(Pairs(ideas, 3)) != 1 {
		t.Errorf("%d pairs share two pages, %d three", len(got), len(Pairs(ideas, 3)))
	}
}

// TestTitles: what the titles found for two ideas tell of words that only one says.
func TestTitles(t *testing.T) {
	const goat, cheese, recipe, homemade, blue, easy = 1, 2, 3, 4, 5, 6
	recipes := []uint32{recipe, homemade, cheese}
	for name, c := range map[string]struct {
		a, b, saidA, saidB []uint32
		want               Titles
	}{
		"both said": {[]uint32{goat, recipe}, []uint32{homemade, goat}, recipes, recipes, Echoed},
		"one is said": {[]uint32{goat, recipe}, []uint32{homemade, goat}, []uint32{homemade}, []uint32{goat},
			Echoed},
		"neither is":             {[]uint32{goat, recipe}, []uint32{blue, recipe}, recipes, recipes, Apart},
		"only one of two is":     {[]uint32{goat, recipe}, []uint32{blue, homemade}, recipes, recipes, Apart},
		"more words are no swap": {[]uint32{goat, recipe}, []uint32{easy, goat, recipe}, recipes, recipes, Nothing},
		"the same words":         {[]uint32{goat, recipe}, []uint32{recipe, goat, goat}, recipes, recipes, Nothing},
		"titles not known":       {[]uint32{goat}, []uint32{blue}, recipes, nil, Nothing},
		"no words":               {nil, []uint32{blue}, recipes, recipes, Nothing},
	} {
		ideas := []Idea{{"a", 2, "", pages(1, 2), c.a, c.saidA, 0}, {"b", 1, "", pages(1, 2), c.b, c.saidB, 0}}
		both := []Idea{ideas[1], ideas[0]}
		if got, back := Pairs(ideas, 2)[0].Titles, Pairs(both, 2)[0].Titles; got != c.want || back != c.want {
			t.Errorf("%s: %v, and the other way %v, want %v", name, got, back, c.want)
		}
	}
}

// TestPairsMissNothing: the pairs are those that comparing all with all finds.
func TestPairsMissNothing(t *testing.T) {
	ideas, _ := invented(300, 5)
	for shared := FewestShared; shared <= 5; shared++ {
		want := 0
		for i := range ideas {
			for _, other := range ideas[:i] {
				both := 0
				for _, page := range other.Results {
					if slices.Contains(ideas[i].Results, page) {
						both++
					}
				}
				if both >= shared {
					want++
				}
			}
		}
		if got := len(Pairs(ideas, shared)); got != want {
			t.Errorf("%d pairs share %d pages, all with all finds %d", got, shared, want)
		}
	}
}

// simple has round figures.
var simple = Model{Pages: 3, Rarest: 1, Words: 4, Even: 0.5, Together: 0.4}

func TestGroupByHand(t *testing.T) {
	const clean, lens, age, cheddar, gouda = 1, 2, 3, 4, 5
	ideas := []Idea{
		// the same page first: is one need
		{"ripen", 50, "ripen", pages(1, 2, 3, 4), nil, nil, 0},
		{"age cheddar", 100, "age cheddar", pages(1, 2, 3, 5), []uint32{age, cheddar}, nil, 0}, // leads
		{"cheddar", 90, "cheddar", pages(1, 3, 2, 6), []uint32{cheddar}, nil, 0},
		{"age gouda", 80, "age gouda", pages(7, 8, 9, 3, 2, 1), []uint32{age, gouda}, nil, 0}, // three, further down
		{"clean a lens", 40, "clean", pages(10, 11, 12), []uint32{clean, lens, lens}, nil, 0},
		{"cheddar age", 30, "age cheddar", nil, nil, nil, 0}, // a variant, not looked up
		{"f", 85, "f", nil, nil, nil, 0},                     // nobody's variant
		{"g", 20, "f", nil, nil, nil, 0},                     // a variant of f
		{"h", 10, "h", pages(4, 4, 4, 4), nil, nil, 0},       // one page four times is one page
		{"i", 5, "", nil, nil, nil, 0},                       // without a key
		{"j", 4, "", nil, nil, nil, 0},
	}
	if got, want := told(ideas, simple.Group(ideas, 3)),
		"age cheddar+cheddar+ripen+cheddar age? f+g? age gouda clean a lens h i j"; got != want {
		t.Errorf("got %s, want %s", got, want)
	}
	if got, want := told(ideas, simple.Group(ideas, 4)),
		"age cheddar+cheddar age? cheddar f+g? age gouda ripen clean a lens h i j"; got != want {
		t.Errorf("with four shared: got %s, want %s", got, want)
	}
	if got := ByResults(nil, 3); len(got) != 0 {
		t.Errorf("nothing gives %v", got)
	}
	top := simple.Group(ideas, 3)[0]
	if m := top.Members; m[0].Shared != 4 || m[1].Shared != 3 || m[1].Words != 0.5 || !m[3].Assumed || m[3].Alike != 0 {
		t.Errorf("members %+v", m)
	}
	chance := func(a, b int) float64 {
		for _, p := range Pairs(ideas, 3) {
			if p.A == a && p.B == b || p.A == b && p.B == a {
				return simple.Chance(p)
			}
		}
		t.Fatal("no such pair")
		return 0
	}
	if got, want := top.Members[0].Alike, (chance(0, 1)+chance(1, 2))/2; math.Abs(got-want) > 1e-6 {
		t.Errorf("the lead is alike to the others by %v, by hand %v", got, want)
	}
	// The chances of the three pairs are 0.897, 0.548 and 0.540.
	for i, want := range []string{"most searched; 72 % likely",
		"72 % likely, on average, to share a need with the others; with “age cheddar” it shares 3 pages " +
			"and 50 % of the words",
		"54 % likely", "not looked up"} {
		lead := ""
		if i > 0 {
			lead = "age cheddar"
		}
		if got := top.Members[i].Because(lead); !strings.HasPrefix(got, want) {
			t.Errorf("member %d because %q", i, got)
		}
	}
	// The one that is not looked up is a variant: its searches are not added.
	if got := top.Searches(ideas); got != 240 {
		t.Errorf("the topic has %v searches", got)
	}
}

func TestBecauseOfTitles(t *testing.T) {
	for titles, want := range map[Titles]string{Nothing: "50 % of the words",
		Echoed: "titles found for one say what only the other says",
		Apart:  "but each says what no titles found for the other say"} {
		if got := (Member{Shared: 3, Words: 0.5, Alike: 0.6, Titles: titles}).Because("goat cheese"); !strings.HasSuffix(
			got, want) {
			t.Errorf("%v: because %q", titles, got)
		}
	}
}

// TestFound: what is said, asked and found is numbered alike, and a slip of typing is
// read as its results read it.
func TestFound(t *testing.T) {
	numbers := Numbers{}
	titles := []string{"Goat Cheese Press", "The goat cheese", "A cheese press"}
	a := numbers.Found("goat chese", "en", 90, []string{"http://a.example/", "http://b.example/"}, titles)
	b := numbers.Found("cheese goats", "en", 80, []string{"http://b.example/", "http://a.example/"}, titles)
	if a.Phrase != "goat chese" || a.Searches != 90 || a.Variant == b.Variant ||
		!slices.Equal(a.Results, []uint32{b.Results[1], b.Results[0]}) {
		t.Errorf("%+v and %+v", a, b)
	}
	slices.Sort(a.Stems)
	slices.Sort(b.Stems)
	if !slices.Equal(a.Stems, b.Stems) || len(a.Said) != 3 || !slices.Contains(a.Said, a.Stems[0]) || len(numbers) != 5 {
		t.Errorf("%+v and %+v with %v", a, b, numbers)
	}
	if c := numbers.Found("goat", "en", 1, nil, nil); c.Results != nil || c.Said != nil || len(c.Stems) != 1 {
		t.Errorf("nothing found: %+v", c)
	}
}

// TestSameTenNeedNoWord: the calibrated model takes ideas with the same results for one
// need whatever they say, and those with no page in common for two.
func TestSameTenNeedNoWord(t *testing.T) {
	ideas := []Idea{
		{"star party", 90, "", pages(1, 2, 3, 4, 5, 6, 7, 8, 9, 10), []uint32{1, 2}, nil, 0},
		{"stargazing evening", 80, "", pages(1, 2, 3, 4, 5, 6, 7, 8, 9, 10), []uint32{3, 4}, nil, 0},
		{"party star", 70, "", pages(11, 12, 13, 14), []uint32{1, 2}, nil, 0},
	}
	if got, want := told(ideas, ByResults(ideas, Shared)), "star party+stargazing evening party star"; got != want {
		t.Errorf("got %s, want %s", got, want)
	}
}

// TestChanceRises: more pages, rarer ones or more words in common never make one need
// less likely.
func TestChanceRises(t *testing.T) {
	check := func(pages, rarest, words, more float64) bool {
		to := func(v, most float64) float64 { return math.Abs(math.Mod(v, most)) }
		p, d := Pair{Pages: to(pages, 3), Rarest: to(rarest, 1.5), Words: to(words, 1)}, to(more, 1)
		c := Calibrated.Chance(p)
		if c < 0 || c > 1 {
			return false
		}
		for _, part := range []*float64{&p.Pages, &p.Rarest, &p.Words} {
			*part += d
			rises := Calibrated.Chance(p) >= c
			if *part -= d; !rises {
				return false
			}
		}
		echoed, apart := p, p
		echoed.Titles, apart.Titles = Echoed, Apart
		return Calibrated.Chance(Pair{}) == 0 && Calibrated.Chance(apart) <= c && c <= Calibrated.Chance(echoed)
	}
	if err := quick.Check(check, nil); err != nil {
		t.Error(err)
	}
}

// TestAverageLinkage compares with what R's hclust makes of the same chances; see
// testdata/reference.R.
func TestAverageLinkage(t *testing.T) {
	data, err := os.ReadFile("testdata/reference.json")
	if err != nil {
		t.Fatal(err)
	}
	var ref struct {
		A, B     []int32
		Chance   []float32
		Together []float64
		Groups   [][]int
	}
	if err := json.Unmarshal(data, &ref); err != nil {
		t.Fatal(err)
	}
	var links []link
	for i := range ref.A {
		links = append(links, link{ref.A[i], ref.B[i], ref.Chance[i]})
	}
	for i, together := range ref.Together {
		var roots []int
		for _, r := range merge(len(ref.Groups[i]), links, together, make([]int32, len(ref.Groups[i])), nil) {
			roots = append(roots, int(r))
		}
		if AdjustedRand(roots, ref.Groups[i]) != 1 {
			t.Errorf("together from %v: %v, in R %v", together, roots, ref.Groups[i])
		}
	}
}

// bestFirst is average linkage as it is defined: the two most alike of all, again and
// again.
func bestFirst(n int, links []link, together float64) []int {
	of := make([]int, n)
	for i := range of {
		of[i] = i
	}
	for {
		sums, sizes := map[[2]int]float64{}, map[int]float64{}
		for _, o := range of {
			sizes[o]++
		}
		for _, l := range links {
			if a, b := of[l.a], of[l.b]; a != b {
				sums[[2]int{min(a, b), max(a, b)}] += float64(l.chance)
			}
		}
		best, most := [2]int{}, 0.0
		for pair, sum := range sums {
			if mean := sum / sizes[pair[0]] / sizes[pair[1]]; mean > most {
				best, most = pair, mean
			}
		}
		if most < together || most == 0 {
			return of
		}
		for i, o := range of {
			if o == best[1] {
				of[i] = best[0]
			}
		}
	}
}

func TestMergeIsBestFirst(t *testing.T) {
	check := func(seed uint64, cut uint8) bool {
		rng := rand.New(rand.NewPCG(seed, 9))
		n, together := 3+rng.IntN(40), 0.05+float64(cut%12)/13
		var links []link
		for b := range int32(n) {
			for a := range b {
				if rng.IntN(3) == 0 {
					links = append(links, link{a, b, rng.Float32()})
				}
			}
		}
		got := merge(n, links, together, make([]int32, n), nil)
		for i, want := range bestFirst(n, links, together) {
			if int(got[i]) != want {
				t.Logf("%d ideas from %v: idea %d is in %d, best first in %d", n, together, i, got[i], want)
				return false
			}
		}
		return true
	}
	if err := quick.Check(check, &quick.Config{MaxCount: 200}); err != nil {
		t.Error(err)
	}
}

// TestOneTenForAll: a list where everybody has the same pages ends, and stays whole as
// far as links go.
func TestOneTenForAll(t *testing.T) {
	ideas := make([]Idea, 5000)
	for i := range ideas {
		ideas[i] = Idea{Phrase: fmt.Sprint("p", i), Results: pages(1, 2, 3, 4, 5, 6, 7, 8, 9, 10), Stems: []uint32{1}}
	}
	topics, members := simple.Group(ideas, Shared), 0
	for _, one := range topics {
		members += len(one.Members)
	}
	if members != len(ideas) || len(topics[0].Members) < mostLinks {
		t.Errorf("%d members in %d topics, the first of %d", members, len(topics), len(topics[0].Members))
	}
}

// invented makes ideas on needs: wordings of a need share most of their results.
func invented(n int, seed uint64) (ideas []Idea, needs []int) {
	rng := rand.New(rand.NewPCG(seed, 3))
	for i := range n {
		need := rng.IntN(n/5 + 1)
		idea := Idea{Phrase: fmt.Sprintf("p%06d", i), Searches: math.Floor(1e5 * math.Pow(rng.Float64(), 6)),
			Variant: fmt.Sprint("v", i)}
		for len(idea.Results) < 10 {
			page := uint32(need*8 + rng.IntN(10)) // two pages are shared with the next need
			if rng.IntN(4) == 0 {
				page = uint32(math.Pow(rng.Float64(), 3) * float64(2*n)) // pages that stand everywhere
			}
			if !slices.Contains(idea.Results, page) {
				idea.Results = append(idea.Results, page)
			}
		}
		for word := range 3 { // said by all who want it, and then one of three more
			idea.Stems = append(idea.Stems, uint32(need*6+word))
		}
		idea.Stems = append(idea.Stems, uint32(need*6+3+rng.IntN(3)))
		for word := range 6 { // titles mostly say what is wanted
			if rng.IntN(3) > 0 {
				idea.Said = append(idea.Said, uint32(need*6+word))
			}
		}
		ideas, needs = append(ideas, idea), append(needs, need)
	}
	return ideas, needs
}

func TestOrderDoesNotMatter(t *testing.T) {
	ideas, _ := invented(800, 1)
	want := told(ideas, ByResults(ideas, Shared))
	for seed := range uint64(5) {
		mixed := slices.Clone(ideas)
		rand.New(rand.NewPCG(seed, 1)).Shuffle(len(mixed), func(i, j int) { mixed[i], mixed[j] = mixed[j], mixed[i] })
		if got := told(mixed, ByResults(mixed, Shared)); got != want {
			t.Fatal("another order gives other topics")
		}
	}
}

func TestEveryIdeaOnce(t *testing.T) {
	check := func(seed uint64, shared uint8) bool {
		ideas, _ := invented(200, seed)
		for i := range ideas {
			if i%7 == 0 {
				ideas[i].Results = nil
			}
		}
		var seen []int
		for _, topic := range ByResults(ideas, int(shared%10)) {
			for _, m := range topic.Members {
				seen = append(seen, m.Idea)
			}
		}
		sort.Ints(seen)
		for i := range ideas {
			if i >= len(seen) || seen[i] != i {
				return false
			}
		}
		return len(seen) == len(ideas)
	}
	if err := quick.Check(check, &quick.Config{MaxCount: 30}); err != nil {
		t.Error(err)
	}
}

// TestAdjustedRand compares with scikit-learn 1.2's adjusted_rand_score on the same
// labels.
func TestAdjustedRand(t *testing.T) {
	for _, c := range []struct {
		a, b []int
		want float64
	}{
		{[]int{0, 0, 1, 1}, []int{0, 0, 1, 1}, 1},
		{[]int{0, 0, 1, 1}, []int{1, 1, 0, 0}, 1},
		{[]int{0, 0, 1, 1}, []int{0, 0, 1, 2}, 0.5714285714285714},
		{[]int{0, 0, 0, 0}, []int{0, 1, 2, 3}, 0},
		{[]int{0, 0, 1, 1}, []int{0, 1, 0, 1}, -0.5},
		{[]int{0, 0, 0, 1, 1, 1, 2, 2, 2, 2}, []int{0, 0, 1, 1, 2, 2, 3, 3, 3, 0}, 0.3644067796610169},
		{[]int{1, 1, 1}, []int{7, 7, 7}, 1},
		{nil, nil, 1},
	} {
		if got := AdjustedRand(c.a, c.b); math.Abs(got-c.want) > 1e-12 {
			t.Errorf("%v and %v: %v, want %v", c.a, c.b, got, c.want)
		}
	}
}

func benchmarkGroup(b *testing.B, n int) {
	ideas, needs := invented(n, 2)
	var topics []Group
	for b.Loop() {
		topics = ByResults(ideas, Shared)
	}
	found := make([]int, n)
	for i, t := range topics {
		for _, m := range t.Members {
			found[m.Idea] = i
		}
	}
	b.ReportMetric(AdjustedRand(found, needs), "ARI")
}

func BenchmarkGroup10k(b *testing.B)  { benchmarkGroup(b, 10_000) }
func BenchmarkGroup100k(b *testing.B) { benchmarkGroup(b, 100_000) }

// TestHubsInDetail: a hub whose lead is said whole goes before one of which more words are said; equal leads are
// nobody's overview.
func TestHubsInDetail(t *testing.T) {
	pages := []uint32{1, 2, 3}
	topics := []Subject{{Stems: []string{"telescop"}, Searches: 10},
		{Stems: []string{"guid", "kit", "mount", "telescop"}, Results: pages, Searches: 900},
		{Stems: []string{"guid", "mount", "telescop", "x", "y"}, Results: pages},
		{Stems: []string{"guid", "mount", "telescop", "v", "w"}, Results: pages}}
	if got := Hubs(topics, nil); got[2] != 0 || got[3] != 0 {
		t.Errorf("spokes hang on %v", got)
	}
	same := Subject{Stems: []string{"moon", "map"}}
	for i, hub := range Hubs([]Subject{same, same, same}, nil) {
		if hub != NoHub {
			t.Errorf("of three equal leads %d hangs on %d", i, hub)
		}
	}
}

// TestSameIntent: two that ask for another kind of thing are less likely one need.
func TestSameIntent(t *testing.T) {
	ideas := []Idea{{Phrase: "best telescope", Results: pages(1, 2, 3), Stems: []uint32{1}, Intent: 2},
		{Phrase: "top telescope", Results: pages(1, 2, 3), Stems: []uint32{1}, Intent: 2},
		{Phrase: "buy a telescope", Results: pages(1, 2, 3), Stems: []uint32{1}, Intent: 3}}
	same := map[[2]int]bool{}
	for _, p := range Pairs(ideas, 2) {
		same[[2]int{min(p.A, p.B), max(p.A, p.B)}] = p.SameIntent
	}
	if len(same) != 3 || !same[[2]int{0, 1}] || same[[2]int{0, 2}] || same[[2]int{1, 2}] {
		t.Errorf("%v", same)
	}
	p := Pair{Pages: 1, Rarest: 0.5, Words: 0.5}
	apart := Calibrated.Chance(p)
	if p.SameIntent = true; Calibrated.Chance(p) <= apart {
		t.Errorf("%v with the same intent, %v without", Calibrated.Chance(p), apart)
	}
}

// TestALeadThatIsNotLookedUp: who leads by hand need not be looked up, though others of the topic are: as while a
// niche's file comes in.
func TestALeadThatIsNotLookedUp(t *testing.T) {
	ideas := []Idea{{Phrase: "moon map", Searches: 10}, {Phrase: "map of the moon", Searches: 5,
		Results: []uint32{1, 2, 3, 4, 5}, Stems: []uint32{1, 2}}}
	hands := []Hand{{Topic: 1, Leads: true}, {Topic: 1}}
	g := Calibrated.Grouped(ideas, hands, 3)
	if len(g.Groups) != 1 || g.Groups[0].Lead() != 0 || !g.Groups[0].Members[1].Assumed {
		t.Errorf("%+v", g.Groups)
	}
}
