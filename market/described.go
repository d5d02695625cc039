package market

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net"
	"net/http"
	"net/url"
	"os"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"syscall"
	"time"

	"gopkg.in/yaml.v3"
)

// Description is a service as a file describes it: how a question is put to it, and where in its answer the figures
// stand (docs/sources.md). It is the user's own file.
type Description struct {
	Question string        `yaml:"question"` // one of questionShapes
	Part     Part          `yaml:"part"`     // of rankings: what it knows; "" phrases
	Name     string        `yaml:"name"`     // shown beside its figures
	Private  bool          `yaml:"private"`  // it may be on this machine or in its network
	Price    float64       `yaml:"price"`    // of a lookup; of demand, of a phrase
	Fresh    time.Duration `yaml:"fresh"`    // for how long an answer is used again
	Beside   bool          `yaml:"beside"`   // it is asked also where another source has answered; of demand only
	Request  RequestShape  `yaml:"request"`
	Answer   AnswerShape   `yaml:"answer"`
}

// RequestShape is how a question is put. {phrase}, {phrases}, {url}, {domain}, {country}, {language}, {page}, {start},
// {count} and {key} are filled in.
type RequestShape struct {
	Method    string            `yaml:"method"` // GET, or POST where there is a body
	URL       string            `yaml:"url"`
	Headers   map[string]string `yaml:"headers"`
	Body      string            `yaml:"body"`
	Key       string            `yaml:"key"`        // environment variable with the secret, or NAME_FILE with its file
	Batch     int               `yaml:"batch"`      // phrases in one request, for {phrases}
	PerSecond float64           `yaml:"per-second"` // requests
	Timeout   time.Duration     `yaml:"timeout"`
	Pages     int               `yaml:"pages"` // of an answer at most, where the URL or the body says {page} or {start}
	First     int               `yaml:"first"` // what {page} begins with
	Size      int               `yaml:"size"`  // rows of a page, for {start} and {count}
}

// AnswerShape is where figures stand in an answer.
type AnswerShape struct {
	Format    string            `yaml:"format"` // json, xml, csv or html
	Rows      string            `yaml:"rows"`   // JSONPath, XPath or CSS selector of what is one row; of CSV all are
	Fields    map[string]string `yaml:"fields"` // within a row; of CSV the name of a column
	Months    *MonthsShape      `yaml:"months"`
	Separator string            `yaml:"separator"` // of CSV
	Decimal   string            `yaml:"decimal"`   // the mark before decimals
	Unknown   []string          `yaml:"unknown"`   // values that say that nobody knows
	Total     string            `yaml:"total"`     // of links: where the answer says how many there are in all
	Free      []string          `yaml:"free"`      // of names: what says that nobody has it; "404" is a status
	Currency  string            `yaml:"currency"`  // of costs that name none
	Errors    []ErrorShape      `yaml:"errors"`
}

// MonthsShape is where the searches of single months stand within a row.
type MonthsShape struct {
	Rows     string `yaml:"rows"`
	Month    string `yaml:"month"` // 2025-01, or another form that names year and month
	Searches string `yaml:"searches"`
}

// ErrorShape is an answer that says that something is wrong, also where its status is 200.
type ErrorShape struct {
	At    string `yaml:"at"`    // where it stands
	Is    string `yaml:"is"`    // what it says then; "" anything
	Means string `yaml:"means"` // wrong key, limit reached, try later or none
}

// What an answer's error may mean.
const (
	meansKey   = "wrong key"
	meansLimit = "limit reached"
	meansLater = "try later"
	meansNone  = "none"
)

// questionShape is what a question is about, as it is filled in, and the fields that its answer may have; the first
// must be there.
type questionShape struct {
	about  string
	fields []string
}

