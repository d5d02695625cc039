package store

import (
	"context"
	"errors"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"testing/quick"
	"time"

	"cleverniche/core/demand"
)

var ctx = context.Background()

func open(t testing.TB) (*Store, Niche) {
	s, err := Open(filepath.Join(t.TempDir(), "new folder", "a b?.db"), time.Now)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { s.Close() })
	n := Niche{Name: "Sky", Country: "US", Language: "en", Currency: "USD", Fit: 85, LinkStanding: 35}
	if err := s.CreateNiche(ctx, &n); err != nil {
		t.Fatal(err)
	}
	return s, n
}

// all are the ideas of a niche, by ID.
func (s *Store) all(niche uint) (out []Idea, err error) {
	return out, s.db.Where("niche_id = ?", niche).Order("id").Find(&out).Error
}

func finds(phrases ...string) (out []Find) {
	for _, p := range phrases {
		out = append(out, Find{Idea: Idea{Phrase: p, Words: len(strings.Fields(p))},
			Origin: Origin{Kind: "completion", Query: "q", Seed: "q"}})
	}
	return out
}

func TestOpenAgain(t *testing.T) {
	path := filepath.Join(t.TempDir(), "data.db")
	for range 2 {
		s, err := Open(path, time.Now)
		if err != nil {
			t.Fatal(err)
		}
		s.Close()
	}
	os.WriteFile(path+"2", []byte("this is no data file, and long enough to be read as one"), 0o600)
	if _, err := Open(path+"2", time.Now); err == nil || !strings.Contains(err.Error(), path+"2") {
		t.Errorf("a file of something else: %v", err)
	}
}

func TestAddIdeasMerges(t *testing.T) {
	s, n := open(t)
	if added, err := s.AddIdeas(ctx, n.ID, finds("a", "b", "a")); err != nil || added != 2 {
		t.Fatalf("added %d, %v", added, err)
	}
	again := finds("b", "c")
	again[0].Origin.Kind, again[0].Idea.FoundIn = "list", 16
	if added, err := s.AddIdeas(ctx, n.ID, again); err != nil || added != 1 {
		t.Fatalf("added %d, %v", added, err)
	}
	ideas, err := s.all(n.ID)
	if err != nil || len(ideas) != 3 {
		t.Fatalf("%d ideas, %v", len(ideas), err)
	}
	if origins, err := s.Origins(ctx, ideas[1].ID); err != nil || len(origins) != 2 {
		t.Errorf("b was found in %d ways, %v", len(origins), err)
	}
	var since []string
	s.ColumnsSince(ctx, n.ID, ideas[0].Revision, []string{"phrase"},
		func(v []any) { since = append(since, v[0].(string)) })
	if len(since) != 2 || since[0] != "b" || since[1] != "c" { // b was found in another way
		t.Errorf("changed since: %v", since)
	}
}

func TestBroughtFiguresFillGapsOnly(t *testing.T) {
	s, n := open(t)
	bring := func(phrase string, searches int) {
		now := time.Now()
		f := finds(phrase)
		f[0].Idea.DemandAt, f[0].Idea.Searches, f[0].Idea.DemandSource = &now, &searches, ImportSource
		if _, err := s.AddIdeas(ctx, n.ID, f); err != nil {
			t.Fatal(err)
		}
	}
	s.AddIdeas(ctx, n.ID, finds("a"))
	bring("a", 50)
	bring("a", 70)
	ideas, _ := s.all(n.ID)
	if *ideas[0].Searches != 50 {
		t.Errorf("a known figure was overwritten with %d", *ideas[0].Searches)
	}
}

// TestNothingHalfDone cuts a transaction off in the middle.
func TestNothingHalfDone(t *testing.T) {
	s, n := open(t)
	bad := finds("a", "b")
	bad[1].Origin.Kind = strings.Repeat("x", 10)
	short, cancel := context.WithCancel(ctx)
	cancel()
	if _, err := s.AddIdeas(short, n.ID, bad); err == nil {
		t.Fatal("a cancelled import succeeded")
	}
	if _, err := s.AddIdeas(ctx, 999, finds("a")); !errors.Is(err, ErrNotFound) {
		t.Errorf("ideas of no niche: %v", err)
	}
	if ideas, _ := s.all(n.ID); len(ideas) != 0 {
		t.Errorf("%d ideas remain of it", len(ideas))
	}
}

