package imports

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"

	"cleverniche/market"
	"cleverniche/market/files"
	"cleverniche/store"
	"cleverniche/study/ideas"
	"cleverniche/study/input"
	"cleverniche/study/jobs"
	"cleverniche/study/niches"
)

// Bounds of results that are brought (ours).
const (
	mostPhrases = 20_000 // of one file
	mostDeep    = 100    // results of a phrase
)

// gather reads the results of a file, by phrase in the order in which they come.
func gather(ctx context.Context, f *files.File, shape files.Shape, bad func(files.LineProblem) error) (phrases []string,
	of map[string][]market.Organic, lines map[string]int, err error) {
	of, lines = map[string][]market.Organic{}, map[string]int{}
	err = f.Results(ctx, shape, func(r files.Result) error {
		list, there := of[r.Phrase]
		if !there {
			if len(phrases) == mostPhrases {
				return input.Bad("list", "These are results for more than %d phrases. Split the file.", mostPhrases)
			}
			phrases, lines[r.Phrase] = append(phrases, r.Phrase), r.Line
		}
		if slices.ContainsFunc(list, func(o market.Organic) bool { return o.Position == r.Position }) {
			return bad(files.LineProblem{Line: r.Line, Text: r.URL, Reason: fmt.Sprintf("place %d of “%s” is taken already",
				r.Position, input.Clip(r.Phrase, 60))})
		}
		if len(list) < mostDeep {
			of[r.Phrase] = append(list, market.Organic{Position: r.Position, URL: r.URL, Title: r.Title})
		}
		return nil
	}, bad)
	for _, list := range of {
		slices.SortFunc(list, func(a, b market.Organic) int { return a.Position - b.Position })
	}
	return phrases, of, lines, err
}

// countResults counts what a file of results holds.
func (s *Importer) countResults(ctx context.Context, f *files.File, p Preview) (Preview, error) {
	phrases, of, lines, err := gather(ctx, f, p.Shape, func(bad files.LineProblem) error {
		if p.Bad++; len(p.Problems) < ShownBad {
			p.Problems = append(p.Problems, bad)
		}
		return nil
	})
	if err != nil {
		return p, wrong(err)
	}
	for _, list := range of {
		p.Usable += len(list)
	}
	if p.Phrases = len(phrases); p.Usable == 0 {
		p.Why = "No line of it can be used."
	}
	for _, ph := range phrases[:min(ShownRows, len(phrases))] {
		note := fmt.Sprintf("%d results, the first %s", len(of[ph]), of[ph][0].URL)
		p.Rows = append(p.Rows, files.Idea{Line: lines[ph], Phrase: ph, Note: note})
	}
	p.KnownOf = min(knownLines, len(phrases))
	if p.Known, err = s.store.Listed(ctx, p.Upload.Niche, phrases[:p.KnownOf]); err != nil {
		return p, err
	}
	p.Upload, err = s.counted(p)
	return p, err
}

// startResults takes the results of a file in, as a job.
func (s *Importer) startResults(ctx context.Context, n niches.Niche, u Upload) (jobs.Job, error) {
	if err := s.note(u); err != nil {
		return jobs.Job{}, err
	}
	one := part{Token: u.Token, Results: true}
	params, err := json.Marshal(one)
	if err != nil {
		return jobs.Job{}, err
	}
	return s.runner.StartWith(ctx, n, importJob, "Import results “"+u.Name+"”", jobs.Encode([]part{one}),
		string(params))
}

// putResults keeps the results of a file as those of their phrases, which become ideas where they are none. Looking an
// idea up fetches their pages then, and asks no service for results.
func (s *Importer) putResults(ctx context.Context, n niches.Niche, token string) (found int, err error) {
	u, err := s.Upload(n.ID, token)
	if err != nil {
		return 0, err
	}
	shape, f, err := s.reopen(ctx, n, token)
	if err != nil {
		return 0, err
	}
	defer f.Close()
	phrases, of, lines, err := gather(ctx, f, shape, func(files.LineProblem) error { return nil })
	if err != nil {
		return 0, wrong(err)
	}
	for some := range slices.Chunk(phrases, slice) {
		list := make([]store.Arrival, len(some))
		for i, p := range some {
			list[i] = store.Arrival{Find: s.ideas.Find(n, p, store.Origin{Kind: ideas.FromList, Query: u.Name}), Line: lines[p]}
			// That more pages answer it is likely: how many is not known.
			if err := s.asker.Bring(ctx, p, n.Locale(), market.Results{Engine: u.Name, Organic: of[p],
				Total: len(of[p]) + 1},
				fmt.Sprintf("your file “%s”", u.Name)); err != nil {
				return found, err
			}
		}
		did, err := s.store.ImportIdeas(ctx, n.ID, list, token, u.Name)
		if err != nil {
			return found, err
		}
		found += did.Added
	}
	return found, nil
}
