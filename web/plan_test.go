package web

import (
	"context"
	"net/http/httptest"
	"net/url"
	"regexp"
	"slices"
	"strings"
	"testing"

	"cleverniche/core/sieve"
	"cleverniche/study/niches"
)

// TestGroupAndPlan goes through both with ideas that are kept and not looked up, and with what cannot be.
func TestGroupAndPlan(t *testing.T) {
	s := open(t)
	holds(t, s.get("/niches/1/group"), "There is nothing to group", "0 kept · 0 topics")
	holds(t, s.get("/niches/1/plan"), "Nothing is put aside to write yet")
	holds(t, s.get("/niches/1/plan/calendar"), "Nothing is sown yet")
	holds(t, s.get("/niches/1/plan/actions"), "Which site is yours?")
	s.add("moon map\nmap of the moon\nstar chart")
	s.study.Ideas.Decide(context.Background(), 1, []uint{1, 2, 3}, sieve.Kept)
	holds(t, s.get("/niches/1/group"), "3 ideas in 2 topics", "3 kept · 2 topics", "not looked up")
	holds(t, s.get("/niches/1/topics/2/drawer"), "by words", "moon map")
	holds(t, s.get("/niches/1/group?view=tree"), "No overview yet", "star chart")
	post := func(path string, form url.Values) (int, string) {
		status, _, body := s.post(path, form, true)
		return status, body
	}
	if status, body := post("/niches/1/aside", url.Values{"id": {"3"}, "stage": {"group"}}); status != 200 ||
		!strings.Contains(body, "Put aside to write: “star chart”") {
		t.Errorf("%d %s", status, body)
	}
	sheet := s.get("/niches/1/plan")
	holds(t, sheet, "star chart", "1 to write", "has no day to begin yet")
	key := regexp.MustCompile(`id="article-(\d+)"`).FindStringSubmatch(sheet)[1]
	holds(t, s.get("/niches/1/briefs/3"), "Star chart", "is not looked up")
	holds(t, s.get("/niches/1/plan/choice"), "What a visit brings is not said")
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
		if status, _, _ := s.do(httptest.NewRequest("GET", "/niches/1/"+path, nil)); status != 404 {
			t.Errorf("%s: %d", path, status)
		}
	}
	if status, body := post("/niches/1/plan/articles/"+key, url.Values{"start-" + key: {"2027-01-04"}}); status != 200 ||
		!strings.Contains(body, `value="2027-01-04"`) {
		t.Errorf("%d %.300s", status, body)
	}
	holds(t, s.get("/niches/1/plan/plan.ics"), "SUMMARY:Write: star chart", "DTSTART;VALUE=DATE:20270104")
	// Keeping and dropping go for all ideas of a topic.
	post("/niches/1/bulk", url.Values{"id": {"1"}, "decision": {"drop"}, "stage": {"group"}})
	holds(t, s.get("/niches/1/group"), "1 idea in 1 topic")
	post("/niches/1/undo", nil)
	holds(t, s.get("/niches/1/group"), "3 ideas in 2 topics")
	for range 3 {
		post("/niches/1/undo", nil)
	}
	holds(t, s.get("/niches/1/plan"), "Nothing is put aside to write yet")
}

// TestALargeTopic: three thousand ideas that are one article are shown in part, and told of.
func TestALargeTopic(t *testing.T) {
	s := open(t)
	var list strings.Builder
	for i := range 3000 {
		words := []string{"the", "of", "a", "in", "to", "and", "for"}
		list.WriteString("moon map")
		for rest := i; len(words) > 0; rest /= len(words) + 1 {
			at := rest % len(words)
			list.WriteString(" " + words[at])
			words = slices.Delete(words, at, at+1)
		}
		list.WriteString("\n")
	}
	s.add(list.String())
	n, err := s.study.Niches.Get(context.Background(), 1)
	if err == nil {
		_, err = s.study.Topics.Regroup(context.Background(), n, niches.ScopeAll, 3)
	}
	if err != nil {
		t.Fatal(err)
	}
	body := s.get("/niches/1/group")
	holds(t, body, "3,000 ideas in 1 topic", "<span>3,000</span>")
	first := regexp.MustCompile(`data-id="(\d+)"`).FindStringSubmatch(body)[1]
	if page := s.get("/niches/1/topics/" + first); len(page) > 2_000_000 {
		t.Errorf("a page of %d bytes", len(page))
	}
	holds(t, s.get("/niches/1/briefs/"+first), "Moon map")
	status, _, said := s.post("/niches/1/aside", url.Values{"id": {first}}, true)
	if status != 200 {
		t.Errorf("%d %s", status, said)
	}
}
