package standin

import (
	"encoding/json"
	"fmt"
	"io"
	"net"
	"net/http"
	"strconv"
	"strings"
	"time"
)

// Options say how the stand-in serves.
type Options struct {
	Latency time.Duration // added to every answer
}

// Handler serves the world. Requests whose Host is a site of the world get its
// pages; all others get the protocols:
//
//	GET  /opensearch.xml            OpenSearch 1.1 description document
//	GET  /suggest?q=                OpenSearch Suggestions 1.1
//	POST /demand/v1/phrases         docs/demand.openapi.yaml
//	GET  /search?q=&count=&start=   OpenSearch 1.1 response in Atom, docs/results.md
//	GET  /links/v1/page?url=        docs/links.openapi.yaml
//	GET  /links/v1/graph/vertices   the site graph: number, name
//	GET  /links/v1/graph/edges      the site graph: from, to
//	GET  /rankings/v1/phrases?target=&scope=, and sites, pages, months, countries, ads: docs/rankings.openapi.yaml
//	GET  /rdap/domain/{name}        RDAP, RFC 9082 and 9083
//	GET  /health                    what the world holds
//
// and what no outside service has, for whoever tests against the world, under /lab
// (README.md): the clock, experiments, faults, the truth and search reports.
func (w *World) Handler(o Options) http.Handler {
	s := &server{world: w, latency: o.Latency, api: http.NewServeMux()}
	s.routes()
	return s
}

type server struct {
	world   *World
	latency time.Duration
	api     *http.ServeMux
	faults  faults
}

func (s *server) routes() {
	w := s.world
	for pattern, do := range map[string]http.HandlerFunc{
		"GET /opensearch.xml":           serveDescription,
		"GET /suggest":                  w.serveSuggest,
		"POST /demand/v1/phrases":       w.serveDemand,
		"GET /search":                   w.serveSearch,
		"GET /links/v1/page":            w.serveLinks,
		"GET /links/v1/graph/vertices":  w.serveVertices,
		"GET /links/v1/graph/edges":     w.serveEdges,
		"GET /links/v1/pages/vertices":  w.servePageVertices,
		"GET /links/v1/pages/edges":     w.servePageEdges,
		"GET /rdap/domain/{name}":       w.serveRDAPDomain,
		"GET /rdap/help":                w.serveRDAPHelp,
		"GET /rdap/":                    serveRDAPOther,
		"GET /health":                   func(rw http.ResponseWriter, _ *http.Request) { writeJSON(rw, w.Count()) },
		"GET /lab/clock":                s.serveClock,
		"GET /lab/truth":                w.serveTruth,
		"GET /lab/report":               w.serveReport,
		"GET /lab/pages":                w.serveExperiments,
		"GET /lab/faults":               s.serveFaults,
		"POST /lab/faults":              s.serveNewFault,
		"DELETE /lab/faults":            s.serveNoFaults,
		"DELETE /lab/faults/{id}":       s.serveNoFaults,
		"POST /lab/clock":               s.changing(w.serveMove),
		"POST /lab/pages":               s.changing(w.servePublish),
		"GET /lab/pages/{id}/positions": s.changing(w.serveCourse),
		"DELETE /lab/pages/{id}":        s.changing(w.serveWithdraw),
		"DELETE /lab/pages":             s.changing(w.serveWithdraw),
		"POST /lab/trials":              s.serveTrials,
	} {
		s.api.HandleFunc(pattern, do)
	}
	s.rankings(w)
	s.dialects(w)
}

func (s *server) changing(do http.HandlerFunc) http.HandlerFunc {
	return func(rw http.ResponseWriter, r *http.Request) {
		s.world.mu.RUnlock()
		s.world.mu.Lock()
		defer func() {
			s.world.mu.Unlock()
			s.world.mu.RLock()
		}()
		do(rw, r)
	}
}

// ServeHTTP makes each answer whole before it sends any of it, so that a slow
// reader holds nobody up, and so that a fault can spoil it.
func (s *server) ServeHTTP(rw http.ResponseWriter, r *http.Request) {
	if s.latency > 0 {
		pause(r, s.latency)
	}
	host, _, err := net.SplitHostPort(r.Host)
	if err != nil {
		host = r.Host
	}
	protocol, _, _ := strings.Cut(strings.TrimPrefix(r.URL.Path, "/"), "/")
	where := []string{protocol}
	if isName(host) {
		where = []string{host, "pages"}
	}
	f := s.faults.befalling(where...)
	if f != nil && f.before(rw, r) {
		return
	}
	a := &answer{header: http.Header{}}
	wait := s.make(a, r, host)
	if wait > 0 {
		pause(r, wait)
	}
	if f != nil {
		f.spoil(rw, r, a)
		return
	}
	a.send(rw)
}

// isName reports whether a host is under the endings that the world's sites have.
func isName(host string) bool {
	for _, suffix := range []string{".example", ".test", ".invalid"} {
		if strings.HasSuffix(host, suffix) {
			return true
		}
	}
	return false
}

// make makes the answer, and says how long a slow page keeps people waiting.
func (s *server) make(a *answer, r *http.Request, host string) time.Duration {
	s.world.mu.RLock()
	defer s.world.mu.RUnlock()
	st := s.world.sites[host]
	switch {
	case st != nil && !st.born.After(s.world.now):
		return s.world.serveSite(a, r, st)
	case isName(host):
		http.Error(a, "no such site in this world", http.StatusNotFound)
	default:
		s.api.ServeHTTP(a, r)
	}
	return 0
}

func writeJSON(rw http.ResponseWriter, v any) {
	rw.Header().Set("Content-Type", "application/json")
	writeBody(rw, v)
}

func writeBody(rw http.ResponseWriter, v any) {
	if err := json.NewEncoder(rw).Encode(v); err != nil {
		http.Error(rw, err.Error(), http.StatusInternalServerError)
	}
}

// problem answers with RFC 9457 problem details.
func problem(rw http.ResponseWriter, status int, format string, args ...any) {
	rw.Header().Set("Content-Type", "application/problem+json")
	rw.WriteHeader(status)
	writeBody(rw, map[string]any{"title": http.StatusText(status), "status": status,
		"detail": fmt.Sprintf(format, args...)})
}

// readJSON reads the request's body; it has answered when it returns false.
func readJSON(rw http.ResponseWriter, r *http.Request, most int64, v any) bool {
	dec := json.NewDecoder(io.LimitReader(r.Body, most))
	if strings.HasPrefix(r.URL.Path, "/lab/") {
		dec.DisallowUnknownFields()
	}
	if err := dec.Decode(v); err != nil {
		problem(rw, http.StatusBadRequest, "the request is not the JSON object of the protocol: %v", err)
		return false
	}
	return true
}

func (w *World) serveSuggest(rw http.ResponseWriter, r *http.Request) {
	q := r.URL.Query().Get("q")
	found := w.Complete(q, 10, placeOf(r.URL.Query().Get("country"), r.URL.Query().Get("language")))
	if found == nil {
		found = []string{}
	}
	rw.Header().Set("Content-Type", "application/x-suggestions+json")
	writeBody(rw, []any{q, found})
}

func within(s string, otherwise, low, high int) int {
	n, err := strconv.Atoi(s)
	if err != nil {
		return otherwise
	}
	return max(low, min(high, n))
}
