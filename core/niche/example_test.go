package niche_test

import (
	"fmt"

	"cleverniche/core/demand"
	"cleverniche/core/niche"
)

// Two candidates on the same bars: one has sixty easy topics, the other three.
func ExampleCompare() {
	candidate := func(name string, topics int) niche.Niche {
		n := niche.Niche{Name: name, Ideas: 3 * topics}
		for i := range topics {
			n.Topics = append(n.Topics, niche.Topic{Lead: fmt.Sprint(name, " ", i), Ideas: 3, Searches: 700, Judged: true,
				Difficulty: 15, Reach: 8, Footholds: 4, CPC: -1, Lasting: demand.Evergreen})
		}
		return n
	}
	cases, err := niche.Compare([]niche.Niche{candidate("astronomy", 60), candidate("letterpress", 3)}, niche.Default)
	if err != nil {
		panic(err)
	}
	for _, c := range cases {
		for _, a := range c.Answers[:3] {
			fmt.Printf("%s: %s %s\n", c.Niche, a.Question, a.Verdict)
		}
	}
	// Output:
	// astronomy: Can I get in? yes
	// astronomy: Is it searched? yes
	// astronomy: Is there enough to write? yes
	// letterpress: Can I get in? no
	// letterpress: Is it searched? no
	// letterpress: Is there enough to write? no
}
