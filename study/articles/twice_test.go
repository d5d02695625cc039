package articles_test

import (
	"errors"
	"sync"
	"testing"

	"cleverniche/study/input"
	"cleverniche/study/studytest"
)

// TestTwoTabsAddOneArticle: who adds a topic to the plan at the same moment as somebody else adds one article with
// them.
func TestTwoTabsAddOneArticle(t *testing.T) {
	s, n, ids := studytest.Planted(t)
	some := ids["moon map"]
	var wg sync.WaitGroup
	added, refused := make(chan int, 30), make(chan error, 30)
	for range 30 {
		wg.Go(func() {
			names, err := s.Articles.Add(ctx, n, []uint{some})
			if err != nil {
				refused <- err
				return
			}
			added <- len(names)
		})
	}
	wg.Wait()
	close(refused)
	if len(added) != 1 {
		t.Errorf("added %d times", len(added))
	}
	for err := range refused {
		var wrong *input.Error
		if !errors.As(err, &wrong) {
			t.Error(err)
		}
	}
	p, err := s.Articles.Plan(ctx, n)
	if err != nil || len(p.Articles) != 1 || p.Articles[0].Gone {
		t.Errorf("%d articles, %v", len(p.Articles), err)
	}
}
