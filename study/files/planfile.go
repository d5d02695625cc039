package files

import (
	"context"
	"crypto/rand"
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
	"github.com/xuri/excelize/v2"
)

// planColumn is one column of the files of topics and of the sheet.
type planColumn struct {
	name  string
	sheet bool // of the sheet alone
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
			return d.Format(time.DateOnly)
		}
		return nil
	}
}

// planColumns are the columns of both files, in order.
var planColumns = []planColumn{
	{"topic", false, func(_ niches.Niche, _ *topics.Topics, a articles.Article) any { return a.Name }},
	{"lead", false, func(_ niches.Niche, _ *topics.Topics, a articles.Article) any { return a.Lead() }},
	{"wordings", false, func(_ niches.Niche, _ *topics.Topics, a articles.Article) any { return len(a.Ideas) }},
	{"other phrases", false, func(_ niches.Niche, _ *topics.Topics, a articles.Article) any {
		var out []string
		for _, i := range a.Ideas[1:] {
			out = append(out, i.Phrase)
		}
		return strings.Join(out, "; ")
	}},
	{"searches", false, figureCell(sieve.Searches)},
	{"difficulty", false, figureCell(sieve.Difficulty)},
	{"page-one chance", false, figureCell(sieve.PageOne)},
	{"footholds", false, figureCell(sieve.Footholds)},
	{"wants", false, figureCell(sieve.Intent)},
	{"kind of article", false, func(_ niches.Niche, _ *topics.Topics, a articles.Article) any { return string(a.Kind) }},
	{"worth least", false, figureCell(sieve.WorthLow)},
	{"worth", false, figureCell(sieve.Worth)},
	{"worth most", false, figureCell(sieve.WorthHigh)},
	{"currency", false, func(n niches.Niche, _ *topics.Topics, _ articles.Article) any { return n.Currency }},
	{"publish by", false, dayCell(func(a articles.Article) time.Time { return a.Schedule.Last })},
	{"hub", false, func(_ niches.Niche, t *topics.Topics, a articles.Article) any {
		if a.Hub == topic.NoHub {
			return ""
		}
		return t.List[a.Hub].Name
	}},
	{"my pages", false, func(_ niches.Niche, _ *topics.Topics, a articles.Article) any {
		var out []string
		for _, o := range a.Own {
			out = append(out, o.URL)
		}
		return strings.Join(out, " ")
	}},
	{"by hand", false, func(_ niches.Niche, _ *topics.Topics, a articles.Article) any { return a.Changed }},
	{"state", false, func(_ niches.Niche, _ *topics.Topics, a articles.Article) any { return string(a.State()) }},
	{"hours", true, func(_ niches.Niche, _ *topics.Topics, a articles.Article) any { return a.Hours }},
	{"begin", true, dayCell(func(a articles.Article) time.Time { return a.Start })},
	{"ready", true, dayCell(func(a articles.Article) time.Time { return a.Schedule.Ready })},
	{"deadline", true, dayCell(func(a articles.Article) time.Time { return a.Deadline })},
	{"days late", true, func(_ niches.Niche, _ *topics.Topics, a articles.Article) any { return a.Schedule.Late }},
	{"address", true, func(_ niches.Niche, _ *topics.Topics, a articles.Article) any { return a.Address }},
	{"published", true, dayCell(func(a articles.Article) time.Time { return a.Day })},
	{"note", true, func(_ niches.Niche, _ *topics.Topics, a articles.Article) any { return a.Note }},
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
	out := csv.NewWriter(w)
	out.UseCRLF = true
	row := make([]string, len(columns))
	for i, c := range columns {
		row[i] = c.name
	}
	out.Write(row) // an error stays until Flush
	for _, a := range list {
		for i, c := range columns {
			row[i] = Harmless(written(c.value(n, t, a)))
		}
		out.Write(row)
	}
	out.Flush()
	return out.Error()
}

// mostCell is how many characters a cell of a spreadsheet holds.
const mostCell = 32_767