var questionShapes = map[string]questionShape{
	"suggestions": {"phrase", []string{"suggestion", "asked"}},
	"demand":      {"phrase", []string{"searches", "phrase", "cpc", "currency", "competition"}},
	"results":     {"phrase", []string{"url", "position", "title", "snippet", "asked"}},
	"totals":      {"phrase", []string{"total", "asked"}},
	"links":       {"url", []string{"from", "anchor", "rel", "seen", "asked"}},
	"names":       {"domain", []string{"taken", "since", "asked"}},
	"rankings":    {"domain", []string{"phrase", "place", "url", "searches", "visits", "asked"}},

	"rankings of sites":     {"domain", []string{"site", "shared", "phrases", "visits", "asked"}},
	"rankings of pages":     {"domain", []string{"url", "phrases", "visits", "phrase", "asked"}},
	"rankings of months":    {"domain", []string{"month", "phrases", "visits", "asked"}},
	"rankings of countries": {"domain", []string{"country", "phrases", "visits", "asked"}},
	"rankings of ads": {"domain", []string{"phrase", "title", "text", "url", "cost", "currency", "share",
		"asked"}},
}

// shape is what is asked, and of rankings which part.
func (d *Description) shape() string {
	if d.Part == "" || d.Part == PhrasesPart {
		return d.Question
	}
	return d.Question + " of " + string(d.Part)
}

// questions names what can be described.
const questions = "suggestions, demand, results, totals, links, names or rankings"

// ReadDescription reads the description of a service; what it does not know is an error, with its line.
func ReadDescription(data []byte) (d Description, err error) {
	dec := yaml.NewDecoder(bytes.NewReader(data))
	dec.KnownFields(true)
	if err := dec.Decode(&d); err != nil {
		return d, fmt.Errorf("it cannot be read: %w", err)
	}
	return d, d.check()
}

// placeholder is what is filled in.
var placeholder = regexp.MustCompile(`\{([a-z]+)\}`)

var placeholders = []string{"phrase", "phrases", "url", "domain", "country", "language", "page", "start", "count",
	"key"}

