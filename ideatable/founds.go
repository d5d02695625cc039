package ideatable

import (
	"context"
	"fmt"
	"strings"
	"sync"

	"cleverniche/core/phrase"
	"cleverniche/core/topic"
	"cleverniche/store"
)

// Founds are what was found for the ideas of a niche that are looked up, in numbers, as they were at one
// revision. Pages are numbered for as long as they are held.
type Founds struct {
	Of    map[uint]topic.Idea // by idea: results, stems and said; nothing else of it
	Pages []string            // URLs by their numbers
}

// Page is the URL of a page's number.
func (f Founds) Page(number uint32) string { return f.Pages[number] }

type foundSeat struct {
	mu       sync.Mutex
	revision int64
	numbers  topic.Numbers
	pages    []string
	stems    topic.Numbers
	of       map[uint]topic.Idea
}

// Founds returns what was found for the niche's ideas, as it is now. Only what changed since is read.
func (b *Tables) Founds(ctx context.Context, niche store.Niche) (Founds, error) {
	s := b.seat(niche.ID)
	f := &s.founds
	f.mu.Lock()
	defer f.mu.Unlock()
	revision, _, err := b.store.Revision(ctx, niche.ID)
	if err != nil {
		return Founds{}, err
	}
	if f.of == nil {
		f.of, f.numbers, f.stems = map[uint]topic.Idea{}, topic.Numbers{}, topic.Numbers{}
	}
	if revision != f.revision {
		changed := map[uint]topic.Idea{}
		err = b.store.FoundsSince(ctx, niche.ID, f.revision, func(row store.Found) {
			changed[row.IdeaID] = f.read(row, niche.Language)
		})
		if err != nil {
			return Founds{}, fmt.Errorf("reading what was found in the niche %s: %w", niche.Name, err)
		}
		if len(changed) > 0 { // those who have the old one keep it
			all := make(map[uint]topic.Idea, len(f.of)+len(changed))
			for id, idea := range f.of {
				all[id] = idea
			}
			for id, idea := range changed {
				all[id] = idea
			}
			f.of = all
		}
		f.revision = revision
	}
	return Founds{Of: f.of, Pages: f.pages}, nil
}

// read numbers what was found.
func (f *foundSeat) read(row store.Found, lang string) (out topic.Idea) {
	for _, url := range strings.Split(row.Pages, "\n") {
		if url == "" {
			continue
		}
		n := f.numbers.Of(url)
		if int(n) == len(f.pages) {
			f.pages = append(f.pages, url)
		}
		out.Results = append(out.Results, n)
	}
	for _, stem := range phrase.Subject(strings.Fields(row.Stems), lang) {
		out.Stems = append(out.Stems, f.stems.Of(stem))
	}
	for _, stem := range strings.Fields(row.Said) {
		out.Said = append(out.Said, f.stems.Of(stem))
	}
	return out
}

// FoundRow is what was found as the data file has it.
func FoundRow(f topic.Found) *store.Found {
	return &store.Found{Pages: strings.Join(f.Pages, "\n"), Stems: strings.Join(f.Stems, " "),
		Said: strings.Join(f.Said, " ")}
}
