package store

import (
	"context"
	"errors"
	"fmt"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"
)

// at opens a data file whose clock stands at *now.
func at(t *testing.T, now *time.Time) *Store {
	s, err := Open(filepath.Join(t.TempDir(), "d.db"), func() time.Time { return *now })
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { s.Close() })
	return s
}

func TestTheLastOpenedNicheComesFirst(t *testing.T) {
	now := time.Unix(1_700_000_000, 0)
	s := at(t, &now)
	for _, name := range []string{"A", "B", "C"} {
		s.CreateNiche(ctx, &Niche{Name: name, Country: "US", Language: "en", Currency: "USD"})
		now = now.Add(time.Hour)
	}
	s.TouchNiche(ctx, 2)
	list, err := s.Niches(ctx)
	if err != nil || list[0].Name != "B" || list[1].Name != "C" || list[2].Name != "A" {
		t.Errorf("%+v, %v", list, err)
	}
	if !list[0].OpenedAt.Equal(now) {
		t.Errorf("opened at %v by a clock at %v", list[0].OpenedAt, now)
	}
}

func TestOnlyAChangeIsARevision(t *testing.T) {
	s, n := open(t)
	revision := func() int64 { r, _, _ := s.Revision(ctx, n.ID); return r }
	s.AddIdeas(ctx, n.ID, finds("a", "b"))
	was := revision()
	s.AddIdeas(ctx, n.ID, finds("a", "b"))
	s.Decide(ctx, n.ID, []uint{1}, 0, "x")
	s.SaveDemand(ctx, n.ID, nil)
	if revision() != was {
		t.Error("nothing changed, and there is a new revision")
	}
	s.Decide(ctx, n.ID, []uint{1}, 1, "x")
	if revision() != was+1 {
		t.Errorf("a decision makes %d revisions", revision()-was)
	}
}

func TestWhatIsNotThereIsNotDecided(t *testing.T) {
	s, n := open(t)
	s.AddIdeas(ctx, n.ID, finds("a"))
	if _, err := s.Decide(ctx, n.ID, []uint{1, 99}, 1, "x"); !errors.Is(err, ErrNotFound) {
		t.Errorf("%v", err)
	}
	if i, _ := s.Idea(ctx, n.ID, 1); i.Decision != 0 {
		t.Error("half of it was decided")
	}
	if _, err := s.Decide(ctx, n.ID+1, []uint{1}, 1, "x"); !errors.Is(err, ErrNotFound) {
		t.Errorf("in another niche: %v", err)
	}
	if changed, err := s.Decide(ctx, n.ID, []uint{1, 1, 1}, 1, "x"); changed != 1 || err != nil {
		t.Errorf("the same three times: %d, %v", changed, err)
	}
}

// TestManyAreDecidedAndUndone at once, each back to what it was.
func TestManyAreDecidedAndUndone(t *testing.T) {
	s, n := open(t)
	var phrases []string
	for i := range 1200 {
		phrases = append(phrases, string(rune('a'+i%26))+string(rune('a'+i/26%26))+string(rune('a'+i/676)))
	}
	s.AddIdeas(ctx, n.ID, finds(phrases...))
	all, _ := s.all(n.ID)
	var ids, some []uint
	for i, idea := range all {
		ids = append(ids, idea.ID)
		if i%3 == 0 {
			some = append(some, idea.ID)
		}
	}
	s.Decide(ctx, n.ID, some, 2, "some")
	if changed, err := s.Decide(ctx, n.ID, ids, 1, "all"); changed != len(ids) || err != nil {
		t.Fatalf("%d changed, %v", changed, err)
	}
	undone, err := s.UndoDecision(ctx, n.ID)
	if err != nil || len(undone) != len(ids) {
		t.Fatalf("%d undone, %v", len(undone), err)
	}
	all, _ = s.all(n.ID)
	for i, idea := range all {
		if want := map[bool]int8{true: 2, false: 0}[i%3 == 0]; idea.Decision != want {
			t.Fatalf("idea %d is %d, not %d", i, idea.Decision, want)
		}
	}
	if undone, _ := s.UndoDecision(ctx, n.ID); len(undone) != len(some) {
		t.Errorf("then %d are undone", len(undone))
	}
}

func TestRowsComeInTheOrderOfTheIDs(t *testing.T) {
	s, n := open(t)
	s.AddIdeas(ctx, n.ID, finds("a", "b", "c", "d"))
	rows, err := s.Ideas(ctx, n.ID, []uint{3, 1, 99, 4})
	if err != nil || len(rows) != 3 || rows[0].Phrase != "c" || rows[1].Phrase != "a" || rows[2].Phrase != "d" {
		t.Errorf("%+v, %v", rows, err)
	}
}

