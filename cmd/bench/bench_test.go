package main

import (
	"strings"
	"testing"
	"time"
)

// TestTimed: a reference tells the seconds of its work, or is timed as a whole; one
// that is not here, or fails, is told.
func TestTimed(t *testing.T) {
	script := func(program string, args ...string) contest {
		return contest{script: func(string) (string, []string, []byte) { return program, args, []byte("in") }}
	}
	if took, err := timed(script("sh", "-c", "echo seconds 1.5"), t.TempDir()); err != nil ||
		took != 1500*time.Millisecond {
		t.Errorf("%v, %v", took, err)
	}
	if took, err := timed(script("sh", "-c", "cat; sleep 0.02"), t.TempDir()); err != nil || took < 20*time.Millisecond {
		t.Errorf("%v, %v", took, err)
	}
	if _, err := timed(script("no-such-program-here"), t.TempDir()); err == nil ||
		!strings.Contains(err.Error(), "is not here") {
		t.Error(err)
	}
	if _, err := timed(script("sh", "-c", "echo lost >&2; exit 3"), t.TempDir()); err == nil ||
		!strings.Contains(err.Error(), "lost") {
		t.Error(err)
	}
	if took, err := timed(contest{here: func() time.Duration { return time.Second }}, ""); err != nil ||
		took != time.Second {
		t.Errorf("%v, %v", took, err)
	}
	for d, want := range map[time.Duration]string{1234567 * time.Microsecond: "1.23s",
		26319 * time.Microsecond: "26.32ms", 950: "950ns"} {
		if got := short(d); got != want {
			t.Errorf("%v is written %s", d, got)
		}
	}
}

// TestBothSidesWorkOnTheSame: what is timed is deterministic, so that ours and the
// reference see the same data.
func TestBothSidesWorkOnTheSame(t *testing.T) {
	if a, b := edges(50, 200), edges(50, 200); len(a) != 200 || a[17] != b[17] {
		t.Error("edges differ from call to call")
	}
	if a, b := vocabulary(), vocabulary(); a[999] != b[999] || len(a) != 200_000 {
		t.Error("words differ from call to call")
	}
	if x := series(); len(x) != 1000 || len(x[0]) != 48 || x[3][5] != series()[3][5] {
		t.Error("series differ from call to call")
	}
}
