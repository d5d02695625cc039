package study

import (
	"context"
	"io"

	"cleverniche/market"
	"cleverniche/store"
)

// ImportReport says what became of a list.
type ImportReport struct {
	List     string
	Used     int // usable lines
	Added    int // new ideas
	Merged   int // lines whose idea was there already, here or earlier in the list
	Problems []market.LineProblem
}

// Import reads somebody's own list into the niche: every usable line goes in, the
// others are listed with their reason. All in one step: nothing half-done remains.
func (s *Study) Import(ctx context.Context, n Niche, list string, r io.Reader) (ImportReport, error) {
	rep := ImportReport{List: list}
	rows, problems, err := market.ReadIdeas(r, n.Currency)
	if err != nil {
		return rep, badInput("list", "The list cannot be read: %v.", err)
	}
	rep.Problems, rep.Used = problems, len(rows)
	if len(rows) == 0 && len(problems) == 0 {
		return rep, badInput("list", "The list is empty: paste phrases, one a line, or choose a file.")
	}
	finds := make([]store.Find, 0, len(rows))
	now := s.options.Now().UTC()
	for _, row := range rows {
		f := s.find(n, row.Phrase, store.Origin{Kind: FromList, Query: list})
		if row.Searches >= 0 {
			n := row.Searches
			f.Idea.DemandAt, f.Idea.DemandSource, f.Idea.Searches, f.Idea.Under = &now, store.ImportSource, &n, row.Under
		}
		if row.CPC.Known() {
			f.Idea.CPCMicros, f.Idea.Currency = &row.CPC.Micros, row.CPC.Currency
		}
		finds = append(finds, f)
	}
	rep.Added, err = s.store.AddIdeas(ctx, n.ID, finds)
	rep.Merged = rep.Used - rep.Added
	return rep, err
}
