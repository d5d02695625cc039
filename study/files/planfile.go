package files

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"crypto/subtle"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"io"
	"strings"
	"time"

	"cleverniche/core/plan"
	"cleverniche/core/sieve"
	"cleverniche/core/topic"
	"cleverniche/study/articles"
	"cleverniche/study/briefs"
	"cleverniche/study/niches"
	"cleverniche/study/topics"

	ics "github.com/arran4/golang-ical"
)

// planColumn is one column of the files of topics and of the sheet.
type planColumn struct {
	name  string
	sheet bool // of the sheet alone
	form  form // how a workbook shows it
	value func(n niches.Niche, t *topics.Topics, a articles.Article) any
}

func figureCell(f *sieve.Figure) func(niches.Niche, *topics.Topics, articles.Article) any {
	return func(_ niches.Niche, _ *topics.Topics, a articles.Article) any {
		if a.Gone {
			return nil
		}
		return cell(a.Idea, f)
	}
}

func dayCell(of func(articles.Article) time.Time) func(niches.Niche, *topics.Topics, articles.Article) any {
	return func(_ niches.Niche, _ *topics.Topics, a articles.Article) any {
		if d := of(a); !d.IsZero() {
			return day(d)
		}
		return nil
	}
}

// planColumns are the columns of both files, in order.
var planColumns = []planColumn{
	{"topic", false, plainForm, func(_ niches.Niche, _ *topics.Topics, a articles.Article) any { return a.Name }},
	{"lead", false, plainForm, func(_ niches.Niche, _ *topics.Topics, a articles.Article) any { return a.Lead() }},
	{"phrases", false, plainForm, func(_ niches.Niche, _ *topics.Topics, a articles.Article) any { return len(a.Ideas) }},
	{"other phrases", false, plainForm, func(_ niches.Niche, _ *topics.Topics, a articles.Article) any {
		var out []string
		for _, i := range a.Ideas[1:] {
			out = append(out, i.Phrase)
		}
		return strings.Join(out, "; ")
	}},
	{"searches", false, formOf(sieve.Searches), figureCell(sieve.Searches)},
	{"difficulty", false, formOf(sieve.Difficulty), figureCell(sieve.Difficulty)},
	{"page-one chance", false, formOf(sieve.PageOne), figureCell(sieve.PageOne)},
	{"footholds", false, formOf(sieve.Footholds), figureCell(sieve.Footholds)},
	{"intent", false, formOf(sieve.Intent), figureCell(sieve.Intent)},
	{"kind of article", false, plainForm, func(_ niches.Niche, _ *topics.Topics,
		a articles.Article) any {
		return string(a.Kind)
	}},
	{"worth least", false, formOf(sieve.WorthLow), figureCell(sieve.WorthLow)},
	{"worth", false, formOf(sieve.Worth), figureCell(sieve.Worth)},
	{"worth most", false, formOf(sieve.WorthHigh), figureCell(sieve.WorthHigh)},
	{"currency", false, plainForm, func(n niches.Niche, _ *topics.Topics, _ articles.Article) any { return n.Currency }},
	{"publish by", false, dayForm, dayCell(func(a articles.Article) time.Time { return a.Schedule.Last })},
	{"hub", false, plainForm, func(_ niches.Niche, t *topics.Topics, a articles.Article) any {
		if a.Hub == topic.NoHub {
			return ""
		}
		return t.List[a.Hub].Name
	}},
	{"my pages", false, plainForm, func(_ niches.Niche, _ *topics.Topics, a articles.Article) any {
		var out []string
		for _, o := range a.Own {
			out = append(out, o.URL)
		}
		return strings.Join(out, " ")
	}},
	{"by hand", false, plainForm, func(_ niches.Niche, _ *topics.Topics, a articles.Article) any { return a.Changed }},
	{"state", false, plainForm, func(_ niches.Niche, _ *topics.Topics,
		a articles.Article) any {
		return string(a.State())
	}},
	{"hours", true, plainForm, func(_ niches.Niche, _ *topics.Topics, a articles.Article) any { return a.Hours }},
	{"begin", true, dayForm, dayCell(func(a articles.Article) time.Time { return a.Start })},
	{"ready", true, dayForm, dayCell(func(a articles.Article) time.Time { return a.Schedule.Ready })},
	{"deadline", true, dayForm, dayCell(func(a articles.Article) time.Time { return a.Deadline })},
	{"days late", true, plainForm, func(_ niches.Niche, _ *topics.Topics,
		a articles.Article) any {
		return a.Schedule.Late
	}},
	{"address", true, plainForm, func(_ niches.Niche, _ *topics.Topics, a articles.Article) any { return a.Address }},
	{"published", true, dayForm, dayCell(func(a articles.Article) time.Time { return a.Day })},
	{"note", true, plainForm, func(_ niches.Niche, _ *topics.Topics, a articles.Article) any { return a.Note }},
}

