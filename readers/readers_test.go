// Package readers lets readers that others wrote read what the stand-in says, and validators what is documented. It is
// a module of its own, so that what only tests need is no part of the product.
package readers

import (
	"bytes"
	"context"
	"fmt"
	"net/http"
	"net/http/httptest"
	"net/url"
	"regexp"
	"strings"
	"sync"
	"testing"
	"time"

	"cleverniche/core/watch"
	"cleverniche/market"
	"cleverniche/standin"

	readability "codeberg.org/readeck/go-readability/v2"

	"github.com/getkin/kin-openapi/openapi3"
	"github.com/getkin/kin-openapi/openapi3filter"
	"github.com/getkin/kin-openapi/routers/gorillamux"
	"github.com/mmcdole/gofeed"
	"github.com/openrdap/rdap"
)

// world answers as the stand-in does, on one day.
var world = sync.OnceValue(func() http.Handler {
	scenarios, err := standin.Scenarios()
	if err != nil {
		panic(err)
	}
	day := time.Date(2026, 11, 23, 0, 0, 0, 0, time.UTC)
	return standin.Grow(1, scenarios, day).Handler(standin.Options{})
})

func ask(t *testing.T, r *http.Request) *httptest.ResponseRecorder {
	t.Helper()
	rec := httptest.NewRecorder()
	world().ServeHTTP(rec, r)
	return rec
}

func search(t *testing.T, query string) *gofeed.Feed {
	t.Helper()
	r := httptest.NewRequest("GET", "/search?"+query, nil)
	r.Host = "127.0.0.1"
	feed, err := gofeed.NewParser().ParseString(ask(t, r).Body.String())
	if err != nil {
		t.Fatalf("%s: %v", query, err)
	}
	return feed
}

// TestResultsAreAtom: gofeed reads the results as Atom (RFC 4287).
func TestResultsAreAtom(t *testing.T) {
	feed := search(t, "count=20&q=best+telescope")
	if feed.FeedType != "atom" || feed.Title == "" || feed.UpdatedParsed == nil || len(feed.Authors) != 1 ||
		!strings.HasPrefix(feed.FeedLink, "http://") {
		t.Errorf("as a feed: %+v", feed)
	}
	if len(feed.Items) != 20 {
		t.Fatalf("%d results", len(feed.Items))
	}
	seen := map[string]bool{}
	for _, item := range feed.Items {
		if item.GUID == "" || seen[item.GUID] || item.Title == "" || item.UpdatedParsed == nil ||
			!strings.HasPrefix(item.Link, "http://") {
			t.Errorf("as an entry: %+v", item)
		}
		seen[item.GUID] = true
	}
}

// TestResultsGoAHundredDeep, page by page as well as at once.
func TestResultsGoAHundredDeep(t *testing.T) {
	whole := search(t, "count=100&q=best+telescope")
	var paged []string
	for start := 1; start <= 100; start += 25 {
		for _, item := range search(t, fmt.Sprintf("count=25&start=%d&q=best+telescope", start)).Items {
			paged = append(paged, item.Link)
		}
	}
	if len(whole.Items) != 100 || len(paged) != 100 {
		t.Fatalf("%d at once, %d in pages", len(whole.Items), len(paged))
	}
	for i, item := range whole.Items {
		if paged[i] != item.Link {
			t.Fatalf("result %d is %s and %s", i+1, item.Link, paged[i])
		}
	}
}

// TestRegistry lets openrdap's client ask who has a name.
func TestRegistry(t *testing.T) {
	s := httptest.NewServer(world())
	defer s.Close()
	base, err := url.Parse(s.URL + "/rdap/")
	if err != nil {
		t.Fatal(err)
	}
	asked := func(name string) (*rdap.Response, error) {
		return (&rdap.Client{}).Do(rdap.NewDomainRequest(name).WithServer(base))
	}
	res, err := asked("nightporch.example")
	if err != nil {
		t.Fatal(err)
	}
	d, ok := res.Object.(*rdap.Domain)
	if !ok || d.LDHName != "nightporch.example" || len(d.Nameservers) != 2 || len(d.Entities) != 1 || d.DecodeData == nil {
		t.Fatalf("%+v", res.Object)
	}
	if d.Entities[0].VCard == nil || d.Entities[0].VCard.Name() != "Invented Names" {
		t.Errorf("the registrar is %+v", d.Entities[0].VCard)
	}
	_, err = asked("surely-nobody-has-this-name-yet.example")
	if e, ok := err.(*rdap.ClientError); !ok || e.Type != rdap.ObjectDoesNotExist {
		t.Errorf("a free name: %v", err)
	}
}

