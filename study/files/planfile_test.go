package files_test

import (
	"archive/zip"
	"bytes"
	"encoding/csv"
	"encoding/json"
	"io"
	"regexp"
	"slices"
	"strings"
	"testing"

	"cleverniche/study"
	"cleverniche/study/articles"
	"cleverniche/study/briefs"
	"cleverniche/study/niches"
	"cleverniche/study/studytest"

	"github.com/xuri/excelize/v2"
)

// hostile is a name with all that files trip over: commas, quotes, a new line (which names lose), signs that
// begin formulas, emoji, letters of two directions, and more than 75 octets.
const hostile = "=cmd|' /C calc'!A0, \"quoted\"; 🔭 ירח — a name that is longer than a line of " +
	"a calendar may be, \\n"

// sown is a niche with a hostile article on its sheet, and one that is published.
func sown(t *testing.T) (*study.Study, niches.Niche, map[string]uint) {
	t.Helper()
	s, n, ids := studytest.Planted(t)
	if _, err := s.Articles.Add(ctx, n, []uint{ids["moon map"], ids["star chart"]}); err != nil {
		t.Fatal(err)
	}
	if _, err := s.Articles.LayOut(ctx, n); err != nil {
		t.Fatal(err)
	}
	if err := s.Topics.Name(ctx, n, ids["moon map"], hostile); err != nil {
		t.Fatal(err)
	}
	sheet, _ := s.Articles.Plan(ctx, n)
	change := articles.Change{Deadline: studytest.Text("2026-12-24"),
		Note: studytest.Text("line one,\nline two; three\\four")}
	if err := s.Articles.Change(ctx, n, sheet.Articles[0].Key(), change); err != nil {
		t.Fatal(err)
	}
	return s, n, ids
}

func TestCalendarFile(t *testing.T) {
	s, n, ids := sown(t)
	write := func() string {
		t.Helper()
		var out bytes.Buffer
		if err := s.Files.Calendar(ctx, n, &out, nil); err != nil {
			t.Fatal(err)
		}
		return out.String()
	}
	file := write()
	for _, line := range strings.SplitAfter(strings.TrimSuffix(file, "\r\n"), "\r\n") {
		if len(strings.TrimSuffix(line, "\r\n")) > 75 { // RFC 5545 §3.1
			t.Errorf("a line of %d octets: %q", len(line), line)
		}
		if strings.Contains(strings.TrimSuffix(line, "\r\n"), "\n") {
			t.Errorf("a line does not end in CR LF: %q", line)
		}
	}
	whole := strings.NewReplacer("\r\n ", "").Replace(file)
	for _, want := range []string{"BEGIN:VCALENDAR\r\n", "VERSION:2.0\r\n", "DTSTART;VALUE=DATE:20261224\r\n",
		"DTEND;VALUE=DATE:20261225\r\n", `DESCRIPTION:line one\,\nline two\; three\\four` + "\r\n",
		`SUMMARY:Last day to publish: =cmd|' /C calc'!A0\, "quoted"\; 🔭 ירח`} {
		if !strings.Contains(whole, want) {
			t.Errorf("%q is missing in\n%s", want, whole)
		}
	}
	uids := func(file string) []string { return regexp.MustCompile(`(?m)^UID:.*$`).FindAllString(file, -1) }
	before := uids(whole)
	if len(before) != 3 || len(slices.Compact(slices.Sorted(slices.Values(before)))) != 3 {
		t.Errorf("UIDs %q", before)
	}
	sheet, _ := s.Articles.Plan(ctx, n)
	s.Articles.Change(ctx, n, sheet.Articles[0].Key(), articles.Change{Start: studytest.Text("2027-01-04"),
		Hours: studytest.Text("3")})
	s.Topics.Name(ctx, n, ids["moon map"], "another name")
	if after := uids(strings.NewReplacer("\r\n ", "").Replace(write())); !slices.Equal(after, before) {
		t.Errorf("UIDs changed with the articles: %q, %q", before, after)
	}
}

func TestFeed(t *testing.T) {
	s, n, _ := sown(t)
	if ok, err := s.Files.IsFeed(ctx, n, ""); ok || err != nil {
		t.Error("no secret opens the calendar")
	}
	first, err := s.Files.RenewFeed(ctx, n)
	if err != nil || len(first) < 20 {
		t.Fatalf("%q, %v", first, err)
	}
	same, _ := s.Files.Feed(ctx, n)
	second, _ := s.Files.RenewFeed(ctx, n)
	old, _ := s.Files.IsFeed(ctx, n, first)
	now, _ := s.Files.IsFeed(ctx, n, second)
	if same != first || second == first || old || !now {
		t.Errorf("%q, %q, %q: the old one opens %v, the new one %v", first, same, second, old, now)
	}
}

func TestPlanTables(t *testing.T) {
	s, n, _ := sown(t)
	var file bytes.Buffer
	if err := s.Files.PlanCSV(ctx, n, &file, true); err != nil {
		t.Fatal(err)
	}
	rows, err := csv.NewReader(&file).ReadAll()
	if err != nil || len(rows) != 3 || rows[1][0] != "'"+hostile {
		t.Fatalf("%q, %v", rows, err)
	}
	file.Reset()
	if err := s.Files.PlanXLSX(ctx, n, &file); err != nil {
		t.Fatal(err)
	}
	book, err := excelize.OpenReader(bytes.NewReader(file.Bytes()))
	if err != nil {
		t.Fatal(err)
	}
	if v, _ := book.GetCellValue("Sheet", "A2"); v != hostile {
		t.Errorf("the cell holds %q", v)
	}
	if f, _ := book.GetCellFormula("Sheet", "A2"); f != "" {
		t.Errorf("the cell is a formula: %q", f)
	}
	if got := studytest.Opened(t, file.Bytes(), "plan.xlsx", "csv"); !strings.Contains(got, "other phrases") ||
		!strings.Contains(got, "map of the moon") {
		t.Errorf("LibreOffice reads %q", got)
	}
}

