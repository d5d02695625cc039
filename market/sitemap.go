package market

import (
	"bufio"
	"bytes"
	"compress/gzip"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"net/url"
	"strings"

	"golang.org/x/net/html/charset"
)

// Bounds of a sitemap, as Sitemaps 0.9 has them: pages, and bytes unpacked.
const (
	mostInSitemap    = 50_000
	mostSitemapBytes = 50 << 20
)

// Sitemap is what a sitemap says: pages, or further sitemaps where it is an index.
type Sitemap struct {
	Pages []string
	More  []string
}

// errNoSitemap is why something is no sitemap.
var errNoSitemap = errors.New("it is no sitemap")

// ReadSitemap reads a sitemap (sitemaps.org, "Sitemaps XML format", 0.9): one of pages, an index, or a list of
// addresses as plain text. Addresses of other hosts than its own are left out, as the format wants it; more than it may
// hold are not read.
func ReadSitemap(f Fetched) (s Sitemap, err error) {
	var body io.Reader = bytes.NewReader(f.Body)
	if bytes.HasPrefix(f.Body, []byte("\x1f\x8b")) {
		if body, err = gzip.NewReader(body); err != nil {
			return s, fmt.Errorf("%w: %w", errNoSitemap, err)
		}
	}
	in := bufio.NewReader(io.LimitReader(body, mostSitemapBytes))
	host := hostOf(f.URL)
	add := func(list *[]string, text string) {
		u, err := url.Parse(strings.TrimSpace(text))
		if err == nil && (u.Scheme == "http" || u.Scheme == "https") && strings.EqualFold(u.Host, host) &&
			len(s.Pages)+len(s.More) < mostInSitemap {
			*list = append(*list, u.String())
		}
	}
	if head, _ := in.Peek(512); !bytes.Contains(head, []byte("<")) {
		lines := bufio.NewScanner(in)
		for lines.Scan() {
			add(&s.Pages, lines.Text())
		}
		if err := lines.Err(); err != nil || len(s.Pages) == 0 {
			return s, errors.Join(errNoSitemap, err)
		}
		return s, nil
	}
	d := xml.NewDecoder(in)
	d.CharsetReader = charset.NewReaderLabel
	list := (*[]string)(nil)
	for {
		token, err := d.Token()
		if errors.Is(err, io.EOF) && list != nil {
			return s, nil
		}
		if err != nil {
			if list != nil && len(s.Pages)+len(s.More) > 0 { // cut short: what came before holds
				return s, nil
			}
			return s, fmt.Errorf("%w: %w", errNoSitemap, err)
		}
		start, ok := token.(xml.StartElement)
		if !ok {
			continue
		}
		switch start.Name.Local {
		case "urlset":
			list = &s.Pages
		case "sitemapindex":
			list = &s.More
		case "loc":
			var text string
			if err := d.DecodeElement(&text, &start); err == nil && list != nil && inSitemap(start.Name.Space) {
				add(list, text)
			}
		}
	}
}

// inSitemap reports whether an element is the format's own, and not an extension's (pictures have a loc, too).
func inSitemap(space string) bool {
	return space == "" || strings.Contains(space, "sitemaps.org/schemas/sitemap")
}
