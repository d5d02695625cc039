package links

import "math"

// Damping is the probability that the surfer of PageRank follows a link (Brin &
// Page 1998, "The Anatomy of a Large-Scale Hypertextual Web Search Engine").
const Damping = 0.85

// Edge is a link between two vertices, by their numbers from 0.
type Edge struct{ From, To int }

// PageRank returns the stationary probabilities of the random surfer over n
// vertices; they sum to 1. Parallel edges count as often as they stand there. A
// vertex without out-links (dangling) jumps anywhere with equal chance. Edges to
// or from a vertex outside 0…n−1 are ignored. The power iteration stops when the
// sum of absolute changes is below 1e-10, or after 1,000 rounds.
func PageRank(n int, edges []Edge, damping float64) []float64 {
	if n <= 0 {
		return nil
	}
	start, to := outLists(n, edges)
	rank, next := make([]float64, n), make([]float64, n)
	for i := range rank {
		rank[i] = 1 / float64(n)
	}
	for round := 0; round < 1000; round++ {
		dangling := 0.0
		for v := range n {
			next[v] = 0
			if start[v] == start[v+1] {
				dangling += rank[v]
			}
		}
		for v := range n {
			if k := start[v+1] - start[v]; k > 0 {
				share := damping * rank[v] / float64(k)
				for _, w := range to[start[v]:start[v+1]] {
					next[w] += share
				}
			}
		}
		base := (1-damping)/float64(n) + damping*dangling/float64(n)
		change := 0.0
		for v := range n {
			next[v] += base
			change += math.Abs(next[v] - rank[v])
		}
		rank, next = next, rank
		if change < 1e-10 {
			break
		}
	}
	return rank
}

// outLists lays the edges out by their source: the targets of v are
// to[start[v]:start[v+1]].
func outLists(n int, edges []Edge) (start []int, to []int32) {
	start = make([]int, n+1)
	ok := func(e Edge) bool { return e.From >= 0 && e.From < n && e.To >= 0 && e.To < n }
	for _, e := range edges {
		if ok(e) {
			start[e.From+1]++
		}
	}
	for v := range n {
		start[v+1] += start[v]
	}
	to = make([]int32, start[n])
	fill := append([]int(nil), start[:n]...)
	for _, e := range edges {
		if ok(e) {
			to[fill[e.From]] = int32(e.To)
			fill[e.From]++
		}
	}
	return start, to
}

// OnScale puts ranks on 0 to 100 by logarithm between the smallest and the
// largest. When all are equal, all are 0.
func OnScale(rank []float64) []float64 {
	low, high := math.Inf(1), math.Inf(-1)
	for _, r := range rank {
		low, high = math.Min(low, r), math.Max(high, r)
	}
	out := make([]float64, len(rank))
	// Ranks come out of an iteration that stops at 1e-10: a spread below that is none.
	if !(high > low*(1+1e-9)) || low <= 0 {
		return out
	}
	for i, r := range rank {
		out[i] = 100 * (math.Log(r) - math.Log(low)) / (math.Log(high) - math.Log(low))
	}
	return out
}

// SiteGraph is the followed links between sites, by name.
type SiteGraph struct {
	Names []string
	Edges []Edge
}

// Standings returns each site's standing, 0 to 100, by name: PageRank with
// Damping, on a logarithmic scale. A site that is not in the graph is absent.
func (g SiteGraph) Standings() map[string]float64 {
	scaled := OnScale(PageRank(len(g.Names), g.Edges, Damping))
	out := make(map[string]float64, len(g.Names))
	for i, name := range g.Names {
		out[name] = scaled[i]
	}
	return out
}
