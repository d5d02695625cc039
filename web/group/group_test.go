package group_test

import (
	"context"
	"fmt"
	"net/url"
	"regexp"
	"slices"
	"strings"
	"testing"

	"cleverniche/study/niches"
	"cleverniche/web/webtest"
)

// TestWhyInTheGrid: the lead leads, each other idea says why it is with it; joined, the first one's name stays.
func TestWhyInTheGrid(t *testing.T) {
	s, ids := webtest.Planted(t)
	drawer := s.Get(fmt.Sprintf("/niches/1/topics/%d/drawer", ids["moon map"]))
	if n := strings.Count(drawer, "Leads: "); n != 1 || !strings.Contains(drawer, "moon map”") {
		t.Errorf("%d lead: %s", n, drawer)
	}
	if err := s.Study.Topics.Name(context.Background(), s.Niche, ids["moon map"], "The moon"); err != nil {
		t.Fatal(err)
	}
	if err := s.Study.Topics.Name(context.Background(), s.Niche, ids["star chart"], "The stars"); err != nil {
		t.Fatal(err)
	}
	s.Post(fmt.Sprintf("/niches/1/topics/%d/join", ids["moon map"]), url.Values{"id": {fmt.Sprint(ids["star chart"])}},
		true)
	webtest.Holds(t, s.Get("/niches/1/group"), "The moon", "1 topic")
}

// TestALargeTopic: three thousand ideas that are one article are shown in part, and told of.
func TestALargeTopic(t *testing.T) {
	s := webtest.Open(t)
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
	s.Add(list.String())
	n, err := s.Study.Niches.Get(context.Background(), 1)
	if err == nil {
		_, err = s.Study.Topics.Regroup(context.Background(), n, niches.ScopeAll, 3)
	}
	if err != nil {
		t.Fatal(err)
	}
	body := s.Get("/niches/1/group")
	webtest.Holds(t, body, "3,000 ideas in 1 topic", "<span>3,000</span>")
	first := regexp.MustCompile(`data-id="(\d+)"`).FindStringSubmatch(body)[1]
	if page := s.Get("/niches/1/topics/" + first); len(page) > 2_000_000 {
		t.Errorf("a page of %d bytes", len(page))
	}
	webtest.Holds(t, s.Get("/niches/1/briefs/"+first), "Moon map")
	status, _, said := s.Post("/niches/1/aside", url.Values{"id": {first}}, true)
	if status != 200 {
		t.Errorf("%d %s", status, said)
	}
}
