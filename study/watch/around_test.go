package watch_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"cleverniche/core/sieve"
	"cleverniche/study"
	"cleverniche/study/niches"
	"cleverniche/study/studytest"
	"cleverniche/study/watch"
)

// tasksOf are the lines of this week that begin so.
func tasksOf(t *testing.T, s *study.Study, n niches.Niche, begins string) (out []watch.Task) {
	t.Helper()
	list, err := s.Watch.Monday(ctx, n, pages(t, s, n), ranking(t, s, n))
	if err != nil {
		t.Fatal(err)
	}
	for _, one := range list {
		if strings.HasPrefix(one.What, begins) {
			out = append(out, one)
		}
	}
	return out
}

// TestAroundMyPages: this week says that a strong page left a ten that is kept, that a rival which is followed passed
// me, that a page of mine is gone, and which kept look-ups are old.
func TestAroundMyPages(t *testing.T) {
	s, n, f, c := begun(t)
	b, err := s.Ideas.Table(ctx, n)
	if err != nil {
		t.Fatal(err)
	}
	mars := studytest.Named(b, "mars rover toy")
	if _, err := s.Ideas.Decide(ctx, n.ID, []uint{mars}, sieve.Kept); err != nil {
		t.Fatal(err)
	}
	look := func() {
		t.Helper()
		j, err := s.Results.LookUp(ctx, n, []uint{mars}, true)
		studytest.Finish(t, s, j, err)
	}
	look()
	c.days.Store(7)
	look()
	if got := tasksOf(t, s, n, "An opening"); len(got) != 0 {
		t.Errorf("nothing changed: %+v", got)
	}
	c.days.Store(14)
	f.place.Store(2) // my page takes the place of the second
	look()
	got := tasksOf(t, s, n, "An opening: “mars rover toy”.")
	if len(got) != 1 || !strings.Contains(got[0].Why, "site1.example was no. 2") ||
		got[0].Path != fmt.Sprintf("ideas/%d", mars) {
		t.Errorf("%+v", got)
	}
	if _, err := s.Rivals.Follow(ctx, n, "site5.example", true); err != nil {
		t.Fatal(err)
	}
	f.place.Store(40)
	check(t, s, n)
	c.days.Store(17)
	f.place.Store(12)
	check(t, s, n)
	if got = tasksOf(t, s, n, "site5.example passed you"); len(got) != 0 {
		t.Errorf("who stood above was not known, and: %+v", got)
	}
	c.days.Store(19)
	f.place.Store(4)
	check(t, s, n)
	c.days.Store(21)
	f.place.Store(9)
	check(t, s, n)
	if got = tasksOf(t, s, n, "site5.example passed you for “moon map”."); len(got) != 1 {
		t.Errorf("%+v", got)
	}
	c.days.Store(200)
	check(t, s, n)
	if got = tasksOf(t, s, n, "Look up 1 kept phrase again."); len(got) != 1 ||
		!strings.Contains(got[0].Why, "The oldest is from 16 March 2026. It costs at most $") {
		t.Errorf("%+v", got)
	}
	var pairs []sieve.Pair
	for _, part := range strings.Split(strings.TrimPrefix(got[0].Path, "sift?"), "&") {
		key, value, _ := strings.Cut(part, "=")
		pairs = append(pairs, sieve.Pair{Key: key, Value: value})
	}
	by, problems := sieve.Read(pairs, sieve.Sieve{})
	if len(problems) > 0 || len(by.Filters) != 2 || len(by.Keys()) == 0 || by.Keys()[0].By != sieve.LookedUp ||
		by.Keys()[0].Down {
		t.Errorf("%s leads to %+v, %v", got[0].Path, by, problems)
	}
	if got = tasksOf(t, s, n, "An opening"); len(got) != 0 {
		t.Errorf("long ago: %+v", got)
	}
}

// TestWhy: what came in above a page is told, and that more is known once its phrase is looked up again.
func TestWhy(t *testing.T) {
	s, n, f, c := begun(t)
	f.place.Store(14)
	if why, err := s.Watch.Why(ctx, n, check(t, s, n)); err != nil || len(why.Says) != 0 {
		t.Errorf("who may have stood no. 11 before came in: %+v, %v", why, err)
	}
	f.comes.Store(true)
	c.days.Store(7)
	p := check(t, s, n)
	why, err := s.Watch.Why(ctx, n, p)
	if err != nil || !why.LookAgain || why.Idea == 0 ||
		!slices.Equal(why.Says, []string{"newcomer.example came into the top ten, above you."}) {
		t.Fatalf("%+v, %v", why, err)
	}
	c.days.Store(10)
	j, err := s.Results.LookUp(ctx, n, []uint{why.Idea}, true)
	studytest.Finish(t, s, j, err)
	if why, err = s.Watch.Why(ctx, n, p); err != nil || why.LookAgain {
		t.Errorf("%+v, %v", why, err)
	}
}
