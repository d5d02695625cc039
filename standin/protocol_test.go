package standin

import (
	"context"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"

	"github.com/getkin/kin-openapi/openapi3"
	"github.com/getkin/kin-openapi/openapi3filter"
	"github.com/getkin/kin-openapi/routers/gorillamux"
)

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
			rec := httptest.NewRecorder()
			grown().Handler(Options{}).ServeHTTP(rec, request())
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
