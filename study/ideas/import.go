package ideas

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	"cleverniche/core/sieve"
	"cleverniche/market"
	"cleverniche/store"
	"cleverniche/study/input"
	"cleverniche/study/niches"
)

// ImportReport says what became of a list.
type ImportReport struct {
	List     string
	Batch    string               // that it is undone by
	Used     int                  // usable lines
	Added    int                  // new ideas
	Merged   int                  // lines whose idea was there already, here or earlier in the list
	Unused   int                  // lines that cannot be used
	Problems []market.LineProblem // the first of them
}

// Bounds of one list.
const (
	MostUpload  = market.MostFileBytes + 64<<10 // bytes, with what a form puts around it
	shownLines  = 200                           // lines that were not used, of which a report tells
	importSlice = 200                           // ideas that go in at once, so that decisions need not wait for all
)

// Import reads somebody's own list into the niche: every usable line goes in, the
// others are counted, and the first of them listed with their reason. Lines go in a few hundred at
// a time, so that nobody waits for them; what is in when the program is killed stays, and the
// same list once more brings the rest.
func (s *Keeper) Import(ctx context.Context, n niches.Niche, list string, r io.Reader) (ImportReport, error) {
	rep := ImportReport{List: list}
	rows, problems, err := market.ReadIdeas(r, n.Currency)
	if err != nil {
		return rep, input.Bad("list", "The list cannot be read: %v.", err)
	}
	rep.Unused, rep.Problems, rep.Used = len(problems), problems[:min(len(problems), shownLines)], len(rows)
	if len(rows) == 0 && len(problems) == 0 {
		return rep, input.Bad("list", "The list is empty. Paste phrases, one per line, or choose a file.")
	}
	finds := make([]store.Find, 0, len(rows))
	now := s.store.Now().UTC()
	for _, row := range rows {
		f := s.Find(n, row.Phrase, store.Origin{Kind: FromList, Query: list})
		if row.Searches >= 0 {
			n := row.Searches
			f.Idea.DemandAt, f.Idea.DemandSource, f.Idea.Searches, f.Idea.Under = &now, store.ImportSource, &n, row.Under
		}
		if row.CPC.Known() {
			f.Idea.CPCMicros, f.Idea.Currency = &row.CPC.Micros, row.CPC.Currency
		}
		if reason := own(&f.Idea, row); reason != "" {
			rep.Unused++
			rep.Used--
			if len(rep.Problems) < shownLines {
				rep.Problems = append(rep.Problems, market.LineProblem{Line: row.Line, Text: row.Phrase, Reason: reason})
			}
			continue
		}
		finds = append(finds, f)
	}
	batch := rand.Text() + " " + list
	rep.Batch = batch
	for part := range slices.Chunk(finds, importSlice) {
		added, err := s.store.ImportIdeas(ctx, n.ID, part, batch)
		if err != nil {
			return rep, err
		}
		rep.Added += added
	}
	rep.Merged = rep.Used - rep.Added
	return rep, err
}

// Imported is a list that was read, as it can be undone.
type Imported struct {
	Batch, List string
	Ideas       int
	At          time.Time
}

// Imports lists the latest lists that were read into a niche, of those that can be undone.
func (s *Keeper) Imports(ctx context.Context, niche uint, most int) ([]Imported, error) {
	rows, err := s.store.Imports(ctx, niche, most)
	out := make([]Imported, len(rows))
	for i, row := range rows {
		_, list, _ := strings.Cut(row.Batch, " ")
		out[i] = Imported{row.Batch, list, row.Ideas, row.At}
	}
	return out, err
}

// UndoImport takes a list back: the ideas that came by it are deleted, what it filled in is as it was. It returns of
// how many ideas.
func (s *Keeper) UndoImport(ctx context.Context, niche uint, batch string) (int, error) {
	n, err := s.store.UndoImport(ctx, niche, batch)
	if errors.Is(err, store.ErrPlanned) {
		return 0, input.Bad("list", "Some of its ideas belong to articles in your plan. Remove those articles first.")
	}
	return n, err
}

// own fills in what a file of this program's own says of an idea besides. What is said of it holds where the idea is
// new; one that is there keeps what was decided on it.
func own(idea *store.Idea, row market.IdeaRow) (problem string) {
	if row.Decision != "" {
		if v := sieve.Decided.Named(row.Decision); v.Known {
			idea.Decision = int8(v.Number)
		}
	}
	if v := sieve.Coming.Named(row.Season); v.Known {
		idea.Season = row.Season
	}
	if v := sieve.Trend.Named(row.Trend); v.Known {
		idea.Lasting = row.Trend
	}
	idea.Competition = row.Ads
	if k := len([]rune(row.Note)); k > MostNoteRunes {
		return fmt.Sprintf("its note has %d characters, more than %d", k, MostNoteRunes)
	}
	idea.Note = row.Note
	var labels []string
	for _, text := range strings.Split(row.Labels, ";") {
		if strings.TrimSpace(text) == "" {
			continue
		}
		label, err := labelOf(text)
		if err != nil {
			return "its labels cannot be used: " + err.Error()
		}
		labels = append(labels, label)
	}
	slices.Sort(labels)
	if labels = slices.Compact(labels); len(labels) > MostLabels {
		return fmt.Sprintf("it has more than %d labels", MostLabels)
	}
	idea.Labels = strings.Join(labels, sieve.LabelMark)
	return ""
}
