package study

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"cleverniche/study/input"
)

// Of copies that are made every day, those of so many days, weeks and months are kept.
const (
	keptDays   = 7
	keptWeeks  = 4
	keptMonths = 12
)

const (
	copyStem = "cleverniche-"
	copyTail = ".db"
	settling = time.Second // between two looks whether something was written
	watching = time.Hour   // between two looks whether the day has its copy
)

// Backup copies the data file while it is worked on.
func (s *Study) Backup(ctx context.Context, to string) error { return s.store.Backup(ctx, to) }

// Keep looks after the data file until the study is closed: it brings what was written into the
// file itself, makes a copy a day in a folder ("" is none), and checks the file once.
func (s *Study) Keep(folder string) {
	s.Jobs.Go(func(ctx context.Context) {
		if err := s.store.Look(ctx); err != nil && ctx.Err() == nil {
			if t := input.TroubleOf(err); t != nil {
				s.damage.Store(t)
			}
			s.log.Error("the data file", "error", err)
			folder = "" // no sound copy is pushed out by one that is not
		}
		var last, looked time.Time
		for {
			if now := s.forward(); folder != "" && (last.IsZero() || now.Sub(last) >= watching) {
				last = now
				if err := s.CopyOfTheDay(ctx, folder); err != nil && ctx.Err() == nil {
					s.log.Error("making the copy of the day", "error", err)
				}
			}
			if now := s.forward(); looked.IsZero() || now.Sub(looked) >= watching {
				looked = now
				if _, err := s.Niches.Erase(ctx, s.Now()); err != nil && ctx.Err() == nil {
					s.log.Error("erasing niches that were deleted", "error", err)
				}
				if _, err := s.Gathering.Due(ctx); err != nil && ctx.Err() == nil {
					s.log.Error("gathering what is gathered every week", "error", err)
				}
				if _, err := s.Watch.Due(ctx); err != nil && ctx.Err() == nil {
					s.log.Error("checking places whose day has come", "error", err)
				}
			}
			select {
			case <-ctx.Done():
				return
			case <-time.After(settling):
			}
			if err := s.store.Checkpoint(ctx); err != nil && ctx.Err() == nil {
				s.log.Warn("bringing what was written into the data file", "error", err)
			}
		}
	})
}

// CopyOfTheDay makes the day's copy of the data file in a folder, unless it is there, and lets go
// of those that are not to be kept.
func (s *Study) CopyOfTheDay(ctx context.Context, folder string) error {
	day := s.store.Now().Format(time.DateOnly)
	to := filepath.Join(folder, copyStem+day+copyTail)
	if _, err := os.Stat(to); err == nil {
		return nil
	}
	if err := s.store.Backup(ctx, to); err != nil {
		return err
	}
	s.log.Info("copied the data file", "to", to)
	entries, err := os.ReadDir(folder)
	if err != nil {
		return fmt.Errorf("looking through the copies: %w", err)
	}
	var days []time.Time
	for _, e := range entries {
		text, ok := strings.CutPrefix(strings.TrimSuffix(e.Name(), copyTail), copyStem)
		if day, err := time.Parse(time.DateOnly, text); ok && err == nil {
			days = append(days, day)
		}
	}
	var errs []error
	for _, old := range outlived(days) {
		errs = append(errs, os.Remove(filepath.Join(folder, copyStem+old.Format(time.DateOnly)+copyTail)))
	}
	return errors.Join(errs...)
}

// outlived are the days whose copies need not be kept: all but the last of each of the latest days,
// weeks (ISO 8601) and months that have one.
func outlived(days []time.Time) (out []time.Time) {
	slices.SortFunc(days, func(a, b time.Time) int { return b.Compare(a) })
	kept := map[time.Time]bool{}
	for _, by := range []struct {
		most int
		of   func(time.Time) string
	}{
		{keptDays, func(t time.Time) string { return t.Format(time.DateOnly) }},
		{keptWeeks, func(t time.Time) string { y, w := t.ISOWeek(); return fmt.Sprint(y, "-", w) }},
		{keptMonths, func(t time.Time) string { return t.Format("2006-01") }},
	} {
		seen := map[string]bool{}
		for _, day := range days {
			if period := by.of(day); !seen[period] && len(seen) < by.most {
				seen[period], kept[day] = true, true
			}
		}
	}
	for _, day := range days {
		if !kept[day] {
			out = append(out, day)
		}
	}
	return out
}

// Damage is what is wrong with the data file, as far as was looked; nil when nothing is.
func (s *Study) Damage() *input.Trouble {
	if t := s.damage.Load(); t != nil {
		return t
	}
	if t := input.TroubleOf(s.store.Still()); t != nil {
		return t
	}
	return s.store.Missing()
}
