package niches

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"cleverniche/study/input"
)

// DeletedFor is how long a deleted niche can be brought back.
const DeletedFor = 30 * 24 * time.Hour

// stagedFor is after what time a niche that is being read from a file, and whose reader has not shown since, is
// given up.
const stagedFor = time.Hour

// Deleted is a niche that can still be brought back, until a day.
type Deleted struct {
	Niche
	Until time.Time
}

// Archive puts a niche out of sight, or back; nothing of it changes.
func (s *Keeper) Archive(ctx context.Context, id uint, away bool) error {
	return s.store.ArchiveNiche(ctx, id, away)
}

// Delete deletes a niche whose name was typed. It can be brought back for DeletedFor.
func (s *Keeper) Delete(ctx context.Context, n Niche, typed string) error {
	if !strings.EqualFold(strings.Join(strings.Fields(typed), " "), n.Name) {
		return input.Bad("confirm", "Type the niche’s name, “%s”, to delete it.", n.Name)
	}
	return s.store.DeleteNiche(ctx, n.ID, true)
}

// Discard erases a niche that was only just made, and that nobody has seen.
func (s *Keeper) Discard(ctx context.Context, id uint) error {
	if err := s.store.DeleteNiche(ctx, id, true); err != nil {
		return err
	}
	return s.store.EraseNiche(ctx, id)
}

// Deleted lists the niches that can be brought back.
func (s *Keeper) Deleted(ctx context.Context) ([]Deleted, error) {
	rows, err := s.store.DeletedNiches(ctx)
	out := make([]Deleted, len(rows))
	for i, n := range rows {
		out[i] = Deleted{FromRow(n), n.DeletedAt.Add(DeletedFor)}
	}
	return out, err
}

// BringBack brings a deleted niche back. Where another one has its name by now, it gets another.
func (s *Keeper) BringBack(ctx context.Context, id uint) (Niche, error) {
	deleted, err := s.Deleted(ctx)
	if err != nil {
		return Niche{}, err
	}
	for _, d := range deleted {
		if d.ID != id {
			continue
		}
		n := d.Niche
		for i := 2; errors.As(s.Free(ctx, n), new(*input.Error)); i++ {
			n.Name = fmt.Sprintf("%s (%d)", input.Clip(d.Name, MostName-10), i)
		}
		if n.Name != d.Name {
			if err := s.store.RenameNiche(ctx, n.ID, n.Name); err != nil {
				return n, err
			}
		}
		return n, s.store.DeleteNiche(ctx, id, false)
	}
	return Niche{}, input.ErrNotFound
}

// Erase erases what was deleted long enough ago, and what was not read to its end.
func (s *Keeper) Erase(ctx context.Context, now time.Time) (erased int, err error) {
	ids, err := s.store.Outlived(ctx, now.Add(-DeletedFor), now.Add(-stagedFor))
	for _, id := range ids {
		if err = s.store.EraseNiche(ctx, id); err != nil {
			break
		}
		erased++
	}
	return erased, err
}
