package main

import (
	"bytes"
	"encoding/json"
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/spf13/cobra"
)

// asProgram makes the test's own program run as the application.
const asProgram = "CLEVERNICHE_TEST_AS_PROGRAM"

func TestMain(m *testing.M) {
	if os.Getenv(asProgram) != "" {
		os.Unsetenv(asProgram)
		main()
		os.Exit(0)
	}
	os.Exit(m.Run())
}

// each does something for every command that people see.
func each(c *cobra.Command, do func(c *cobra.Command)) {
	for _, sub := range c.Commands() {
		if sub.IsAvailableCommand() && sub.Name() != "help" && sub.Name() != "completion" && c.Name() != "completion" {
			do(sub)
			each(sub, do)
		}
	}
}

// TestHelp: every command has its place, two examples that can be understood, and only the flags that matter there.
func TestHelp(t *testing.T) {
	seen := 0
	each(rootCommand(), func(c *cobra.Command) {
		seen++
		lines := strings.Split(c.Example, "\n")
		if len(lines) != 2 || c.Parent().Name() == "cleverniche" && c.GroupID == "" {
			t.Errorf("%s: examples %q, group %q", c.CommandPath(), c.Example, c.GroupID)
		}
		for _, line := range lines {
			at := strings.Index(line, "cleverniche ")
			if c.Name() != "import" && at < 0 {
				t.Fatalf("%s: %q", c.CommandPath(), line)
			}
			found, _, err := rootCommand().Find(strings.Fields(line[max(0, at)+len("cleverniche "):]))
			if err != nil || !strings.Contains(line+" ", c.CommandPath()+" ") && c.Name() != "sieves" {
				t.Errorf("%s: %q is of %s, %v", c.CommandPath(), line, found.CommandPath(), err)
			}
			for _, word := range strings.Fields(line) {
				name, _, _ := strings.Cut(strings.TrimPrefix(word, "--"), "=")
				if strings.HasPrefix(word, "--") && found.Flag(name) == nil && found.InheritedFlags().Lookup(name) == nil {
					t.Errorf("%s: %q has no flag --%s", c.CommandPath(), line, name)
				}
			}
		}
		var out bytes.Buffer
		root := rootCommand()
		root.SetOut(&out)
		root.SetArgs(append(strings.Fields(c.CommandPath())[1:], "--help"))
		if err := root.Execute(); err != nil {
			t.Fatal(err)
		}
		serves := c.Name() == "serve"
		if help := out.String(); strings.Contains(help, "--price-results") != serves || !strings.Contains(help, "--data") ||
			strings.ContainsRune(help, '\x1b') {
			t.Errorf("%s tells of flags that do not matter, or of none: %s", c.CommandPath(), help)
		}
	})
	if seen < 20 {
		t.Errorf("%d commands", seen)
	}
}

// TestDecisionsByCommand: ideas are kept, dropped, labelled and deleted, from standard input too, and each is undone.
func TestDecisionsByCommand(t *testing.T) {
	flags := outside(t)
	do := func(in string, code int, args ...string) (out, says string) {
		t.Helper()
		out, says, got := run(flags, in, args...)
		if got != code {
			t.Fatalf("%v: code %d, %s", args, got, says)
		}
		return out, says
	}
	shown := func(show string) string {
		t.Helper()
		out, _ := do("", 0, "export", "--show", show, "--format", "csv")
		var phrases []string
		for _, line := range strings.Split(out, "\r\n")[1:] {
			if phrase, _, _ := strings.Cut(line, ","); phrase != "" {
				phrases = append(phrases, phrase)
			}
		}
		return strings.Join(phrases, ", ")
	}
	do("", 0, "niche", "Sky")
	do("moon map\nmoon phases\nstar map\n", 0, "import", "--yes", "-")
	do("", 0, "keep", "Moon  Map")
	_, says := do("\ufeffstar map\r\n\nno such idea\n", exitPartly, "drop", "-")
	if !strings.Contains(says, "“no such idea” is not among your ideas.") ||
		!strings.Contains(says, "Dropped 1 idea.") {
		t.Errorf("says %q", says)
	}
	do("", 0, "label", "write first", "moon phases", "moon map")
	if kept, dropped := shown("kept"), shown("dropped"); kept != "moon map" || dropped != "star map" {
		t.Errorf("kept %q, dropped %q", kept, dropped)
	}
	if out, _ := do("", 0, "export", "--show", "all", "--label", "write first", "--format", "csv"); strings.Count(out,
		"\n") != 3 {
		t.Errorf("labelled: %s", out)
	}
	for _, want := range []string{"Labelling 2 ideas was undone.", "Dropping “star map” was undone."} {
		if _, says := do("", 0, "undo"); !strings.Contains(says, want) {
			t.Errorf("undo says %q, want %q", says, want)
		}
	}
	do("", 0, "delete", "moon map", "star map")
	if got := shown("all"); got != "moon phases" {
		t.Errorf("left: %q", got)
	}
	do("", 0, "undo")
	if got := strings.Count(shown("all"), ","); got != 2 {
		t.Errorf("undone: %q", shown("all"))
	}
	if _, says := do("", exitInput, "keep", "nothing like it"); !strings.Contains(says, "none of these") {
		t.Errorf("says %q", says)
	}
	if out, _ := do("", 0, "niches", "--json"); out !=
		`{"niche": "Sky", "language": "en", "country": "US", "site": "", "ideas": 3, "kept": 1, "looked_up": 0}`+"\n" {
		t.Errorf("niches: %s", out)
	}
	if out, _ := do("", 0, "sieves"); !strings.Contains(out, "Long tail") || strings.ContainsRune(out, '\x1b') {
		t.Errorf("sieves: %s", out)
	}
}

