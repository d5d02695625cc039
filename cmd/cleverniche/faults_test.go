package main

import (
	"context"
	"errors"
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
	source := func(name, path string) market.Source {
		return market.Source{Name: name, Base: base + path, Timeout: 500 * time.Millisecond, Retries: -1}
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
			got, err := market.NewPages(market.PageOptions{Timeout: 500 * time.Millisecond, PerHost: 100, MaxBytes: 1 << 20,
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
	// What no client can notice: a page may end anywhere, say anything, or be empty.
	unnoticed := map[string]bool{"pages truncated": true, "pages malformed": true, "pages empty": true}
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
	for protocol, ask := range asks {
		if _, err := ask(); err != nil {
			t.Errorf("%s without a fault: %v", protocol, err)
		}
	}
}
