package webgraph

import (
	"bufio"
	"cmp"
	"compress/gzip"
	"context"
	"fmt"
	"math"
	"math/rand/v2"
	"net/http/httptest"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"cleverniche/core/links"
	"cleverniche/market"
	"cleverniche/standin"

	"gonum.org/v1/gonum/stat"
)

// suffixes have the stand-in's free hosts among them.
var suffixes = links.NewSuffixes("inkwellpages.example", "plainpost.example")

// graphOf imports ranks, a line each, and opens what came of it.
func graphOf(t testing.TB, lines string, packed bool) (*Graph, Report) {
	t.Helper()
	dir := t.TempDir()
	file := filepath.Join(dir, "ranks.txt")
	out, err := os.Create(file)
	if err != nil {
		t.Fatal(err)
	}
	if packed {
		z := gzip.NewWriter(out)
		fmt.Fprint(z, lines)
		z.Close()
	} else {
		fmt.Fprint(out, lines)
	}
	out.Close()
	path := filepath.Join(dir, "d.webgraph")
	rep, err := Import(context.Background(), path, []string{file}, suffixes, time.Unix(1e9, 0), func(int) {})
	if err != nil {
		t.Fatal(err)
	}
	g, err := Open(path)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { g.Close() })
	return g, rep
}

// standinGraph is the link graph of the stand-in's web.
func standinGraph(t testing.TB) links.SiteGraph {
	t.Helper()
	graph, err := grown()
	if err != nil {
		t.Fatal(err)
	}
	return graph
}

var grown = sync.OnceValues(func() (links.SiteGraph, error) {
	scenarios, err := standin.Scenarios()
	if err != nil {
		return links.SiteGraph{}, err
	}
	day := time.Date(2026, 11, 30, 0, 0, 0, 0, time.UTC)
	server := httptest.NewServer(standin.Grow(3, scenarios, day).Handler(standin.Options{}))
	defer server.Close()
	service := market.NewLinksService(market.Source{Name: "links", Base: server.URL + "/links"})
	return service.Graph(context.Background())
})

// TestAgainstPageRank: standings from ranks are those that PageRank on the same graph has on our scale: the stand-in's
// graph, written as such files are. Wanted: Spearman at least 0.95, at most 4 points apart.
func TestAgainstPageRank(t *testing.T) {
	graph := standinGraph(t)
	want := graph.Standings()
	ranks := links.PageRank(len(graph.Names), graph.Edges, links.Damping)
	order := make([]int, len(ranks))
	for i := range order {
		order[i] = i
	}
	slices.SortFunc(order, func(a, b int) int { return cmp.Compare(ranks[b], ranks[a]) })
	var full strings.Builder
	full.WriteString("#harmonicc_pos\t#harmonicc_val\t#pr_pos\t#pr_val\t#host_rev\n")
	for place, i := range order {
		name := forward(graph.Names[i])
		fmt.Fprintf(&full, "%d\t1\t%d\t%.9g\t%s\n", place+1, place+1, ranks[i], name)
	}
	g, rep := graphOf(t, full.String(), true)
	var a, b []float64
	apart := 0.0
	for site, x := range want {
		y, known := g.Standing(suffixes.Site(site))
		if !known {
			t.Fatalf("%s is not in it", site)
		}
		a, b = append(a, x), append(b, y)
		apart += math.Abs(x-y) / float64(len(want))
	}
	rho := stat.Correlation(places(a), places(b), nil)
	t.Logf("%d sites, Spearman %.4f, %.2f points apart in the mean", rep.Sites, rho, apart)
	if rho < 0.95 || apart > 4 {
		t.Errorf("Spearman %.4f, %.2f points apart", rho, apart)
	}
}

// places are the places of values, the mean for equal ones.
func places(x []float64) []float64 {
	order := make([]int, len(x))
	for i := range order {
		order[i] = i
	}
	slices.SortFunc(order, func(a, b int) int { return cmp.Compare(x[a], x[b]) })
	out := make([]float64, len(x))
	for i := 0; i < len(order); {
		j := i
		for j < len(order) && x[order[j]] == x[order[i]] {
			j++
		}
		for k := i; k < j; k++ {
			out[order[k]] = float64(i+j-1) / 2
		}
		i = j
	}
	return out
}

