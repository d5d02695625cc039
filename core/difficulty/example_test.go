package difficulty_test

import (
	"fmt"

	"cleverniche/core/difficulty"
)

// Ten equal results, and a site whose well-made page without links has a 50% chance: its
// standing is the difficulty.
func ExampleModel_Judge() {
	m := difficulty.Calibrated
	var f difficulty.Field
	for range 10 {
		f.Rivals = append(f.Rivals, difficulty.Signals{Page: 30, Site: 40, Title: 70, Text: 80, Kind: 100})
	}
	v := m.Judge(f, difficulty.Mine{SiteStanding: 7, Fit: difficulty.WellMade})
	as := difficulty.Mine{SiteStanding: v.Difficulty, Fit: difficulty.WellMade}
	even := m.Chance(f, m.Signals(as), difficulty.TheGoal)
	fmt.Printf("my site's standing, with a well-made page: a reach of %.0f\n", v.Reach)
	fmt.Println("50% where the reach is the difficulty:", v.Difficulty == 0 || even > 0.499 && even < 0.501)
	fmt.Println("page one is likelier than the top five:", v.PageOne.Mean >= v.TopFive.Mean)
	fmt.Println("the mean lies in the range:", v.TopFive.Low <= v.TopFive.Mean && v.TopFive.Mean <= v.TopFive.High)
	// Output:
	// my site's standing, with a well-made page: a reach of 7
	// 50% where the reach is the difficulty: true
	// page one is likelier than the top five: true
	// the mean lies in the range: true
}
