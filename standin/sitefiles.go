package standin

import (
	"encoding/xml"
	"fmt"
	"io"
	"net/http"
	"strings"
	"time"
)

// slowness is how long a slow page takes.
const slowness = 1200 * time.Millisecond

// serveSite answers for a site: its robots.txt (RFC 9309), its sitemap (Sitemaps
// 0.9), its pictures and its pages. It returns how long a slow page takes.
func (w *World) serveSite(rw http.ResponseWriter, r *http.Request, st *site) time.Duration {
	switch {
	case r.URL.Path == "/robots.txt":
		rw.Header().Set("Content-Type", "text/plain; charset=utf-8")
		fmt.Fprintf(rw, "User-agent: *\nDisallow: /basket\nSitemap: http://%s/sitemap.xml\n", st.domain)
		return 0
	case r.URL.Path == "/sitemap.xml":
		w.serveSitemap(rw, st)
		return 0
	case strings.HasPrefix(r.URL.Path, "/img/"):
		servePicture(rw, strings.TrimSuffix(strings.TrimPrefix(r.URL.Path, "/img/"), ".svg"))
		return 0
	}
	path := strings.TrimSuffix(r.URL.Path, "--now")
	p := st.byPath[path]
	switch {
	case p == nil || p.fault == gone || !p.standsAt(w.now):
		http.Error(rw, "not found", http.StatusNotFound)
	case p.fault == broken:
		http.Error(rw, "this server is out of order", http.StatusInternalServerError)
	case p.fault == moved && path == r.URL.Path:
		http.Redirect(rw, r, path+"--now", http.StatusMovedPermanently)
	default:
		w.servePage(rw, p)
		if p.fault == slow {
			return slowness
		}
	}
	return 0
}

func (w *World) servePage(rw http.ResponseWriter, p *page) {
	kind := "text/html; charset=utf-8"
	switch p.fault {
	case oldCharset:
		kind = "text/html"
	case mistyped:
		kind = "text/plain"
	}
	rw.Header().Set("Content-Type", kind)
	rw.Header().Set("Last-Modified", p.modifiedAt(w.now).Format(http.TimeFormat))
	rw.Write(w.html(p))
}

func (w *World) serveSitemap(rw http.ResponseWriter, st *site) {
	rw.Header().Set("Content-Type", "application/xml; charset=utf-8")
	io.WriteString(rw, xml.Header+`<urlset xmlns="http://www.sitemaps.org/schemas/sitemap/0.9">`+"\n")
	for _, p := range st.pages {
		if p.standsAt(w.now) {
			fmt.Fprintf(rw, "<url><loc>%s</loc><lastmod>%s</lastmod></url>\n", p.url(),
				p.modifiedAt(w.now).Format(time.DateOnly))
		}
	}
	io.WriteString(rw, "</urlset>\n")
}

// servePicture draws a picture that depends on its name.
func servePicture(rw http.ResponseWriter, name string) {
	n := wordNumber(name)
	rw.Header().Set("Content-Type", "image/svg+xml")
	fmt.Fprintf(rw, `<svg xmlns="http://www.w3.org/2000/svg" width="320" height="180" viewBox="0 0 320 180">`+
		`<rect width="320" height="180" fill="hsl(%d 25%% 80%%)"/>`+
		`<circle cx="%d" cy="%d" r="%d" fill="hsl(%d 35%% 45%%)"/></svg>`,
		n%360, 60+n%200, 40+n/7%100, 15+n/13%40, (n/3)%360)
}
