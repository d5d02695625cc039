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
	in := InLinks{Start: make([]int, n+1), Out: make([]uint32, n)}
	ok := func(e Edge) bool { return e.From >= 0 && e.From < n && e.To >= 0 && e.To < n }
	for _, e := range edges {
		if ok(e) {
			in.Start[e.To+1]++
			in.Out[e.From]++
		}
	}
	for v := range n {
		in.Start[v+1] += in.Start[v]
	}
	in.From = make([]uint32, in.Start[n])
	fill := append([]int(nil), in.Start[:n]...)
	for _, e := range edges {
		if ok(e) {
			in.From[fill[e.To]] = uint32(e.From)
			fill[e.To]++
		}
	}
	return in.PageRank(damping)
}

// InLinks is a graph by what leads to each vertex, for large ones: those that link to v are
// From[Start[v]:Start[v+1]], and v links to Out[v] others.
type InLinks struct {
	Start []int
	From  []uint32
	Out   []uint32
}

// PageRank is PageRank of the graph.
func (g InLinks) PageRank(damping float64) []float64 {
	n := len(g.Out)
	rank, share := make([]float64, n), make([]float64, n)
	for i := range rank {
		rank[i] = 1 / float64(n)
	}
	for range 1000 {
		dangling := 0.0
		for v, k := range g.Out {
			if k == 0 {
				dangling += rank[v]
			} else {
				share[v] = damping * rank[v] / float64(k)
			}
		}
		base := (1-damping)/float64(n) + damping*dangling/float64(n)
		change := 0.0
		for v := range n {
			next := base
			for _, u := range g.From[g.Start[v]:g.Start[v+1]] {
				next += share[u]
			}
			change += math.Abs(next - rank[v])
			rank[v] = next
		}
		if change < 1e-10 {
			break
		}
	}
	return rank
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
