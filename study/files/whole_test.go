package files_test

import (
	"archive/zip"
	"bytes"
	"errors"
	"fmt"
	"io"
	"math/rand/v2"
	"regexp"
	"strings"
	"testing"

	"cleverniche/core/sieve"
	"cleverniche/store"
	"cleverniche/study"
	"cleverniche/study/articles"
	"cleverniche/study/files"
	"cleverniche/study/ideas"
	"cleverniche/study/input"
	"cleverniche/study/niches"
	"cleverniche/study/studytest"
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
	s, from, n := studytest.BeginWith(t, &studytest.Fake{}, nil)
	studytest.Gather(t, s, n, "moon")
	b, _ := s.Ideas.Table(ctx, n)
	ids := b.Pass(sieve.Sieve{}).IDs(0, 6)
	s.Rivals.Follow(ctx, n, "followed.example", true)
	from.SaveRanks(ctx, store.Rival{NicheID: n.ID, Site: "known.example", Source: "a service", Total: 9},
		[]store.RivalPhrase{{Phrase: "moon map", Place: 3, Page: "known.example/moon"}})
	j, err := s.Results.LookUp(ctx, n, ids, false)
	studytest.Finish(t, s, j, err)
	s.Ideas.Decide(ctx, n.ID, ids[:2], sieve.Kept)
	s.Ideas.Label(ctx, n, ids[:3], "later, <b>🔭</b>", false)
	s.Ideas.SetNote(ctx, n, ids[0], "a\nnote")
	s.Results.Suppose(ctx, n, ids[1], ideas.Suppose{Links: new(int)})
	n.Earning = &niches.Earning{PerThousand: 7, ClickOn: 0.3, Conversion: 0.02, Order: 40, Commission: 0.05}
	if n, _, err = s.Results.ChangeNiche(ctx, n); err != nil {
		t.Fatal(err)
	}
	n, err = s.Topics.Regroup(ctx, n, niches.ScopeLooked, 5)
	if err != nil {
		t.Fatal(err)
	}
	s.Articles.Add(ctx, n, ids[:1])
	s.Topics.Name(ctx, n, ids[0], "My moon")
	sheet, _ := s.Articles.Plan(ctx, n)
	state, day, address := "published", "2026-01-02", "mine.example/moon"
	err = s.Articles.Change(ctx, n, sheet.Articles[0].Key(),
		articles.Change{State: &state, Published: &day, Address: &address})
	if err != nil {
		t.Fatal(err)
	}
	var file bytes.Buffer
	if err := s.Files.ExportWhole(ctx, n, &file); err != nil {
		t.Fatal(err)
	}
	other, st, o := studytest.BeginWith(t, &studytest.Fake{}, nil)
	export := func(s *study.Study, n niches.Niche) string {
		t.Helper()
		for _, job := range studytest.Must(s.Jobs.List(ctx, n.ID, 9)) {
			studytest.Finish(t, s, job, nil)
		}
		b, err := s.Ideas.Table(ctx, n)
		if err != nil {
			t.Fatal(err)
		}
		var out strings.Builder
		f, _ := files.FormatNamed("json")
		if err := s.Files.Export(ctx, &out, b, sieve.Sieve{}.By(sieve.Phrase, false), f); err != nil {
			t.Fatal(err)
		}
		return out.String()
	}
	brief := func(s *study.Study, n niches.Niche) string {
		t.Helper()
		plan, err := s.Articles.Plan(ctx, n)
		if err != nil || len(plan.Articles) == 0 {
			t.Fatal(len(plan.Articles), err)
		}
		b, err := s.Briefs.Of(ctx, n, plan.Topics, plan.Articles[0].Topic)
		if err != nil {
			t.Fatal(err)
		}
		return fmt.Sprint(b.Unread, b.Title, b.Sections)
	}
	want := export(s, n)
	for _, name := range []string{"Sky (2)", "Sky (3)"} {
		got, err := other.Files.ImportWhole(ctx, bytes.NewReader(file.Bytes()), int64(file.Len()))
		if err != nil || got.Name != name || got.OwnSite != n.OwnSite {
			t.Fatalf("%+v, %v", got, err)
		}
		if export(other, got) != want {
			t.Errorf("%s holds other ideas\n%s\n%s", name, export(other, got), want)
		}
		if got.Earning == nil || *got.Earning != *n.Earning {
			t.Errorf("%s earns %+v", name, got.Earning)
		}
		there, _ := other.Ideas.Table(ctx, got)
		phrase := studytest.Must(s.Ideas.Ideas(ctx, n.ID, ids[:1]))[0].Phrase
		was, _ := s.Results.History(ctx, ids[0])
		if is, err := other.Results.History(ctx, studytest.Named(there, phrase)); err != nil || len(was.Weeks) != 1 ||
			fmt.Sprint(is) != fmt.Sprint(was) {
			t.Errorf("%s: %v, %v; was %v", name, is, err, was)
		}
		if there := brief(other, got); there != brief(s, n) {
			t.Errorf("%s has another brief:\n%s\n%s", name, there, brief(s, n))
		}
		rivals, _ := st.Rivals(ctx, got.ID)
		if len(rivals) != 2 || !rivals[0].Followed || rivals[1].Total != 9 {
			t.Errorf("%s looks at %+v", name, rivals)
		} else if ranks, _, _ := st.Ranks(ctx, rivals[1], store.Ranked{Limit: 9}); len(ranks) != 1 || ranks[0].Place != 3 {
			t.Errorf("%s ranks for %+v", rivals[1].Site, ranks)
		}
		sheet, err := other.Articles.Plan(ctx, got)
		if err != nil || len(sheet.Articles) != 1 || sheet.Articles[0].Name != "My moon" || got.Shared != 5 ||
			got.Scope != niches.ScopeLooked || sheet.Articles[0].Address != "https://mine.example/moon" {
			t.Errorf("%s has another sheet: %+v, %v", name, sheet.Articles, err)
		}
		b, _ := other.Ideas.Table(ctx, got)
		story := studytest.Tell(t, other, got, studytest.Named(b, b.Table.Phrase(0)))
		if len(story.Origins) == 0 {
			t.Error("where an idea was found is lost")
		}
		if ev := studytest.Tell(t, other, got, b.Pass(sieve.Sieve{}).IDs(0, 1)[0]).Evidence; ev == nil ||
			len(ev.Reading.Entries) != 10 {
			t.Error("what an idea was judged on is lost")
		}
	}
	before, _ := st.Rows(ctx)
	long := strings.Repeat("n", 2001)
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
		"decision is 77": remade(t, file.Bytes(), "ideas.jsonl",
			line(`{"id": 999, "phrase": "x", "decision": 77}`)),
		"searches: json": remade(t, file.Bytes(), "ideas.jsonl",
			line(`{"id": 999, "phrase": "x", "searches": "many"}`)),
		"which is no state": remade(t, file.Bytes(), "topics.jsonl", line(`{"id": 77, "state": "sold"}`)),
		"names a day":       remade(t, file.Bytes(), "topics.jsonl", line(`{"id": 77, "start": "soon"}`)),
		"an idea or a topic that is not in the file": remade(t, file.Bytes(), "placements.jsonl",
			line(`{"idea_id": 99999, "topic_id": 1}`)),
		"my_links is -5": remade(t, file.Bytes(), "ideas.jsonl", line(`{"id": 999, "phrase": "x", "my_links": -5}`)),
		"my_links is 1e+12": remade(t, file.Bytes(), "ideas.jsonl",
			line(`{"id": 999, "phrase": "x", "my_links": 1000000000000}`)),
		"page_one is 7":      remade(t, file.Bytes(), "ideas.jsonl", line(`{"id": 999, "phrase": "x", "page_one": 7}`)),
		"note has more than": remade(t, file.Bytes(), "ideas.jsonl", line(`{"id": 9, "phrase": "x", "note": "`+long+`"}`)),
		"the id 0":           remade(t, file.Bytes(), "ideas.jsonl", line(`{"phrase": "x"}`)),
		"the id 1, which":    remade(t, file.Bytes(), "ideas.jsonl", line(`{"id": 1, "phrase": "x"}`)),
		"is no label": remade(t, file.Bytes(), "ideas.jsonl",
			line(`{"id": 999, "phrase": "x", "labels": "`+strings.Repeat("l", 99)+`"}`)),
		"no way to find one": remade(t, file.Bytes(), "origins.jsonl",
			line(`{"idea_id": 1, "kind": "theft"}`)),
		"“Not So”: it is not in normal form": remade(t, file.Bytes(), "seeds.jsonl", line(`{"phrase": "Not So"}`)),
		"“no site” is no site": remade(t, file.Bytes(), "rivals.jsonl",
			line(`{"id": 9, "site": "no site"}`)),
		"is there twice": remade(t, file.Bytes(), "rivals.jsonl",
			line(`{"id": 9, "site": "known.example"}`)),
		"place is 0": remade(t, file.Bytes(), "rival_phrases.jsonl",
			line(`{"rival_id": 1, "phrase": "x", "place": 0, "page": "x.example/"}`)),
		"a site that is not in the file": remade(t, file.Bytes(), "rival_phrases.jsonl",
			line(`{"rival_id": 77, "phrase": "x", "place": 1, "page": "x.example/"}`)),
		"is no address of a page": remade(t, file.Bytes(), "own_pages.jsonl",
			line(`{"url": "javascript:alert(1)", "title": "x", "at": "2026-01-02T00:00:00Z"}`)),
		"hangs on “the moon”": remade(t, file.Bytes(), "topics.jsonl", line(`{"id": 77, "hub": "the moon"}`)),
		"place is":            remade(t, file.Bytes(), "topics.jsonl", line(`{"id": 77, "place": 1e300}`)),
		"does not say of what it is": remade(t, file.Bytes(), "evidence.jsonl",
			line(`{"idea_id": 1, "version": 3, "body": null}`)),
		"is no page":  remade(t, file.Bytes(), "pages.jsonl", line(`{"url": "http://x.example/", "body": null}`)),
		"it is empty": remade(t, file.Bytes(), "evidence.jsonl", line(`{"idea_id": 1, "version": 1, "body": null}`)),
		"more than 100 results": remade(t, file.Bytes(), "evidence.jsonl", line(`{"idea_id": 1, "version": 3, "body": `+
			`{"phrase": "x", "askedAt": "2026-01-02T00:00:00Z", "reading": {"entries": [`+
			strings.Repeat(`{"position": 1},`, 100)+`{}]}}}`)),
		"my site is out of range": remade(t, file.Bytes(), "evidence.jsonl", line(`{"idea_id": 1, "version": 3, "body": `+
			`{"phrase": "x", "askedAt": "2026-01-02T00:00:00Z", "mine": {"plannedLinks": -5}}}`)),
		"planned_links": remade(t, file.Bytes(), "niche.json", func(b []byte) []byte {
			return bytes.Replace(b, []byte(`"planned_links":0`), []byte(`"planned_links":-5`), 1)
		}),
		"no such choice of ideas": remade(t, file.Bytes(), "niche.json", func(b []byte) []byte {
			return bytes.Replace(b, []byte(`"scope":"looked up"`), []byte(`"scope":"none of them"`), 1)
		}),
		"it says that it has": remade(t, file.Bytes(), "ideas.jsonl", line(`{"id": 999, "phrase": "one more"}`)),
		"token too long": remade(t, file.Bytes(), "ideas.jsonl", func(b []byte) []byte {
			noise, from := make([]byte, 60_000), rand.New(rand.NewPCG(1, 2))
			for i := range noise {
				noise[i] = "0123456789abcdef"[from.IntN(16)]
			}
			return append(b, `{"id": 999, "phrase": "`+string(noise)+strings.Repeat("x", 9000)+"\"}\n"...)
		}),
		"times as large": remade(t, file.Bytes(), "ideas.jsonl", line(strings.Repeat(" ", 9<<20))),
		"an idea that is not in the file": remade(t, file.Bytes(), "evidence.jsonl",
			line(`{"idea_id": 99999, "version": 3, "body": {}}`)),
	} {
		_, err := other.Files.ImportWhole(ctx, bytes.NewReader(bad), int64(len(bad)))
		var invalid *input.Error
		if !errors.As(err, &invalid) || !strings.Contains(invalid.Reason, says) {
			t.Errorf("%s: %v", says, err)
		}
		if after, _ := st.Rows(ctx); after != before {
			t.Errorf("%s: %d rows stay", says, after-before)
		}
	}
	newer := remade(t, file.Bytes(), "ideas.jsonl", line(`{"id": 999, "phrase": "from later", "unheard": {"of": 1}}`))
	newer = remade(t, newer, "about.json", func(b []byte) []byte {
		return regexp.MustCompile(`"ideas":\d+,`).ReplaceAll(b, nil)
	})
	if got, err := other.Files.ImportWhole(ctx, bytes.NewReader(newer), int64(len(newer))); err != nil || got.ID == o.ID {
		t.Errorf("what a later version adds: %v", err)
	}
}
