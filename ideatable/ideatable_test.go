package ideatable

import (
	"context"
	"fmt"
	"math"
	"math/rand/v2"
	"os"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"cleverniche/core/demand"
	"cleverniche/core/sieve"
	"cleverniche/store"
)

var ctx = context.Background()

// begin opens an empty data file with a niche.
func begin(t testing.TB) (*store.Store, store.Niche) { return beginAt(t, time.Now) }

func beginAt(t testing.TB, now func() time.Time) (*store.Store, store.Niche) {
	st, err := store.Open(filepath.Join(t.TempDir(), "d.db"), now)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { st.Close() })
	n := store.Niche{Name: "Sky", Country: "US", Language: "en", Currency: "USD", Fit: 85, LinkStanding: 35}
	if err := st.CreateNiche(ctx, &n); err != nil {
		t.Fatal(err)
	}
	return st, n
}

// whole is an idea of which every column is known.
func whole(phrase string) store.Idea {
	now := time.Unix(1_700_000_000, 0).UTC()
	searches, cost, ads := 120, int64(500_000), 0.4
	exact, titles, free := 900, 40, true
	return store.Idea{Phrase: phrase, Words: len(strings.Fields(phrase)), FoundIn: 5, Decision: 1, BranchID: 1,
		DemandAt: &now, DemandSource: "the source", Searches: &searches, Months: "2024-01,3",
		Season: "seasonal", Lasting: "rising", CPCMicros: &cost, Currency: "USD", Competition: &ads,
		PhraseMatch: 3, BroadMatch: 12, JudgedAt: &now, Difficulty: 41.5, Reach: 40, PageOne: 0.5, TopFive: 0.25,
		Footholds: 4, Weakest: 12, LinksNeeded: 3, Locked: false, Intent: 2, Mixed: true,
		ExactPages: &exact, TitlePages: &titles, NameFree: &free, Labels: "to write", Lists: "a list",
		MyPlace: &ads, MyClicks: &titles, MyShown: &exact, Youngest: &ads, Steadiness: &ads, Alike: &ads,
		Range: "10-90", Note: "ask the club", Side: 1, SideWhy: "by its words",
		VariantKey: "map moon", ClickShare: 0.1, ClickShareLow: 0.05, ClickShareHigh: 0.2, Article: "how-to"}
}

func put(t testing.TB, st *store.Store, niche uint, ideas ...store.Idea) {
	finds := make([]store.Find, len(ideas))
	for i, idea := range ideas {
		finds[i] = store.Find{Idea: idea, Origin: store.Origin{Kind: "list", Query: "q"}}
	}
	if _, err := st.AddIdeas(ctx, niche, finds); err != nil {
		t.Fatal(err)
	}
}

// TestEveryFigureIsFed: a figure that does not say why it waits has a feed, which finds
// its value in a row and puts it into its column.
func TestEveryFigureIsFed(t *testing.T) {
	st, n := begin(t)
	row := whole("moon map")
	put(t, st, n.ID, row, store.Idea{Phrase: "bare", Words: 1})
	b, err := New(st, 0).Of(ctx, n)
	if err != nil {
		t.Fatal(err)
	}
	bare := store.Idea{ID: 2, Phrase: "bare", Words: 1}
	row.ID = 1
	always := map[*sieve.Figure]bool{sieve.Phrase: true, sieve.Decided: true, sieve.Length: true, sieve.Found: true,
		sieve.FoundIn: true, sieve.UnderFloor: true}
	for _, f := range sieve.Figures() {
		_, fed := feeds[f]
		if fed != (f.Waits == "" && !f.OfTopics) {
			t.Errorf("%s: fed %v, waits %q", f, fed, f.Waits)
		}
		if fed && !ValueOf(&row, f, 50_000).Known {
			t.Errorf("%s is not known of an idea of which all is", f)
		}
		if ValueOf(&bare, f, 50_000).Known != always[f] {
			t.Errorf("%s of a bare idea: known %v", f, !always[f])
		}
	}
	for filter, passes := range map[string][2]bool{ // the whole idea, the bare one
		"show=kept": {true, false}, "words=2": {true, false}, "searches-from=1&searches-from-unmeasured=yes": {true, true},
		"searches-from=1": {true, false}, "cpc=0.5": {true, false}, "cpc=0.51": {false, false}, "share=25": {true, false},
		"share=26": {false, false}, "season=seasonal": {true, false}, "trend=rising": {true, false},
		"source=letter": {true, false}, "source=list": {false, false}, "judged=yes": {true, false},
		"page-one=50": {true, false}, "top-five=26": {false, false}, "difficulty=42": {true, false},
		"difficulty=41": {false, false}, "footholds=4": {true, false}, "weakest=11": {false, false},
		"branch=“q”": {true, true}, "branch=q": {false, false},
		"links-needed=3": {true, false}, "links-needed=2": {false, false}, "wants=compare": {true, false},
	} {
		var pairs []sieve.Pair
		for _, one := range strings.Split(filter, "&") {
			key, value, _ := strings.Cut(one, "=")
			pairs = append(pairs, sieve.Pair{Key: key, Value: value})
		}
		s, problems := sieve.Read(pairs, sieve.Sieve{})
		if len(problems) > 0 {
			t.Fatal(problems)
		}
		left := b.Table.Pass(s.Filters).Left
		if got := [2]bool{left.Has(0), left.Has(1)}; got != passes {
			t.Errorf("%s lets through %v, not %v", filter, got, passes)
		}
	}
}

