package market

import (
	"encoding/json"
	"html/template"
	"math"
	"strconv"
	"strings"

	"cleverniche/core/serp"

	"github.com/PuerkitoBio/goquery"
	"github.com/microcosm-cc/bluemonday"
	"golang.org/x/net/html"
)

// copyPolicy is what a reading copy may hold: text and its shape. Nothing in it runs, loads, leads away or is styled.
var copyPolicy = func() *bluemonday.Policy {
	p := bluemonday.NewPolicy()
	p.AllowElements("p", "br", "h1", "h2", "h3", "h4", "h5", "h6", "ul", "ol", "li", "dl", "dt", "dd", "blockquote",
		"pre", "code", "table", "caption", "thead", "tbody", "tfoot", "tr", "th", "td", "em", "strong", "i", "b", "sub",
		"sup", "mark", "div")
	return p
}()

// mostCopied is how much of a reading copy there is at most, in bytes.
const mostCopied = 400_000

// Copy is a page to be read: its main text as HTML that holds nothing but text and its shape, with the words that hit
// within mark elements. Cut says that it was too long to be whole.
type Copy struct {
	HTML template.HTML // sanitised
	Cut  bool
}

// ReadingCopy makes one of a fetched page.
func ReadingCopy(f Fetched, hit func(word string) bool) (Copy, error) {
	if len(f.Body) == 0 {
		return Copy{}, nil
	}
	doc, err := documentOf(f)
	if err != nil {
		return Copy{}, err
	}
	main := mainOf(doc.Find("body"))
	withoutComments(main)
	main.Find("form, button, input, select, textarea, iframe, object, embed, video, audio, canvas, img").Remove()
	left := mostCopied
	for _, node := range main.Nodes {
		markIn(node, hit, &left, 0)
	}
	text, err := main.Html()
	if err != nil {
		return Copy{}, err
	}
	return Copy{template.HTML(strings.TrimSpace(copyPolicy.Sanitize(text))), left <= 0}, nil
}

// markIn marks words in the text below a node, and drops what comes after so much text.
func markIn(node *html.Node, hit func(word string) bool, left *int, depth int) {
	for child := node.FirstChild; child != nil; {
		next := child.NextSibling
		switch {
		case *left <= 0 || depth > 200:
			node.RemoveChild(child)
		case child.Type == html.TextNode:
			*left -= len(child.Data)
			marked(node, child, hit)
		case child.Type == html.ElementNode:
			// anything may be a heading's size, but the page that shows the copy has the first of its own
			if child.Data == "h1" {
				child.Data = "h2"
			}
			markIn(child, hit, left, depth+1)
		}
		child = next
	}
}

// marked puts words that hit into mark elements.
func marked(parent, text *html.Node, hit func(word string) bool) {
	parts := serp.Mark(text.Data, hit)
	if len(parts) == 0 || len(parts) == 1 && !parts[0].Hit {
		return
	}
	for _, part := range parts {
		node := &html.Node{Type: html.TextNode, Data: part.Text}
		if part.Hit {
			mark := &html.Node{Type: html.ElementNode, Data: "mark"}
			mark.AppendChild(node)
			node = mark
		}
		parent.InsertBefore(node, text)
	}
	parent.RemoveChild(text)
}

// readReactions reads what a page says its readers did with it: JSON-LD and microdata of schema.org, and the comments
// that stand on it.
func readReactions(p *serp.Page, doc *goquery.Document) {
	r := serp.NoReactions()
	doc.Find("script[type='application/ld+json']").Each(func(_ int, s *goquery.Selection) {
		if node, err := jsonIn(s.Text()); err == nil {
			countNode(&r, node, 0)
		}
	})
	doc.Find("[itemprop='interactionStatistic']").Each(func(_ int, s *goquery.Selection) {
		counted(&r, propOf(s, "interactionType"), propOf(s, "userInteractionCount"))
	})
	doc.Find("[itemprop='interactionCount']").Each(func(_ int, s *goquery.Selection) { // as before there were counters
		if kind, count, is := strings.Cut(valueOf(s), ":"); is {
			counted(&r, kind, count)
		}
	})
	most(&r.Comments, propOf(doc.Selection, "commentCount"))
	for _, name := range []string{"ratingCount", "reviewCount"} {
		most(&r.Ratings, propOf(doc.Selection, name))
	}
	if value, ok := number(propOf(doc.Selection, "ratingValue")); ok && r.Rating == 0 {
		r.Rating = value
	}
	stand := doc.Find(".comment, [itemprop='comment'], [itemtype$='schema.org/Comment']").Length()
	if stand > 0 && stand > r.Comments {
		r.Comments, r.Counted = stand, true
	}
	if r.Any() {
		p.Reactions = &r
	}
}

// countNode walks a JSON-LD value. Depth is bounded: the file is a stranger's.
func countNode(r *serp.Reactions, node any, depth int) {
	if depth > 6 {
		return
	}
	switch n := node.(type) {
	case []any:
		for _, one := range n {
			countNode(r, one, depth+1)
		}
	case map[string]any:
		counted(r, kindOf(n["interactionType"]), scalar(n["userInteractionCount"]))
		most(&r.Comments, scalar(n["commentCount"]))
		if rating, is := n["aggregateRating"].(map[string]any); is {
			most(&r.Ratings, scalar(rating["ratingCount"]))
			most(&r.Ratings, scalar(rating["reviewCount"]))
			if value, ok := number(scalar(rating["ratingValue"])); ok {
				r.Rating = value
			}
		}
		for _, key := range []string{"@graph", "mainEntity", "mainEntityOfPage", "interactionStatistic", "itemReviewed"} {
			countNode(r, n[key], depth+1)
		}
	}
}

// kindOf is the type of an action: its address, its name, or an object of that type.
func kindOf(v any) string {
	if m, is := v.(map[string]any); is {
		return strings.Join(strings2(m["@type"]), " ")
	}
	return text(v)
}

// counted takes a counter of a kind of interaction.
func counted(r *serp.Reactions, kind, count string) {
	kind = strings.ToLower(kind[strings.LastIndexAny(kind, "/:#")+1:])
	switch kind {
	case "commentaction", "usercomments", "replyaction":
		most(&r.Comments, count)
	case "shareaction":
		most(&r.Shares, count)
	case "likeaction", "userlikes", "userplusones", "agreeaction":
		most(&r.Likes, count)
	}
}

// most keeps the larger of a number and one that is written.
func most(to *int, written string) {
	if x, ok := number(written); ok && x >= 0 && x <= 1e12 && int(x) > *to {
		*to = int(x)
	}
}

func propOf(s *goquery.Selection, name string) string {
	return valueOf(s.Find("[itemprop='" + name + "']").First())
}

// valueOf is what a property's element says: by its attribute, or its text.
func valueOf(s *goquery.Selection) string {
	for _, name := range []string{"content", "href", "value"} {
		if v, has := s.Attr(name); has {
			return clean(v)
		}
	}
	return clean(s.Text())
}

func jsonIn(text string) (node any, err error) { return node, json.Unmarshal([]byte(text), &node) }

// scalar is a JSON value as it is written.
func scalar(v any) string {
	switch x := v.(type) {
	case string:
		return x
	case float64:
		return strconv.FormatFloat(x, 'f', -1, 64)
	}
	return ""
}

// number reads a number as pages write it: "1,203" is a thousand.
func number(s string) (float64, bool) {
	x, err := strconv.ParseFloat(strings.ReplaceAll(strings.TrimSpace(s), ",", ""), 64)
	return x, err == nil && !math.IsNaN(x) && !math.IsInf(x, 0)
}