func columnsOf(sheet bool) (out []planColumn) {
	for _, c := range planColumns {
		if sheet || !c.sheet {
			out = append(out, c)
		}
	}
	return out
}

// planned are the rows of the file of topics, or of the sheet.
func (s *Exporter) planned(ctx context.Context, n niches.Niche,
	sheet bool) (*topics.Topics, []articles.Article, error) {
	if sheet {
		sh, err := s.planner.Plan(ctx, n)
		return sh.Topics, sh.Articles, err
	}
	t, err := s.topics.Of(ctx, n)
	if err != nil {
		return nil, nil, err
	}
	list, err := s.planner.Read(ctx, n, t, t.List)
	return t, list, err
}

// PlanCSV writes the topics, or the sheet, as RFC 4180 has it: UTF-8, a header line, CR LF.
func (s *Exporter) PlanCSV(ctx context.Context, n niches.Niche, w io.Writer, sheet bool) error {
	t, list, err := s.planned(ctx, n, sheet)
	if err != nil {
		return err
	}
	return writePlan(w, n, t, list, columnsOf(sheet))
}

// TopicsCSV writes the topics of some leads, in their order.
func (s *Exporter) TopicsCSV(ctx context.Context, n niches.Niche, w io.Writer, leads []uint) error {
	t, err := s.topics.Of(ctx, n)
	if err != nil {
		return err
	}
	var list []topics.Topic
	for _, id := range leads {
		if one, err := t.Of(id); err == nil {
			list = append(list, one)
		}
	}
	articles, err := s.planner.Read(ctx, n, t, list)
	if err != nil {
		return err
	}
	return writePlan(w, n, t, articles, columnsOf(false))
}

func writePlan(w io.Writer, n niches.Niche, t *topics.Topics, list []articles.Article, columns []planColumn) error {
	heads := make([]string, len(columns))
	for i, c := range columns {
		heads[i] = c.name
	}
	return writeCSV(w, heads, func(row func([]any)) {
		for _, a := range list {
			cells := make([]any, len(columns))
			for i, c := range columns {
				cells[i] = c.value(n, t, a)
			}
			row(cells)
		}
	})
}

// writeCSV writes a table (RFC 4180) whose rows are handed over one by one.
func writeCSV(w io.Writer, heads []string, rows func(row func(cells []any))) error {
	out := csv.NewWriter(w)
	out.UseCRLF = true
	out.Write(heads) // an error stays until Flush
	line := make([]string, len(heads))
	rows(func(cells []any) {
		for i, c := range cells {
			line[i] = Harmless(written(c))
		}
		out.Write(line)
	})
	out.Flush()
	return out.Error()
}

// mostCell is how many characters a cell of a spreadsheet holds.
const mostCell = 32_767

// PlanXLSX writes a workbook with the topics and the sheet. Texts are texts, whatever they begin with.
func (s *Exporter) PlanXLSX(ctx context.Context, n niches.Niche, w io.Writer) error {
	book, err := newWorkbook(n.Name, s.store.Now())
	if err != nil {
		return err
	}
	defer book.file.Close()
	for i, sheet := range []bool{false, true} {
		t, list, err := s.planned(ctx, n, sheet)
		if err != nil {
			return err
		}
		if err := fillSheet(book, []string{"Topics", "Sheet"}[i], n, t, list, columnsOf(sheet)); err != nil {
			return err
		}
	}
	_, err = book.file.WriteTo(w)
	return err
}

