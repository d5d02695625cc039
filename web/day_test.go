package web_test

import (
	"fmt"
	"net/http/httptest"
	"net/url"
	"os"
	"runtime"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"cleverniche/study"
	"cleverniche/study/ask"
	"cleverniche/web/webtest"
)

// TestHardeningDay is a day of work in a minute: the clock runs ahead, and neither memory nor
// goroutines grow (make hardening).
func TestHardeningDay(t *testing.T) {
	if os.Getenv("HARDENING") == "" {
		t.Skip("make hardening")
	}
	var ahead atomic.Int64
	o := webtest.Outside{}
	s := webtest.OpenAt(t, ask.Market{Suggest: o, Demand: o, Search: o, Pages: o, Links: o},
		study.Options{}, func() time.Time { return time.Now().Add(time.Duration(ahead.Load())) })
	var list strings.Builder
	list.WriteString("phrase,searches\n")
	for i := range 3000 {
		fmt.Fprintf(&list, "moon map number %d,%d\n", i, i*7919%4000)
	}
	s.Add(list.String())
	s.Study.Jobs.Watch()
	s.Study.Keep(t.TempDir())
	heap := func() (mb float64, routines int) {
		for range 3 {
			runtime.GC()
		}
		var m runtime.MemStats
		runtime.ReadMemStats(&m)
		return float64(m.HeapAlloc) / 1e6, runtime.NumGoroutine()
	}
	hour := func(k int) {
		for minute := range 60 {
			ahead.Add(int64(time.Minute))
			id := 1 + (k*60+minute)%3000
			s.Get(fmt.Sprintf("/niches/1/sift?words=3&searches-from=%d", minute*k))
			s.Do(httptest.NewRequest("GET", fmt.Sprintf("/niches/1/ideas/%d/drawer", id), nil))
			s.Post("/niches/1/decide", url.Values{"id": {fmt.Sprint(id)}, "decision": {"keep"}, "stage": {"sift"}}, true)
			if minute%20 == 0 {
				s.Post("/niches/1/lookup", url.Values{"id": {fmt.Sprint(id)}}, true)
			}
		}
	}
	for k := range 4 {
		hour(k)
	}
	begun, routines := heap()
	for k := 4; k < 24; k++ {
		hour(k)
	}
	time.Sleep(time.Second) // the last jobs end
	ended, after := heap()
	t.Logf("after 4 hours %.1f MB and %d goroutines, after 24 hours %.1f MB and %d", begun, routines, ended, after)
	if ended > begun*1.5+5 || after > routines+10 {
		t.Error("it grows")
	}
}
