package files_test

import (
	"encoding/csv"
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"cleverniche/core/sieve"
	"cleverniche/study/ask"
	"cleverniche/study/files"
	"cleverniche/study/studytest"
)

// TestNoFormulas: what a stranger could write into a cell begins with no sign of one.
func TestNoFormulas(t *testing.T) {
	s, n := studytest.Begin(t, &studytest.Fake{}, func(o *studytest.Setup) {
		o.Market.Names[ask.Demand] = "=cmd|' /C calc'!A0"
	})
	s.Imports.Take(ctx, n, "list", strings.NewReader("moon"))
	j, err := s.Gathering.LookUpSearches(ctx, n)
	studytest.Finish(t, s, j, err)
	if out := studytest.Export(t, s, n, sieve.Sieve{}, "csv"); strings.Contains(out, ",=cmd") ||
		!strings.Contains(out, "'=cmd") {
		t.Error(out)
	}
}

// TestExportsAreWhole: many ideas, all there, in the sieve's order, each column named.
func TestExportsAreWhole(t *testing.T) {
	s, n := studytest.Begin(t, &studytest.Fake{}, nil)
	var list strings.Builder
	list.WriteString("phrase,searches\n")
	for i := range files.ReadAtOnce + 7 {
		fmt.Fprintf(&list, "phrase %d,%d\n", i, i+1)
	}
	s.Imports.Take(ctx, n, "list", strings.NewReader(list.String()))
	lines := strings.Split(strings.TrimSpace(studytest.Export(t, s, n, sieve.Sieve{}.By(sieve.Searches, true), "csv")),
		"\r\n")
	if len(lines) != files.ReadAtOnce+8 ||
		!strings.HasPrefix(lines[1], fmt.Sprintf("phrase %d,,%d,", files.ReadAtOnce+6, files.ReadAtOnce+7)) ||
		!strings.HasPrefix(lines[len(lines)-1], "phrase 0,,1,") {
		t.Errorf("%d lines, %q to %q", len(lines), lines[1], lines[len(lines)-1])
	}
	want := "phrase,decision,searches,under floor,cpc,currency,ad competition,difficulty,reach,page-one " +
		"chance,footholds," +
		"intent,looked up,searches from,locked,"
	if !strings.HasPrefix(lines[0], want) { // what was there first keeps its place
		t.Errorf("columns %s", lines[0])
	}
	if out := studytest.Export(t, s, n, sieve.Sieve{Filters: []sieve.Filter{sieve.OnlyDecided(sieve.Kept)}},
		"json"); out != "[]\n" {
		t.Errorf("nothing is written %q", out)
	}
}

func TestImportAndExport(t *testing.T) {
	s, n := studytest.Begin(t, &studytest.Fake{}, nil)
	rep, err := s.Imports.Take(ctx, n, "phrases.csv",
		strings.NewReader("phrase,searches,cpc\nBest Moon Map,120,0.5\nbest moon map,7,\n🔭,1,\nmars,x,\nunder ten,<10,\n"))
	if err != nil || rep.Added != 2 || rep.Merged() != 1 || len(rep.Problems) != 2 {
		t.Fatalf("report %+v, %v", rep, err)
	}
	if _, err := s.Imports.Take(ctx, n, "x", strings.NewReader(" \n")); err == nil {
		t.Error("an empty list is taken")
	}
	b, _ := s.Ideas.Table(ctx, n)
	s.Ideas.Decide(ctx, n.ID, []uint{studytest.Named(b, "best moon map")}, sieve.Kept)
	out := studytest.Export(t, s, n, sieve.Sieve{Filters: []sieve.Filter{sieve.OnlyDecided(sieve.Kept)}}, "csv")
	rows, err := csv.NewReader(strings.NewReader(out)).ReadAll()
	if err != nil || len(rows) != 2 || rows[1][0] != "best moon map" || rows[1][2] != "120" || rows[1][4] != "0.50" ||
		!strings.HasSuffix(out, "\r\n") {
		t.Errorf("CSV %q, %v", out, err)
	}
	var records []map[string]any
	out = studytest.Export(t, s, n, sieve.Sieve{Down: true}, "json")
	if err := json.Unmarshal([]byte(out), &records); err != nil || len(records) != 2 || records[0]["difficulty"] != nil ||
		records[0]["searches"] != 120.0 || records[1]["under_floor"] != true {
		t.Errorf("JSON %s, %v", out, err)
	}
	if out = studytest.Export(t, s, n, sieve.Sieve{}, "table"); !strings.Contains(out, "<10") {
		t.Errorf("table %s", out)
	}
	if _, err := files.FormatNamed("pdf"); err == nil {
		t.Error("an unknown format is written")
	}
}

func TestHarmless(t *testing.T) {
	for _, cell := range []string{"=1+1", "+1", "-1", "@x", "\tx", "\r=1"} {
		if got := files.Harmless(cell); got != "'"+cell {
			t.Errorf("%q is written as %q", cell, got)
		}
	}
	if files.Harmless("best telescope") != "best telescope" || files.Harmless("") != "" {
		t.Error("plain text is changed")
	}
}
