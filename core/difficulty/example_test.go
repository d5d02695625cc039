package difficulty_test

import (
	"fmt"

	"cleverniche/core/difficulty"
)

// Ten equal results, and a page of mine that is as strong as the goal asks: even odds.
func ExampleModel_Judge() {
	m := difficulty.Calibrated
	var f difficulty.Field
	for range 10 {
		f.Rivals = append(f.Rivals, difficulty.Signals{Page: 30, Site: 50, Fit: 70})
	}
	v := m.Judge(f, difficulty.Mine{SiteStanding: 7, Fit: 85})
	even := m.Chance(f, v.Difficulty, difficulty.TheGoal)
	fmt.Printf("a level of %.1f, as strong as each rival, %.1f\n", v.Level, v.Strengths[0])
	fmt.Printf("a reach as high as the difficulty: %.0f %%\n", 100*even)
	fmt.Println("page one is likelier than the top five:", v.PageOne > v.TopFive)
	// Output:
	// a level of 59.0, as strong as each rival, 59.0
	// a reach as high as the difficulty: 50 %
	// page one is likelier than the top five: true
}
