package store

import (
	"fmt"
	"io"
	"testing"
)

// BenchmarkWriteWhole writes a niche of 60,000 ideas to a file.
func BenchmarkWriteWhole(b *testing.B) {
	s, n := open(b)
	for i := 0; i < 60_000; i += 1000 {
		var many []Find
		for k := range 1000 {
			many = append(many, finds(fmt.Sprint("what is the best star chart number ", i+k))...)
		}
		if _, err := s.AddIdeas(ctx, n.ID, many); err != nil {
			b.Fatal(err)
		}
	}
	b.ResetTimer()
	for b.Loop() {
		if err := s.WriteWhole(ctx, n.ID, "page", io.Discard); err != nil {
			b.Fatal(err)
		}
	}
}
