package watch

import (
	"context"
	"errors"
	"io"
	"os"
	"path/filepath"
	"slices"
	"time"

	"cleverniche/core/watch"
	"cleverniche/market/files"
	"cleverniche/store"
	"cleverniche/study/input"
	"cleverniche/study/niches"
)

// brought is the name of places that a file told without saying which engine.
const brought = "your file"

// Bounds of files of positions.
const (
	mostBrought = 100_000 // rows
	ShownBad    = 5       // of its lines that cannot be used
)

// Brought is what a file brought.
type Brought struct {
	Phrases, Positions int // new phrases, and positions
	Bad                int // lines that cannot be used
	Problems           []files.LineProblem
}

// Bring watches the phrases of a file for a site of mine, and keeps the positions it tells: a phrase in each row, and a
// position, a page, a day and an engine if it has them. Lines that cannot be used are told; the others count.
func (s *Watcher) Bring(ctx context.Context, n niches.Niche, site, name string, r io.Reader) (out Brought, err error) {
	if err := s.isMine(ctx, n, site); err != nil {
		return out, err
	}
	own := on(n, site)
	rows, err := s.rowsOf(ctx, own, name, r, &out)
	if err != nil {
		return out, err
	}
	if len(rows) == 0 {
		if len(out.Problems) > 0 {
			p := out.Problems[0]
			return out, input.Bad("file", "None of its lines can be used. Line %d: %s.", p.Line, p.Reason)
		}
		return out, input.Bad("file", "The file has no phrases.")
	}
	list, err := s.store.Watched(ctx, n.ID)
	if err != nil {
		return out, err
	}
	there := map[string]bool{}
	for _, w := range list {
		if w.Site == site {
			there[w.Phrase] = true
		}
	}
	var add []store.Watched
	once := map[string]bool{}
	for _, p := range rows {
		if !once[p.Phrase] {
			once[p.Phrase] = true
			add = append(add, store.Watched{NicheID: n.ID, Site: site, Phrase: p.Phrase})
			if !there[p.Phrase] {
				out.Phrases++
			}
		}
	}
	if len(list)+out.Phrases > MostWatched {
		return Brought{}, input.Bad("file", "A niche watches %d phrases at most; with this file it would be %d.", MostWatched,
			len(list)+out.Phrases)
	}
	if err := s.store.AddWatched(ctx, add); err != nil {
		return Brought{}, err
	}
	if list, err = s.store.Watched(ctx, n.ID); err != nil {
		return Brought{}, err
	}
	ids := map[string]uint{}
	for _, w := range list {
		if w.Site == site {
			ids[w.Phrase] = w.ID
		}
	}
	var positions []store.Position
	for _, p := range rows {
		if !p.Told {
			continue
		}
		one := store.Position{WatchedID: ids[p.Phrase], At: p.Day.UTC(), Engine: brought, Place: p.Place, Depth: watch.Depth,
			Page: p.URL, Hand: true}
		if p.Engine != "" {
			one.Engine = p.Engine
		}
		if one.Place > watch.Depth {
			one.Place = 0
		}
		positions = append(positions, one)
	}
	if out.Positions = len(positions); len(positions) == 0 {
		return out, nil
	}
	return out, s.store.SavePositions(ctx, positions)
}

// rowsOf reads the lines of a file that can be used; the others are noted.
func (s *Watcher) rowsOf(ctx context.Context, own niches.Niche, name string, r io.Reader,
	out *Brought) (rows []files.Place, err error) {
	dir, err := os.MkdirTemp("", "cleverniche-*")
	if err != nil {
		return nil, err
	}
	defer func() { err = errors.Join(err, os.RemoveAll(dir)) }()
	path := filepath.Join(dir, "file")
	to, err := os.Create(path)
	if err != nil {
		return nil, err
	}
	_, err = io.Copy(to, io.LimitReader(r, files.MostBytes+1))
	if err = errors.Join(err, to.Close()); err != nil {
		return nil, err
	}
	f, err := files.Open(path, name, "", dir)
	if err != nil {
		return nil, input.Bad("file", "%s", input.Sentence(err.Error()))
	}
	defer f.Close()
	shape, err := f.Recognise()
	if err != nil {
		return nil, input.Bad("file", "%s", input.Sentence(err.Error()))
	}
	now := s.store.Now()
	bad := func(p files.LineProblem) error {
		if out.Bad++; len(out.Problems) < ShownBad {
			out.Problems = append(out.Problems, p)
		}
		return nil
	}
	err = f.Places(ctx, shape, now.UTC().Truncate(time.Second), func(p files.Place) error {
		switch {
		case p.Day.After(now):
			return bad(files.LineProblem{Line: p.Line, Text: p.Phrase, Reason: "its day is in the future"})
		case p.Day.Before(now.AddDate(-20, 0, 0)):
			return bad(files.LineProblem{Line: p.Line, Text: p.Phrase, Reason: "its day is too long ago"})
		case p.URL != "" && own.OwnSite != "" && !s.niches.IsOwn(own, p.URL):
			return bad(files.LineProblem{Line: p.Line, Text: p.Phrase, Reason: "its page is not of " + own.OwnSite})
		case len(rows) >= mostBrought:
			return input.Bad("file", "The file has more than %d rows. Split it.", mostBrought)
		}
		rows = append(rows, p)
		return nil
	}, bad)
	if err != nil && ctx.Err() == nil && !errors.As(err, new(*input.Error)) {
		err = input.Bad("file", "%s", input.Sentence(err.Error()))
	}
	return slices.Clip(rows), err
}
