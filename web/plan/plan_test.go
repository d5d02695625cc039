package plan_test

import (
	"context"
	"fmt"
	"net/http/httptest"
	"net/url"
	"regexp"
	"strings"
	"testing"

	"cleverniche/core/sieve"
	"cleverniche/study/articles"
	"cleverniche/study/studytest"
	"cleverniche/web/webtest"
)

// TestWhatIsOutIsNoWork: published articles are neither late nor due, bring nothing to come, and are not chosen again;
// what is planned is not put there again.
func TestWhatIsOutIsNoWork(t *testing.T) {
	s, ids := webtest.Planted(t)
	keys := s.Plan(ids["moon map"], ids["star chart"])
	s.Change(keys[0], articles.Change{Deadline: studytest.Text("2026-11-01"), Start: studytest.Text("2026-11-20")})
	webtest.Holds(t, s.Get("/niches/1/plan"), "after your deadline")
	if !strings.Contains(s.Get("/niches/1/plan/calendar"), `class="deadline"`) {
		t.Error("no deadline in the calendar")
	}
	worth := regexp.MustCompile(`\$[\d.,–]+ a month`)
	before := worth.FindString(s.Get("/niches/1/plan"))
	out := articles.Change{State: studytest.Text("published"), Address: studytest.Text("mine.example/x"),
		Published: studytest.Text("2026-11-25")}
	s.Change(keys[0], out)
	sheet := s.Get("/niches/1/plan")
	if strings.Contains(sheet, "after your deadline") || worth.FindString(sheet) == before || before == "" {
		t.Errorf("out, and late or still to come: %q, %q", before, worth.FindString(sheet))
	}
	if strings.Contains(s.Get("/niches/1/plan/calendar"), `class="deadline"`) {
		t.Error("a deadline on what is out")
	}
	if status, _, body := s.Post("/niches/1/plan/choice?weeks=10", nil, true); status != 422 ||
		!strings.Contains(body, "is in your plan already") {
		t.Errorf("put there again: %d %s", status, body)
	}
}

// TestSwapsCost: what is left out by hand costs, is told to, and can be taken in again.
func TestSwapsCost(t *testing.T) {
	s, ids := webtest.Planted(t)
	choice := s.Get("/niches/1/plan/choice?weeks=10")
	swap := regexp.MustCompile(`href="([^"]+)" aria-label="Leave out: moon map"`).FindStringSubmatch(choice)
	if swap == nil {
		t.Fatal(choice)
	}
	left := s.Get(strings.ReplaceAll(swap[1], "&amp;", "&"))
	webtest.Holds(t, left, "Your changes cost $", "You left it out")
	back := regexp.MustCompile(`href="([^"]+)" aria-label="Include: moon map"`).FindStringSubmatch(left)
	if back == nil {
		t.Fatal(left)
	}
	query, _ := url.ParseQuery(strings.SplitN(strings.ReplaceAll(back[1], "&amp;", "&"), "?", 2)[1])
	if id := fmt.Sprint(ids["moon map"]); fmt.Sprint(query["in"]) != "["+id+"]" || len(query["out"]) != 0 {
		t.Errorf("taken in again: %v", query)
	}
}

// TestTakingTwice: what is added to an article is in it once, also where its button is pressed twice; a topic that is
// gone, or an article, is told.
func TestTakingTwice(t *testing.T) {
	s, ids := webtest.Planted(t)
	key := s.Plan(ids["star chart"])[0]
	take := func(article uint, id string) (int, string) {
		status, _, body := s.Post(fmt.Sprintf("/niches/1/plan/articles/%d", article), url.Values{"take": {id}}, true)
		return status, body
	}
	for range 2 {
		if status, body := take(key, fmt.Sprint(ids["moon map"])); status != 200 || !strings.Contains(body, "5 phrases") {
			t.Errorf("%d %.300s", status, body)
		}
	}
	for _, of := range []struct {
		article uint
		id      string
	}{{key, "9999"}, {key, "moon"}, {99, fmt.Sprint(ids["moon map"])}} {
		if status, body := take(of.article, of.id); status == 200 || status >= 500 {
			t.Errorf("%v: %d %.200s", of, status, body)
		}
	}
	s.Post("/niches/1/undo", nil, true)
	webtest.Holds(t, s.Get("/niches/1/plan"), "2 phrases")
}