// TestWorth is known where the niche says what a visit brings: 120 searches × 0.1 clicks × $0.05 are
// $0.60 a month, in the niche's money whatever the cost per click is in; and another value is
// another worth.
func TestWorth(t *testing.T) {
	st, n := begin(t)
	euros, more := whole("moon map"), whole("star map")
	euros.Currency, more.ClickShare = "EUR", 0.3
	put(t, st, n.ID, euros, more, store.Idea{Phrase: "bare", Words: 1})
	tables := New(st, 0)
	worth := func(n store.Niche) (out []float64) {
		b, err := tables.Of(ctx, n)
		if err != nil {
			t.Fatal(err)
		}
		for at := range 3 {
			x, known := b.Table.Number(at, sieve.Worth)
			if !known {
				x = -1
			}
			out = append(out, x)
		}
		return out
	}
	if got := worth(n); !slices.Equal(got, []float64{-1, -1, -1}) {
		t.Errorf("nobody says what a visit brings, and worth is %v", got)
	}
	n.VisitMicros = 50_000
	if got := worth(n); !slices.Equal(got, []float64{0.6, 1.8, -1}) {
		t.Errorf("worth is %v", got)
	}
	if v := ValueOf(&euros, sieve.Worth, n.VisitMicros); !v.Known || math.Abs(v.Number-0.6) > 1e-9 {
		t.Errorf("the row's worth is %+v", v)
	}
	b, _ := tables.Of(ctx, n)
	if left := b.Table.Pass([]sieve.Filter{sieve.At(sieve.ByRank, 1)}).Left; left.Has(0) || !left.Has(1) {
		t.Error("worth among the first is another idea's")
	}
	n.VisitMicros = 100_000
	if got := worth(n); !slices.Equal(got, []float64{1.2, 3.6, -1}) {
		t.Errorf("with twice the value worth is %v", got)
	}
}

// TestAnotherCurrencyIsNotCompared with the niche's.
func TestAnotherCurrencyIsNotCompared(t *testing.T) {
	st, n := begin(t)
	other := whole("moon map")
	other.Currency = "EUR"
	put(t, st, n.ID, other, whole("star map"))
	tables := New(st, 0)
	dear := []sieve.Filter{sieve.At(sieve.ByCost, 0.1)}
	b, _ := tables.Of(ctx, n)
	if left := b.Table.Pass(dear).Left; left.Has(0) || !left.Has(1) {
		t.Error("euros are compared with dollars")
	}
	n.Currency = "EUR"
	if b, _ = tables.Of(ctx, n); !b.Table.Pass(dear).Left.Has(0) || b.Table.Pass(dear).Left.Has(1) {
		t.Error("the table keeps to the old currency")
	}
	if v := ValueOf(&other, sieve.CPC, 0); !v.Known || v.Number != 0.5 {
		t.Errorf("the row's cost is %+v", v)
	}
}

