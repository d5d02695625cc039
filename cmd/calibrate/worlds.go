package main

import (
	"slices"

	"cleverniche/standin"
)

// The worlds that may be calibrated on: none that anything is measured on.
const (
	firstCandidate = 51
	lastCandidate  = 250
)

// strataOfLeanings is into how many equal parts each leaning is cut when worlds are chosen.
const strataOfLeanings = 6

// spreadOut are n worlds whose engines lean all ways evenly: each leaning is cut into parts in which equally many of
// the candidates lie, and worlds are taken one by one, each time the one whose parts have been taken least (a greedy
// Latin hypercube; McKay, Beckman & Conover 1979). A few worlds drawn as they come are a few draws only.
func spreadOut(n int) []int {
	var numbers []int
	parts := map[int][]int{} // by world: the part of each leaning
	for number := firstCandidate; number <= lastCandidate; number++ {
		numbers = append(numbers, number)
	}
	for dimension := range standin.Leanings(firstCandidate) {
		order := slices.Clone(numbers)
		slices.SortStableFunc(order, func(a, b int) int {
			x, y := standin.Leanings(a)[dimension], standin.Leanings(b)[dimension]
			switch {
			case x < y:
				return -1
			case x > y:
				return 1
			}
			return 0
		})
		for i, number := range order {
			parts[number] = append(parts[number], i*strataOfLeanings/len(order))
		}
	}
	taken := make([][strataOfLeanings]int, len(parts[firstCandidate]))
	var out []int
	for range n {
		best, least := 0, 0
		for _, number := range numbers {
			if slices.Contains(out, number) {
				continue
			}
			cost := 0
			for dimension, part := range parts[number] {
				cost += 2*taken[dimension][part] + 1 // of the sum of squares
			}
			if best == 0 || cost < least {
				best, least = number, cost
			}
		}
		for dimension, part := range parts[best] {
			taken[dimension][part]++
		}
		out = append(out, best)
	}
	slices.Sort(out)
	return out
}
