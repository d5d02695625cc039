package market

import (
	"bytes"
	"context"
	"encoding/csv"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math"
	"net/url"
	"slices"
	"strings"
	"time"

	"cleverniche/core/demand"
	"cleverniche/core/links"
	"cleverniche/market/files"

	"github.com/PuerkitoBio/goquery"
	"github.com/andybalholm/cascadia"
	"github.com/antchfx/xmlquery"
	"github.com/antchfx/xpath"
	"github.com/theory/jsonpath"
)

// document is an answer that was parsed; row a part of it that stands for one figure, suggestion or result.
type (
	document interface {
		rows(path string) []row
		row
	}
	row interface {
		text(path string) string // the first value there, "" none
		each(path string) []row
	}
)

// compile checks that all paths can be read.
func (s *AnswerShape) compile() error {
	if s.Separator == "" {
		s.Separator = ","
	}
	if len(s.Separator) != 1 {
		return fmt.Errorf("answer: separator is “%s”, which is not one sign", shorten(s.Separator, 20))
	}
	if s.Decimal == "" {
		s.Decimal = "."
	}
	paths := map[string]string{"rows": s.Rows, "total": s.Total}
	for name, path := range s.Fields {
		paths[name] = path
	}
	for i, e := range s.Errors {
		paths[fmt.Sprintf("errors, %d", i+1)] = e.At
	}
	if s.Months != nil {
		paths["months, rows"], paths["months, month"] = s.Months.Rows, s.Months.Month
		paths["months, searches"] = s.Months.Searches
	}
	for name, path := range paths {
		if path == "" {
			if name == "rows" && s.Format != "csv" {
				return errors.New("answer: rows is missing: where in the answer is one row?")
			}
			continue
		}
		var err error
		switch s.Format {
		case "json":
			_, err = jsonpath.Parse(path)
		case "xml":
			_, err = xpath.Compile(path)
		case "html":
			selector, _, _ := strings.Cut(path, "@")
			if selector = strings.TrimSpace(selector); selector != "" {
				_, err = cascadia.Parse(selector)
			}
		case "csv":
		default:
			return fmt.Errorf("answer: format is “%s”; it must be json, xml, csv or html", shorten(s.Format, 20))
		}
		if err != nil {
			return fmt.Errorf("answer: %s: “%s” cannot be read: %w", name, shorten(path, 60), err)
		}
	}
	return nil
}

func (s *AnswerShape) accepts() string {
	return map[string]string{"json": "application/json", "xml": "application/xml, text/xml", "csv": "text/csv, text/plain",
		"html": "text/html"}[s.Format]
}

func (s *AnswerShape) parse(body []byte) (document, error) {
	switch s.Format {
	case "json":
		d := json.NewDecoder(bytes.NewReader(body))
		d.UseNumber() // a count of 1e15 stays what it is
		var v any
		if err := d.Decode(&v); err != nil {
			return nil, err
		}
		return jsonPart{v}, nil
	case "xml":
		node, err := xmlquery.Parse(bytes.NewReader(body))
		return xmlPart{node}, err
	case "html":
		doc, err := goquery.NewDocumentFromReader(bytes.NewReader(body))
		if err != nil {
			return nil, err
		}
		return htmlPart{doc.Selection}, nil
	}
	r := csv.NewReader(bytes.NewReader(body))
	r.Comma, r.FieldsPerRecord = rune(s.Separator[0]), -1
	head, err := r.Read()
	if errors.Is(err, io.EOF) {
		return csvTable{}, nil
	}
	if err != nil {
		return nil, err
	}
	for i := range head {
		head[i] = strings.ToLower(strings.TrimSpace(strings.TrimPrefix(head[i], "\ufeff")))
	}
	cells, err := r.ReadAll()
	return csvTable{head, cells}, err
}

type jsonPart struct{ v any }

func (p jsonPart) rows(path string) []row { return p.each(path) }

func (p jsonPart) each(path string) (out []row) {
	q, err := jsonpath.Parse(path)
	if err != nil {
		return nil
	}
	for _, v := range q.Select(p.v) {
		out = append(out, jsonPart{v})
	}
	return out
}

