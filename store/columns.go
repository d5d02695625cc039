package store

import (
	"context"
	"reflect"
	"strconv"
	"strings"

	"gorm.io/gorm"
	naming "gorm.io/gorm/schema"
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
		"FROM ideas WHERE niche_id = ? AND "+present, niche).Scan(&ends).Error
	if err != nil || ends.Last == 0 {
		return nil, 0, err
	}
	step := (ends.Last-ends.First)/uint(parts) + 1
	for from := ends.First; from <= ends.Last; from += step {
		out = append(out, Span{from, min(ends.Last, from+step-1)})
	}
	return out, ends.Ideas, nil
}

// Columns reads some columns, the ID first, of all ideas of a span, by ID. each gets the values
// as the driver has them, but a yes or no as a number, valid until it returns. Columns of
// times are not among them.
//
// The database joins each column of some hundred ideas to one text (see joined).
func (s *Store) Columns(ctx context.Context, niche uint, in Span, columns []string, each func(values []any)) error {
	const from = "ideas" + noIndex + " WHERE niche_id = ? AND id BETWEEN ? AND ? AND " + present
	joins, texts, values := make([]string, len(columns)), make([]bool, len(columns)), make([]any, len(columns))
	for i, c := range columns {
		texts[i] = textual[c]
		joins[i] = joined(c)
	}
	for at := in.First; at <= in.Last; at += joinedIdeas {
		last := min(in.Last, at+joinedIdeas-1)
		var parts []string
		err := s.scan(ctx, joins, func(values []any) { parts = fitting(values) }, from, niche, at, last)
		if err != nil {
			return err
		}
		if parts == nil { // a separator is in a text of somebody's: one by one, then
			if err := s.scan(ctx, columns, each, from+" ORDER BY id", niche, at, last); err != nil {
				return err
			}
			continue
		}
		for more := parts[0] != ""; more; {
			for c, part := range parts {
				var one string
				one, parts[c], more = strings.Cut(part, separator)
				values[c] = valueOf(one, texts[c])
			}
			each(values)
		}
	}
	return nil
}

// joinedIdeas is of how many ideas a column is read at once.
const joinedIdeas = 512

const separator = "\x1f"

// fitting are joined columns as texts; nil where they do not hold as many values each, or the
// IDs do not rise.
func fitting(joined []any) []string {
	out := make([]string, len(joined))
	for c, x := range joined {
		out[c], _ = x.(string) // of no ideas nothing is joined
		if c > 0 && strings.Count(out[c], separator) != strings.Count(out[0], separator) {
			return nil
		}
	}
	last := int64(-1)
	for id := range strings.SplitSeq(out[0], separator) {
		n, err := strconv.ParseInt(id, 10, 64)
		if out[0] != "" && (err != nil || n <= last) {
			return nil
		}
		last = n
	}
	return out
}

// valueOf reads a column's value as it is written in a text.
func valueOf(s string, isText bool) any {
	if isText {
		return s
	}
	if s == "" {
		return nil
	}
	if n, err := strconv.ParseInt(s, 10, 64); err == nil {
		return n
	}
	x, err := strconv.ParseFloat(s, 64)
	if err != nil {
		return s
	}
	return x
}

// textual are the ideas' columns that hold texts.
var textual = func() map[string]bool {
	out := map[string]bool{}
	for f := range reflect.TypeFor[Idea]().Fields() {
		if f.Type.Kind() == reflect.String {
			out[ColumnOf(f)] = true
		}
	}
	return out
}()

// ColumnOf is the column that a field of a row is kept in: the one that its tag names, or else its own name.
func ColumnOf(f reflect.StructField) string {
	if name := naming.ParseTagSetting(f.Tag.Get("gorm"), ";")["COLUMN"]; name != "" {
		return name
	}
	return naming.NamingStrategy{}.ColumnName("", f.Name)
}

// ColumnsRare does it for the few ideas that something was asked for one by one, or that bear
// labels.
func (s *Store) ColumnsRare(ctx context.Context, niche uint, in Span, columns []string,
	each func(values []any)) error {
	return s.scan(ctx, columns, each, "ideas"+rareIndex+" WHERE niche_id = ? AND ("+rare+") AND "+present+
		" AND id BETWEEN ? AND ? ORDER BY id", niche, in.First, in.Last)
}

// ColumnsSince reads some columns of the ideas changed after a revision, by ID.
func (s *Store) ColumnsSince(ctx context.Context, niche uint, revision int64, columns []string,
	each func(values []any)) error {
	return s.scan(ctx, columns, each, "ideas WHERE niche_id = ? AND revision > ? AND "+present+
		" ORDER BY id", niche, revision)
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

// Revision is the number of the latest change to a niche's ideas, and of the latest by which some left or came back.
func (s *Store) Revision(ctx context.Context, niche uint) (latest, removals int64, err error) {
	n, err := first[Niche](s.read(ctx).Select("revision", "removals").Where("id = ?", niche))
	return n.Revision, n.Removals, err
}
