package rivals_test

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"testing"
	"time"

	"cleverniche/market"
	"cleverniche/store"
	"cleverniche/study/ask"
	"cleverniche/study/ideas"
	"cleverniche/study/input"
	"cleverniche/study/rivals"
	"cleverniche/study/studytest"
)

var ctx = context.Background()

// service knows phrases of sites, so many of each, and of my own site every tenth.
type service struct {
	*studytest.Fake
	phrases int
	breaks  int // where it refuses to go on; 0 nowhere
	asked   []market.RanksAsked
}

func (s *service) Ranks(_ context.Context, q market.RanksAsked, _ market.Locale) (out market.Ranks, err error) {
	if s.breaks > 0 && q.Offset >= s.breaks {
		return out, &market.Error{Source: "ranks", Trouble: market.Refused, Err: errors.New("not now")}
	}
	s.asked = append(s.asked, q)
	var all []market.Rank
	for i := range s.phrases {
		if q.Name == "mine.example" && i%10 > 0 || q.Name == "nobody.example" {
			continue
		}
		n, v := 10*i, float64(i)
		r := market.Rank{Phrase: fmt.Sprintf("star map %d", i), Place: 1 + i%30, URL: "http://" + q.Name + "/charts/" +
			fmt.Sprint(i%7)}
		if q.Name == "mine.example" {
			r.Place = 1 + i%50
		}
		if i%5 > 0 {
			r.Searches, r.Visits = &n, &v
		}
		if q.Passes(r) {
			all = append(all, r)
		}
	}
	out = market.Ranks{AsOf: time.Date(2026, 11, 16, 0, 0, 0, 0, time.UTC), Total: len(all)}
	from := min(q.Offset, len(all))
	out.List = all[from:min(len(all), from+q.Limit)]
	return out, s.Answer(ctx, "ranks")
}

func (s *service) Sharers(context.Context, market.Target, market.Locale, int) (market.Sharers, error) {
	return market.Sharers{List: []market.Sharer{{Site: "site4.example", Shared: 9}, {Site: "far.example", Shared: 3},
		{Site: "mine.example", Shared: 50}}}, s.Answer(ctx, "sharers")
}

func (s *service) TopPages(context.Context, market.Target, market.Locale, int) (market.TopPages, error) {
	return market.TopPages{List: []market.TopPage{{URL: "http://a.example/", Phrases: 2}}}, s.Answer(ctx, "pages")
}

func (s *service) Months(context.Context, market.Target, market.Locale) (market.SiteMonths, error) {
	return market.SiteMonths{}, s.Answer(ctx, "months")
}

func (s *service) Countries(context.Context, market.Target, market.Locale) (market.SiteCountries, error) {
	return market.SiteCountries{}, s.Answer(ctx, "countries")
}

func (s *service) Knows(market.Part) bool { return true }

func (s *service) Advertised(context.Context, market.Target, market.Locale, int) (market.Advertised, error) {
	return market.Advertised{}, s.Answer(ctx, "ads")
}