func (p jsonPart) text(path string) string {
	if path == "" {
		return ""
	}
	for _, one := range p.each(path) {
		switch v := one.(jsonPart).v.(type) {
		case nil:
		case string:
			return strings.TrimSpace(v)
		case json.Number:
			return v.String()
		case bool:
			return fmt.Sprint(v)
		}
	}
	return ""
}

type xmlPart struct{ node *xmlquery.Node }

func (p xmlPart) rows(path string) []row { return p.each(path) }

func (p xmlPart) each(path string) (out []row) {
	nodes, err := xmlquery.QueryAll(p.node, path)
	if err != nil {
		return nil
	}
	for _, n := range nodes {
		out = append(out, xmlPart{n})
	}
	return out
}

func (p xmlPart) text(path string) string {
	if path == "" {
		return ""
	}
	n, err := xmlquery.Query(p.node, path)
	if err != nil || n == nil {
		return ""
	}
	return strings.TrimSpace(n.InnerText())
}

type htmlPart struct{ s *goquery.Selection }

func (p htmlPart) rows(path string) []row { return p.each(path) }

func (p htmlPart) each(path string) (out []row) {
	p.s.Find(path).Each(func(_ int, s *goquery.Selection) { out = append(out, htmlPart{s}) })
	return out
}

// text takes “a.title” for the text of an element, “a.title@href” for its attribute, “@id” for one of the
// row's own.
func (p htmlPart) text(path string) string {
	if path == "" {
		return ""
	}
	selector, attribute, has := strings.Cut(path, "@")
	s := p.s
	if selector = strings.TrimSpace(selector); selector != "" {
		s = s.Find(selector).First()
	}
	if has {
		v, _ := s.Attr(strings.TrimSpace(attribute))
		return strings.TrimSpace(v)
	}
	return strings.Join(strings.Fields(s.Text()), " ")
}

type csvTable struct {
	head  []string
	cells [][]string
}

func (t csvTable) rows(string) (out []row) {
	for _, cells := range t.cells {
		out = append(out, csvRow{t.head, cells})
	}
	return out
}
func (t csvTable) each(string) []row { return nil }

// text is the first cell under a heading: an error may be told in a table of its own.
func (t csvTable) text(name string) string {
	if len(t.cells) == 0 {
		return ""
	}
	return csvRow{t.head, t.cells[0]}.text(name)
}

type csvRow struct{ head, cells []string }

func (r csvRow) each(string) []row { return nil }

func (r csvRow) text(name string) string {
	at := slices.Index(r.head, strings.ToLower(strings.TrimSpace(name)))
	if at < 0 || at >= len(r.cells) {
		return ""
	}
	return strings.TrimSpace(r.cells[at])
}

// unknown reports whether a value says that nobody knows.
func (s *AnswerShape) unknown(value string) bool {
	return slices.ContainsFunc(s.Unknown, func(u string) bool { return strings.EqualFold(u, value) })
}

// Demand implements Demander.
func (c *Described) Demand(ctx context.Context, phrases []string, in Locale) (map[string]demand.Series, error) {
	out := map[string]demand.Series{}
	for part := range slices.Chunk(phrases, c.d.Request.Batch) {
		rows, _, err := c.ask(ctx, blanks{phrases: part, in: in, page: c.d.Request.First, count: len(part)})
		if err != nil {
			return nil, err
		}
		for _, r := range rows {
			phrase := part[0]
			if at := c.d.Answer.Fields["phrase"]; at != "" {
				said := r.text(at)
				i := slices.IndexFunc(part, func(p string) bool { return strings.EqualFold(p, said) })
				if i < 0 {
					return nil, c.fail(Malformed, fmt.Errorf("it answers another question: “%s”", shorten(said, 60)))
				}
				phrase = part[i]
			}
			s, known, err := c.series(r)
			if err != nil {
				return nil, c.fail(Malformed, fmt.Errorf("of “%s”: %w", shorten(phrase, 60), err))
			}
			if known {
				out[phrase] = s
			}
		}
	}
	return out, nil
}

