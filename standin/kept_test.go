package standin

import (
	"encoding/binary"
	"hash/crc32"
	"os"
	"path/filepath"
	"slices"
	"testing"
)

// TestKeptWorldIsTheSame: a world that is taken from what was kept of it says what a grown
// one says; a file that is damaged is as good as none, and another build has its own.
func TestKeptWorldIsTheSame(t *testing.T) {
	scenarios, err := ReadScenarios(hobby, "testdata/hobby")
	if err != nil {
		t.Fatal(err)
	}
	keep := Keep{Dir: filepath.Join(t.TempDir(), "kept"), Build: "one"}
	grow := func() *World {
		w, keepIt := GrowKept(4, scenarios, clock, keep)
		if keepIt != nil {
			if err := keepIt(); err != nil {
				t.Fatal(err)
			}
		}
		return w
	}
	want := digest(t, Grow(4, scenarios, clock))
	for _, what := range []string{"grown", "kept"} {
		if got := digest(t, grow()); got != want {
			t.Errorf("%s: %s, not %s", what, got, want)
		}
	}
	files, _ := filepath.Glob(filepath.Join(keep.Dir, "world-*"))
	if len(files) != 1 {
		t.Fatalf("%d files", len(files))
	}
	whole, err := os.ReadFile(files[0])
	if err != nil {
		t.Fatal(err)
	}
	for _, damaged := range [][]byte{nil, whole[:len(whole)/2], append([]byte{whole[0] ^ 1}, whole[1:]...), whole[:4]} {
		if err := os.WriteFile(files[0], damaged, 0o644); err != nil {
			t.Fatal(err)
		}
		if _, err := readIndex(files[0], 1_000_000); err == nil {
			t.Errorf("%d bytes of %d are read", len(damaged), len(whole))
		}
		if got := digest(t, grow()); got != want {
			t.Error("after damage the world is another")
		}
	}
	for _, build := range []string{"two", "three", "four", "five", "six"} {
		keep.Build = build
		grow()
	}
	if files, _ = filepath.Glob(filepath.Join(keep.Dir, "*")); len(files) != mostKept {
		t.Errorf("%d worlds are kept", len(files))
	}
	keep.Dir = "/dev/null/nowhere"
	if w, keepIt := GrowKept(4, scenarios, clock, keep); keepIt() == nil || digest(t, w) != want {
		t.Error("where nothing can be kept, that is not said, or the world is another")
	}
}

func FuzzReadIndex(f *testing.F) {
	ix := &index{texts: [][]uint32{nil, {}, {1, 0, 2}}, terms: map[string]*termList{"a": {postings: []posting{{2, 0.5}}}}}
	name := filepath.Join(f.TempDir(), "x")
	file, err := os.Create(name)
	if err == nil {
		err = ix.encode(file)
	}
	body, read := os.ReadFile(name)
	if err != nil || read != nil {
		f.Fatal(err, read)
	}
	f.Add(body)
	f.Fuzz(func(t *testing.T, body []byte) {
		if len(body) >= 4 { // so that more than the check is tried
			body = slices.Clone(body)
			binary.LittleEndian.PutUint32(body, crc32.Checksum(body[4:], checks))
		}
		name := filepath.Join(t.TempDir(), "x")
		os.WriteFile(name, body, 0o644)
		if ix, err := readIndex(name, 3); err == nil && len(ix.texts) > 3 {
			t.Errorf("%d texts", len(ix.texts))
		}
	})
}
