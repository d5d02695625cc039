package imports

import (
	"context"
	"encoding/csv"
	"encoding/json"
	"errors"
	"io"
	"slices"
	"strconv"

	"cleverniche/market/files"
	"cleverniche/study/ideas"
	"cleverniche/study/input"
	"cleverniche/study/jobs"
	"cleverniche/study/niches"
)

// Preview is how a file is understood before any of it is taken in.
type Preview struct {
	Upload     Upload
	Shape      files.Shape
	Kind       files.Kind
	Inner      []string // files of an archive, or sheets
	Remembered bool     // its columns are read as somebody said of a file like it
	Rows       []files.Idea
	Cells      [][]string // of the first rows, as they are
	Usable     int
	About      int    // of answers, about how many phrases or pages they are
	Site       string // whose rankings or figures these are; "" they are none of another site
	Says       string // of figures of a site, which
	Known      int    // of the first lines, that are ideas already; of how many
	KnownOf    int
	Bad        int
	Problems   []files.LineProblem
	Why        string // why nothing of it can be taken in; "" something can
}

// Lines is how many lines there are, usable or not.
func (p Preview) Lines() int { return p.Usable + p.Bad }

// knownLines is of how many phrases one looks whether they are there.
const knownLines = 5000

// Preview reads a file through as it is to be read, or as it is recognised, and changes nothing.
func (s *Importer) Preview(ctx context.Context, n niches.Niche, token string) (p Preview, err error) {
	u, err := s.Upload(n.ID, token)
	if err != nil {
		return p, err
	}
	p.Upload = u
	part := ""
	if u.Shape != nil {
		part = u.Shape.Part
	}
	f, err := s.openFile(u, part)
	if err != nil {
		return p, wrong(err)
	}
	defer f.Close()
	p.Inner = f.Inner
	if u.Shape != nil {
		p.Shape, p.Remembered = *u.Shape, u.Remembered
	} else if p.Shape, p.Remembered, err = s.recognise(ctx, f); err != nil {
		return p, wrong(err)
	}
	err = f.Each(ctx, p.Shape, func(_ int, cells []string) error {
		if p.Cells = append(p.Cells, slices.Clone(cells)); len(p.Cells) == sampledKinds {
			return errEnough
		}
		return nil
	}, func(files.LineProblem) error { return nil })
	if err != nil && !errors.Is(err, errEnough) {
		return p, wrong(err)
	}
	p.Kind = p.Shape.Kind(p.Cells)
	of := ""
	if p.Kind == files.RankingsFile {
		if of = s.siteOf(p.Shape, p.Cells); of != "" && of != n.OwnSite {
			p.Kind = files.RivalFile
		}
	}
	if p.Upload.Of != "" {
		p.Kind = files.SiteFile
	}
	p.Cells = p.Cells[:min(len(p.Cells), ShownRows)]
	if p.Kind == files.SiteFile {
		return s.countSite(ctx, n, f, p)
	}
	if p.Kind == files.RivalFile {
		return s.countRankings(ctx, f, p, of)
	}
	if p.Kind == files.RanksFile {
		return s.countRanks(ctx, f, p)
	}
	if p.Why = refused(p.Kind, p.Shape); p.Why != "" {
		return p, nil
	}
	if answering(p.Kind) != "" {
		return s.countBrought(ctx, f, p)
	}
	var phrases []string
	enough := func() error { // it was counted before: the rest need not be read to be shown
		if u.Counted != nil && len(p.Rows) == min(ShownRows, u.Counted.Usable) && len(phrases) == min(knownLines,
			u.Counted.Usable) && len(p.Problems) == min(ShownBad, u.Counted.Bad) {
			return errEnough
		}
		return nil
	}
	err = f.Ideas(ctx, p.Shape, n.Currency, func(i files.Idea) error {
		if p.Usable++; len(p.Rows) < ShownRows {
			p.Rows = append(p.Rows, i)
		}
		if len(phrases) < knownLines {
			phrases = append(phrases, i.Phrase)
		}
		return enough()
	}, func(bad files.LineProblem) error {
		if p.Bad++; len(p.Problems) < ShownBad {
			p.Problems = append(p.Problems, bad)
		}
		return enough()
	})
	if errors.Is(err, errEnough) {
		p.Usable, p.Bad, err = u.Counted.Usable, u.Counted.Bad, nil
	}
	if err != nil {
		return p, wrong(err)
	}
	if p.Usable == 0 {
		p.Why = "No line of it can be used."
	}
	if u.Lines == 0 {
		if p.Upload, err = s.counted(p); err != nil {
			return p, err
		}
	}
	p.KnownOf = len(phrases)
	p.Known, err = s.store.Listed(ctx, n.ID, phrases)
	return p, err
}

