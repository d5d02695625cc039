package results_test

import (
	"compress/gzip"
	"encoding/json"
	"fmt"
	"io"
	"math"
	"os"
	"path/filepath"
	"reflect"
	"regexp"
	"strconv"
	"strings"
	"testing"
	"time"

	"cleverniche/core/difficulty"
	"cleverniche/core/serp"
	"cleverniche/core/sieve"
	"cleverniche/store"
	"cleverniche/study/ask"
	"cleverniche/study/jobs"
	"cleverniche/study/niches"
	"cleverniche/study/results"
	"cleverniche/study/studytest"
)

// golden reads evidence as a past program wrote it. The files were made by the programs
// of those days, each of which prepared its demo (world 1) on 25 November 2026:
// "uncalibrated" before there was a calibration, "first" with the first one, "second"
// with the one that named its gain, "head" by the last to write version 1.
func golden(t *testing.T, name string, version int) results.Evidence {
	body, err := os.ReadFile(filepath.Join("testdata", "evidence-"+fmt.Sprint(version)+"-"+name+".json"))
	if err != nil {
		t.Fatal(err)
	}
	ev, err := results.ReadEvidence(store.Document{Version: version, Body: body})
	if err != nil {
		t.Fatal(err)
	}
	return ev
}

// TestEvidenceOfThePast is read, and reckoned anew to what the last program to write
// version 1 made of the same data files.
func TestEvidenceOfThePast(t *testing.T) {
	own := niches.Niche{Language: "en", OwnSite: "nightporch.example", Fit: difficulty.WellMade,
		LinkStanding: 35}
	for name, want := range map[string]struct {
		phrase, first       string
		difficulty, pageOne float64
		footholds           int
	}{
		"uncalibrated": {"can you see saturn from desert", "http://harrowcourier.example/learn/notes-on-telescope",
			0, 0.9481, 4},
		"first": {"can you see saturn from desert", "http://harrowcourier.example/learn/notes-on-telescope",
			0, 0.9481, 4},
		"second": {"what refractor telescope do i need for galaxies",
			"http://zenithbarn.example/learn/notes-on-refractor-telescope", 4.2, 0.7334, 3},
		"head": {"what refractor telescope do i need for galaxies",
			"http://zenithbarn.example/learn/notes-on-refractor-telescope", 4.3, 0.7326, 3},
	} {
		ev := golden(t, name, 1)
		if ev.Phrase != want.phrase || len(ev.Reading.Entries) != 10 || ev.Reading.Entries[0].URL != want.first ||
			ev.Results.Engine != "lantern" || math.Abs(ev.SiteStanding-6.526175139767056) > 1e-12 ||
			ev.Sources[ask.Results] != "the search engine lantern" || ev.JudgedAt.IsZero() {
			t.Errorf("%s is read as %q with %d entries, standing %v, sources %v", name, ev.Phrase, len(ev.Reading.Entries),
				ev.SiteStanding, ev.Sources)
		}
		ev.Decide(own, store.Idea{}, ev.SiteStanding)
		row := results.Judged(store.Idea{}, ev)
		if math.Abs(row.Difficulty-want.difficulty) > 0.05 || math.Abs(row.PageOne-want.pageOne) > 0.00005 ||
			row.Footholds != want.footholds || row.Intent != 0 || ev.Model.Name != niches.CalibrationName {
			t.Errorf("%s is reckoned anew to difficulty %v, page one %v, %d footholds", name, row.Difficulty, row.PageOne,
				row.Footholds)
		}
	}
}

// TestEvidenceOfThePresent: version 3 says what version 2 and 1 said, and is written as it
// was read.
func TestEvidenceOfThePresent(t *testing.T) {
	was, now := golden(t, "head", 1), golden(t, "head", 3)
	if !alike(t, was.Reading, now.Reading) || !alike(t, was.Mine, now.Mine) ||
		!alike(t, golden(t, "head", 2).Reading, now.Reading) {
		t.Error("the same evidence is not the same in version 3")
	}
	d, err := now.Document()
	body, _ := os.ReadFile("testdata/evidence-3-head.json")
	if err != nil || d.Version != 3 {
		t.Fatal(d.Version, err)
	}
	if calibrated := strings.Contains(string(body), now.Model.Name); calibrated &&
		string(d.Body) != strings.TrimSpace(string(body)) {
		t.Error("what version 3 writes has changed: it needs a new version, or an upgrade")
	}
	if _, err := results.ReadEvidence(store.Document{Version: 4, Body: d.Body}); err == nil {
		t.Error("a version that is not known is read")
	}
}

// alike reports whether two things are written the same, but for the last digits of numbers:
// each calibration weighs the points anew.
func alike(t *testing.T, a, b any) bool {
	t.Helper()
	written := func(x any) string {
		body, err := json.Marshal(x)
		if err != nil {
			t.Fatal(err)
		}
		return fraction.ReplaceAllStringFunc(string(body), func(number string) string {
			f, _ := strconv.ParseFloat(number, 64)
			return strconv.FormatFloat(f, 'f', 9, 64)
		})
	}
	return written(a) == written(b)
}