// TestFollowsTheStore: only a change makes another table, whoever makes it.
func TestFollowsTheStore(t *testing.T) {
	st, n := begin(t)
	tables := New(st, 0)
	put(t, st, n.ID, whole("moon map"), whole("star map"))
	first, err := tables.Of(ctx, n)
	if err != nil || first.Table.Len() != 2 {
		t.Fatal(first, err)
	}
	put(t, st, n.ID, whole("moon map")) // the same again
	if same, _ := tables.Of(ctx, n); same.Table != first.Table || same.Revision != first.Revision {
		t.Error("an import that alters nothing makes another table")
	}
	st.Decide(ctx, n.ID, []uint{2}, 2, "b")
	after, _ := tables.Of(ctx, n)
	dropped := []sieve.Filter{sieve.OnlyDecided(sieve.Dropped)}
	if after.Revision <= first.Revision || after.Table.Pass(dropped).Count != 1 || first.Table.Pass(dropped).Count != 0 {
		t.Error("a decision is not followed, or shows in the old table")
	}
	if again, _ := tables.Of(ctx, n); again.Table != after.Table {
		t.Error("a table is made anew though nothing changed")
	}
	if _, err := tables.Of(ctx, store.Niche{ID: 99}); err == nil {
		t.Error("a niche that is not there has a table")
	}
	if tables.Len() != 1 {
		t.Errorf("%d tables are held", tables.Len())
	}
}

func TestBoardsNotUsedAreLetGo(t *testing.T) {
	now := time.Unix(0, 0)
	st, n := beginAt(t, func() time.Time { return now })
	other := n
	other.ID, other.Name = 0, "Other"
	st.CreateNiche(ctx, &other)
	tables := New(st, time.Minute)
	tables.Of(ctx, n)
	now = now.Add(50 * time.Second)
	if tables.Of(ctx, other); tables.Len() != 2 {
		t.Error("a table that was asked for lately is let go")
	}
	now = now.Add(50 * time.Second)
	if tables.Of(ctx, other); tables.Len() != 1 {
		t.Errorf("%d tables are held", tables.Len())
	}
}

// TestManyAskAtOnce: they get one table each time, and what is written in between.
func TestManyAskAtOnce(t *testing.T) {
	st, n := begin(t)
	tables := New(st, 0)
	var wg sync.WaitGroup
	for w := range 6 {
		wg.Go(func() {
			for i := range 20 {
				put(t, st, n.ID, store.Idea{Phrase: fmt.Sprintf("idea %d of %d", i, w), Words: 4})
				b, err := tables.Of(ctx, n)
				if err != nil {
					t.Error(err)
					return
				}
				if _, ok := b.Table.Matching(fmt.Sprintf("idea %d of %d", i, w)); !ok {
					t.Error("what was written is not on the table")
				}
			}
		})
	}
	wg.Wait()
	if b, _ := tables.Of(ctx, n); b.Table.Len() != 120 {
		t.Errorf("%d ideas", b.Table.Len())
	}
}

