package standin

import (
	"bufio"
	"crypto/sha256"
	"encoding/binary"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"hash/crc32"
	"io"
	"math"
	"os"
	"path/filepath"
	"sort"
	"time"
)

// Most of growing is weighing the pages. What comes of that can be kept in a file, from
// which the next program of the same build takes it: the same world, sooner. A file that is
// not whole is as good as none.

// Keep is where grown worlds are kept, and for which program.
type Keep struct {
	Dir   string
	Build string // what tells one build of the program from another
}

// mostKept is how many worlds are kept; of more, the oldest go.
const mostKept = 2

// GrowKept grows a world as Grow does, with what is kept of it when there is that. Else
// keepIt keeps it, which takes a second or two and may be done while the world is asked; it is
// nil when nothing is to be kept.
func GrowKept(number int, scenarios []*Scenario, day time.Time, keep Keep) (w *World, keepIt func() error) {
	w = sprout(number, scenarios, day)
	name, err := keep.file(w)
	if err != nil {
		w.ripen(w.buildIndex())
		return w, nil
	}
	if ix, err := readIndex(name, len(w.pages)); err == nil {
		for _, p := range w.pages {
			p.readTitle()
		}
		now := time.Now()
		os.Chtimes(name, now, now) // it was of use: others go first
		w.ripen(ix)
		return w, nil
	}
	w.ripen(w.buildIndex())
	founded := w.index.asFounded()
	return w, func() error { return keep.write(name, founded) }
}

// asFounded is the index as it is now, whatever is added to it later.
func (ix *index) asFounded() *index {
	out := &index{texts: ix.texts[:len(ix.texts):len(ix.texts)], terms: make(map[string]*termList, len(ix.terms))}
	for text, list := range ix.terms {
		n := len(list.postings)
		out.terms[text] = &termList{postings: list.postings[:n:n], first: list.first}
	}
	return out
}

func (k Keep) file(w *World) (string, error) {
	if k.Dir == "" || k.Build == "" {
		return "", errors.New("nothing is kept: no place, or no build, is known")
	}
	scenarios, err := json.Marshal(w.scenarios)
	if err != nil {
		return "", err
	}
	sum := sha256.New()
	fmt.Fprintf(sum, "%s\n%d\n%s\n", k.Build, w.Number, w.Founded.Format(time.DateOnly))
	sum.Write(scenarios)
	return filepath.Join(k.Dir, "world-"+hex.EncodeToString(sum.Sum(nil))[:32]), nil
}

// write keeps an index, whole or not at all, and lets the oldest go.
func (k Keep) write(name string, ix *index) error {
	if err := os.MkdirAll(k.Dir, 0o755); err != nil {
		return err
	}
	f, err := os.CreateTemp(k.Dir, "growing-*")
	if err != nil {
		return err
	}
	defer os.Remove(f.Name())
	k.dropHalf(f.Name())
	err = ix.encode(f)
	if end := f.Close(); err == nil {
		err = end
	}
	if err == nil {
		err = os.Rename(f.Name(), name)
	}
	kept, _ := filepath.Glob(filepath.Join(k.Dir, "world-*"))
	ages := map[string]time.Time{}
	for _, old := range kept {
		if info, err := os.Stat(old); err == nil {
			ages[old] = info.ModTime()
		}
	}
	sort.Slice(kept, func(i, j int) bool { return ages[kept[i]].After(ages[kept[j]]) })
	for _, old := range kept[min(mostKept, len(kept)):] {
		os.Remove(old)
	}
	return err
}

// dropHalf removes what programs that were killed left half written.
func (k Keep) dropHalf(mine string) {
	half, _ := filepath.Glob(filepath.Join(k.Dir, "growing-*"))
	for _, name := range half {
		if info, err := os.Stat(name); err == nil && name != mine && time.Since(info.ModTime()) > time.Hour {
			os.Remove(name)
		}
	}
}