// TestFetch asks page by page, at the price of the pages that there are; what is there twice is one phrase, and nothing
// of it is kept twice.
func TestFetch(t *testing.T) {
	f := &service{Fake: &studytest.Fake{}, phrases: 1500}
	s, st, n := studytest.BeginWith(t, f.Fake, func(o *studytest.Setup) {
		o.Market.Ranked = f
		o.Prices = map[ask.Question]int64{ask.Rankings: 2000}
	})
	fetch := func(site string, w rivals.Wanted) (store.Rival, int) {
		t.Helper()
		job, err := s.Rivals.Fetch(ctx, n, site, w)
		done := studytest.Finish(t, s, job, err)
		name, err := s.Rivals.SiteOf(site)
		r, err2 := s.Rivals.Rival(ctx, n, name)
		if err = errors.Join(err, err2); err != nil {
			t.Fatal(err)
		}
		return r, done.Found
	}
	r, found := fetch("https://www.a.example/page?x", rivals.Wanted{Most: 5000})
	if r.Site != "a.example" || r.Total != 1500 || found != 1500 || len(f.asked) != 2 || r.AsOf != "2026-11-16" {
		t.Errorf("%+v: %d found, asked %+v", r, found, f.asked)
	}
	if spent, _ := st.SpentSince(ctx, time.Time{}); spent != 4000 {
		t.Errorf("%d spent", spent)
	}
	var wrong *input.Error
	if _, err := s.Rivals.Fetch(ctx, n, "a.example", rivals.Wanted{Most: 5000}); !errors.As(err, &wrong) ||
		!strings.Contains(wrong.Reason, "still fresh") {
		t.Errorf("asked twice: %v", err)
	}
	if _, again := fetch("a.example", rivals.Wanted{Most: 10}); again != 0 {
		t.Errorf("%d found again", again)
	}
	sifted := rivals.Wanted{Most: 100}
	sifted.Contains, sifted.PlaceTo = "Star, map!", 5
	b, _ := fetch("b.example", sifted)
	rows, total, err := s.Rivals.Ranks(ctx, n, b, store.Ranked{Limit: 500})
	if err != nil || total != 100 || len(rows) != 100 || b.Total != 250 {
		t.Errorf("%d of %d, %v", len(rows), b.Total, err)
	}
	for _, row := range rows {
		if row.Place > 5 {
			t.Errorf("%+v is let through", row)
		}
	}
	if added, err := s.Rivals.Take(ctx, n, "a.example", []string{"star map 3", "star map 4", "star map 3"}); added != 2 ||
		err != nil {
		t.Errorf("%d taken, %v", added, err)
	}
	table, _ := s.Ideas.Table(ctx, n)
	id := studytest.Named(table, "star map 3")
	if st := studytest.Tell(t, s, n, id); st.Origins[0].Kind != ideas.FromRanking ||
		st.Origins[0].Seed != "http://a.example/" {
		t.Errorf("it came from %+v", st.Origins)
	}
	rows, _, _ = s.Rivals.Ranks(ctx, n, r, store.Ranked{Contains: []string{"3"}, Limit: 5})
	if len(rows) != 1 || rows[0].Idea != id || rows[0].LookedUp() {
		t.Errorf("%+v", rows)
	}
	if none, _ := fetch("nobody.example", rivals.Wanted{Most: 10}); none.Total != 0 || none.AskedAt.IsZero() {
		t.Errorf("nobody: %+v", none)
	}
	for _, site := range []string{"", "no site", "localhost", "http://"} {
		if _, err := s.Rivals.Fetch(ctx, n, site, rivals.Wanted{Most: 10}); !errors.As(err, &wrong) {
			t.Errorf("%q: %v", site, err)
		}
	}
	for _, w := range []rivals.Wanted{{}, {Most: rivals.MostRanks + 1}} {
		if _, err := s.Rivals.Fetch(ctx, n, "a.example", w); !errors.As(err, &wrong) || wrong.Field != "most" {
			t.Errorf("%+v: %v", w, err)
		}
	}
}

