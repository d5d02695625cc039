package intent_test

import (
	"fmt"

	"cleverniche/core/intent"
)

func ExampleFromWords() {
	for _, phrase := range []string{"how to find saturn", "best telescope for beginners", "buy moon filter"} {
		w := intent.FromWords(phrase, "en")
		fmt.Printf("%s: %s, %s\n", phrase, w.Shares.Leading(), w.Shares.Leading().Standard())
	}
	// Output:
	// how to find saturn: Learn, informational
	// best telescope for beginners: Compare, commercial investigation
	// buy moon filter: Buy, transactional
}
