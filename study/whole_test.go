package study

import (
	"archive/zip"
	"bytes"
	"errors"
	"io"
	"strings"
	"testing"

	"cleverniche/core/sieve"
)

// remade is a whole niche's file with one of its parts changed.
func remade(t *testing.T, file []byte, name string, change func([]byte) []byte) []byte {
	t.Helper()
	in, err := zip.NewReader(bytes.NewReader(file), int64(len(file)))
	if err != nil {
		t.Fatal(err)
	}
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	for _, f := range in.File {
		r, _ := f.Open()
		data, _ := io.ReadAll(r)
		if f.Name == name {
			if data = change(data); data == nil {
				continue
			}
		}
		w, _ := z.Create(f.Name)
		w.Write(data)
	}
	z.Close()
	return out.Bytes()
}

// TestAWholeNiche goes to another data file with all that is known of it, twice to the same one; of
// a file that is wrong nothing stays.
func TestAWholeNiche(t *testing.T) {
	s, n := begin(t, &fake{}, nil)
	gather(t, s, n, "moon")
	b, _ := s.Board(ctx, n)
	ids := b.Pass(sieve.Sieve{}).IDs(0, 6)
	j, err := s.Judge(ctx, n, ids, false)
	finish(t, s, j, err)
	s.Decide(ctx, n.ID, ids[:2], sieve.Kept)
	s.Label(ctx, n, ids[:3], "later, <b>🔭</b>", false)
	s.SetNote(ctx, n, ids[0], "a\nnote")
	s.Suppose(ctx, n, ids[1], Suppose{Links: new(int)})
	n, err = s.Regroup(ctx, n, ScopeLooked, 5)
	if err != nil {
		t.Fatal(err)
	}
	s.PutAside(ctx, n, ids[:1])
	s.Name(ctx, n, ids[0], "My moon")
	sheet, _ := s.Sheet(ctx, n)
	state, day, address := "published", "2026-01-02", "mine.example/moon"
	err = s.ChangeSheet(ctx, n, sheet.Articles[0].Key(), SheetChange{State: &state, Published: &day, Address: &address})
	if err != nil {
		t.Fatal(err)
	}
	var file bytes.Buffer
	if err := s.ExportWhole(ctx, n, &file); err != nil {
		t.Fatal(err)
	}
	other, o := begin(t, &fake{}, nil)
	export := func(s *Study, n Niche) string {
		t.Helper()
		for _, job := range must(s.Jobs(ctx, n.ID, 9)) {
			finish(t, s, job, nil)
		}
		b, err := s.Board(ctx, n)
		if err != nil {
			t.Fatal(err)
		}
		var out strings.Builder
		f, _ := FormatNamed("json")
		if err := s.Export(ctx, &out, b, sieve.Sieve{}.By(sieve.Phrase, false), f); err != nil {
			t.Fatal(err)
		}
		return out.String()
	}
	want := export(s, n)
	for _, name := range []string{"Sky (2)", "Sky (3)"} {
		got, err := other.ImportWhole(ctx, bytes.NewReader(file.Bytes()), int64(file.Len()))
		if err != nil || got.Name != name || got.OwnSite != n.OwnSite {
			t.Fatalf("%+v, %v", got, err)
		}
		if export(other, got) != want {
			t.Errorf("%s holds other ideas", name)
		}
		sheet, err := other.Sheet(ctx, got)
		if err != nil || len(sheet.Articles) != 1 || sheet.Articles[0].Name != "My moon" || got.Shared != 5 ||
			got.Scope != ScopeLooked || sheet.Articles[0].Address != "https://mine.example/moon" {
			t.Errorf("%s has another sheet: %+v, %v", name, sheet.Articles, err)
		}
		b, _ := other.Board(ctx, got)
		story := tell(t, other, got, ideaNamed(b, b.Table.Phrase(0)))
		if len(story.Origins) == 0 {
			t.Error("where an idea was found is lost")
		}
		if ev := tell(t, other, got, b.Pass(sieve.Sieve{}).IDs(0, 1)[0]).Evidence; ev == nil ||
			len(ev.Reading.Entries) != 10 {
			t.Error("what an idea was judged on is lost")
		}
	}
	before, _ := other.store.Rows(ctx)
	line := func(with string) func([]byte) []byte {
		return func(data []byte) []byte { return append(data, with+"\n"...) }
	}
	for says, bad := range map[string][]byte{
		"is not a whole niche": []byte("no archive"),
		"is cut short":         remade(t, file.Bytes(), "about.json", func([]byte) []byte { return nil }),
		"of version 7": remade(t, file.Bytes(), "about.json", func([]byte) []byte {
			return []byte(`{"format":"clever-niche","version":7}`)
		}),
		"the seeds are missing":        remade(t, file.Bytes(), "seeds.jsonl", func([]byte) []byte { return nil }),
		"Give the niche a name":        remade(t, file.Bytes(), "niche.json", func([]byte) []byte { return []byte("{}") }),
		"of the ideas: unexpected end": remade(t, file.Bytes(), "ideas.jsonl", line(`{"id": 9`)),
		"not in normal form":           remade(t, file.Bytes(), "ideas.jsonl", line(`{"id": 999, "phrase": "Upper CASE"}`)),
		"no decision 77": remade(t, file.Bytes(), "ideas.jsonl",
			line(`{"id": 999, "phrase": "x", "decision": 77}`)),
		"searches: json": remade(t, file.Bytes(), "ideas.jsonl",
			line(`{"id": 999, "phrase": "x", "searches": "many"}`)),
		"which is no state": remade(t, file.Bytes(), "topics.jsonl", line(`{"id": 77, "state": "sold"}`)),
		"names a day":       remade(t, file.Bytes(), "topics.jsonl", line(`{"id": 77, "start": "soon"}`)),
		"an idea or a topic that is not in the file": remade(t, file.Bytes(), "placements.jsonl",
			line(`{"idea_id": 99999, "topic_id": 1}`)),
		"an idea that is not in the file": remade(t, file.Bytes(), "evidence.jsonl",
			line(`{"idea_id": 99999, "version": 3, "body": {}}`)),
	} {
		_, err := other.ImportWhole(ctx, bytes.NewReader(bad), int64(len(bad)))
		var input *InputError
		if !errors.As(err, &input) || !strings.Contains(input.Reason, says) {
			t.Errorf("%s: %v", says, err)
		}
		if after, _ := other.store.Rows(ctx); after != before {
			t.Errorf("%s: %d rows stay", says, after-before)
		}
	}
	newer := remade(t, file.Bytes(), "ideas.jsonl", line(`{"id": 999, "phrase": "from later", "unheard": {"of": 1}}`))
	if got, err := other.ImportWhole(ctx, bytes.NewReader(newer), int64(len(newer))); err != nil || got.ID == o.ID {
		t.Errorf("what a later version adds: %v", err)
	}
}

func must[T any](v T, err error) T {
	if err != nil {
		panic(err)
	}
	return v
}
