package main

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"math"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"time"

	"cleverniche/core/demand"
	"cleverniche/core/links"
	"cleverniche/core/phrase"
	"cleverniche/core/sieve"
	"cleverniche/core/topic"

	"gonum.org/v1/gonum/graph/network"
	"gonum.org/v1/gonum/graph/simple"
)

func random() *rand.Rand { return rand.New(rand.NewPCG(7, 7)) }

var contests = []contest{
	{name: "PageRank, 100,000 vertices, 1,000,000 edges", bar: 2 * time.Second, ours: pageRank,
		other: "networkx, sparse", script: networkx},
	{name: "PageRank, 2,000 vertices, 20,000 edges", ours: smallRank, other: "gonum, sparse", here: gonumRank},
	{name: "Sieve, 1,000,000 ideas, 8 filters, first 100", bar: 25 * time.Millisecond, ours: sift, other: "numpy masks",
		script: masks},
	{name: "Topics, 100,000 ideas of 10 pages", bar: 1500 * time.Millisecond,
		ours: func() func() { return grouping(100_000) }},
	{name: "Topics, 4,000 ideas of 10 pages", ours: func() func() { return grouping(4000) },
		other: "SciPy, from ready chances", script: averageLinkage},
	{name: "Adjusted Rand, 1,000,000 members", ours: rand1M, other: "scikit-learn", script: sklearn},
	{name: "Stems, 200,000 English words", ours: stems, other: "stemwords", script: stemwords},
	{name: "Season, 1,000 series of 48 months", ours: seasons, other: "R decompose", script: decompose},
	{name: "Mann–Kendall, 1,000 series of 48 months", ours: kendall, other: "R cor.test", script: corTest},
	{name: "Import, 200,000 rows with 12 months", ours: func() func() { return importing(200_000) },
		other: "sqlite3 .import", script: sqliteImport(200_000)},
}

func edges(n, m int) []links.Edge {
	rng := random()
	out := make([]links.Edge, m)
	for i := range out {
		// Some are linked to far more than others, as in any web.
		out[i] = links.Edge{From: rng.IntN(n), To: int(float64(n) * math.Pow(rng.Float64(), 3))}
	}
	return out
}

func pageRank() func() {
	list := edges(100_000, 1_000_000)
	return func() { links.PageRank(100_000, list, links.Damping) }
}

func smallRank() func() {
	list := edges(2000, 20_000)
	return func() { links.PageRank(2000, list, links.Damping) }
}

func gonumRank() time.Duration {
	g := simple.NewDirectedGraph()
	for i := range 2000 {
		g.AddNode(simple.Node(i))
	}
	for _, e := range edges(2000, 20_000) {
		if e.From != e.To {
			g.SetEdge(simple.Edge{F: simple.Node(e.From), T: simple.Node(e.To)})
		}
	}
	begun := time.Now()
	network.PageRankSparse(g, links.Damping, 1e-10)
	return time.Since(begun)
}

// numbers writes whole numbers to a file that numpy reads.
func numbers(dir, name string, list []int64) string {
	var b bytes.Buffer
	binary.Write(&b, binary.LittleEndian, list)
	path := filepath.Join(dir, name)
	os.WriteFile(path, b.Bytes(), 0o600)
	return path
}

func networkx(dir string) (string, []string, []byte) {
	var flat []int64
	for _, e := range edges(100_000, 1_000_000) {
		flat = append(flat, int64(e.From), int64(e.To))
	}
	return python, []string{"-c", `
import sys, time, numpy as np, networkx as nx
e = np.fromfile(sys.argv[1], dtype="<i8").reshape(-1, 2)
g = nx.DiGraph(); g.add_nodes_from(range(100000)); g.add_edges_from(map(tuple, e))
b = time.perf_counter(); nx.pagerank(g, alpha=0.85, tol=1e-15, max_iter=1000); print("seconds", time.perf_counter() - b)
`, numbers(dir, "edges", flat)}, nil
}

// figures of the ideas that both sides sift.
func figures() (words, searches, cpc, difficulty, footholds []int64) {
	rng := random()
	for range 1_000_000 {
		words = append(words, 1+rng.Int64N(8))
		searches = append(searches, rng.Int64N(5000))
		cpc = append(cpc, rng.Int64N(4_000_000))
		difficulty = append(difficulty, rng.Int64N(100))
		footholds = append(footholds, rng.Int64N(11))
	}
	return
}

