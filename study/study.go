// Package study is the work itself, a room a subject: asking, jobs, niches, ideas, results, topics, articles,
// briefs, files. It joins the rules of core, the questions of market and the data of store, and knows no HTTP and
// no HTML. Here they are put together over one data file; whoever stands above takes each by its name.
package study

import (
	"context"
	"log/slog"
	"strings"
	"sync/atomic"
	"time"

	"cleverniche/core/links"
	"cleverniche/ideatable"
	"cleverniche/store"
	"cleverniche/study/articles"
	"cleverniche/study/ask"
	"cleverniche/study/briefs"
	"cleverniche/study/checks"
	"cleverniche/study/files"
	"cleverniche/study/gather"
	"cleverniche/study/ideas"
	"cleverniche/study/imports"
	"cleverniche/study/input"
	"cleverniche/study/jobs"
	"cleverniche/study/niches"
	"cleverniche/study/people"
	"cleverniche/study/results"
	"cleverniche/study/rivals"
	"cleverniche/study/sieves"
	"cleverniche/study/subjects"
	"cleverniche/study/thecase"
	"cleverniche/study/topics"
	"cleverniche/study/watch"
)

// Options are the study's settings.
type Options struct {
	ask.Options
	Suffixes links.Suffixes
	Forward  func() time.Time // a clock that is never set back; nil means Go's own
	Log      *slog.Logger
	Thesauri string // a folder of thesauri; "" none
	Grouped  int    // ideas that are grouped at once; 0 means topics.MostGrouped
}

// Study is the use cases over one data file.
type Study struct {
	Ask       *ask.Asker
	Niches    *niches.Keeper
	Jobs      *jobs.Runner
	Sieves    *sieves.Keeper
	Ideas     *ideas.Keeper
	Imports   *imports.Importer
	Checks    *checks.Checker
	Results   *results.Researcher
	Subjects  *subjects.Teller
	Gathering *gather.Gatherer
	Topics    *topics.Grouper
	Articles  *articles.Planner
	Briefs    *briefs.Writer
	Rivals    *rivals.Scout
	Case      *thecase.Examiner
	Watch     *watch.Watcher
	People    *people.Keeper
	Files     *files.Exporter

	store   *store.Store
	log     *slog.Logger
	forward func() time.Time
	damage  atomic.Pointer[input.Trouble]
}

// New returns a study over an open data file, whose clock is its own. Close it before the file.
func New(st *store.Store, m ask.Market, o Options) *Study {
	if o.Forward == nil {
		o.Forward = time.Now // it carries a reading that only goes forward
	}
	if o.Log == nil {
		o.Log = slog.New(slog.DiscardHandler)
	}
	s := &Study{store: st, log: o.Log, forward: o.Forward}
	s.Ask = ask.New(st, m, o.Options, o.Log)
	s.Niches = niches.New(st, o.Suffixes)
	s.People = people.New(st)
	s.Jobs = jobs.New(st, s.Niches, jobs.Options{Currency: s.Ask.Currency(), Log: o.Log, Forward: o.Forward})
	s.Sieves = sieves.New(st)
	s.Ideas = ideas.New(st, ideatable.New(st, 0), s.Ask)
	s.Results = results.New(st, s.Ask, s.Niches, s.Jobs, o.Suffixes, o.Log)
	s.Subjects = subjects.New(st, s.Ideas, s.Results)
	s.Gathering = gather.New(st, s.Ask, s.Jobs, s.Ideas, s.Niches, o.Thesauri)
	s.Imports = imports.New(st, s.Ask, s.Ideas, s.Jobs, o.Suffixes)
	s.Checks = checks.New(st, s.Ask, s.Niches, s.Ideas, s.Imports, s.Gathering, s.Jobs)
	s.Topics = topics.New(st, s.Niches, s.Ideas, o.Grouped)
	s.Articles = articles.New(st, s.Ask, s.Niches, s.Jobs, s.Ideas, s.Results, s.Topics)
	s.Briefs = briefs.New(st, s.Results, s.Topics, s.Articles)
	s.Rivals = rivals.New(st, s.Ask, s.Jobs, s.Ideas, s.Results, s.Gathering, o.Suffixes)
	s.Case = thecase.New(st, s.Ask, s.Ideas, s.Results, s.Rivals, s.Jobs,
		topics.New(st, s.Niches, s.Ideas, o.Grouped), s.Niches, s.Gathering)
	s.Watch = watch.New(st, s.Ask, s.Niches, s.Jobs, s.Results, s.Topics, s.Articles,
		watch.Around{Gathering: s.Gathering, Rivals: s.Rivals}, o.Suffixes)
	s.Articles.Out = s.Watch.Sync
	s.Files = files.New(st, s.Niches, s.Ideas, s.Results, s.Topics, s.Articles, s.Briefs)
	s.Jobs.Add(s.telling(s.drawing(s.Gathering.Kinds()))...)
	s.Jobs.Add(s.telling(s.Results.Kinds())...)
	s.Jobs.Add(s.Articles.Kinds()...)
	s.Jobs.Add(then(s.telling(s.Imports.Kinds()), s.Watch.FromReport)...)
	s.Jobs.Add(s.Checks.Kinds()...)
	s.Jobs.Add(s.Rivals.Kinds()...)
	s.Jobs.Add(s.Case.Kinds()...)
	s.Jobs.Add(s.Watch.Kinds()...)
	return s
}

// drawing are kinds of jobs once whose items are done what waits for ideas is drawn.
func (s *Study) drawing(kinds []jobs.Kind) []jobs.Kind {
	for i := range kinds {
		ended := kinds[i].Ended
		kinds[i].Ended = func(ctx context.Context, n niches.Niche, params string) error {
			if ended != nil {
				if err := ended(ctx, n, params); err != nil {
					return err
				}
			}
			return s.Case.DrawPending(ctx, n)
		}
	}
	return kinds
}

// telling are kinds of jobs after which it is told what is off the subject: they bring ideas or results.
func (s *Study) telling(kinds []jobs.Kind) []jobs.Kind { return then(kinds, s.Subjects.Tell) }

// then are kinds of jobs after which something more is done; what each says is said.
func then(kinds []jobs.Kind, do func(context.Context, niches.Niche) (string, error)) []jobs.Kind {
	for i := range kinds {
		after := kinds[i].After
		kinds[i].After = func(ctx context.Context, n niches.Niche) (says string, err error) {
			if after != nil {
				if says, err = after(ctx, n); err != nil {
					return says, err
				}
			}
			more, err := do(ctx, n)
			return strings.TrimSpace(says + " " + more), err
		}
	}
	return kinds
}

// Close stops the jobs that run here; they go on when the program is started again.
func (s *Study) Close() { s.Jobs.Close() }

// Now is the time by the clock that the data file was opened with: there is no other.
func (s *Study) Now() time.Time { return s.store.Now() }

// Ready returns why the study cannot do its work, or nil.
func (s *Study) Ready(ctx context.Context) error {
	if t := s.damage.Load(); t != nil {
		return t
	}
	if err := s.store.Still(); err != nil {
		return err
	}
	_, err := s.Niches.All(ctx)
	return err
}

// Secret returns a short-lived secret of whoever serves the study; nil when there is
// none, or its life is over.
func (s *Study) Secret(ctx context.Context, key string) ([]byte, error) {
	return s.store.Token(ctx, key)
}

// KeepSecret keeps a secret, so that it outlives a restart. A life of 0 is for ever.
func (s *Study) KeepSecret(ctx context.Context, key string, value []byte, life time.Duration) error {
	return s.store.SetToken(ctx, key, value, life)
}