func (d *Description) check() error {
	shape, known := questionShapes[d.shape()]
	_, asked := questionShapes[d.Question]
	switch {
	case asked && !known:
		return fmt.Errorf("part is “%s”; of rankings it may be phrases, sites, pages, months, countries or ads, and "+
			"other questions have none", shorten(string(d.Part), 40))
	case !known || strings.Contains(d.Question, " of "):
		return fmt.Errorf("question is “%s”; it must be %s", shorten(d.Question, 40), questions)
	case d.Name == "":
		return errors.New("name is missing: it is shown beside the service’s figures")
	case d.Price < 0 || d.Price > 1000:
		return fmt.Errorf("price is %v; it must be 0 to 1000", d.Price)
	case d.Beside && d.Question != "demand":
		return errors.New("beside is for demand only: of other questions one answer is used")
	}
	u, err := url.Parse(placeholder.ReplaceAllString(d.Request.URL, "x"))
	if err != nil || u.Scheme != "http" && u.Scheme != "https" || u.Host == "" {
		return fmt.Errorf("request: url is “%s”, which is no web address", shorten(d.Request.URL, 80))
	}
	if host := strings.SplitN(strings.SplitN(d.Request.URL, "//", 2)[1], "/", 2)[0]; strings.Contains(host, "{") {
		return errors.New("request: the host of url may not be filled in")
	}
	all := []string{d.Request.URL, d.Request.Body}
	for name, value := range d.Request.Headers {
		if strings.ContainsAny(name+value, "\r\n") {
			return fmt.Errorf("request: the header %s holds a line break", shorten(name, 40))
		}
		all = append(all, value)
	}
	text := strings.Join(all, "\n")
	for _, m := range placeholder.FindAllStringSubmatch(text, -1) {
		if !slices.Contains(placeholders, m[1]) {
			return fmt.Errorf("request: {%s} is nothing that is filled in; there are {%s}", m[1],
				strings.Join(placeholders, "}, {"))
		}
	}
	batched := strings.Contains(text, "{phrases}")
	switch {
	case !batched && !strings.Contains(text, "{"+shape.about+"}"):
		return fmt.Errorf("request: {%s} is not in it, so it would ask about nothing", shape.about)
	case batched && d.Question != "demand":
		return fmt.Errorf("request: {phrases} is for demand; %s are asked phrase by phrase", d.Question)
	case batched && d.Request.Batch == 0:
		d.Request.Batch = DemandBatch
	case !batched:
		d.Request.Batch = 1
	}
	if d.Request.Batch < 1 || d.Request.Batch > DemandBatch {
		return fmt.Errorf("request: batch is %d; it must be 1 to %d", d.Request.Batch, DemandBatch)
	}
	if strings.Contains(text, "{key}") && d.Request.Key == "" {
		return errors.New("request: it says {key}, and key names no environment variable")
	}
	if d.Request.Method == "" {
		d.Request.Method = http.MethodGet
		if d.Request.Body != "" {
			d.Request.Method = http.MethodPost
		}
	}
	if d.Request.Method != http.MethodGet && d.Request.Method != http.MethodPost {
		return fmt.Errorf("request: method is %s; it must be GET or POST", shorten(d.Request.Method, 20))
	}
	if d.Request.Pages < 1 || !strings.Contains(text, "{page}") && !strings.Contains(text, "{start}") {
		d.Request.Pages = 1
	}
	d.Request.Pages = min(d.Request.Pages, mostAnswerPages)
	if d.Request.Size < 1 {
		d.Request.Size = 10
	}
	for name := range d.Answer.Fields {
		if !slices.Contains(shape.fields, name) {
			return fmt.Errorf("answer: “%s” is no field of %s; there are %s", shorten(name, 40), d.Question,
				strings.Join(shape.fields, ", "))
		}
	}
	if first := shape.fields[0]; d.Answer.Fields[first] == "" && (d.Question != "demand" || d.Answer.Months == nil) {
		return fmt.Errorf("answer: the field %s is missing", first)
	}
	if batched && d.Answer.Fields["phrase"] == "" {
		return errors.New("answer: the field phrase is missing: with several phrases in a request, rows must name theirs")
	}
	for i, e := range d.Answer.Errors {
		if !slices.Contains([]string{meansKey, meansLimit, meansLater, meansNone}, e.Means) {
			return fmt.Errorf("answer: error %d means “%s”; it may mean %s, %s, %s or %s", i+1, shorten(e.Means, 40),
				meansKey, meansLimit, meansLater, meansNone)
		}
	}
	return d.Answer.compile()
}

// mostAnswerPages is how many pages of an answer are asked for at most.
const mostAnswerPages = 20

// Described asks a service that a file describes. It is a Suggester, a Demander, a Searcher, a Totaller, a Linker, a
// Registrar or a PhraseRanker, as its question says.
type Described struct {
	*caller
	d   Description
	key string
}

// NewDescribed returns a client. The secret comes from the environment.
func NewDescribed(d Description, getenv func(string) string) (*Described, error) {
	key := ""
	if d.Request.Key != "" {
		if key = getenv(d.Request.Key); key == "" {
			if path := getenv(d.Request.Key + "_FILE"); path != "" {
				data, err := os.ReadFile(path)
				if err != nil {
					return nil, fmt.Errorf("the key of %s: %w", d.Name, err)
				}
				key = strings.TrimSpace(string(data))
			}
		}
		if key == "" {
			return nil, fmt.Errorf("the key of %s is not set: put it into the environment as %s, or its file's name as %s_FILE",
				d.Name, d.Request.Key, d.Request.Key)
		}
	}
	dial := &net.Dialer{Timeout: 5 * time.Second}
	if !d.Private {
		dial.Control = publicOnly
	}
	c := newCaller(Source{Name: d.Name, Timeout: d.Request.Timeout, PerSecond: d.Request.PerSecond},
		&http.Transport{MaxIdleConnsPerHost: 16, IdleConnTimeout: 30 * time.Second, DialContext: dial.DialContext,
			ForceAttemptHTTP2: true})
	c.missing = d.Question == "names" && slices.Contains(d.Answer.Free, "404")
	return &Described{caller: c, d: d, key: key}, nil
}

