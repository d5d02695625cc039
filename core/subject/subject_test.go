package subject

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"testing"

	"gonum.org/v1/gonum/mat"
)

// two makes ideas of two subjects that share a word: each has sites of its own, and a third of the ideas one that
// writes on both.
func two(on, off int) (out []Idea) {
	rng := rand.New(rand.NewPCG(3, 3))
	make := func(n int, of string, words []string) {
		for range n {
			one := Idea{LookedUp: true, Words: []string{"saturn"}}
			for _, k := range rng.Perm(len(words))[:3] {
				one.Words = append(one.Words, words[k])
			}
			for _, s := range rng.Perm(30)[:6] {
				one.Sites = append(one.Sites, fmt.Sprint(of, s, ".example"))
			}
			if rng.IntN(3) == 0 {
				one.Sites = append(one.Sites, fmt.Sprint("both", rng.IntN(4), ".example"))
			}
			out = append(out, one)
		}
	}
	make(on, "sky", []string{"ring", "telescop", "moon", "binocular", "tonight", "magnif"})
	make(off, "film", []string{"film", "actor", "soundtrack", "director", "releas"})
	return out
}

func TestStraysByResults(t *testing.T) {
	ideas := two(100, 14)
	for i, told := range Tell(ideas) {
		want := On
		if i >= 100 {
			want = Off
		}
		if told.Side != want || told.By != Results {
			t.Errorf("%d %v: %+v", i, ideas[i].Words, told)
		}
	}
	for i, told := range Tell(two(100, 0)) {
		if told.Side == Off {
			t.Errorf("of one subject %d is %+v", i, told)
		}
	}
	for i, told := range Tell(two(45, 12)) {
		if told.Side != Untold && told.By == Results {
			t.Errorf("too few are looked up, and %d is %+v", i, told)
		}
	}
}

func TestStraysByWords(t *testing.T) {
	ideas := append(two(100, 14), Idea{Words: []string{"saturn", "film", "actor"}}, Idea{Words: []string{"saturn",
		"ring"}},
		Idea{Words: []string{"kettle"}}, Idea{})
	told := Tell(ideas)[114:]
	if told[0].Side != Off || told[0].By != Words || told[0].Part != Tell(ideas)[105].Part || told[0].Word == "" {
		t.Errorf("the film: %+v", told[0])
	}
	if told[1].Side != On || told[1].By != Words {
		t.Errorf("the rings: %+v", told[1])
	}
	if told[2].Side != Untold || told[3].Side != Untold {
		t.Errorf("words that nobody said: %+v", told[2:])
	}
}

// TestWhatSomebodySaidHolds: it is taken as said, half of a part takes the part along, and what is said to be the
// subject is, though it is less.
func TestWhatSomebodySaidHolds(t *testing.T) {
	ideas := two(100, 14)
	ideas[0].Hand, ideas[101].Hand = Off, On
	told := Tell(ideas)
	if told[0].Side != Off || told[0].By != Hand || told[101].Side != On || told[101].By != Hand || told[102].Side != Off {
		t.Errorf("%+v %+v %+v", told[0], told[101], told[102])
	}
	for i := 100; i < 114; i++ {
		ideas[i].Hand = On
	}
	told = Tell(ideas)
	if told[5].Side != Off || told[105].Side != On {
		t.Errorf("the films are my subject: %+v %+v", told[5], told[105])
	}
	for i := range 50 {
		ideas[i].Hand = On
	}
	told = Tell(ideas)
	if told[75].Side != On || told[105].Side != On {
		t.Errorf("both are: %+v %+v", told[30], told[105])
	}
}

// TestOrdersAgainstSVD compares the second vector with that of gonum's singular value decomposition.
func TestOrdersAgainstSVD(t *testing.T) {
	ideas := two(30, 10)
	number, tens := map[string]int32{}, []ten{}
	for _, idea := range ideas {
		var one ten
		for _, s := range idea.Sites {
			if _, is := number[s]; !is {
				number[s] = int32(len(number))
			}
			one = append(one, number[s])
		}
		tens = append(tens, one)
	}
	degree := make([]float64, len(number))
	for _, one := range tens {
		for _, s := range one {
			degree[s]++
		}
	}
	a := mat.NewDense(len(tens), len(degree), nil)
	for i, one := range tens {
		for _, s := range one {
			a.Set(i, int(s), 1/math.Sqrt(float64(len(one))*degree[s]))
		}
	}
	var svd mat.SVD
	if !svd.Factorize(a, mat.SVDThin) {
		t.Fatal("no decomposition")
	}
	var u mat.Dense
	svd.UTo(&u)
	if s := svd.Values(nil); math.Abs(s[0]-1) > 1e-9 {
		t.Fatalf("the first singular value is %g", s[0])
	}
	order := make([]int, len(tens))
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(i, j int) int {
		if u.At(i, 1)/math.Sqrt(float64(len(tens[i]))) < u.At(j, 1)/math.Sqrt(float64(len(tens[j]))) {
			return -1
		}
		return 1
	})
	got := orders(tens, degree)[0]
	if got[0] != order[0] {
		slices.Reverse(got)
	}
	if !slices.Equal(got, order) {
		t.Errorf("%v, and by the decomposition %v", got, order)
	}
}

// TestWordsAgainstTheTextbook is example 13.1 of Manning, Raghavan and Schütze, Introduction to Information Retrieval
// (2008): of three texts on China and one on Japan, which is “Chinese Chinese Chinese Tokyo Japan”?
func TestWordsAgainstTheTextbook(t *testing.T) {
	china := &tally{ideas: 3, words: 8, of: map[string]float64{"chinese": 5, "beijing": 1, "shanghai": 1, "macao": 1}}
	japan := &tally{ideas: 1, words: 3, of: map[string]float64{"chinese": 1, "tokyo": 1, "japan": 1}}
	for _, c := range []struct{ got, want float64 }{{china.says("chinese", 6), 3.0 / 7}, {china.says("tokyo", 6),
		1.0 / 14},
		{japan.says("chinese", 6), 2.0 / 9}, {japan.says("japan", 6), 2.0 / 9}} {
		if math.Abs(math.Exp(c.got)-c.want) > 1e-12 {
			t.Errorf("%g, in the book %g", math.Exp(c.got), c.want)
		}
	}
	odds, word := china.odds([]string{"chinese", "chinese", "chinese", "tokyo", "japan"}, japan, 6)
	want := math.Log(0.75*math.Pow(3.0/7, 3)/14/14) - math.Log(0.25*math.Pow(2.0/9, 5))
	if math.Abs(odds-want) > 1e-12 || odds < 0 || word != "chinese" {
		t.Errorf("odds %g by %s, in the book %g", odds, word, want)
	}
}

func TestStraysOfNothing(t *testing.T) {
	if got := Tell(nil); len(got) != 0 {
		t.Error(got)
	}
	var bare []Idea
	for range 50 {
		bare = append(bare, Idea{LookedUp: true})
	}
	for _, told := range Tell(bare) {
		if told.Side != Untold {
			t.Errorf("%+v", told)
		}
	}
}

func BenchmarkTell(b *testing.B) {
	ideas := two(2800, 200)
	for b.Loop() {
		Tell(ideas)
	}
}