func TestPapers(t *testing.T) {
	s, n, ids := sown(t)
	edit := "# no heading\n1. no list\n<b>bold</b> & *stars* _lines_ \x01\n=SUM(A1)\n🔭 ירח"
	if err := s.Briefs.Edit(ctx, n, ids["moon map"], "questions", nil, &edit); err != nil {
		t.Fatal(err)
	}
	topics, _ := s.Topics.Of(ctx, n)
	one, _ := topics.Of(ids["moon map"])
	b, err := s.Briefs.Of(ctx, n, topics, one)
	if err != nil || b.Title != "Moon Map" {
		t.Fatalf("%q, %v", b.Title, err)
	}
	wants := map[string][]string{
		"md": {"# Moon Map\n", "- \\# no heading\n", "- 1\\. no list\n", "- \\<b\\>bold\\</b\\> \\& \\*stars\\* \\_lines\\_",
			"- map of the moon\n", "- line two; three\\\\four\n"},
		"html": {"<h1>Moon Map</h1>", "&lt;b&gt;bold", `<html lang="en">`},
	}
	for _, p := range briefs.Papers() {
		var out bytes.Buffer
		if err := p.Write(&out, b); err != nil {
			t.Fatalf("%s: %v", p.Name, err)
		}
		for _, want := range wants[p.Name] {
			if !strings.Contains(out.String(), want) {
				t.Errorf("%s: %q is missing in\n%s", p.Name, want, out.String())
			}
		}
		if p.Name == "docx" {
			got := studytest.Opened(t, out.Bytes(), "brief.docx", "txt")
			for _, want := range []string{"Moon Map", "<b>bold</b> & *stars*", "=SUM(A1)", "🔭 ירח", "map of the moon"} {
				if !strings.Contains(got, want) {
					t.Errorf("LibreOffice reads no %q in %q", want, got)
				}
			}
		}
	}
	for _, section := range b.Sections { // our own words are nobody else's
		for _, line := range append(section.Lines, section.Name) {
			if regexp.MustCompile(`(?i)foothold|solid|spoke|\bhub\b|\blead\b|wording|the ten|standing`).MatchString(line) {
				t.Errorf("a writer reads %q", line)
			}
		}
	}
	none := " \n"
	s.Briefs.Edit(ctx, n, ids["moon map"], "title", nil, &none)
	topics, _ = s.Topics.Of(ctx, n)
	one, _ = topics.Of(ids["moon map"])
	if b, _ := s.Briefs.Of(ctx, n, topics, one); b.Title != hostile {
		t.Errorf("a title that was edited away: %q", b.Title)
	}
	s.Briefs.Edit(ctx, n, ids["moon map"], "title", nil, nil)
	if err := s.Briefs.Edit(ctx, n, ids["moon map"], "questions", nil, nil); err != nil {
		t.Fatal(err)
	}
	long := strings.Repeat("x", briefs.MostSection+1)
	if err := s.Briefs.Edit(ctx, n, ids["moon map"], "questions", nil, &long); err == nil {
		t.Error("a section without end")
	}
	topics, _ = s.Topics.Of(ctx, n)
	one, _ = topics.Of(ids["moon map"])
	if b, _ = s.Briefs.Of(ctx, n, topics, one); slices.ContainsFunc(b.Sections,
		func(s briefs.Section) bool { return s.Edited }) {
		t.Error("the proposal did not come back")
	}
}

func TestBriefsAndJSON(t *testing.T) {
	s, n, _ := sown(t)
	list, err := s.Briefs.All(ctx, n)
	if err != nil || len(list) != 2 {
		t.Fatalf("%d briefs, %v", len(list), err)
	}
	var file bytes.Buffer
	if err := briefs.WriteBriefs(&file, append(list, list...)); err != nil {
		t.Fatal(err)
	}
	z, err := zip.NewReader(bytes.NewReader(file.Bytes()), int64(file.Len()))
	if err != nil || len(z.File) != 4 {
		t.Fatalf("%v, %v", z, err)
	}
	seen := map[string]bool{}
	for _, f := range z.File {
		r, _ := f.Open()
		text, _ := io.ReadAll(r)
		if seen[f.Name] || strings.ContainsAny(f.Name, `/\:*?"<>|=`) || !bytes.HasPrefix(text, []byte("# ")) {
			t.Errorf("%s: %.40q", f.Name, text)
		}
		seen[f.Name] = true
	}
	file.Reset()
	if err := s.Files.PlanJSON(ctx, n, &file); err != nil {
		t.Fatal(err)
	}
	var read struct {
		Topics []struct {
			Fields map[string]any
			Ideas  []map[string]any
			Brief  []map[string]any
		}
	}
	if err := json.Unmarshal(file.Bytes(), &read); err != nil || len(read.Topics) != 2 ||
		read.Topics[0].Fields["topic"] != hostile || len(read.Topics[0].Brief) < 10 {
		t.Errorf("%v: %.300s", err, file.String())
	}
}

func TestFileName(t *testing.T) {
	for text, want := range map[string]string{"A moon map!": "a-moon-map", "🔭": "article", "../../etc": "etc",
		"ירח 2":                 "ירח-2",
		strings.Repeat("x", 99): strings.Repeat("x", 60)} {
		if got := briefs.FileName(text); got != want {
			t.Errorf("%q: %q, want %q", text, got, want)
		}
	}
}
