package rivals

import (
	"fmt"
	"net/url"
	"sort"

	"cleverniche/study/results"
	"cleverniche/web/frame"

	"github.com/gofiber/fiber/v3"
)

// mostShown is how many sites one page shows.
const mostShown = 100

type allPage struct {
	frame.Page
	Ideas  int // looked up
	Sites  int // in all
	Within int
	Rows   []row
	Next   string
	Before string
	By     string
	Heads  []head
}

type row struct {
	results.Stander
	Age  string
	Href string
}

type head struct {
	Name, Means, Href string
	Sorted            string // ascending, descending, none
}

// orders are the columns by which sites are sorted: the most first, or what rises with the least.
var orders = []struct {
	key, name, means string
	rises            bool
	less             func(a, b results.Stander) bool
}{
	{"ideas", "Ideas", "Ideas among whose top ten it stands.", false,
		func(a, b results.Stander) bool { return a.Ideas > b.Ideas }},
	{"places", "Places", "Places that it holds there.", false,
		func(a, b results.Stander) bool { return a.Places > b.Places }},
	{"footholds", "Footholds", "Of these places, how many are weak results.", false,
		func(a, b results.Stander) bool { return a.Footholds > b.Footholds }},
	{"best", "Best", "Its best place.", true, func(a, b results.Stander) bool { return a.Best < b.Best }},
	{"middle", "Middle", "The median of its places.", true,
		func(a, b results.Stander) bool { return a.Middle < b.Middle }},
	{"standing", "Standing", "How much the link graph trusts it, 0 to 100.", true,
		func(a, b results.Stander) bool { return a.Standing < b.Standing }},
	{"above", "Above you", "Its standing over your site’s.", true,
		func(a, b results.Stander) bool { return a.Above < b.Above }},
	{"age", "Age", "Since it was registered, where that was checked.", true, func(a, b results.Stander) bool {
		return a.Since.After(b.Since) // the youngest first, those not known last
	}},
}

func showAll(r *frame.Request) error {
	b, err := r.Table()
	if err != nil {
		return err
	}
	list, err := r.Study.Results.InTheWay(r.Context(), r.Niche, b.Revision)
	if err != nil {
		return err
	}
	v := allPage{Sites: len(list), By: r.Query("by")}
	seen := map[uint]bool{}
	for _, s := range list {
		if s.Within() && !s.Own {
			v.Within++
		}
		for _, st := range s.Stands {
			seen[st.Idea] = true
		}
	}
	v.Ideas = len(seen)
	for _, o := range orders {
		h := head{Name: o.name, Means: o.means, Href: r.Path("sites") + "?by=" + o.key, Sorted: "none"}
		if o.key == v.By {
			if h.Sorted = "descending"; o.rises {
				h.Sorted = "ascending"
			}
			list = append([]results.Stander(nil), list...)
			sort.SliceStable(list, func(i, j int) bool { return o.less(list[i], list[j]) })
		}
		v.Heads = append(v.Heads, h)
	}
	from := max(0, fiber.Query(r.Ctx, "from", 0))
	from = min(from, max(0, len(list)-1))
	at := func(from int) string {
		q := url.Values{}
		if v.By != "" {
			q.Set("by", v.By)
		}
		q.Set("from", fmt.Sprint(from))
		return r.Path("sites") + "?" + q.Encode()
	}
	if from > 0 {
		v.Before = at(max(0, from-mostShown))
	}
	if from+mostShown < len(list) {
		v.Next = at(from + mostShown)
	}
	for _, s := range list[from:min(len(list), from+mostShown)] {
		v.Rows = append(v.Rows, row{s, frame.Age(s.Since, r.Now()), r.Path("sites/" + url.PathEscape(s.Site))})
	}
	if v.Page, err = r.Page("Who stands in the way", "judge", -1); err != nil {
		return err
	}
	return r.Render("rivals/sites", v)
}
