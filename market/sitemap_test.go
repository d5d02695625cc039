package market

import (
	"bytes"
	"compress/gzip"
	"fmt"
	"slices"
	"strings"
	"testing"
)

func sitemapOf(body string) Fetched {
	return Fetched{URL: "http://www.example.com/sitemap.xml", ContentType: "application/xml", Body: []byte(body)}
}

// The first two are the examples of sitemaps.org's protocol page, from memory.
const (
	protocolsOwn = `<?xml version="1.0" encoding="UTF-8"?>
<urlset xmlns="http://www.sitemaps.org/schemas/sitemap/0.9">
   <url>
      <loc>http://www.example.com/</loc>
      <lastmod>2005-01-01</lastmod>
      <changefreq>monthly</changefreq>
      <priority>0.8</priority>
   </url>
   <url><loc>http://www.example.com/catalog?item=12&amp;desc=vacation_hawaii</loc><changefreq>weekly</changefreq></url>
</urlset>`
	protocolsIndex = `<?xml version="1.0" encoding="UTF-8"?>
<sitemapindex xmlns="http://www.sitemaps.org/schemas/sitemap/0.9">
   <sitemap><loc>http://www.example.com/sitemap1.xml.gz</loc><lastmod>2004-10-01T18:23:17+00:00</lastmod></sitemap>
   <sitemap><loc>http://www.example.com/sitemap2.xml.gz</loc><lastmod>2005-01-01</lastmod></sitemap>
</sitemapindex>`
)

func TestSitemaps(t *testing.T) {
	var packed bytes.Buffer
	z := gzip.NewWriter(&packed)
	z.Write([]byte(protocolsOwn))
	z.Close()
	pages := []string{"http://www.example.com/", "http://www.example.com/catalog?item=12&desc=vacation_hawaii"}
	for what, body := range map[string]string{"XML": protocolsOwn, "packed": packed.String(),
		"text": strings.Join(pages, "\n"), "without its namespace": strings.Replace(protocolsOwn, " xmlns", " was", 1),
		"with pictures": strings.Replace(protocolsOwn, "<lastmod>2005", `<image:image xmlns:image="http://x.example/image">
			<image:loc>http://www.example.com/a.png</image:loc></image:image><lastmod>2005`, 1),
		"another host's": strings.Replace(protocolsOwn, "</urlset>",
			"<url><loc>http://other.example/</loc></url></urlset>", 1),
		"cut short": protocolsOwn[:len(protocolsOwn)-8]} {
		got, err := ReadSitemap(sitemapOf(body))
		if err != nil || !slices.Equal(got.Pages, pages) || got.More != nil {
			t.Errorf("%s: %q, %v", what, got, err)
		}
	}
	got, err := ReadSitemap(sitemapOf(protocolsIndex))
	if err != nil || len(got.More) != 2 || got.More[1] != "http://www.example.com/sitemap2.xml.gz" || got.Pages != nil {
		t.Errorf("an index: %q, %v", got, err)
	}
	for what, body := range map[string]string{"nothing": "", "a page": "<!doctype html><title>x</title>",
		"JSON": `{"a": 1}`, "no addresses": "one\ntwo", "packed nothing": "\x1f\x8b\x08",
		"an entity": `<!DOCTYPE u [<!ENTITY a "x">]><u>&a;</u>`} {
		if got, err := ReadSitemap(sitemapOf(body)); err == nil {
			t.Errorf("%s: %q", what, got)
		}
	}
	var long strings.Builder
	for i := range mostInSitemap + 5 {
		fmt.Fprintln(&long, "http://www.example.com/", i)
	}
	many, err := ReadSitemap(sitemapOf(strings.ReplaceAll(long.String(), "/ ", "/")))
	if err != nil || len(many.Pages) != mostInSitemap {
		t.Errorf("%d pages, %v", len(many.Pages), err)
	}
}

// TestSitemapDates: lastmod is a day or a moment (W3C, "Date and Time Formats"); a page without one has none, in its
// place. The first is the example of sitemaps.org, from memory.
func TestSitemapDates(t *testing.T) {
	s, err := ReadSitemap(Fetched{URL: "http://www.example.com/sitemap.xml", Body: []byte(
		`<?xml version="1.0" encoding="UTF-8"?><urlset xmlns="http://www.sitemaps.org/schemas/sitemap/0.9">` +
			`<url><loc>http://www.example.com/</loc><lastmod>2005-01-01</lastmod><changefreq>monthly</changefreq></url>` +
			`<url><loc>http://www.example.com/a</loc></url>` +
			`<url><loc>http://elsewhere.example/a</loc><lastmod>2024-01-01</lastmod></url>` +
			`<url><loc>http://www.example.com/b</loc><lastmod>2004-12-23T18:00:15+00:00</lastmod></url>` +
			`<url><loc>http://elsewhere.example/c</loc><lastmod>2024-01-01</lastmod></url>` +
			`<url><loc>http://www.example.com/d</loc><lastmod>soon</lastmod></url></urlset>`)})
	if got := fmt.Sprintf("%q", s.Touched); err != nil || got != `["2005-01-01" "" "2004-12-23" ""]` || len(s.Pages) != 4 {
		t.Errorf("%s of %d pages, %v", got, len(s.Pages), err)
	}
}
