package main

import (
	"bytes"
	"context"
	"encoding/csv"
	"encoding/json"
	"errors"
	"io/fs"
	"net/http/httptest"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"cleverniche/market"
	"cleverniche/standin"
	"cleverniche/store"
	"cleverniche/study"
	"cleverniche/study/ask"
)

var world = sync.OnceValue(func() *standin.World {
	scenarios, err := standin.Scenarios()
	if err != nil {
		panic(err)
	}
	return standin.Grow(3, scenarios, time.Now())
})

// outside serves the stand-in's world and returns the flags that point at it.
func outside(t testing.TB) []string {
	s := httptest.NewServer(world().Handler(standin.Options{}))
	t.Cleanup(s.Close)
	host := strings.TrimPrefix(s.URL, "http://")
	return []string{"--data", filepath.Join(t.TempDir(), "d.db"), "--suggestions", s.URL + "/suggest", "--demand",
		s.URL + "/demand",
		"--results", s.URL + "/search", "--links", s.URL + "/links", "--rankings", s.URL + "/rankings",
		"--reach", ".example=" + host,
		"--engine", "lantern",
		"--per-second", "1000", "--pages-per-host", "1000", "--price-results", "0.002", "--config", "/dev/null"}
}

// run does one command as the program would.
func run(flags []string, in string, args ...string) (out, progress string, code int) {
	cmd := rootCommand()
	var o, e bytes.Buffer
	cmd.SetOut(&o)
	cmd.SetErr(&e)
	cmd.SetIn(strings.NewReader(in))
	cmd.SetArgs(append(args, flags...))
	if err := cmd.ExecuteContext(context.Background()); err != nil {
		return o.String(), e.String() + err.Error(), exitCode(err)
	}
	return o.String(), e.String(), 0
}

// record is what these tests read of an exported idea.
type record struct {
	Phrase     string
	Searches   *int
	Difficulty *float64
	PageOne    *float64 `json:"page_one_chance"`
	Intent     string
}

// TestMainJobWithoutABrowser goes from a seed to an exported idea.
func TestMainJobWithoutABrowser(t *testing.T) {
	flags := outside(t)
	must := func(in string, args ...string) string {
		t.Helper()
		out, progress, code := run(flags, in, args...)
		if code != 0 {
			t.Fatalf("%v: code %d, %s", args, code, progress)
		}
		return out
	}
	must("", "niche", "Sky", "--site", "nightporch.example")
	must("", "gather", "moon filter", "--niche", "sky")
	var ideas []record
	if err := json.Unmarshal([]byte(must("", "export", "--show", "all", "--format", "json")), &ideas); err != nil ||
		len(ideas) < 40 {
		t.Fatalf("%d ideas, %v", len(ideas), err)
	}
	for _, i := range ideas {
		if i.Searches == nil {
			t.Fatalf("%q has no searches", i.Phrase)
		}
	}
	must("", "judge", "--all-left", "--words", "4", "--most", "6")
	must("", "judge", "can you see saturn with binoculars")
	if err := json.Unmarshal([]byte(must("", "export", "--show", "all", "--format", "json", "--sort", "difficulty")),
		&ideas); err != nil {
		t.Fatal(err)
	}
	judged := 0
	for _, i := range ideas {
		if i.Difficulty != nil {
			judged++
			if *i.Difficulty < 0 || *i.Difficulty > 100 || *i.PageOne < 0 || *i.PageOne > 1 || i.Intent == "" {
				t.Errorf("%+v", i)
			}
		}
	}
	if judged != 7 || ideas[0].Difficulty == nil {
		t.Errorf("%d ideas are judged", judged)
	}
	rows, err := csv.NewReader(strings.NewReader(must("", "export", "--show", "open", "--format", "csv"))).ReadAll()
	if err != nil || len(rows) != len(ideas)+1 {
		t.Errorf("%d rows of CSV, %v", len(rows), err)
	}
	if out := must("", "niche"); !strings.Contains(out, "nightporch.example") || !strings.HasPrefix(out, "Niche") {
		t.Errorf("niches: %s", out)
	}
}

