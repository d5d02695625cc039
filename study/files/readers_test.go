package files_test

import (
	"bytes"
	"encoding/json"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"cleverniche/core/sieve"
	"cleverniche/study/articles"
	"cleverniche/study/briefs"
	"cleverniche/study/files"
	"cleverniche/study/studytest"
)

// python runs a program of Debian's Python with packages of Debian's, over a file that it is given the name of, and
// reads
// what it says as JSON.
func python(t *testing.T, file []byte, name, program string, into any) {
	t.Helper()
	path := filepath.Join(t.TempDir(), name)
	if err := os.WriteFile(path, file, 0o600); err != nil {
		t.Fatal(err)
	}
	out, err := exec.Command("/usr/bin/python3", "-c", program, path).Output()
	if err != nil {
		if os.Getenv("CLEVERNICHE_REFERENCES") == "required" {
			t.Fatalf("%v: %s", err, out)
		}
		t.Skip("the reader is not here: ", err)
	}
	if err := json.Unmarshal(out, into); err != nil {
		t.Fatalf("%v: %s", err, out)
	}
}

// TestWorkbooksHoldFigures: openpyxl reads money as money, shares as shares, days as days; the head is bold, held in
// place, and has filters.
func TestWorkbooksHoldFigures(t *testing.T) {
	const read = `
import sys, json, openpyxl
book = openpyxl.load_workbook(sys.argv[1])
out = {"author": book.properties.creator, "sheets": {}}
for s in book:
    heads = [c.value for c in s[1]]
    out["sheets"][s.title] = {"bold": all(c.font.b for c in s[1]), "held": s.freeze_panes,
        "filters": sorted(t.ref for t in s.tables.values()), "wide": s.column_dimensions["A"].width,
        "rows": [{h: [type(c.value).__name__, c.number_format] for h, c in zip(heads,
	row)} for row in s.iter_rows(min_row=2)]}
print(json.dumps(out))`
	type sheet struct {
		Bold    bool
		Held    string
		Filters []string
		Wide    float64
		Rows    []map[string][2]string
	}
	var book struct {
		Author string
		Sheets map[string]sheet
	}
	s, n, _ := sown(t)
	var file bytes.Buffer
	if err := s.Files.PlanXLSX(ctx, n, &file); err != nil {
		t.Fatal(err)
	}
	python(t, file.Bytes(), "plan.xlsx", read, &book)
	if book.Author != "Clever Niche" || len(book.Sheets) != 2 {
		t.Fatalf("%+v", book)
	}
	plan := book.Sheets["Sheet"]
	if !plan.Bold || plan.Held != "B2" || len(plan.Filters) != 1 || plan.Wide < 30 || len(plan.Rows) == 0 {
		t.Fatalf("%+v", plan)
	}
	for head, want := range map[string][2]string{"ready": {"datetime", "yyyy-mm-dd"}, "deadline": {"datetime",
		"yyyy-mm-dd"},
		"hours": {"int", "General"}, "page-one chance": {"float", "0%"}} {
		if got := plan.Rows[0][head]; got != want {
			t.Errorf("%s is %v", head, got)
		}
	}
	if _, err := s.Imports.Take(ctx, n, "list", strings.NewReader("phrase,cpc\nmoon globe,0.36\n")); err != nil {
		t.Fatal(err)
	}
	b, err := s.Ideas.Table(ctx, n)
	if err != nil {
		t.Fatal(err)
	}
	xlsx, _ := files.FormatNamed("xlsx")
	file.Reset()
	if err := s.Files.Export(ctx, &file, b, sieve.Sieve{}.By(sieve.Difficulty, false), xlsx); err != nil {
		t.Fatal(err)
	}
	python(t, file.Bytes(), "ideas.xlsx", read, &book)
	ideas := book.Sheets["Ideas"]
	if len(ideas.Rows) != b.Len() || !ideas.Bold || len(ideas.Filters) != 1 {
		t.Fatalf("%d rows of %d, %v, %v", len(ideas.Rows), b.Len(), ideas.Bold, ideas.Filters)
	}
	money := map[[2]string]bool{}
	for _, row := range ideas.Rows {
		money[row["cpc"]] = true
	}
	if !money[[2]string{"float", "#,##0.00"}] {
		t.Errorf("costs are %v", money)
	}
}

