package webgraph

import (
	"bufio"
	"bytes"
	"cmp"
	"context"
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"math"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"

	"cleverniche/core/links"
)

// A graph may come as vertices and edges instead of ranks: “number, name” and “from, to”, one a line.
// PageRank is ours then, and who links to a site is kept beside the index.

// Bounds of what is held in memory at once: 4 bytes an edge, and about 60 a vertex.
const (
	MostVertices = 20_000_000
	MostEdges    = 300_000_000
)

// LinksFile is where the links between sites are kept, beside an index.
func LinksFile(path string) string { return path + ".links" }

// linksMagic begins a file of links.
const linksMagic = "CNWEBGL1"

// linksHead is what it begins with, behind linksMagic. Sites and At are those of the index that it belongs to.
// Behind it stand the names' ends in what follows, four bytes each; the names; where each site's links end, eight
// bytes each; and for each site who links to it, four bytes each.
type linksHead struct {
	Sites uint64
	At    int64
	Names uint64 // bytes
	Links uint64
}

const linksHeadBytes = int64(len(linksMagic)) + 32

// size is how long such a file is.
func (h linksHead) size() int64 {
	return linksHeadBytes + 4*int64(h.Sites) + int64(h.Names) + 8*int64(h.Sites) + 4*int64(h.Links)
}

// openLinks opens the links that belong to an index; nil where there are none.
func openLinks(path string, of head) (*os.File, linksHead) {
	file, err := os.Open(LinksFile(path))
	if err != nil {
		return nil, linksHead{}
	}
	var h linksHead
	start := make([]byte, linksHeadBytes)
	_, err = io.ReadFull(file, start)
	if err == nil {
		err = binary.Read(bytes.NewReader(start[len(linksMagic):]), binary.LittleEndian, &h)
	}
	info, failed := file.Stat()
	if err != nil || failed != nil || string(start[:len(linksMagic)]) != linksMagic || h.Sites != of.Sites ||
		h.At != of.At || info.Size() != h.size() {
		file.Close()
		return nil, linksHead{}
	}
	return file, h
}

// Links is how many links between sites it knows.
func (g *Graph) Links() int { return int(g.linksHead.Links) }

// ends reads two numbers that stand side by side in the links' file, of so many bytes each; the first of them is 0
// in front of all.
func (g *Graph) ends(base int64, i uint64, width int64) (from, to uint64, err error) {
	b := make([]byte, 2*width)
	at, part := base+width*(int64(i)-1), b
	if i == 0 {
		at, part = base, b[width:]
	}
	if _, err := g.links.ReadAt(part, at); err != nil {
		return 0, 0, err
	}
	read := func(b []byte) uint64 {
		if width == 4 {
			return uint64(binary.LittleEndian.Uint32(b))
		}
		return binary.LittleEndian.Uint64(b)
	}
	return read(b[:width]), read(b[width:]), nil
}

func (g *Graph) name(i uint64) (string, error) {
	from, to, err := g.ends(linksHeadBytes, i, 4)
	if err != nil || to < from || to-from > mostLine {
		return "", errors.Join(err, errors.New("the names are damaged"))
	}
	b := make([]byte, to-from)
	_, err = g.links.ReadAt(b, linksHeadBytes+4*int64(g.linksHead.Sites)+int64(from))
	return string(b), err
}

// Referring is how many sites link to a site, and the strongest of them, so many at most. Whether their links are
// followed the graph does not say. known is false for a site that is not in it, and where it came without links.
func (g *Graph) Referring(site string, most int) (total int, names []string, known bool) {
	i, found := g.find(site)
	if !found || g.links == nil {
		return 0, nil, false
	}
	ends := linksHeadBytes + 4*int64(g.linksHead.Sites) + int64(g.linksHead.Names)
	from, to, err := g.ends(ends, uint64(i), 8)
	if err != nil || to < from || to > g.linksHead.Links {
		return 0, nil, false
	}
	lists := ends + 8*int64(g.linksHead.Sites)
	b := make([]byte, 4*min(to-from, uint64(most))) // the strongest stand first
	if _, err := g.links.ReadAt(b, lists+4*int64(from)); err != nil {
		return 0, nil, false
	}
	for ; len(b) > 0; b = b[4:] {
		name, err := g.name(uint64(binary.LittleEndian.Uint32(b)))
		if err != nil {
			return 0, nil, false
		}
		names = append(names, name)
	}
	return int(to - from), names, true
}