func TestCostsAddUp(t *testing.T) {
	now := time.Date(2026, 5, 5, 12, 0, 0, 0, time.UTC)
	s := at(t, &now)
	n := Niche{Name: "Sky"}
	s.CreateNiche(ctx, &n)
	j := Job{NicheID: n.ID, Kind: "k", State: Running, Params: "{}"}
	s.CreateJob(ctx, &j, []string{"x", "y"})
	items, _ := s.OpenItems(ctx, j.ID)
	for _, item := range items {
		item.State = "done"
		s.FinishItem(ctx, item, 2, 3)
	}
	s.AddLookups(ctx, j.ID, 1)
	if j, _ := s.Job(ctx, j.ID); j.Found != 4 || j.Lookups != 7 {
		t.Errorf("%+v", j)
	}
	day := now
	for d, micros := range map[int]int64{4: 1, 5: 10, 6: 100} {
		now = time.Date(2026, 5, d, 12, 0, 0, 0, time.UTC)
		call := []Entry{{Call: fmt.Sprint(d), Question: "k", Key: fmt.Sprint(d), Micros: micros, JobID: j.ID}}
		if err := s.Spend(ctx, call, day, 0); err != nil {
			t.Fatal(err)
		}
		s.SaveAnswer(ctx, Answer{Kind: "k", Key: "the same", CostMicros: micros, AskedAt: now}, call...)
	}
	now = day
	if spent, _ := s.SpentSince(ctx, time.Date(2026, 5, 5, 0, 0, 0, 0, time.UTC)); spent != 110 {
		t.Errorf("spent %d", spent)
	}
	if spent, _ := s.JobSpent(ctx, j.ID); spent != (Spent{Micros: 111}) {
		t.Errorf("for the job %+v", spent)
	}
	s.SetJob(ctx, j.ID, Done, "")
	if j, _ := s.Job(ctx, j.ID); j.FinishedAt == nil || !j.FinishedAt.Equal(now) {
		t.Errorf("finished at %v by a clock at %v", j.FinishedAt, now)
	}
}

func TestTimesGoByTheClock(t *testing.T) {
	now := time.Unix(1_700_000_000, 0)
	s := at(t, &now)
	s.SetToken(ctx, "a", []byte("1"), time.Hour)
	now = now.Add(59 * time.Minute)
	if v, _ := s.Token(ctx, "a"); v == nil {
		t.Error("a token ends before its time")
	}
	now = now.Add(2 * time.Minute)
	if v, _ := s.Token(ctx, "a"); v != nil {
		t.Error("a token does not end")
	}
}

// TestTheLedger is only added to; a call in doubt is told until the user accepts it, and what cost
// nothing is given back. Of two that ask at once for the last of a budget one gets it.
func TestTheLedger(t *testing.T) {
	now := time.Date(2026, 5, 5, 12, 0, 0, 0, time.UTC)
	s := at(t, &now)
	n := Niche{Name: "Sky"}
	s.CreateNiche(ctx, &n)
	j := Job{NicheID: n.ID, Kind: "k", State: Running, Params: "{}"}
	s.CreateJob(ctx, &j, []string{"x"})
	call := func(key string) []Entry {
		return []Entry{{Call: "call " + key, Question: "links", Key: key, Micros: 40, JobID: j.ID}}
	}
	a, b, c := call("a"), call("b"), call("c")
	for _, one := range [][]Entry{a, b} {
		if err := s.Spend(ctx, one, now, 100); err != nil {
			t.Fatal(err)
		}
	}
	if err := s.Spend(ctx, c, now, 100); !errors.Is(err, ErrBudget) {
		t.Errorf("a third of 40 out of 100: %v", err)
	}
	s.Settle(ctx, a, CallVoid)
	if err := s.Spend(ctx, c, now, 100); err != nil {
		t.Errorf("after one cost nothing: %v", err)
	}
	s.Settle(ctx, c, CallPaid)
	doubts, err := s.InDoubt(ctx, "links", "the links service", []string{"a", "b", "c", "d"})
	if err != nil || len(doubts) != 1 || doubts[0].Key != "b" {
		t.Fatalf("in doubt are %+v, %v", doubts, err)
	}
	if spent, _ := s.SourceSpent(ctx, "links", "", time.Time{}); spent != 80 {
		t.Errorf("a source took %d", spent)
	}
	if spent, _ := s.JobSpent(ctx, j.ID); spent != (Spent{80, 0, 0}) {
		t.Errorf("while a program that runs makes it: spent %+v", spent)
	}
	s.Settle(ctx, b, CallLost)
	if spent, _ := s.JobSpent(ctx, j.ID); spent != (Spent{80, 1, 40}) {
		t.Errorf("spent %+v", spent)
	}
	other := Job{NicheID: n.ID, Kind: "k", State: Running, Params: "{}"}
	s.CreateJob(ctx, &other, []string{"x"})
	s.Hold(ctx, doubts, other.ID)
	if err := s.Retry(ctx, other.ID, nil); err != nil {
		t.Fatal(err)
	}
	if doubts, _ := s.InDoubt(ctx, "links", "the links service", []string{"b"}); len(doubts) != 0 {
		t.Error("what the user accepted is in doubt still")
	}
	if spent, _ := s.SpentSince(ctx, now); spent != 80 {
		t.Errorf("what was in doubt is not spent any more: %d", spent)
	}
	for _, change := range []string{"UPDATE ledger SET micros = 0", "DELETE FROM ledger"} {
		if err := s.db.Exec(change).Error; err == nil {
			t.Errorf("%s goes through", change)
		}
	}
}

