package market

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"net/http/httptest"
	"os"
	"reflect"
	"strings"
	"testing"
)

// described is a client for a description in which {at} is where a test serves.
func described(t *testing.T, text, at string) *Described {
	t.Helper()
	d, err := ReadDescription([]byte(strings.ReplaceAll(text, "{at}", at)))
	if err != nil {
		t.Fatal(err)
	}
	c, err := NewDescribed(d, func(name string) string { return map[string]string{"KEY": "pass word"}[name] })
	if err != nil {
		t.Fatal(err)
	}
	return c
}

const volumes = `
question: demand
name: volumes
private: true
request: {url: "{at}/v", body: '{"key": "{key}", "of": {phrases}}', key: KEY, batch: 2}
answer:
  format: json
  rows: $.items[*]
  fields: {phrase: $.p, searches: $.n, cpc: $.c, competition: $.k}
  months: {rows: "$.m[*]", month: $.w, searches: $.n}
  unknown: [n/a]
  currency: EUR
  errors:
    - {at: $.code, is: "41", means: wrong key}
    - {at: $.code, is: "9", means: none}
    - {at: $.code, is: "5", means: try later}
`

const sheets = `
question: results
name: sheets
private: true
request: {url: "{at}/s?q={phrase}&page={page}", headers: {X-Key: "{key}"}, key: KEY, pages: 5, first: 1, size: 2}
answer:
  format: xml
  rows: //hit
  fields: {url: "@at", title: t, asked: ../@q}
`

// TestDescribed: batches, pages, units, ranges, words and months are read as the file says, over real HTTP.
func TestDescribed(t *testing.T) {
	requests := 0
	s := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		requests++
		switch r.URL.Path {
		case "/v":
			var b strings.Builder
			buf := make([]byte, 1000)
			n, _ := r.Body.Read(buf)
			b.Write(buf[:n])
			if !strings.Contains(b.String(), `"key": "pass word"`) {
				t.Errorf("asked %s", b.String())
			}
			w.Header().Set("Content-Type", "application/json")
			if strings.Contains(b.String(), "mars") {
				fmt.Fprint(w, `{"items":[{"p":"MARS","n":"1K – 10K","c":"n/a","k":"LOW"}]}`)
				return
			}
			fmt.Fprint(w, `{"items":[{"p":"moon \"map\"","n":1900,"c":"1.20",`+
				`"m":[{"w":"2025/01","n":7},{"w":"2025/02","n":"<10"}]},`+
				`{"p":"star","n":"n/a"}]}`)
		case "/s":
			if r.Header.Get("X-Key") != "pass word" {
				t.Errorf("key %q", r.Header.Get("X-Key"))
			}
			page := r.URL.Query().Get("page")
			if page == "3" {
				fmt.Fprint(w, `<r q="moon &amp; more"/>`)
				return
			}
			fmt.Fprintf(w, `<r q="moon &amp; more"><hit at="http://a.example/%s1"><t>A %s</t></hit>`+
				`<hit at="http://b.example/%s2"/></r>`,
				page, page, page)
		case "/h":
			fmt.Fprint(w, `<ul><li><a href="/x">moon <b>map</b></a></li><li><a>moon globe</a></li></ul>`)
		case "/c":
			fmt.Fprint(w, "\ufeffno;typed\n1;moon map\n2;\"moon; globe\"\n")
		}
	}))
	defer s.Close()
	ctx, in := context.Background(), Locale{"US", "en"}
	got, err := described(t, volumes, s.URL).Demand(ctx, []string{`moon "map"`, "star", "mars"}, in)
	moon, mars := got[`moon "map"`], got["mars"]
	if err != nil || len(got) != 2 || requests != 2 || moon.Average.Searches != 1900 || len(moon.Counts) != 2 ||
		!moon.Counts[1].Under || moon.CPC.Micros != 1_200_000 || moon.CPC.Currency != "EUR" {
		t.Errorf("%+v after %d requests, %v", got, requests, err)
	}
	if mars.Average.Searches != 3162 || mars.CPC.Known() || mars.Competition < 0.1 || mars.Competition > 0.2 {
		t.Errorf("mars %+v", mars)
	}
	r, err := described(t, sheets, s.URL).Search(ctx, "moon & more", in, 10)
	if err != nil || len(r.Organic) != 4 || r.Organic[3].URL != "http://b.example/22" || r.Organic[2].Title != "A 2" ||
		r.Organic[3].Position != 4 {
		t.Errorf("%+v, %v", r, err)
	}
	for _, form := range []string{"format: html\n  rows: li\n  fields: {suggestion: a}",
		"format: csv\n  separator: ;\n  fields: {suggestion: typed}"} {
		path := "/h"
		if strings.Contains(form, "csv") {
			path = "/c"
		}
		list, err := described(t, "question: suggestions\nname: x\nprivate: true\nrequest: {url: \"{at}"+path+
			"?q={phrase}\"}\nanswer:\n  "+form+"\n", s.URL).Suggest(ctx, "moon", in)
		if err != nil || len(list) != 2 || list[0] != "moon map" || !strings.HasPrefix(list[1], "moon") {
			t.Errorf("%s: %q, %v", path, list, err)
		}
	}
}

