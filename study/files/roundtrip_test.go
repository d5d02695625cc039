package files_test

import (
	"bytes"
	"encoding/csv"
	"slices"
	"strings"
	"testing"

	"cleverniche/core/sieve"
	"cleverniche/study"
	"cleverniche/study/files"
	"cleverniche/study/niches"
	"cleverniche/study/studytest"
)

// TestAListComesBackAsItWentOut: a file of ideas, read into another niche, brings all that a list can say, below the
// floor or labelled, in whatever script.
func TestAListComesBackAsItWentOut(t *testing.T) {
	s, n := studytest.Begin(t, &studytest.Fake{}, nil)
	studytest.Gather(t, s, n, "moon")
	list := "phrase,searches,cpc,ad competition,trend,season,note\n" +
		"größtes teleskop,<10,0.35,0.42,evergreen,none,=a note\n望遠鏡 初心者,90,,,rising,,\nstar " +
		"map,40,€1.20,1,seasonal,seasonal,\n"
	if _, err := s.Imports.Take(ctx, n, "list", strings.NewReader(list)); err != nil {
		t.Fatal(err)
	}
	b, _ := s.Ideas.Table(ctx, n)
	ids := b.Pass(sieve.Sieve{}).IDs(0, 9)
	s.Ideas.Decide(ctx, n.ID, ids[:3], sieve.Kept)
	s.Ideas.Decide(ctx, n.ID, ids[3:5], sieve.Dropped)
	s.Ideas.Label(ctx, n, ids[:4], "later", false)
	s.Ideas.Label(ctx, n, ids[2:6], "a, “label” 🔭", false)
	for _, format := range []string{"csv", "csv-marked", "tsv"} {
		file, want := written(t, s, n, format)
		other, err := s.Niches.Create(ctx, niches.Niche{Name: "Other " + format, Country: "US", Language: "en"})
		if err != nil {
			t.Fatal(err)
		}
		if rep, err := s.Imports.Take(ctx, other, "list", bytes.NewReader(file)); err != nil || rep.Unused > 0 {
			t.Fatalf("%s: %+v, %v", format, rep, err)
		}
		_, got := written(t, s, other, format)
		if len(got) != len(want) {
			t.Fatalf("%s: %d lines of %d", format, len(got), len(want))
		}
		for i := range want {
			if !slices.Equal(got[i], want[i]) {
				t.Errorf("%s: %q\ncame back as %q", format, want[i], got[i])
			}
		}
	}
}

// written is a niche's ideas as a file, and what of its lines a list can say.
func written(t *testing.T, s *study.Study, n niches.Niche, format string) (file []byte, lines [][]string) {
	t.Helper()
	f, err := files.FormatNamed(format)
	if err != nil {
		t.Fatal(err)
	}
	b, err := s.Ideas.Table(ctx, n)
	if err != nil {
		t.Fatal(err)
	}
	var out bytes.Buffer
	if err := s.Files.Export(ctx, &out, b, sieve.Sieve{}.By(sieve.Phrase, false), f); err != nil {
		t.Fatal(err)
	}
	in := csv.NewReader(bytes.NewReader(bytes.TrimPrefix(out.Bytes(), []byte("\ufeff"))))
	if format == "tsv" {
		in.Comma = '\t'
	}
	rows, err := in.ReadAll()
	if err != nil {
		t.Fatal(err)
	}
	for _, row := range rows {
		var line []string
		for _, name := range []string{"phrase", "decision", "searches", "under floor", "cpc", "currency", "ad competition",
			"season", "trend", "labels", "note"} {
			line = append(line, row[slices.Index(rows[0], name)])
		}
		lines = append(lines, line)
	}
	return out.Bytes(), lines
}
