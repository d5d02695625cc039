package subjects_test

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"testing"

	"cleverniche/core/sieve"
	"cleverniche/core/subject"
	"cleverniche/market"
	"cleverniche/study"
	"cleverniche/study/niches"
	"cleverniche/study/studytest"
)

var ctx = context.Background()

// two is an outside where sites of the sky stand for what is said of the sky, and sites of films for films.
type two struct{ studytest.Fake }

func (f *two) Search(ctx context.Context, q string, _ market.Locale, depth int) (market.Results, error) {
	of := "sky"
	if strings.Contains(q, "film") {
		of = "film"
	}
	sum := 0
	for _, c := range q {
		sum += int(c)
	}
	r := market.Results{Engine: "two", Total: 5000}
	for k := range min(depth, 6) {
		r.Organic = append(r.Organic, market.Organic{Position: k + 1, Title: q,
			URL: fmt.Sprintf("http://%s%d.example/%d", of, (sum+k*5)%23, sum)})
	}
	return r, nil
}

// saturn is a niche of ideas on the planet, all looked up, and of some on a film; one on the film is not.
func saturn(t *testing.T) (*study.Study, niches.Niche) {
	t.Helper()
	f := &two{}
	s, n := studytest.Begin(t, &f.Fake, func(o *studytest.Setup) { o.Market.Search = f })
	var list []string
	for i := range 100 {
		w := []string{"rings", "telescope", "moons", "binoculars", "tonight", "magnification", "opposition"}
		list = append(list, fmt.Sprintf("saturn %s %s", w[i%7], w[(i+1+i/7%6)%7])+strings.Repeat(" seen", i/42))
	}
	for i := range 12 {
		w := []string{"actor", "soundtrack", "director", "release"}
		list = append(list, fmt.Sprintf("saturn film %s %s", w[i%4], w[(i+1+i/4)%4]))
	}
	if _, err := s.Imports.Take(ctx, n, "list", strings.NewReader(strings.Join(list, "\n"))); err != nil {
		t.Fatal(err)
	}
	b, err := s.Ideas.Table(ctx, n)
	if err != nil {
		t.Fatal(err)
	}
	var ids []uint
	for i := range b.Len() {
		ids = append(ids, b.Table.ID(i))
	}
	j, err := s.Results.LookUp(ctx, n, ids, false)
	if got := studytest.Finish(t, s, j, err); got.Failed > 0 {
		t.Fatalf("%+v", got)
	}
	if _, err := s.Imports.Take(ctx, n, "more", strings.NewReader("saturn film soundtrack vinyl\nsaturn rings "+
		"mug")); err != nil {
		t.Fatal(err)
	}
	if _, err := s.Subjects.Tell(ctx, n); err != nil {
		t.Fatal(err)
	}
	return s, n
}

// off are the phrases that the sieve has off the subject.
func off(t *testing.T, s *study.Study, n niches.Niche) (phrases []string) {
	t.Helper()
	b, err := s.Ideas.Table(ctx, n)
	if err != nil {
		t.Fatal(err)
	}
	for i := range b.Len() {
		if b.Table.Lets(i, sieve.Filter{By: sieve.BySubject, Choice: "off"}) {
			phrases = append(phrases, b.Table.Phrase(i))
		}
	}
	return phrases
}

func id(t *testing.T, s *study.Study, n niches.Niche, phrase string) uint {
	t.Helper()
	b, err := s.Ideas.Table(ctx, n)
	if err != nil {
		t.Fatal(err)
	}
	return studytest.Named(b, phrase)
}

// TestStrays: who stands for the film is somebody else, and says of the idea that is not looked up what it is about.
// What one says holds, can be undone, and the case counts none of them.
func TestStrays(t *testing.T) {
	s, n := saturn(t)
	films := off(t, s, n)
	if len(films) < 12 || !slices.Contains(films, "saturn film soundtrack vinyl") {
		t.Fatalf("off the subject: %q", films)
	}
	for _, phrase := range films {
		if !strings.Contains(phrase, "film") {
			t.Errorf("“%s” is said to be off the subject", phrase)
		}
	}
	found, err := s.Subjects.OnHand(ctx, n)
	parts, said := found.Parts, found.Said
	if err != nil || len(parts) != 1 || len(said) != 0 || found.LookedUp != 112 || !parts[0].Own() ||
		!slices.Contains(parts[0].Words, "film") {
		t.Fatalf("%+v, %+v, %v", parts, said, err)
	}
	for _, stray := range parts[0].Strays {
		if stray.Why == "" || stray.Hand {
			t.Errorf("%+v", stray)
		}
	}
	set, err := s.Case.Settings(ctx, n)
	if err != nil {
		t.Fatal(err)
	}
	before, err := s.Case.Of(ctx, n, set)
	if err != nil {
		t.Fatal(err)
	}
	one := id(t, s, n, films[0])
	if changed, err := s.Subjects.Say(ctx, n, []uint{one}, subject.On); err != nil || changed != 1 {
		t.Fatal(changed, err)
	}
	if now := off(t, s, n); len(now) != len(films)-1 || slices.Contains(now, films[0]) {
		t.Errorf("%q is off the subject", now)
	}
	after, err := s.Case.Of(ctx, n, set)
	if err != nil || after.Topics != before.Topics+1 {
		t.Errorf("%d topics, and %d before: %v", after.Topics, before.Topics, err)
	}
	undone, err := s.Subjects.Undo(ctx, n)
	if err != nil || !strings.HasPrefix(undone.Says, "Marking the subject of “saturn film") {
		t.Errorf("%q, %v", undone.Says, err)
	}
	if now := off(t, s, n); !slices.Equal(now, films) {
		t.Errorf("%q after undoing, before %q", now, films)
	}
}

// TestTheSubjectMayBeTheOther: all of a part are said to be on the subject, and the rest is what strays.
func TestTheSubjectMayBeTheOther(t *testing.T) {
	s, n := saturn(t)
	found, err := s.Subjects.OnHand(ctx, n)
	if err != nil {
		t.Fatal(err)
	}
	var ids []uint
	for _, stray := range found.Parts[0].Strays {
		ids = append(ids, stray.ID)
	}
	if _, err := s.Subjects.Say(ctx, n, ids, subject.On); err != nil {
		t.Fatal(err)
	}
	if now := off(t, s, n); len(now) < 70 || slices.ContainsFunc(now, func(p string) bool {
		return strings.Contains(p,
			"film")
	}) {
		t.Errorf("%d are off the subject: %q", len(now), now)
	}
}

func TestWhatCannotBeSaid(t *testing.T) {
	s, n := studytest.Begin(t, &studytest.Fake{}, nil)
	if says, err := s.Subjects.Tell(ctx, n); err != nil || says != "" {
		t.Error(says, err)
	}
	if _, err := s.Subjects.Say(ctx, n, []uint{77}, subject.Off); err == nil {
		t.Error("an idea that is not there is off the subject")
	}
	if _, err := s.Subjects.Say(ctx, n, nil, 9); err == nil {
		t.Error("a side that there is not is taken")
	}
}