// TestDescribedLinksTotalsNames: the other questions, as files put them.
func TestDescribedLinksTotalsNames(t *testing.T) {
	s := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		q := r.URL.Query()
		switch r.URL.Path {
		case "/l":
			if q.Get("n") != "1" {
				fmt.Fprint(w, `{"rows":[]}`)
				return
			}
			fmt.Fprintf(w, `{"all":"1.2K","rows":[{"u":"http://a.example/","t":"A","r":"nofollow","d":"2026-01-02"},`+
				`{"u":"%s","d":"soon"}]}`, orElse(q.Get("bad"), "https://b.example/x"))
		case "/t":
			fmt.Fprintf(w, `<a><n q="%s">%s</n></a>`, q.Get("q"), orElse(q.Get("bad"), "1,234"))
		case "/n/taken.example":
			fmt.Fprint(w, `{"s":"active","on":"2020-02-03T04:05:06Z"}`)
		case "/n/sold.example":
			fmt.Fprint(w, `{"s":"AVAILABLE"}`)
		case "/n/odd.example":
			fmt.Fprint(w, `{}`)
		default:
			http.NotFound(w, r)
		}
	}))
	defer s.Close()
	ctx, in := context.Background(), Locale{"US", "en"}
	client := func(question, request, answer string) *Described {
		return described(t, "question: "+question+"\nname: x\nprivate: true\nrequest: {url: \"{at}"+request+"\", pages: 3, "+
			"first: 1}\nanswer: {"+answer+"}\n", s.URL)
	}
	const linksAnswer = `format: json, rows: "$.rows[*]", total: $.all, ` +
		`fields: {from: $.u, anchor: $.t, rel: $.r, seen: $.d}`
	got, err := client("links", "/l?of={url}&n={page}", linksAnswer).Links(ctx, "http://c.example/?a=b")
	if err != nil || got.Total != 1200 || len(got.Links) != 2 || got.Links[0].Followed() || !got.Links[1].Followed() ||
		got.Links[0].FirstSeen.Day() != 2 || !got.Links[1].FirstSeen.IsZero() || got.Links[1].To != "http://c.example/?a=b" {
		t.Errorf("%+v, %v", got, err)
	}
	if _, err := client("links", "/l?of={url}&n={page}&bad=x", linksAnswer).Links(ctx, "http://c.example/"); err == nil {
		t.Error("a link from nowhere is taken")
	}
	const totalAnswer = `format: xml, rows: //n, fields: {total: ., asked: "@q"}`
	if n, err := client("totals", "/t?q={phrase}", totalAnswer).Total(ctx, "moon map", in); n != 1234 || err != nil {
		t.Errorf("%d, %v", n, err)
	}
	if n, err := client("totals", "/t?q={phrase}&bad=many", totalAnswer).Total(ctx, "moon map", in); err == nil {
		t.Errorf("many pages are %d", n)
	}
	const nameAnswer = `format: json, rows: $, free: ["404", available], fields: {taken: $.s, since: $.on}`
	names := client("names", "/n/{domain}", nameAnswer)
	for name, want := range map[string]string{"taken.example": "true 2020", "sold.example": "false 1",
		"nobody.example": "false 1", "odd.example": ""} {
		r, err := names.Registered(ctx, name)
		if said := fmt.Sprint(r.Taken, " ", r.Since.Year()); err == nil && said != want || (err != nil) != (want == "") {
			t.Errorf("%s: %s, %v", name, said, err)
		}
	}
	strict := client("names", "/n/{domain}", strings.Replace(nameAnswer, `"404", `, "", 1))
	if _, err := strict.Registered(ctx, "nobody.example"); err == nil {
		t.Error("a page that is not there says that a name is free")
	}
}

