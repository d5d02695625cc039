package files_test

import (
	"bytes"
	"encoding/json"
	"regexp"
	"strings"
	"testing"
	"time"

	"cleverniche/study/articles"
	"cleverniche/study/studytest"

	"github.com/xuri/excelize/v2"
)

// TestTheCalendarChangesWithThePlan alone: read again later it is the same to the letter, and what was changed has a
// higher SEQUENCE (RFC 5545 §3.8.7.4).
func TestTheCalendarChangesWithThePlan(t *testing.T) {
	now := time.Date(2026, 11, 26, 9, 0, 0, 0, time.UTC)
	s, n, ids := studytest.PlantedWith(t, func(o *studytest.Setup) { o.Now = func() time.Time { return now } })
	if _, err := s.Articles.Add(ctx, n, []uint{ids["moon map"]}); err != nil {
		t.Fatal(err)
	}
	if _, err := s.Articles.LayOut(ctx, n); err != nil {
		t.Fatal(err)
	}
	read := func() string {
		var out bytes.Buffer
		if err := s.Files.Calendar(ctx, n, &out, nil); err != nil {
			t.Fatal(err)
		}
		return out.String()
	}
	before := read()
	if now = now.Add(time.Hour); read() != before {
		t.Errorf("an hour later:\n%s\n%s", before, read())
	}
	sequence := regexp.MustCompile(`SEQUENCE:(\d+)`)
	was := sequence.FindAllString(before, -1)
	if len(was) == 0 || len(was) != strings.Count(before, "BEGIN:VEVENT") {
		t.Fatalf("%d of %d events have a SEQUENCE", len(was), strings.Count(before, "BEGIN:VEVENT"))
	}
	p, _ := s.Articles.Plan(ctx, n)
	if err := s.Articles.Change(ctx, n, p.Articles[0].Key(), articles.Change{Hours: studytest.Text("3")}); err != nil {
		t.Fatal(err)
	}
	if after := sequence.FindAllString(read(), -1); after[0] <= was[0] && len(after[0]) <= len(was[0]) {
		t.Errorf("%s, then %s", was[0], after[0])
	}
}

// TestAWorkbookHoldsNoControls: what XML has no letter for is left out, and the workbook opens.
func TestAWorkbookHoldsNoControls(t *testing.T) {
	s, n, ids := studytest.Planted(t)
	if _, err := s.Articles.Add(ctx, n, []uint{ids["moon map"]}); err != nil {
		t.Fatal(err)
	}
	p, _ := s.Articles.Plan(ctx, n)
	note := articles.Change{Note: studytest.Text("a\x01b\x0bc")}
	if err := s.Articles.Change(ctx, n, p.Articles[0].Key(), note); err != nil {
		t.Fatal(err)
	}
	var out bytes.Buffer
	if err := s.Files.PlanXLSX(ctx, n, &out); err != nil {
		t.Fatal(err)
	}
	book, err := excelize.OpenReader(&out)
	if err != nil {
		t.Fatal(err)
	}
	defer book.Close()
	rows, err := book.GetRows("Sheet")
	if err != nil || len(rows) != 2 || !strings.Contains(strings.Join(rows[1], "|"), "abc") {
		t.Errorf("%q, %v", rows, err)
	}
}

// TestHubsTravel: which topic hangs on which, by hand, is so in the niche that is made of a file.
func TestHubsTravel(t *testing.T) {
	s, n, ids := studytest.Planted(t)
	if err := s.Topics.Hub(ctx, n, ids["star chart"], ids["moon map"], false); err != nil {
		t.Fatal(err)
	}
	var file bytes.Buffer
	if err := s.Files.ExportWhole(ctx, n, &file); err != nil {
		t.Fatal(err)
	}
	other, err := s.Files.ImportWhole(ctx, bytes.NewReader(file.Bytes()), int64(file.Len()))
	if err != nil {
		t.Fatal(err)
	}
	b, _ := s.Ideas.Table(ctx, other)
	topics, err := s.Topics.Of(ctx, other)
	if err != nil {
		t.Fatal(err)
	}
	star, _ := topics.Of(studytest.Named(b, "star chart"))
	if moon, _ := topics.Of(studytest.Named(b, "moon map")); !star.HubHand || star.Hub != moon.At {
		t.Errorf("it hangs on %d by hand %v, not on %d", star.Hub, star.HubHand, moon.At)
	}
}

// TestBriefsOfWhatIsPlanned alone are in the file of everything.
func TestBriefsOfWhatIsPlanned(t *testing.T) {
	s, n, ids := studytest.Planted(t)
	if _, err := s.Articles.Add(ctx, n, []uint{ids["moon map"]}); err != nil {
		t.Fatal(err)
	}
	var out bytes.Buffer
	if err := s.Files.PlanJSON(ctx, n, &out); err != nil {
		t.Fatal(err)
	}
	var file struct {
		Topics []struct {
			ID    uint
			Brief []any
		}
	}
	if err := json.Unmarshal(out.Bytes(), &file); err != nil || len(file.Topics) != 2 {
		t.Fatalf("%d topics, %v", len(file.Topics), err)
	}
	for _, one := range file.Topics {
		if (one.ID != 0) != (len(one.Brief) > 0) {
			t.Errorf("topic %d has a brief of %d parts", one.ID, len(one.Brief))
		}
	}
}