func sift() func() {
	words, searches, cpc, difficulty, footholds := figures()
	ideas := make([]sieve.Idea, len(words))
	for i := range ideas {
		ideas[i] = sieve.Unmeasured(uint(i+1), fmt.Sprintf("phrase number %d of many", i), int(words[i]))
		for f, x := range map[*sieve.Figure]float64{sieve.Searches: float64(searches[i]), sieve.CPC: float64(cpc[i]) / 1e6,
			sieve.LookedUp: 1, sieve.Difficulty: float64(difficulty[i]), sieve.Footholds: float64(footholds[i]),
			sieve.LinksNeeded: 0} {
			ideas[i].Put(f, sieve.Of(x))
		}
	}
	table := sieve.NewTable("en", ideas)
	k := 0.0
	return func() {
		k++ // no bar is where it was before, so nothing is remembered
		off := k / 1e6
		res := table.Pass([]sieve.Filter{sieve.At(sieve.ByLength, 2+off), sieve.At(sieve.ByLeastSearches, 100+off),
			sieve.At(sieve.ByMostSearches, 4900+off), sieve.At(sieve.ByCost, 0.2+off),
			sieve.At(sieve.ByMostDifficulty, 80+off), sieve.At(sieve.ByLeastFootholds, 1+off),
			sieve.At(sieve.ByVisits, 5+off), sieve.At(sieve.ByLinks, 300+off)})
		table.Top(res.Left, sieve.Searches, true, 0, 100)
	}
}

func masks(dir string) (string, []string, []byte) {
	words, searches, cpc, difficulty, footholds := figures()
	args := []string{"-c", `
import sys, time, numpy as np
w, s, c, d, f = (np.fromfile(p, dtype="<i8") for p in sys.argv[1:])
l = np.zeros_like(w)
def sift():
    left = np.ones(len(w), dtype=bool); counts = []
    for m in (w >= 3, s >= 101, s <= 4900, c >= 200001, d <= 80, f >= 2, s * 0.421 / 30.4 >= 5, l <= 300):
        alone = len(w) - np.count_nonzero(m); left &= m; counts.append((alone, np.count_nonzero(left)))
    at = np.flatnonzero(left); k = np.argpartition(-s[at], 100)[:100]
    return counts, at[k][np.argsort(-s[at][k])]
sift(); b = time.perf_counter()
for _ in range(20): sift()
print("seconds", (time.perf_counter() - b) / 20)
`}
	for i, list := range [][]int64{words, searches, cpc, difficulty, footholds} {
		args = append(args, numbers(dir, fmt.Sprint("column", i), list))
	}
	return python, args, nil
}

func grouping(n int) func() {
	ideas := wordings(n)
	return func() { topic.ByResults(ideas, topic.Shared) }
}

// averageLinkage merges by the chances of all pairs, which it need not find.
func averageLinkage(dir string) (string, []string, []byte) {
	var flat []int64
	for _, p := range topic.Pairs(wordings(4000), topic.Shared) {
		flat = append(flat, int64(p.A), int64(p.B), int64(1e6*topic.Calibrated.Chance(p)))
	}
	return python, []string{"-c", `
import sys, time, numpy as np
from scipy.cluster.hierarchy import average, fcluster
from scipy.spatial.distance import squareform
l = np.fromfile(sys.argv[1], dtype="<i8").reshape(-1, 3)
d = np.ones((4000, 4000)); d[l[:, 0], l[:, 1]] = d[l[:, 1], l[:, 0]] = 1 - l[:, 2] / 1e6; np.fill_diagonal(d, 0)
d = squareform(d, checks=False)
b = time.perf_counter()
fcluster(average(d), 1 - float(sys.argv[2]), "distance")
print("seconds", time.perf_counter() - b)
`, numbers(dir, "links", flat), fmt.Sprint(topic.Calibrated.Together)}, nil
}