// series reads what a row says of a phrase.
func (c *Described) series(r row) (s demand.Series, known bool, err error) {
	a := &c.d.Answer
	value := func(field string) string {
		if v := r.text(a.Fields[field]); !a.unknown(v) {
			return v
		}
		return ""
	}
	s = demand.Series{Competition: -1}
	n, err := files.ReadNumber(value("searches"), a.Decimal)
	if err != nil {
		return s, false, fmt.Errorf("searches: %w", err)
	}
	if n.Known && n.High <= files.MostSearches {
		s.Average = &demand.Average{Searches: int(math.Round(n.Middle())), Under: n.Under}
		known = true
	}
	if a.Months != nil {
		for _, m := range r.each(a.Months.Rows) {
			month, is := files.MonthIn(m.text(a.Months.Month))
			n, err := files.ReadNumber(m.text(a.Months.Searches), a.Decimal)
			if err != nil || !is || !n.Known {
				continue
			}
			s.Counts = append(s.Counts, demand.Count{Month: month, Searches: int(math.Round(n.Middle())), Under: n.Under})
			known = true
		}
	}
	if text := value("cpc"); text != "" {
		if s.CPC, err = files.ReadMoney(text, a.Decimal, strings.ToUpper(orElse(value("currency"), a.Currency))); err != nil {
			return s, known, err
		}
	}
	if text := value("competition"); text != "" {
		x, err := files.ReadAds(text, a.Decimal)
		if err != nil {
			return s, known, err
		}
		if x != nil {
			s.Competition = *x
		}
	}
	return s, known, nil
}

// Total implements Totaller.
func (c *Described) Total(ctx context.Context, text string, in Locale) (int, error) {
	rows, _, err := c.pages(ctx, text, in, 1)
	if err != nil || len(rows) == 0 {
		return 0, err
	}
	said := rows[0].text(c.d.Answer.Fields["total"])
	n, err := files.ReadNumber(said, c.d.Answer.Decimal)
	if err != nil || !n.Known {
		return 0, c.fail(Malformed, fmt.Errorf("“%s” is no number of pages", shorten(said, 40)))
	}
	return int(min(math.Round(n.Middle()), math.MaxInt32)), nil
}

// mostLinks is how many links to one page are taken.
const mostLinks = 1000

// Links implements Linker.
func (c *Described) Links(ctx context.Context, page string) (LinkList, error) {
	rows, first, err := c.pages(ctx, page, Locale{}, mostLinks)
	if err != nil {
		return LinkList{}, err
	}
	f := c.d.Answer.Fields
	var out LinkList
	for i, r := range rows {
		from := r.text(f["from"])
		if u, err := url.Parse(from); err != nil || u.Scheme != "http" && u.Scheme != "https" || u.Host == "" {
			return LinkList{}, c.fail(Malformed, fmt.Errorf("link %d comes from no web address", i+1))
		}
		seen, _ := readDay(r.text(f["seen"]))
		out.Links = append(out.Links, links.Link{From: from, To: page, Anchor: r.text(f["anchor"]), Rel: r.text(f["rel"]),
			FirstSeen: seen})
	}
	out.Total = len(out.Links)
	if first != nil && c.d.Answer.Total != "" {
		n, err := files.ReadNumber(first.text(c.d.Answer.Total), c.d.Answer.Decimal)
		if err != nil {
			return LinkList{}, c.fail(Malformed, fmt.Errorf("how many links there are: %w", err))
		}
		if n.Known {
			out.Total = max(out.Total, int(min(math.Round(n.Middle()), math.MaxInt32)))
		}
	}
	return out, nil
}

// Registered implements Registrar. A name of which the answer says nothing is free.
func (c *Described) Registered(ctx context.Context, domain string) (out Registration, err error) {
	rows, _, err := c.pages(ctx, domain, Locale{}, 1)
	if err != nil || len(rows) == 0 {
		return out, err
	}
	said := rows[0].text(c.d.Answer.Fields["taken"])
	if said == "" {
		return out, c.fail(Malformed, errors.New("it does not say whether the name is taken"))
	}
	free := slices.ContainsFunc(c.d.Answer.Free, func(word string) bool { return strings.EqualFold(word, said) })
	if out.Taken = !free; out.Taken {
		out.Since, _ = readDay(rows[0].text(c.d.Answer.Fields["since"]))
	}
	return out, nil
}

// readDay reads a day as RFC 3339 writes it, with or without the time.
func readDay(text string) (time.Time, error) {
	if day, err := time.Parse(time.RFC3339, text); err == nil {
		return day, nil
	}
	return time.Parse(time.DateOnly, text)
}

func orElse(a, b string) string {
	if a != "" {
		return a
	}
	return b
}
