package main

import (
	"encoding/json"
	"errors"
	"io"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"cleverniche/standin"
)

// TestTheMainJobThroughDescribedServices: from a seed to a verdict, where suggestions, demand and results come from
// services that speak dialects of their own and are known by files alone; those that ship, but for the address.
func TestTheMainJobThroughDescribedServices(t *testing.T) {
	s := httptest.NewServer(world().Handler(standin.Options{}))
	t.Cleanup(s.Close)
	t.Setenv("VOLUMES_KEY", "open-sesame")
	dir := t.TempDir()
	for _, name := range []string{"volumes", "results", "suggestions", "links", "totals", "names", "rankings"} {
		data, err := os.ReadFile(filepath.Join("../../docs/sources", name+".yaml"))
		if err != nil {
			t.Fatal(err)
		}
		text := strings.ReplaceAll(strings.ReplaceAll(string(data), "http://127.0.0.1:8571", s.URL), "per-second: 50",
			"per-second: 1000")
		if err := os.WriteFile(filepath.Join(dir, name+".yaml"), []byte(text), 0o600); err != nil {
			t.Fatal(err)
		}
	}
	host := strings.TrimPrefix(s.URL, "http://")
	file := filepath.Join(t.TempDir(), "d.db")
	flags := []string{"--data", file, "--sources", dir,
		"--reach", ".example=" + host, "--per-second", "1000", "--pages-per-host", "1000", "--config", "/dev/null"}
	must := func(args ...string) string {
		t.Helper()
		out, progress, code := run(flags, "", args...)
		if code != 0 {
			t.Fatalf("%v: %d, %s", args, code, progress)
		}
		return out + progress
	}
	var graph []string // the stand-in's, as a public one comes
	for _, part := range []string{"vertices", "edges"} {
		answer, err := http.Get(s.URL + "/links/v1/graph/" + part)
		if err != nil {
			t.Fatal(err)
		}
		body, err := io.ReadAll(answer.Body)
		answer.Body.Close()
		graph = append(graph, filepath.Join(dir, part+".txt"))
		if err := errors.Join(err, os.WriteFile(graph[len(graph)-1], body, 0o600)); err != nil {
			t.Fatal(err)
		}
	}
	if said := must(append([]string{"graph", "import"}, graph...)...); !strings.Contains(said, "links between them") {
		t.Errorf("the import says %s", said)
	}
	if said := must("graph", "nightporch.example"); !strings.Contains(said, "link to it; whether") {
		t.Errorf("the graph says %s", said)
	}
	must("niche", "Sky", "--site", "nightporch.example")
	if said := must("gather", "saturn", "--questions=false"); !strings.Contains(said, "new ideas") {
		t.Errorf("gathering says %s", said)
	}
	said := must("judge", "how to find saturn", "--json")
	var got record
	line := said[:strings.Index(said, "\n")]
	if err := json.Unmarshal([]byte(line), &got); err != nil || got.Searches == nil || *got.Searches < 100 ||
		got.PageOne == nil || *got.PageOne <= 0 {
		t.Errorf("%s: %+v, %v", line, got, err)
	}
	out := must("export", "--show", "all", "--format", "csv")
	if !strings.Contains(out, "the volumes service") {
		t.Errorf("no figure says its source: %.300s", out)
	}
	check := must("source", "check", filepath.Join(dir, "volumes.yaml"), "--phrase", "how to find saturn")
	for _, want := range []string{"asked:", `"auth": "***"`, "searches a month", "12 months",
		"cost, as the file says: 0.0005"} {
		if !strings.Contains(check, want) {
			t.Errorf("the check does not say %q: %s", want, check)
		}
	}
	if strings.Contains(check, "open-sesame") {
		t.Error("the check shows the secret")
	}
	t.Setenv("VOLUMES_KEY", "another")
	if out, progress, code := run(nil, "", "source", "check", filepath.Join(dir, "results.yaml")); code == 0 ||
		!strings.Contains(progress, "the key is wrong") {
		t.Errorf("%s %s", out, progress)
	}
	if err := os.WriteFile(filepath.Join(dir, "broken.yaml"), []byte("question: demand\nnames: x\n"), 0o600); err != nil {
		t.Fatal(err)
	}
	if _, progress, code := run(flags, "", "niches"); code != exitInput || !strings.Contains(progress, "broken.yaml") ||
		!strings.Contains(progress, "line 2") {
		t.Errorf("a broken file: %d, %s", code, progress)
	}
}
