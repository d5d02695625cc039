package gather

import (
	"cmp"
	"fmt"
	"io"
	"mime/multipart"
	"slices"
	"strconv"
	"strings"

	"cleverniche/market/files"
	"cleverniche/study/ideas"
	"cleverniche/study/imports"
	"cleverniche/study/input"
	"cleverniche/web/frame"
)

// previewPage is how a file is understood, before any of it is taken in.
type previewPage struct {
	frame.Page
	imports.Preview
	Says    []string // what was recognised, in words
	Columns []columnView
	Choices []choice // what a column may be read as
	Commas  []choice
	Marks   []choice
	Number  string // the mark before decimals
	Rows    []ideaRow
	Wrong   string
	Changed bool // it was set otherwise, and nothing was imported yet
	Most    int  // lines that are listed at most
}

type choice struct{ Key, Name string }

// columnView is a column of a file, with its first cells.
type columnView struct {
	files.Column
	Name    string
	Samples []string
}

// ideaRow is a line as it is understood.
type ideaRow struct {
	files.Idea
	Searches, CPC, Ads string
	Months             int
}

// receive keeps a pasted list or a file aside, and shows how it is understood.
func receive(r *frame.Request) error {
	name, file, in, err := listIn(r)
	if err != nil {
		return err
	}
	defer in.Close()
	u, err := r.Study.Imports.Receive(r.Context(), r.Niche, name, file, in)
	if err != nil {
		return err
	}
	p, err := r.Study.Imports.Preview(r.Context(), r.Niche, u.Token)
	if err == nil && p.Usable == 0 && p.Bad > 0 {
		err = input.Bad("list", "%s Line %d: %s.", p.Why, p.Problems[0].Line, p.Problems[0].Reason)
	}
	if err != nil {
		return cmp.Or(r.Study.Imports.Discard(u.Token), err)
	}
	return r.To(r.Path("import/" + u.Token))
}

func listIn(r *frame.Request) (name, file string, in io.ReadCloser, err error) {
	var head *multipart.FileHeader
	if head, err = r.FormFile("file"); err == nil && head.Size > 0 {
		f, err := head.Open()
		return cmp.Or(r.FormValue("name"), head.Filename), head.Filename, f, err
	}
	text := r.FormValue("list")
	if strings.TrimSpace(text) == "" {
		return "", "", nil, input.Bad("list", "The list is empty. Paste phrases, or choose a file.")
	}
	name = cmp.Or(r.FormValue("name"), "pasted on "+r.Study.Now().Format("2 January 2006"))
	return name, "pasted", io.NopCloser(strings.NewReader(text)), nil
}

func showPreview(r *frame.Request) error { return previewed(r, "", false) }

// previewed shows a file, with what is wrong about what was set.
func previewed(r *frame.Request, wrong string, changed bool) error {
	p, err := r.Study.Imports.Preview(r.Context(), r.Niche, r.Params("token"))
	if err != nil {
		return err
	}
	v := previewPage{Preview: p, Wrong: wrong, Changed: changed, Most: imports.ShownBad, Says: recognised(p)}
	for _, f := range files.Offered {
		v.Choices = append(v.Choices, choice{string(f), string(f)})
	}
	v.Commas = []choice{{",", "comma"}, {";", "semicolon"}, {"\t", "tab"}, {"|", "vertical bar"},
		{"none", "none: one phrase per line"}}
	v.Marks = []choice{{".", "1,234.5"}, {",", "1.234,5"}}
	if p.Site != "" && p.Upload.Of != "" {
		p.Shape.Columns = nil // its headings say what they are
	}
	for i, c := range p.Shape.Columns {
		col := columnView{Column: c, Name: cmp.Or(c.Heading, fmt.Sprintf("column %d", i+1))}
		for _, row := range p.Cells {
			if i < len(row) && row[i] != "" && len(col.Samples) < 3 {
				col.Samples = append(col.Samples, input.Clip(row[i], 40))
			}
		}
		v.Columns = append(v.Columns, col)
	}
	v.Number = markOf(p.Shape)
	sp := r.Speak()
	for _, row := range p.Rows {
		v.Rows = append(v.Rows, rowOf(row, sp))
	}
	if v.Page, err = r.Page("Import "+p.Upload.Name, "gather", -1); err != nil {
		return err
	}
	return r.Render("gather/preview", v)
}