func fillSheet(book *workbook, name string, n niches.Niche, t *topics.Topics, list []articles.Article,
	columns []planColumn) error {
	heads := make([]column, len(columns))
	for i, c := range columns {
		heads[i] = column{name: c.name, form: c.form}
		if i < 2 {
			heads[i].width = 36
		}
	}
	out, err := book.sheet(name, heads)
	if err != nil {
		return err
	}
	row := make([]any, len(columns))
	for _, a := range list {
		for i, c := range columns {
			row[i] = c.value(n, t, a)
		}
		if err := out.row(row); err != nil {
			return err
		}
	}
	return out.end()
}

// planJSON is the file of everything: docs/plan.schema.json describes it.
type planJSON struct {
	Format  string        `json:"format"`
	Version int           `json:"version"`
	Made    time.Time     `json:"made"`
	Niche   nicheJSON     `json:"niche"`
	Topics  []articleJSON `json:"topics"`
}

type nicheJSON struct {
	Name      string       `json:"name"`
	Country   string       `json:"country"`
	Language  string       `json:"language"`
	Currency  string       `json:"currency"`
	Site      string       `json:"site"`
	WeekHours int          `json:"week_hours"`
	LeadDays  int          `json:"lead_days"`
	Scope     niches.Scope `json:"scope"`
	Shared    int          `json:"shared"`
}

type articleJSON struct {
	ID        uint           `json:"id"` // of what was decided by hand; 0 where nothing was
	Fields    map[string]any `json:"fields"`
	Ideas     []ideaJSON     `json:"ideas"`
	HubByHand bool           `json:"hub_by_hand"`
	Brief     []sectionJSON  `json:"brief"` // of what is on the sheet
}

type ideaJSON struct {
	Phrase   string   `json:"phrase"`
	Searches *float64 `json:"searches"`
	Because  string   `json:"because"`
	ByHand   bool     `json:"by_hand"`
	LookedUp bool     `json:"looked_up"`
}

type sectionJSON struct {
	Key    string   `json:"key"`
	Name   string   `json:"name"`
	Lines  []string `json:"lines"`
	Edited bool     `json:"edited"`
}

// PlanJSON writes all topics, the sheet and its briefs.
func (s *Exporter) PlanJSON(ctx context.Context, n niches.Niche, w io.Writer) error {
	t, list, err := s.planned(ctx, n, false)
	if err != nil {
		return err
	}
	sheet, err := s.planner.Plan(ctx, n)
	if err != nil {
		return err
	}
	for _, a := range sheet.Articles {
		if a.Gone {
			list = append(list, a)
		}
	}
	out := planJSON{"clever-niche-plan", 3, s.store.Now().UTC(),
		nicheJSON{n.Name, n.Country, n.Language, n.Currency, n.OwnSite,
			n.WeekHours, n.LeadDays, n.Scope, n.Shared}, []articleJSON{}}
	for _, a := range list {
		one := articleJSON{ID: a.Key(), Fields: map[string]any{}, Ideas: []ideaJSON{}, HubByHand: a.HubHand,
			Brief: []sectionJSON{}}
		for _, c := range planColumns {
			one.Fields[strings.NewReplacer(" ", "_", "-", "_").Replace(c.name)] = c.value(n, t, a)
		}
		for k, i := range a.Ideas {
			idea := ideaJSON{Phrase: i.Phrase, ByHand: i.ByHand, LookedUp: i.LookedUp}
			if i.Searches >= 0 {
				idea.Searches = &i.Searches
			}
			switch {
			case a.Gone:
			case k == 0:
				idea.Because = i.Because("")
			default:
				idea.Because = i.Because(a.Lead())
			}
			one.Ideas = append(one.Ideas, idea)
		}
		if a.State() != plan.None && !a.Gone {
			b, err := s.writer.Of(ctx, n, t, a.Topic)
			if err != nil {
				return err
			}
			for _, section := range b.Sections {
				lines := section.Lines
				if lines == nil {
					lines = []string{}
				}
				one.Brief = append(one.Brief, sectionJSON{section.Key, section.Name, lines, section.Edited})
			}
		}
		out.Topics = append(out.Topics, one)
	}
	text := json.NewEncoder(w)
	text.SetEscapeHTML(false)
	text.SetIndent("", "  ")
	return text.Encode(out)
}

// planEvent is an event of the calendar.
type planEvent struct {
	uid, summary, note, link string
	from, to                 time.Time
}

