package watch_test

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"cleverniche/store"
	"cleverniche/study/niches"
	"cleverniche/study/studytest"
)

// BenchmarkPages are 500 phrases with 104 weekly places each; the file's size is told for five years of them.
func BenchmarkPages(b *testing.B) {
	path := filepath.Join(b.TempDir(), "d.db")
	s, st := studytest.Open(b, &studytest.Fake{}, path, nil)
	n, err := s.Niches.Create(ctx, niches.Niche{Name: "Sky", Country: "us", Language: "en", OwnSite: "mine.example"})
	if err != nil {
		b.Fatal(err)
	}
	var lines []string
	for i := range 500 {
		lines = append(lines, fmt.Sprintf("phrase of number %d for the watch", i))
	}
	if _, _, err := s.Watch.Add(ctx, n, "", strings.Join(lines, "\n")); err != nil {
		b.Fatal(err)
	}
	list, err := s.Watch.Pages(ctx, n)
	if err != nil {
		b.Fatal(err)
	}
	above := strings.TrimSuffix(strings.Repeat("some-site-above.example\n", 15), "\n")
	before := size(b, path)
	for w := range 104 {
		at := time.Date(2024, 1, 1, 9, 0, 0, 0, time.UTC).AddDate(0, 0, 7*w)
		for i, p := range list {
			if err := st.SavePosition(ctx, store.Position{WatchedID: p.ID, At: at, Engine: "fake", Place: 1 + (i+w)%60,
				Depth: 100, Page: "http://mine.example/a-page-of-mine", Above: above}); err != nil {
				b.Fatal(err)
			}
		}
	}
	if err := st.Checkpoint(ctx); err != nil {
		b.Fatal(err)
	}
	for b.Loop() {
		if got, err := s.Watch.Pages(ctx, n); err != nil || len(got) != 500 || len(got[0].Line) != 104 {
			b.Fatal(err)
		}
	}
	b.ReportMetric(float64(size(b, path)-before)/104*260/1e6, "MB/5years")
}

func size(b *testing.B, path string) int64 {
	b.Helper()
	info, err := os.Stat(path)
	if err != nil {
		b.Fatal(err)
	}
	return info.Size()
}
