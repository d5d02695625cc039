package idea

import (
	"fmt"
	"net/url"
	"slices"
	"sort"
	"strconv"
	"time"

	"cleverniche/core/difficulty"
	"cleverniche/core/serp"
	"cleverniche/study/input"
	"cleverniche/study/results"
	"cleverniche/web/frame"

	"github.com/gofiber/fiber/v3"
)

// tenColumn is a column of the table of the top ten.
type tenColumn struct {
	Key, Head, Means string
	Usual            bool // shown until others are chosen
	// of is what a row has there: a number to sort by, and how it is written; known is false where nothing is.
	of   func(r *results.TenRow, now time.Time) (number float64, text string, known bool)
	Text bool // it is words: sorted by them
}

// The columns beside place and page.
var tenColumns = []tenColumn{
	{Key: "kind", Head: "Kind", Means: "Kind of page.", Usual: true, Text: true,
		of: words(func(r *results.TenRow) string { return string(r.Type) })},
	{Key: "site-kind", Head: "Site", Means: "Kind of site.", Text: true,
		of: words(func(r *results.TenRow) string { return string(r.Entry.Kind) })},
	{Key: "address", Head: "Address", Means: "Where on its site the page stands, by its address.", Text: true,
		of: words(func(r *results.TenRow) string { return string(r.Address) })},
	{Key: "title", Head: "Title says", Means: "How the title says the phrase.", Text: true,
		of: words(func(r *results.TenRow) string { return r.Titled.How })},
	{Key: "age", Head: "Age", Means: "Years since the site was registered.", Usual: true, of: ageOf},
	{Key: "site", Head: "Site standing", Means: "How much the link graph trusts the site, 0 to 100.", Usual: true,
		of: func(r *results.TenRow, _ time.Time) (float64, string, bool) {
			return r.SiteStanding, fmt.Sprintf("%.0f", r.SiteStanding), r.SiteKnown || r.LinksKnown || r.SiteStanding > 0
		}},
	{Key: "page", Head: "Page standing", Means: "How much links to this page lift it, 0 to 100.",
		of: func(r *results.TenRow, _ time.Time) (float64, string, bool) {
			return r.PageStanding, fmt.Sprintf("%.0f", r.PageStanding), r.LinksKnown
		}},
	{Key: "linking", Head: "Linking sites", Means: "Sites that link to the page, followed or not.",
		of: counted(func(r *results.TenRow) (int, bool) { return r.Profile.Sites, r.LinksKnown })},
	{Key: "followed", Head: "Followed", Means: "Sites that link to the page with a followed link.", Usual: true,
		of: counted(func(r *results.TenRow) (int, bool) { return r.Profile.Followed, r.LinksKnown })},
	{Key: "solid", Head: "Solid", Means: "Followed links from sites of standing 20 or more.", Usual: true,
		of: counted(func(r *results.TenRow) (int, bool) { return r.Profile.Solid, r.LinksKnown })},
	{Key: "words", Head: "Words", Means: "Words in the main text.", Usual: true,
		of: counted(func(r *results.TenRow) (int, bool) { return r.Words, r.Words > 0 })},
	{Key: "touched", Head: "Updated", Means: "The latest date that the page gives itself.", Usual: true,
		of: func(r *results.TenRow, _ time.Time) (float64, string, bool) {
			return float64(r.Touched.Unix()), r.Touched.Format("Jan 2006"), !r.Touched.IsZero()
		}},
	{Key: "comments", Head: "Comments", Means: "By the page's own counter, or as many as stand on it. Nobody can " +
		"check a counter.", of: reacted(func(r serp.Reactions) int { return r.Comments })},
	{Key: "shares", Head: "Shares", Means: "By the page's own counter. Nobody can check it.",
		of: reacted(func(r serp.Reactions) int { return r.Shares })},
	{Key: "ratings", Head: "Ratings", Means: "How many rated it, by the page's own markup. Nobody can check it.",
		of: reacted(func(r serp.Reactions) int { return r.Ratings })},
	{Key: "fit", Head: "Fit", Means: "How well the page answers the phrase, 0 to 100.", Usual: true,
		of: func(r *results.TenRow, _ time.Time) (float64, string, bool) {
			return r.Fit.Total, fmt.Sprintf("%.0f", r.Fit.Total), true
		}},
	{Key: "seen", Head: "Seen", Means: "What can be seen of it, as a site of that standing with a well-made page would " +
		"have.", of: func(r *results.TenRow, _ time.Time) (float64, string, bool) {
		return r.Seen, difficulty.Shown(r.Seen), true
	}},
	{Key: "holds", Head: "Holds", Means: "The site standing that its place needs.", Usual: true,
		of: func(r *results.TenRow, _ time.Time) (float64, string, bool) {
			return r.Holds, difficulty.Shown(r.Holds), r.Holds >= 0
		}},
}

func words(of func(*results.TenRow) string) func(*results.TenRow, time.Time) (float64, string, bool) {
	return func(r *results.TenRow, _ time.Time) (float64, string, bool) { s := of(r); return 0, s, s != "" }
}

