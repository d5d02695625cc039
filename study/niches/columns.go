package niches

import (
	"context"
	"errors"
	"fmt"
	"strconv"
	"strings"

	"cleverniche/core/sieve"
	"cleverniche/store"
	"cleverniche/study/input"
)

// Column is one column of a niche's list: the key of its figure, and its width in pixels, 0
// as wide as it needs to be.
type Column struct {
	Key   string
	Width int
}

// Limits of a column's width.
const (
	LeastWidth = 30
	MostWidth  = 900
)

// Figures are what the niche's list shows, in order.
func (n Niche) Figures() []*sieve.Figure {
	keys := make([]string, len(n.Columns))
	for i, c := range n.Columns {
		keys[i] = c.Key
	}
	return sieve.Columns(keys)
}

// Width is that of a figure's column, 0 where it has none of its own.
func (n Niche) Width(f *sieve.Figure) int {
	for _, c := range n.Columns {
		if c.Key == f.Key {
			return c.Width
		}
	}
	return 0
}

func readColumns(text string) (out []Column) {
	for _, one := range strings.Fields(text) {
		key, width, _ := strings.Cut(one, ":")
		px, _ := strconv.Atoi(width)
		out = append(out, Column{key, px})
	}
	return out
}

// SetColumns notes which columns the list of a niche has; none are the usual ones.
func (s *Keeper) SetColumns(ctx context.Context, n Niche, list []Column) error {
	columns, err := CheckColumns(list)
	if err != nil {
		return err
	}
	return s.setColumns(ctx, n, nil, columns)
}

// SetTenColumns notes which columns the top ten of an idea has; none are the usual ones.
func (s *Keeper) SetTenColumns(ctx context.Context, n Niche, keys []string) error {
	return s.store.SetTenColumns(ctx, n.ID, strings.Join(keys, " "))
}

// ReplaceColumns does it where the list still has the columns that it had for who chose others.
func (s *Keeper) ReplaceColumns(ctx context.Context, n Niche, was string, list []Column) error {
	columns, err := CheckColumns(list)
	if err != nil {
		return err
	}
	return s.setColumns(ctx, n, &was, columns)
}

func (s *Keeper) setColumns(ctx context.Context, n Niche, was *string, columns string) error {
	err := s.store.SetColumns(ctx, n.ID, was, columns)
	if errors.Is(err, store.ErrChanged) {
		return input.Bad("columns",
			"The columns have changed since, perhaps in another tab. Reload the page to see them, "+
				"or press again to use yours.")
	}
	return err
}

// Chosen are the columns as they are kept.
func (n Niche) Chosen() string {
	text, _ := CheckColumns(n.Columns) // which they passed
	return text
}

// CheckColumns writes columns as they are kept.
func CheckColumns(list []Column) (string, error) {
	var out []string
	for _, c := range list {
		f := sieve.FigureNamed(c.Key)
		if f == nil || len(sieve.Columns([]string{c.Key})) < 2 && f != sieve.Phrase {
			return "", input.Bad("columns", "There is no column “%s”.", input.Clip(c.Key, 40))
		}
		one := c.Key
		if c.Width > 0 {
			one = fmt.Sprintf("%s:%d", c.Key, min(MostWidth, max(LeastWidth, c.Width)))
		}
		out = append(out, one)
	}
	return strings.Join(out, " "), nil
}
