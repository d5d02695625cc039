package topic_test

import (
	"fmt"

	"cleverniche/core/topic"
)

// Two wordings with the same results are one article; one with others is its own.
func ExampleGroup() {
	pages := topic.Numbers{}
	idea := func(phrase string, searches float64, urls ...string) topic.Idea {
		return pages.Found(phrase, "en", searches, urls, make([]string, len(urls)))
	}
	ideas := []topic.Idea{
		idea("telescope for beginners", 900, "a", "b", "c", "d", "e", "f"),
		idea("beginner telescope", 400, "a", "b", "c", "d", "e", "g"),
		idea("clean a mirror", 200, "u", "v", "w", "x", "y", "z"),
	}
	for _, t := range topic.ByResults(ideas, topic.Shared) {
		fmt.Println(ideas[t.Lead()].Phrase, len(t.Members))
	}
	// Output:
	// telescope for beginners 2
	// clean a mirror 1
}

// A division that agrees with the truth has 1, one that only chance explains about 0.
func ExampleAdjustedRand() {
	truth := []int{0, 0, 0, 1, 1, 1}
	fmt.Printf("%.2f %.2f\n", topic.AdjustedRand(truth, []int{7, 7, 7, 3, 3, 3}),
		topic.AdjustedRand(truth, []int{0, 0, 1, 1, 2, 2}))
	// Output: 1.00 0.24
}
