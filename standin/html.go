package standin

import (
	"bytes"
	"embed"
	"encoding/json"
	"hash/fnv"
	"html/template"
	"strings"
	"time"
)

//go:embed skeletons/parts.html
var skeletonFiles embed.FS

var skeletons = template.Must(template.ParseFS(skeletonFiles, "skeletons/parts.html"))

// view is what a skeleton shows.
type view struct {
	Doc                      document
	ID                       uint32
	Language                 string
	Description              string
	Replies                  []writtenReply
	Site, URL, Path, Charset string
	OpenGraph, MicroType     string
	Published, Modified      string
	ModifiedWords            string
	JSONLD                   template.JS
	Micro, Thread, TitleTail bool
	Nav, Latest              []navItem
	Out                      []outItem
	Body                     template.HTML
}

type writtenReply struct{ By, On, Text string }

type navItem struct{ Path, Title string }

type outItem struct{ URL, Anchor, Rel string }

// schemaType is what a kind of page calls itself, when it does.
var schemaType = [pageKinds]string{
	pageHome: "WebSite", pageShelf: "CollectionPage", pageProduct: "Product", pageComparison: "Article",
	pageReview: "Review", pageHowTo: "HowTo", pageArticle: "BlogPosting", pageThread: "DiscussionForumPosting",
	pageVideo: "VideoObject", pageEntry: "DefinedTerm", pageTool: "WebApplication", pageOfficial: "Article",
}

var publisherType = [siteKinds]string{publisher: "NewsMediaOrganization", nicheSite: "Organization",
	community: "Organization", marketplace: "OnlineStore", maker: "Corporation",
	institution: "EducationalOrganization", videoHost: "Organization", encyclopedia: "Organization"}

// bodies are the two ways that a kind of page is laid out.
var bodies = [pageKinds]string{pageHome: "home", pageShelf: "shelf", pageProduct: "product", pageComparison: "compare",
	pageReview: "compare", pageHowTo: "steps", pageArticle: "text", pageThread: "thread", pageVideo: "video",
	pageEntry: "entry", pageTool: "tool", pageOfficial: "entry"}

// nameOf is a number of the page that depends on its address only.
func nameOf(p *page) uint32 {
	h := fnv.New32a()
	h.Write([]byte(p.site.domain + p.path))
	return h.Sum32()
}

// html renders a page of the world as it is now.
func (w *World) html(p *page) []byte {
	d := w.write(p)
	modified := p.modifiedAt(w.now)
	v := view{Doc: d, ID: p.key % 1e6, Language: w.scenarios[p.hobby].Language, Site: p.site.title, URL: p.url(),
		Path: p.path, Charset: "utf-8", Published: p.published.Format(time.DateOnly),
		Modified:      modified.Format(time.DateOnly),
		ModifiedWords: modified.Format("2 January 2006"), OpenGraph: "website",
		Thread: p.kind == pageThread, TitleTail: p.site.id%3 == 0}
	v.Description = d.describe()
	hurry := w.random("typed", p.site.domain, p.path)
	for _, r := range d.Replies {
		v.Replies = append(v.Replies, writtenReply{r.By, r.On, typed(r.Text.String(), hurry)})
	}
	if p.fault == oldCharset {
		v.Charset = "windows-1252"
	}
	switch p.kind {
	case pageArticle, pageComparison, pageHowTo, pageReview, pageOfficial:
		v.OpenGraph = "article"
	case pageProduct:
		v.OpenGraph = "product"
	case pageVideo:
		v.OpenGraph = "video.other"
	}
	switch p.site.markup {
	case 1:
		v.JSONLD = jsonLD(p, d, v)
	case 2:
		v.Micro, v.MicroType = true, schemaType[p.kind]
	}
	for i, other := range p.site.pages {
		if i == 0 || other == p || !other.standsAt(w.now) {
			continue
		}
		if len(v.Nav) < 6 {
			v.Nav = append(v.Nav, navItem{other.path, other.title})
		}
		if p.kind == pageHome && len(v.Latest) < 20 {
			v.Latest = append(v.Latest, navItem{other.path, other.title})
		}
	}
	for _, l := range p.out {
		if l.aliveAt(w.now) {
			v.Out = append(v.Out, outItem{l.to.url(), l.anchor, l.rel})
		}
	}
	var b bytes.Buffer
	variant := bodies[p.kind] + [...]string{"-a", "-b"}[p.site.layout]
	err := skeletons.ExecuteTemplate(&b, variant, v)
	v.Body = template.HTML(b.String()) // just written by a template that escapes
	b.Reset()
	if err == nil {
		err = skeletons.ExecuteTemplate(&b, [...]string{"plain", "boxes", "old"}[p.site.style], v)
	}
	if err != nil {
		return []byte("<!doctype html><title>Broken</title><p>" + template.HTMLEscapeString(err.Error()))
	}
	switch p.fault {
	case oldCharset, wrongCharset:
		return toWindows1252(b.String())
	case soup:
		return []byte(souped.Replace(b.String()))
	}
	return b.Bytes()
}

// souped makes HTML as it is often found: browsers read it, validators do not.
var souped = strings.NewReplacer("<!DOCTYPE html>\n", "", "</p>", "", "</li>", "", "<h2>", "<h2><font size=4><b>",
	"</h2>", "</font></h2>",
	" alt=", " title=", "<tbody>", "", "</tbody>", "", "</td>", "", "<article>", "<article><center>")

func toWindows1252(s string) []byte {
	return []byte(strings.NewReplacer("–", "\x96", "’", "\x92", "“", "\x93", "”", "\x94").Replace(s))
}

func jsonLD(p *page, d document, v view) template.JS {
	node := map[string]any{"@context": "https://schema.org", "@type": schemaType[p.kind], "name": d.Title,
		"datePublished": v.Published, "dateModified": v.Modified,
		"publisher": map[string]any{"@type": publisherType[p.site.kind], "name": p.site.title}}
	if p.kind == pageProduct && len(d.Products) > 0 {
		node["brand"] = map[string]any{"@type": "Brand", "name": d.Products[0].Brand}
		node["offers"] = map[string]any{"@type": "Offer", "price": d.Products[0].Price, "priceCurrency": "USD"}
	}
	switch p.kind { // what readers did with it, as such pages say it
	case pageArticle, pageComparison, pageHowTo, pageReview:
		node["commentCount"] = len(v.Replies)
		node["interactionStatistic"] = []any{map[string]any{"@type": "InteractionCounter",
			"interactionType": "https://schema.org/ShareAction", "userInteractionCount": nameOf(p) >> 8 % 400}}
	case pageProduct:
		node["aggregateRating"] = map[string]any{"@type": "AggregateRating", "ratingCount": 1 + nameOf(p)>>8%150,
			"ratingValue": 3 + float64(nameOf(p)>>4%21)/10}
	}
	if p.kind == pageComparison {
		var items []any
		for i, pr := range d.Products {
			items = append(items, map[string]any{"@type": "ListItem", "position": i + 1, "name": pr.Name})
		}
		node["mainEntity"] = map[string]any{"@type": "ItemList", "itemListElement": items}
	}
	text, err := json.Marshal(node)
	if err != nil {
		return "{}"
	}
	return template.JS(text)
}