func counted(of func(*results.TenRow) (int, bool)) func(*results.TenRow, time.Time) (float64, string, bool) {
	return func(r *results.TenRow, _ time.Time) (float64, string, bool) {
		n, known := of(r)
		return float64(n), strconv.Itoa(n), known
	}
}

func reacted(of func(serp.Reactions) int) func(*results.TenRow, time.Time) (float64, string, bool) {
	return counted(func(r *results.TenRow) (int, bool) {
		if r.Reactions == nil {
			return 0, false
		}
		n := of(*r.Reactions)
		return n, n >= 0
	})
}

func ageOf(r *results.TenRow, now time.Time) (float64, string, bool) {
	if r.Since.IsZero() || r.Since.After(now) {
		return 0, "", false
	}
	return now.Sub(r.Since).Hours() / 24 / 365.2425, frame.Age(r.Since, now), true
}

// tenTable is the top ten as a table.
type tenTable struct {
	Idea    uint
	Columns []tenHead
	Rows    []tenRow
	Middles []tenMiddle // mean and median, below
	By      string
	Down    bool
	Ages    bool
	Base    string
	Choices []tenChoice
	Titles  string // how the titles of the top ten say the phrase
}

type tenHead struct {
	tenColumn
	Address string // that sorts by it
	Sorted  string // ascending, descending, none
}

type tenChoice struct {
	Key, Head, Means string
	On               bool
}

type tenRow struct {
	results.TenRow
	Reasons []string
	Cells   []tenCell
	Open    bool
	Address string // that opens or shuts it
	Detail  *result
}

type tenCell struct {
	Text   string
	Number bool
}

type tenMiddle struct {
	Name  string
	Cells []string
}

// tenOf fills in the table, as the address asks for it.
func tenOf(r *frame.Request, v *View) (t tenTable, err error) {
	ev := v.Evidence
	rows, err := r.Study.Results.Ten(r.Context(), r.Niche, ev)
	if err != nil {
		return t, err
	}
	t = tenTable{Idea: v.Idea.ID, By: r.Query("by"),
		Down: r.Query("down") != "",
		Base: r.Path(fmt.Sprint("ideas/", v.Idea.ID))}
	shown := shownColumns(r.Niche.TenColumns)
	for _, c := range tenColumns {
		on := slices.ContainsFunc(shown, func(s tenColumn) bool { return s.Key == c.Key })
		t.Choices = append(t.Choices, tenChoice{c.Key, c.Head, c.Means, on})
		t.Ages = t.Ages || on && c.Key == "age"
	}
	open := r.Query("open")
	now := r.Now()
	sortTen(rows, t.By, t.Down, now)
	details := map[int]*result{}
	for i := range v.Places {
		if there := v.Places[i].There; there != nil {
			details[there.Position] = there
		}
	}
	for i := range v.Behind {
		details[v.Behind[i].Position] = &v.Behind[i]
	}
	ageKnown := false
	numbers := make([][]float64, len(shown))
	for _, row := range rows {
		one := tenRow{TenRow: row, Open: open == strconv.Itoa(row.Position), Detail: details[row.Position]}
		opens := row.Position
		if one.Open {
			opens = 0 // the address shuts it
		}
		one.Address = t.address(t.By, t.Down, opens)
		if one.Detail != nil {
			one.Reasons = one.Detail.Reasons
		}
		for i, c := range shown {
			x, text, known := c.of(&row, now)
			if !known {
				text = "–"
			} else if !c.Text && row.Position <= serp.FirstPage && c.Key != "touched" {
				numbers[i] = append(numbers[i], x)
			}
			one.Cells = append(one.Cells, tenCell{Text: text, Number: !c.Text})
			ageKnown = ageKnown || c.Key == "age" && known
		}
		t.Rows = append(t.Rows, one)
	}
	t.Ages, t.Titles = t.Ages && !ageKnown, titlesSay(rows)
	mean, median := tenMiddle{Name: "mean"}, tenMiddle{Name: "median"}
	for i, c := range shown {
		h := tenHead{tenColumn: c, Sorted: "none"}
		h.Address = t.address(c.Key, t.By != c.Key && !c.Text || t.By == c.Key && !t.Down, 0)
		switch {
		case t.By == c.Key && t.Down:
			h.Sorted = "descending"
		case t.By == c.Key:
			h.Sorted = "ascending"
		}
		t.Columns = append(t.Columns, h)
		a, b, ok := results.Middle(numbers[i])
		texts := [2]string{"", ""}
		if ok {
			texts = [2]string{fmt.Sprintf("%.0f", a), fmt.Sprintf("%.0f", b)}
		}
		mean.Cells, median.Cells = append(mean.Cells, texts[0]), append(median.Cells, texts[1])
	}
	t.Middles = []tenMiddle{mean, median}
	return t, nil
}

