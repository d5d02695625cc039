package market

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"net/netip"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"cleverniche/core/demand"
)

func serve(t *testing.T, h http.HandlerFunc) *httptest.Server {
	s := httptest.NewServer(h)
	t.Cleanup(s.Close)
	return s
}

func source(s *httptest.Server) Source {
	return Source{Name: "the test source", Base: s.URL, Retries: -1, Timeout: 2 * time.Second, MaxBytes: 4096}
}

var home = Locale{"US", "en"}

func reply(kind, body string) http.HandlerFunc {
	return func(w http.ResponseWriter, _ *http.Request) {
		w.Header().Set("Content-Type", kind)
		io.WriteString(w, body)
	}
}

// TestTroubles asks the suggestion client, as one of all, of sources that fail in
// every way: the error says which source and what kind of failure.
func TestTroubles(t *testing.T) {
	for _, c := range []struct {
		name    string
		handler http.HandlerFunc
		trouble Trouble
		says    string
	}{
		{"server error", func(w http.ResponseWriter, _ *http.Request) { w.WriteHeader(500) }, Unreachable, "500"},
		{"too many requests", func(w http.ResponseWriter, _ *http.Request) { w.WriteHeader(429) }, Unreachable, "429"},
		{"refusal with a reason", func(w http.ResponseWriter, _ *http.Request) {
			w.WriteHeader(403)
			io.WriteString(w, `{"detail":"the key is wrong"}`)
		}, Refused, "the key is wrong"},
		{"wrong type", reply("text/html", `["q",[]]`), Malformed, "text/html"},
		{"no JSON", reply("application/json", `["q",["a"`), Malformed, "cannot be read"},
		{"JSON of another shape", reply("application/json", `{"q":1}`), Malformed, "cannot be read"},
		{"no completions", reply("application/json", `["q"]`), Malformed, "no completions"},
		{"a body that never ends", func(w http.ResponseWriter, r *http.Request) {
			w.Header().Set("Content-Type", "application/json")
			for r.Context().Err() == nil {
				if _, err := io.WriteString(w, strings.Repeat("x", 1024)); err != nil {
					return
				}
			}
		}, Malformed, "longer than 4096"},
		{"cut off", func(w http.ResponseWriter, _ *http.Request) {
			w.Header().Set("Content-Length", "1000")
			io.WriteString(w, `["q",`)
		}, Unreachable, "broke off"},
		{"silence", func(w http.ResponseWriter, r *http.Request) {
			select {
			case <-r.Context().Done():
			case <-time.After(3 * time.Second):
			}
		}, Unreachable, "no answer in time"},
	} {
		t.Run(c.name, func(t *testing.T) {
			s := source(serve(t, c.handler))
			if c.name == "silence" {
				s.Timeout = 50 * time.Millisecond
			}
			_, err := NewSuggestions(s).Suggest(context.Background(), "q", home)
			var e *Error
			if !errors.As(err, &e) || e.Trouble != c.trouble {
				t.Fatalf("error %v, want trouble %d", err, c.trouble)
			}
			if !strings.Contains(err.Error(), c.says) || !strings.Contains(err.Error(), "the test source") {
				t.Errorf("it says: %v", err)
			}
		})
	}
	gone := serve(t, nil)
	s := source(gone)
	gone.Close()
	if _, err := NewSuggestions(s).Suggest(context.Background(), "q", home); !IsUnreachable(err) ||
		!strings.Contains(err.Error(), "nothing is running") {
		t.Errorf("a source that is not there: %v", err)
	}
}

func TestRetryHonoursRetryAfter(t *testing.T) {
	t.Parallel()
	var asked atomic.Int32
	var first, second time.Time
	s := source(serve(t, func(w http.ResponseWriter, r *http.Request) {
		if asked.Add(1) == 1 {
			first = time.Now()
			w.Header().Set("Retry-After", "1")
			w.WriteHeader(503)
			return
		}
		second = time.Now()
		reply("application/json", `["q",["a","b"]]`)(w, r)
	}))
	s.Retries = 2
	got, err := NewSuggestions(s).Suggest(context.Background(), "q", home)
	if err != nil || len(got) != 2 {
		t.Fatalf("after a retry: %v, %v", got, err)
	}
	if second.Sub(first) < time.Second {
		t.Errorf("asked again after %v, before Retry-After", second.Sub(first))
	}
}

func TestBreakerLeavesAFailingSourceAlone(t *testing.T) {
	var asked atomic.Int32
	s := source(serve(t, func(w http.ResponseWriter, _ *http.Request) { asked.Add(1); w.WriteHeader(500) }))
	c := NewSuggestions(s)
	for range breakAfter + 4 {
		if _, err := c.Suggest(context.Background(), "q", home); !IsUnreachable(err) {
			t.Fatalf("error %v", err)
		}
	}
	if asked.Load() != breakAfter {
		t.Errorf("a source that failed %d times was asked %d times", breakAfter, asked.Load())
	}
}

