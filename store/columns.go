package store

import (
	"context"
	"strings"

	"gorm.io/gorm"
)

// Span is a part of a niche's ideas, by their IDs.
type Span struct{ First, Last uint }

// Spans divides a niche's ideas into parts, by IDs that exist or not, and says how many
// ideas there are.
func (s *Store) Spans(ctx context.Context, niche uint, parts int) (out []Span, ideas int, err error) {
	var ends struct {
		First, Last uint
		Ideas       int
	}
	err = s.read(ctx).Raw("SELECT coalesce(min(id), 1) first, coalesce(max(id), 0) last, count(*) ideas "+
		"FROM ideas WHERE niche_id = ?", niche).Scan(&ends).Error
	if err != nil || ends.Last == 0 {
		return nil, 0, err
	}
	step := (ends.Last-ends.First)/uint(parts) + 1
	for from := ends.First; from <= ends.Last; from += step {
		out = append(out, Span{from, min(ends.Last, from+step-1)})
	}
	return out, ends.Ideas, nil
}

// Columns reads some columns of all ideas of a span, by ID, in the order of the table
// itself. each gets the values as the driver has them, valid until it returns.
func (s *Store) Columns(ctx context.Context, niche uint, in Span, columns []string, each func(values []any)) error {
	return s.scan(ctx, columns, each, "ideas NOT INDEXED WHERE niche_id = ? AND id BETWEEN ? AND ? ORDER BY id", niche,
		in.First, in.Last)
}

// ColumnsRare does it for the few ideas that something was asked for one by one, or that bear
// labels.
func (s *Store) ColumnsRare(ctx context.Context, niche uint, in Span, columns []string,
	each func(values []any)) error {
	return s.scan(ctx, columns, each, "ideas INDEXED BY ideas_rare WHERE niche_id = ? AND ("+rare+") "+
		"AND id BETWEEN ? AND ? ORDER BY id", niche, in.First, in.Last)
}

// ColumnsSince reads some columns of the ideas changed after a revision, by ID.
func (s *Store) ColumnsSince(ctx context.Context, niche uint, revision int64, columns []string,
	each func(values []any)) error {
	return s.scan(ctx, columns, each, "ideas WHERE niche_id = ? AND revision > ? ORDER BY id", niche, revision)
}

func (s *Store) scan(ctx context.Context, columns []string, each func(values []any), from string, args ...any) error {
	// The driver starts a goroutine a row where a context can end: it is looked at here.
	rows, err := s.read(context.WithoutCancel(ctx)).Session(&gorm.Session{PrepareStmt: false}).
		Raw("SELECT "+strings.Join(columns, ", ")+" FROM "+from, args...).Rows()
	if err != nil {
		return err
	}
	defer rows.Close()
	values, into := make([]any, len(columns)), make([]any, len(columns))
	for i := range values {
		into[i] = &values[i]
	}
	for n := 0; rows.Next(); n++ {
		if n%1024 == 0 && ctx.Err() != nil {
			return ctx.Err()
		}
		if err := rows.Scan(into...); err != nil {
			return err
		}
		each(values)
	}
	return rows.Err()
}

// Revision is the number of the latest change to a niche's ideas.
func (s *Store) Revision(ctx context.Context, niche uint) (int64, error) {
	n, err := first[Niche](s.read(ctx).Select("revision").Where("id = ?", niche))
	return n.Revision, err
}