// titlesSay says how the titles of the top ten say the phrase: a word that hardly one of them has is an opening.
func titlesSay(rows []results.TenRow) string {
	exact, all, ten := 0, 0, 0
	missing := map[string]int{}
	var order []string
	for _, r := range rows {
		if r.Position > serp.FirstPage {
			continue
		}
		ten++
		switch r.Titled.How {
		case serp.TitleExact:
			exact++
		case serp.TitleOrder, serp.TitleOther:
			all++
		}
		for _, w := range r.Titled.Missing {
			if missing[w]++; missing[w] == 1 {
				order = append(order, w)
			}
		}
	}
	says := fmt.Sprintf("%d of %d titles say the exact phrase, %d more all of its words.", exact, ten, all)
	if exact == ten {
		return fmt.Sprintf("All %d titles say the exact phrase.", ten)
	}
	for _, w := range order {
		switch n := ten - missing[w]; {
		case n == 0:
			says += fmt.Sprintf(" “%s” is in none.", w)
		case 4*missing[w] >= 3*ten:
			says += fmt.Sprintf(" “%s” is in %d.", w, n)
		}
	}
	return says
}

// address is that of the table sorted so, with a place open; 0 is none.
func (t tenTable) address(by string, down bool, open int) string {
	q := url.Values{}
	if by != "" {
		q.Set("by", by)
	}
	if down {
		q.Set("down", "yes")
	}
	at := "#results"
	if open > 0 {
		q.Set("open", strconv.Itoa(open))
		at = "#place-" + strconv.Itoa(open)
	}
	if len(q) == 0 {
		return t.Base + at
	}
	return t.Base + "?" + q.Encode() + at
}

// ByPlace is the address of the table in the order of the results.
func (t tenTable) ByPlace() string { return t.address("", false, 0) }

// Span is how many columns there are.
func (t tenTable) Span() int { return len(t.Columns) + 3 }

// sortTen sorts rows by a column; what is not known goes last.
func sortTen(rows []results.TenRow, by string, down bool, now time.Time) {
	at := slices.IndexFunc(tenColumns, func(c tenColumn) bool { return c.Key == by })
	if at < 0 {
		return
	}
	c := tenColumns[at]
	sort.SliceStable(rows, func(i, j int) bool {
		a, aText, aKnown := c.of(&rows[i], now)
		b, bText, bKnown := c.of(&rows[j], now)
		switch {
		case aKnown != bKnown:
			return aKnown
		case c.Text && down:
			return aText > bText
		case c.Text:
			return aText < bText
		case down:
			return a > b
		}
		return a < b
	})
}

// shownColumns are those chosen, in their own order; the usual ones where none are.
func shownColumns(chosen []string) (out []tenColumn) {
	for _, c := range tenColumns {
		if slices.Contains(chosen, c.Key) || len(chosen) == 0 && c.Usual {
			out = append(out, c)
		}
	}
	return out
}

// chooseTen keeps which columns the table has.
func chooseTen(r *frame.Request) error {
	id, err := r.ID("idea")
	if err != nil {
		return err
	}
	var keys []string
	if r.FormValue("usual") == "" {
		for _, key := range r.Posted("column") {
			if slices.ContainsFunc(tenColumns, func(c tenColumn) bool { return c.Key == key }) {
				keys = append(keys, key)
			}
		}
		if len(keys) == 0 {
			return input.Bad("column", "Choose at least one column.")
		}
	}
	if err := r.Study.Niches.SetTenColumns(r.Context(), r.Niche, keys); err != nil {
		return err
	}
	return r.To(r.Path(fmt.Sprint("ideas/", id)) + "#results")
}

// showTen is the table by itself, sorted otherwise or with another row open.
func showTen(r *frame.Request) error {
	v, err := looked(r)
	if err != nil {
		return err
	}
	t, err := tenOf(r, &v)
	if err != nil {
		return err
	}
	return r.Render("idea/ten", fiber.Map{"Ten": t, "Niche": r.Niche, "CSRF": r.Token()})
}

// looked is the evidence of the idea of a request, which has been looked up.
func looked(r *frame.Request) (v View, err error) {
	id, err := r.ID("idea")
	if err != nil {
		return v, err
	}
	if v, err = Of(r, id); err == nil && v.Evidence == nil {
		err = input.ErrNotFound
	}
	v.Whole = true
	return v, err
}

// readHere is the reading copy of a page, for the words of an idea.
func readHere(r *frame.Request) error {
	id, err := r.ID("idea")
	if err != nil {
		return err
	}
	list, err := r.Study.Ideas.Ideas(r.Context(), r.Niche.ID, []uint{id})
	if err == nil && len(list) == 0 {
		err = input.ErrNotFound
	}
	if err != nil {
		return err
	}
	c, at, err := r.Study.Results.ReadingCopy(r.Context(), r.Query("url"), list[0].Phrase, r.Niche.Language)
	if err != nil {
		return err
	}
	return r.Render("idea/copy", fiber.Map{"Copy": c, "At": at})
}
