package store

import (
	"context"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"reflect"
	"slices"
	"strings"
	"testing"
	"time"
)

// rivalsAt is a data file with rivals that rank for so many phrases each, of which many are shared.
func rivalsAt(t testing.TB, rivals, phrases int) (s *Store, niche uint, list []Rival, path string) {
	path = filepath.Join(t.TempDir(), "d.db")
	s, err := Open(path, time.Now)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { s.Close() })
	ctx := context.Background()
	n := Niche{Name: "Sky", Country: "US", Language: "en"}
	if err := s.CreateNiche(ctx, &n); err != nil {
		t.Fatal(err)
	}
	rng := rand.New(rand.NewPCG(1, 2))
	words := strings.Fields("star moon chart map best telescope for beginners how to find saturn rings cheap review kit")
	for r := range rivals {
		site := fmt.Sprintf("rival%d.example", r)
		var rows []RivalPhrase
		seen := map[string]bool{}
		for len(rows) < phrases {
			text := fmt.Sprintf("%s %s %s %d", words[rng.IntN(len(words))], words[rng.IntN(len(words))],
				words[rng.IntN(len(words))], rng.IntN(phrases/1000+3))
			if seen[text] {
				continue
			}
			seen[text] = true
			searches, visits := rng.IntN(5000), rng.Float64()*100
			row := RivalPhrase{Phrase: text, Place: 1 + rng.IntN(100),
				Page: fmt.Sprintf("%s/%s/%s-%d", site, words[rng.IntN(5)], words[rng.IntN(len(words))], rng.IntN(phrases/8+1))}
			if rng.IntN(20) > 0 {
				row.Searches, row.Visits = &searches, &visits
			}
			rows = append(rows, row)
		}
		for part := range slices.Chunk(rows, 1000) {
			if _, err := s.SaveRanks(ctx, Rival{NicheID: n.ID, Site: site, Total: phrases}, part); err != nil {
				t.Fatal(err)
			}
		}
	}
	list, err = s.Rivals(ctx, n.ID)
	if err != nil || len(list) != rivals {
		t.Fatal(list, err)
	}
	return s, n.ID, list, path
}

// TestRanksSift holds filters, order, sections, gaps and counts against the same said plainly in Go over the same rows.
func TestRanksSift(t *testing.T) {
	s, niche, list, _ := rivalsAt(t, 3, 400)
	ctx := context.Background()
	all := map[uint]map[string]RivalPhrase{}
	for _, r := range list {
		rows, total, err := s.Ranks(ctx, r, Ranked{Limit: 1000})
		if err != nil || total != 400 || len(rows) != 400 {
			t.Fatal(total, len(rows), err)
		}
		all[r.ID] = map[string]RivalPhrase{}
		for _, row := range rows {
			all[r.ID][row.Phrase] = row.RivalPhrase
		}
	}
	word := func(p, w string) bool { return slices.Contains(strings.Fields(p), w) }
	for i, c := range []struct {
		f    Ranked
		pass func(RivalPhrase) bool
	}{
		{Ranked{Contains: []string{"moon"}}, func(p RivalPhrase) bool { return word(p.Phrase, "moon") }},
		{Ranked{Lacks: []string{"moon"}, PlaceTo: 10}, func(p RivalPhrase) bool {
			return !word(p.Phrase, "moon") && p.Place <= 10
		}},
		{Ranked{Starts: "best", SearchesFrom: 100}, func(p RivalPhrase) bool {
			return strings.HasPrefix(p.Phrase, "best ") && p.Searches != nil && *p.Searches >= 100
		}},
		{Ranked{PlaceFrom: 11, SearchesTo: 1000}, func(p RivalPhrase) bool {
			return p.Place >= 11 && p.Searches != nil && *p.Searches <= 1000
		}},
		{Ranked{Contains: []string{"%"}}, func(RivalPhrase) bool { return false }},
		{Ranked{Page: list[0].Site + "/moon/"}, func(p RivalPhrase) bool {
			return strings.HasPrefix(p.Page, list[0].Site+"/moon/")
		}},
	} {
		want := 0
		for _, p := range all[list[0].ID] {
			if c.pass(p) {
				want++
			}
		}
		c.f.Limit = 1000
		rows, total, err := s.Ranks(ctx, list[0], c.f)
		if err != nil || total != want || len(rows) != want {
			t.Errorf("%d: %d and %d, not %d, %v", i, total, len(rows), want, err)
		}
		for _, row := range rows {
			if !c.pass(row.RivalPhrase) {
				t.Errorf("%d lets %+v through", i, row)
			}
		}
	}
	sections, err := s.Sections(ctx, list[0], "", 50)
	want := map[string]int{}
	for _, p := range all[list[0].ID] {
		parts := strings.SplitN(p.Page, "/", 3)
		want[parts[0]+"/"+parts[1]+"/"]++
	}
	got := map[string]int{}
	for _, sec := range sections {
		got[sec.Page] = sec.Phrases
	}
	if err != nil || !reflect.DeepEqual(got, want) {
		t.Errorf("sections %v, not %v, %v", got, want, err)
	}
	theirs, both, own := 0, 0, 0
	phrases := map[string]bool{}
	for _, r := range list {
		for p := range all[r.ID] {
			phrases[p] = true
		}
	}
	gaps, deep := 0, 0
	for p := range phrases {
		_, a := all[list[0].ID][p]
		_, b := all[list[1].ID][p]
		mine, m := all[list[2].ID][p]
		switch {
		case (a || b) && m:
			both++
		case a || b:
			theirs++
		case m:
			own++
		}
		best := 1000
		for _, r := range list[:2] {
			if x, is := all[r.ID][p]; is {
				best = min(best, x.Place)
			}
		}
		if best < 1000 && (!m || mine.Place >= best+10) {
			gaps++
			if m {
				deep++
			}
		}
	}
	gotT, gotB, gotO, err := s.Shares(ctx, niche, []uint{list[0].ID, list[1].ID}, list[2].ID)
	if err != nil || gotT != theirs || gotB != both || gotO != own || both == 0 {
		t.Errorf("shares %d, %d, %d, not %d, %d, %d, %v", gotT, gotB, gotO, theirs, both, own, err)
	}
	rows, total, err := s.Gaps(ctx, niche, []uint{list[0].ID, list[1].ID}, list[2].ID, 1, 10, Ranked{Limit: 1000})
	gotDeep := 0
	for _, g := range rows {
		if g.Mine > 0 {
			gotDeep++
		}
		if at := all[g.Rival][g.Phrase]; at.Place != g.Best || at.Page != g.Page || g.MyPage !=
			all[list[2].ID][g.Phrase].Page {
			t.Errorf("%+v stands at %+v", g, at)
		}
	}
	if err != nil || total != gaps || len(rows) != gaps || gotDeep != deep {
		t.Errorf("%d gaps, %d of them below, not %d and %d, %v", total, gotDeep, gaps, deep, err)
	}
}

