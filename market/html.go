package market

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"net/url"
	"regexp"
	"strings"
	"time"

	"cleverniche/core/phrase"
	"cleverniche/core/serp"

	"github.com/PuerkitoBio/goquery"
	"golang.org/x/net/html/charset"
)

// ReadPage reads a fetched page: what it says of itself, its main text, and what
// tells its kind. Bad HTML is read as browsers do; text that cannot be decoded and
// elements nested too deep to be a page are errors.
func ReadPage(f Fetched) (*serp.Page, error) {
	if len(f.Body) == 0 {
		return &serp.Page{URL: f.URL}, nil
	}
	doc, err := documentOf(f)
	if err != nil {
		return nil, err
	}
	p := &serp.Page{URL: f.URL}
	readHead(p, doc)
	readMarkup(p, doc)
	readReactions(p, doc) // before comments are taken out
	readBody(p, doc)
	return p, nil
}

// Inside is what a page of my own says to engines beside its text, and where it links.
type Inside struct {
	NoIndex bool     // it asks engines not to list it
	Links   []string // http and https, without fragments, each once
}

// mostInside is how many links of a page are read.
const mostInside = 500

// ReadInside reads that. A page that is none has nothing.
func ReadInside(f Fetched) (out Inside, err error) {
	if len(f.Body) == 0 {
		return out, nil
	}
	doc, err := documentOf(f)
	if err != nil {
		return out, err
	}
	doc.Find("meta[name='robots' i]").Each(func(_ int, s *goquery.Selection) {
		for _, word := range strings.FieldsFunc(strings.ToLower(s.AttrOr("content", "")), func(r rune) bool {
			return r == ',' || r == ' '
		}) {
			out.NoIndex = out.NoIndex || word == "noindex" || word == "none"
		}
	})
	base, err := url.Parse(f.URL)
	if err != nil {
		return out, nil
	}
	if u, err := base.Parse(doc.Find("base[href]").First().AttrOr("href", "")); err == nil {
		base = u
	}
	seen := map[string]bool{}
	doc.Find("a[href]").EachWithBreak(func(_ int, s *goquery.Selection) bool {
		u, err := base.Parse(strings.TrimSpace(s.AttrOr("href", "")))
		if err != nil || u.Host == "" || u.Scheme != "http" && u.Scheme != "https" {
			return true
		}
		u.Fragment = ""
		if at := u.String(); !seen[at] {
			seen[at], out.Links = true, append(out.Links, at)
		}
		return len(out.Links) < mostInside
	})
	return out, nil
}

// documentOf decodes and parses a page.
func documentOf(f Fetched) (*goquery.Document, error) {
	text, err := charset.NewReader(bytes.NewReader(f.Body), f.ContentType)
	if err != nil {
		return nil, fmt.Errorf("decoding %s: %w", f.URL, err)
	}
	doc, err := goquery.NewDocumentFromReader(text)
	if err != nil {
		return nil, fmt.Errorf("reading %s: %w", f.URL, err)
	}
	return doc, nil
}

func clean(s string) string { return strings.Join(strings.Fields(s), " ") }

func readHead(p *serp.Page, doc *goquery.Document) {
	p.Title = clean(doc.Find("title").First().Text())
	p.Lang = strings.TrimSpace(doc.Find("html").First().AttrOr("lang", ""))
	meta := func(key, name string) string {
		return clean(doc.Find(fmt.Sprintf("meta[%s='%s']", key, name)).First().AttrOr("content", ""))
	}
	p.Description = meta("name", "description")
	p.OpenGraph = meta("property", "og:type")
	p.SiteName = meta("property", "og:site_name")
	p.Published = readDate(meta("property", "article:published_time"))
	p.Modified = readDate(meta("property", "article:modified_time"))
	if href, ok := doc.Find("link[rel='canonical']").First().Attr("href"); ok {
		if base, err := url.Parse(p.URL); err == nil {
			if u, err := base.Parse(href); err == nil {
				p.Canonical = u.String()
			}
		}
	}
}

// readMarkup reads schema.org statements in JSON-LD and microdata.
func readMarkup(p *serp.Page, doc *goquery.Document) {
	doc.Find("script[type='application/ld+json']").Each(func(_ int, s *goquery.Selection) {
		var node any
		if json.Unmarshal([]byte(s.Text()), &node) == nil {
			readNode(p, node, 0)
		}
	})
	doc.Find("[itemtype]").Each(func(_ int, s *goquery.Selection) {
		for _, t := range strings.Fields(s.AttrOr("itemtype", "")) {
			if i := strings.LastIndexByte(t, '/'); strings.Contains(t, "schema.org") && i >= 0 {
				p.SchemaTypes = append(p.SchemaTypes, t[i+1:])
			}
		}
	})
	prop := func(name string) *goquery.Selection { return doc.Find("[itemprop='" + name + "']") }
	prop("brand").Each(func(_ int, s *goquery.Selection) {
		if b := clean(s.AttrOr("content", s.Text())); b != "" {
			p.Brands = append(p.Brands, b)
		}
	})
	if p.Published.IsZero() {
		p.Published = readDate(prop("datePublished").First().AttrOr("datetime",
			prop("datePublished").First().AttrOr("content", "")))
	}
	if p.Modified.IsZero() {
		p.Modified = readDate(prop("dateModified").First().AttrOr("datetime",
			prop("dateModified").First().AttrOr("content", "")))
	}
}

