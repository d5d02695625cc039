package web

import (
	"fmt"
	"net/http/httptest"
	"strings"
	"testing"
)

// BenchmarkRows is what a screen of rows takes, and the list with its counts.
func BenchmarkRows(b *testing.B) {
	s := open(b)
	var list strings.Builder
	list.WriteString("phrase,searches,cpc\n")
	for i := range 5000 {
		fmt.Fprintf(&list, "best moon map number %d,%d,%d.%d\n", i, i*7919%4000, i%3, i%100)
	}
	s.add(list.String())
	for _, path := range []string{"/niches/1/sift?words=2&rows=2000", "/niches/1/sift?words=2&searches-from=100",
		"/niches/1/judge", "/niches/1/gather", "/niches/1/ideas/7/drawer"} {
		b.Run(strings.NewReplacer("&", ",", "/", " ").Replace(path[10:]), func(b *testing.B) {
			for b.Loop() {
				r := httptest.NewRequest("GET", path, nil)
				if strings.Contains(path, "?") {
					r.Header.Set("HX-Request", "true")
				}
				s.do(r)
			}
		})
	}
}
