package plan_test

import (
	"fmt"

	"cleverniche/core/plan"
)

// Ten hours: the two smaller articles bring more than the one that fills them.
func ExampleChoose() {
	topics := []plan.Candidate{
		{Name: "best telescope", Hours: 9, Worth: 100, Hub: plan.NoHub},
		{Name: "see saturn", Hours: 5, Worth: 60, Hub: plan.NoHub},
		{Name: "see mars", Hours: 5, Worth: 55, Hub: plan.NoHub},
	}
	c, err := plan.Choose(topics, 10, plan.Rules{})
	if err != nil {
		panic(err)
	}
	for _, task := range c.Taken {
		fmt.Println(topics[task.Candidate].Name)
	}
	fmt.Println(c.Hours, "hours,", c.Worth)
	// Output:
	// see saturn
	// see mars
	// 10 hours, 115
}