var fraction = regexp.MustCompile(`[0-9]+\.[0-9]+(e-?[0-9]+)?`)

// TestEvidenceIsTagged: a field that is renamed in Go must not change the document.
func TestEvidenceIsTagged(t *testing.T) {
	seen := map[reflect.Type]bool{reflect.TypeFor[time.Time](): true}
	var walk func(t reflect.Type, path string)
	walk = func(of reflect.Type, path string) {
		switch of.Kind() {
		case reflect.Slice, reflect.Array, reflect.Map, reflect.Pointer:
			walk(of.Elem(), path)
		case reflect.Struct:
			if seen[of] {
				return
			}
			seen[of] = true
			for i := range of.NumField() {
				f := of.Field(i)
				tag, _, _ := strings.Cut(f.Tag.Get("json"), ",")
				if !f.IsExported() {
					continue
				}
				if tag == "" && !f.Anonymous {
					t.Errorf("%s.%s has no tag", path, f.Name)
				}
				walk(f.Type, path+"."+f.Name)
			}
		}
	}
	walk(reflect.TypeFor[results.Evidence](), "Evidence")
	for name, want := range map[string]string{"URL": "url", "URLPath": "urlPath", "FitOK": "fitOK", "H1": "h1", "a": "a"} {
		if got := results.TagOf(name); got != want {
			t.Errorf("%s is tagged %s, not %s", name, got, want)
		}
	}
}

// TestFitsOfAStranger: points that no checklist gives are refused, or chances would come out as no number.
func TestFitsOfAStranger(t *testing.T) {
	for _, with := range []func(*serp.Item){func(i *serp.Item) { i.Points = i.Most + 1 },
		func(i *serp.Item) { i.Most, i.Points = 1e308, 1e308 }, func(i *serp.Item) { i.Points = -1 }} {
		ev := golden(t, "head", 1)
		with(&ev.Reading.Entries[3].Fit.Items[0])
		d, err := ev.Document()
		if err == nil {
			err = results.CheckEvidence(d)
		}
		if err == nil || !strings.Contains(err.Error(), "fit") {
			t.Errorf("%+v: %v", ev.Reading.Entries[3].Fit.Items[0], err)
		}
	}
}

// TestKeptDataOpens: a data file of the program before this layout, with five ideas of
// its demo, opens with all that was decided and looked up in it; what is new is reckoned
// from what is there, and nobody is asked.
func TestKeptDataOpens(t *testing.T) {
	path := filepath.Join(t.TempDir(), "kept.db")
	in, err := os.Open("testdata/kept-3.db.gz")
	if err != nil {
		t.Fatal(err)
	}
	defer in.Close()
	z, err := gzip.NewReader(in)
	if err != nil {
		t.Fatal(err)
	}
	data, err := io.ReadAll(z)
	if err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(path, data, 0o600); err != nil {
		t.Fatal(err)
	}
	f := &studytest.Fake{}
	s, st := studytest.Open(t, f, path, nil)
	n, err := s.Niches.Named(ctx, "Backyard astronomy")
	if err != nil || n.OwnSite != "nightporch.example" {
		t.Fatalf("%+v, %v", n, err)
	}
	begun, err := s.Results.Renew(ctx)
	if err != nil || len(begun) != 1 {
		t.Fatalf("%v, %v", begun, err)
	}
	if v := studytest.Finish(t, s, begun[0], nil); v.State != jobs.Done || v.Found != 5 {
		t.Fatalf("reckoning anew: %+v", v)
	}
	if again, err := s.Results.Renew(ctx); err != nil || len(again) != 0 {
		t.Errorf("there is still something to reckon: %v, %v", again, err)
	}
	b, err := s.Ideas.Table(ctx, n)
	if err != nil || b.Len() != 5 || b.Count(0).LookedUp != 2 || b.Count(0).Kept != 2 {
		t.Fatalf("%d ideas, %+v, %v", b.Len(), b.Count(0), err)
	}
	story := studytest.Tell(t, s, n, studytest.Named(b, "can you see saturn from desert"))
	value := func(f *sieve.Figure) sieve.Value { return story.Idea.Value(f) }
	if story.Evidence == nil || value(sieve.Difficulty).Number != 0 ||
		math.Abs(value(sieve.PageOne).Number-0.9481267725420438) > 1e-9 || value(sieve.Searches).Number != 260 ||
		len(story.Idea.Counts) != 48 {
		t.Errorf("the kept idea: difficulty %v, page one %v", value(sieve.Difficulty), value(sieve.PageOne))
	}
	if value(sieve.FoundIn).Number == 0 || !value(sieve.Trend).Known || !value(sieve.Coming).Known {
		t.Errorf("found in %v, trend %v, season %v", value(sieve.FoundIn), value(sieve.Trend), value(sieve.Coming))
	}
	if d, err := st.Evidence(ctx, story.Idea.ID); err != nil || d.Version != results.EvidenceVersion {
		t.Errorf("its evidence is of version %d, %v", d.Version, err)
	}
	if f.Asked.Load() != 0 {
		t.Errorf("%d questions were asked", f.Asked.Load())
	}
}
