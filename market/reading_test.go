package market

import (
	"strings"
	"testing"

	"cleverniche/core/serp"
)

// TestReactions: interaction counters as schema.org's page on InteractionCounter writes them, in microdata and JSON-LD
// (its example of an article with shares and comments, from memory, without the service's name), ratings as its page on
// AggregateRating does, and comments that stand on the page.
func TestReactions(t *testing.T) {
	for name, c := range map[string]struct {
		body string
		want serp.Reactions
	}{
		"microdata": {`<div itemscope itemtype="https://schema.org/Article">
<span itemprop="name">How to Tie a Reef Knot</span>
<div itemprop="interactionStatistic" itemscope itemtype="https://schema.org/InteractionCounter">
<meta itemprop="interactionType" content="https://schema.org/ShareAction"/>
<meta itemprop="userInteractionCount" content="1203" /></div>
<div itemprop="interactionStatistic" itemscope itemtype="https://schema.org/InteractionCounter">
<link itemprop="interactionType" href="https://schema.org/CommentAction"/>
<meta itemprop="userInteractionCount" content="78" /></div></div>`,
			serp.Reactions{Comments: 78, Shares: 1203, Likes: -1, Ratings: -1}},
		"JSON-LD": {`<script type="application/ld+json">{"@context":"https://schema.org","@type":"Article",
"interactionStatistic":[{"@type":"InteractionCounter","interactionType":"https://schema.org/ShareAction",
"userInteractionCount":"1203"},{"@type":"InteractionCounter","interactionType":{"@type":"CommentAction"},
"userInteractionCount":78}],"name":"How to Tie a Reef Knot"}</script>`,
			serp.Reactions{Comments: 78, Shares: 1203, Likes: -1, Ratings: -1}},
		"rating": {`<div itemscope itemtype="https://schema.org/Product"><div itemprop="aggregateRating" itemscope
itemtype="https://schema.org/AggregateRating">Rated <span itemprop="ratingValue">3.5</span>/5 based on
<span itemprop="reviewCount">11</span> customer reviews</div></div>`,
			serp.Reactions{Comments: -1, Shares: -1, Likes: -1, Ratings: 11, Rating: 3.5}},
		"before there were counters": {`<meta itemprop="interactionCount" content="UserComments:1,024">`,
			serp.Reactions{Comments: 1024, Shares: -1, Likes: -1, Ratings: -1}},
		"counted": {`<article>text</article><div class="comments"><p class="comment">a</p><p class="comment">b</p></div>`,
			serp.Reactions{Comments: 2, Counted: true, Shares: -1, Likes: -1, Ratings: -1}},
		"hostile": {`<script type="application/ld+json">{"interactionStatistic":
{"interactionType":"https://schema.org/LikeAction",
"userInteractionCount":"-5"},"commentCount":1e300,"aggregateRating":{"ratingCount":"many"}}</script>` +
			`<meta itemprop="interactionCount" content=":">`, serp.NoReactions()},
	} {
		p, err := ReadPage(Fetched{URL: "http://a.example/", ContentType: "text/html", Body: []byte("<body>" + c.body)})
		if err != nil {
			t.Fatal(err)
		}
		got := serp.NoReactions()
		if p.Reactions != nil {
			got = *p.Reactions
		}
		if got != c.want {
			t.Errorf("%s: %+v, want %+v", name, got, c.want)
		}
	}
}

// TestReadingCopy: nothing that runs, loads or leads away is left, whatever the page does; the phrase's words are
// marked.
func TestReadingCopy(t *testing.T) {
	says := serp.NewQuery("star tracker", "en").Says
	read := func(body string) string {
		c, err := ReadingCopy(Fetched{URL: "http://a.example/", ContentType: "text/html", Body: []byte(body)}, says)
		if err != nil {
			t.Fatal(err)
		}
		return string(c.HTML)
	}
	got := read(`<nav>menu</nav><main><h1 onclick="x()">Star <i>trackers</i></h1><p style="x">A
<a href="javascript:x">tracker</a>
<img src=x onerror=x><script>alert(1)</script><iframe src="//a.test"></iframe><form action=x><input></form></p>
<table><tr><td>1</td></tr></table><div class="comment">I say</div></main>`)
	for _, want := range []string{"<h2><mark>Star</mark> <i><mark>trackers</mark></i></h2>", "<mark>tracker</mark>",
		"<td>1</td>"} {
		if !strings.Contains(got, want) {
			t.Errorf("no %s in %s", want, got)
		}
	}
	for _, hostile := range []string{"<svg><script>alert(1)</script></svg>",
		`<math><mi xlink:href="javascript:x">t</mi></math>`,
		`<p><style><img src=x onerror=alert(1)></style>`, `<noscript><p title="</noscript><img src=x onerror=x>">`,
		`<a href="data:text/html,x">t</a>`, `<mark onmouseover=x>t</mark>`, `<template><script>x</script></template>`,
		"<p>\x00<b/onclick=x>t", `<object data=x></object><embed src=x><meta http-equiv=refresh content=0>`} {
		lower := strings.ToLower(read("<main>" + hostile + "<p>text text text</p></main>"))
		for _, bad := range []string{"<script", "<img", "onerror", "onclick", "onmouseover", "href", "javascript:", "<style",
			"<iframe", "<object", "<embed", "<meta", "src="} {
			if strings.Contains(lower, bad) {
				t.Errorf("%s is left of %s: %s", bad, hostile, lower)
			}
		}
	}
	for _, odd := range []string{"", "word", "\x00\x00\x00", strings.Repeat("<i>", 300) + "deep"} {
		read(odd)
	}
	long, err := ReadingCopy(Fetched{URL: "http://a.example/", ContentType: "text/html",
		Body: []byte("<main>" + strings.Repeat("<p>all the stars we track</p>", 60_000) + "</main>")}, says)
	if err != nil || !long.Cut || len(long.HTML) > 3*mostCopied {
		t.Errorf("%d bytes, cut %v, %v", len(long.HTML), long.Cut, err)
	}
}
