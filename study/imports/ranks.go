package imports

import (
	"context"

	"cleverniche/market/files"
	"cleverniche/market/webgraph"
)

// countRanks counts the lines of a file of ranks of sites.
func (s *Importer) countRanks(ctx context.Context, f *files.File, p Preview) (Preview, error) {
	path, err := s.path(p.Upload.Token, ".list")
	if err != nil {
		return p, err
	}
	if !webgraph.IsRanks(path) {
		p.Why = "These are ranks of sites without PageRank, so they cannot be put on the scale of standings."
		return p, nil
	}
	err = f.Each(ctx, p.Shape, func(int, []string) error {
		p.Usable++
		return nil
	}, func(files.LineProblem) error {
		p.Bad++
		return nil
	})
	if err != nil {
		return p, wrong(err)
	}
	if p.About = p.Usable; p.Usable == 0 {
		p.Why = "No line of it can be used."
	}
	p.Upload, err = s.counted(p)
	return p, err
}

// putRanks builds the web graph of a file, and lets it be asked from now on. One that was read before is left to who
// still asks it.
func (s *Importer) putRanks(ctx context.Context, p part) error {
	path, err := s.path(p.Token, ".list")
	if err != nil {
		return err
	}
	index := s.store.Beside(webgraph.Name)
	_, err = webgraph.Import(ctx, index, []string{path}, s.suffixes, s.store.Now(), func(int) {})
	if err != nil {
		return wrong(err)
	}
	graph, err := webgraph.Open(index)
	if err == nil {
		s.asker.Rank(graph)
	}
	return err
}