func TestCancelledIsNotUnreachable(t *testing.T) {
	ctx, cancel := context.WithCancel(context.Background())
	s := source(serve(t, func(_ http.ResponseWriter, r *http.Request) { cancel(); <-r.Context().Done() }))
	if _, err := NewSuggestions(s).Suggest(ctx, "q", home); !errors.Is(err, context.Canceled) || IsUnreachable(err) {
		t.Errorf("a cancelled question: %v", err)
	}
}

func TestDemand(t *testing.T) {
	c := NewDemandService(source(serve(t, reply("application/json", `{"results":[
		{"phrase":"a","monthly":[{"month":"2026-01","count":30},
		{"month":"2026-02","under":10}],
		"cpc":{"micros":470000,"currency":"USD"},"competition":0.4,"phrase_match":90,"broad_match":900},
		{"phrase":"b","monthly":[]}]}`))))
	got, err := c.Demand(context.Background(), []string{"a", "b"}, home)
	if err != nil {
		t.Fatal(err)
	}
	a := got["a"]
	if len(a.Counts) != 2 || !a.Counts[1].Under || a.CPC != (demand.Cost{Micros: 470000, Currency: "USD"}) ||
		a.Competition != 0.4 {
		t.Errorf("a: %+v", a)
	}
	if b := got["b"]; b.CPC.Known() || b.Competition >= 0 {
		t.Errorf("what is not said is not unknown: %+v", b)
	}
	bad := NewDemandService(source(serve(t, reply("application/json",
		`{"results":[{"phrase":"a","monthly":[{"month":"Jan","count":3}]}]}`))))
	if _, err := bad.Demand(context.Background(), []string{"a"}, home); err == nil ||
		!strings.Contains(err.Error(), `"Jan"`) {
		t.Errorf("a bad month: %v", err)
	}
}

const feed = `<?xml version="1.0"?><feed xmlns="http://www.w3.org/2005/Atom"
xmlns:os="http://a9.com/-/spec/opensearch/1.1/" xmlns:r="urn:cleverniche:results">
<os:totalResults>1234</os:totalResults><r:ad><r:advertiser>Shop</r:advertiser><r:title>One, cheap</r:title>
<r:text>Sent today.</r:text>
<r:url>http://shop.example/</r:url></r:ad>
<r:ad above="1"/><r:shoppingRow above="1"><r:offer><r:name>A lens</r:name><r:seller>Shop</r:seller>
<r:price>9.90</r:price><r:currency>USD</r:currency></r:offer></r:shoppingRow>
<r:relatedQuestion above="4">is it?</r:relatedQuestion>
<author><name>lantern</name></author>
<entry><title>One &amp; only</title>
<link rel="alternate" href="http://one.example/a"/>
<summary>s</summary></entry>
<entry><title>Two</title><link href="%s"/></entry></feed>`

func TestResults(t *testing.T) {
	good := NewResultsService(source(serve(t, reply("application/atom+xml; charset=utf-8",
		fmt.Sprintf(feed, "https://two.example/b")))), "x")
	got, err := good.Search(context.Background(), "q", home, 10)
	if err != nil {
		t.Fatal(err)
	}
	if got.Total != 1234 || got.Ads != 2 ||
		got.Copy[0] != (Ad{"Shop", "One, cheap", "Sent today.", "http://shop.example/", 0}) || !got.ShoppingRow ||
		got.AnswerBox || len(got.Related) != 1 || len(got.Organic) != 2 || got.Organic[0].Title != "One & only" ||
		got.Organic[1].Position != 2 || got.Copy[1].Above != 1 || got.ShopAbove != 1 || got.RelatedAbove != 4 ||
		len(got.Offers) != 1 || got.Offers[0] != (Offer{"A lens", "Shop", "9.90", "USD"}) || got.Related[0] != "is it?" {
		t.Errorf("%+v", got)
	}
	// Who was asked by name is that; otherwise it is who says to have answered.
	for asked, want := range map[string]string{"x": "x", "": "lantern"} {
		if got, err := NewResultsService(Source{},
			asked).Read([]byte(fmt.Sprintf(feed, "https://two.example/b"))); err != nil || got.Engine != want {
			t.Errorf("asked for %q, answered by %q, %v", asked, got.Engine, err)
		}
	}
	bad := NewResultsService(source(serve(t, reply("application/atom+xml", fmt.Sprintf(feed, "javascript:alert(1)")))),
		"x")
	if _, err := bad.Search(context.Background(), "q", home, 10); err == nil {
		t.Error("a result without a web address is taken")
	}
}