// TestGroupAndPlan goes through both with ideas that are kept and not looked up, and with what cannot be.
func TestGroupAndPlan(t *testing.T) {
	s := webtest.Open(t)
	webtest.Holds(t, s.Get("/niches/1/group"), "Nothing to group yet", "0 kept · 0 topics")
	webtest.Holds(t, s.Get("/niches/1/plan"), "Your plan is empty")
	webtest.Holds(t, s.Get("/niches/1/plan/calendar"), "Nothing planned yet")
	webtest.Holds(t, s.Get("/niches/1/plan/actions"), "Set your site to see its pages here")
	s.Add("moon map\nmap of the moon\nstar chart")
	s.Study.Ideas.Decide(context.Background(), 1, []uint{1, 2, 3}, sieve.Kept)
	webtest.Holds(t, s.Get("/niches/1/group"), "3 ideas in 2 topics", "3 kept · 2 topics", "not looked up")
	webtest.Holds(t, s.Get("/niches/1/topics/2/drawer"), "by words", "moon map")
	webtest.Holds(t, s.Get("/niches/1/group?view=tree"), "No hubs yet", "star chart")
	post := func(path string, form url.Values) (int, string) {
		status, _, body := s.Post(path, form, true)
		return status, body
	}
	if status, body := post("/niches/1/aside", url.Values{"id": {"3"}, "stage": {"group"}}); status != 200 ||
		!strings.Contains(body, "Added “star chart” to the plan") {
		t.Errorf("%d %s", status, body)
	}
	sheet := s.Get("/niches/1/plan")
	webtest.Holds(t, sheet, "star chart", "1 to write", "has no start date")
	key := regexp.MustCompile(`id="article-(\d+)"`).FindStringSubmatch(sheet)[1]
	webtest.Holds(t, s.Get("/niches/1/briefs/3"), "Star Chart", "Look up the lead phrase")
	webtest.Holds(t, s.Get("/niches/1/plan/choice"), "Set your income per visit")
	for path, form := range map[string]url.Values{
		"/niches/1/plan/articles/" + key: {"hours": {"0"}}, "/niches/1/plan/articles/" + key + " ": {"start": {"soon"}},
		"/niches/1/plan/articles/" + key + "  ": {"before": {"-1"}}, "/niches/1/plan/articles/99": {"hours": {"3"}},
		"/niches/1/topics/1/split": {}, "/niches/1/topics/1/join": {"id": {"1"}},
		"/niches/1/topics/1/move": {"id": {"1"}}, "/niches/1/topics/1/hub": {"hub": {"<b>"}},
		"/niches/1/topics/1/name": {"name": {strings.Repeat("x", 200)}}, "/niches/1/group/by": {"shared": {"1"}},
		"/niches/1/group/by ": {"scope": {"everything"}}, "/niches/1/briefs/3": {"section": {"secret"}},
		"/niches/1/plan/own-pages": {}, "/niches/1/aside": {"id": {"3"}},
	} {
		if status, body := post(strings.TrimRight(path, " "), form); status != 422 {
			t.Errorf("%s %v: %d %.200s", path, form, status, body)
		}
	}
	for _, path := range []string{"topics/99", "topics/x/drawer", "briefs/99", "briefs/3/brief.exe", "feed/x",
		"plan/plan.exe"} {
		if status, _, _ := s.Do(httptest.NewRequest("GET", "/niches/1/"+path, nil)); status != 404 {
			t.Errorf("%s: %d", path, status)
		}
	}
	if status, body := post("/niches/1/plan/articles/"+key, url.Values{"start-" + key: {"2027-01-04"}}); status != 200 ||
		!strings.Contains(body, `value="2027-01-04"`) {
		t.Errorf("%d %.300s", status, body)
	}
	webtest.Holds(t, s.Get("/niches/1/plan/plan.ics"), "SUMMARY:Write: star chart", "DTSTART;VALUE=DATE:20270104")
	// Keeping and dropping go for all ideas of a topic.
	post("/niches/1/bulk", url.Values{"id": {"1"}, "decision": {"drop"}, "stage": {"group"}})
	webtest.Holds(t, s.Get("/niches/1/group"), "1 idea in 1 topic")
	post("/niches/1/undo", nil)
	webtest.Holds(t, s.Get("/niches/1/group"), "3 ideas in 2 topics")
	for range 3 {
		post("/niches/1/undo", nil)
	}
	webtest.Holds(t, s.Get("/niches/1/plan"), "Your plan is empty")
}
