package market

import (
	"context"
	"encoding/json"
	"errors"
	"net/url"
	"strings"
	"time"
)

// Registrar answers: is this domain name registered, and since when?
type Registrar interface {
	Registered(ctx context.Context, domain string) (Registration, error)
}

// Registration is what a registry says of a name.
type Registration struct {
	Taken bool      `json:"taken"`
	Since time.Time `json:"since"` // zero where it does not say
}

// Registry asks by RDAP: RFC 9082 for the question, RFC 9083 for the answer. A name
// that is not found is free (RFC 7480 §5.3).
type Registry struct{ *caller }

// NewRegistry returns a client for the source.
func NewRegistry(s Source) Registry {
	c := newCaller(s, nil)
	c.missing = true
	return Registry{c}
}

// Registered implements Registrar.
func (c Registry) Registered(ctx context.Context, domain string) (Registration, error) {
	a, err := c.get(ctx, "/domain/"+url.PathEscape(domain), nil, "application/rdap+json")
	if err != nil {
		return Registration{}, err
	}
	if err := c.wantType(a, "application/rdap+json", "application/json"); err != nil {
		return Registration{}, err // the page of somebody in between says nothing of a name
	}
	if a.missing {
		return Registration{}, nil
	}
	var ans struct {
		Class  string `json:"objectClassName"`
		Name   string `json:"ldhName"`
		Events []struct {
			Action string `json:"eventAction"`
			Date   string `json:"eventDate"`
		} `json:"events"`
	}
	if err := json.Unmarshal(a.body, &ans); err != nil {
		return Registration{}, c.fail(Malformed, err)
	}
	switch {
	case ans.Class != "domain":
		return Registration{}, c.fail(Malformed, errors.New("it is about no domain"))
	case !strings.EqualFold(strings.TrimSuffix(ans.Name, "."), domain):
		return Registration{}, c.fail(Malformed, errors.New("it is about another domain"))
	}
	out := Registration{Taken: true}
	for _, e := range ans.Events {
		if e.Action == "registration" {
			out.Since, _ = time.Parse(time.RFC3339, e.Date)
		}
	}
	return out, nil
}
