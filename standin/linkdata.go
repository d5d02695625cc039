package standin

import (
	"errors"
	"fmt"
	"net/http"
	"strings"
	"time"
)

type linksAnswer struct {
	Target string       `json:"target"`
	Total  int          `json:"total"`
	Links  []linkAnswer `json:"links"`
}

type linkAnswer struct {
	From      string `json:"from"`
	Anchor    string `json:"anchor"`
	Rel       string `json:"rel,omitempty"`
	FirstSeen string `json:"first_seen"`
}

func (w *World) serveLinks(rw http.ResponseWriter, r *http.Request) {
	target := r.URL.Query().Get("url")
	limit := within(r.URL.Query().Get("limit"), 1000, 1, 1000)
	p, err := w.lookup(target)
	if err != nil {
		problem(rw, http.StatusBadRequest, "%v", err)
		return
	}
	ans := linksAnswer{Target: target, Links: []linkAnswer{}}
	if p != nil {
		for _, l := range p.in {
			if !l.aliveAt(w.now) {
				continue
			}
			if ans.Total++; len(ans.Links) < limit {
				ans.Links = append(ans.Links, linkAnswer{l.fromURL(), l.anchor, l.rel, l.seen.Format(time.DateOnly)})
			}
		}
	}
	writeJSON(rw, ans)
}

var errTarget = errors.New("url must be an absolute http or https address")

// lookup finds the page of an address; nil when the world has none.
func (w *World) lookup(target string) (*page, error) {
	rest, ok := strings.CutPrefix(target, "http://")
	if !ok {
		if rest, ok = strings.CutPrefix(target, "https://"); !ok {
			return nil, errTarget
		}
	}
	host, path, _ := strings.Cut(rest, "/")
	if host == "" {
		return nil, errTarget
	}
	if st := w.sites[strings.ToLower(host)]; st != nil {
		if p := st.byPath["/"+path]; p != nil && p.standsAt(w.now) {
			return p, nil
		}
	}
	return nil, nil
}

func (w *World) serveVertices(rw http.ResponseWriter, _ *http.Request) {
	rw.Header().Set("Content-Type", "text/plain; charset=utf-8")
	for _, st := range w.siteList {
		fmt.Fprintf(rw, "%d\t%s\n", st.id, st.domain)
	}
}

func (w *World) serveEdges(rw http.ResponseWriter, _ *http.Request) {
	rw.Header().Set("Content-Type", "text/plain; charset=utf-8")
	for _, e := range w.siteEdges(w.now) {
		fmt.Fprintf(rw, "%d\t%d\n", e[0], e[1])
	}
}

// servePageVertices and servePageEdges are the page graph: every page, and each
// followed link between pages of two sites.
func (w *World) servePageVertices(rw http.ResponseWriter, _ *http.Request) {
	rw.Header().Set("Content-Type", "text/plain; charset=utf-8")
	for _, p := range w.pages {
		if p.standsAt(w.now) {
			fmt.Fprintf(rw, "%d\t%s\n", p.id, p.url())
		}
	}
}

func (w *World) servePageEdges(rw http.ResponseWriter, _ *http.Request) {
	rw.Header().Set("Content-Type", "text/plain; charset=utf-8")
	for _, p := range w.pages {
		if !p.standsAt(w.now) {
			continue
		}
		for _, l := range p.in {
			if l.from != nil && l.followed() && l.aliveAt(w.now) {
				fmt.Fprintf(rw, "%d\t%d\n", l.from.id, p.id)
			}
		}
	}
}
