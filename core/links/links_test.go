package links

import (
	"bufio"
	"math"
	"math/rand/v2"
	"os"
	"strings"
	"testing"
	"testing/quick"

	"gonum.org/v1/gonum/graph/network"
	"gonum.org/v1/gonum/graph/simple"
)

// TestSiteOfPSLVectors reads the Public Suffix List's own test vectors.
func TestSiteOfPSLVectors(t *testing.T) {
	f, err := os.Open("testdata/psl.txt")
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	n := 0
	for lines := bufio.NewScanner(f); lines.Scan(); {
		host, want, ok := strings.Cut(lines.Text(), "\t")
		if !ok || strings.HasPrefix(host, "#") {
			continue
		}
		n++
		host, want = strings.TrimPrefix(host, "-"), strings.TrimPrefix(want, "-")
		got := Suffixes{}.Site(host)
		// The list writes some names in Unicode; a site is named in ASCII.
		if got != cleanHost(want) {
			t.Errorf("Site(%q) = %q, want %q", host, got, want)
		}
	}
	if n < 60 {
		t.Errorf("only %d vectors were read", n)
	}
}

func TestSuffixAdditions(t *testing.T) {
	s := NewSuffixes("pages.example", "Plainpost.Example.")
	for host, want := range map[string]string{
		"anna.pages.example": "anna.pages.example", "www.anna.pages.example": "anna.pages.example", "pages.example": "",
		"B.plainpost.example": "b.plainpost.example", "shop.example": "shop.example", "www.shop.example.": "shop.example",
		"192.0.2.7": "192.0.2.7", "": "", "..": "",
	} {
		if got := s.Site(host); got != want {
			t.Errorf("Site(%q) = %q, want %q", host, got, want)
		}
	}
	for host, want := range map[string]bool{"anna.pages.example": true, "pages.example": false, "shop.example": false,
		"someone.github.io": true, "www.example.co.uk": false} {
		if got := s.FreeHost(host); got != want {
			t.Errorf("FreeHost(%q) = %v", host, got)
		}
	}
}

// TestPageRankOfTextbook is example 21.1 of Manning, Raghavan & Schütze,
// "Introduction to Information Retrieval" (2008): seven pages, teleport 0.14.
func TestPageRankOfTextbook(t *testing.T) {
	edges := []Edge{{0, 2}, {1, 1}, {1, 2}, {2, 0}, {2, 2}, {2, 3}, {3, 3}, {3, 4}, {4, 6}, {5, 5}, {5, 6}, {6, 3},
		{6, 4}, {6, 6}}
	want := []float64{0.05, 0.04, 0.11, 0.25, 0.21, 0.04, 0.31}
	for i, r := range PageRank(7, edges, 0.86) {
		if math.Abs(r-want[i]) > 0.005 {
			t.Errorf("page %d: %.4f, the book has %.2f", i, r, want[i])
		}
	}
}

func randomGraph(n, m int, seed uint64) []Edge {
	rng := rand.New(rand.NewPCG(seed, 7))
	seen := map[Edge]bool{}
	var edges []Edge
	for len(edges) < m {
		e := Edge{rng.IntN(n), rng.IntN(n)}
		if e.From != e.To && !seen[e] && e.From%9 != 0 { // every ninth is dangling
			seen[e] = true
			edges = append(edges, e)
		}
	}
	return edges
}

// TestPageRankOfGonum compares with gonum's network.PageRankSparse on random
// graphs with dangling nodes.
func TestPageRankOfGonum(t *testing.T) {
	for seed := uint64(1); seed <= 4; seed++ {
		n := 120
		g := simple.NewDirectedGraph()
		for i := range n {
			g.AddNode(simple.Node(i))
		}
		edges := randomGraph(n, 700, seed)
		for _, e := range edges {
			g.SetEdge(g.NewEdge(simple.Node(e.From), simple.Node(e.To)))
		}
		want := network.PageRankSparse(g, Damping, 1e-11)
		for i, r := range PageRank(n, edges, Damping) {
			if math.Abs(r-want[int64(i)]) > 1e-6 {
				t.Fatalf("seed %d, node %d: %.9f, gonum has %.9f", seed, i, r, want[int64(i)])
			}
		}
	}
}

