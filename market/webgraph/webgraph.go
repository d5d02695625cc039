// Package webgraph brings the standing of any site from an openly licensed web graph: from its ranks files, a line for
// each host or domain with its centralities, or from its vertices and edges. From them a compact index is built beside
// the data file, that is only read.
//
// Standing is what core/links makes of PageRank: its logarithm, on a scale from the least to the largest of the file.
// That is held against PageRank on the stand-in's graph (webgraph_test.go). A file that has places by another
// centrality and no PageRank is refused: the place alone told standings 13 points wrong in the mean there.
package webgraph

import (
	"bufio"
	"bytes"
	"cmp"
	"compress/gzip"
	"context"
	"encoding/binary"
	"errors"
	"fmt"
	"hash/fnv"
	"io"
	"io/fs"
	"math"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"

	"cleverniche/core/links"
)

// Bounds.
const (
	MostSites = 400_000_000
	mostLine  = 64 << 10
)

// magic begins an index.
const magic = "CNWEBGR1"

// head is what an index begins with, behind magic.
type head struct {
	Sites uint64
	At    int64   // when it was built, in seconds
	_     [8]byte // for later
}

// headBytes is how long all that is.
const headBytes = int64(len(magic)) + 24

// Graph is an index. It is safe for use by several at once.
type Graph struct {
	file      *os.File
	head      head
	links     *os.File // who links to whom; nil where that is not known
	linksHead linksHead
}

// Open opens an index. One that was cut off or is none is an error.
func Open(path string) (*Graph, error) {
	file, err := os.Open(path)
	if err != nil {
		return nil, err
	}
	g := &Graph{file: file}
	start := make([]byte, headBytes)
	_, err = io.ReadFull(file, start)
	if err == nil && string(start[:len(magic)]) != magic {
		err = errors.New("it is no index of a web graph")
	}
	if err == nil {
		err = binary.Read(bytes.NewReader(start[len(magic):]), binary.LittleEndian, &g.head)
	}
	if err == nil {
		info, failed := file.Stat()
		if err = failed; err == nil && info.Size() != headBytes+10*int64(g.head.Sites) {
			err = errors.New("it was cut off: import the graph again")
		}
	}
	if err != nil {
		return nil, errors.Join(fmt.Errorf("%s: %w", path, err), file.Close())
	}
	g.links, g.linksHead = openLinks(path, g.head)
	return g, nil
}

// Close closes it.
func (g *Graph) Close() error {
	if g.links != nil {
		return errors.Join(g.links.Close(), g.file.Close())
	}
	return g.file.Close()
}

// Sites is how many sites it knows.
func (g *Graph) Sites() int { return int(g.head.Sites) }

// At is when it was built.
func (g *Graph) At() time.Time { return time.Unix(g.head.At, 0) }

// keyOf is what a site is found by. That two of a hundred million share one has a chance of a few in ten thousand.
func keyOf(site string) uint64 {
	h := fnv.New64a()
	_, _ = io.WriteString(h, site)
	return h.Sum64()
}

// block is how many keys are read at once.
const block = 256

// Standing is a site's standing, 0 to 100; known is false for one that is not in the graph.
func (g *Graph) Standing(site string) (standing float64, known bool) {
	i, found := g.find(site)
	if !found {
		return 0, false
	}
	var value [2]byte
	if _, err := g.file.ReadAt(value[:], headBytes+8*int64(g.head.Sites)+2*i); err != nil {
		return 0, false
	}
	return float64(binary.LittleEndian.Uint16(value[:])) / 100, true
}

// find finds a site's place among the keys.
func (g *Graph) find(site string) (place int64, found bool) {
	key := keyOf(site)
	buffer := make([]byte, 8*block)
	low, high := int64(0), int64(g.head.Sites) // the key is at low or behind, and before high
	for low < high {
		n := min(high-low, block)
		at := low
		if n < high-low { // keys are spread evenly: where it would be
			at += int64(float64(key) / math.MaxUint64 * float64(g.head.Sites))
			at = max(low, min(at-low-block/2, high-n))
		}
		part := buffer[:8*n]
		if _, err := g.file.ReadAt(part, headBytes+8*at); err != nil {
			return 0, false
		}
		first, last := binary.LittleEndian.Uint64(part), binary.LittleEndian.Uint64(part[8*(n-1):])
		switch {
		case key < first:
			high = at
		case key > last:
			low = at + n
		default:
			i, j := int64(0), n
			for i < j {
				if mid := (i + j) / 2; binary.LittleEndian.Uint64(part[8*mid:]) < key {
					i = mid + 1
				} else {
					j = mid
				}
			}
			if i == n || binary.LittleEndian.Uint64(part[8*i:]) != key {
				return 0, false
			}
			return at + i, true
		}
		if high-low > block && low > 0 { // where keys are not spread as expected it halves
			mid := low + (high-low)/2
			var one [8]byte
			if _, err := g.file.ReadAt(one[:], headBytes+8*mid); err != nil {
				return 0, false
			}
			if k := binary.LittleEndian.Uint64(one[:]); k < key {
				low = mid
			} else {
				high = mid + 1
			}
		}
	}
	return 0, false
}

