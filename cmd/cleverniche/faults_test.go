package main

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net"
	"net/http"
	"net/http/httptest"
	"slices"
	"strings"
	"testing"
	"time"

	"cleverniche/market"
	"cleverniche/standin"
	"cleverniche/store"
	"cleverniche/study"
	"cleverniche/study/ask"
	"cleverniche/study/input"
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
	// What the engine leans on is learnt from all ideas, so that what befell one moves the chances of the others: what
	// each was judged on is compared instead, result by result.
	undisturbed := judgedOn(t, calm, phrases)
	differs := func() (out []string) {
		is := judgedOn(t, rough, phrases)
		for _, p := range phrases {
			if is[p] != undisturbed[p] {
				out = append(out, p)
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
	for _, p := range differs() {
		unread, _ := got[p]["unread_pages_in_the_top_ten"].(float64)
		if unread == 0 && got[p]["difficulty"] != nil {
			t.Errorf("%s is judged otherwise, and does not say why: %v, and undisturbed %v", p, got[p], want[p])
		}
	}
	for _, p := range phrases { // of what follows from it alone the same holds
		for _, key := range []string{"intent", "footholds"} {
			unread, _ := got[p]["unread_pages_in_the_top_ten"].(float64)
			if unread == 0 && got[p]["difficulty"] != nil && fmt.Sprint(got[p][key]) != fmt.Sprint(want[p][key]) {
				t.Errorf("%s: its %s are %v, undisturbed %v", p, key, got[p][key], want[p][key])
			}
		}
	}
	t.Logf("of %d ideas %d were judged as without faults, %d say that they were not", len(phrases), same, told)
	if told == 0 || same == 0 {
		t.Error("the faults befell nothing, or everything")
	}
	req, _ := http.NewRequest("DELETE", base+"/lab/faults", nil)
	http.DefaultClient.Do(req)
	judge(rough)
	if other := differs(); len(other) > 0 {
		t.Errorf("asked again without faults, these differ still: %v", other)
	}
}

// judgedOn is what each of some phrases was judged on, result by result, in a line; "" of one that was not.
func judgedOn(t *testing.T, flags, phrases []string) map[string]string {
	t.Helper()
	st, err := store.Open(flags[slices.Index(flags, "--data")+1], time.Now)
	if err != nil {
		t.Fatal(err)
	}
	defer st.Close()
	s := study.New(st, ask.Market{}, study.Options{})
	defer s.Close()
	ctx := context.Background()
	n, err := s.Niches.Named(ctx, "Sky")
	if err != nil {
		t.Fatal(err)
	}
	b, err := s.Ideas.Table(ctx, n)
	if err != nil {
		t.Fatal(err)
	}
	out := map[string]string{}
	for _, p := range phrases {
		ids := b.Named(p)
		if len(ids) == 0 {
			continue
		}
		ev, err := s.Results.Evidence(ctx, n, ids[0])
		if errors.Is(err, input.ErrNotFound) {
			continue
		}
		if err != nil {
			t.Fatal(err)
		}
		for _, e := range ev.Reading.Entries {
			out[p] += fmt.Sprintf("%d %s %s %s, page %.2f, site %.2f, fit %.2f, foothold %v; ", e.Position, e.URL, e.Type,
				e.Kind, e.PageStanding, e.SiteStanding, e.Fit.Total, e.Foothold)
		}
	}
	return out
}
