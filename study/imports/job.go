package imports

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	"cleverniche/core/demand"
	"cleverniche/core/links"
	"cleverniche/core/sieve"
	"cleverniche/market/files"
	"cleverniche/store"
	"cleverniche/study/ideas"
	"cleverniche/study/input"
	"cleverniche/study/jobs"
	"cleverniche/study/niches"
)

// importJob is the job kind of taking a file in.
const importJob = "import"

// part is a slice of a file.
type part struct {
	Token string `json:"token"`
	Part  int    `json:"part"`
	// Whole is the kind of a file that is taken in at once: one that is no list of ideas.
	Whole files.Kind `json:"whole,omitempty"`
}

// Kinds are the kinds of jobs that it does.
func (s *Importer) Kinds() []jobs.Kind {
	return []jobs.Kind{{Name: importJob, Workers: 1, Brings: "new ideas", Do: s.step,
		Waits: func(string) bool { return true },
		Ended: func(_ context.Context, _ niches.Niche, params string) error {
			p, err := partOf(params)
			if err != nil {
				return err
			}
			return s.Discard(p.Token)
		},
		Cancelled: s.cancelled}}
}

func partOf(payload string) (p part, err error) {
	if err = json.Unmarshal([]byte(payload), &p); err != nil {
		return p, fmt.Errorf("an import that cannot be read: %w", err)
	}
	return p, nil
}

// cancelled takes back what a job brought that was cancelled.
func (s *Importer) cancelled(ctx context.Context, n niches.Niche, params string) error {
	p, err := partOf(params)
	if err != nil {
		return err
	}
	if _, err := s.store.UndoImport(ctx, n.ID, p.Token); err != nil && !errors.Is(err, store.ErrNotFound) {
		return err
	}
	return s.Discard(p.Token)
}

// reading is a file that a job reads, slice after slice: the next ones are made ready while one is put in.
type reading struct {
	upload Upload
	file   *files.File
	at     int // slices that were taken
	slices chan readSlice
	stop   context.CancelFunc
}

// readSlice is what is put in at once.
type readSlice struct {
	list []store.Arrival
	err  error
}

// ahead is how many slices are made ready.
const ahead = 2

func (r *reading) close() {
	r.stop()
	for range r.slices { // until who reads has seen it
	}
	_ = r.file.Close()
}

// readingOf is the reading of a file, at a slice. It goes on where it is, or begins anew and passes over what was
// taken.
func (s *Importer) readingOf(ctx context.Context, n niches.Niche, token string, from int) (*reading, error) {
	s.mu.Lock()
	r := s.open[token]
	delete(s.open, token)
	s.mu.Unlock()
	if r != nil && r.at == from {
		return r, nil
	}
	if r != nil {
		r.close()
	}
	u, err := s.Upload(n.ID, token)
	if err != nil {
		return nil, err
	}
	shape, f, err := s.reopen(ctx, n, token)
	if err != nil {
		return nil, err
	}
	r = &reading{upload: u, file: f, at: from, slices: make(chan readSlice, ahead)}
	on, stop := context.WithCancel(context.Background())
	r.stop = stop
	go func() {
		defer close(r.slices)
		s.read(on, n, r, shape, from*slice)
	}()
	return r, nil
}

// read makes slices of a file ready, but for the first lines.
func (s *Importer) read(ctx context.Context, n niches.Niche, r *reading, shape files.Shape, skip int) {
	var now readSlice
	lines := 0
	send := func() error {
		select {
		case r.slices <- now:
			now = readSlice{}
			return nil
		case <-ctx.Done():
			return ctx.Err()
		}
	}
	line := func(i *files.Idea) error {
		if lines++; lines <= skip {
			return ctx.Err()
		}
		if i != nil {
			now.list = append(now.list, s.arrival(n, r.upload.Name, *i))
		}
		if lines%slice == 0 {
			return send()
		}
		return nil
	}
	err := r.file.Ideas(ctx, shape, n.Currency, func(i files.Idea) error { return line(&i) },
		func(files.LineProblem) error { return line(nil) })
	if now.err = err; err != nil || lines%slice != 0 {
		_ = send() // nobody reads it any more
	}
}

// step puts a slice of a file in.
func (s *Importer) step(ctx context.Context, n niches.Niche, payload string) (found int, err error) {
	p, err := partOf(payload)
	if err != nil {
		return 0, err
	}
	if p.Whole == files.RanksFile {
		return 0, s.putRanks(ctx, p)
	}
	if p.Whole == files.SiteFile {
		return 0, s.putSite(ctx, n, p)
	}
	if p.Whole == files.RivalFile {
		return s.putRankings(ctx, n, p)
	}
	if p.Whole != "" {
		return s.putBrought(ctx, n, p)
	}
	did, err := s.put(ctx, n, p)
	return did.Added, err
}

// put puts a slice of a file in.
func (s *Importer) put(ctx context.Context, n niches.Niche, p part) (did store.Import, err error) {
	r, err := s.readingOf(ctx, n, p.Token, p.Part)
	if err != nil {
		return did, err
	}
	got, more := <-r.slices
	if !more {
		got.err = errors.New("the file is shorter than it was")
	}
	if got.err != nil {
		r.close()
		return did, wrong(got.err)
	}
	r.at++
	s.mu.Lock()
	s.open[p.Token] = r
	s.mu.Unlock()
	if len(got.list) == 0 {
		return did, nil
	}
	return s.store.ImportIdeas(ctx, n.ID, got.list, p.Token, r.upload.Name)
}

