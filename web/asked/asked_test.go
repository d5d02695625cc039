package asked_test

import (
	"context"
	"errors"
	"net/url"
	"testing"

	"cleverniche/core/demand"
	"cleverniche/market"
	"cleverniche/study"
	"cleverniche/study/ask"
	"cleverniche/web/webtest"
)

// other is a demand service that says another figure than webtest's.
type other struct{ fails bool }

func (o other) Demand(_ context.Context, phrases []string, _ market.Locale) (map[string]demand.Series, error) {
	if o.fails {
		return nil, &market.Error{Source: "the other", Trouble: market.Refused, Err: errors.New("<your> key is wrong")}
	}
	out := map[string]demand.Series{}
	for _, p := range phrases {
		out[p] = demand.Series{Average: &demand.Average{Searches: 5000}, Competition: -1}
	}
	return out, nil
}

func site(t *testing.T, fails bool) *webtest.Site {
	o := webtest.Outside{}
	return webtest.OpenWith(t, ask.Market{Demand: o, Names: map[ask.Question]string{ask.Demand: "the demand service"},
		More: []ask.Source{{Question: ask.Demand, Name: "the other", From: "other.yaml", Micros: 500, Beside: true,
			Client: other{fails}}}}, study.Options{Options: ask.Options{Budget: 1_000_000}})
}

// TestSourcesAreShown: each question says who is asked, or what one does without anybody.
func TestSourcesAreShown(t *testing.T) {
	s := site(t, false)
	webtest.Holds(t, s.Get("/asked"), "the demand service", "the other", "other.yaml", "asked beside", "$0.50", "30 days",
		"Nobody yet. Import or paste results in Gather.", "$0.00 of $1.00", "none yet")
	good := url.Values{"question": {"demand"}, "source": {"the other"}, "about": {"moon"}}
	status, _, body := s.Post("/asked", good, false)
	if status != 200 {
		t.Fatal(status, body)
	}
	webtest.Holds(t, body, "moon: 5000 searches a month", "Not said: moon: single months", `value="moon"`, "just now")
	for field, value := range map[string]string{"source": "nobody", "question": "weather"} {
		v := url.Values{"question": {"demand"}, "source": {"the other"}, "about": {"moon"}}
		v.Set(field, value)
		if status, _, _ := s.Post("/asked", v, false); status != 404 {
			t.Errorf("%s %s: %d", field, value, status)
		}
	}
	lacks := url.Values{"question": {"demand"}, "source": {"the other"}}
	if status, _, body := s.Post("/asked", lacks, false); status != 422 {
		t.Errorf("%d %s", status, body)
	}
	if status, _, body := s.Post("/asked", url.Values{"question": {"site graph"}, "source": {""}}, false); status != 404 {
		t.Errorf("%d %s", status, body)
	}
	failing := site(t, true)
	failing.Get("/asked")
	_, _, body = failing.Post("/asked", good, false)
	webtest.Holds(t, body, "The other refused: &lt;your&gt; key is wrong.", "none yet")
}

// TestTwoThatDisagree are both shown, with how far apart they are.
func TestTwoThatDisagree(t *testing.T) {
	s := site(t, false)
	s.Add("moon chart")
	j, err := s.Study.Gathering.LookUpSearches(context.Background(), s.Niche)
	if err == nil {
		err = s.Study.Jobs.Wait(context.Background(), j.ID)
	}
	if err != nil {
		t.Fatal(err)
	}
	webtest.Holds(t, s.Get("/niches/1/ideas/1"), "The other says 5,000 a month: ", "times as many.")
}
