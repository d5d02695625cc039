package watch_test

import (
	"errors"
	"strings"
	"testing"

	"cleverniche/study/input"
	"cleverniche/study/watch"
)

// TestBring: phrases and positions of a file are taken, whatever else is in it; impossible ones are told by line; the
// same file once more changes nothing; and what we export comes in again.
func TestBring(t *testing.T) {
	s, n, _, c := begun(t)
	c.days.Store(30)
	bring := func(text string) watch.Brought {
		t.Helper()
		got, err := s.Watch.Bring(ctx, n, "", "places.csv", strings.NewReader(text))
		if err != nil {
			t.Fatal(err)
		}
		return got
	}
	const file = "keyword,date,position,url\n" +
		"Moon  Map,2026-03-09,14,http://mine.example/page\n" +
		"moon map,2026-03-16T10:00:00Z,9,http://mine.example/page\n" +
		"moon map,2026-03-23,,\n" +
		"venus tonight,2026-03-09,0,\n" +
		"mars,2026-03-09,-3,\nmars,2026-03-09,1.5,\nmars,2029-03-09,1,\nmars,9 March,1,\n" +
		"mars,2026-03-09,7,http://other.example/x\nmars,2026-03-09,x,\n"
	got := bring(file)
	if got.Phrases != 1 || got.Positions != 4 || got.Bad != 6 || got.Problems[0].Line != 6 ||
		!strings.Contains(got.Problems[0].Reason, "“-3” is no position") {
		t.Fatalf("%+v", got)
	}
	list := pages(t, s, n)
	if len(list) != 2 || len(list[0].Line) != 3 || list[0].Line[1].Place != 9 || list[0].Place != 0 || list[0].Best != 9 ||
		list[0].Engine != "your file" || list[1].Place != 0 {
		t.Errorf("%+v", list)
	}
	if got = bring(file); got.Phrases != 0 || len(pages(t, s, n)[0].Line) != 3 {
		t.Errorf("once more: %+v", got)
	}
	if got = bring("phrase,day,place,looked down to,page,engine,site,where\nmoon " +
		"map,2026-03-30,4,100,http://mine.example/page," +
		"stands,mine.example,\n"); got.Positions != 1 || pages(t, s, n)[0].Place != 4 {
		t.Errorf("our own: %+v", got)
	}
	if got = bring("saturn rings\nneptune\n"); got.Phrases != 2 || got.Positions != 0 {
		t.Errorf("phrases alone: %+v", got)
	}
	for _, bad := range []string{"", "\n\n", "keyword,position\nx,-1\n", "PK\x03\x04rest"} {
		if _, err := s.Watch.Bring(ctx, n, "", "f", strings.NewReader(bad)); !errors.As(err, new(*input.Error)) {
			t.Errorf("%q: %v", bad, err)
		}
	}
	var many strings.Builder
	many.WriteString("phrase\n")
	for i := range watch.MostWatched + 1 {
		many.WriteString("phrase of " + strings.Repeat("x", i%50+1) + strings.Repeat("y", i/50) + "\n")
	}
	if _, err := s.Watch.Bring(ctx, n, "", "f", strings.NewReader(many.String())); !errors.As(err, new(*input.Error)) ||
		len(pages(t, s, n)) != 4 {
		t.Errorf("too many: %v", err)
	}
}