// TestFetchGoesOn: what came before a failure is not paid again, and half of an answer does not count as fresh. Pressed
// twice it is asked once.
func TestFetchGoesOn(t *testing.T) {
	f := &service{Fake: &studytest.Fake{}, phrases: 2500, breaks: 1000}
	s, st, n := studytest.BeginWith(t, f.Fake, func(o *studytest.Setup) {
		o.Market.Ranked = f
		o.Prices = map[ask.Question]int64{ask.Rankings: 2000}
	})
	fetch := func() (done int) {
		t.Helper()
		job, err := s.Rivals.Fetch(ctx, n, "a.example", rivals.Wanted{Most: 3000})
		if twice, err := s.Rivals.Fetch(ctx, n, "a.example", rivals.Wanted{Most: 3000}); err == nil && twice.ID != job.ID &&
			f.breaks == 0 {
			t.Error("pressed twice, it is asked twice")
		}
		studytest.Finish(t, s, job, err)
		r, err := s.Rivals.Rival(ctx, n, "a.example")
		if err != nil {
			t.Fatal(err)
		}
		_, done, err = s.Rivals.Ranks(ctx, n, r, store.Ranked{Limit: 1})
		if err != nil {
			t.Fatal(err)
		}
		return done
	}
	if came := fetch(); came != 1000 {
		t.Errorf("%d came before it failed", came)
	}
	f.breaks = 0
	if came := fetch(); came != 2500 || len(f.asked) != 3 {
		t.Errorf("%d came, asked %d times", came, len(f.asked))
	}
	if spent, _ := st.SpentSince(ctx, time.Time{}); spent != 6000 {
		t.Errorf("%d spent", spent)
	}
	rows, _, err := s.Rivals.Ranks(ctx, n, must(s.Rivals.Rival(ctx, n, "a.example")), store.Ranked{Starts: " STAR map",
		Limit: 1})
	if err != nil || len(rows) != 1 ||
		"star map "+rows[0].Subject != rows[0].Phrase {
		t.Errorf("the subject of %+v, %v", rows, err)
	}
}

func must[T any](v T, err error) T {
	if err != nil {
		panic(err)
	}
	return v
}

// TestOpenings: what those that are followed rank for and I do not, or far below; without my places all of it.
func TestOpenings(t *testing.T) {
	f := &service{Fake: &studytest.Fake{}, phrases: 200}
	s, n := studytest.Begin(t, f.Fake, func(o *studytest.Setup) { o.Market.Ranked = f })
	fetch := func(site string) {
		t.Helper()
		job, err := s.Rivals.Fetch(ctx, n, site, rivals.Wanted{Most: 500})
		studytest.Finish(t, s, job, err)
	}
	fetch("a.example")
	o, err := s.Rivals.Openings(ctx, n, 1, store.Ranked{Limit: 500})
	if err != nil || len(o.Rivals) != 0 || o.Total != 0 {
		t.Fatalf("nobody is followed: %+v, %v", o, err)
	}
	if _, err := s.Rivals.Follow(ctx, n, "http://A.example/x", true); err != nil {
		t.Fatal(err)
	}
	if o, _ = s.Rivals.Openings(ctx, n, 1, store.Ranked{Limit: 500}); o.Total != 200 || o.Theirs != 200 {
		t.Errorf("without my places: %d, %d", o.Total, o.Theirs)
	}
	fetch("mine.example")
	o, err = s.Rivals.Openings(ctx, n, 1, store.Ranked{Limit: 500})
	below := 0 // mine is 1+i%50, theirs 1+i%30, of every tenth i
	for i := 0; i < 200; i += 10 {
		if i%50 >= i%30+10 {
			below++
		}
	}
	if err != nil || o.Theirs != 180 || o.Both != 20 || o.Only != 0 || o.Total != 180+below || below == 0 {
		t.Errorf("%d, %d, %d; %d openings, %d below, %v", o.Theirs, o.Both, o.Only, o.Total, below, err)
	}
	if n, err := s.Rivals.TakeOpenings(ctx, n, []string{o.List[0].Pick(), "stranger.example|moon"}); n != 1 || err != nil {
		t.Errorf("%d taken, %v", n, err)
	}
	var wrong *input.Error
	if _, err := s.Rivals.Follow(ctx, n, "mine.example", true); !errors.As(err, &wrong) ||
		!strings.Contains(wrong.Reason, "your own") {
		t.Errorf("my own site as rival: %v", err)
	}
}

