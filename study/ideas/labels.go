package ideas

import (
	"context"
	"crypto/rand"
	"errors"
	"slices"
	"strings"
	"unicode"

	"cleverniche/core/branch"
	"cleverniche/core/sieve"
	"cleverniche/ideatable"
	"cleverniche/store"
	"cleverniche/study/input"
	"cleverniche/study/niches"
)

// Limits of labels and notes.
const (
	MostLabelRunes = 40
	MostLabels     = 12 // on one idea
	MostNoteRunes  = 2000
	labelSlice     = 200 // ideas that are labelled at once, so that nobody waits for all
)

// Marks lists what ideas of a niche have of a figure whose values are words of the user's own: labels, lists.
func (s *Keeper) Marks(ctx context.Context, niche uint, of *sieve.Figure) ([]string, error) {
	if of == sieve.Branch {
		return s.branches(ctx, niche)
	}
	sets, err := s.store.MarkSets(ctx, niche, of.Key)
	var out []string
	for _, set := range sets {
		out = append(out, strings.Split(set, sieve.LabelMark)...)
	}
	slices.Sort(out)
	return slices.Compact(out), err
}

// branches are the seeds and lists that ideas of a niche came down from; their ways are too many to choose among.
func (s *Keeper) branches(ctx context.Context, niche uint) (out []string, err error) {
	rows, err := s.store.Branches(ctx, niche)
	for _, path := range branch.Paths(ideatable.Branches(rows)) {
		out = append(out, strings.Split(path, sieve.LabelMark)...)
	}
	slices.Sort(out)
	return slices.DeleteFunc(slices.Compact(out), branch.IsWay), err
}

// CheckLabels refuses what the forms would not have let one write.
func CheckLabels(set string) error {
	if set == "" {
		return nil
	}
	all := strings.Split(set, sieve.LabelMark)
	if len(all) > MostLabels {
		return input.Bad("label", "it has more than %d labels", MostLabels)
	}
	for _, one := range all {
		if is, err := LabelOf(one); err != nil || is != one {
			return input.Bad("label", "“%s” is no label", input.Clip(one, 60))
		}
	}
	return nil
}

// LabelOf reads a label as somebody typed it.
func LabelOf(text string) (string, error) {
	text = strings.Join(strings.Fields(strings.Map(func(r rune) rune {
		if unicode.IsControl(r) {
			return ' '
		}
		return r
	}, text)), " ")
	switch {
	case text == "":
		return "", input.Bad("label", "Type a label.")
	case len([]rune(text)) > MostLabelRunes:
		return "", input.Bad("label", "The label is longer than %d characters.", MostLabelRunes)
	}
	return text, nil
}

// Label puts a label on ideas, or takes it off, and returns those that changed.
func (s *Keeper) Label(ctx context.Context, n niches.Niche, ids []uint, text string,
	off bool) (label string, changed []uint,
	err error) {
	if label, err = LabelOf(text); err != nil {
		return label, nil, err
	}
	rows, err := s.store.Ideas(ctx, n.ID, ids)
	if err != nil {
		return label, nil, err
	}
	var save []store.Idea
	for _, row := range rows {
		set := labelsIn(row.Labels)
		if slices.Contains(set, label) != off {
			continue
		}
		if off {
			set = slices.DeleteFunc(set, func(one string) bool { return one == label })
		} else if set = append(set, label); len(set) > MostLabels {
			return label, nil, input.Bad("label", "“%s” has %d labels; more do not fit.", input.Clip(row.Phrase, 60),
				MostLabels)
		}
		slices.Sort(set)
		row.Labels = strings.Join(set, sieve.LabelMark)
		save, changed = append(save, row), append(changed, row.ID)
	}
	batch := rand.Text()
	for part := range slices.Chunk(save, labelSlice) {
		if err := s.store.SaveLabels(ctx, n.ID, part, batch); err != nil {
			return label, nil, err
		}
	}
	return label, changed, nil
}

func labelsIn(text string) []string {
	if text == "" {
		return nil
	}
	return strings.Split(text, sieve.LabelMark)
}

// Labels are those on the idea.
func (i Idea) Labels() []string { return labelsIn(i.Row.Labels) }

// Note is what the user noted on it.
func (i Idea) Note() string { return i.Row.Note }

// SetNote notes something on an idea.
func (s *Keeper) SetNote(ctx context.Context, n niches.Niche, id uint, text string) error {
	return s.ReplaceNote(ctx, n, id, nil, text)
}

// ReplaceNote does it where the note is still what it was for who writes; nil is whatever it is.
func (s *Keeper) ReplaceNote(ctx context.Context, n niches.Niche, id uint, was *string, text string) error {
	text = strings.TrimSpace(strings.ReplaceAll(text, "\r\n", "\n"))
	if k := len([]rune(text)); k > MostNoteRunes {
		return input.Bad("note", "The note has %d characters, more than %d.", k, MostNoteRunes)
	}
	row, err := s.store.Idea(ctx, n.ID, id)
	if err != nil {
		return err
	}
	if row.Note == text {
		return nil
	}
	theirs := row.Note
	row.Note = text
	err = s.store.SaveNote(ctx, n.ID, row, was, rand.Text())
	if errors.Is(err, store.ErrChanged) {
		return input.Bad("note",
			"This has changed since, perhaps in another tab, to “%s”. Save yours again to replace it.",
			input.Clip(theirs, 200))
	}
	return err
}
