package imports

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"

	"cleverniche/core/links"
	"cleverniche/market"
	"cleverniche/market/files"
	"cleverniche/store"
	"cleverniche/study/ask"
	"cleverniche/study/ideas"
	"cleverniche/study/input"
	"cleverniche/study/jobs"
	"cleverniche/study/niches"
)

// Bounds of answers that are brought (ours).
const (
	mostAbout = 20_000 // phrases or pages of one file
	mostDeep  = 100    // results of a phrase
	mostLinks = 1000   // to a page
)

// brought are answers that a file brings: results of phrases, or links to pages.
type brought struct {
	question ask.Question
	about    []string // in the order in which they come
	results  map[string][]market.Organic
	links    map[string]*market.LinkList
	lines    map[string]int // where each begins
	usable   int
}

// answering is the question that a kind of file answers; "" for ideas.
func answering(k files.Kind) ask.Question {
	return map[files.Kind]ask.Question{files.ResultsFile: ask.Results, files.LinksFile: ask.Links}[k]
}

// begins notes what an answer is about; there says that it was before.
func (b *brought) begins(about string, line int) (there bool, err error) {
	if _, there = b.lines[about]; there {
		return true, nil
	}
	if len(b.about) == mostAbout {
		return false, input.Bad("list", "These are answers about more than %d phrases or pages. Split the file.", mostAbout)
	}
	b.about, b.lines[about] = append(b.about, about), line
	return false, nil
}

// gather reads the answers of a file.
func gather(ctx context.Context, f *files.File, shape files.Shape, q ask.Question,
	bad func(files.LineProblem) error) (*brought, error) {
	b := &brought{question: q, results: map[string][]market.Organic{}, links: map[string]*market.LinkList{},
		lines: map[string]int{}}
	if q == ask.Links {
		return b, f.Links(ctx, shape, b.link, bad)
	}
	err := f.Results(ctx, shape, func(r files.Result) error {
		if _, err := b.begins(r.Phrase, r.Line); err != nil {
			return err
		}
		list := b.results[r.Phrase]
		if slices.ContainsFunc(list, func(o market.Organic) bool { return o.Position == r.Position }) {
			return bad(files.LineProblem{Line: r.Line, Text: r.URL, Reason: fmt.Sprintf("place %d of “%s” is taken already",
				r.Position, input.Clip(r.Phrase, 60))})
		}
		if b.usable++; len(list) < mostDeep {
			b.results[r.Phrase] = append(list, market.Organic{Position: r.Position, URL: r.URL, Title: r.Title})
		}
		return nil
	}, bad)
	for _, list := range b.results {
		slices.SortFunc(list, func(a, b market.Organic) int { return a.Position - b.Position })
	}
	return b, err
}

// link takes a link in.
func (b *brought) link(l files.Link) error {
	there, err := b.begins(l.To, l.Line)
	if err != nil {
		return err
	}
	if !there {
		b.links[l.To] = &market.LinkList{}
	}
	list := b.links[l.To]
	b.usable++
	if list.Total++; len(list.Links) < mostLinks {
		list.Links = append(list.Links, links.Link{From: l.From, To: l.To, Anchor: l.Anchor, Rel: l.Rel})
	}
	return nil
}

// says is what a preview says of an answer.
func (b *brought) says(about string) string {
	if list := b.results[about]; len(list) > 0 {
		return fmt.Sprintf("results: %d, the first %s", len(list), list[0].URL)
	}
	if list := b.links[about]; list != nil {
		return fmt.Sprintf("links: %d, the first from %s", list.Total, list.Links[0].From)
	}
	return "nothing usable"
}

// answer is an answer as it is kept. That more pages answer a phrase is likely: how many is not known.
func (b *brought) answer(u Upload, about string) any {
	if b.question == ask.Links {
		return b.links[about]
	}
	return market.Results{Engine: u.Name, Organic: b.results[about], Total: len(b.results[about]) + 1}
}

// countBrought counts what a file of answers holds.
func (s *Importer) countBrought(ctx context.Context, f *files.File, p Preview) (Preview, error) {
	b, err := gather(ctx, f, p.Shape, answering(p.Kind), func(bad files.LineProblem) error {
		if p.Bad++; len(p.Problems) < ShownBad {
			p.Problems = append(p.Problems, bad)
		}
		return nil
	})
	if err != nil {
		return p, wrong(err)
	}
	if p.Usable, p.About = b.usable, len(b.about); p.Usable == 0 {
		p.Why = "No line of it can be used."
	}
	for _, about := range b.about[:min(ShownRows, len(b.about))] {
		p.Rows = append(p.Rows, files.Idea{Line: b.lines[about], Phrase: about, Note: b.says(about)})
	}
	if b.question == ask.Results {
		p.KnownOf = min(knownLines, len(b.about))
		if p.Known, err = s.store.Listed(ctx, p.Upload.Niche, b.about[:p.KnownOf]); err != nil {
			return p, err
		}
	}
	p.Upload, err = s.counted(p)
	return p, err
}

// startBrought takes the answers of a file in, as a job.
func (s *Importer) startBrought(ctx context.Context, n niches.Niche, u Upload) (jobs.Job, error) {
	if err := s.note(u); err != nil {
		return jobs.Job{}, err
	}
	one := part{Token: u.Token, Whole: u.Kind}
	params, err := json.Marshal(one)
	if err != nil {
		return jobs.Job{}, err
	}
	title := fmt.Sprintf("Import %s “%s”", u.Kind, u.Name)
	if u.Of != "" {
		title = fmt.Sprintf("Import figures of %s “%s”", u.Of, u.Name)
	}
	return s.runner.StartWith(ctx, n, importJob, title, jobs.Encode([]part{one}), string(params))
}

// putBrought keeps the answers of a file. Phrases with results become ideas where they are none: looking them up
// fetches their pages then, and asks no service for results.
func (s *Importer) putBrought(ctx context.Context, n niches.Niche, p part) (found int, err error) {
	u, err := s.Upload(n.ID, p.Token)
	if err != nil {
		return 0, err
	}
	shape, f, err := s.reopen(ctx, n, p.Token)
	if err != nil {
		return 0, err
	}
	defer f.Close()
	b, err := gather(ctx, f, shape, answering(p.Whole), func(files.LineProblem) error { return nil })
	if err != nil {
		return 0, wrong(err)
	}
	of := store.Import{Batch: p.Token, NicheID: n.ID, Name: u.Name}
	for some := range slices.Chunk(b.about, slice) {
		rows := make([]store.Brought, len(some))
		list := make([]store.Arrival, 0, len(some))
		for i, about := range some {
			if rows[i], err = s.asker.Brought(b.question, about, n.Locale(), b.answer(u, about)); err != nil {
				return found, err
			}
			rows[i].Source = fmt.Sprintf("your file “%s”", u.Name)
			if b.question == ask.Results {
				find := s.ideas.Find(n, about, store.Origin{Kind: ideas.FromList, Query: u.Name})
				list = append(list, store.Arrival{Find: find, Line: b.lines[about]})
			}
		}
		if err := s.store.SaveBrought(ctx, of, rows); err != nil {
			return found, err
		}
		if len(list) == 0 {
			continue
		}
		did, err := s.store.ImportIdeas(ctx, n.ID, list, p.Token, u.Name)
		if err != nil {
			return found, err
		}
		found += did.Added
	}
	return found, nil
}