func TestDecideAndUndo(t *testing.T) {
	s, n := open(t)
	s.AddIdeas(ctx, n.ID, finds("a", "b"))
	ideas, _ := s.all(n.ID)
	a, b := ideas[0].ID, ideas[1].ID
	s.Decide(ctx, n.ID, []uint{a}, 1, "one")
	if changed, err := s.Decide(ctx, n.ID, []uint{a, b}, 2, "two"); err != nil || changed != 2 {
		t.Fatalf("changed %d, %v", changed, err)
	}
	if changed, _ := s.Decide(ctx, n.ID, []uint{a}, 2, "again"); changed != 0 {
		t.Error("deciding the same again is a change")
	}
	// A dropped idea stays dropped when it is found again.
	s.AddIdeas(ctx, n.ID, finds("a"))
	decisions := func() [2]int8 {
		x, _ := s.Idea(ctx, n.ID, a)
		y, _ := s.Idea(ctx, n.ID, b)
		return [2]int8{x.Decision, y.Decision}
	}
	for _, want := range [][2]int8{{2, 2}, {1, 0}, {0, 0}, {0, 0}} {
		if decisions() != want {
			t.Fatalf("decisions %v, want %v", decisions(), want)
		}
		if _, err := s.UndoDecision(ctx, n.ID); err != nil {
			t.Fatal(err)
		}
	}
}

func TestLeases(t *testing.T) {
	s, n := open(t)
	j := Job{NicheID: n.ID, Kind: "k", State: Running, Params: "{}", Owner: "one"}
	if err := s.CreateJob(ctx, &j, []string{"x", "y", "after x"}); err != nil {
		t.Fatal(err)
	}
	claim := func(seen Job, owner string) bool {
		got, err := s.Claim(ctx, seen, owner)
		if err != nil {
			t.Fatal(err)
		}
		return got
	}
	seen := j
	now, err := s.Heartbeat(ctx, j.ID, "one")
	if err != nil || claim(seen, "two") || !claim(now, "two") || claim(now, "one") {
		t.Errorf("a job is taken whose holder shows, or not when it does not: %v", err)
	}
	if _, err := s.Heartbeat(ctx, j.ID, "one"); !errors.Is(err, ErrNotFound) {
		t.Errorf("it beats for somebody else: %v", err)
	}
	if jobs, _ := s.Held(ctx); len(jobs) != 1 {
		t.Errorf("%d jobs are held", len(jobs))
	}
	items, _ := s.OpenItems(ctx, j.ID)
	items[0].State, items[0].Error, items[2].State = "failed", "no", "done"
	s.FinishItem(ctx, items[0], 3, 2)
	s.FinishItem(ctx, items[2], 0, 0)
	p, _ := s.Progress(ctx, j.ID)
	if p != (Progress{3, 1, 1}) {
		t.Errorf("progress %+v", p)
	}
	s.Retry(ctx, j.ID, func(payload string) bool { return payload == "after x" })
	if open, _ := s.OpenItems(ctx, j.ID); len(open) != 3 || open[0].Error != "" {
		t.Errorf("to be tried again: %+v", open)
	}
	s.SetJob(ctx, j.ID, Cancelled, "by somebody")
	s.EndJob(ctx, j.ID, Done, "")
	if j, _ := s.Job(ctx, j.ID); j.Found != 3 || j.Lookups != 2 || j.State != Cancelled {
		t.Errorf("job %+v", j)
	}
}