// TestHostsAreSites: of a site's hosts the strongest counts; what names nothing is skipped; a site that is not there is
// not known.
func TestHostsAreSites(t *testing.T) {
	g, rep := graphOf(t, "#pr_val #host_rev\n0.1 example.big.www\n0.001 example.big\n0.01 example.mid.blog\n"+
		"x example.odd\n"+
		"0.001 example.small\n-1 example.none\n", false)
	if rep.Sites != 3 || rep.Skipped != 2 || g.Sites() != 3 {
		t.Errorf("%+v", rep)
	}
	for site, want := range map[string]float64{"big.example": 100, "mid.example": 50, "small.example": 0} {
		if got, known := g.Standing(site); !known || math.Abs(got-want) > 0.01 {
			t.Errorf("%s: %v, %v", site, got, known)
		}
	}
	if _, known := g.Standing("nobody.example"); known {
		t.Error("a site that is not there")
	}
}

// TestHostileGraphs: each is refused, and what was imported before stays.
func TestHostileGraphs(t *testing.T) {
	dir := t.TempDir()
	path := filepath.Join(dir, "d.webgraph")
	file := func(name, text string) string {
		f := filepath.Join(dir, name)
		if err := os.WriteFile(f, []byte(text), 0o600); err != nil {
			t.Fatal(err)
		}
		return f
	}
	none := func(int) {}
	good := file("good", "#pr_val #host_rev\n1 example.a\n2 example.b\n")
	if _, err := Import(context.Background(), path, []string{good}, suffixes, time.Now(), none); err != nil {
		t.Fatal(err)
	}
	var packed strings.Builder
	z := gzip.NewWriter(&packed)
	for i := range 5000 {
		fmt.Fprintf(z, "%d %d example.x%d\n", rand.IntN(1000), i, i)
	}
	z.Close()
	cut := file("cut", packed.String()[:200])
	for name, files := range map[string][]string{"no columns": {file("odd", "a,b\n1,2\n")}, "empty": {file("empty", "")},
		"no sites": {file("names", "#pr_val #host_rev\nx y\n")}, "cut": {cut},
		"no PageRank":       {file("pos", "#harmonicc_pos #host_rev\n1 example.a\n")},
		"a part is missing": {good, "/nonexistent"},
		"a directory":       {dir}, "long lines": {file("long", "#pr_val #host_rev\n"+strings.Repeat("x", 1<<17))}} {
		if _, err := Import(context.Background(), path, files, suffixes, time.Now(), none); err == nil {
			t.Errorf("%s is taken", name)
		}
	}
	g, err := Open(path)
	if err != nil || g.Sites() != 2 {
		t.Fatalf("what was there: %v", err)
	}
	g.Close()
	data, _ := os.ReadFile(path)
	for name, text := range map[string]string{"cut": string(data[:len(data)-3]),
		"other": "hello, this is something else"} {
		if _, err := Open(file(name, text)); err == nil {
			t.Errorf("an index that is %s is opened", name)
		}
	}
	if rest, _ := filepath.Glob(path + ".new-*"); len(rest) > 0 {
		t.Errorf("%d halves are left", len(rest))
	}
}

// made writes ranks of so many sites with a heavy tail.
func made(t testing.TB, sites int) string {
	path := filepath.Join(t.TempDir(), "ranks.txt")
	f, err := os.Create(path)
	if err != nil {
		t.Fatal(err)
	}
	w := bufio.NewWriterSize(f, 1<<20)
	fmt.Fprintln(w, "#harmonicc_pos\t#harmonicc_val\t#pr_pos\t#pr_val\t#host_rev")
	for i := 1; i <= sites; i++ {
		fmt.Fprintf(w, "%d\t%.6g\t%d\t%.6g\texample.site%d\n", i, 1e7/math.Sqrt(float64(i)), i,
			0.01*math.Pow(float64(i), -0.8), i)
	}
	if w.Flush() != nil || f.Close() != nil {
		t.Fatal("the disk is full")
	}
	return path
}

// BenchmarkImport is what a million sites take.
func BenchmarkImport(b *testing.B) {
	file := made(b, 1_000_000)
	path := filepath.Join(b.TempDir(), "d.webgraph")
	for b.Loop() {
		if _, err := Import(context.Background(), path, []string{file}, suffixes, time.Now(), func(int) {}); err != nil {
			b.Fatal(err)
		}
	}
}

// BenchmarkStanding is a look-up among a million sites.
func BenchmarkStanding(b *testing.B) {
	path := filepath.Join(b.TempDir(), "d.webgraph")
	files := []string{made(b, 1_000_000)}
	if _, err := Import(context.Background(), path, files, suffixes, time.Now(), func(int) {}); err != nil {
		b.Fatal(err)
	}
	g, err := Open(path)
	if err != nil {
		b.Fatal(err)
	}
	defer g.Close()
	i := 0
	for b.Loop() {
		if i++; i%2 == 0 {
			g.Standing(fmt.Sprintf("site%d.example", i*7919%1_000_000+1))
		} else {
			g.Standing("nobody.example")
		}
	}
}