// Report says what an import came to.
type Report struct {
	Lines, Sites int
	Links        int // between sites; 0 where there were ranks only
	Skipped      int // lines that say nothing of a site
}

// site is what is kept of a line while an index is built.
type site struct {
	key   uint64
	value float32 // the logarithm of PageRank
}

var errNoSites = errors.New("no line of it names a site and its rank")

// Name is what an index is called, beside a data file.
const Name = "webgraph"

// IsRanks reports whether a file is a ranks file that can be imported.
func IsRanks(path string) bool {
	kind, err := kindOf(path)
	return err == nil && kind == "ranks"
}

// Import builds an index of ranks files, or of vertices and edges, in place of one that is there, which stays as it is
// until the new one is whole. Tell is told of lines that were read.
func Import(ctx context.Context, path string, files []string, suffixes links.Suffixes, now time.Time,
	tell func(lines int)) (rep Report, err error) {
	by := map[string][]string{}
	for _, name := range files {
		kind, err := kindOf(name)
		if err != nil {
			return rep, fmt.Errorf("%s: %w", filepath.Base(name), err)
		}
		by[kind] = append(by[kind], name)
	}
	switch {
	case len(by["ranks"]) > 0 && len(by["ranks"]) < len(files):
		return rep, errors.New("give the ranks files of a graph, or its vertices and edges, not both")
	case len(by["ranks"]) == 0 && (len(by["edges"]) == 0 || len(by["vertices"]) == 0):
		return rep, errors.New("vertices need the files of their edges, and edges those of their vertices")
	case len(by["ranks"]) == 0:
		return rep, importEdges(ctx, path, by["vertices"], by["edges"], suffixes, now, &rep, tell)
	}
	all := new(sites)
	for _, name := range files {
		if err := all.readRanks(ctx, name, suffixes, &rep, tell); err != nil {
			return rep, err
		}
	}
	for i := range all { // of a site's hosts the strongest
		slices.SortFunc(all[i], func(a, b site) int {
			return cmp.Or(cmp.Compare(a.key, b.key), cmp.Compare(b.value, a.value))
		})
		all[i] = slices.CompactFunc(all[i], func(a, b site) bool { return a.key == b.key })
		rep.Sites += len(all[i])
	}
	if rep.Sites == 0 {
		return rep, errNoSites
	}
	return rep, errors.Join(all.write(path, rep.Sites, now), removed(LinksFile(path)))
}

// removed removes a file, if it is there.
func removed(path string) error {
	if err := os.Remove(path); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	return nil
}

// sites are those that were read, by the first eight bits of their keys: so none of the slices grows large.
type sites [256][]site

func (all *sites) each(do func(s site) error) error {
	for _, part := range all {
		for _, s := range part {
			if err := do(s); err != nil {
				return err
			}
		}
	}
	return nil
}

// write writes an index beside its place, and then there.
func (all *sites) write(path string, n int, now time.Time) error {
	low, high := float32(math.Inf(1)), float32(math.Inf(-1))
	_ = all.each(func(s site) error {
		low, high = min(low, s.value), max(high, s.value)
		return nil
	})
	return whole(path, func(w *bufio.Writer) error {
		h := head{Sites: uint64(n), At: now.Unix()}
		_, err := w.WriteString(magic)
		err = errors.Join(err, binary.Write(w, binary.LittleEndian, h))
		var b [8]byte
		return errors.Join(err, all.each(func(s site) error {
			binary.LittleEndian.PutUint64(b[:], s.key)
			_, err := w.Write(b[:])
			return err
		}), all.each(func(s site) error {
			standing := 0.0
			if high > low {
				standing = 100 * float64(s.value-low) / float64(high-low)
			}
			binary.LittleEndian.PutUint16(b[:2], uint16(math.Round(100*standing)))
			_, err := w.Write(b[:2])
			return err
		}))
	})
}