// events are those of the plan: for each article one for writing it, and one for the last day to publish.
func events(sheet articles.Plan, brief func(id uint) string) (out []planEvent) {
	for _, a := range sheet.Articles {
		if a.State() == plan.Published {
			continue
		}
		add := func(what, summary string, from, to time.Time) {
			e := planEvent{summary: briefs.PlainText(summary), note: briefs.PlainText(a.Note), from: from, to: to,
				uid: fmt.Sprintf("%s-%d-%x@cleverniche.invalid", what, a.Decided.ID, a.Decided.CreatedAt.UnixNano())}
			if !a.Gone && brief != nil {
				e.link = brief(a.ID)
			}
			out = append(out, e)
		}
		if !a.Schedule.Start.IsZero() {
			add("write", fmt.Sprintf("Write: %s (%d h)", a.Name, a.Hours), a.Schedule.Start, a.Schedule.Ready)
		}
		if !a.Schedule.Due.IsZero() {
			add("publish", "Last day to publish: "+a.Name, a.Schedule.Due, a.Schedule.Due.AddDate(0, 0, 1))
		}
	}
	return out
}

// refreshed is how often calendars are asked to look (RFC 7986, 5.7).
const refreshed = "PT6H"

// Calendar writes the sheet as a calendar of RFC 5545: for each article an event for writing it, and one
// for the last day to publish. Each has the same UID every time; its SEQUENCE and times are those of what was told
// of it
// last (3.8.7.4). brief is the address of an article's brief; nil where there is none.
func (s *Exporter) Calendar(ctx context.Context, n niches.Niche, w io.Writer, brief func(id uint) string) error {
	sheet, err := s.planner.Plan(ctx, n)
	if err != nil {
		return err
	}
	cal := ics.NewCalendarFor("Clever Niche")
	cal.SetMethod(ics.MethodPublish)
	cal.SetXWRCalName(briefs.PlainText(n.Name))
	cal.SetName(briefs.PlainText(n.Name))
	cal.SetRefreshInterval(refreshed)
	cal.SetXPublishedTTL(refreshed)
	list := events(sheet, brief)
	says := make(map[string]string, len(list))
	for _, e := range list {
		says[e.uid] = fmt.Sprintf("%x", sha256.Sum256(fmt.Append(nil, e.summary, "\n", e.from.Format(time.DateOnly),
			e.to.Format(time.DateOnly), e.note)))
	}
	told, err := s.store.Tell(ctx, n.ID, says)
	if err != nil {
		return err
	}
	for _, one := range list {
		e := cal.AddEvent(one.uid)
		e.SetDtStampTime(told[one.uid].At)
		e.SetModifiedAt(told[one.uid].At)
		e.SetSequence(told[one.uid].Sequence)
		e.SetSummary(one.summary)
		e.SetAllDayStartAt(one.from)
		e.SetAllDayEndAt(one.to)
		e.SetTimeTransparency(ics.TransparencyTransparent)
		if one.note != "" {
			e.SetDescription(one.note)
		}
		if one.link != "" {
			e.SetURL(one.link)
		}
	}
	return cal.SerializeTo(w, ics.WithNewLineWindows)
}

func feedKey(n niches.Niche) string { return fmt.Sprintf("feed of %d", n.ID) }

// Feed is the secret that the niche's calendar is read with; "" while there is none.
func (s *Exporter) Feed(ctx context.Context, n niches.Niche) (string, error) {
	secret, err := s.store.Token(ctx, feedKey(n))
	return string(secret), err
}

// RenewFeed makes a new secret for the niche's calendar; the old one opens nothing any more.
func (s *Exporter) RenewFeed(ctx context.Context, n niches.Niche) (string, error) {
	fresh := strings.ToLower(rand.Text())
	return fresh, s.store.SetToken(ctx, feedKey(n), []byte(fresh), 0)
}

// EndFeed takes the secret away: the calendar is read by nobody any more.
func (s *Exporter) EndFeed(ctx context.Context, n niches.Niche) error {
	return s.store.DropToken(ctx, feedKey(n))
}

// IsFeed reports whether a secret opens the niche's calendar.
func (s *Exporter) IsFeed(ctx context.Context, n niches.Niche, secret string) (bool, error) {
	known, err := s.store.Token(ctx, feedKey(n))
	return len(known) > 0 && subtle.ConstantTimeCompare(known, []byte(secret)) == 1, err
}
