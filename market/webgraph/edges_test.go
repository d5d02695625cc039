package webgraph

import (
	"bufio"
	"context"
	"fmt"
	"math"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"
)

// written writes a file of a test.
func written(t testing.TB, name, text string) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), name)
	if err := os.WriteFile(path, []byte(text), 0o600); err != nil {
		t.Fatal(err)
	}
	return path
}

// imported imports files and opens what came of it.
func imported(t testing.TB, files ...string) (*Graph, Report) {
	t.Helper()
	path := filepath.Join(t.TempDir(), "d.webgraph")
	rep, err := Import(context.Background(), path, files, suffixes, time.Unix(1e9, 0), func(int) {})
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

// TestVerticesAndEdges: the stand-in's graph as such files, with names either way round, gives the standings and the
// referring sites of the graph itself.
func TestVerticesAndEdges(t *testing.T) {
	graph := standinGraph(t)
	want := graph.Standings()
	to := map[string]map[string]bool{}
	var edges strings.Builder
	for _, e := range graph.Edges {
		from, at := graph.Names[e.From], graph.Names[e.To]
		fmt.Fprintf(&edges, "%d\t%d\n", e.From, e.To)
		if to[at] == nil {
			to[at] = map[string]bool{}
		}
		if from != at {
			to[at][from] = true
		}
	}
	for _, turned := range []bool{false, true} {
		var list strings.Builder
		for i, name := range graph.Names {
			if turned {
				name = forward(name)
			}
			fmt.Fprintf(&list, "%d\t%s\t1\n", i, name)
		}
		g, rep := imported(t, written(t, "edges", edges.String()), written(t, "vertices", list.String()))
		apart, worst := 0.0, 0.0
		for site, x := range want {
			y, known := g.Standing(site)
			if !known {
				t.Fatalf("%s is not in it", site)
			}
			apart += math.Abs(x-y) / float64(len(want))
			worst = max(worst, math.Abs(x-y))
			n, names, known := g.Referring(site, 5)
			if !known || n != len(to[site]) || len(names) != min(5, n) {
				t.Fatalf("%s: %d, %q, %v instead of %d", site, n, names, known, len(to[site]))
			}
			for i, name := range names {
				if !to[site][name] || i > 0 && want[name] > want[names[i-1]]+0.01 {
					t.Errorf("%s: %q", site, names)
				}
			}
		}
		t.Logf("%d sites, %d links, %.3f points apart in the mean, %.2f at most", rep.Sites, rep.Links, apart, worst)
		if apart > 0.5 {
			t.Errorf("%.2f points apart", apart)
		}
		if _, _, known := g.Referring("nobody.example", 5); known {
			t.Error("a site that is not there")
		}
	}
}

// TestHostsOfOneSite are one vertex, and links within it none.
func TestHostsOfOneSite(t *testing.T) {
	g, rep := imported(t, written(t, "v", "0\texample.big\n1\texample.big.www\n2\texample.small\n3\texample.tiny\n"),
		written(t, "e", "0\t1\n2\t0\n2\t1\n3\t1\n0\t2\n"))
	if rep.Sites != 3 || rep.Links != 3 {
		t.Errorf("%+v", rep)
	}
	if n, names, _ := g.Referring("big.example", 9); n != 2 || names[0] != "small.example" || names[1] != "tiny.example" {
		t.Errorf("%d %q", n, names)
	}
	if n, _, known := g.Referring("tiny.example", 9); n != 0 || !known {
		t.Errorf("%d %v", n, known)
	}
}

// TestHostileEdges: each is refused for what it is; ranks afterwards leave no links of another graph behind.
func TestHostileEdges(t *testing.T) {
	path := filepath.Join(t.TempDir(), "d.webgraph")
	v, e := written(t, "v", "0\texample.a\n1\texample.b\n"), written(t, "e", "0\t1\n")
	ranks := written(t, "r", "#pr_val #host_rev\n1 example.a\n2 example.b\n")
	do := func(files ...string) error {
		_, err := Import(context.Background(), path, files, suffixes, time.Unix(1e9, 0), func(int) {})
		return err
	}
	if err := do(v, e); err != nil {
		t.Fatal(err)
	}
	for says, files := range map[string][]string{
		"vertices need":        {v},
		"those of their":       {e},
		"not both":             {v, e, ranks},
		"a second time":        {written(t, "x", "0\texample.a\n0\texample.b\n"), e},
		"line 2 does not name": {v, written(t, "y", "0\t1\n0\t2\n")},
		"line 2 is not":        {written(t, "z", "0\texample.a\n8\t\n"), e},
		"has a number beyond":  {written(t, "n", "4000000000\texample.a\n"), e},
		"none of a ranks file": {v, written(t, "o", "hello\n")},
	} {
		if err := do(files...); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%s: %v", says, err)
		}
	}
	g, err := Open(path)
	if err != nil || g.Links() != 1 {
		t.Fatalf("what was there: %v, %v", g, err)
	}
	g.Close()
	data, err := os.ReadFile(LinksFile(path))
	if err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(LinksFile(path), data[:len(data)-1], 0o600); err != nil {
		t.Fatal(err)
	}
	if g, err = Open(path); err != nil {
		t.Fatal(err)
	}
	if _, known := g.Standing("a.example"); !known || g.Links() != 0 {
		t.Error("links that were cut off are read, or the standings are lost")
	}
	g.Close()
	if err := do(ranks); err != nil {
		t.Fatal(err)
	}
	if _, err := os.Stat(LinksFile(path)); err == nil {
		t.Error("the links of another graph are left")
	}
}

// madeEdges writes a graph of so many sites, and so many links a site, with a heavy tail.
func madeEdges(t testing.TB, sites, each int) (vertices, edges string) {
	dir := t.TempDir()
	write := func(name string, line func(w *bufio.Writer, i int)) string {
		f, err := os.Create(filepath.Join(dir, name))
		if err != nil {
			t.Fatal(err)
		}
		w := bufio.NewWriterSize(f, 1<<20)
		for i := range sites {
			line(w, i)
		}
		if w.Flush() != nil || f.Close() != nil {
			t.Fatal("the disk is full")
		}
		return f.Name()
	}
	random := rand.New(rand.NewPCG(1, 2))
	return write("v", func(w *bufio.Writer, i int) { fmt.Fprintf(w, "%d\texample.site%d\t1\n", i, i) }),
		write("e", func(w *bufio.Writer, i int) {
			for range each {
				fmt.Fprintf(w, "%d\t%d\n", i, min(sites-1, int(float64(sites)*math.Pow(random.Float64(), 4))))
			}
		})
}

// BenchmarkImportEdges is what so many sites with ten links each take.
func BenchmarkImportEdges(b *testing.B) {
	for _, n := range []int{100_000, 1_000_000} {
		b.Run(fmt.Sprint(n), func(b *testing.B) {
			v, e := madeEdges(b, n, 10)
			path := filepath.Join(b.TempDir(), "d.webgraph")
			for b.Loop() {
				_, err := Import(context.Background(), path, []string{v, e}, suffixes, time.Unix(1e9, 0), func(int) {})
				if err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}