// million is a data file of a million ideas with four years of months, made once.
func million(b *testing.B) (*store.Store, store.Niche) {
	path := filepath.Join(os.TempDir(), "cleverniche-million.db")
	_, missing := os.Stat(path)
	st, err := store.Open(path, time.Now)
	if err != nil {
		b.Fatal(err)
	}
	b.Cleanup(func() { st.Close() })
	if missing == nil {
		n, err := st.Niche(ctx, 1)
		if err != nil {
			b.Fatal(err)
		}
		return st, n
	}
	n := store.Niche{Name: "Sky", Country: "US", Language: "en", Currency: "USD", Fit: 85, LinkStanding: 35}
	if err := st.CreateNiche(ctx, &n); err != nil {
		b.Fatal(err)
	}
	rng := rand.New(rand.NewPCG(1, 2))
	said := strings.Fields("best how to find see moon star telescope with for binoculars under dark quiet review")
	now := time.Now().UTC()
	for from := 0; from < 1_000_000; from += 20_000 {
		finds := make([]store.Find, 20_000)
		for i := range finds {
			var words []string
			for range 2 + rng.IntN(5) {
				words = append(words, said[rng.IntN(len(said))])
			}
			phrase := fmt.Sprintf("%s %d", strings.Join(words, " "), from+i)
			searches, cost, ads := rng.IntN(5000), int64(rng.IntN(4_000_000)), rng.Float64()
			var s demand.Series
			for m := range 48 {
				s.Counts = append(s.Counts, demand.Count{Month: demand.Month(24264 + m), Searches: rng.IntN(3000)})
			}
			finds[i] = store.Find{Origin: store.Origin{Kind: "letter", Query: "q", Seed: "q"}, Idea: store.Idea{Phrase: phrase,
				Words: len(words) + 1, VariantKey: phrase, FoundIn: 4, DemandAt: &now, DemandSource: "the demand service",
				Searches: &searches, Months: store.EncodeMonths(s), Season: "none", Lasting: "evergreen", CPCMicros: &cost,
				Currency: "USD", Competition: &ads, PhraseMatch: searches, BroadMatch: 3 * searches}}
		}
		if _, err := st.AddIdeas(ctx, n.ID, finds); err != nil {
			b.Fatal(err)
		}
	}
	return st, n
}

var view = []sieve.Filter{sieve.NotDropped(), sieve.At(sieve.ByLength, 3), sieve.At(sieve.ByLeastSearches, 100),
	sieve.At(sieve.ByMostSearches, 4900), sieve.Holding(sieve.ByLacking, "review"), sieve.At(sieve.ByCost, 0.2)}

// BenchmarkMillion opens the table of a million ideas, and with it open keeps one and
// makes the next view: its counts, its first hundred in order, and their rows. Reported
// are the memory that the table holds, and the most that the heap had on the way.
func BenchmarkMillion(b *testing.B) {
	st, n := million(b)
	b.Run("open", func(b *testing.B) {
		for b.Loop() {
			runtime.GC()
			most := watchHeap()
			table, err := New(st, 0).Of(ctx, n)
			if err != nil || table.Table.Len() != 1_000_000 {
				b.Fatal(err)
			}
			b.StopTimer()
			table.Table.Ready() // words come after the table, and are part of what it holds
			b.ReportMetric(float64(most())/1e6, "MB-most")
			runtime.GC()
			var m runtime.MemStats
			runtime.ReadMemStats(&m)
			b.ReportMetric(float64(m.HeapAlloc)/1e6, "MB-held")
			runtime.KeepAlive(table)
			b.StartTimer()
		}
	})
	b.Run("keep and view", func(b *testing.B) {
		tables := New(st, 0)
		first, err := tables.Of(ctx, n)
		if err != nil {
			b.Fatal(err)
		}
		first.Table.Pass(view)
		for i := 0; b.Loop(); i++ {
			id := uint(1 + i*7919%1_000_000)
			if _, err := st.Decide(ctx, n.ID, []uint{id}, int8(1+i%2), fmt.Sprint("b", i)); err != nil {
				b.Fatal(err)
			}
			table, err := tables.Of(ctx, n)
			if err != nil {
				b.Fatal(err)
			}
			res := table.Table.Pass(view)
			var ids []uint
			for _, at := range table.Table.Top(res.Left, sieve.Searches, true, 0, 100) {
				ids = append(ids, table.Table.ID(at))
			}
			if rows, err := st.Ideas(ctx, n.ID, ids); err != nil || len(rows) != 100 {
				b.Fatal(err)
			}
		}
	})
}

// watchHeap looks at the heap every few milliseconds until it is asked for the most.
func watchHeap() func() uint64 {
	done, most := make(chan struct{}), make(chan uint64)
	go func() {
		var top uint64
		for {
			select {
			case <-done:
				most <- top
				return
			case <-time.After(5 * time.Millisecond):
				var m runtime.MemStats
				runtime.ReadMemStats(&m)
				top = max(top, m.HeapAlloc)
			}
		}
	}()
	return func() uint64 { close(done); return <-most }
}