// TestProtocolDocuments lets kin-openapi validate the documents, and what the
// stand-in answers against them.
func TestProtocolDocuments(t *testing.T) {
	for _, c := range []struct {
		document, base, method, path, body string
		status                             int
	}{
		{"demand", "/demand", "POST", "/v1/phrases",
			`{"phrases":["best telescope for beginners","never typed"],"country":"US","language":"en","months":48}`, 200},
		{"demand", "/demand", "POST", "/v1/phrases", `{"phrases":[`, 400},
		{"links", "/links", "GET", "/v1/page?url=http%3A%2F%2Fnightporch.example%2F", "", 200},
		{"links", "/links", "GET", "/v1/page?url=nothing", "", 400},
		{"links", "/links", "GET", "/v1/graph/vertices", "", 200},
		{"links", "/links", "GET", "/v1/graph/edges", "", 200},
		{"links", "/links", "GET", "/v1/pages/vertices", "", 200},
		{"links", "/links", "GET", "/v1/pages/edges", "", 200},
		{"rankings", "/rankings", "GET", "/v1/phrases?target=nightporch.example&scope=site&place_to=50&limit=20", "", 200},
		{"rankings", "/rankings", "GET", "/v1/phrases?target=nobody.example&scope=host", "", 200},
		{"rankings", "/rankings", "GET", "/v1/phrases?target=nothing&scope=page", "", 400},
		{"rankings", "/rankings", "GET", "/v1/phrases?target=nightporch.example&scope=site&engine=none", "", 404},
		{"rankings", "/rankings", "GET", "/v1/sites?target=nightporch.example&scope=site&country=GB&language=en", "", 200},
		{"rankings", "/rankings", "GET", "/v1/pages?target=nightporch.example&scope=site&offset=1", "", 200},
		{"rankings", "/rankings", "GET", "/v1/months?target=nightporch.example&scope=site", "", 200},
		{"rankings", "/rankings", "GET", "/v1/countries?target=nightporch.example&scope=site", "", 200},
		{"rankings", "/rankings", "GET", "/v1/ads?target=nightporch.example&scope=site", "", 200},
	} {
		t.Run(c.method+c.path, func(t *testing.T) {
			doc, err := openapi3.NewLoader().LoadFromFile("../docs/" + c.document + ".openapi.yaml")
			if err != nil {
				t.Fatal(err)
			}
			if err := doc.Validate(context.Background()); err != nil {
				t.Fatal(err)
			}
			router, err := gorillamux.NewRouter(doc)
			if err != nil {
				t.Fatal(err)
			}
			request := func() *http.Request {
				r := httptest.NewRequest(c.method, "http://127.0.0.1:8571"+c.base+c.path, strings.NewReader(c.body))
				r.Header.Set("Content-Type", "application/json")
				return r
			}
			route, params, err := router.FindRoute(request())
			if err != nil {
				t.Fatal(err)
			}
			in := &openapi3filter.RequestValidationInput{Request: request(), Route: route, PathParams: params,
				Options: &openapi3filter.Options{AuthenticationFunc: openapi3filter.NoopAuthenticationFunc}}
			if err := openapi3filter.ValidateRequest(context.Background(), in); c.status == 200 && err != nil {
				t.Error("the request: ", err)
			}
			rec := ask(t, request())
			if rec.Code != c.status {
				t.Errorf("status %d", rec.Code)
			}
			answer := &openapi3filter.ResponseValidationInput{RequestValidationInput: in, Status: rec.Code, Header: rec.Header()}
			answer.SetBodyBytes(rec.Body.Bytes())
			if err := openapi3filter.ValidateResponse(context.Background(), answer); err != nil {
				t.Error("the answer: ", err)
			}
		})
	}
}

