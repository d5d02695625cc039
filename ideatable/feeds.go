package ideatable

import (
	"fmt"
	"hash/fnv"
	"maps"
	"reflect"
	"slices"
	"time"

	"cleverniche/core/sieve"
	"cleverniche/core/worth"
	"cleverniche/store"
)

// feed is where a figure's value comes from: columns of the data file's ideas, and what
// to make of them.
type feed struct {
	columns []string
	value   func(of cells) sieve.Value
}

// cells are one idea's values of a feed's columns: nil, int64, float64, string, bool or
// time.Time, as the driver has them.
type cells []any

// feeds are the feeds of all figures that have one.
var feeds = allFeeds()

// allFeeds are those that the tags of store.Idea name, and those that need more than a
// column.
func allFeeds() map[*sieve.Figure]feed {
	out := freeFeeds()
	maps.Copy(out, judgedFeeds())
	for i := range ideaType.NumField() {
		field := ideaType.Field(i)
		key := field.Tag.Get("figure")
		if key == "" {
			continue
		}
		f := sieve.FigureNamed(key)
		if f == nil {
			panic(fmt.Sprintf("store.Idea.%s feeds %q, which is no figure", field.Name, key))
		}
		out[f] = tagged(f, store.ColumnOf(field))
	}
	return out
}

// freeFeeds are those of what is known without a lookup.
func freeFeeds() map[*sieve.Figure]feed {
	return map[*sieve.Figure]feed{
		sieve.Searches: {[]string{"searches", "under"}, func(of cells) sieve.Value {
			v := plain(sieve.Searches, of[0])
			v.Under = v.Known && truth(of[1])
			return v
		}},
		sieve.CPC: {[]string{"cpc_micros"}, func(of cells) sieve.Value {
			v := plain(sieve.CPC, of[0])
			v.Number /= micros
			return v
		}},
		sieve.Ceiling: {[]string{"searches", "under", "cpc_micros"}, func(of cells) sieve.Value {
			n, cost := plain(sieve.Searches, of[0]), plain(sieve.CPC, of[2])
			if !n.Known || !cost.Known || truth(of[1]) {
				return sieve.Value{}
			}
			return sieve.Of(float64(worth.Ceiling(n.Number, worth.Micros(cost.Number))) / micros)
		}},
		sieve.FirstVisits: {[]string{"searches", "under"}, func(of cells) sieve.Value {
			n := plain(sieve.Searches, of[0])
			if !n.Known || truth(of[1]) {
				return sieve.Value{}
			}
			return sieve.Of(worth.VisitsADay(n.Number))
		}},
		sieve.Variant: {[]string{"variant_key"}, func(of cells) sieve.Value {
			key := text(of[0])
			if key == "" {
				return sieve.Value{}
			}
			h := fnv.New64a()
			h.Write([]byte(key))
			return sieve.Of(float64(h.Sum64() >> 12)) // as much as a float64 holds
		}},
		sieve.Subject: {[]string{"side", "side_hand"}, func(of cells) sieve.Value {
			side, hand := plain(sieve.Subject, of[0]).Number, plain(sieve.Subject, of[1]).Number
			if hand != 0 {
				side = hand
			}
			if side == 0 {
				return sieve.Value{}
			}
			return sieve.Subject.Named(sieve.Subject.Names[int(side)-1])
		}},
		sieve.Branch: {[]string{"branch_id"}, func(of cells) sieve.Value { // whose path the reader knows
			v := plain(sieve.Branch, of[0])
			v.Known = v.Number > 0
			return v
		}},
		sieve.Share: {[]string{"phrase_match", "broad_match"}, func(of cells) sieve.Value {
			phrase, broad := plain(sieve.Share, of[0]), plain(sieve.Share, of[1])
			if broad.Number <= 0 {
				return sieve.Value{}
			}
			return sieve.Of(phrase.Number / broad.Number)
		}},
	}
}