func TestASourceWithoutCostsLeavesYours(t *testing.T) {
	s, n := open(t)
	f := finds("a")
	cost, searches := int64(300_000), 50
	f[0].Idea.CPCMicros, f[0].Idea.Currency = &cost, "USD"
	s.AddIdeas(ctx, n.ID, f)
	now := time.Now()
	row := Idea{ID: 1, DemandAt: &now, DemandSource: "x", Searches: &searches}
	s.SaveDemand(ctx, n.ID, []Idea{row})
	if i, _ := s.Idea(ctx, n.ID, 1); i.CPCMicros == nil || *i.CPCMicros != cost || *i.Searches != 50 {
		t.Errorf("%+v", i)
	}
	more := int64(900_000)
	row.CPCMicros, row.Currency = &more, "USD"
	s.SaveDemand(ctx, n.ID, []Idea{row})
	if i, _ := s.Idea(ctx, n.ID, 1); *i.CPCMicros != more {
		t.Error("a source's cost is not taken")
	}
}

// TestDocuments are kept with their version, compressed from the second on.
func TestDocuments(t *testing.T) {
	s, n := open(t)
	s.AddIdeas(ctx, n.ID, finds("a", "b"))
	body := []byte(`{"x":"` + string(slices.Repeat([]byte("y"), 5000)) + `"}`)
	err := s.SaveJudgements(ctx, n.ID,
		Judgement{Idea: Idea{ID: 1, Difficulty: 7}, Document: Document{Version: 2, Body: body}},
		Judgement{Idea: Idea{ID: 2}, Document: Document{Version: 1, Body: []byte("old")}})
	if err != nil {
		t.Fatal(err)
	}
	got, err := s.Evidences(ctx, []uint{1, 2, 3})
	if err != nil || len(got) != 2 || string(got[1].Body) != string(body) || got[1].Version != 2 ||
		string(got[2].Body) != "old" {
		t.Errorf("%d documents, %v", len(got), err)
	}
	var size int
	s.db.Raw("SELECT length(body) FROM evidences WHERE idea_id = 1").Scan(&size)
	if size == 0 || size > 500 {
		t.Errorf("%d bytes are kept", size)
	}
	s.SaveJudgements(ctx, n.ID, Judgement{Idea: Idea{ID: 1, Difficulty: 9}})
	if d, err := s.Evidence(ctx, 1); err != nil || string(d.Body) != string(body) {
		t.Errorf("a judgement without a body loses the evidence: %v", err)
	}
	if i, _ := s.Idea(ctx, n.ID, 1); i.Difficulty != 9 {
		t.Errorf("difficulty %v", i.Difficulty)
	}
	s.db.Exec("UPDATE evidences SET body = substr(body, 1, 20) WHERE idea_id = 1")
	got, err = s.Evidences(ctx, []uint{1, 2})
	if err != nil || got[1].Damage == nil || string(got[2].Body) != "old" || got[2].Damage != nil {
		t.Errorf("a damaged one beside a sound one: %v, %v, %v", got[1].Damage, got[2].Damage, err)
	}
	if _, err := s.Evidence(ctx, 3); !errors.Is(err, ErrNotFound) {
		t.Errorf("no evidence: %v", err)
	}
}