// arrival is a line as it is put in.
func (s *Importer) arrival(n niches.Niche, list string, row files.Idea) store.Arrival {
	f := s.ideas.Find(n, row.Phrase, store.Origin{Kind: ideas.FromList, Query: list})
	now, i := f.Origin.CreatedAt, &f.Idea
	if row.Searches.Known {
		k := int(row.Searches.Middle() + 0.5)
		i.DemandAt, i.DemandSource, i.Searches, i.Under = &now, imported(list), &k, row.Searches.Under
		i.Range = row.Searches.Range()
	}
	if len(row.Months) > 0 {
		i.DemandAt, i.DemandSource = &now, imported(list)
		i.Months = store.EncodeMonths(demand.Series{Counts: row.Months})
		ideas.LastingOf(i)
		if i.Searches == nil {
			if sum, ok := demand.Summarise(demand.Series{Counts: row.Months}); ok {
				i.Searches, i.Under = &sum.Average, sum.Under
			}
		}
	}
	if row.CPC.Known() {
		i.CPCMicros, i.Currency = &row.CPC.Micros, row.CPC.Currency
	}
	i.Competition = row.Ads
	if row.Reported() || row.Place.Known && s.suffixes.Site(links.Host(row.Page)) == n.OwnSite && n.OwnSite != "" {
		reported(i, row)
	}
	if v := sieve.Decided.Named(row.Decision); row.Decision != "" && v.Known {
		i.Decision = int8(v.Number)
	}
	if v := sieve.Coming.Named(row.Season); v.Known && i.Season == "" {
		i.Season = row.Season
	}
	if v := sieve.Trend.Named(row.Trend); v.Known && i.Lasting == "" {
		i.Lasting = row.Trend
	}
	i.Note = input.Clip(row.Note, ideas.MostNoteRunes)
	i.Labels = labels(row.Labels)
	return store.Arrival{Find: f, Line: row.Line}
}

// reported takes over what a report says of my own pages.
func reported(i *store.Idea, row files.Idea) {
	if row.Place.Known && row.Place.Middle() >= 1 {
		place := row.Place.Middle()
		i.MyPlace = &place
	}
	count := func(n files.Number) *int {
		if !n.Known {
			return nil
		}
		k := int(n.Middle() + 0.5)
		return &k
	}
	i.MyClicks, i.MyShown, i.MyPage = count(row.Clicks), count(row.Impressions), row.Page
}

// labels are those of a line that may be labels, as they are kept.
func labels(list []string) string {
	var out []string
	for _, text := range list {
		if label, err := ideas.LabelOf(text); err == nil && len(out) < ideas.MostLabels {
			out = append(out, label)
		}
	}
	slices.Sort(out)
	return strings.Join(slices.Compact(out), sieve.LabelMark)
}

// Imported is a list that was taken in, as it can be undone.
type Imported struct {
	Batch, Name    string
	Added, Changed int // ideas that came, and of which it brought figures
	Results, Links int // phrases whose results it brought, and pages whose links
	At             time.Time
}

// Imports lists the latest imports of a niche that can be undone.
func (s *Importer) Imports(ctx context.Context, niche uint, most int) ([]Imported, error) {
	rows, err := s.store.Imports(ctx, niche, most)
	out := make([]Imported, len(rows))
	for i, row := range rows {
		out[i] = Imported{row.Batch, row.Name, row.Added, row.Changed, row.Results, row.Links, row.At}
	}
	return out, err
}

// Undo takes an import back: the ideas that came by it leave, what it changed is as it was. It returns of how many
// ideas.
func (s *Importer) Undo(ctx context.Context, niche uint, batch string) (int, error) {
	n, err := s.store.UndoImport(ctx, niche, batch)
	if errors.Is(err, store.ErrPlanned) {
		return 0, input.Bad("list", "Some of its ideas belong to articles in your plan. Remove those articles first.")
	}
	return n, err
}

// Report says what became of a list that was taken in at once.
type Report struct {
	List     string
	Batch    string // that it is undone by
	Used     int    // usable lines
	Added    int    // new ideas
	Changed  int    // ideas of which it brought figures
	Unused   int    // lines that cannot be used
	Problems []files.LineProblem
}

// Merged is how many usable lines are ideas that were there already, here or earlier in the list.
func (r Report) Merged() int { return r.Used - r.Added }

// Take takes a list in at once, as it is recognised: for who has seen it already, such as a few phrases of a command.
func (s *Importer) Take(ctx context.Context, n niches.Niche, name string, r io.Reader) (rep Report, err error) {
	u, err := s.Receive(ctx, n, name, name, r)
	if err != nil {
		return rep, err
	}
	defer func() { err = errors.Join(err, s.Discard(u.Token)) }()
	p, err := s.Preview(ctx, n, u.Token)
	if err != nil {
		return rep, err
	}
	rep = Report{List: u.Name, Batch: u.Token, Used: p.Usable, Unused: p.Bad, Problems: p.Problems}
	if p.Why != "" && p.Bad == 0 {
		return rep, input.Bad("list", "%s", p.Why)
	}
	for i := 0; i*slice < p.Lines(); i++ {
		did, err := s.put(ctx, n, part{Token: u.Token, Part: i})
		if err != nil {
			return rep, err
		}
		rep.Added, rep.Changed = rep.Added+did.Added, rep.Changed+did.Changed
	}
	return rep, nil
}