func TestExitCodes(t *testing.T) {
	flags := outside(t)
	run(flags, "", "niche", "Sky")
	for _, c := range []struct {
		name string
		in   string
		args []string
		code int
		says string
	}{
		{"no such command", "", []string{"fly"}, exitInput, "unknown command"},
		{"a misspelt command", "", []string{"gathr"}, exitInput, "did you mean gather?"},
		{"no seed", "", []string{"gather"}, exitInput, "arg"},
		{"a seed without a word", "", []string{"gather", "🔭"}, exitInput, "no word"},
		{"no such niche", "", []string{"gather", "moon", "--niche", "Mars"}, exitInput, "no niche named"},
		{"unknown flag", "", []string{"gather", "--fast"}, exitInput, "unknown flag"},
		{"bad lines", "moon\n🔭\n", []string{"import", "--yes", "-"}, exitPartly, "line 2 skipped"},
		{"no such file", "", []string{"import", "/nonexistent"}, exitInput, "no such file"},
		{"nothing to judge", "", []string{"judge"}, exitInput, "--all-left"},
		{"at most fewer than one", "", []string{"judge", "--all-left", "--most", "-1"}, exitInput, "--most"},
		{"nothing is left", "", []string{"judge", "--all-left", "--words", "50"}, exitInput, "no idea passes"},
		{"no phrase", "", []string{"judge", "🔭"}, exitInput, "phrase 1"},
		{"a rank that is none", "", []string{"export", "--rank", "first"}, exitInput, "not a whole number"},
		{"bad show", "", []string{"export", "--show", "some"}, exitInput, "there is no “some”"},
		{"bad format", "", []string{"export", "--format", "pdf"}, exitInput, "no format"},
		{"bad depth", "", []string{"export", "--depth", "3"}, exitInput, "10 to 100"},
		{"bad price", "", []string{"export", "--price-results", "cheap"}, exitInput, "no amount"},
		{"source not set", "", []string{"gather", "moon", "--suggestions", ""}, exitUnreachable, "--suggestions"},
		{"source gone", "", []string{"gather", "mars", "--suggestions", "http://127.0.0.1:1/x"}, exitUnreachable,
			"nothing is running"},
	} {
		t.Run(c.name, func(t *testing.T) {
			all := flags
			cmd := append([]string{}, c.args...)
			for i := 1; i < len(cmd)-1; i++ { // a case's own flag wins over the common one
				if strings.HasPrefix(cmd[i], "--") {
					all = without(all, cmd[i])
				}
			}
			out, progress, code := run(all, c.in, cmd...)
			if code != c.code || !strings.Contains(progress, c.says) || out != "" {
				t.Errorf("code %d, out %q, says %q", code, out, progress)
			}
		})
	}
}

func without(flags []string, name string) (out []string) {
	for i := 0; i < len(flags); i += 2 {
		if flags[i] != name {
			out = append(out, flags[i], flags[i+1])
		}
	}
	return out
}

// TestSettingsOrder: a flag wins over the environment, and that over the file.
func TestSettingsOrder(t *testing.T) {
	t.Setenv("CLEVERNICHE_PER_SECOND", "7")
	t.Setenv("CLEVERNICHE_BUDGET", "3")
	cmd := rootCommand()
	if err := cmd.PersistentFlags().Parse([]string{"--budget", "9.5", "--config", "testdata/config.yaml"}); err != nil {
		t.Fatal(err)
	}
	c, err := readConfig(cmd.PersistentFlags())
	if err != nil {
		t.Fatal(err)
	}
	if budget, _ := c.micros("budget"); budget != 9_500_000 || c.GetString("per-second") != "7" ||
		c.GetString("engine") != "from-file" {
		t.Errorf("budget %d, per second %s, engine %s", budget, c.GetString("per-second"), c.GetString("engine"))
	}
	cmd.PersistentFlags().Set("config", "/nonexistent.yaml")
	if _, err := readConfig(cmd.PersistentFlags()); err == nil {
		t.Error("a file that was asked for and is not there is no error")
	}
}

// TestImportsRunDownwards holds the layers to their order.
func TestImportsRunDownwards(t *testing.T) {
	floors := []string{"cmd", "web", "study", "ideatable", "store", "market", "core"}
	out, err := exec.Command("go", "list", "-f", `{{.ImportPath}} {{join .Imports " "}}`, "cleverniche/...").Output()
	if err != nil {
		t.Fatal(err)
	}
	floor := func(path string) int {
		for i, f := range floors {
			if path == "cleverniche/"+f || strings.HasPrefix(path, "cleverniche/"+f+"/") {
				return i
			}
		}
		return -1
	}
	// The rooms of the study, from the ground up.
	rooms := []string{"input", "money", "places", "ask", "niches", "jobs", "sieves", "ideas", "imports", "results",
		"subjects", "gather", "topics", "articles", "briefs", "rivals", "thecase", "watch",
		"files"}
	room := func(path string) int { return slices.Index(rooms, strings.TrimPrefix(path, "cleverniche/study/")) }
	// The parts of screens, and screens that others show a part of; the others import these alone.
	parts := []string{"draw", "frame", "start", "engine", "jobs", "filters", "list", "idea", "group"}
	part := func(path string) int { return slices.Index(parts, strings.TrimPrefix(path, "cleverniche/web/")) }
	for _, line := range strings.Split(strings.TrimSpace(string(out)), "\n") {
		words := strings.Fields(line)
		for _, imported := range words[1:] {
			if from, to := floor(words[0]), floor(imported); to >= 0 && from >= 0 && to < from {
				t.Errorf("%s imports %s", words[0], imported)
			}
			if strings.HasPrefix(imported, "cleverniche/web/") && strings.HasPrefix(words[0], "cleverniche/web/") &&
				(part(imported) < 0 || part(words[0]) >= 0 && part(imported) > part(words[0])) {
				t.Errorf("%s imports %s, another screen", words[0], imported)
			}
			if strings.HasPrefix(words[0], "cleverniche/web") && imported == "cleverniche/store" &&
				words[0] != "cleverniche/web/webtest" {
				t.Errorf("%s reaches past study to the store", words[0])
			}
			if from, to := room(words[0]), room(imported); from >= 0 && to > from {
				t.Errorf("%s imports %s, which stands above it", words[0], imported)
			}
			if strings.HasPrefix(words[0], "cleverniche/core/") {
				for _, impure := range []string{"net/http", "database/sql", "html/template", "os", "gorm.io"} {
					if imported == impure || strings.HasPrefix(imported, impure+"/") {
						t.Errorf("the core is not pure: %s imports %s", words[0], imported)
					}
				}
			}
		}
	}
}

