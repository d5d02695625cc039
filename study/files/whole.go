package files

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/url"
	"slices"

	"cleverniche/core/demand"
	"cleverniche/core/links"
	"cleverniche/core/phrase"
	"cleverniche/core/plan"
	"cleverniche/core/serp"
	"cleverniche/core/sieve"
	"cleverniche/market"
	"cleverniche/store"
	"cleverniche/study/ask"
	"cleverniche/study/briefs"
	"cleverniche/study/ideas"
	"cleverniche/study/input"
	"cleverniche/study/niches"
	"cleverniche/study/results"
	"cleverniche/study/topics"
)

// ExportWhole writes a whole niche, with its ideas and what they were judged on
// (docs/niche-file.md): for another machine, or another version.
func (s *Exporter) ExportWhole(ctx context.Context, n niches.Niche, w io.Writer) error {
	return s.store.WriteWhole(ctx, n.ID, string(ask.Page), w)
}

// ImportWhole makes a niche of such a file. Where a niche of its name is there, it gets another one.
// What is wrong with a file is an *input.Error, and nothing of it stays.
func (s *Exporter) ImportWhole(ctx context.Context, r io.ReaderAt, size int64) (niches.Niche, error) {
	row, err := s.store.ReadWhole(ctx, r, size, store.Checks{
		Niche: func(n *store.Niche) error { return s.checkNiche(ctx, n) }, Idea: checkIdea,
		Origin: checkOrigin, Seed: checkSeed, Topic: checkTopic, OwnPage: checkOwnPage, Evidence: results.CheckEvidence,
		History: serp.CheckHistory, Rival: s.checkRival, Ranks: checkRanks,
		Pages: string(ask.Page), Page: checkPage})
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

// What comes in by a file is checked by the rules of the forms, each idea, topic and page by itself.

func (s *Exporter) checkNiche(ctx context.Context, row *store.Niche) error {
	n, err := s.niches.Check(niches.FromRow(*row))
	if err != nil {
		return err
	}
	for i := 2; errors.As(s.niches.Free(ctx, n), new(*input.Error)); i++ {
		n.Name = fmt.Sprintf("%s (%d)", input.Clip(row.Name, niches.MostName-10), i)
	}
	n.Calibration = "" // so that everything is reckoned as this version does
	columns, err := niches.CheckColumns(n.Columns)
	if err != nil {
		return err
	}
	*row = n.Row()
	row.Columns = columns
	return nil
}

var everyOrigin = 1<<len(sieve.FoundIn.Names) - 1

func checkIdea(i *store.Idea) error {
	name := input.Clip(i.Phrase, 60)
	if err := normal(i.Phrase); err != nil {
		return err
	}
	if i.Decision < int8(sieve.Undecided) || i.Decision > int8(sieve.Dropped) {
		return fmt.Errorf("“%s” has no decision %d", name, i.Decision)
	}
	if err := ideas.CheckLabels(i.Labels); err != nil {
		return fmt.Errorf("“%s”: %w", name, err)
	}
	if months, err := store.DecodeMonths(i.Months); err != nil {
		return fmt.Errorf("“%s”: %w", name, err)
	} else if slices.ContainsFunc(months, func(c demand.Count) bool { return c.Searches < 0 }) {
		return fmt.Errorf("“%s” has a month with searches below 0", name)
	}
	i.FoundIn &= everyOrigin
	return nil
}

// normal refuses what is no phrase in normal form.
func normal(text string) error {
	is, err := phrase.Parse(text)
	if err == nil && is != text {
		err = errors.New("it is not in normal form")
	}
	if err != nil {
		return fmt.Errorf("“%s”: %w", input.Clip(text, 60), err)
	}
	return nil
}

func checkOrigin(o *store.Origin) error {
	if !slices.Contains(sieve.FoundIn.Names, o.Kind) {
		return fmt.Errorf("an idea was found in “%s”, which is no way to find one", input.Clip(o.Kind, 40))
	}
	return nil
}

func checkSeed(s *store.Seed) error { return normal(s.Phrase) }

func checkOwnPage(p *store.OwnPage) error { return address(p.URL) }

func (s *Exporter) checkRival(r *store.Rival) error {
	if s.niches.Site(r.Site) != r.Site && !links.IsAddress(r.Site) {
		return fmt.Errorf("“%s” is no site", input.Clip(r.Site, 60))
	}
	return nil
}

func checkRanks(p *store.RivalPhrase) error { return normal(p.Phrase) }

// checkPage refuses what is no fetched page.
func checkPage(url string, body []byte) error {
	var page market.Fetched
	if err := json.Unmarshal(body, &page); err != nil || page.URL == "" {
		return fmt.Errorf("“%s” is no page", input.Clip(url, 60))
	}
	return address(url)
}

func address(text string) error {
	if u, err := url.Parse(text); err != nil || u.Host == "" || u.Scheme != "http" && u.Scheme != "https" ||
		len(text) > niches.MostAddress {
		return fmt.Errorf("“%s” is no address of a page", input.Clip(text, 60))
	}
	return nil
}

// checkTopic refuses what nobody can have said of a topic.
func checkTopic(t *store.TopicEdit) error {
	switch {
	case !slices.Contains(plan.States, t.State):
		return fmt.Errorf("a topic is “%s”, which is no state", input.Clip(string(t.State), 40))
	case t.Hours < 0 || t.Hours > plan.MostArticleHours:
		return fmt.Errorf("a topic takes %d hours", t.Hours)
	case len([]rune(t.Name)) > topics.MostNamed || topics.OneLine(t.Name) != t.Name ||
		len([]rune(t.Note)) > topics.MostSheetNote || len(t.Brief) > mostBriefFile ||
		len(t.Drawn) > mostBriefFile:
		return fmt.Errorf("the topic “%s” says more than fits", input.Clip(t.Name, 40))
	}
	for _, day := range []plan.Date{t.Start, t.Deadline, t.Published} {
		if _, err := plan.ReadDate(string(day)); err != nil {
			return fmt.Errorf("a topic names a day “%s”", input.Clip(string(day), 40))
		}
	}
	if _, is := t.Hub.Topic(); !is && t.Hub != store.ProposedHub && t.Hub != store.NoHub {
		return fmt.Errorf("a topic hangs on “%s”", input.Clip(string(t.Hub), 40))
	}
	if t.Address != "" {
		return address(t.Address)
	}
	return nil
}

// mostBriefFile is how much of a brief may be edited, in bytes: all sections, at their longest.
const mostBriefFile = 16 * 4 * briefs.MostSection