// PlanXLSX writes a workbook with the topics and the sheet. Texts are texts, whatever they begin with.
func (s *Exporter) PlanXLSX(ctx context.Context, n niches.Niche, w io.Writer) error {
	book := excelize.NewFile()
	defer book.Close()
	for i, sheet := range []bool{false, true} {
		name := []string{"Topics", "Sheet"}[i]
		if i == 0 {
			book.SetSheetName(book.GetSheetName(0), name)
		} else if _, err := book.NewSheet(name); err != nil {
			return err
		}
		t, list, err := s.planned(ctx, n, sheet)
		if err != nil {
			return err
		}
		if err := fillSheet(book, name, n, t, list, columnsOf(sheet)); err != nil {
			return err
		}
	}
	_, err := book.WriteTo(w)
	return err
}

func fillSheet(book *excelize.File, name string, n niches.Niche, t *topics.Topics, list []articles.Article,
	columns []planColumn) error {
	out, err := book.NewStreamWriter(name)
	if err != nil {
		return err
	}
	row := make([]any, len(columns))
	for i, c := range columns {
		row[i] = c.name
	}
	if err := out.SetRow("A1", row); err != nil {
		return err
	}
	for k, a := range list {
		for i, c := range columns {
			row[i] = c.value(n, t, a)
			if text, ok := row[i].(string); ok {
				text = briefs.PlainText(text)
				row[i] = string([]rune(text)[:min(mostCell, len([]rune(text)))])
			}
		}
		at, err := excelize.CoordinatesToCellName(1, k+2)
		if err == nil {
			err = out.SetRow(at, row)
		}
		if err != nil {
			return err
		}
	}
	return out.Flush()
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
	out := planJSON{"clever-niche-plan", 1, s.store.Now().UTC(),
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

// Calendar writes the sheet as a calendar of RFC 5545: for each article an event for writing it, and one
// for the last day to publish. Each has the same UID every time.
func (s *Exporter) Calendar(ctx context.Context, n niches.Niche, w io.Writer) error {
	sheet, err := s.planner.Plan(ctx, n)
	if err != nil {
		return err
	}
	cal := ics.NewCalendarFor("Clever Niche")
	cal.SetMethod(ics.MethodPublish)
	cal.SetXWRCalName(n.Name)
	for _, a := range sheet.Articles {
		event := func(what, summary string, from, to time.Time) {
			e := cal.AddEvent(fmt.Sprintf("%s-%d-%x@cleverniche.invalid", what, a.Decided.ID, a.Decided.CreatedAt.UnixNano()))
			e.SetDtStampTime(a.Decided.ChangedAt)
			e.SetModifiedAt(a.Decided.ChangedAt)
			e.SetSequence(int(a.Decided.ChangedAt.Unix() - a.Decided.CreatedAt.Unix()))
			e.SetSummary(summary)
			e.SetAllDayStartAt(from)
			e.SetAllDayEndAt(to)
			e.SetTimeTransparency(ics.TransparencyTransparent)
			if a.Note != "" {
				e.SetDescription(a.Note)
			}
			if a.Address != "" {
				e.SetURL(a.Address)
			}
		}
		if !a.Schedule.Start.IsZero() && a.State() != plan.Published {
			event("write", fmt.Sprintf("Write: %s (%d h)", a.Name, a.Hours), a.Schedule.Start, a.Schedule.Ready)
		}
		if !a.Schedule.Due.IsZero() && a.State() != plan.Published {
			event("publish", "Publish by today: "+a.Name, a.Schedule.Due, a.Schedule.Due.AddDate(0, 0, 1))
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

// IsFeed reports whether a secret opens the niche's calendar.
func (s *Exporter) IsFeed(ctx context.Context, n niches.Niche, secret string) (bool, error) {
	known, err := s.store.Token(ctx, feedKey(n))
	return len(known) > 0 && subtle.ConstantTimeCompare(known, []byte(secret)) == 1, err
}
