package topic

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"sort"
	"strings"
	"testing"
	"testing/quick"
)

func pages(list ...uint32) []uint32 { return list }

// told writes topics by the phrases in them.
func told(ideas []Idea, topics []Topic) string {
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

func TestGroupByHand(t *testing.T) {
	ideas := []Idea{
		{"c", 50, "c", pages(1, 2, 3, 20, 21), nil},     // shares three with a
		{"a", 100, "a", pages(1, 2, 3, 4, 5), nil},      // leads
		{"b", 90, "b", pages(5, 6, 7, 8, 9), nil},       // shares one with a: leads
		{"d", 40, "d", pages(1, 2, 3, 6, 7, 8, 9), nil}, // three with a, four with b: joins b
		{"e", 30, "a", nil, nil},                        // a variant of a, not looked up
		{"f", 80, "f", nil, nil},                        // nobody's variant
		{"g", 20, "f", nil, nil},                        // a variant of f
		{"h", 10, "h", pages(4, 4, 4, 4), nil},          // one page four times is one page
		{"i", 5, "", nil, nil},                          // without a key
		{"j", 4, "", nil, nil},
	}
	if got, want := told(ideas, Group(ideas, Shared)), "a+c+e? b+d f+g? h i j"; got != want {
		t.Errorf("got %s, want %s", got, want)
	}
	if got, want := told(ideas, Group(ideas, 4)), "a+e? b+d f+g? c h i j"; got != want {
		t.Errorf("with four shared: got %s, want %s", got, want)
	}
	if got := Group(nil, 3); len(got) != 0 {
		t.Errorf("nothing gives %v", got)
	}
	top := Group(ideas, Shared)[0]
	if top.Members[1].Shared != 3 || top.Members[0].Shared != 5 || !top.Members[2].Assumed {
		t.Errorf("members %+v", top.Members)
	}
	// e is a variant of a: not added twice.
	if got := top.Searches(ideas); got != 150 {
		t.Errorf("the topic has %v searches", got)
	}
}

// TestWordsTellNeighbours: three pages in common are enough for two wordings of one
// thing, and not for two things that the same pages speak of.
func TestWordsTellNeighbours(t *testing.T) {
	const clean, lens, age, cheddar, gouda, homemade = 1, 2, 3, 4, 5, 6
	ideas := []Idea{
		{"age cheddar", 90, "", pages(1, 2, 3, 4, 5, 6, 7, 8, 9, 10), []uint32{age, cheddar}},
		{"age gouda", 80, "", pages(1, 2, 3, 4, 5, 6, 17, 18, 19, 20), []uint32{age, gouda}},                          // 6 pages, a third of the words
		{"age homemade cheddar", 70, "", pages(1, 2, 3, 4, 25, 26, 27, 28, 29, 30), []uint32{age, cheddar, homemade}}, // 4 pages, two thirds
		{"ripen it", 60, "", pages(1, 2, 3, 4, 5, 6, 7, 8, 9, 10), []uint32{lens}},                                    // the same ten, no word
		{"no words known", 50, "", pages(1, 2, 3, 41, 42, 43, 44, 45, 46, 47), nil},
		{"clean a lens", 40, "", pages(51, 52, 53), []uint32{clean, lens, lens}},
	}
	if got, want := told(ideas, Group(ideas, Shared)), "age cheddar+age homemade cheddar+ripen it+no words known age gouda clean a lens"; got != want {
		t.Errorf("got %s, want %s", got, want)
	}
	m := Group(ideas, Shared)[0].Members[1]
	if m.Shared != 4 || math.Abs(m.Words-2.0/3) > 1e-12 {
		t.Errorf("because %+v", m)
	}
}

// invented makes ideas on needs: wordings of a need share most of their results.
func invented(n int, seed uint64) (ideas []Idea, needs []int) {
	rng := rand.New(rand.NewPCG(seed, 3))
	for i := range n {
		need := rng.IntN(n/5 + 1)
		idea := Idea{Phrase: fmt.Sprintf("p%06d", i), Searches: math.Floor(1e5 * math.Pow(rng.Float64(), 6)), Variant: fmt.Sprint("v", i)}
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
		ideas, needs = append(ideas, idea), append(needs, need)
	}
	return ideas, needs
}

func TestOrderDoesNotMatter(t *testing.T) {
	ideas, _ := invented(800, 1)
	want := told(ideas, Group(ideas, Shared))
	for seed := range uint64(5) {
		mixed := slices.Clone(ideas)
		rand.New(rand.NewPCG(seed, 1)).Shuffle(len(mixed), func(i, j int) { mixed[i], mixed[j] = mixed[j], mixed[i] })
		if got := told(mixed, Group(mixed, Shared)); got != want {
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
		for _, topic := range Group(ideas, int(shared%10)) {
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
	var topics []Topic
	for b.Loop() {
		topics = Group(ideas, Shared)
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
