package market

import (
	"slices"
	"strings"
	"testing"
	"time"
)

func TestReadPage(t *testing.T) {
	p, err := ReadPage(Fetched{URL: "http://a.example/x", ContentType: "text/html; charset=utf-8",
		Body: []byte(`<!doctype html><html><head>
<title> Best
 Telescopes </title><meta name="description" content="A guide."><meta property="og:type" content="article">
<meta property="og:site_name" content="A">
<link rel="canonical" href="/best"><script type="application/ld+json">{"@context":"https://schema.org","@graph":[
{"@type":["Article","HowTo"],
"datePublished":"2024-03-01","publisher":{"@type":"Museum","name":"M"}},
{"@type":"Product","brand":{"name":"Halvorn"}}]}</script>
<script type="application/ld+json">{ broken</script></head><body>
<nav>menu words</nav><main><h1>Best</h1>
<p>Costs $120.00 and</p><p>$99.</p>
<h2>First</h2><ol><li>a</li><li>b</li></ol>
<button>Add to basket</button>
<form><input type="hidden" name="x"><input name="y"></form></main>
<div class="sidebar">elsewhere</div><footer>Updated 2 May 2026</footer></body></html>`)})
	if err != nil {
		t.Fatal(err)
	}
	if p.Title != "Best Telescopes" || p.Description != "A guide." || p.Canonical != "http://a.example/best" ||
		p.SiteName != "A" {
		t.Errorf("head: %+v", p)
	}
	if !slices.Equal(p.SchemaTypes, []string{"Article", "HowTo", "Product"}) ||
		!slices.Equal(p.Publisher, []string{"Museum"}) || !slices.Equal(p.Brands, []string{"Halvorn"}) {
		t.Errorf("markup: %v %v %v", p.SchemaTypes, p.Publisher, p.Brands)
	}
	if p.Text != "Best Costs $120.00 and $99. First a b Add to basket" || p.Prices != 2 || p.CartButtons != 1 ||
		p.Inputs != 1 || p.Steps != 2 {
		t.Errorf("body: %q, %+v", p.Text, p)
	}
	if !p.Touched().Equal(time.Date(2026, 5, 2, 0, 0, 0, 0, time.UTC)) || p.Published.Year() != 2024 {
		t.Errorf("dates: %v, %v", p.Published, p.Touched())
	}
}

func TestReadPageOfBadHTML(t *testing.T) {
	for name, body := range map[string]string{"empty": "", "no tags": "just text",
		"unclosed": "<div><p>a<table><tr><td>b", "bytes": "\xff\x00\xfe<p>x",
		"nested": strings.Repeat("<div>", 300) + "x", "wide": strings.Repeat("<b>x</b>", 5000)} {
		if _, err := ReadPage(Fetched{URL: "http://a.example/", ContentType: "text/html", Body: []byte(body)}); err != nil {
			t.Errorf("%s: %v", name, err)
		}
	}
	if _, err := ReadPage(Fetched{Body: []byte(strings.Repeat("<div>", 50000))}); err == nil {
		t.Error("50,000 nested elements are taken for a page")
	}
	p, err := ReadPage(Fetched{URL: "http://a.example/", ContentType: "text/html",
		Body: []byte("<meta charset=windows-1252><title>Caf\xe9 \x96 d\xfcr</title>")})
	if err != nil || p.Title != "Café – dür" {
		t.Errorf("an old charset: %q, %v", p.Title, err)
	}
}

func TestReadIdeasText(t *testing.T) {
	rows, problems, err := ReadIdeas(strings.NewReader("\ufeffBest Telescope\r\n\r\n🔭\n<b>html</b>\n"+
		strings.Repeat("x ", 9000)+"\n\xff\xfe\xff\n"), "USD")
	if err != nil || len(rows) != 2 || rows[0].Phrase != "best telescope" || rows[1].Line != 4 || rows[0].Searches != -1 {
		t.Errorf("rows %+v, error %v", rows, err)
	}
	if len(problems) != 3 || problems[0].Line != 3 || problems[1].Line != 5 ||
		!strings.Contains(problems[2].Reason, "UTF-8") {
		t.Errorf("problems %+v", problems)
	}
}

func TestReadIdeasTable(t *testing.T) {
	rows, problems, err := ReadIdeas(strings.NewReader("CPC;Note;Phrase;Searches\r\n0,85;x;\"star; chart\";1 "+
		"900\r\n$1.2;;moon;<10\r\n;;mars;\r\n3;;;5\r\nfree;;venus;7\r\n;;sun;lots\r\n;;a\"b;4\r\n"), "EUR")
	if err != nil {
		t.Fatal(err)
	}
	if len(rows) != 3 || rows[0].Phrase != "star chart" || rows[0].Searches != 1900 || rows[0].CPC.Micros != 850000 ||
		rows[0].CPC.Currency != "EUR" {
		t.Errorf("first row %+v", rows)
	}
	if !rows[1].Under || rows[1].CPC.Currency != "USD" || rows[1].CPC.Micros != 1200000 || rows[2].Searches != -1 ||
		rows[2].CPC.Known() {
		t.Errorf("other rows %+v", rows[1:])
	}
	var lines []int
	for _, p := range problems {
		lines = append(lines, p.Line)
	}
	if !slices.Equal(lines, []int{5, 6, 7, 8}) {
		t.Errorf("problems %+v", problems)
	}
}

func TestReadIdeasRefuses(t *testing.T) {
	if _, _, err := ReadIdeas(strings.NewReader("PK\x03\x04\x00\x00"), "USD"); err == nil ||
		!strings.Contains(err.Error(), "CSV") {
		t.Errorf("a spreadsheet file: %v", err)
	}
	utf16 := "\xff\xfe" + "p\x00h\x00r\x00a\x00s\x00e\x00\n\x00m\x00o\x00o\x00n\x00"
	if rows, _, err := ReadIdeas(strings.NewReader(utf16), "USD"); err != nil || len(rows) != 1 ||
		rows[0].Phrase != "moon" {
		t.Errorf("UTF-16: %+v, %v", rows, err)
	}
	_, problems, err := ReadIdeas(strings.NewReader("phrase,searches\nmoon,5\n\"never closed,7\nmars,8\n"), "USD")
	if err != nil || len(problems) != 1 || problems[0].Line != 3 || !strings.Contains(problems[0].Reason, "never closed") {
		t.Errorf("an open quotation: %+v, %v", problems, err)
	}
}

func FuzzReadIdeas(f *testing.F) {
	f.Add([]byte("phrase,searches,cpc\nmoon,5,0.1\n"))
	f.Add([]byte("a\nb\r\nc"))
	f.Add([]byte("\xfe\xff\x00p"))
	f.Add([]byte("phrase\n\"\"\"\n"))
	f.Fuzz(func(t *testing.T, data []byte) {
		rows, _, err := ReadIdeas(strings.NewReader(string(data)), "USD")
		for _, r := range rows {
			if r.Phrase == "" || r.Line < 1 || r.Searches < -1 || r.CPC.Micros < 0 || err != nil {
				t.Errorf("row %+v, error %v", r, err)
			}
		}
	})
}

func FuzzReadPage(f *testing.F) {
	f.Add([]byte("<title>x</title><main><p>y"), "text/html")
	f.Add([]byte(`<script type="application/ld+json">[[[{"@type":1}]]]</script>`), "text/html; charset=utf-16")
	f.Fuzz(func(t *testing.T, body []byte, kind string) {
		ReadPage(Fetched{URL: "http://a.example/", ContentType: kind, Body: body})
	})
}
