package phrase_test

import (
	"fmt"

	"cleverniche/core/phrase"
)

// The same key means: perhaps two wordings of one thing.
func ExampleVariantKey() {
	for _, text := range []string{"Telescopes for Beginners?", "beginner's telescope", "no telescope"} {
		fmt.Printf("%q %q\n", phrase.Normal(text), phrase.VariantKey(phrase.Normal(text), "en"))
	}
	fmt.Println(phrase.Shapes("best moon filter under 50 vs none", "en"))
	// Output:
	// "telescopes for beginners" "beginn telescop"
	// "beginner's telescope" "beginn telescop"
	// "no telescope" "no telescop"
	// [comparison list price preposition]
}