// TestReadingCopyAgainstAnotherExtractor: of the pages of the stand-in's results, the words of our reading copy are
// those that an extractor of others (go-readability) finds, too.
func TestReadingCopyAgainstAnotherExtractor(t *testing.T) {
	words := regexp.MustCompile(`[\pL\pN]+`)
	bag := func(text string) (map[string]int, int) {
		out, n := map[string]int{}, 0
		for _, w := range words.FindAllString(strings.ToLower(text), -1) {
			out[w]++
			n++
		}
		return out, n
	}
	sum, pages := 0.0, 0
	for _, phrase := range []string{"best+telescope", "how+to+find+saturn", "mozzarella+without+microwave",
		"ink+for+fabric"} {
		for _, item := range search(t, "count=10&q="+phrase).Items {
			u, err := url.Parse(item.Link)
			if err != nil {
				t.Fatal(err)
			}
			r := httptest.NewRequest("GET", item.Link, nil)
			r.Host = u.Host
			rec := ask(t, r)
			kind := rec.Header().Get("Content-Type")
			if rec.Code != http.StatusOK || !strings.Contains(strings.ToLower(kind), "utf-8") {
				continue // moved, broken, or of an old encoding
			}
			theirs, err := readability.FromReader(bytes.NewReader(rec.Body.Bytes()), u)
			if err != nil {
				continue
			}
			ours, err := market.ReadingCopy(market.Fetched{URL: item.Link, ContentType: kind, Body: rec.Body.Bytes()},
				func(string) bool { return false })
			if err != nil {
				t.Fatal(err)
			}
			var text bytes.Buffer
			theirs.RenderText(&text)
			a, n := bag(string(regexp.MustCompile("<[^>]*>").ReplaceAllString(string(ours.HTML), " ")))
			b, m := bag(text.String())
			if n == 0 || m == 0 {
				continue
			}
			both := 0
			for w := range a {
				both += min(a[w], b[w])
			}
			f := 2 * float64(both) / float64(n+m)
			sum += f
			pages++
		}
	}
	if mean := sum / float64(pages); pages < 20 || mean < 0.8 {
		t.Errorf("%d pages, F1 of words %.3f", pages, mean)
	} else {
		t.Logf("%d pages, F1 of words %.3f", pages, mean)
	}
}

// TestDigestIsAtom: gofeed reads what to do in a week as Atom (RFC 4287).
func TestDigestIsAtom(t *testing.T) {
	var b strings.Builder
	d := watch.Digest{Title: "This week: Sky", Self: "http://127.0.0.1/feed", Page: "http://127.0.0.1/watch",
		List: []watch.ToDo{{What: "Write “a < b & c”.", Why: "4 hours.", Href: "http://127.0.0.1/briefs/1"},
			{What: "Check.", Why: "Never checked.", Href: "http://127.0.0.1/watch#strips"}}}
	if err := d.Write(&b, time.Date(2026, 3, 5, 0, 0, 0, 0, time.UTC)); err != nil {
		t.Fatal(err)
	}
	feed, err := gofeed.NewParser().ParseString(b.String())
	if err != nil {
		t.Fatal(err)
	}
	if feed.FeedType != "atom" || feed.Title != d.Title || feed.FeedLink != d.Self || feed.Link != d.Page ||
		len(feed.Authors) != 1 || feed.UpdatedParsed == nil || len(feed.Items) != 2 {
		t.Errorf("%+v", feed)
	}
	if one := feed.Items[0]; one.Title != d.List[0].What || one.Content != d.List[0].Why || one.Link != d.List[0].Href ||
		one.GUID == feed.Items[1].GUID || one.UpdatedParsed == nil {
		t.Errorf("%+v", one)
	}
}
