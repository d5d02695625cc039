package standin

import (
	"bytes"
	"embed"
	"encoding/json"
	"html/template"
	"strings"
)

//go:embed skeletons/parts.html
var skeletonFiles embed.FS

var skeletons = template.Must(template.ParseFS(skeletonFiles, "skeletons/parts.html"))

// view is what a skeleton shows.
type view struct {
	Doc                       document
	ID                        int
	Site, URL, Path, Charset  string
	OpenGraph, MicroType      string
	Published, Modified       string
	ModifiedWords             string
	JSONLD                    template.JS
	Micro, Sells, Video, Tool bool
	Thread, TitleTail         bool
	Nav                       []*navItem
	Out                       []outItem
}

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

// HTML renders a page of the world.
func (w *World) html(p *page) []byte {
	d := w.write(p)
	v := view{Doc: d, ID: p.id, Site: p.site.title, URL: p.url(), Path: p.path, Charset: "utf-8",
		Published: p.published.Format("2006-01-02"), Modified: p.modified.Format("2006-01-02"),
		ModifiedWords: p.modified.Format("2 January 2006"), OpenGraph: "website",
		Sells: p.kind == pageShelf || p.kind == pageProduct, Video: p.kind == pageVideo,
		Tool: p.kind == pageTool, Thread: p.kind == pageThread, TitleTail: p.site.id%3 == 0}
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
		v.JSONLD = w.jsonLD(p, d)
	case 2:
		v.Micro, v.MicroType = true, schemaType[p.kind]
	}
	for i, other := range p.site.pages {
		if i > 0 && i < 7 && other != p {
			v.Nav = append(v.Nav, &navItem{other.path, other.title})
		}
	}
	for _, l := range p.out {
		v.Out = append(v.Out, outItem{l.to.url(), l.anchor, l.rel})
	}
	var b bytes.Buffer
	if err := skeletons.ExecuteTemplate(&b, [...]string{"plain", "soup", "old"}[p.site.style], v); err != nil {
		return []byte("<!doctype html><title>Broken</title><p>" + template.HTMLEscapeString(err.Error()))
	}
	if p.fault == oldCharset {
		return toWindows1252(b.String())
	}
	return b.Bytes()
}

func toWindows1252(s string) []byte {
	return []byte(strings.NewReplacer("–", "\x96", "’", "\x92", "“", "\x93", "”", "\x94").Replace(s))
}

func (w *World) jsonLD(p *page, d document) template.JS {
	node := map[string]any{"@context": "https://schema.org", "@type": schemaType[p.kind], "name": d.Title,
		"datePublished": p.published.Format("2006-01-02"), "dateModified": p.modified.Format("2006-01-02"),
		"publisher": map[string]any{"@type": publisherType[p.site.kind], "name": p.site.title}}
	if p.kind == pageProduct && len(d.Products) > 0 {
		node["brand"] = map[string]any{"@type": "Brand", "name": d.Products[0].Brand}
		node["offers"] = map[string]any{"@type": "Offer", "price": d.Products[0].Price, "priceCurrency": "USD"}
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