// judgedFeeds are those of what lookups say.
func judgedFeeds() map[*sieve.Figure]feed {
	return map[*sieve.Figure]feed{
		sieve.Beyond: {[]string{"difficulty", "reach", "judged_at"}, func(of cells) sieve.Value {
			if of[2] == nil {
				return sieve.Value{}
			}
			return sieve.Of(max(0, plain(sieve.Difficulty, of[0]).Number-plain(sieve.Reach, of[1]).Number))
		}},
		sieve.NearName: {[]string{"free_names", "name_free"}, func(of cells) sieve.Value {
			if of[1] == nil {
				return sieve.Value{}
			}
			return plain(sieve.NearName, text(of[0]) != "")
		}},
		sieve.Worth:     visits("clicks"),
		sieve.WorthLow:  visits("clicks_low"),
		sieve.WorthHigh: visits("clicks_high"),
		sieve.LinksNeeded: {[]string{"links_needed", "locked", "judged_at"}, func(of cells) sieve.Value {
			if of[2] == nil || truth(of[1]) {
				return sieve.Value{}
			}
			return plain(sieve.LinksNeeded, of[0])
		}},
	}
}

// visits are those to be expected, by a column with the share of searches that click.
func visits(clicks string) feed {
	return feed{[]string{"searches", "under", clicks, "judged_at"}, func(of cells) sieve.Value {
		n, clicks := plain(sieve.Searches, of[0]), plain(sieve.Worth, of[2])
		if !n.Known || !clicks.Known || truth(of[1]) || of[3] == nil {
			return sieve.Value{}
		}
		return sieve.Of(n.Number * clicks.Number)
	}}
}

const micros = 1_000_000

var ideaType = reflect.TypeFor[store.Idea]()

// tagged is the feed of a figure that is one column. What the ten say is not known
// before they are looked up.
func tagged(f *sieve.Figure, column string) feed {
	out := feed{[]string{column}, func(of cells) sieve.Value { return plain(f, of[0]) }}
	if f.From == sieve.FromTen && f != sieve.LookedUp {
		out.columns = append(out.columns, "judged_at")
		out.value = func(of cells) sieve.Value {
			if of[1] == nil {
				return sieve.Value{}
			}
			return plain(f, of[0])
		}
	}
	return out
}

// plain is a column's value as it is. A negative number is one that is not known.
func plain(f *sieve.Figure, x any) sieve.Value {
	switch v := x.(type) {
	case int64:
		return sieve.Value{Known: v >= 0, Number: float64(v)}
	case float64:
		return sieve.Value{Known: v >= 0, Number: v}
	case bool:
		if v {
			return sieve.Of(1)
		}
		return sieve.Of(0)
	case time.Time:
		return sieve.Of(float64(v.Unix()))
	case string:
		if f.Form == sieve.Name {
			return f.Named(v)
		}
		return sieve.Value{Known: v != "", Text: v}
	case []byte:
		return plain(f, string(v))
	}
	return sieve.Value{}
}

func truth(x any) bool {
	switch v := x.(type) {
	case bool:
		return v
	case int64:
		return v != 0
	case float64: // SQLite keeps NUMERIC as it likes
		return v != 0
	}
	return false
}

// ValueOf is what an idea's row knows of a figure; visit is what a visit brings in its niche, in
// millionths, and 0 where that is not said.
func ValueOf(row *store.Idea, f *sieve.Figure, visit int64) sieve.Value {
	from, ok := feeds[f]
	if !ok {
		return sieve.Value{}
	}
	of := reflect.ValueOf(row).Elem()
	values := make(cells, len(from.columns))
	for i, column := range from.columns {
		values[i] = cellOf(of.Field(fieldOf[column]))
	}
	return valued(f, from.value(values), visit)
}

// valued turns expected visits into what they are worth; that is not known where nobody says what
// a visit brings.
func valued(f *sieve.Figure, v sieve.Value, visit int64) sieve.Value {
	if !isWorth(f) {
		return v
	}
	v.Number *= float64(visit) / micros
	v.Known = v.Known && visit > 0
	return v
}

