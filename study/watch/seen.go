package watch

import (
	"context"
	"encoding/json"
	"slices"
	"time"

	"cleverniche/core/serp"
	"cleverniche/core/watch"
	"cleverniche/store"
	"cleverniche/study/niches"
)

// Page is a watched phrase with where my page stands for it.
type Page struct {
	ID      uint
	Site    string // which of my sites; "" the niche's own
	Phrase  string
	Meant   string // my page that is meant to stand for it; "" any
	Planned bool   // it is an article of the plan
	Out     time.Time
	Line    watch.Line
	Checked time.Time // last; zero never
	Engine  string
	Place   int
	Stands  string   // which page of mine
	Others  []string // of my pages further down, each with its place
	Above   []string // sites above it
	Before  []string // those above it the time before; nil not known
	There   []There  // where it stands elsewhere
	Best    int
	Day, Week, Month,
	Start Change
	Forecast *watch.Forecast // nil where nothing was forecast
	Made     time.Time       // when it was
	Late     bool            // so long after publication that it counts for nothing
	Ten      []string        // who stood there then
	Links    []float64       // with which standings of their pages; nil not known
	Verdict  watch.Verdict   // "" without a forecast
	Settled  int             // the place by which it is judged
	Tells    time.Time       // from when one may tell
}

// Change is how a place moved since some time ago: places risen; ok is false where it was not checked then.
type Change struct {
	By int
	OK bool
}

// Other reports whether another page of mine stands there than is meant.
func (p Page) Other() bool {
	return p.Place > 0 && p.Meant != "" && p.Stands != "" && p.Stands != p.Meant
}

// Came are sites above it among the first ten now that were not in the ten when it was forecast. Who stood below the
// ten then is not known, so of those below it now nothing is said.
func (p Page) Came() (out []string) {
	for _, site := range p.Above[:min(serp.FirstPage, len(p.Above))] {
		if len(p.Ten) > 0 && !slices.Contains(p.Ten, site) && !slices.Contains(out, site) {
			out = append(out, site)
		}
	}
	return out
}

// Pages are all that a niche watches.
func (s *Watcher) Pages(ctx context.Context, n niches.Niche) ([]Page, error) {
	list, err := s.store.Watched(ctx, n.ID)
	if err != nil {
		return nil, err
	}
	by, err := s.store.Positions(ctx, n.ID)
	if err != nil {
		return nil, err
	}
	out := make([]Page, len(list))
	for i, w := range list {
		out[i] = s.page(w, by[w.ID])
	}
	before, err := s.store.LatestPositions(ctx, n.ID, "", 1)
	if err != nil {
		return nil, err
	}
	for i := range out {
		p, is := before[out[i].ID]
		if is && asked(p) && p.Engine == out[i].Engine && p.Place > 0 && p.Place <= mostAbove { // all above it are known
			out[i].Before = append([]string{}, split(p.Above)...)
		}
	}
	return out, s.elsewhere(ctx, n, out)
}

// One is a watched phrase with all its places and remarks.
func (s *Watcher) One(ctx context.Context, n niches.Niche, id uint) (p Page, points []store.Position,
	remarks []store.Remark, err error) {
	w, err := s.store.OneWatched(ctx, n.ID, id)
	if err != nil {
		return p, nil, nil, err
	}
	if points, err = s.store.PositionsOf(ctx, id); err != nil {
		return p, nil, nil, err
	}
	remarks, err = s.store.Remarks(ctx, id)
	var here []store.Position
	for _, one := range points {
		if one.Scene == "" {
			here = append(here, one)
		}
	}
	list := []Page{s.page(w, here)}
	if err == nil {
		err = s.elsewhere(ctx, n, list)
	}
	return list[0], points, remarks, err
}

func (s *Watcher) page(w store.Watched, points []store.Position) Page {
	points = ofOneEngine(points)
	p := Page{ID: w.ID, Site: w.Site, Phrase: w.Phrase, Meant: w.Page, Planned: w.TopicID != 0}
	if w.OutAt != nil {
		p.Out = *w.OutAt
	}
	for _, one := range points {
		p.Line = append(p.Line, watch.Point{Day: one.At, Place: one.Place})
	}
	if len(points) > 0 {
		last := points[len(points)-1]
		p.Checked, p.Engine, p.Place, p.Stands = last.At, last.Engine, last.Place, last.Page
		p.Others, p.Best = split(last.Others), p.Line.Best()
		if last.Place > 0 {
			p.Above = split(last.Above)
		}
		since := func(days int) (c Change) {
			if was, ok := p.Line.At(last.At.AddDate(0, 0, -days)); ok {
				return Change{watch.Moved(was.Place, last.Place), true}
			}
			return c
		}
		p.Week, p.Month = since(7), since(30)
		if len(points) > 1 {
			p.Day = Change{watch.Moved(points[len(points)-2].Place, last.Place), true}
			p.Start = Change{watch.Moved(points[0].Place, last.Place), true}
		}
	}
	var f forecast
	if w.Forecast != "" && json.Unmarshal([]byte(w.Forecast), &f) == nil && len(f.Chances) > 0 {
		of := f.of()
		p.Forecast, p.Made, p.Ten, p.Links = &of, f.Made, f.Ten, f.Links
		p.Late = p.Made.Sub(p.Out) > late
		if !p.Out.IsZero() {
			p.Verdict, p.Settled, p.Tells = of.Judge(p.Line, p.Out)
		}
	}
	return p
}

// late is how long after publication a forecast may be made and still be one (ours): later it may know what came.
const late = 14 * 24 * time.Hour

// Right is whether chances were right, over pages that have settled.
type Right struct {
	Settled    int // pages that have
	Waiting    int // that have a forecast and are too early to tell
	Late       int // whose forecast was made too long after they were published
	Better, As int
	Worse      int
	PageOne    Score
	TopFive    Score
}

// Score is how right chances of one goal were.
type Score struct {
	Bins     [10]watch.Bin
	Brier    float64
	Miss     float64 // expected calibration error
	Expected float64 // how many were to come, by the chances
	Came     int
}

// Rightness holds the chances of settled pages against what came.
func Rightness(list []Page) (out Right) {
	var one, five []watch.Outcome
	for _, p := range list {
		if p.Forecast == nil || p.Out.IsZero() {
			continue
		}
		switch {
		case p.Late:
			out.Late++
			continue
		case p.Verdict == watch.TooEarly:
			out.Waiting++
			continue
		case p.Verdict == watch.Better:
			out.Better++
		case p.Verdict == watch.Worse:
			out.Worse++
		default:
			out.As++
		}
		out.Settled++
		one = append(one, watch.Outcome{Chance: p.Forecast.PageOne(), Came: p.Settled > 0 && p.Settled <= 10})
		five = append(five, watch.Outcome{Chance: p.Forecast.TopFive(), Came: p.Settled > 0 && p.Settled <= 5})
	}
	score := func(list []watch.Outcome) (s Score) {
		s.Bins, s.Brier, s.Miss = watch.Right(list)
		for _, o := range list {
			s.Expected += o.Chance
			if o.Came {
				s.Came++
			}
		}
		return s
	}
	out.PageOne, out.TopFive = score(one), score(five)
	return out
}
