package files

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net/url"
	"slices"

	"cleverniche/core/phrase"
	"cleverniche/core/plan"
	"cleverniche/core/sieve"
	"cleverniche/store"
	"cleverniche/study/briefs"
	"cleverniche/study/input"
	"cleverniche/study/niches"
	"cleverniche/study/topics"
)

// ExportWhole writes a whole niche, with its ideas and what they were judged on
// (docs/niche-file.md): for another machine, or another version.
func (s *Exporter) ExportWhole(ctx context.Context, n niches.Niche, w io.Writer) error {
	return s.store.WriteWhole(ctx, n.ID, w)
}

// ImportWhole makes a niche of such a file. Where a niche of its name is there, it gets another one.
// What is wrong with a file is an *input.Error, and nothing of it stays.
func (s *Exporter) ImportWhole(ctx context.Context, r io.ReaderAt, size int64) (niches.Niche, error) {
	checkNiche := func(row *store.Niche) error {
		n, err := s.niches.Check(niches.FromRow(*row))
		if err != nil {
			return err
		}
		for i := 2; errors.As(s.niches.Free(ctx, n), new(*input.Error)); i++ {
			n.Name = fmt.Sprintf("%s (%d)", input.Clip(row.Name, niches.MostName-10), i)
		}
		n.Calibration = "" // so that everything is reckoned as this version does
		columns := row.Columns
		*row = n.Row()
		row.Columns = columns
		return nil
	}
	foundIn := 1<<len(sieve.FoundIn.Names) - 1
	checkIdea := func(i *store.Idea) error {
		normal, err := phrase.Parse(i.Phrase)
		switch {
		case err != nil:
			return fmt.Errorf("“%s”: %w", input.Clip(i.Phrase, 60), err)
		case normal != i.Phrase:
			return fmt.Errorf("“%s” is not in normal form", input.Clip(i.Phrase, 60))
		case i.Decision < int8(sieve.Undecided) || i.Decision > int8(sieve.Dropped):
			return fmt.Errorf("“%s” has no decision %d", input.Clip(i.Phrase, 60), i.Decision)
		case i.Searches != nil && *i.Searches < 0, i.CPCMicros != nil && *i.CPCMicros < 0:
			return fmt.Errorf("“%s” has searches or a cost below 0", input.Clip(i.Phrase, 60))
		}
		i.FoundIn &= foundIn
		return nil
	}
	row, err := s.store.ReadWhole(ctx, r, size, checkNiche, checkIdea, s.checkTopic)
	var trouble *input.Trouble
	switch {
	case errors.As(err, &trouble) || ctx.Err() != nil:
		return niches.Niche{}, err
	case err != nil:
		return niches.Niche{}, input.Bad("whole", "The file cannot be read: %v.", err)
	}
	n, err := s.niches.Get(ctx, row.ID)
	if err == nil {
		_, err = s.results.Renew(ctx)
	}
	return n, err
}

// checkTopic refuses what nobody can have said of a topic.
func (s *Exporter) checkTopic(t *store.TopicEdit) error {
	switch {
	case !slices.Contains(plan.States, t.State):
		return fmt.Errorf("a topic is “%s”, which is no state", input.Clip(string(t.State), 40))
	case t.Hours < 0 || t.Hours > plan.MostArticleHours:
		return fmt.Errorf("a topic takes %d hours", t.Hours)
	case len([]rune(t.Name)) > topics.MostNamed || topics.OneLine(t.Name) != t.Name ||
		len(t.Address) > niches.MostAddress ||
		len([]rune(t.Note)) > topics.MostSheetNote || len(t.Brief) > mostBriefFile:
		return fmt.Errorf("the topic “%s” says more than fits", input.Clip(t.Name, 40))
	}
	for _, day := range []plan.Date{t.Start, t.Deadline, t.Published} {
		if _, err := plan.ReadDate(string(day)); err != nil {
			return fmt.Errorf("a topic names a day “%s”", input.Clip(string(day), 40))
		}
	}
	if u, err := url.Parse(t.Address); t.Address != "" && (err != nil || u.Scheme != "http" && u.Scheme != "https") {
		return fmt.Errorf("“%s” is no address of a page", input.Clip(t.Address, 60))
	}
	return nil
}

// mostBriefFile is how much of a brief may be edited, in bytes: all sections, at their longest.
const mostBriefFile = 16 * 4 * briefs.MostSection