// counted notes what reading a file through came to.
func (s *Importer) counted(p Preview) (Upload, error) {
	u := p.Upload
	u.Shape, u.Counted, u.Kind = &p.Shape, &Counted{p.Usable, p.Bad, p.About}, p.Kind
	u.Remembered = p.Remembered
	return u, s.note(u)
}

var errEnough = errors.New("enough was seen")

// recognise tells how a file is written; where somebody said how columns of files like it are read, they are.
func (s *Importer) recognise(ctx context.Context, f *files.File) (shape files.Shape, remembered bool, err error) {
	if shape, err = f.Recognise(); err != nil {
		return shape, false, err
	}
	body, err := s.store.Mapping(ctx, shape.Key())
	if err != nil || body == "" {
		return shape, false, err
	}
	var fields []files.Field
	if json.Unmarshal([]byte(body), &fields) != nil || len(fields) != len(shape.Columns) {
		return shape, false, nil
	}
	for i, field := range fields {
		if shape.Columns[i].Field != field {
			shape.Columns[i].Field, remembered = field, true
		}
	}
	if remembered {
		err = f.Decide(&shape)
	}
	return shape, remembered, err
}

// refused says why files of a kind are not taken in as ideas, and what to do.
func refused(k files.Kind, s files.Shape) string {
	if k != files.LinksFile && s.Has(files.Phrase) < 0 {
		return "This looks like a table, and no column of it is known to hold phrases. Choose one below."
	}
	return ""
}

// Settings are what somebody says of how a file is to be read; "" and nil leave it as it is.
type Settings struct {
	Name, Part, Encoding, Comma string
	Form                        files.Form
	Skip                        *int
	Header                      *bool
	Fields                      []files.Field
	Months                      []string
	Decimal                     string // of all columns, "." or ","
}

// Set changes how a file is read. Where the form, the part or the encoding changes, its columns are recognised anew.
func (s *Importer) Set(ctx context.Context, n niches.Niche, token string, to Settings) error {
	u, err := s.Upload(n.ID, token)
	if err != nil {
		return err
	}
	if name := ideas.ListName(to.Name); name != "" {
		u.Name = name
	}
	part := to.Part
	if part == "" && u.Shape != nil {
		part = u.Shape.Part
	}
	f, err := s.openFile(u, part)
	if err != nil {
		return wrong(err)
	}
	defer f.Close()
	var shape files.Shape
	switch {
	case u.Shape != nil && u.Shape.Part == f.Took:
		shape = *u.Shape
	default:
		if shape, _, err = s.recognise(ctx, f); err != nil {
			return wrong(err)
		}
		shape.Part = f.Took
	}
	if anew := written(&shape, to); anew {
		if err := f.Columns(&shape); err != nil {
			return wrong(err)
		}
	} else if err := columns(&shape, to); err != nil {
		return err
	}
	if err := f.Decide(&shape); err != nil {
		return wrong(err)
	}
	if to.Decimal == "." || to.Decimal == "," {
		for i := range shape.Columns {
			if shape.Columns[i].Decimal != "" {
				shape.Columns[i].Decimal, shape.Columns[i].Doubtful = to.Decimal, false
			}
		}
	}
	u.Shape, u.Counted, u.Remembered = &shape, nil, false
	return s.note(u)
}

// written takes over how rows are written, and reports whether that changes what columns there are.
func written(shape *files.Shape, to Settings) (anew bool) {
	was := *shape
	if slices.Contains(files.Encodings, files.Encoding(to.Encoding)) && shape.Encoding != "" {
		shape.Encoding = files.Encoding(to.Encoding)
	}
	if text := shape.Form == files.Separated || shape.Form == files.Plain; text {
		switch {
		case to.Comma == "none":
			shape.Form, shape.Comma = files.Plain, ""
		case slices.Contains(files.Separators, to.Comma):
			shape.Form, shape.Comma = files.Separated, to.Comma
		}
	}
	rowed := shape.Form == files.Separated || shape.Form == files.Plain || shape.Form == files.Spreadsheet
	if rowed && to.Skip != nil && *to.Skip >= 0 && *to.Skip <= files.MostSkipped {
		shape.Skip = *to.Skip
	}
	if rowed && to.Header != nil {
		shape.Header = *to.Header
	}
	return was.Encoding != shape.Encoding || was.Form != shape.Form || was.Comma != shape.Comma ||
		was.Skip != shape.Skip || was.Header != shape.Header
}

// columns takes over what columns hold.
func columns(shape *files.Shape, to Settings) error {
	for i, field := range to.Fields {
		if i >= len(shape.Columns) {
			break
		}
		c := &shape.Columns[i]
		if field == c.Field || !slices.Contains(files.Offered, field) {
			continue
		}
		c.Field, c.Ours = field, false
		if field == files.Month && !c.Named() {
			return input.Bad("list", "“%s” names no month, such as 2025-01 or Jan 2025.", input.Clip(c.Heading, 60))
		}
	}
	seen := map[files.Field]bool{}
	for _, c := range shape.Columns {
		switch c.Field {
		case files.Phrase, files.Searches, files.CPC, files.Competition:
			if seen[c.Field] {
				return input.Bad("list", "Two columns are said to hold %s. Set one of them otherwise.", c.Field)
			}
			seen[c.Field] = true
		}
	}
	return nil
}

