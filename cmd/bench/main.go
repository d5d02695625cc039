// Command bench times the heavy parts of core against general-purpose references on
// the same data in the same run, and prints a table. What matters is the ratio: the
// machines are noisy. A reference that is not installed is left out, and said.
//
//	make bench
package main

import (
	"bytes"
	"fmt"
	"math"
	"os"
	"os/exec"
	"runtime"
	"slices"
	"strconv"
	"strings"
	"testing"
	"text/tabwriter"
	"time"
)

// contest is one task for ours and, where there is one, a reference.
type contest struct {
	name   string
	bar    time.Duration // what is asked of ours; 0 nothing
	ours   func() func() // makes ready, and returns what is timed
	other  string        // the reference's name; "" there is none
	script func(dir string) (program string, args []string, input []byte)
	here   func() time.Duration // of a reference in Go, instead of a script
}

// python is Debian's own, which Debian's packages belong to.
const python = "/usr/bin/python3"

func main() {
	dir, err := os.MkdirTemp("", "bench")
	if err != nil {
		fmt.Fprintln(os.Stderr, "bench:", err)
		os.Exit(1)
	}
	defer os.RemoveAll(dir)
	table := tabwriter.NewWriter(os.Stdout, 2, 0, 2, ' ', 0)
	fmt.Fprintln(table, "TASK\tOURS\tASKED\tREFERENCE\tITS TIME\tITS TIME / OURS")
	for _, c := range contests {
		run := c.ours()
		res := testing.Benchmark(func(b *testing.B) {
			for b.Loop() {
				run()
			}
		})
		ours := time.Duration(res.NsPerOp())
		asked := ""
		if c.bar > 0 {
			asked = "≤ " + short(c.bar)
		}
		name, took, ratio := "none", "", ""
		if c.other != "" {
			name = c.other
			if other, err := timed(c, dir); err != nil {
				took = firstLine(err.Error())
			} else {
				took, ratio = short(other), fmt.Sprintf("%.1f", float64(other)/float64(ours))
			}
		}
		fmt.Fprintf(table, "%s\t%s\t%s\t%s\t%s\t%s\n", c.name, short(ours), asked, name, took, ratio)
	}
	table.Flush()
	rounds := growths(grouping(10_000), grouping(100_000), 10, 15)
	fmt.Printf("\nTopics from 10,000 to 100,000 ideas: n^%.3f (asked ≤ n^1.15), the median of %d rounds from "+
		"n^%.3f to n^%.3f\n",
		rounds[len(rounds)/2], len(rounds), rounds[0], rounds[len(rounds)-1])
}

// growths are, rising, the exponents by which the time of a task grows to so many times
// the size, one a round: both sizes are timed close to one another.
func growths(small, large func(), times, rounds int) []float64 {
	const smalls = 5
	var out []float64
	for range rounds {
		runtime.GC()
		begun := time.Now()
		for range smalls {
			small()
		}
		took := time.Since(begun)
		runtime.GC()
		begun = time.Now()
		large()
		ratio := smalls * float64(time.Since(begun)) / float64(took)
		out = append(out, math.Log(ratio)/math.Log(float64(times)))
	}
	slices.Sort(out)
	return out
}

// timed runs the reference, which prints the seconds that the work itself took.
func timed(c contest, dir string) (time.Duration, error) {
	if c.here != nil {
		return c.here(), nil
	}
	program, args, input := c.script(dir)
	if _, err := exec.LookPath(program); err != nil {
		return 0, fmt.Errorf("%s is not here", program)
	}
	cmd := exec.Command(program, args...)
	cmd.Env = append(os.Environ(), "OMP_NUM_THREADS=1", "OPENBLAS_NUM_THREADS=1")
	var problem bytes.Buffer
	cmd.Stdin, cmd.Stderr = bytes.NewReader(input), &problem
	begun := time.Now()
	out, err := cmd.Output()
	whole := time.Since(begun)
	if err != nil {
		lines := strings.Split(strings.TrimSpace(problem.String()), "\n")
		return 0, fmt.Errorf("%v: %s", err, lines[len(lines)-1])
	}
	fields := strings.Fields(string(out))
	if len(fields) == 0 || fields[0] != "seconds" { // a program that does nothing else
		return whole, nil
	}
	s, err := strconv.ParseFloat(fields[1], 64)
	return time.Duration(s * float64(time.Second)), err
}

func short(d time.Duration) string {
	for _, unit := range []time.Duration{time.Second, time.Millisecond, time.Microsecond} {
		if d >= unit {
			return d.Round(unit / 100).String()
		}
	}
	return d.String()
}

func firstLine(s string) string {
	s, _, _ = strings.Cut(s, "\n")
	return s
}