func TestAnswersAreKept(t *testing.T) {
	s, _ := open(t)
	now := time.Now().UTC()
	for i, body := range []string{"old", strings.Repeat("page ", 5000)} {
		if err := s.SaveAnswer(ctx, Answer{Kind: "page", Key: "u", Source: "x", Body: []byte(body), AskedAt: now,
			TookMS: int64(10 + 10*i), CostMicros: 7}); err != nil {
			t.Fatal(err)
		}
	}
	a, err := s.Answer(ctx, "page", "u")
	if err != nil || len(a.Body) != 25000 {
		t.Errorf("%d bytes, %v", len(a.Body), err)
	}
	if _, err := s.Answer(ctx, "page", "v"); !errors.Is(err, ErrNotFound) {
		t.Errorf("an answer never given: %v", err)
	}
	if fresh, _ := s.FreshKeys(ctx, "page", []string{"u", "v"}, now.Add(-time.Hour)); !fresh["u"] || fresh["v"] {
		t.Errorf("fresh: %v", fresh)
	}
	if fresh, _ := s.FreshKeys(ctx, "page", []string{"u"}, now.Add(time.Hour)); fresh["u"] {
		t.Error("an old answer is fresh")
	}
	if pace, known, _ := s.Pace(ctx, "page"); !known || pace != 20*time.Millisecond {
		t.Errorf("pace %v, %v", pace, known)
	}
	s.db.Exec("UPDATE answers SET body = x'1f8b00'")
	if _, err := s.Answer(ctx, "page", "u"); !errors.Is(err, ErrNotFound) {
		t.Errorf("a damaged answer: %v", err)
	}
}

func TestTokens(t *testing.T) {
	s, _ := open(t)
	s.SetToken(ctx, "a", []byte("1"), time.Hour)
	s.SetToken(ctx, "b", []byte("1"), time.Nanosecond)
	time.Sleep(time.Millisecond)
	if v, err := s.Token(ctx, "a"); err != nil || string(v) != "1" {
		t.Errorf("%q, %v", v, err)
	}
	if v, err := s.Token(ctx, "b"); err != nil || v != nil {
		t.Errorf("an expired token: %q, %v", v, err)
	}
}

func TestMonthsAreReadBack(t *testing.T) {
	check := func(values []uint16, gaps []bool) bool {
		var s demand.Series
		for i, v := range values[:min(len(values), 100)] {
			if i < len(gaps) && gaps[i] {
				continue
			}
			s.Counts = append(s.Counts, demand.Count{Month: demand.Month(24000 + i), Searches: int(v), Under: v%3 == 0})
		}
		got, err := DecodeMonths(EncodeMonths(s))
		if err != nil || len(got) != len(s.Counts) {
			return false
		}
		for i := range got {
			if got[i] != s.Counts[i] {
				return false
			}
		}
		return true
	}
	if err := quick.Check(check, nil); err != nil {
		t.Error(err)
	}
	if _, err := DecodeMonths("2026-01,x"); err == nil {
		t.Error("nonsense is read")
	}
}

func TestManyWriters(t *testing.T) {
	s, n := open(t)
	var wg sync.WaitGroup
	for w := range 8 {
		wg.Go(func() {
			for i := range 20 {
				if _, err := s.AddIdeas(ctx, n.ID, finds("p "+string(rune('a'+i)), "own "+string(rune('a'+w)))); err != nil {
					t.Error(err)
				}
				if _, err := s.all(n.ID); err != nil {
					t.Error(err)
				}
			}
		})
	}
	wg.Wait()
	if ideas, _ := s.all(n.ID); len(ideas) != 28 {
		t.Errorf("%d ideas, want 28", len(ideas))
	}
}

// TestColumnsKeepTheirNames: a field that was called otherwise is kept, and written into a niche's file, as before.
func TestColumnsKeepTheirNames(t *testing.T) {
	for row, names := range map[any][]string{&Niche{}: {"plans", "own_site"}, &Job{}: {"beat"},
		&Idea{}: {"want", "clicks", "clicks_low", "clicks_high", "cpc_micros"}, &TopicEdit{}: {"hub", "lead_id"}} {
		record := recordOf(row)
		for _, name := range names {
			if _, there := record[name]; !there {
				t.Errorf("%T has no column %s: %v", row, name, record)
			}
		}
	}
	s, n := open(t)
	if _, err := s.AddIdeas(ctx, n.ID, finds("moon map")); err != nil {
		t.Fatal(err)
	}
	all, _ := s.all(n.ID)
	before, _ := s.Niche(ctx, n.ID)
	if err := s.SaveLookupError(ctx, n.ID, all[0].ID, "JudgeError", "nobody answers"); err != nil {
		t.Fatal(err)
	}
	after, _ := s.Niche(ctx, n.ID)
	if all, _ = s.all(n.ID); all[0].JudgeError != "nobody answers" || after.Revision <= before.Revision ||
		all[0].Revision != after.Revision {
		t.Errorf("%+v in revision %d", all[0], after.Revision)
	}
}