// publicOnly refuses addresses that are not on the public internet.
func publicOnly(_, resolved string, _ syscall.RawConn) error { return checkPublic(resolved) }

// blanks are what is filled into a request.
type blanks struct {
	phrases []string // or an address, or a domain
	in      Locale
	page    int
	start   int
	count   int
}

// filled fills a text in, each value written as escape says.
func (c *Described) filled(text string, b blanks, escape func(string) string) string {
	return placeholder.ReplaceAllStringFunc(text, func(name string) string {
		switch strings.Trim(name, "{}") {
		case "phrase", "url", "domain":
			return escape(b.phrases[0])
		case "phrases":
			list, err := json.Marshal(b.phrases)
			if err != nil {
				return "[]"
			}
			return string(list)
		case "country":
			return escape(b.in.Country)
		case "language":
			return escape(b.in.Language)
		case "page":
			return strconv.Itoa(b.page)
		case "start":
			return strconv.Itoa(b.start)
		case "count":
			return strconv.Itoa(b.count)
		case "key":
			return escape(c.key)
		}
		return name
	})
}

func inURL(s string) string { return strings.ReplaceAll(url.QueryEscape(s), "+", "%20") }

// inJSON writes a text as it stands within a JSON string.
func inJSON(s string) string {
	out, err := json.Marshal(s)
	if err != nil {
		return ""
	}
	return string(out[1 : len(out)-1])
}

// telling tells what is asked and what comes without the secret.
func (c *Described) telling(ctx context.Context, b blanks) context.Context {
	tell := tellerOf(ctx)
	if tell == nil {
		return ctx
	}
	shown := &Described{d: c.d, key: "***"}
	said := c.d.Request.Method + " " + shown.filled(c.d.Request.URL, b, func(s string) string {
		return strings.ReplaceAll(inURL(s), "%2A", "*")
	})
	if c.d.Request.Body != "" {
		said += "\n" + shown.filled(c.d.Request.Body, b, inJSON)
	}
	return WithTeller(ctx, func(_, kind string, body []byte) {
		if c.key != "" {
			body = bytes.ReplaceAll(body, []byte(c.key), []byte("***"))
		}
		tell(said, kind, body)
	})
}

// ask puts one request, and reads the rows of its answer.
func (c *Described) ask(ctx context.Context, b blanks) (rows []row, doc document, err error) {
	address := c.filled(c.d.Request.URL, b, inURL)
	var body []byte
	kind := "application/json"
	headers := map[string]string{}
	for name, value := range c.d.Request.Headers {
		headers[name] = c.filled(value, b, strings.NewReplacer("\r", "", "\n", "").Replace)
		if strings.EqualFold(name, "Content-Type") {
			kind = value
		}
	}
	if c.d.Request.Body != "" {
		escape := inJSON
		if strings.Contains(kind, "form") {
			escape = url.QueryEscape
		}
		body = []byte(c.filled(c.d.Request.Body, b, escape))
	}
	ctx = context.WithValue(c.telling(ctx, b), headersKey{}, headers)
	a, err := c.do(ctx, c.d.Request.Method, address, body, c.d.Answer.accepts())
	if err != nil || a.missing {
		return nil, nil, err
	}
	if doc, err = c.d.Answer.parse(a.body); err != nil {
		return nil, nil, c.fail(Malformed, err)
	}
	if err := c.wrong(doc); err != nil {
		if errors.Is(err, errNothing) {
			return nil, nil, nil
		}
		return nil, nil, err
	}
	return doc.rows(c.d.Answer.Rows), doc, nil
}

var errNothing = errors.New("it says that there is nothing")

