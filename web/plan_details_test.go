package web

import (
	"context"
	"fmt"
	"net/url"
	"regexp"
	"strings"
	"testing"

	"cleverniche/study/articles"
	"cleverniche/study/studytest"
)

// planted is the site of a niche with two subjects looked up (studytest.Planted), with the ideas' IDs.
func planted(t *testing.T) (*site, map[string]uint) {
	st, n, ids := studytest.Planted(t)
	app, err := New(Options{Study: st})
	if err != nil {
		t.Fatal(err)
	}
	s := &site{t: t, app: app, study: st, niche: n}
	s.get("/niches/1/sift")
	return s, ids
}

func (s *site) plan(ids ...uint) (keys []uint) {
	ctx := context.Background()
	if _, err := s.study.Articles.Add(ctx, s.niche, ids); err != nil {
		s.t.Fatal(err)
	}
	p, err := s.study.Articles.Plan(ctx, s.niche)
	if err != nil {
		s.t.Fatal(err)
	}
	for _, a := range p.Articles {
		keys = append(keys, a.Key())
	}
	return keys
}

func (s *site) change(key uint, c articles.Change) {
	if err := s.study.Articles.Change(context.Background(), s.niche, key, c); err != nil {
		s.t.Fatal(err)
	}
}

// TestSecondOrderTurns: what orders ideas that are equal in the first order turns like that one.
func TestSecondOrderTurns(t *testing.T) {
	s := open(t)
	s.add("phrase,searches\nmoon map,40\nsky map,90\n")
	then := regexp.MustCompile(`data-key="searches"[\s\S]*?data-then="([^"]+)"`)
	at, orders := "/niches/1/sift?sort=words&order=down", []string{}
	for range 3 {
		m := then.FindStringSubmatch(s.get(at))
		if m == nil {
			t.Fatalf("no second order on %s", at)
		}
		at = strings.ReplaceAll(m[1], "&amp;", "&")
		u, err := url.Parse(at)
		if err != nil {
			t.Fatal(err)
		}
		orders = append(orders, u.Query().Get("then-order"))
	}
	if orders[0] == orders[1] || orders[0] != orders[2] {
		t.Errorf("clicked three times: %q", orders)
	}
}

// TestTollsOnlyWhereNeeded: the line tells of lookups that a filter below it needs, and of the top ten.
func TestTollsOnlyWhereNeeded(t *testing.T) {
	s := open(t)
	s.add("phrase,searches\nmoon map,40\n")
	holds(t, s.get("/niches/1/sift?difficulty=20"), "1 not looked up")
	if strings.Contains(s.get("/niches/1/sift?difficulty=20"), "not counted") {
		t.Error("pages are to be counted that nobody asks for")
	}
	holds(t, s.get("/niches/1/sift?difficulty=20&exact=1000"), "1 not counted")
}

// TestWhatIsOutIsNoWork: published articles are neither late nor due, bring nothing to come, and are not chosen again;
// what is planned is not put there again.
func TestWhatIsOutIsNoWork(t *testing.T) {
	s, ids := planted(t)
	keys := s.plan(ids["moon map"], ids["star chart"])
	s.change(keys[0], articles.Change{Deadline: studytest.Text("2026-11-01"), Start: studytest.Text("2026-11-20")})
	holds(t, s.get("/niches/1/plan"), "after your deadline")
	if !strings.Contains(s.get("/niches/1/plan/calendar"), `class="deadline"`) {
		t.Error("no deadline in the calendar")
	}
	worth := regexp.MustCompile(`\$[\d.,–]+ a month`)
	before := worth.FindString(s.get("/niches/1/plan"))
	out := articles.Change{State: studytest.Text("published"), Address: studytest.Text("mine.example/x"),
		Published: studytest.Text("2026-11-25")}
	s.change(keys[0], out)
	sheet := s.get("/niches/1/plan")
	if strings.Contains(sheet, "after your deadline") || worth.FindString(sheet) == before || before == "" {
		t.Errorf("out, and late or still to come: %q, %q", before, worth.FindString(sheet))
	}
	if strings.Contains(s.get("/niches/1/plan/calendar"), `class="deadline"`) {
		t.Error("a deadline on what is out")
	}
	if status, _, body := s.post("/niches/1/plan/choice?weeks=10", nil, true); status != 422 ||
		!strings.Contains(body, "is on the sheet already") {
		t.Errorf("put there again: %d %s", status, body)
	}
}

// TestSwapsCost: what is left out by hand costs, is told to, and can be taken in again.
func TestSwapsCost(t *testing.T) {
	s, ids := planted(t)
	choice := s.get("/niches/1/plan/choice?weeks=10")
	swap := regexp.MustCompile(`href="([^"]+)" aria-label="leave out: moon map"`).FindStringSubmatch(choice)
	if swap == nil {
		t.Fatal(choice)
	}
	left := s.get(strings.ReplaceAll(swap[1], "&amp;", "&"))
	holds(t, left, "Your swaps cost $", "you left it out")
	back := regexp.MustCompile(`href="([^"]+)" aria-label="put in: moon map"`).FindStringSubmatch(left)
	if back == nil {
		t.Fatal(left)
	}
	query, _ := url.ParseQuery(strings.SplitN(strings.ReplaceAll(back[1], "&amp;", "&"), "?", 2)[1])
	if id := fmt.Sprint(ids["moon map"]); fmt.Sprint(query["in"]) != "["+id+"]" || len(query["out"]) != 0 {
		t.Errorf("taken in again: %v", query)
	}
}

// TestWhyInTheGrid: the lead leads, each other idea says why it is with it; joined, the first one's name stays.
func TestWhyInTheGrid(t *testing.T) {
	s, ids := planted(t)
	drawer := s.get(fmt.Sprintf("/niches/1/topics/%d/drawer", ids["moon map"]))
	if n := strings.Count(drawer, "Leads: "); n != 1 || !strings.Contains(drawer, "moon map”") {
		t.Errorf("%d lead: %s", n, drawer)
	}
	if err := s.study.Topics.Name(context.Background(), s.niche, ids["moon map"], "The moon"); err != nil {
		t.Fatal(err)
	}
	if err := s.study.Topics.Name(context.Background(), s.niche, ids["star chart"], "The stars"); err != nil {
		t.Fatal(err)
	}
	s.post(fmt.Sprintf("/niches/1/topics/%d/join", ids["moon map"]), url.Values{"id": {fmt.Sprint(ids["star chart"])}},
		true)
	holds(t, s.get("/niches/1/group"), "The moon", "1 topic")
}