// columns are the places of what is read in a line; −1 what is not there.
type columns struct{ name, rank int }

// headerOf reads the line that names the columns, as such files write it: "#harmonicc_pos #harmonicc_val #pr_pos
// #pr_val #host_rev".
func headerOf(line string) (c columns, ok bool) {
	c = columns{-1, -1}
	for i, cell := range strings.FieldsFunc(line, func(r rune) bool { return r == '\t' || r == ' ' }) {
		name := strings.ToLower(strings.TrimPrefix(cell, "#"))
		switch {
		case strings.HasPrefix(name, "host") || strings.HasPrefix(name, "domain") || strings.HasPrefix(name, "site"):
			c.name = i
		case strings.Contains(name, "pr_val") || name == "pagerank":
			c.rank = i
		}
	}
	return c, c.name >= 0 && c.rank >= 0
}

func (all *sites) readRanks(ctx context.Context, path string, suffixes links.Suffixes, rep *Report,
	tell func(int)) error {
	var c columns
	return scan(ctx, path, rep, tell, func(line []byte) error {
		if c == (columns{}) {
			c, _ = headerOf(string(line)) // kindOf has read it
			rep.Lines--
			return nil
		}
		s, ok := c.read(line, suffixes)
		if !ok {
			rep.Skipped++
			return nil
		}
		part := &all[s.key>>56]
		if *part = append(*part, s); rep.Lines-rep.Skipped > MostSites {
			return fmt.Errorf("is one more than %d", MostSites)
		}
		return nil
	})
}

// scan reads a file, gzipped or not, line by line. Tell is told now and then of how many lines were read.
func scan(ctx context.Context, path string, rep *Report, tell func(int), do func(line []byte) error) error {
	n := 0
	err := scanRaw(path, func(line []byte) error {
		if n++; n%(1<<18) == 0 {
			if tell(rep.Lines); ctx.Err() != nil {
				return ctx.Err()
			}
		}
		rep.Lines++
		if err := do(line); err != nil {
			return fmt.Errorf("line %d %w", n, err)
		}
		return nil
	})
	if err != nil && ctx.Err() == nil {
		err = fmt.Errorf("%s: %w", filepath.Base(path), err)
	}
	return err
}

// scanRaw reads a file, gzipped or not, line by line, until do returns an error.
func scanRaw(path string, do func(line []byte) error) error {
	file, err := os.Open(path)
	if err != nil {
		return err
	}
	defer file.Close()
	buffered := bufio.NewReaderSize(file, 1<<20)
	in := io.Reader(buffered)
	if start, err := buffered.Peek(2); err == nil && start[0] == 0x1f && start[1] == 0x8b {
		z, err := gzip.NewReader(buffered)
		if err != nil {
			return err
		}
		defer z.Close()
		in = z
	}
	lines := bufio.NewScanner(in)
	lines.Buffer(make([]byte, 1<<20), mostLine)
	for lines.Scan() {
		if err := do(lines.Bytes()); err != nil {
			return err
		}
	}
	if errors.Is(lines.Err(), io.ErrUnexpectedEOF) {
		return errors.New("it was cut off: fetch it again")
	}
	return lines.Err()
}

// read reads a line.
func (c columns) read(line []byte, suffixes links.Suffixes) (s site, ok bool) {
	cell := func(at int) []byte {
		rest := line
		for range at {
			i := bytes.IndexAny(rest, "\t ")
			if i < 0 {
				return nil
			}
			rest = rest[i+1:]
		}
		if i := bytes.IndexAny(rest, "\t "); i >= 0 {
			rest = rest[:i]
		}
		return rest
	}
	x, err := strconv.ParseFloat(string(cell(c.rank)), 64)
	if err != nil || !(x > 0) || math.IsInf(x, 0) {
		return s, false
	}
	s.value = float32(math.Log(x))
	name := suffixes.Site(forward(string(cell(c.name))))
	if name == "" {
		return s, false
	}
	s.key = keyOf(name)
	return s, true
}

// forward turns a name round that is written with its ending first, "example.site.www".
func forward(name string) string {
	parts := strings.Split(name, ".")
	slices.Reverse(parts)
	return strings.ToLower(strings.Join(parts, "."))
}