// wrong is what an answer says is wrong, whatever its status.
func (c *Described) wrong(doc document) error {
	for _, e := range c.d.Answer.Errors {
		said := doc.text(e.At)
		if said == "" || e.Is != "" && !strings.EqualFold(said, e.Is) {
			continue
		}
		switch e.Means {
		case meansNone:
			return errNothing
		case meansKey:
			return c.fail(Refused, fmt.Errorf("the key is wrong (it says “%s”)", shorten(said, 80)))
		case meansLimit:
			return c.fail(Refused, fmt.Errorf("the limit of your contract is reached (it says “%s”)", shorten(said, 80)))
		}
		return c.unreached(Free, fmt.Errorf("it says “%s”", shorten(said, 80)))
	}
	return nil
}

// pages asks for page after page of the answer about one phrase, address or domain, until there are so many rows, a
// page is empty, or there are no more. One that repeats the page before it goes in a circle. The first page is handed
// out, too; nil where there was none.
func (c *Described) pages(ctx context.Context, about string, in Locale, most int) (out []row, first document,
	err error) {
	before := ""
	for i := range c.d.Request.Pages {
		rows, doc, err := c.ask(ctx, blanks{phrases: []string{about}, in: in, page: c.d.Request.First + i,
			start: i * c.d.Request.Size, count: min(most, c.d.Request.Size)})
		if err == nil {
			err = c.asked(rows, about)
		}
		if err != nil {
			return nil, nil, err
		}
		if first == nil {
			first = doc
		}
		if len(rows) == 0 {
			break
		}
		now := ""
		for _, field := range questionShapes[c.d.shape()].fields {
			now += rows[0].text(c.d.Answer.Fields[field]) + "\x00"
		}
		if i > 0 && now == before {
			return nil, nil, c.fail(Malformed, errors.New("its pages go in a circle: the same one came twice"))
		}
		before = now
		if out = append(out, rows...); len(out) >= most {
			return out[:most], first, nil
		}
	}
	return out, first, nil
}

// asked refuses rows that say they answer something else.
func (c *Described) asked(rows []row, phrase string) error {
	at := c.d.Answer.Fields["asked"]
	if at == "" {
		return nil
	}
	for _, r := range rows {
		if err := c.echoes(r.text(at), phrase); err != nil {
			return err
		}
	}
	return nil
}

// Suggest implements Suggester.
func (c *Described) Suggest(ctx context.Context, text string, in Locale) (out []string, err error) {
	rows, _, err := c.pages(ctx, text, in, mostSuggested)
	for _, r := range rows {
		if s := r.text(c.d.Answer.Fields["suggestion"]); s != "" && !c.d.Answer.unknown(s) {
			out = append(out, s)
		}
	}
	return out, err
}

// mostSuggested is how many suggestions are taken of one answer.
const mostSuggested = 1000

// Search implements Searcher.
func (c *Described) Search(ctx context.Context, phrase string, in Locale, depth int) (Results, error) {
	rows, _, err := c.pages(ctx, phrase, in, depth)
	if err != nil {
		return Results{}, err
	}
	f := c.d.Answer.Fields
	out := Results{Engine: c.d.Name}
	for i, r := range rows {
		o := Organic{Position: i + 1, URL: r.text(f["url"]), Title: r.text(f["title"]), Snippet: r.text(f["snippet"])}
		if u, err := url.Parse(o.URL); err != nil || u.Scheme != "http" && u.Scheme != "https" || u.Host == "" {
			return Results{}, c.fail(Malformed, fmt.Errorf("result %d has no web address", i+1))
		}
		if n, err := strconv.Atoi(r.text(f["position"])); err == nil && n > 0 && n <= 1000 {
			o.Position = n
		}
		out.Organic = append(out.Organic, o)
	}
	slices.SortStableFunc(out.Organic, func(a, b Organic) int { return a.Position - b.Position })
	for i := 1; i < len(out.Organic); i++ {
		if out.Organic[i].Position == out.Organic[i-1].Position {
			return Results{}, c.fail(Malformed, fmt.Errorf("two results have place %d", out.Organic[i].Position))
		}
	}
	if out.Total = len(out.Organic); len(out.Organic) >= depth {
		out.Total++ // how many more there are it does not say
	}
	return out, nil
}