// TestSpans cover every idea once, whatever IDs there are.
func TestSpans(t *testing.T) {
	s, n := open(t)
	other := Niche{Name: "Other", Country: "US", Language: "en", Currency: "USD"}
	s.CreateNiche(ctx, &other)
	s.AddIdeas(ctx, other.ID, finds("x", "y"))
	s.AddIdeas(ctx, n.ID, finds("a", "b", "c", "d", "e"))
	s.AddIdeas(ctx, other.ID, finds("z"))
	for _, parts := range []int{1, 2, 3, 7, 100} {
		spans, count, err := s.Spans(ctx, n.ID, parts)
		var seen []string
		for _, in := range spans {
			s.Columns(ctx, n.ID, in, []string{"id", "phrase"}, func(v []any) { seen = append(seen, v[1].(string)) })
		}
		if err != nil || count != 5 || !slices.Equal(seen, []string{"a", "b", "c", "d", "e"}) {
			t.Errorf("%d parts: %v, %d, %v", parts, seen, count, err)
		}
	}
	if spans, count, err := s.Spans(ctx, 99, 4); len(spans) != 0 || count != 0 || err != nil {
		t.Errorf("no ideas: %v", spans)
	}
}

// TestColumnsAreThoseOfRows: read many at once, columns hold what each row does, also where a
// text holds what they are joined with.
func TestColumnsAreThoseOfRows(t *testing.T) {
	s, n := open(t)
	n2 := Niche{Name: "Other", Country: "US", Language: "en", Currency: "USD"}
	s.CreateNiche(ctx, &n2)
	for i := range 1300 {
		number, cost, share := i*i, int64(i)*1_000_003, float64(i)/7
		idea := Idea{Phrase: fmt.Sprint("p", i), Words: i % 9, Currency: "USD", VariantKey: fmt.Sprint("p", i/2),
			Under: i%5 == 0, PhraseMatch: i, Lasting: []string{"", "rising"}[i%2]}
		if i%3 > 0 {
			idea.Searches, idea.CPCMicros, idea.Competition = &number, &cost, &share
		}
		if i == 700 {
			idea.Currency = "U\x1fS,D"
		}
		to := n
		if i%4 == 0 {
			to = n2
		}
		if _, err := s.AddIdeas(ctx, to.ID, []Find{{Idea: idea}}); err != nil {
			t.Fatal(err)
		}
	}
	columns := []string{"id", "phrase", "words", "currency", "variant_key", "searches", "under", "cpc_micros",
		"competition", "phrase_match", "lasting"}
	for _, niche := range []Niche{n, n2} {
		yesNo := strings.NewReplacer("false", "0", "true", "1")
		into := func(list *[]string) func([]any) {
			return func(v []any) { *list = append(*list, yesNo.Replace(fmt.Sprintf("%.12v", v))) }
		}
		var want, got []string
		s.ColumnsSince(ctx, niche.ID, 0, columns, into(&want))
		spans, _, _ := s.Spans(ctx, niche.ID, 3)
		for _, in := range spans {
			if err := s.Columns(ctx, niche.ID, in, columns, into(&got)); err != nil {
				t.Fatal(err)
			}
		}
		if !slices.Equal(got, want) {
			for i := range want {
				if i >= len(got) || got[i] != want[i] {
					t.Fatalf("%d and %d rows, first other: %s", len(got), len(want), want[i])
				}
			}
		}
	}
}

// TestWhoseItIs: decisions, jobs, money and changes to topics know whose they are; what nobody says is the owner's.
func TestWhoseItIs(t *testing.T) {
	s, n := open(t)
	s.AddIdeas(ctx, n.ID, []Find{{Idea: Idea{Phrase: "moon", Words: 1}, Origin: Origin{Kind: "list"}}})
	for person, in := range map[string]context.Context{Owner: ctx, "ada": As(ctx, "ada")} {
		row, _ := first[Idea](s.read(in).Where("phrase = 'moon'"))
		j := Job{NicheID: n.ID, Kind: person, State: Done}
		calls := []Entry{{Call: person, Question: "results", Key: person, Micros: 1}}
		edit := func(e *TopicTx) error { return e.Save(&TopicEdit{Phrase: person}) }
		_, err := s.Decide(in, n.ID, []uint{row.ID}, 1-row.Decision, person)
		if err = errors.Join(err, s.CreateJob(in, &j, nil), s.Spend(in, calls, time.Time{}, 0), s.Settle(in, calls, CallPaid),
			s.EditTopics(in, n.ID, AnyRevision, func() string { return person }, edit)); err != nil {
			t.Fatal(err)
		}
		for _, where := range []string{"decisions WHERE batch", "jobs WHERE kind", "ledger WHERE call",
			"topic_changes WHERE says"} {
			var people []string
			s.read(ctx).Raw("SELECT DISTINCT person FROM "+where+" = ?", person).Scan(&people)
			if len(people) != 1 || people[0] != person {
				t.Errorf("%s %q is of %v", where, person, people)
			}
		}
	}
}
