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
	"time"

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
	// Touched is when each page says that it was changed, a day as 2006-01-02; "" where it does not.
	Touched []string `json:",omitempty"`
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
	list, taken := (*[]string)(nil), false // taken: the latest loc was one of its own
	defer func() {
		if len(s.Touched) > 0 {
			s.Touched = append(s.Touched, make([]string, max(0, len(s.Pages)-len(s.Touched)))...)
		}
	}()
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
				before := len(s.Pages)
				add(list, text)
				taken = len(s.Pages) > before
			}
		case "lastmod": // it comes behind the loc (the format's own examples)
			var text string
			if err := d.DecodeElement(&text, &start); err == nil && list == &s.Pages && taken {
				s.touched(text)
			}
		}
	}
}

// touched notes when the latest page was changed, in a form of W3C's "Date and Time Formats" that names a day.
func (s *Sitemap) touched(text string) {
	if text = strings.TrimSpace(text); len(text) < len(time.DateOnly) {
		return
	}
	if day, err := time.Parse(time.DateOnly, text[:len(time.DateOnly)]); err == nil && len(s.Touched) < len(s.Pages) {
		s.Touched = append(s.Touched, make([]string, len(s.Pages)-1-len(s.Touched))...)
		s.Touched = append(s.Touched, day.Format(time.DateOnly))
	}
}

// inSitemap reports whether an element is the format's own, and not an extension's (pictures have a loc, too).
func inSitemap(space string) bool {
	return space == "" || strings.Contains(space, "sitemaps.org/schemas/sitemap")
}