// TestDescribedFails: what is wrong is told for what it is, and the secret is in no error.
func TestDescribedFails(t *testing.T) {
	body := ""
	s := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) { fmt.Fprint(w, body) }))
	defer s.Close()
	ctx, in := context.Background(), Locale{"US", "en"}
	for _, c := range []struct {
		body, says string
		trouble    Trouble
	}{
		{`{"code":41}`, "the key is wrong", Refused},
		{`{"code":"5"}`, "cannot be reached", Unreachable},
		{`{"items":[{"p":"venus","n":1}]}`, "answers another question", Malformed},
		{`{"items":[{"p":"moon","n":"many"}]}`, "not a number", Malformed},
		{`{"items":[`, "cannot be read", Malformed},
		{strings.Repeat("[", 9<<20), "longer than", Malformed},
	} {
		body = c.body
		_, err := described(t, volumes, s.URL).Demand(ctx, []string{"moon"}, in)
		var e *Error
		if !errors.As(err, &e) || e.Trouble != c.trouble || !strings.Contains(err.Error(), c.says) ||
			strings.Contains(err.Error(), "pass") {
			t.Errorf("%.40s: %v", c.body, err)
		}
	}
	body = `{"code":9}`
	if got, err := described(t, volumes, s.URL).Demand(ctx, []string{"moon"}, in); err != nil || len(got) != 0 {
		t.Errorf("nothing: %+v, %v", got, err)
	}
	body = `<r q="moon"><hit at="http://a.example/1"/><hit at="http://b.example/"/></r>`
	if _, err := described(t, sheets, s.URL).Search(ctx, "moon", in, 10); err == nil ||
		!strings.Contains(err.Error(), "in a circle") {
		t.Errorf("pages in a circle: %v", err)
	}
	if _, err := described(t, sheets, s.URL).Search(ctx, "mars", in, 10); err == nil {
		t.Error("an answer about another phrase")
	}
	body = `<r q="moon"><hit at="javascript:alert(1)"/></r>`
	if _, err := described(t, sheets, s.URL).Search(ctx, "moon", in, 1); err == nil {
		t.Error("a result that is no web address")
	}
	public := described(t, strings.Replace(volumes, "private: true", "private: false", 1), s.URL)
	if _, err := public.Demand(ctx, []string{"moon"}, in); err == nil || !strings.Contains(err.Error(), "private") {
		t.Errorf("an address of this machine: %v", err)
	}
}

// TestDescriptionsAreChecked before anything is asked, each with what is wrong.
func TestDescriptionsAreChecked(t *testing.T) {
	good := strings.ReplaceAll(volumes, "{at}", "https://service.example")
	for from, to := range map[string]string{
		"question: demand":            "question: weather",
		"name: volumes":               "name: ''",
		"https://service.example/v":   "ftp://service.example/v",
		"//service.example/v":         "//{phrase}/v",
		`"of": {phrases}`:             `"of": 1`,
		"{key}":                       "{secret}",
		"key: KEY":                    "key: ''",
		"batch: 2":                    "batch: 100000",
		"batch: 2}":                   "batch: 2, wait: 5}",
		"format: json":                "format: toml",
		"rows: $.items[*]":            "rows: '$.items['",
		"phrase: $.p, searches":       "searches",
		"competition: $.k":            "weather: $.k",
		"means: wrong key":            "means: sunshine",
		"question: demand\nname":      "question: results\nname",
		"private: true\n":             "beside: true\nquestion: links\n",
		"name: volumes\nprivate":      "name: x\nbeside: maybe\nprivate",
		"question: demand\nname: vol": "name: [\nname: vol",
	} {
		if !strings.Contains(good, from) {
			t.Fatalf("%q is not in it", from)
		}
		if _, err := ReadDescription([]byte(strings.Replace(good, from, to, 1))); err == nil {
			t.Errorf("%q in place of %q is taken", to, from)
		}
	}
	unset := func(string) string { return "" }
	if _, err := NewDescribed(described(t, volumes, "http://x.example").d, unset); err == nil ||
		!strings.Contains(err.Error(), "KEY_FILE") {
		t.Errorf("without a key: %v", err)
	}
	// Those that ship:
	for _, name := range []string{"volumes", "results", "suggestions", "links", "totals", "names", "rankings"} {
		data, err := os.ReadFile("../docs/sources/" + name + ".yaml")
		if err == nil {
			_, err = ReadDescription(data)
		}
		if err != nil {
			t.Errorf("%s: %v", name, err)
		}
	}
}

// TestTheSchemaIsTheFile: the published schema names what a description may say, and nothing else.
func TestTheSchemaIsTheFile(t *testing.T) {
	data, err := os.ReadFile("../docs/sources.schema.json")
	if err != nil {
		t.Fatal(err)
	}
	type schema struct {
		Properties map[string]json.RawMessage `json:"properties"`
		Items      json.RawMessage            `json:"items"`
	}
	var compare func(at string, raw []byte, of reflect.Type)
	compare = func(at string, raw []byte, of reflect.Type) {
		var s schema
		if err := json.Unmarshal(raw, &s); err != nil {
			t.Fatalf("%s: %v", at, err)
		}
		for of.Kind() == reflect.Pointer || of.Kind() == reflect.Slice {
			if of.Kind() == reflect.Slice && len(s.Items) > 0 {
				raw = s.Items
				json.Unmarshal(raw, &s)
			}
			of = of.Elem()
		}
		if of.Kind() != reflect.Struct {
			return
		}
		for i := range of.NumField() {
			name := of.Field(i).Tag.Get("yaml")
			sub, there := s.Properties[name]
			if !there {
				t.Errorf("%s.%s is not in the schema", at, name)
				continue
			}
			compare(at+"."+name, sub, of.Field(i).Type)
		}
		if len(s.Properties) != of.NumField() {
			t.Errorf("%s has %d properties, and %d fields", at, len(s.Properties), of.NumField())
		}
	}
	compare("", data, reflect.TypeFor[Description]())
}