// vertices are the vertices of a graph as files number them, and the sites they belong to, numbered by their keys.
type vertices struct {
	site  []uint32 // by vertex: its site; none where it names none
	names []string // of sites
	keys  []uint64
}

const none = math.MaxUint32

// readVertices reads them from files.
func readVertices(ctx context.Context, files []string, suffixes links.Suffixes, rep *Report,
	tell func(int)) (v vertices, err error) {
	var list []string // by vertex
	for _, name := range files {
		if err := scan(ctx, name, rep, tell, func(line []byte) error {
			number, rest, _ := bytes.Cut(line, []byte("\t"))
			n, err := strconv.ParseUint(string(bytes.TrimSpace(number)), 10, 32)
			host, _, _ := bytes.Cut(rest, []byte("\t"))
			if err != nil || len(host) == 0 {
				return errors.New("is not “number, name”")
			}
			if n >= MostVertices {
				return fmt.Errorf("has a number beyond %d: use the ranks files of so large a graph", MostVertices)
			}
			for uint64(len(list)) <= n {
				list = append(list, "")
			}
			if list[n] != "" {
				return fmt.Errorf("has the number %d a second time", n)
			}
			list[n] = string(host)
			return nil
		}); err != nil {
			return v, err
		}
	}
	turned := reversed(list)
	type named struct {
		key    uint64
		vertex uint32
		name   string
	}
	all := make([]named, 0, len(list))
	for i, name := range list {
		if turned {
			name = forward(name)
		}
		if name = suffixes.Site(strings.ToLower(name)); name != "" {
			all = append(all, named{keyOf(name), uint32(i), name})
		} else {
			rep.Skipped++
		}
	}
	slices.SortFunc(all, func(a, b named) int {
		return cmp.Or(cmp.Compare(a.key, b.key), cmp.Compare(a.vertex, b.vertex))
	})
	v.site = make([]uint32, len(list))
	for i := range v.site {
		v.site[i] = none
	}
	for i, one := range all {
		if i == 0 || one.key != all[i-1].key {
			v.keys, v.names = append(v.keys, one.key), append(v.names, one.name)
		}
		v.site[one.vertex] = uint32(len(v.keys) - 1)
	}
	return v, nil
}

// reversed reports whether names are written with their endings first: there are fewer endings than beginnings.
func reversed(names []string) bool {
	first, last := map[string]bool{}, map[string]bool{}
	for _, name := range names[:min(len(names), 10_000)] {
		parts := strings.Split(name, ".")
		if len(parts) > 1 {
			first[parts[0]], last[parts[len(parts)-1]] = true, true
		}
	}
	return len(first) < len(last)
}

// readEdges reads the links between sites, each once, in two passes: so that only their ends are held.
func (v vertices) readEdges(ctx context.Context, files []string, rep *Report, tell func(int)) (g links.InLinks,
	err error) {
	n := len(v.keys)
	g = links.InLinks{Start: make([]int, n+1), Out: make([]uint32, n)}
	pass := func(do func(from, to uint32)) error {
		for _, name := range files {
			if err := scan(ctx, name, rep, tell, func(line []byte) error {
				a, b, _ := bytes.Cut(line, []byte("\t"))
				from, err1 := strconv.ParseUint(string(bytes.TrimSpace(a)), 10, 32)
				to, err2 := strconv.ParseUint(string(bytes.TrimSpace(b)), 10, 32)
				if err1 != nil || err2 != nil || from >= uint64(len(v.site)) || to >= uint64(len(v.site)) {
					return errors.New("does not name two vertices")
				}
				if i, j := v.site[from], v.site[to]; i != j && i != none && j != none {
					do(i, j)
				}
				return nil
			}); err != nil {
				return err
			}
		}
		return nil
	}
	total := 0
	if err := pass(func(_, to uint32) { g.Start[to+1]++; total++ }); err != nil {
		return g, err
	}
	if total > MostEdges {
		return g, fmt.Errorf("it has more than %d links: use the ranks files of so large a graph", MostEdges)
	}
	for i := range n {
		g.Start[i+1] += g.Start[i]
	}
	g.From = make([]uint32, total)
	fill := slices.Clone(g.Start[:n])
	if err := pass(func(from, to uint32) {
		if fill[to] < g.Start[to+1] { // a file that grows meanwhile
			g.From[fill[to]] = from
			fill[to]++
		}
	}); err != nil {
		return g, err
	}
	kept := 0
	for i := range n { // of a site's hosts there may be several
		list := g.From[g.Start[i]:fill[i]]
		slices.Sort(list)
		begins := kept
		for k, from := range list {
			if k == 0 || from != list[k-1] {
				g.From[kept] = from
				g.Out[from]++
				kept++
			}
		}
		g.Start[i] = begins
	}
	g.Start[n] = kept
	g.From = g.From[:kept]
	return g, nil
}