func TestReadGraph(t *testing.T) {
	g, err := ReadGraph([]byte("10\ta.example\n20\tb.example\n"), []byte("10\t20\n"))
	if err != nil || len(g.Names) != 2 || g.Edges[0].To != 1 {
		t.Errorf("%+v, %v", g, err)
	}
	if _, err := ReadGraph([]byte("10\ta.example\n"), []byte("10\t99\n")); err == nil ||
		!strings.Contains(err.Error(), "line 1 of the edges") {
		t.Errorf("an edge to nowhere: %v", err)
	}
}

func TestPublicAddresses(t *testing.T) {
	for address, want := range map[string]bool{"8.8.8.8": true, "2606:4700::1111": true, "127.0.0.1": false,
		"10.1.2.3": false, "172.16.0.1": false,
		"192.168.1.1": false, "169.254.169.254": false, "0.0.0.0": false, "100.64.0.1": false, "::1": false,
		"fe80::1": false, "fd00::1": false,
		"::ffff:127.0.0.1": false, "64:ff9b::7f00:1": false, "224.0.0.1": false, "192.0.2.1": false,
		"255.255.255.255": false} {
		if got := Public(netip.MustParseAddr(address)); got != want {
			t.Errorf("Public(%s) = %v", address, got)
		}
	}
}

func pagesAt(s *httptest.Server, o PageOptions) *Pages {
	o.Reach = map[string]string{".example": strings.TrimPrefix(s.URL, "http://")}
	o.PerHost = 1000
	return NewPages(o)
}

func TestPagesRefusePrivateAddresses(t *testing.T) {
	inside := serve(t, reply("text/html", "secret"))
	outside := serve(t, func(w http.ResponseWriter, r *http.Request) {
		if r.URL.Path == "/robots.txt" {
			w.WriteHeader(404)
			return
		}
		http.Redirect(w, r, inside.URL+"/secret", http.StatusFound)
	})
	p := pagesAt(outside, PageOptions{})
	for _, address := range []string{inside.URL, strings.Replace(inside.URL, "127.0.0.1", "localhost", 1),
		"http://a.example/redirects-inside"} {
		if f, err := p.Fetch(context.Background(), address); err == nil ||
			!strings.Contains(err.Error(), ErrPrivate.Error()) {
			t.Errorf("%s: got %q, error %v", address, f.Body, err)
		}
	}
	for _, address := range []string{"", "file:///etc/passwd", "http://", "javascript:1"} {
		if _, err := p.Fetch(context.Background(), address); err == nil {
			t.Errorf("%q was fetched", address)
		}
	}
}

func TestPagesFetch(t *testing.T) {
	var robots atomic.Int32
	s := serve(t, func(w http.ResponseWriter, r *http.Request) {
		switch {
		case r.URL.Path == "/robots.txt" && r.Host == "down.example":
			w.WriteHeader(503)
		case r.URL.Path == "/robots.txt":
			robots.Add(1)
			io.WriteString(w, "User-agent: *\nDisallow: /private\n")
		case r.URL.Path == "/loop":
			http.Redirect(w, r, "/loop", http.StatusFound)
		case r.URL.Path == "/file":
			reply("application/pdf", "%PDF")(w, r)
		case r.URL.Path == "/huge":
			reply("text/html", strings.Repeat("x", 5000))(w, r)
		case r.URL.Path == "/old":
			http.Redirect(w, r, "/new", http.StatusMovedPermanently)
		default:
			reply("text/html", "<title>"+r.URL.Path+"</title>")(w, r)
		}
	})
	p := pagesAt(s, PageOptions{MaxBytes: 4096})
	f, err := p.Fetch(context.Background(), "http://a.example/old")
	if err != nil || f.URL != "http://a.example/new" || string(f.Body) != "<title>/new</title>" {
		t.Errorf("a moved page: %+v, %v", f, err)
	}
	for path, says := range map[string]string{"/private/x": "robots.txt", "/loop": "redirects more than",
		"/file": "no web page", "/huge": "longer than"} {
		if _, err := p.Fetch(context.Background(), "http://a.example"+path); err == nil ||
			!strings.Contains(err.Error(), says) {
			t.Errorf("%s: %v", path, err)
		}
	}
	if robots.Load() != 1 {
		t.Errorf("robots.txt was asked for %d times", robots.Load())
	}
	if _, err := p.Fetch(context.Background(), "http://down.example/x"); err == nil {
		t.Error("a host whose robots.txt fails was fetched (RFC 9309 §2.3.1.4)")
	}
}
