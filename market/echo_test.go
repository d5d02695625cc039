package market

import (
	"context"
	"errors"
	"net/http"
	"strings"
	"testing"
)

// TestAnswersToAnotherQuestion are not believed, whoever gives them; those that say what was asked
// are.
func TestAnswersToAnotherQuestion(t *testing.T) {
	ctx := context.Background()
	feed := func(terms string) string {
		return `<feed xmlns="http://www.w3.org/2005/Atom" xmlns:o="http://a9.com/-/spec/opensearch/1.1/">` +
			`<o:totalResults>1</o:totalResults><o:Query role="request" searchTerms="` + terms + `"/>` +
			`<o:Query role="example" searchTerms="x"/></feed>`
	}
	for name, c := range map[string]struct {
		kind, right, wrong string
		ask                func(Source) error
	}{
		"suggestions": {"application/json", `["moon map",["moon map free"]]`, `["",[]]`, func(s Source) error {
			_, err := NewSuggestions(s).Suggest(ctx, "moon map", home)
			return err
		}},
		"demand": {"application/json", `{"results":[{"phrase":"moon map","monthly":[]}]}`,
			`{"results":[{"phrase":"mars map","monthly":[]}]}`, func(s Source) error {
				_, err := NewDemandService(s).Demand(ctx, []string{"moon map"}, home)
				return err
			}},
		"results": {"application/atom+xml", feed("moon map"), feed("mars map"), func(s Source) error {
			_, err := NewResultsService(s, "").Search(ctx, "moon map", home, 10)
			return err
		}},
		"links": {"application/json", `{"target":"http://a.example/","total":0,"links":[]}`,
			`{"target":"http://b.example/","total":0,"links":[]}`, func(s Source) error {
				_, err := NewLinksService(s).Links(ctx, "http://a.example/")
				return err
			}},
	} {
		if err := c.ask(source(serve(t, reply(c.kind, c.right)))); err != nil {
			t.Errorf("%s: %v", name, err)
		}
		err := c.ask(source(serve(t, reply(c.kind, c.wrong))))
		var e *Error
		if !errors.As(err, &e) || e.Trouble != Malformed || !strings.Contains(err.Error(), "another question") {
			t.Errorf("%s about something else: %v", name, err)
		}
	}
	astray := serve(t, func(w http.ResponseWriter, r *http.Request) {
		if r.URL.RawQuery != "" {
			http.Redirect(w, r, "/", http.StatusFound)
			return
		}
		reply("application/atom+xml", `<feed xmlns="http://www.w3.org/2005/Atom"></feed>`)(w, r)
	})
	if _, err := NewResultsService(source(astray), "").Search(ctx, "moon", home, 10); err == nil ||
		!strings.Contains(err.Error(), "got lost on the way") {
		t.Errorf("a redirect that loses the question: %v", err)
	}
}

// TestWhole tells whole pages from those that are empty, no text, or cut short.
func TestWhole(t *testing.T) {
	for body, says := range map[string]string{
		"<html><body>x</body></html>":            "",
		"<!doctype html><HTML><p>x</HTML >\n":    "",
		"<body><p>x</body><!-- made by hand -->": "",
		"<p>a fragment</p>":                      "",
		"\xff\xfe<\x00p\x00":                     "", // UTF-16, whose bytes are half zero
		"":                                       "empty",
		" \n\t":                                  "empty",
		"<html><body>x\x00</body></html>":        "bytes that no text has",
		"<html><body><p>the first half of":       "ends in the middle",
		"<html><body><p>a paragraph</p>":         "ends in the middle",
		"<p>a fragment that":                     "ends in the middle",
		"{\"error\":\"not a page":                "ends in the middle",
	} {
		err := Fetched{URL: "http://a.example/", ContentType: "text/html", Body: []byte(body)}.Whole()
		if (err == nil) != (says == "") || err != nil && !strings.Contains(err.Error(), says) {
			t.Errorf("%q: %v", body, err)
		}
	}
}

// TestChargeOf tells what has to be paid for.
func TestChargeOf(t *testing.T) {
	ctx := context.Background()
	ask := func(h http.HandlerFunc) Charge {
		_, err := NewSuggestions(source(serve(t, h))).Suggest(ctx, "moon", home)
		return ChargeOf(err)
	}
	status := func(code int) http.HandlerFunc {
		return func(w http.ResponseWriter, _ *http.Request) { w.WriteHeader(code) }
	}
	for name, c := range map[string]struct {
		got, want Charge
	}{
		"a refusal":     {ask(status(403)), Free},
		"come later":    {ask(status(429)), Free},
		"out of order":  {ask(status(500)), Free},
		"no JSON":       {ask(reply("application/json", "{")), Due},
		"the wrong one": {ask(reply("application/json", `["mars",[]]`)), Due},
		"it broke off": {ask(func(w http.ResponseWriter, _ *http.Request) {
			w.Header().Set("Content-Length", "100")
			w.Write([]byte("["))
		}), Unsure},
		"it hung up": {ask(func(http.ResponseWriter, *http.Request) { panic(http.ErrAbortHandler) }), Unsure},
	} {
		if c.got != c.want {
			t.Errorf("%s: %d, not %d", name, c.got, c.want)
		}
	}
	gone := serve(t, status(200))
	gone.Close()
	_, err := NewSuggestions(source(gone)).Suggest(ctx, "moon", home)
	if ChargeOf(err) != Free {
		t.Errorf("nobody listens: %v", err)
	}
}

// meter counts tries.
type meter struct{ again int }

func (m *meter) May() bool { return true }
func (m *meter) Again()    { m.again++ }

// TestAPaidQuestionIsNotRepeated by itself where it may have been paid; where it was not, it is.
func TestAPaidQuestionIsNotRepeated(t *testing.T) {
	for name, c := range map[string]struct {
		fail  http.HandlerFunc
		again int
	}{
		"it hung up": {func(http.ResponseWriter, *http.Request) { panic(http.ErrAbortHandler) }, 0},
		"come later": {func(w http.ResponseWriter, _ *http.Request) { w.WriteHeader(503) }, 2},
	} {
		tries := 0
		s := source(serve(t, func(w http.ResponseWriter, r *http.Request) {
			tries++
			c.fail(w, r)
		}))
		s.Retries = 2
		m := &meter{}
		if _, err := NewSuggestions(s).Suggest(WithMeter(context.Background(), m), "moon", home); err == nil {
			t.Error("no error")
		}
		if m.again != c.again || tries != 1+c.again {
			t.Errorf("%s: tried %d times, told of %d more", name, tries, m.again)
		}
	}
}