// TestWhoAndWithin: those that are followed come first, sites of the tens with what is known of them, and sharers; the
// pages within reach say whether I have them.
func TestWhoAndWithin(t *testing.T) {
	f := &service{Fake: &studytest.Fake{}, phrases: 20}
	s, n := studytest.Begin(t, f.Fake, func(o *studytest.Setup) { o.Market.Ranked = f })
	s.Imports.Take(ctx, n, "list", strings.NewReader("star chart\nmoon chart\n"))
	b, _ := s.Ideas.Table(ctx, n)
	job, err := s.Results.LookUp(ctx, n, []uint{studytest.Named(b, "star chart"), studytest.Named(b, "moon chart")}, false)
	studytest.Finish(t, s, job, err)
	b, _ = s.Ideas.Table(ctx, n)
	who, err := s.Rivals.Who(ctx, n, b.Revision)
	if err != nil || len(who.Sites) != 9 || who.Shares || who.Cost == "" {
		t.Fatalf("%d sites, %+v, %v", len(who.Sites), who, err)
	}
	if err := s.Rivals.AskSharers(ctx, n); err != nil {
		t.Fatal(err)
	}
	s.Rivals.Follow(ctx, n, "late.example", true)
	who, err = s.Rivals.Who(ctx, n, b.Revision)
	if err != nil || who.Followed != 1 || who.Sites[0].Site != "late.example" || len(who.Sites) != 11 ||
		who.Sites[10].Site != "far.example" || who.Sites[10].Shared != 3 {
		t.Errorf("%+v, %v", who, err)
	}
	topics, err := s.Topics.Of(ctx, n)
	if err != nil {
		t.Fatal(err)
	}
	list, total, err := s.Rivals.Within(ctx, n, b.Revision, topics, nil, false, 0, 10)
	if err != nil || total != 2 || list[0].Have != rivals.Ranking || list[0].Mine != 3 || len(list[0].Weak) == 0 {
		t.Errorf("%d within reach: %+v, %v", total, list, err)
	}
	if list, total, err = s.Rivals.Within(ctx, n, b.Revision, topics, nil, true, 0, 10); total != 0 || err != nil {
		t.Errorf("not planned: %+v, %v", list, err)
	}
	if _, total, _ = s.Rivals.Within(ctx, n, b.Revision, topics, map[string]bool{"none.example": true}, false, 0,
		10); total != 0 {
		t.Errorf("of another site: %d", total)
	}
	d, err := s.Rivals.Details(ctx, n, "a.example")
	if err != nil || d.Told() || d.Cost == "" {
		t.Errorf("%+v, %v", d, err)
	}
	if err := s.Rivals.AskDetails(ctx, n, "a.example"); err != nil {
		t.Fatal(err)
	}
	if d, err = s.Rivals.Details(ctx, n, "a.example"); err != nil || !d.Told() || d.Cost == "" ||
		len(d.Pages.Value.List) != 1 {
		t.Errorf("%+v, %v", d, err)
	}
	page, err := s.Rivals.Page(ctx, n, b, "http://a.example/charts/1", "star map")
	if err != nil || page.Known || page.Cost == "" {
		t.Errorf("%+v, %v", page, err)
	}
	if err := s.Rivals.AskPage(ctx, n, "http://a.example/charts/1"); err != nil {
		t.Fatal(err)
	}
	if page, err = s.Rivals.Page(ctx, n, b, "http://a.example/charts/1", "star map"); err != nil || !page.Known {
		t.Errorf("%+v, %v", page, err)
	}
}

// TestWithoutASource: all of it works without a rankings service, and says what one would add.
func TestWithoutASource(t *testing.T) {
	s, n := studytest.Begin(t, &studytest.Fake{}, nil)
	b, _ := s.Ideas.Table(ctx, n)
	who, err := s.Rivals.Who(ctx, n, b.Revision)
	if err != nil || len(who.Sites) != 0 || who.Cost != "" {
		t.Errorf("%+v, %v", who, err)
	}
	var wrong *input.Error
	if _, err := s.Rivals.Fetch(ctx, n, "a.example", rivals.Wanted{Most: 10}); !errors.As(err, &wrong) ||
		!strings.Contains(wrong.Reason, "--rankings") {
		t.Errorf("%v", err)
	}
	if err := s.Rivals.AskSharers(ctx, n); err == nil {
		t.Error("nobody was asked")
	}
}
