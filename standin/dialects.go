package standin

import (
	"encoding/csv"
	"encoding/xml"
	"fmt"
	"io"
	"net/http"
	"strconv"
	"strings"
)

// Three dialects that services of the trade might speak, all invented: nested JSON by POST in batches, whose errors
// come inside a 200; XML in pages; CSV by GET with the key in a header. They answer from the same world as the open
// protocols.

// dialectKey is the key that the dialects want.
const dialectKey = "open-sesame"

func (s *server) dialects(w *World) {
	s.api.HandleFunc("POST /foreign/volumes", w.serveVolumes)
	s.api.HandleFunc("GET /foreign/serp.xml", w.serveForeignResults)
	s.api.HandleFunc("GET /foreign/ideas.csv", w.serveForeignIdeas)
}

// mostVolumes is how many phrases the first dialect takes at once.
const mostVolumes = 25

// serveVolumes answers {"auth":"…","geo":"US","terms":["…"]}.
func (w *World) serveVolumes(rw http.ResponseWriter, r *http.Request) {
	var req struct {
		Auth  string   `json:"auth"`
		Geo   string   `json:"geo"`
		Lang  string   `json:"lang"`
		Terms []string `json:"terms"`
	}
	if !readJSON(rw, r, 1<<20, &req) {
		return
	}
	state := func(code int, text string) {
		writeJSON(rw, map[string]any{"state": map[string]any{"code": code, "text": text}, "payload": nil})
	}
	switch {
	case req.Auth != dialectKey:
		state(41, "no such key")
		return
	case len(req.Terms) > mostVolumes:
		state(42, "quota: too many terms")
		return
	}
	type point struct {
		When string `json:"when"`
		N    int    `json:"n"`
	}
	var items []map[string]any
	for _, term := range req.Terms {
		d := w.demandOf(term, 12, placeOf(req.Geo, req.Lang))
		total, points := 0, []point{}
		for _, m := range d.Monthly {
			if m.Count != nil {
				total += *m.Count
				points = append(points, point{strings.ReplaceAll(m.Month, "-", "/"), *m.Count})
			}
		}
		item := map[string]any{"term": term, "stats": map[string]any{"avg": strconv.Itoa(total / 12), "trend": points},
			"bid": "n/a", "rivalry": "unknown"}
		if total == 0 {
			item["stats"] = map[string]any{"avg": "<10", "trend": points}
		}
		if d.CPC != nil {
			item["bid"] = fmt.Sprintf("%.2f", float64(d.CPC.Micros)/1e6)
		}
		if d.Competition != nil {
			item["rivalry"] = []string{"LOW", "MEDIUM", "HIGH"}[min(2, int(3**d.Competition))]
		}
		items = append(items, item)
	}
	writeJSON(rw, map[string]any{"state": map[string]any{"code": 0, "text": "ok"},
		"payload": map[string]any{"items": items}})
}

// serveForeignResults answers ?find=…&sheet=1, five results a sheet.
func (w *World) serveForeignResults(rw http.ResponseWriter, r *http.Request) {
	type found struct {
		Rank int    `xml:"rank,attr"`
		At   string `xml:"at"`
		Head string `xml:"head"`
	}
	v := r.URL.Query()
	text := strings.TrimSpace(v.Get("find"))
	out := struct {
		XMLName xml.Name `xml:"sheet"`
		Find    string   `xml:"find,attr"`
		Trouble string   `xml:"trouble,omitempty"`
		Found   []found  `xml:"found"`
	}{Find: text}
	if r.Header.Get("X-Pass") != dialectKey {
		out.Trouble = "pass unknown"
	} else {
		hits, _ := w.Engine("").Search(Ask{Text: text, Country: v.Get("land"), Language: v.Get("tongue"), At: w.now})
		from := 5 * (within(v.Get("sheet"), 1, 1, deepest/5) - 1)
		for i, h := range hits[min(from, len(hits)):min(from+5, len(hits))] {
			out.Found = append(out.Found, found{from + i + 1, h.page.url(), h.page.title})
		}
	}
	rw.Header().Set("Content-Type", "text/xml; charset=utf-8")
	io.WriteString(rw, xml.Header)
	xml.NewEncoder(rw).Encode(out)
}

// serveForeignIdeas answers ?stem=… with a table, separated by semicolons.
func (w *World) serveForeignIdeas(rw http.ResponseWriter, r *http.Request) {
	rw.Header().Set("Content-Type", "text/csv; charset=utf-8")
	out := csv.NewWriter(rw)
	out.Comma = ';'
	defer out.Flush()
	if r.Header.Get("X-Pass") != dialectKey {
		out.Write([]string{"trouble"})
		out.Write([]string{"pass unknown"})
		return
	}
	out.Write([]string{"no", "typed"})
	v := r.URL.Query()
	for i, text := range w.Complete(v.Get("stem"), 10, placeOf(v.Get("land"), v.Get("tongue"))) {
		out.Write([]string{strconv.Itoa(i + 1), text})
	}
}