// wordings invents ideas, four to a need in the mean.
func wordings(n int) []topic.Idea {
	rng := random()
	ideas := make([]topic.Idea, n)
	for i := range ideas {
		of := rng.Uint32N(uint32(n / 4))
		ideas[i] = topic.Idea{Phrase: fmt.Sprintf("phrase %d", i), Searches: 5000 * rng.Float64()}
		for k := range uint32(10) {
			page := of*8 + k%8
			if rng.IntN(3) == 0 {
				page = uint32(2*n) + rng.Uint32N(uint32(n)) // a page that stands for much else
			}
			ideas[i].Results = append(ideas[i].Results, page)
		}
		ideas[i].Stems = []uint32{3 * of, 3*of + 1, uint32(n) + rng.Uint32N(6)}
		ideas[i].Said = []uint32{3 * of, 3*of + 1, 3*of + 2, uint32(n) + rng.Uint32N(6), uint32(n) + rng.Uint32N(6),
			uint32(2*n) + of}
	}
	return ideas
}

func labels() (a, b []int) {
	rng := random()
	for range 1_000_000 {
		a = append(a, rng.IntN(5000))
		b = append(b, a[len(a)-1]/(1+rng.IntN(2)))
	}
	return
}

func rand1M() func() {
	a, b := labels()
	return func() { topic.AdjustedRand(a, b) }
}

func sklearn(dir string) (string, []string, []byte) {
	a, b := labels()
	wide := func(list []int) (out []int64) {
		for _, x := range list {
			out = append(out, int64(x))
		}
		return
	}
	return python, []string{"-c", `
import sys, time, numpy as np
from sklearn.metrics import adjusted_rand_score
a, b = (np.fromfile(p, dtype="<i8") for p in sys.argv[1:])
t = time.perf_counter(); adjusted_rand_score(a, b); print("seconds", time.perf_counter() - t)
`, numbers(dir, "a", wide(a)), numbers(dir, "b", wide(b))}, nil
}

// vocabulary invents words with English endings.
func vocabulary() []string {
	rng := random()
	endings := strings.Fields("s es ed ing ational fulness iveness ies ly ment ed er est ability")
	out := make([]string, 200_000)
	for i := range out {
		var b strings.Builder
		for range 2 + rng.IntN(3) {
			b.WriteByte("bcdfglmnprstv"[rng.IntN(13)])
			b.WriteByte("aeiou"[rng.IntN(5)])
		}
		out[i] = b.String() + endings[rng.IntN(len(endings))]
	}
	return out
}

func stems() func() {
	list := vocabulary()
	return func() {
		for _, w := range list {
			phrase.Stem(w, "en")
		}
	}
}

func stemwords(string) (string, []string, []byte) {
	return "stemwords", []string{"-l", "english"}, []byte(strings.Join(vocabulary(), "\n"))
}

func series() [][]float64 {
	rng := random()
	out := make([][]float64, 1000)
	for i := range out {
		for m := range 48 {
			out[i] = append(out[i], math.Round(500*(1+0.5*math.Sin(float64(m)/12*2*math.Pi))*(0.8+0.4*rng.Float64())))
		}
	}
	return out
}

func seasons() func() {
	first, _ := demand.ParseMonth("2022-01")
	var list []demand.Series
	for _, x := range series() {
		var s demand.Series
		for m, v := range x {
			s.Counts = append(s.Counts, demand.Count{Month: first + demand.Month(m), Searches: int(v)})
		}
		list = append(list, s)
	}
	return func() {
		for _, s := range list {
			demand.SeasonOf(s)
		}
	}
}

func kendall() func() {
	list := series()
	return func() {
		for _, x := range list {
			demand.MannKendall(x)
		}
	}
}

func inR(work string) func(string) (string, []string, []byte) {
	return func(dir string) (string, []string, []byte) {
		var b strings.Builder
		for _, x := range series() {
			b.WriteString(strings.Trim(fmt.Sprint(x), "[]") + "\n")
		}
		path := filepath.Join(dir, "series")
		os.WriteFile(path, []byte(b.String()), 0o600)
		return "Rscript", []string{"-e",
			fmt.Sprintf(`x <- as.matrix(read.table(%q)); b <- proc.time()[["elapsed"]]
for (i in 1:nrow(x)) { %s }; cat("seconds", proc.time()[["elapsed"]] - b)`, path, work)}, nil
	}
}

var (
	decompose = inR(`decompose(ts(x[i,], frequency = 12), "multiplicative")`)
	corTest   = inR(`suppressWarnings(cor.test(1:48, x[i,], method = "kendall", exact = FALSE))`)
)
