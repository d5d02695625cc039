package niches_test

import (
	"context"
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"
	"time"

	"cleverniche/study/niches"
	"cleverniche/web/webtest"
)

func TestSettingsPage(t *testing.T) {
	s := webtest.Open(t)
	s.Get("/niches/1/settings")
	form := url.Values{"name": {"Sky"}, "country": {"GB"}, "language": {"en"}, "site": {"mine.example"},
		"links": {"3"}, "fit": {"80"}, "standing": {"40"}, "visit": {"$0.05"}}
	if status, _, body := s.Post("/niches/1/settings", form, false); status != 200 || !strings.Contains(body, "Saved.") {
		t.Errorf("%d", status)
	}
	n, _ := s.Study.Niches.Get(context.Background(), 1)
	if n.PlannedLinks != 3 || n.Country != "GB" || n.OwnSite != "mine.example" || n.VisitMicros != 50_000 {
		t.Errorf("kept: %+v", n)
	}
	for field, bad := range map[string]string{"links": "many", "fit": "0", "standing": "", "name": " ",
		"visit": "−5"} {
		wrong := url.Values{}
		for k := range form {
			wrong.Set(k, form.Get(k))
		}
		wrong.Set(field, bad)
		if status, _, body := s.Post("/niches/1/settings", wrong, false); status != 422 ||
			!strings.Contains(body, `aria-invalid="true"`) {
			t.Errorf("%s=%q: %d", field, bad, status)
		}
	}
}

func TestTheStartPageOpensTheLastNiche(t *testing.T) {
	s := webtest.Open(t)
	s.Study.Niches.Create(context.Background(), niches.Niche{Name: "Other", Country: "US", Language: "en"})
	for _, id := range []string{"1", "2", "1"} {
		time.Sleep(2 * time.Millisecond)
		s.Get("/niches/" + id + "/gather")
		if _, h, _ := s.Do(httptest.NewRequest("GET", "/", nil)); h.Get("Location") != "/niches/"+id+"/sift" {
			t.Errorf("after %s the start page opens %s", id, h.Get("Location"))
		}
	}
}

func TestWhatWasTypedIsKept(t *testing.T) {
	s := webtest.Open(t)
	s.Get("/niches/1/gather")
	status, _, body := s.Post("/niches/1/import", url.Values{"list": {"keep me\x00\x00\x00\x00"}}, false)
	if status != 422 || !strings.Contains(body, "keep me") || !strings.Contains(body, "neither text nor") {
		t.Errorf("a list that cannot be used: %d", status)
	}
	status, _, body = s.Post("/niches/1/settings", url.Values{"name": {"New <name>"}, "country": {"??"}}, false)
	if status != 422 || !strings.Contains(body, `value="New &lt;name&gt;"`) {
		t.Errorf("settings that cannot be used: %d", status)
	}
}

func TestNewNicheForm(t *testing.T) {
	s := webtest.Open(t)
	s.Get("/niches/new")
	if status, _, body := s.Post("/niches", url.Values{"name": {"Mars"}, "country": {"ZZZ"}, "language": {"en"}},
		false); status != 422 || !strings.Contains(body, `value="Mars"`) || !strings.Contains(body, "is not a country") {
		t.Errorf("%d %s", status, body)
	}
	status, h, _ := s.Post("/niches", url.Values{"name": {"Mars"}, "country": {"de"}, "language": {"de"},
		"site": {"red.example"}}, false)
	if status != 303 || h.Get("Location") != "/niches/2/gather" {
		t.Errorf("%d %v", status, h)
	}
	if body := s.Get("/niches/2/gather"); !strings.Contains(body, "No ideas yet") {
		t.Error("an empty niche has no next step")
	}
}
