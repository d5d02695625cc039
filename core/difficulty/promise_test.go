package difficulty

import (
	"math"
	"testing"
)

// TestPromise: what is searched less is taken first until relatives tell otherwise; each is taken once.
func TestPromise(t *testing.T) {
	list := []Candidate{{[]string{"star", "chart"}, 2, 5000}, {[]string{"moon", "map"}, 2, 50},
		{[]string{"moon", "map", "old"}, 3, 600}, {[]string{"lens", "cap"}, 2, 900},
		{[]string{"star", "chart", "old"}, 3, 4000}}
	p := NewPromise(list)
	if i, ok := p.Next(); i != 1 || !ok {
		t.Fatalf("first comes %d", i)
	}
	p.Learn(list[1], 95)
	before := p.Expected(4)
	p.Learn(Candidate{[]string{"star", "chart", "pdf"}, 3, 3000}, 4)
	if p.Expected(4) >= before {
		t.Error("an easy relative does not help")
	}
	if i, _ := p.Next(); i == 2 {
		t.Error("a hard relative does not hurt")
	}
	p.Take(2)
	seen := map[int]bool{}
	for {
		i, ok := p.Next()
		if !ok {
			break
		}
		if seen[i] || i == 1 || i == 2 {
			t.Errorf("%d is taken twice", i)
		}
		seen[i] = true
	}
	if len(seen) != 2 || math.IsNaN(p.Expected(0)) {
		t.Errorf("%v", seen)
	}
	if _, ok := NewPromise(nil).Next(); ok {
		t.Error("there is a next of none")
	}
}

// BenchmarkPromise takes a hundred of twenty thousand, learning from each.
func BenchmarkPromise(b *testing.B) {
	var list []Candidate
	words := []string{"star", "moon", "map", "lens", "cap", "old", "chart", "best", "kid", "night"}
	for i := range 20_000 {
		list = append(list, Candidate{[]string{words[i%10], words[i/10%10], words[i/100%10]}, 3, float64(i % 3000)})
	}
	for b.Loop() {
		p := NewPromise(list)
		for range 100 {
			i, _ := p.Next()
			p.Learn(list[i], float64(i%100))
		}
	}
}
