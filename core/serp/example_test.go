package serp_test

import (
	"fmt"

	"cleverniche/core/serp"
)

// Two lists of results, the first place changed: rank-biased overlap looks at the top
// most (Webber, Moffat & Zobel 2010).
func ExampleRBO() {
	was := []string{"a", "b", "c", "d"}
	fmt.Printf("%.2f\n", serp.RBO(was, was, 0.9))
	fmt.Printf("%.2f\n", serp.RBO(was, []string{"b", "a", "c", "d"}, 0.9))
	fmt.Printf("%.2f\n", serp.RBO(was, []string{"w", "x", "y", "z"}, 0.9))
	// Output:
	// 1.00
	// 0.90
	// 0.00
}

// Where every place is another site's, nobody holds the niche.
func ExampleConcentration() {
	index, share := serp.Concentration([]string{"a.example", "b.example", "a.example", "c.example"})
	fmt.Printf("%.3f %.2f\n", index, share["a.example"])
	// Output: 0.375 0.50
}
