package worth_test

import (
	"fmt"

	"cleverniche/core/worth"
)

// Even odds of the first place and of the second, beside an empty page.
func ExampleExpected() {
	v, err := worth.Expected(1000, []float64{0.5, 0.5}, worth.Searches, worth.Beside{})
	if err != nil {
		panic(err)
	}
	fmt.Println(v.Because)
	fmt.Printf("%.1f visits a day in first place\n", worth.VisitsADay(1000))
	// Output:
	// 1000 searches × 14.3 % clicks over all positions × 100 % left beside ads and boxes = 143.1 visits a month
	// 13.8 visits a day in first place
}