var checks = crc32.MakeTable(crc32.Castagnoli)

// encode writes: a check of the rest; how many pages and terms; of each page whether it is
// in the index, how many words, and these; of each term its length, text, how many
// postings, and these. All numbers are 32 bits, little-endian.
func (ix *index) encode(to io.WriteSeeker) error {
	sum := crc32.New(checks)
	out := bufio.NewWriterSize(io.MultiWriter(to, sum), 1<<20)
	var four [4]byte
	number := func(n uint32) {
		binary.LittleEndian.PutUint32(four[:], n)
		out.Write(four[:]) // an error stays until Flush
	}
	if _, err := to.Write(four[:]); err != nil { // room for the check
		return err
	}
	number(uint32(len(ix.texts)))
	number(uint32(len(ix.terms)))
	for _, text := range ix.texts {
		number(uint32(len(text)))
		if len(text) == 0 {
			there := uint32(0)
			if text != nil {
				there = 1
			}
			number(there)
		}
		for _, word := range text {
			number(word)
		}
	}
	for text, list := range ix.terms {
		number(uint32(len(text)))
		out.WriteString(text)
		number(uint32(len(list.postings)))
		for _, p := range list.postings {
			number(uint32(p.page))
			number(math.Float32bits(p.weight))
		}
	}
	if err := out.Flush(); err != nil {
		return err
	}
	binary.LittleEndian.PutUint32(four[:], sum.Sum32())
	if _, err := to.Seek(0, io.SeekStart); err != nil {
		return err
	}
	_, err := to.Write(four[:])
	return err
}

var errKept = errors.New("what was kept is not whole")

// readIndex reads what encode wrote, for a world of so many pages.
func readIndex(name string, pages int) (ix *index, err error) {
	body, err := os.ReadFile(name)
	if err != nil {
		return nil, err
	}
	if len(body) < 12 || binary.LittleEndian.Uint32(body) != crc32.Checksum(body[4:], checks) {
		return nil, errKept
	}
	r := &keptReader{rest: body[4:]}
	texts, terms := r.count(1), r.count(2)
	if texts > pages {
		return nil, errKept
	}
	ix = &index{texts: make([][]uint32, texts), terms: make(map[string]*termList, terms), founding: pages}
	for i := range ix.texts {
		n := r.count(1)
		if n == 0 && r.number() == 0 {
			continue
		}
		ix.texts[i] = make([]uint32, n)
		for j := range ix.texts[i] {
			ix.texts[i][j] = r.number()
		}
	}
	for range terms {
		text := r.text()
		list := &termList{postings: make([]posting, r.count(2))}
		list.first = len(list.postings)
		for j := range list.postings {
			list.postings[j] = posting{int32(r.number()), math.Float32frombits(r.number())}
			if page := list.postings[j].page; page < 0 || int(page) >= pages {
				return nil, errKept
			}
		}
		ix.terms[text] = list
	}
	if r.short {
		return nil, errKept
	}
	return ix, nil
}

// keptReader reads numbers and text; short says that there were fewer than were asked for.
type keptReader struct {
	rest  []byte
	short bool
}

func (r *keptReader) number() uint32 {
	if len(r.rest) < 4 {
		r.rest, r.short = nil, true
		return 0
	}
	n := binary.LittleEndian.Uint32(r.rest)
	r.rest = r.rest[4:]
	return n
}

// count is how many things follow, of so many numbers each at least: never more than there
// can be.
func (r *keptReader) count(numbers int) int {
	n := int(r.number())
	if n > len(r.rest)/(4*numbers) {
		r.rest, r.short = nil, true
		return 0
	}
	return n
}

func (r *keptReader) text() string {
	n := int(r.number())
	if n > len(r.rest) {
		r.rest, r.short = nil, true
		return ""
	}
	s := string(r.rest[:n])
	r.rest = r.rest[n:]
	return s
}
