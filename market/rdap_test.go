package market

import (
	"context"
	"errors"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
)

// TestRegistered: RFC 7480 §5.3 lets 404 say that there is no such name; the domain has the form
// of the example of RFC 9083 §5.3, shortened.
func TestRegistered(t *testing.T) {
	const domain = `{"rdapConformance":["rdap_level_0"],"objectClassName":"domain","ldhName":"TAKEN.example.",
		"events":[{"eventAction":"registration","eventDate":"1990-12-31T23:59:59Z"},
		{"eventAction":"last changed","eventDate":"1991-12-31T23:59:59Z"}]}`
	s := httptest.NewServer(http.HandlerFunc(func(rw http.ResponseWriter, r *http.Request) {
		name := strings.TrimPrefix(r.URL.Path, "/rdap/domain/")
		kind, status, body := "application/rdap+json", 200, domain
		switch name {
		case "free.example":
			status, body = 404, `{"errorCode":404,"title":"Not Found"}`
		case "portal.example":
			kind, status, body = "text/html", 404, "<h1>Sign in to the hotel's network</h1>"
		case "entity.example":
			body = `{"objectClassName":"entity"}`
		case "cut.example":
			body = `{"objectClassName":"dom`
		case "barred.example":
			status, body = 403, `{"errorCode":403}`
		}
		rw.Header().Set("Content-Type", kind)
		rw.WriteHeader(status)
		rw.Write([]byte(body))
	}))
	defer s.Close()
	c := NewRegistry(Source{Name: "the registry", Base: s.URL + "/rdap", Retries: -1})
	got, err := c.Registered(context.Background(), "taken.example")
	if err != nil || !got.Taken || got.Since.Year() != 1990 {
		t.Errorf("%+v, %v", got, err)
	}
	if got, err = c.Registered(context.Background(), "free.example"); err != nil || got.Taken {
		t.Errorf("%+v, %v", got, err)
	}
	for name, trouble := range map[string]Trouble{"portal.example": Malformed, "entity.example": Malformed,
		"cut.example": Malformed, "barred.example": Refused, "another.example": Malformed} {
		var e *Error
		if _, err := c.Registered(context.Background(), name); !errors.As(err, &e) || e.Trouble != trouble {
			t.Errorf("%s: %v", name, err)
		}
	}
}
