package list_test

import (
	"context"
	"fmt"
	"net/http/httptest"
	"strings"
	"testing"

	"cleverniche/core/sieve"
	"cleverniche/web/webtest"
)

// BenchmarkRows is what a screen of rows takes, and the list with its counts.
func BenchmarkRows(b *testing.B) {
	s := webtest.Open(b)
	var list strings.Builder
	list.WriteString("phrase,searches,cpc\n")
	for i := range 5000 {
		fmt.Fprintf(&list, "best moon map number %d,%d,%d.%d\n", i, i*7919%4000, i%3, i%100)
	}
	s.Add(list.String())
	for _, path := range []string{"/niches/1/sift?words=2&rows=2000", "/niches/1/sift?words=2&searches-from=100",
		"/niches/1/judge", "/niches/1/gather", "/niches/1/ideas/7/drawer"} {
		b.Run(strings.NewReplacer("&", ",", "/", " ").Replace(path[10:]), func(b *testing.B) {
			for b.Loop() {
				r := httptest.NewRequest("GET", path, nil)
				if strings.Contains(path, "?") {
					r.Header.Set("HX-Request", "true")
				}
				s.Do(r)
			}
		})
	}
}

// BenchmarkList serves the sift page of 5,000 ideas.
func BenchmarkList(b *testing.B) {
	s := webtest.Open(b)
	var list strings.Builder
	list.WriteString("phrase,searches,cpc\n")
	for i := range 5000 {
		fmt.Fprintf(&list, "idea number %d of the long list,%d,0.%02d\n", i, i*7%4000, i%100)
	}
	s.Add(list.String())
	b.Run("whole page", func(b *testing.B) {
		for b.Loop() {
			s.Get("/niches/1/sift?words=3&from=100")
		}
	})
	b.Run("list alone", func(b *testing.B) {
		for b.Loop() {
			r := httptest.NewRequest("GET", "/niches/1/sift?from=100", nil)
			r.Header.Set("HX-Request", "true")
			s.Do(r)
		}
	})
	b.Run("drawer", func(b *testing.B) {
		for b.Loop() {
			s.Get("/niches/1/ideas/7/drawer")
		}
	})
	b.Run("after a decision", func(b *testing.B) {
		for i := 0; b.Loop(); i++ {
			s.Study.Ideas.Decide(context.Background(), 1, []uint{uint(1 + i%5000)}, sieve.Decision(1+i%2))
			s.Get("/niches/1/sift?from=100")
		}
	})
}