// isWorth reports whether a figure is what something is worth, or an end of that: it is in the niche's own currency.
func isWorth(f *sieve.Figure) bool {
	return f == sieve.Worth || f == sieve.WorthLow || f == sieve.WorthHigh
}

// fieldOf is the place of the field of store.Idea that a column is.
var fieldOf = func() map[string]int {
	out := map[string]int{}
	for i := range ideaType.NumField() {
		out[store.ColumnOf(ideaType.Field(i))] = i
	}
	return out
}()

// cellOf is a field as the driver would have its column.
func cellOf(v reflect.Value) any {
	if v.Kind() == reflect.Pointer {
		if v.IsNil() {
			return nil
		}
		v = v.Elem()
	}
	switch {
	case v.CanInt():
		return v.Int()
	case v.CanUint():
		return int64(v.Uint())
	case v.CanFloat():
		return v.Float()
	}
	return v.Interface()
}

// reader puts columns of the data file into ideas of a table.
type reader struct {
	columns  []string
	held     []heldFigure
	currency string          // nothing in another one is compared
	visit    int64           // what a visit brings
	paths    map[uint]string // down to branches
}

// heldFigure is a figure with its feed, and where the feed's columns are among the reader's.
type heldFigure struct {
	*sieve.Figure
	feed
	at []int
}

// newReader reads the figures that are wanted.
func newReader(currency string, visit int64, wanted func(*sieve.Figure) bool) *reader {
	r := &reader{columns: []string{"id", "phrase", "words", "currency"}, currency: currency, visit: visit}
	for _, f := range sieve.Held() {
		from, ok := feeds[f]
		if !ok || !wanted(f) || f == sieve.Phrase || f == sieve.Found || f == sieve.Length {
			continue
		}
		h := heldFigure{f, from, nil}
		for _, c := range from.columns {
			if !slices.Contains(r.columns, c) {
				r.columns = append(r.columns, c)
			}
			h.at = append(h.at, slices.Index(r.columns, c))
		}
		r.held = append(r.held, h)
	}
	return r
}

// idea makes an idea of the values of its columns.
func (r *reader) idea(values []any) sieve.Idea {
	words, _ := values[2].(int64)
	idea := sieve.Unmeasured(idOf(values), text(values[1]), int(words))
	r.fill(&idea, values)
	return idea
}

// fill puts the values of columns into an idea.
func (r *reader) fill(idea *sieve.Idea, values []any) {
	var room [4]any
	for _, h := range r.held {
		of := cells(room[:len(h.at)])
		for i, at := range h.at {
			of[i] = values[at]
		}
		v := valued(h.Figure, h.value(of), r.visit)
		if h.Figure == sieve.Branch {
			v.Text = r.paths[uint(v.Number)]
		}
		if h.Form == sieve.Amount && !isWorth(h.Figure) && text(values[3]) != r.currency {
			v = sieve.Value{} // nobody is asked for rates of exchange
		}
		idea.Put(h.Figure, v)
	}
}

func idOf(values []any) uint {
	id, _ := values[0].(int64)
	return uint(id)
}

// isRare reports whether few ideas have a figure: what is asked for one by one, and labels.
func isRare(f *sieve.Figure) bool { return f.Paid() || f == sieve.Labels }

// readers are those of one niche: to read of most ideas that nothing is known takes as long
// as to read what is.
type readers struct {
	all, free, rare *reader
	last            uint // branch that their paths know
}

func newReaders(currency string, visit int64) *readers {
	return &readers{all: newReader(currency, visit, func(*sieve.Figure) bool { return true }),
		free: newReader(currency, visit, func(f *sieve.Figure) bool { return !isRare(f) }),
		rare: newReader(currency, visit, isRare)}
}

func text(x any) string {
	switch v := x.(type) {
	case string:
		return v
	case []byte:
		return string(v)
	}
	return ""
}