// readNode walks a JSON-LD value. Depth is bounded: the file is a stranger's.
func readNode(p *serp.Page, node any, depth int) {
	if depth > 6 {
		return
	}
	switch n := node.(type) {
	case []any:
		for _, one := range n {
			readNode(p, one, depth+1)
		}
	case map[string]any:
		if depth <= 2 {
			p.SchemaTypes = append(p.SchemaTypes, strings2(n["@type"])...)
		}
		if p.Published.IsZero() {
			p.Published = readDate(text(n["datePublished"]))
		}
		if p.Modified.IsZero() {
			p.Modified = readDate(text(n["dateModified"]))
		}
		if b := n["brand"]; b != nil {
			if m, ok := b.(map[string]any); ok {
				b = m["name"]
			}
			if s := text(b); s != "" {
				p.Brands = append(p.Brands, s)
			}
		}
		if m, ok := n["publisher"].(map[string]any); ok {
			p.Publisher = append(p.Publisher, strings2(m["@type"])...)
			if p.SiteName == "" {
				p.SiteName = text(m["name"])
			}
		}
		for _, key := range []string{"@graph", "mainEntity", "mainEntityOfPage", "itemReviewed"} {
			readNode(p, n[key], depth+1)
		}
	}
}

func text(v any) string {
	s, _ := v.(string)
	return s
}

func strings2(v any) []string {
	switch t := v.(type) {
	case string:
		return []string{t}
	case []any:
		var out []string
		for _, one := range t {
			if s := text(one); s != "" {
				out = append(out, s)
			}
		}
		return out
	}
	return nil
}

var dateForms = []string{time.DateOnly, time.RFC3339, "2006-01-02T15:04:05", "2006-01-02 15:04:05",
	"2 January 2006", "January 2, 2006", "Jan 2, 2006", "02.01.2006"}

func readDate(s string) time.Time {
	s = clean(s)
	for _, form := range dateForms {
		if t, err := time.Parse(form, s); err == nil && t.Year() > 1990 && t.Year() < 2100 {
			return t.UTC()
		}
	}
	return time.Time{}
}

var (
	boilerplate = regexp.MustCompile(`(?i)(^|[-_ ])(nav|menu|sidebar|footer|breadcrumbs?|` +
		`cookie|banner|related|share|social|newsletter|skip)([-_ ]|$)`)
	answering = regexp.MustCompile(`(?i)(^|[-_ ])(reply|answer|post)([-_ ]|$)`)
	priceRE   = regexp.MustCompile(`[$€£]\s?\d{1,6}([.,]\d{2})?\b`)
	basketRE  = regexp.MustCompile(`(?i)\b(add to (basket|cart|bag)|buy now)\b`)
	datedRE   = regexp.MustCompile(`(?i)(updated|last changed|modified|revised)[: ]+` +
		`(\d{4}-\d{2}-\d{2}|\d{1,2} [A-Z][a-z]+ \d{4}|[A-Z][a-z]+ \d{1,2}, \d{4})`)
)

// readBody finds the main text: boilerplate is taken out, and a main or article
// element is trusted when it holds at least half of what is left.
func readBody(p *serp.Page, doc *goquery.Document) {
	body := doc.Find("body")
	if m := datedRE.FindStringSubmatch(clean(body.Text())); m != nil && p.Modified.IsZero() {
		p.Modified = readDate(m[2])
	}
	if p.Published.IsZero() {
		p.Published = readDate(body.Find("time[datetime]").First().AttrOr("datetime", ""))
	}
	withoutUnseen(body)
	p.Replies = body.Find("[class]").FilterFunction(func(_ int, s *goquery.Selection) bool {
		return answering.MatchString(s.AttrOr("class", ""))
	}).Length()
	main := mainOf(body)
	p.CartButtons = main.Find("button, input[type='submit'], a").FilterFunction(func(_ int, s *goquery.Selection) bool {
		return basketRE.MatchString(s.Text() + " " + s.AttrOr("value", ""))
	}).Length()
	p.Inputs = main.Find("form input:not([type='hidden']):not([type='submit']):not([type='search']), form select").Length()
	p.Videos = main.Find("video, iframe[src*='embed'], iframe[src*='video']").Length()
	main.Find("ol").Each(func(_ int, s *goquery.Selection) {
		p.Steps = max(p.Steps, s.ChildrenFiltered("li").Length())
	})
	main.Find("table").Slice(0, min(mostTables, main.Find("table").Length())).Each(func(_ int, s *goquery.Selection) {
		if head := headsOf(s); head != "" {
			p.Tables = append(p.Tables, head)
		}
	})
	p.SignsIn = body.Find("input[type='password']").Length() > 0
	p.Anchors = texts(main.Find("a[href]"), 300)
	p.H1 = texts(doc.Find("h1"), 5)
	p.Headings = texts(main.Find("h2, h3, h4"), 200)
	withoutComments(main)
	p.Text = blocks(main)
	p.Prices = len(priceRE.FindAllStringIndex(p.Text, 200))
	p.Words = len(phrase.Words(p.Text))
}

