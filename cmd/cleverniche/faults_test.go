package main

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"net"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"cleverniche/market"
	"cleverniche/standin"
)

// TestClientsUnderFaults sets every fault of the stand-in on every protocol, and
// has the real client ask: it says in good time what went wrong, with the source's
// name in it, and never gives half an answer for a whole one.
func TestClientsUnderFaults(t *testing.T) {
	t.Parallel()
	plain, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	listener, err := standin.EitherWay(plain)
	if err != nil {
		t.Fatal(err)
	}
	s := httptest.NewUnstartedServer(world().Handler(standin.Options{}))
	s.Listener.Close()
	s.Listener = listener
	s.Start()
	t.Cleanup(s.Close)
	base := "http://" + plain.Addr().String()
	ctx := context.Background()
	here := market.Locale{Country: "US", Language: "en"}
	patience := 500 * time.Millisecond
	source := func(name, path string) market.Source {
		return market.Source{Name: name, Base: base + path, Timeout: patience, Retries: -1}
	}
	asks := map[string]func() (any, error){
		"suggest": func() (any, error) {
			return market.NewSuggestions(source("suggestions", "/suggest")).Suggest(ctx, "telescope", here)
		},
		"demand": func() (any, error) {
			got, err := market.NewDemandService(source("demand", "/demand")).Demand(ctx, []string{"telescope"}, here)
			return len(got), err
		},
		"search": func() (any, error) {
			got, err := market.NewResultsService(source("results", "/search"), "harbor").Search(ctx, "telescope", here, 10)
			return len(got.Organic), err
		},
		"links": func() (any, error) {
			got, err := market.NewLinksService(source("links", "/links")).Graph(ctx)
			return len(got.Edges), err
		},
		"pages": func() (any, error) {
			got, err := market.NewPages(market.PageOptions{Timeout: patience, PerHost: 100, MaxBytes: 1 << 20,
				Reach: map[string]string{".example": plain.Addr().String()}}).Fetch(ctx, "http://nightporch.example/")
			return len(got.Body), err
		},
	}
	switching := func(method, text string) {
		t.Helper()
		req, err := http.NewRequest(method, base+"/lab/faults", strings.NewReader(text))
		if err != nil {
			t.Fatal(err)
		}
		res, err := http.DefaultClient.Do(req)
		if err != nil || res.StatusCode >= 300 {
			t.Fatalf("%s %s: %v, %v", method, text, res, err)
		}
		res.Body.Close()
	}
	// What asks nothing in its address is not led astray.
	unnoticed := map[string]bool{"pages stray": true, "links stray": true, "demand stray": true}
	for kind := range standin.FaultKinds {
		for protocol, ask := range asks {
			t.Run(protocol+" "+kind, func(t *testing.T) {
				switching("POST", `{"where":"`+protocol+`","kind":"`+kind+`","seconds":5}`)
				defer switching("DELETE", "")
				begun := time.Now()
				got, err := ask()
				if took := time.Since(begun); took > 4*time.Second {
					t.Errorf("it took %v", took)
				}
				var e *market.Error
				if unnoticed[protocol+" "+kind] {
					return
				}
				if !errors.As(err, &e) || e.Source == "" || !strings.Contains(err.Error(), e.Source) {
					t.Errorf("answer %v, error %v", got, err)
				}
			})
		}
	}
	patience = 30 * time.Second // a busy machine may take its time
	for protocol, ask := range asks {
		if _, err := ask(); err != nil {
			t.Errorf("%s without a fault: %v", protocol, err)
		}
	}
}