// TestPlanByCommand goes from looked-up ideas to topics, the plan, a brief and the calendar.
func TestPlanByCommand(t *testing.T) {
	flags := outside(t)
	must := func(in string, args ...string) string {
		t.Helper()
		out, says, code := run(flags, in, args...)
		if code != 0 {
			t.Fatalf("%v: code %d, %s", args, code, says)
		}
		return out
	}
	lines := func(text string, of any) {
		t.Helper()
		d := json.NewDecoder(strings.NewReader(text))
		d.DisallowUnknownFields()
		if err := d.Decode(of); err != nil {
			t.Fatalf("%s: %v", text, err)
		}
	}
	must("", "niche", "Sky", "--site", "nightporch.example")
	const phrase = "can you see saturn with binoculars"
	told := must(phrase+"\n", "judge", "-")
	for _, want := range []string{phrase, "Difficulty", "Page one", " %", "Verdict"} {
		if !strings.Contains(told, want) {
			t.Errorf("%q is missing in what judge tells:\n%s", want, told)
		}
	}
	var verdict struct {
		Phrase     string
		Searches   float64
		Difficulty float64
		PageOne    float64 `json:"page_one_chance"`
		Intent     string
		Verdict    string
		Outrank    []string
	}
	lines(must("", "judge", phrase, "--json"), &verdict)
	if verdict.Phrase != phrase || verdict.PageOne <= 0 || verdict.PageOne >= 1 || verdict.Verdict == "" {
		t.Errorf("%+v", verdict)
	}
	must("", "keep", phrase)
	if out := must("", "group"); !strings.HasPrefix(out, "Topic") || !strings.Contains(out, phrase) {
		t.Errorf("topics:\n%s", out)
	}
	if _, says, code := run(flags, "", "group", "--of", "some"); code != exitInput || !strings.Contains(says, "--of is") {
		t.Errorf("code %d, %s", code, says)
	}
	must("", "plan", "add", phrase)
	var article struct {
		Article, State, Kind string
		Hours                int
		Start, Ready, Due    *string
		PageOne              float64  `json:"page_one_chance"`
		Worth                *float64 `json:"worth"`
	}
	lines(must("", "plan", "--json"), &article)
	if article.Article != phrase || article.State != "to write" || article.Hours == 0 {
		t.Errorf("%+v", article)
	}
	if out := must("", "brief", phrase); !strings.HasPrefix(out, "# ") || !strings.Contains(out, "## ") {
		t.Errorf("brief:\n%s", out)
	}
	if out := must("", "calendar"); !strings.HasPrefix(out, "BEGIN:VCALENDAR\r\n") {
		t.Errorf("calendar:\n%s", out)
	}
	if _, says, code := run(flags, "", "plan", "propose"); code != exitInput || !strings.Contains(says,
		"Set your income per visit") {
		t.Errorf("code %d, %s", code, says)
	}
	must("", "plan", "remove", phrase)
	if out := must("", "plan"); out != "" {
		t.Errorf("plan:\n%s", out)
	}
	if _, _, code := run(flags, "", "plan", "remove", phrase); code != exitInput {
		t.Errorf("removed twice: code %d", code)
	}
}

// TestManualIsCurrent: the documents of the commands are what the program would write.
func TestManualIsCurrent(t *testing.T) {
	to := t.TempDir()
	if _, says, code := run(nil, "", "manual", to); code != 0 {
		t.Fatal(says)
	}
	written := 0
	err := filepath.WalkDir(to, func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		if filepath.Ext(path) == ".1" {
			written++
		}
		name, _ := filepath.Rel(to, path)
		is, err := os.ReadFile(path)
		if err != nil {
			return err
		}
		if was, err := os.ReadFile(filepath.Join("../../docs", name)); err != nil || !bytes.Equal(is, was) {
			t.Errorf("docs/%s is not what the program says: make manual", name)
		}
		return nil
	})
	if err != nil || written < 20 {
		t.Errorf("%d files, %v", written, err)
	}
	there, err := os.ReadDir("../../docs/man")
	if err != nil || len(there) != written {
		t.Errorf("docs/man has %d pages, the program writes %d", len(there), written)
	}
}