// TestTheClockIsGiven: what is above the clients reads the time from the clock that it
// is given, so that a test, or a demo, can move it.
func TestTheClockIsGiven(t *testing.T) {
	for _, floor := range []string{"core", "store", "ideatable", "study", "web", "market"} {
		err := filepath.WalkDir(filepath.Join("..", "..", floor), func(path string, d fs.DirEntry, err error) error {
			if err != nil || d.IsDir() || filepath.Ext(path) != ".go" || strings.HasSuffix(path, "_test.go") {
				return err
			}
			text, err := os.ReadFile(path)
			for i, line := range strings.Split(string(text), "\n") {
				if regexp.MustCompile(`time\.(Now|Since|Until)\(`).MatchString(line) {
					t.Errorf("%s:%d reads the clock itself: %s", path, i+1, strings.TrimSpace(line))
				}
			}
			return err
		})
		if err != nil {
			t.Fatal(err)
		}
	}
}

// BenchmarkJudge100 looks 100 ideas up, with nothing at hand.
func BenchmarkJudge100(b *testing.B) {
	for b.Loop() {
		b.StopTimer()
		flags := outside(b)
		run(flags, "", "niche", "Sky", "--site", "nightporch.example")
		run(flags, "", "gather", "telescope", "binoculars")
		b.StartTimer()
		if _, progress, code := run(flags, "", "judge", "--all-left", "--most", "100"); code != 0 ||
			!strings.Contains(progress, "100 ideas judged") {
			b.Fatalf("code %d: %s", code, progress)
		}
	}
}

// BenchmarkOpen opens an existing data file, as a start does.
func BenchmarkOpen(b *testing.B) {
	path := filepath.Join(b.TempDir(), "d.db")
	for b.Loop() {
		st, err := store.Open(path, time.Now)
		if err != nil {
			b.Fatal(err)
		}
		study.New(st, ask.Market{}, study.Options{}).Close()
		st.Close()
	}
}

func TestExitCodeOfErrors(t *testing.T) {
	for want, err := range map[int]error{exitFailed: errors.New("x"),
		exitUnreachable: &market.Error{Trouble: market.Unreachable, Err: errors.New("x")}, exitPartly: &partlyError{"x"}} {
		if got := exitCode(err); got != want {
			t.Errorf("%v: code %d, want %d", err, got, want)
		}
	}
}

// TestGlossaryNamesTheCode: each term stands once, in words, and what it is called in the code is there.
func TestGlossaryNamesTheCode(t *testing.T) {
	text, err := os.ReadFile(filepath.Join("..", "..", "docs", "glossary.md"))
	if err != nil {
		t.Fatal(err)
	}
	out, err := exec.Command("go", "list", "-f", "{{.Dir}}", "cleverniche/...").Output()
	if err != nil {
		t.Fatal(err)
	}
	dirs := strings.Fields(string(out))
	seen := map[string]bool{}
	for _, line := range strings.Split(string(text), "\n") {
		cells := strings.Split(line, "|")
		if len(cells) != 6 || strings.HasPrefix(cells[1], "---") || strings.TrimSpace(cells[1]) == "term" {
			continue
		}
		term := strings.TrimSpace(cells[1])
		if seen[term] || strings.TrimSpace(cells[2]) == "" {
			t.Errorf("%q stands twice, or says nothing", term)
		}
		seen[term] = true
		name := strings.Trim(cells[4], " `")
		pkg, word, _ := strings.Cut(name, ".")
		if !declared(t, dirs, pkg, word) {
			t.Errorf("%s: there is no %s", term, name)
		}
	}
	if len(seen) < 50 {
		t.Errorf("%d terms", len(seen))
	}
}

// declared reports whether a package of that name declares something.
func declared(t *testing.T, dirs []string, pkg, word string) bool {
	decl := regexp.MustCompile(`(?m)^(type|func|const|var|\t) ?` + word + `\b`)
	for _, dir := range dirs {
		if filepath.Base(dir) != pkg {
			continue
		}
		files, err := filepath.Glob(filepath.Join(dir, "*.go"))
		if err != nil {
			t.Fatal(err)
		}
		for _, file := range files {
			text, err := os.ReadFile(file)
			if err != nil {
				t.Fatal(err)
			}
			if decl.Match(text) {
				return true
			}
		}
	}
	return false
}