// Bounds of what is read of tables: their headings tell what they are about.
const (
	mostTables    = 20
	mostTableHead = 8
)

// headsOf is what a table's columns, or else its rows, are headed by, with commas between.
func headsOf(table *goquery.Selection) string {
	heads := table.Find("thead th")
	if heads.Length() == 0 {
		heads = table.Find("th")
	}
	var out []string
	for _, h := range texts(heads, mostTableHead) {
		if h = phrase.Normal(h); h != "" {
			out = append(out, h)
		}
	}
	return strings.Join(out, ", ")
}

// mainOf takes out of a page's body what is not its text, and returns the part that is.
func mainOf(body *goquery.Selection) *goquery.Selection {
	withoutUnseen(body)
	body.Find("[class], [id]").Each(func(_ int, s *goquery.Selection) {
		name := s.AttrOr("class", "") + " " + s.AttrOr("id", "")
		if boilerplate.MatchString(name) && goquery.NodeName(s) != "body" {
			s.Remove()
		}
	})
	main := mainPart(body)
	main.Find("header nav").Remove()
	return main
}

// withoutUnseen takes out what is not shown, and what is around a text.
func withoutUnseen(body *goquery.Selection) {
	body.Find("script, style, noscript, template, svg, nav, aside, footer, [hidden], [aria-hidden='true']").Remove()
}

// withoutComments takes out what visitors say under an article: it is not its text.
func withoutComments(main *goquery.Selection) {
	main.Find(".comment, .comments").Remove()
}

func mainPart(body *goquery.Selection) *goquery.Selection {
	all := len(clean(body.Text()))
	best, longest := body, 0
	body.Find("main, article, [role='main']").Each(func(_ int, s *goquery.Selection) {
		if n := len(clean(s.Text())); n > longest {
			best, longest = s, n
		}
	})
	if 2*longest >= all {
		return best
	}
	return body
}

func texts(s *goquery.Selection, most int) []string {
	var out []string
	s.EachWithBreak(func(_ int, one *goquery.Selection) bool {
		if t := clean(one.Text()); t != "" {
			out = append(out, t)
		}
		return len(out) < most
	})
	return out
}

// blocks is the text with a space between elements, so that words of two
// paragraphs never run together.
func blocks(s *goquery.Selection) string {
	var b strings.Builder
	var walk func(*goquery.Selection, int)
	walk = func(s *goquery.Selection, depth int) {
		if depth > 200 {
			return
		}
		s.Contents().Each(func(_ int, c *goquery.Selection) {
			if goquery.NodeName(c) == "#text" {
				b.WriteString(c.Text())
				return
			}
			b.WriteByte(' ')
			walk(c, depth+1)
			b.WriteByte(' ')
		})
	}
	walk(s, 0)
	return clean(b.String())
}

// Whole returns why a body is no whole page, or nil: it is empty, holds bytes that no text has, or
// ends before what it began does. A page may leave its last tags out by the standard (HTML, §13.1.2.4)
// but then says nowhere where it ends: it is not taken for whole either.
func (f Fetched) Whole() error {
	body := bytes.TrimSpace(f.Body)
	wide := strings.Contains(strings.ToLower(f.ContentType), "utf-16") || bytes.HasPrefix(body, []byte("\xff\xfe")) ||
		bytes.HasPrefix(body, []byte("\xfe\xff"))
	switch {
	case len(body) == 0:
		return errors.New("it is empty")
	case wide:
		return nil
	case bytes.IndexByte(body, 0) >= 0:
		return errors.New("it holds bytes that no text has")
	}
	begins, ends := opening.Match(body), closing.Match(body[max(0, len(body)-4096):])
	if begins && !ends || !begins && body[len(body)-1] != '>' {
		return errors.New("it ends in the middle")
	}
	return nil
}

var (
	opening = regexp.MustCompile(`(?i)<(html|body)[\s>]`)
	closing = regexp.MustCompile(`(?i)</(html|body)\s*>`)
)