func TestTimeLeft(t *testing.T) {
	for _, c := range []struct {
		done, rest int
		took       time.Duration
		want       string
	}{{0, 10, time.Second, ""}, {10, 0, time.Second, ""}, {10, 20, 10 * time.Second, ", 21 s left"},
		{10, 300, 10 * time.Second, ", 6 min left"}} {
		if got := left(c.done, c.rest, c.took); got != c.want {
			t.Errorf("%d done, %d left: %q, want %q", c.done, c.rest, got, c.want)
		}
	}
	var out bytes.Buffer
	b := bar{w: &out}
	b.show(1, 2, time.Unix(0, 0), "")
	if b.end(); out.Len() > 0 {
		t.Errorf("a bar where nobody looks: %q", out.String())
	}
	if got := plainCell("a\x1b[31mb\tc\u009b"); got != "a [31mb c " {
		t.Errorf("%q", got)
	}
}

// TestCompletionMakesNothing: completing values makes no data file, and finds them where there is one.
func TestCompletionMakesNothing(t *testing.T) {
	data := filepath.Join(t.TempDir(), "d.db")
	flags := []string{"--data", data, "--config", "/dev/null"}
	complete := func(args ...string) string {
		out, _, _ := run(nil, "", append(append([]string{"__complete"}, args...), append(flags, "--niche", "")...)...)
		return out
	}
	if out := complete("export"); strings.Contains(out, "Sky") {
		t.Errorf("completed from nothing: %s", out)
	}
	if _, err := os.Stat(data); err == nil {
		t.Fatal("completing made a data file")
	}
	run(flags, "", "niche", "Sky")
	if out := complete("export"); !strings.Contains(out, "Sky") {
		t.Errorf("completed: %s", out)
	}
}

// TestServeEndsCleanly: at SIGTERM the application ends by itself, and the data file is whole.
func TestServeEndsCleanly(t *testing.T) {
	data := filepath.Join(t.TempDir(), "d.db")
	cmd := exec.Command(os.Args[0], "serve", "--listen", "127.0.0.1:0", "--data", data, "--config", "/dev/null",
		"--copies", "none")
	cmd.Env = append(os.Environ(), asProgram+"=yes")
	out, err := cmd.StdoutPipe()
	if err != nil {
		t.Fatal(err)
	}
	if err := cmd.Start(); err != nil {
		t.Fatal(err)
	}
	line := make([]byte, 200)
	if n, err := out.Read(line); err != nil || !strings.Contains(string(line[:n]), "http://127.0.0.1:") {
		t.Fatalf("%q, %v", line[:n], err)
	}
	cmd.Process.Signal(syscall.SIGTERM)
	err = cmd.Wait()
	if cmd.ProcessState.Sys().(syscall.WaitStatus).Signaled() {
		t.Errorf("it was killed: %v", err)
	}
	if code := cmd.ProcessState.ExitCode(); code != 0 && code != exitInterrupted {
		t.Errorf("code %d", code)
	}
	if _, err := os.Stat(data + "-wal"); err == nil {
		t.Error("the data file is not whole by itself")
	}
}

// TestRivalsByCommand: whose pages are within reach, what a site ranks for, and what of it I do not have.
func TestRivalsByCommand(t *testing.T) {
	flags := outside(t)
	must := func(args ...string) (out, says string) {
		t.Helper()
		out, says, code := run(flags, "", args...)
		if code != 0 {
			t.Fatalf("%v: code %d, %s", args, code, says)
		}
		return out, says
	}
	must("niche", "Sky", "--site", "nightporch.example")
	must("judge", "how to find saturn", "can you see saturn with binoculars")
	var within struct{ Site, Weak, Have string }
	list, _ := must("rivals", "--json")
	first, _, _ := strings.Cut(list, "\n")
	if err := json.Unmarshal([]byte(first), &within); err != nil || within.Weak == "" || within.Have != "not planned" {
		t.Fatalf("within reach: %s, %v", list, err)
	}
	site := within.Site
	if _, says := must("rivals", "openings"); !strings.Contains(says, "Follow a site") {
		t.Errorf("nobody is followed: %s", says)
	}
	must("rivals", "follow", "https://"+site+"/x")
	out, says := must("rivals", "ask", site, "--without", "zebra", "--place", "50", "--most", "5",
		"--json")
	var row struct {
		Phrase     string
		Place      int
		Page       string
		Searches   *int
		Visits     *float64
		Difficulty *float64
	}
	if err := json.Unmarshal([]byte(strings.SplitN(out, "\n", 2)[0]), &row); err != nil || row.Place > 50 ||
		row.Phrase == "" || !strings.Contains(says, "by the rankings service") {
		t.Errorf("%s, %s, %v", out, says, err)
	}
	if kept, _ := must("rivals", "ask", site, "--without", "zebra", "--place", "50", "--most", "5",
		"--json",
		"--kept"); kept != out {
		t.Errorf("kept is another: %s", kept)
	}
	if open, says := must("rivals", "openings", "--new"); !strings.Contains(open, site) ||
		!strings.Contains(says, "Only theirs:") {
		t.Errorf("%s, %s", open, says)
	}
	must("rivals", "unfollow", site)
	if _, _, code := run(flags, "", "rivals", "follow", "no site"); code != exitInput {
		t.Errorf("no site: code %d", code)
	}
}