// rowOf writes a line's figures as they will be shown.
func rowOf(row files.Idea, sp frame.Speaker) ideaRow {
	out := ideaRow{Idea: row, Searches: "–", CPC: "–", Ads: "–", Months: len(row.Months)}
	if n := row.Searches; n.Known {
		high := sp.Count(int(n.High + 0.5))
		switch {
		case n.Under:
			out.Searches = "< " + high
		case n.Over:
			out.Searches = "> " + high
		case n.Low != n.High:
			out.Searches = fmt.Sprintf("%s–%s, counted as %s", sp.Count(int(n.Low+0.5)), high, sp.Count(int(n.Middle()+0.5)))
		default:
			out.Searches = high
		}
	}
	if row.CPC.Known() {
		out.CPC = fmt.Sprintf("%.2f %s", float64(row.CPC.Micros)/1e6, row.CPC.Currency)
	}
	if row.Ads != nil {
		out.Ads = fmt.Sprintf("%.2f", *row.Ads)
	}
	return out
}

// recognised says what a file is taken for.
func recognised(p imports.Preview) (out []string) {
	s := p.Shape
	switch s.Form {
	case files.Plain:
		out = append(out, "A plain list: one phrase per line")
	case files.Separated:
		names := map[string]string{",": "commas", ";": "semicolons", "\t": "tabs", "|": "vertical bars"}
		out = append(out, "A table, its cells separated by "+names[s.Comma])
	case files.Spreadsheet:
		out = append(out, "A spreadsheet, sheet “"+s.Part+"”")
	case files.JSON:
		out = append(out, "JSON, an object per idea")
	case files.Blocks:
		out = append(out, "Phrases, with the addresses of their results under them")
	case files.Log:
		out = append(out, "A web server’s log: the search terms of its referrers")
	}
	if p.Kind != files.Unknown && p.Kind != files.IdeaList && s.Form != files.Log && s.Form != files.Blocks {
		out = append(out, "by its columns: "+string(p.Kind))
	}
	if s.Encoding != "" && s.Encoding != files.UTF8 {
		out = append(out, "in "+string(s.Encoding))
	}
	if s.Skip > 0 {
		out = append(out, fmt.Sprintf("after %d %s of other text", s.Skip, frame.Plural(s.Skip, "row", "rows")))
	}
	if p.Remembered {
		out = append(out, "columns as you set them for a file like this")
	}
	return out
}

// settingsOf reads how somebody wants a file read; changed reports whether that is otherwise than it is.
func settingsOf(r *frame.Request, p imports.Preview) (to imports.Settings, changed bool) {
	to = imports.Settings{Name: r.FormValue("name"), Part: r.FormValue("part"), Encoding: r.FormValue("encoding"),
		Comma: r.FormValue("comma"), Decimal: r.FormValue("decimal")}
	s := p.Shape
	if n, err := strconv.Atoi(strings.TrimSpace(r.FormValue("skip"))); err == nil {
		to.Skip, changed = &n, n != s.Skip
	}
	if r.FormValue("headed") != "" {
		header := r.FormValue("header") == "yes"
		to.Header, changed = &header, changed || header != s.Header
	}
	for i := range s.Columns {
		field := files.Field(r.FormValue(fmt.Sprintf("column-%d", i)))
		if field == files.None {
			field = s.Columns[i].Field
		}
		to.Fields = append(to.Fields, field)
		changed = changed || field != s.Columns[i].Field
	}
	comma := cmp.Or(s.Comma, "none")
	changed = changed || to.Part != "" && to.Part != s.Part && len(p.Inner) > 1 ||
		to.Encoding != "" && to.Encoding != string(s.Encoding) || to.Comma != "" && to.Comma != comma
	if to.Decimal == markOf(s) { // columns may be written in two ways: what was shown was not touched
		to.Decimal = ""
	}
	return to, changed || to.Decimal != ""
}