// importEdges builds an index of vertices and edges, and the file of its links.
func importEdges(ctx context.Context, path string, vertexFiles, edgeFiles []string, suffixes links.Suffixes,
	now time.Time, rep *Report, tell func(int)) error {
	v, err := readVertices(ctx, vertexFiles, suffixes, rep, tell)
	if err != nil {
		return err
	}
	if len(v.keys) == 0 {
		return errNoSites
	}
	g, err := v.readEdges(ctx, edgeFiles, rep, tell)
	if err != nil {
		return err
	}
	rep.Sites, rep.Links = len(v.keys), len(g.From)
	rank := g.PageRank(links.Damping)
	all := new(sites)
	for i, key := range v.keys {
		all[key>>56] = append(all[key>>56], site{key, float32(math.Log(rank[i]))})
	}
	for i := range len(v.keys) {
		slices.SortFunc(g.From[g.Start[i]:g.Start[i+1]], func(a, b uint32) int {
			return cmp.Or(cmp.Compare(rank[b], rank[a]), cmp.Compare(a, b))
		})
	}
	if err := whole(LinksFile(path), func(w *bufio.Writer) error { return v.writeLinks(w, g, now) }); err != nil {
		return err
	}
	return all.write(path, rep.Sites, now)
}

func (v vertices) writeLinks(w *bufio.Writer, g links.InLinks, now time.Time) error {
	h := linksHead{Sites: uint64(len(v.keys)), At: now.Unix(), Links: uint64(len(g.From))}
	for _, name := range v.names {
		h.Names += uint64(len(name))
	}
	if h.Names > math.MaxUint32 {
		return errors.New("its names are longer than 4 GB in all")
	}
	_, err := w.WriteString(linksMagic)
	err = errors.Join(err, binary.Write(w, binary.LittleEndian, h))
	var b [8]byte
	four := func(x uint32) {
		binary.LittleEndian.PutUint32(b[:4], x)
		_, failed := w.Write(b[:4])
		err = cmp.Or(err, failed)
	}
	end := 0
	for _, name := range v.names {
		end += len(name)
		four(uint32(end))
	}
	for _, name := range v.names {
		_, failed := w.WriteString(name)
		err = cmp.Or(err, failed)
	}
	for i := range v.names {
		binary.LittleEndian.PutUint64(b[:], uint64(g.Start[i+1]))
		_, failed := w.Write(b[:])
		err = cmp.Or(err, failed)
	}
	for _, from := range g.From {
		four(from)
	}
	return err
}

// whole writes a file beside its place, and then there.
func whole(path string, write func(*bufio.Writer) error) error {
	out, err := os.CreateTemp(filepath.Dir(path), filepath.Base(path)+".new-*")
	if err != nil {
		return err
	}
	defer os.Remove(out.Name())
	w := bufio.NewWriterSize(out, 1<<20)
	err = write(w)
	if err = errors.Join(err, w.Flush(), out.Sync(), out.Close()); err != nil {
		return err
	}
	return os.Rename(out.Name(), path)
}

// kindOf tells what a file holds by its first line.
func kindOf(path string) (kind string, err error) {
	err = scanRaw(path, func(line []byte) error {
		cells := strings.Split(string(bytes.TrimSpace(line)), "\t")
		_, ranks := headerOf(string(line))
		number := func(i int) bool {
			_, err := strconv.ParseUint(cells[i], 10, 64)
			return err == nil
		}
		switch {
		case ranks:
			kind = "ranks"
		case len(cells) >= 2 && number(0) && number(1):
			kind = "edges"
		case len(cells) >= 2 && number(0):
			kind = "vertices"
		}
		return io.EOF
	})
	if errors.Is(err, io.EOF) {
		err = nil
	}
	if err == nil && kind == "" {
		err = errors.New("its first line is none of a ranks file (a host or domain, and PageRank), of vertices " +
			"(number, name), or of edges (from, to)")
	}
	return kind, err
}
