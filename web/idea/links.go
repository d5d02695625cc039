package idea

import (
	"context"
	"fmt"
	"io"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"cleverniche/core/links"
	"cleverniche/study/files"
	"cleverniche/study/input"
	"cleverniche/study/results"
	"cleverniche/web/frame"
)

// mostBackers is how many linking sites are shown at once.
const mostBackers = 200

// linksPage is who links to the results of one idea.
type linksPage struct {
	frame.Page
	Idea    uint
	Phrase  string
	Linked  results.Linked
	At      results.Backed // the result whose links are shown
	Other   string         // what stands beside it, in words
	Rows    []links.Backer
	More    int
	Only    string // of which class
	Classes []classCount
	First   []links.Backer // link to the first alone
	Both    []links.Backer
	Second  []links.Backer
	Asking  []links.Asking
	AskMore int
	OwnCost string
	Needs   string // what even odds take at my standing
	Choices []results.Backed
}

type classCount struct {
	Class links.Class
	Name  string
	Count int
}

// showLinks shows who links to the results of an idea.
func showLinks(r *frame.Request) error {
	d, err := looked(r)
	if err != nil {
		return err
	}
	v := linksPage{Idea: d.Idea.ID, Phrase: d.Idea.Phrase, Needs: d.LinksWords, Only: r.Query("only")}
	if v.Linked, err = r.Study.Results.Linked(r.Context(), r.Niche, d.Evidence); err != nil {
		return err
	}
	if len(v.Linked.Results) == 0 { // somebody else's file may say so
		return input.ErrNotFound
	}
	at := find(v.Linked.Results, r.Query("place"))
	if at == nil {
		at = &v.Linked.Results[0]
		if i := slices.IndexFunc(v.Linked.Results, func(b results.Backed) bool { return b.Known }); i >= 0 {
			at = &v.Linked.Results[i]
		}
	}
	v.At = *at
	v.Choices = v.Linked.Results
	v.beside(r.Query("with"))
	v.rows()
	v.Asking = v.Linked.WorthAsking()
	if n := len(v.Asking) - mostAsked; n > 0 {
		v.Asking, v.AskMore = v.Asking[:mostAsked], n
	}
	if !v.Linked.OwnKnown && r.Niche.OwnSite != "" {
		v.OwnCost = r.Study.Results.OwnLinksCost()
	}
	if v.Page, err = r.Page("Links: "+d.Idea.Phrase, "judge", -1); err != nil {
		return err
	}
	return r.Render("idea/links", v)
}

// mostAsked is how many sites worth asking are shown; the file has all.
const mostAsked = 50

func find(list []results.Backed, place string) *results.Backed {
	n, err := strconv.Atoi(place)
	for i := range list {
		if err == nil && list[i].Position == n {
			return &list[i]
		}
	}
	return nil
}

// beside puts another result, or my site, beside the one that is shown.
func (v *linksPage) beside(with string) {
	var other links.Backing
	switch b := find(v.Linked.Results, with); {
	case with == "own" && v.Linked.OwnKnown:
		v.Other, other = "your site", v.Linked.Own
	case b != nil && b.Known && b.Position != v.At.Position:
		v.Other, other = fmt.Sprintf("no. %d", b.Position), b.Backing
	default:
		return
	}
	v.First, v.Both, v.Second = links.Compare(v.At.Backing, other)
}

// rows are the linking sites of a class, or all.
func (v *linksPage) rows() {
	count := map[links.Class]int{}
	doubtful, learned := 0, 0
	for _, b := range v.At.Backing.Backers {
		count[b.Class]++
		if len(b.Doubts) > 0 {
			doubtful++
		}
		if b.Institution {
			learned++
		}
		if v.Only == "" || v.Only == string(b.Class) || v.Only == "doubtful" && len(b.Doubts) > 0 ||
			v.Only == "institutions" && b.Institution || v.Only == "followed" && b.Class != links.NotFollowed {
			v.Rows = append(v.Rows, b)
		}
	}
	all := len(v.At.Backing.Backers)
	add := func(class links.Class, name string, n int) {
		if n > 0 || v.Only == string(class) {
			v.Classes = append(v.Classes, classCount{class, name, n})
		}
	}
	add("", "all", all)
	add("followed", "followed", all-count[links.NotFollowed])
	for _, c := range []links.Class{links.Solid, links.Weak, links.NoStanding, links.BareAddress, links.NotFollowed} {
		add(c, string(c), count[c])
	}
	add("institutions", "institutions", learned)
	add("doubtful", "look made", doubtful)
	if n := len(v.Rows) - mostBackers; n > 0 {
		v.Rows, v.More = v.Rows[:mostBackers], n
	}
}

// Doubts is what is doubtful of a site, in words.
func (v linksPage) Doubts(b links.Backer) string { return strings.Join(b.Doubts, ", ") }

// exportAsking writes the sites worth asking for a link.
func exportAsking(r *frame.Request) error {
	format, err := files.FormatNamed(r.Params("format"))
	if err != nil || format.Name != "csv" && format.Name != "xlsx" {
		return input.ErrNotFound
	}
	d, err := looked(r)
	if err != nil {
		return err
	}
	linked, err := r.Study.Results.Linked(r.Context(), r.Niche, d.Evidence)
	if err != nil {
		return err
	}
	title, now := "Sites to ask: "+d.Idea.Phrase, r.Now()
	return r.Stream(r.FileName("sites-to-ask", format.Ending), format.Media, func(_ context.Context, w io.Writer) error {
		return files.Asking(w, linked.WorthAsking(), title, now, format)
	})
}

// askOwn asks who links to the niche's own site.
func askOwn(r *frame.Request) error {
	id, err := r.ID("idea")
	if err != nil {
		return err
	}
	if r.Niche.OwnSite == "" {
		return input.Bad("own", "This niche has no site of yours. Name it in the settings.")
	}
	if err := r.Study.Results.AskOwn(r.Context(), r.Niche); err != nil {
		return err
	}
	to := url.Values{"place": {r.FormValue("place")}, "with": {"own"}}
	return r.To(r.Path(fmt.Sprint("ideas/", id, "/links")) + "?" + to.Encode())
}
