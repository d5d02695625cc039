package standin

import (
	"net/http"
	"regexp"
	"strings"
	"time"
)

// RDAP (RFC 9082 for the questions, RFC 9083 for the answers): whether a name is
// registered, and since when.

type rdapDomain struct {
	ObjectClassName string           `json:"objectClassName"`
	Conformance     []string         `json:"rdapConformance"`
	Handle          string           `json:"handle"`
	LDHName         string           `json:"ldhName"`
	Status          []string         `json:"status"`
	Events          []rdapEvent      `json:"events"`
	Entities        []rdapEntity     `json:"entities"`
	Nameservers     []rdapNameserver `json:"nameservers"`
	Links           []rdapLink       `json:"links"`
	Notices         []rdapNotice     `json:"notices"`
}

type rdapEvent struct {
	Action string `json:"eventAction"`
	Date   string `json:"eventDate"`
}

type rdapEntity struct {
	ObjectClassName string   `json:"objectClassName"`
	Handle          string   `json:"handle"`
	Roles           []string `json:"roles"`
	VCard           []any    `json:"vcardArray"`
}

type rdapNameserver struct {
	ObjectClassName string `json:"objectClassName"`
	LDHName         string `json:"ldhName"`
}

type rdapLink struct {
	Value string `json:"value"`
	Rel   string `json:"rel"`
	Href  string `json:"href"`
	Type  string `json:"type"`
}

type rdapNotice struct {
	Title       string   `json:"title"`
	Description []string `json:"description"`
}

type rdapError struct {
	Conformance []string `json:"rdapConformance"`
	Code        int      `json:"errorCode"`
	Title       string   `json:"title"`
	Description []string `json:"description"`
}

var conformance = []string{"rdap_level_0"}

var invented = []rdapNotice{{"About this registry",
	[]string{"Every name here is invented. Nothing can be registered."}}}

func serveRDAPError(rw http.ResponseWriter, status int, why string) {
	rdapJSON(rw, status, rdapError{conformance, status, http.StatusText(status), []string{why}})
}

func rdapJSON(rw http.ResponseWriter, status int, v any) {
	rw.Header().Set("Content-Type", "application/rdap+json")
	rw.Header().Set("Access-Control-Allow-Origin", "*") // RFC 7480 §5.6
	rw.WriteHeader(status)
	writeBody(rw, v)
}

// label is one part of a name in LDH form (RFC 5890 §2.3.1).
var label = regexp.MustCompile(`^[a-z0-9]([a-z0-9-]{0,61}[a-z0-9])?$`)

func (w *World) serveRDAPDomain(rw http.ResponseWriter, r *http.Request) {
	name := strings.TrimSuffix(strings.ToLower(r.PathValue("name")), ".")
	parts := strings.Split(name, ".")
	for _, part := range parts {
		if !label.MatchString(part) || len(name) > 253 {
			serveRDAPError(rw, http.StatusBadRequest, "This is no domain name in LDH form.")
			return
		}
	}
	if len(parts) != 2 {
		serveRDAPError(rw, http.StatusNotFound, "This registry knows names directly under example, test and invalid.")
		return
	}
	since, taken := w.registered(name)
	if !taken {
		serveRDAPError(rw, http.StatusNotFound, "The name is not registered.")
		return
	}
	self := "http://" + r.Host + "/rdap/domain/" + name
	until := since.AddDate(w.Now().Year()-since.Year()+1, 0, 0)
	date := func(t time.Time) string { return t.Format(time.RFC3339) }
	rdapJSON(rw, http.StatusOK, rdapDomain{ObjectClassName: "domain", Conformance: conformance,
		Handle: "D-" + strings.ToUpper(strings.ReplaceAll(name, ".", "-")), LDHName: name, Status: []string{"active"},
		Events: []rdapEvent{{"registration", date(since)}, {"last changed", date(until.AddDate(-1, 0, 0))},
			{"expiration", date(until)}, {"last update of RDAP database", date(w.Now())}},
		Entities: []rdapEntity{{"entity", "REG-1", []string{"registrar"}, []any{"vcard", []any{
			[]any{"version", map[string]any{}, "text", "4.0"}, []any{"fn", map[string]any{}, "text", "Invented Names"}}}}},
		Nameservers: []rdapNameserver{{"nameserver", "ns1.names.invalid"}, {"nameserver", "ns2.names.invalid"}},
		Links:       []rdapLink{{self, "self", self, "application/rdap+json"}}, Notices: invented})
}

// registered reports since when a name is taken: those of the world's sites, of its
// free hosts, and many that somebody keeps without using them.
func (w *World) registered(name string) (since time.Time, taken bool) {
	if st := w.sites[name]; st != nil {
		return st.born, !st.born.After(w.now)
	}
	for _, host := range freeSuffixes {
		if name == host {
			return time.Date(w.Founded.Year()-18, 3, 4, 0, 0, 0, 0, time.UTC), true
		}
	}
	rng := w.random("parked", name)
	chance := 0.02
	if stem, _, _ := strings.Cut(name, "."); len(stem) < 6 || w.isCatchy(stem) {
		chance = 0.6 // short names and names of two common words are mostly gone
	}
	if rng.Float64() >= chance {
		return time.Time{}, false
	}
	return w.Founded.AddDate(0, -6-rng.IntN(200), -rng.IntN(28)), true
}

// isCatchy reports whether a name is two words of a hobby put together.
func (w *World) isCatchy(name string) bool {
	for _, s := range w.scenarios {
		for _, first := range s.Sites.First {
			rest, ok := strings.CutPrefix(name, first)
			if !ok {
				continue
			}
			for _, second := range s.Sites.Second {
				if strings.TrimPrefix(rest, "-") == second {
					return true
				}
			}
		}
	}
	return false
}

func (w *World) serveRDAPHelp(rw http.ResponseWriter, _ *http.Request) {
	rdapJSON(rw, http.StatusOK, map[string]any{"rdapConformance": conformance, "notices": invented})
}

// serveRDAPOther answers what this registry has no data for.
func serveRDAPOther(rw http.ResponseWriter, _ *http.Request) {
	serveRDAPError(rw, http.StatusNotImplemented, "This registry answers for domains only.")
}