// Problems writes all lines of a file that cannot be used as CSV, with line and reason.
func (s *Importer) Problems(ctx context.Context, n niches.Niche, token string, w io.Writer) error {
	p, f, err := s.reopen(ctx, n, token)
	if err != nil {
		return err
	}
	defer f.Close()
	out := csv.NewWriter(w)
	if err := out.Write([]string{"line", "text", "reason"}); err != nil {
		return err
	}
	skipped := func(bad files.LineProblem) error {
		return out.Write([]string{strconv.Itoa(bad.Line), guarded(bad.Text), bad.Reason})
	}
	u, err := s.Upload(n.ID, token)
	if err != nil {
		return err
	}
	if u.Kind == files.SiteFile {
		_, _, err = f.SiteRows(ctx, p, n.Currency, skipped)
	} else if u.Kind == files.RivalFile {
		err = s.rankings(ctx, f, p, func(string, files.Ranking) error { return nil }, skipped)
	} else if q := answering(u.Kind); q != "" {
		_, err = gather(ctx, f, p, q, skipped)
	} else {
		err = f.Ideas(ctx, p, n.Currency, func(files.Idea) error { return nil }, skipped)
	}
	out.Flush()
	return errors.Join(wrong(err), out.Error())
}

// guarded keeps a spreadsheet from taking a text for a formula.
func guarded(text string) string {
	if text != "" && slices.Contains([]byte("=+-@\t\r|"), text[0]) {
		return "'" + text
	}
	return text
}

// reopen opens a file as it is to be read.
func (s *Importer) reopen(ctx context.Context, n niches.Niche, token string) (files.Shape, *files.File, error) {
	u, err := s.Upload(n.ID, token)
	if err != nil {
		return files.Shape{}, nil, err
	}
	part := ""
	if u.Shape != nil {
		part = u.Shape.Part
	}
	f, err := s.openFile(u, part)
	if err != nil {
		return files.Shape{}, nil, wrong(err)
	}
	if u.Shape != nil {
		return *u.Shape, f, nil
	}
	shape, _, err := s.recognise(ctx, f)
	if err != nil {
		return shape, nil, errors.Join(wrong(err), f.Close())
	}
	return shape, f, nil
}

// Confirm takes a file in as it was shown: as a job.
func (s *Importer) Confirm(ctx context.Context, n niches.Niche, token string) (jobs.Job, error) {
	s.confirming.Lock() // a button may be pressed twice
	defer s.confirming.Unlock()
	u, err := s.Upload(n.ID, token)
	if err != nil {
		return jobs.Job{}, err
	}
	if u.Counted == nil || u.Shape == nil { // nobody has seen it as it is now
		p, err := s.Preview(ctx, n, token)
		if err != nil {
			return jobs.Job{}, err
		}
		if p.Why != "" {
			return jobs.Job{}, input.Bad("list", "%s", p.Why)
		}
		u = p.Upload
	}
	switch {
	case u.Lines > 0:
		return jobs.Job{}, input.Bad("list", "It is being imported already, perhaps from another tab.")
	case u.Counted.Usable == 0:
		return jobs.Job{}, input.Bad("list", "No line of it can be used.")
	}
	u.Lines = u.Counted.Usable + u.Counted.Bad
	if answering(u.Kind) != "" || slices.Contains([]files.Kind{files.RanksFile, files.RivalFile,
		files.SiteFile}, u.Kind) {
		return s.startBrought(ctx, n, u)
	}
	if err := s.note(u); err != nil {
		return jobs.Job{}, err
	}
	var fields []files.Field
	for _, c := range u.Shape.Columns {
		fields = append(fields, c.Field)
	}
	if body, err := json.Marshal(fields); err == nil {
		if err := s.store.SaveMapping(ctx, u.Shape.Key(), string(body)); err != nil {
			return jobs.Job{}, err
		}
	}
	var parts []part
	for i := 0; i*slice < u.Lines; i++ {
		parts = append(parts, part{Token: token, Part: i})
	}
	params, err := json.Marshal(part{Token: token})
	if err != nil {
		return jobs.Job{}, err
	}
	return s.runner.StartWith(ctx, n, importJob, "Import “"+u.Name+"”", jobs.Encode(parts), string(params))
}

// Remove removes a file nobody wants to import.
func (s *Importer) Remove(n niches.Niche, token string) error {
	if _, err := s.Upload(n.ID, token); err != nil {
		return err
	}
	return s.Discard(token)
}
