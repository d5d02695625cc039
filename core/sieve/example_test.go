package sieve_test

import (
	"fmt"

	"cleverniche/core/sieve"
)

// A sieve read from an address, over three ideas.
func ExampleRead() {
	s, problems := sieve.Read([]sieve.Pair{{Key: "words", Value: "3"}, {Key: "lacks", Value: "jobs, login"}},
		sieve.Sieve{})
	fmt.Println(len(problems), s.Filters[0], "|", s.Filters[1])
	table := sieve.NewTable("en", []sieve.Idea{
		sieve.Unmeasured(1, "best moon map", 3), sieve.Unmeasured(2, "moon", 1), sieve.Unmeasured(3, "moon map jobs", 3)})
	res := table.Pass(s.Filters)
	for _, step := range res.Steps {
		fmt.Printf("%s: %d left, it took %d, alone it would take %d\n", step.Filter, step.Left, step.Removed, step.Alone)
	}
	at, _ := table.Matching("moon map jobs")
	fmt.Println("why not:", s.Filters[table.Stops(at, s.Filters)[0]])
	// Output:
	// 0 words at least 3 | contains none of jobs, login
	// words at least 3: 2 left, it took 1, alone it would take 1
	// contains none of jobs, login: 1 left, it took 1, alone it would take 1
	// why not: contains none of jobs, login
}
