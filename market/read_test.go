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

func FuzzReadPage(f *testing.F) {
	f.Add([]byte("<title>x</title><main><p>y"), "text/html")
	f.Add([]byte(`<script type="application/ld+json">[[[{"@type":1}]]]</script>`), "text/html; charset=utf-16")
	f.Fuzz(func(t *testing.T, body []byte, kind string) {
		ReadPage(Fetched{URL: "http://a.example/", ContentType: kind, Body: body})
	})
}
