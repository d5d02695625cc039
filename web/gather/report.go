package gather

import (
	"cleverniche/core/sieve"
	"cleverniche/study/ideas"
	"cleverniche/web/frame"
)

// report is the page of what a search report says.
type report struct {
	frame.Page
	All        string
	Lists      []reported
	PagesKnown bool
}

// reported is one list of it.
type reported struct {
	Title, Says, Query string
	Rows               []frame.Row
}

func showReport(r *frame.Request) error {
	got, err := r.Study.Gathering.Reported(r.Context(), r.Niche)
	if err != nil {
		return err
	}
	sp := r.Speak()
	v := report{PagesKnown: got.PagesKnown}
	if got.All > 0 {
		v.All = sp.Counted(got.All, "phrase", "phrases")
	}
	for _, one := range []struct {
		title, says string
		list        []ideas.Idea
	}{
		{"Nearly on page one", "Your page stands at places 11 to 20. A little work may bring it up.", got.Near},
		{"Unexpected phrases", "They came by your report alone, and hold none of your seeds.", got.Unthought},
		{"Clicked, without a page of their own",
			"No title of your pages holds their words. A page of their own may do better.", got.Pageless},
	} {
		l := reported{Title: one.title, Says: one.says}
		for _, i := range one.list {
			l.Rows = append(l.Rows, sp.Row(i))
		}
		v.Lists = append(v.Lists, l)
	}
	if v.Page, err = r.Page("Your search report", "gather", -1); err != nil {
		return err
	}
	return r.Render("gather/report", v)
}

// hasReport reports whether ideas of the niche stand in a report.
func hasReport(r *frame.Request) (bool, error) {
	b, err := r.Table()
	if err != nil {
		return false, err
	}
	_, some := b.Table.Middle(sieve.MyPlace)
	return some, nil
}
