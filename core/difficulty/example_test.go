package difficulty_test

import (
	"fmt"

	"cleverniche/core/difficulty"
)

// Ten equal results, and a site whose well-made page without links has even odds: its
// standing is the difficulty.
func ExampleModel_Judge() {
	m := difficulty.Calibrated
	var f difficulty.Field
	for range 10 {
		f.Rivals = append(f.Rivals, difficulty.Signals{Page: 30, Site: 40, Fit: 70})
	}
	v := m.Judge(f, difficulty.Mine{SiteStanding: 7, Fit: difficulty.WellMade})
	as := difficulty.Mine{SiteStanding: v.Difficulty, Fit: difficulty.WellMade}
	even := m.Chance(f, m.Strength(as.Signals()), difficulty.TheGoal)
	fmt.Printf("my site's standing, with a well-made page: a reach of %.0f\n", v.Reach)
	fmt.Println("even odds where the reach is the difficulty:", v.Difficulty == 0 || even > 0.499 && even < 0.501)
	fmt.Println("page one is likelier than the top five:", v.PageOne.Mean >= v.TopFive.Mean)
	fmt.Println("no taste gives less than the low end:", v.TopFive.Low <= v.TopFive.Mean)
	// Output:
	// my site's standing, with a well-made page: a reach of 7
	// even odds where the reach is the difficulty: true
	// page one is likelier than the top five: true
	// no taste gives less than the low end: true
}