// TestDisturbedAgreesOrSaysSo judges the same phrases undisturbed, and while every twentieth page and
// every seventh answer is spoilt, so that about half of the phrases are touched whatever the order is: whatever was
// judged is the same, or says how many of its pages
// were not read; and asked again without faults, all of it is the same.
func TestDisturbedAgreesOrSaysSo(t *testing.T) {
	phrases := []string{"can you see saturn with binoculars", "telescope for beginners", "best telescope for planets",
		"how to find jupiter", "telescope for kids", "moon filter", "star tracker", "what magnification to see saturn",
		"astronomy binoculars", "telescope mount", "how to find the pleiades", "best telescope for deep sky objects",
		"used star tracker for sale", "how to find planets in the night sky", "what is a telescope used for",
		"best telescope for beginners"}
	read := func(flags []string) map[string]map[string]any {
		out, _, _ := run(flags, "", "export", "--show", "all", "--format", "json")
		var list []map[string]any
		if err := json.Unmarshal([]byte(out), &list); err != nil {
			t.Fatal(err)
		}
		by := map[string]map[string]any{}
		for _, one := range list {
			by[fmt.Sprint(one["phrase"])] = one
		}
		return by
	}
	judge := func(flags []string, more ...string) {
		t.Helper()
		_, progress, code := run(flags, "", append(append([]string{"judge"}, more...), phrases...)...)
		if code != 0 && code != exitPartly {
			t.Fatalf("code %d: %s", code, progress)
		}
	}
	begin := func() ([]string, string) {
		flags := outside(t)
		run(flags, "", "niche", "Sky", "--site", "nightporch.example")
		for i, f := range flags {
			if rest, ok := strings.CutPrefix(f, "--results="); ok {
				return flags, strings.TrimSuffix(rest, "/search")
			} else if f == "--results" {
				return flags, strings.TrimSuffix(flags[i+1], "/search")
			}
		}
		t.Fatal("there is no results service")
		return nil, ""
	}
	calm, _ := begin()
	judge(calm)
	want := read(calm)

	rough, base := begin()
	for _, fault := range []string{`{"where":"pages","kind":"truncated","share":0.012}`,
		`{"where":"pages","kind":"empty","share":0.012}`, `{"where":"pages","kind":"malformed","share":0.012}`,
		`{"where":"pages","kind":"cut","share":0.012}`, `{"where":"links","kind":"malformed","share":0.01}`,
		`{"where":"search","kind":"stray","share":0.14}`} {
		res, err := http.Post(base+"/lab/faults", "application/json", strings.NewReader(fault))
		if err != nil || res.StatusCode != 201 {
			t.Fatal(fault, res, err)
		}
	}
	judge(rough)
	told, same := 0, 0
	differs := func(got map[string]map[string]any) (out []string) {
		for _, p := range phrases {
			// What the engine leans on is learnt from all, so that what befell one moves the chances of the others a little.
			for key, by := range map[string]float64{"difficulty": 6, "page_one_chance": 0.1, "intent": 0, "footholds": 0} {
				is, number := got[p][key].(float64)
				was, _ := want[p][key].(float64)
				if number && math.Abs(is-was) > by || !number && fmt.Sprint(got[p][key]) != fmt.Sprint(want[p][key]) {
					out = append(out, p)
					break
				}
			}
		}
		return out
	}
	got := read(rough)
	for _, p := range phrases {
		unread, _ := got[p]["unread_pages_in_the_top_ten"].(float64)
		if unread > 0 || got[p]["difficulty"] == nil {
			told++
		} else {
			same++
		}
	}
	for _, p := range differs(got) {
		unread, _ := got[p]["unread_pages_in_the_top_ten"].(float64)
		if unread == 0 && got[p]["difficulty"] != nil {
			t.Errorf("%s is judged otherwise, and does not say why", p)
		}
	}
	t.Logf("of %d ideas %d were judged as without faults, %d say that they were not", len(phrases), same, told)
	if told == 0 || same == 0 {
		t.Error("the faults befell nothing, or everything")
	}
	req, _ := http.NewRequest("DELETE", base+"/lab/faults", nil)
	http.DefaultClient.Do(req)
	judge(rough)
	if other := differs(read(rough)); len(other) > 0 {
		t.Errorf("asked again without faults, these differ still: %v", other)
	}
}