// TestDocumentsHaveStyles: python-docx finds the list style, links, title, author and language.
func TestDocumentsHaveStyles(t *testing.T) {
	s, n, ids := sown(t)
	edit := "See https://mine.example/moon?a=1&b=2, and https://other.example/x.\n<b>no markup</b> & so"
	if err := s.Briefs.Edit(ctx, n, ids["moon map"], "questions", nil, &edit); err != nil {
		t.Fatal(err)
	}
	topics, err := s.Topics.Of(ctx, n)
	if err != nil {
		t.Fatal(err)
	}
	one, err := topics.Of(ids["moon map"])
	if err != nil {
		t.Fatal(err)
	}
	b, err := s.Briefs.Of(ctx, n, topics, one)
	if err != nil {
		t.Fatal(err)
	}
	var file bytes.Buffer
	for _, p := range briefs.Papers() {
		if p.Name == "docx" {
			err = p.Write(&file, b)
		}
	}
	if err != nil {
		t.Fatal(err)
	}
	var doc struct {
		Title, Author, Language, Created string
		Styles                           map[string][]string
		Links                            []string
		Files                            []string
	}
	python(t, file.Bytes(), "brief.docx", `
import sys, json, docx, zipfile
d = docx.Document(sys.argv[1])
p = d.core_properties
styles = {}
for x in d.paragraphs: styles.setdefault(x.style.name, []).append(x.text)
print(json.dumps({"title": p.title, "author": p.author, "language": p.language, "created": p.created.isoformat(),
  "styles": styles, "links": [r.target_ref for r in d.part.rels.values() if r.is_external],
  "files": zipfile.ZipFile(sys.argv[1]).namelist()}))`, &doc)
	if doc.Title != b.Title || doc.Author != "Clever Niche" || doc.Language != "en" ||
		!strings.HasPrefix(doc.Created, b.Made.UTC().Format(time.DateOnly)) {
		t.Errorf("%+v", doc)
	}
	if !slices.Equal(doc.Styles["Title"], []string{b.Title}) || len(doc.Styles["Heading 1"]) < 3 ||
		!slices.Contains(doc.Styles["List Bullet"], "<b>no markup</b> & so") {
		t.Errorf("styles %q", doc.Styles)
	}
	slices.Sort(doc.Links)
	if n := len(doc.Links); n < 12 || doc.Links[0] != "http://moon0.example/" ||
		!slices.Equal(doc.Links[n-2:], []string{"https://mine.example/moon?a=1&b=2", "https://other.example/x"}) {
		t.Errorf("links %q", doc.Links)
	}
	if slices.ContainsFunc(doc.Files, func(name string) bool { return strings.Contains(name, "thumbnail") }) {
		t.Errorf("files %q", doc.Files)
	}
}

// TestWhatMovesHasANewSequence: other hours a week move days that nobody typed, and calendars are told so.
func TestWhatMovesHasANewSequence(t *testing.T) {
	s, n, ids := sown(t)
	if err := s.Topics.Name(ctx, n, ids["moon map"], "a\x00name"); err != nil {
		t.Fatal(err)
	}
	sheet, _ := s.Articles.Plan(ctx, n)
	err := s.Articles.Change(ctx, n, sheet.Articles[0].Key(), articles.Change{Note: studytest.Text("one\rtwo\x00\x07")})
	if err != nil {
		t.Fatal(err)
	}
	event := regexp.MustCompile(`(?s)BEGIN:VEVENT.*?UID:(\S+).*?SEQUENCE:(\d+).*?END:VEVENT`)
	read := func() (days, sequences map[string]string) {
		var out bytes.Buffer
		link := func(id uint) string { return "http://here.test/briefs" }
		if err := s.Files.Calendar(ctx, n, &out, link); err != nil {
			t.Fatal(err)
		}
		if text := out.String(); strings.ContainsAny(text, "\x00\x07") ||
			strings.Count(text, "\r") != strings.Count(text, "\r\n") || !strings.Contains(text, "URL:http://here.test/briefs") ||
			!strings.Contains(text, "REFRESH-INTERVAL;VALUE=DURATION:PT6H\r\n") {
			t.Errorf("%q", text)
		}
		days, sequences = map[string]string{}, map[string]string{}
		for _, m := range event.FindAllStringSubmatch(out.String(), -1) {
			days[m[1]] = strings.Join(regexp.MustCompile(`DT(?:START|END);\S+`).FindAllString(m[0], -1), " ")
			sequences[m[1]] = m[2]
		}
		return days, sequences
	}
	wasDays, was := read()
	n.WeekHours *= 3
	if n, _, err = s.Results.ChangeNiche(ctx, n); err != nil {
		t.Fatal(err)
	}
	days, now := read()
	moved := 0
	for uid := range was {
		if changed := days[uid] != wasDays[uid]; changed != (now[uid] == "1") || was[uid] != "0" {
			t.Errorf("%s: %s, then %s; SEQUENCE %s, then %s", uid, wasDays[uid], days[uid], was[uid], now[uid])
		} else if changed {
			moved++
		}
	}
	if moved == 0 {
		t.Error("nothing moved")
	}
}