// TestFollowAndForget: following stays while places come and go; a second answer takes the place of the first.
func TestFollowAndForget(t *testing.T) {
	s, niche, _, _ := rivalsAt(t, 1, 20)
	ctx := context.Background()
	if err := s.Follow(ctx, niche, "rival0.example", true); err != nil {
		t.Fatal(err)
	}
	r, _ := s.RivalOf(ctx, niche, "rival0.example")
	one := RivalPhrase{Phrase: "moon map", Place: 3, Page: "rival0.example/"}
	for i, want := range []int{1, 0} {
		one.Place += i
		if added, err := s.SaveRanks(ctx, Rival{NicheID: niche, Site: r.Site, Source: "x", Total: 21},
			[]RivalPhrase{one}); err != nil || added != want {
			t.Errorf("%d added, %v", added, err)
		}
	}
	now, err := s.RivalOf(ctx, niche, r.Site)
	rows, total, _ := s.Ranks(ctx, now, Ranked{Contains: []string{"moon", "map"}, Starts: "moon map", Limit: 5})
	if err != nil || now.ID != r.ID || !now.Followed || now.Total != 21 || total != 1 || rows[0].Place != 4 {
		t.Errorf("%+v, %+v, %v", now, rows, err)
	}
	if err := s.ForgetRanks(ctx, niche, r.Site); err != nil {
		t.Fatal(err)
	}
	now, _ = s.RivalOf(ctx, niche, r.Site)
	if _, total, _ := s.Ranks(ctx, now, Ranked{Limit: 5}); total != 0 || !now.Followed || now.Total != 0 {
		t.Errorf("%+v has %d phrases", now, total)
	}
}

// BenchmarkRivals: a rival of 350,000 phrases, and the gap over five of 50,000.
func BenchmarkRivals(b *testing.B) {
	ctx := context.Background()
	s, _, list, path := rivalsAt(b, 1, 350_000)
	s.db.Exec("PRAGMA wal_checkpoint(TRUNCATE)")
	info, err := os.Stat(path)
	if err != nil {
		b.Fatal(err)
	}
	perPhrase := float64(info.Size()) / 350_000
	for name, f := range map[string]Ranked{"first": {Limit: 100}, "sifted": {Contains: []string{"moon"}, PlaceTo: 20,
		Order: "searches", Limit: 100}, "new": {New: true, Starts: "best", Limit: 100}} {
		b.Run(name, func(b *testing.B) {
			for b.Loop() {
				if _, _, err := s.Ranks(ctx, list[0], f); err != nil {
					b.Fatal(err)
				}
			}
			b.ReportMetric(perPhrase, "bytes/phrase")
		})
	}
	b.Run("sections", func(b *testing.B) {
		for b.Loop() {
			s.Sections(ctx, list[0], "", 50)
		}
	})
	g, niche, five, _ := rivalsAt(b, 6, 50_000)
	var ids []uint
	for _, r := range five[:5] {
		ids = append(ids, r.ID)
	}
	b.Run("gap", func(b *testing.B) {
		for b.Loop() {
			if _, _, err := g.Gaps(ctx, niche, ids, five[5].ID, 1, 10, Ranked{Limit: 100}); err != nil {
				b.Fatal(err)
			}
		}
	})
}

// TestErasedWithItsNiche: what rivals rank for goes with the niche, some at a time.
func TestErasedWithItsNiche(t *testing.T) {
	s, niche, _, _ := rivalsAt(t, 2, 1500)
	ctx := context.Background()
	if err := s.DeleteNiche(ctx, niche, true); err != nil {
		t.Fatal(err)
	}
	if err := s.EraseNiche(ctx, niche); err != nil {
		t.Fatal(err)
	}
	var left int
	err := s.db.Raw("SELECT (SELECT count(*) FROM rival_phrases) + (SELECT count(*) FROM rivals)").Scan(&left).Error
	if err != nil || left != 0 {
		t.Errorf("%d rows are left, %v", left, err)
	}
}