// markOf is the mark before decimals that is shown: that of the first column of numbers.
func markOf(s files.Shape) string {
	for _, c := range s.Columns {
		if c.Decimal != "" {
			return c.Decimal
		}
	}
	return ""
}

// decide sets how a file is read, takes it in, or discards it.
func decide(r *frame.Request) error {
	token := r.Params("token")
	if r.FormValue("as") == "discard" {
		if err := r.Study.Imports.Remove(r.Niche, token); err != nil {
			return err
		}
		return r.To(r.Path("gather"))
	}
	p, err := r.Study.Imports.Preview(r.Context(), r.Niche, token)
	if err != nil {
		return err
	}
	to, changed := settingsOf(r, p)
	if changed || ideas.ListName(to.Name) != p.Upload.Name {
		if err := r.Study.Imports.Set(r.Context(), r.Niche, token, to); err != nil {
			return err
		}
	}
	if changed || r.FormValue("as") != "import" {
		return previewed(r, "", r.FormValue("as") == "import")
	}
	if _, err := r.Study.Imports.Confirm(r.Context(), r.Niche, token); err != nil {
		return err
	}
	return r.To(r.Path("gather"))
}

// Thing is what a line is about.
func (v previewPage) Thing() string {
	switch v.Kind {
	case files.LinksFile:
		return "page"
	case files.RanksFile:
		return "site"
	case files.SiteFile:
		return "row"
	}
	return "phrase"
}

// Becomes says what becomes of what is no list of ideas.
func (v previewPage) Becomes() string {
	switch v.Kind {
	case files.ResultsFile:
		return "They become the results of these phrases, in place of older ones. Looking a phrase up then fetches " +
			"their pages."
	case files.LinksFile:
		return "They become the links to these pages, in place of older ones. Look-ups use them where such a page ranks."
	case files.RanksFile:
		return "They become the web graph that says how strong a site is, in place of an earlier one. This cannot be undone."
	case files.SiteFile:
		return fmt.Sprintf("They are %s, and stand on the page of %s in Rivals, in place of older ones.",
			v.Preview.Says, v.Site)
	case files.RivalFile:
		return fmt.Sprintf("They become what %s ranks for, in Rivals. From there you take what you want into your ideas.",
			v.Site)
	case files.RankingsFile, files.SearchReport:
		return "Its phrases become ideas. What it says of places and clicks is kept in their notes."
	}
	return ""
}

// problems sends the lines of a file that cannot be used.
func problems(r *frame.Request) error {
	return r.SendFile("lines-not-used.csv", "text/csv; charset=utf-8", func(w io.Writer) error {
		return r.Study.Imports.Problems(r.Context(), r.Niche, r.Params("token"), w)
	})
}

// Doubtful reports whether a column's numbers may be meant otherwise.
func (v previewPage) Doubtful() bool {
	return slices.ContainsFunc(v.Shape.Columns, func(c files.Column) bool { return c.Doubtful })
}

// Text reports whether it is a file of text, whose separator can be set.
func (v previewPage) Text() bool {
	return v.Shape.Form == files.Separated || v.Shape.Form == files.Plain
}

// Rowed reports whether rows may stand before its headings.
func (v previewPage) Rowed() bool { return v.Text() || v.Shape.Form == files.Spreadsheet }

// Encodings are what a text may be written in.
func (v previewPage) Encodings() []files.Encoding { return files.Encodings }

// Comma is the separator as the form has it.
func (v previewPage) Comma() string { return cmp.Or(v.Shape.Comma, "none") }