func TestPageRankEdges(t *testing.T) {
	if PageRank(0, nil, Damping) != nil {
		t.Error("no vertices have ranks")
	}
	for i, r := range PageRank(3, []Edge{{-1, 2}, {0, 9}}, Damping) { // all dangling
		if math.Abs(r-1.0/3) > 1e-12 {
			t.Errorf("vertex %d of an empty graph has rank %v", i, r)
		}
	}
	sum := 0.0
	for _, r := range PageRank(50, append(randomGraph(50, 200, 3), Edge{4, 4}, Edge{4, 4}), Damping) {
		sum += r
	}
	if math.Abs(sum-1) > 1e-9 {
		t.Errorf("ranks sum to %v", sum)
	}
}

func TestOnScale(t *testing.T) {
	got := OnScale([]float64{0.001, 0.01, 0.1})
	for i, want := range []float64{0, 50, 100} {
		if math.Abs(got[i]-want) > 1e-9 {
			t.Errorf("got %v", got)
		}
	}
	for _, x := range OnScale([]float64{0.2, 0.2}) {
		if x != 0 {
			t.Errorf("equal ranks stand at %v", x)
		}
	}
}

func TestFollowed(t *testing.T) {
	for rel, want := range map[string]bool{"": true, "noopener external": true, "nofollow": false,
		"UGC noopener": false, "sponsored": false} {
		if got := (Link{Rel: rel}).Followed(); got != want {
			t.Errorf("rel=%q: followed %v", rel, got)
		}
	}
}

func TestProfileCountsSites(t *testing.T) {
	standing := map[string]float64{"big.example": 60, "small.example": 5, "own.example": 50, "192.0.2.9": 40}
	p := Profiler{Standing: func(s string) float64 { return standing[s] }}
	got := p.Profile("http://www.own.example/page", []Link{
		{From: "http://big.example/a", Rel: "nofollow"}, {From: "http://www.big.example/b", Anchor: "b"},
		{From: "http://small.example/"}, {From: "http://nowhere.example/"}, {From: "http://other.example/", Rel: "ugc"},
		{From: "http://192.0.2.9/list"}, {From: "http://own.example/menu"}, {From: "not an address"},
	})
	want := Profile{Links: 6, Sites: 5, Followed: 4, Solid: 1, Nowhere: 1}
	if got.Links != want.Links || got.Sites != want.Sites || got.Followed != want.Followed ||
		got.Solid != want.Solid || got.Nowhere != want.Nowhere {
		t.Errorf("got %+v, want %+v", got, want)
	}
	if len(got.Strongest) != 4 || got.Strongest[0].Site != "big.example" || got.Strongest[0].Anchor != "b" {
		t.Errorf("strongest: %+v", got.Strongest)
	}
	if hand := 100 * (1 - math.Exp(-(0.36+0.0025)/LinkGain)); math.Abs(got.Standing-hand) > 1e-9 {
		t.Errorf("standing %v, by hand %v", got.Standing, hand)
	}
}

func TestMoreLinksNeverLower(t *testing.T) {
	more := func(list []uint8, one uint8) bool {
		var sites []float64
		for _, s := range list {
			sites = append(sites, float64(s%101))
		}
		before := PageStanding(sites)
		after := PageStanding(append(sites, float64(one%101)))
		return after >= before && after <= 100
	}
	if err := quick.Check(more, nil); err != nil {
		t.Error(err)
	}
}

func BenchmarkPageRank1M(b *testing.B) {
	edges := randomGraph(100_000, 1_000_000, 1)
	for b.Loop() {
		PageRank(100_000, edges, Damping)
	}
}

func BenchmarkPageRank10k(b *testing.B) {
	edges := randomGraph(2_000, 10_000, 1)
	b.Run("ours", func(b *testing.B) {
		for b.Loop() {
			PageRank(2_000, edges, Damping)
		}
	})
	g := simple.NewDirectedGraph()
	for i := range 2_000 {
		g.AddNode(simple.Node(i))
	}
	for _, e := range edges {
		g.SetEdge(g.NewEdge(simple.Node(e.From), simple.Node(e.To)))
	}
	b.Run("gonum", func(b *testing.B) {
		for b.Loop() {
			network.PageRankSparse(g, Damping, 1e-10)
		}
	})
}
