package subject

import (
	"maps"
	"slices"
)

// parts falls the ideas apart, again and again while one hardly hangs together with the rest.
func parts(tens []ten, words [][]string, sites int) []int {
	part := make([]int, len(tens))
	all := make([]int, len(tens))
	for i := range all {
		all[i] = i
	}
	queue, next := [][]int{all}, 1
	for len(queue) > 0 {
		group := queue[0]
		queue = queue[1:]
		if len(group) < 2*fewest {
			continue
		}
		some := make([]ten, len(group))
		for k, i := range group {
			some[k] = tens[i]
		}
		var a, b []int
		most := apart
		for _, c := range cuts(some, sites) {
			in := make([]bool, len(group))
			for _, k := range c.side {
				in[k] = true
			}
			var x, y []int
			for k, i := range group {
				if in[k] {
					x = append(x, i)
				} else {
					y = append(y, i)
				}
			}
			if odd := novel(words, x, y) - c.conductance - small/float64(len(x)); odd >= most {
				a, b, most = x, y, odd
			}
		}
		if a == nil {
			continue
		}
		for _, i := range a {
			part[i] = next
		}
		next++
		queue = append(queue, a, b)
	}
	return part
}

// settle gives each idea to the part whose sites it shares most, its own places left out.
func settle(tens []ten, part []int, sites int) []int {
	for range 3 {
		all, count := make([]float64, sites), map[int][]float64{}
		for i, t := range tens {
			if count[part[i]] == nil {
				count[part[i]] = make([]float64, sites)
			}
			for _, s := range t {
				all[s]++
				count[part[i]][s]++
			}
		}
		next, moved := slices.Clone(part), false
		order := slices.Sorted(maps.Keys(count))
		for i, t := range tens {
			best, most := part[i], 0.0
			for _, p := range order {
				sum := 0.0
				for _, s := range t {
					n := count[p][s]
					if p == part[i] {
						n--
					}
					if all[s] > 1 {
						sum += n / (all[s] - 1)
					}
				}
				if sum > most+1e-9 || sum > most-1e-9 && p == part[i] && sum > 0 {
					best, most = p, sum
				}
			}
			if best != part[i] {
				next[i], moved = best, true
			}
		}
		if part = next; !moved {
			break
		}
	}
	return part
}

// verified takes parts back to the largest that do not stand apart from it, as they are by now.
func verified(tens []ten, words [][]string, part []int, sites int) []int {
	in := map[int][]int{}
	for i, p := range part {
		in[p] = append(in[p], i)
	}
	most := 0
	for p, list := range in {
		if len(list) > len(in[most]) || len(list) == len(in[most]) && p < most {
			most = p
		}
	}
	out := slices.Clone(part)
	for p, list := range in {
		if p == most {
			continue
		}
		if novel(words, list, in[most])-conductance(tens, list, in[most], sites)-small/float64(len(list)) < apart {
			for _, i := range list {
				out[i] = most
			}
		}
	}
	return out
}

// conductance is the share of the ties of some ideas that lead to others, of these two lists.
func conductance(tens []ten, of, others []int, sites int) float64 {
	here, all := make([]float64, sites), make([]float64, sites)
	for _, i := range of {
		for _, s := range tens[i] {
			here[s]++
			all[s]++
		}
	}
	for _, i := range others {
		for _, s := range tens[i] {
			all[s]++
		}
	}
	across, ties := 0.0, 0.0
	for s, n := range here {
		if n > 0 {
			across += n * (all[s] - n) / all[s]
			ties += n * (all[s] - 1) / all[s]
		}
	}
	if ties < fewestTies {
		return 1
	}
	return across / ties
}

// novel is the share of the words of some ideas that are hardly heard among others.
func novel(words [][]string, of, among []int) float64 {
	a, b := map[string]float64{}, map[string]float64{}
	for _, i := range of {
		for _, w := range words[i] {
			a[w]++
		}
	}
	for _, i := range among {
		for _, w := range words[i] {
			b[w]++
		}
	}
	unheard, all := 0.0, 0.0
	for w, n := range a {
		all += n
		if b[w]*float64(len(of)) < hardly*n*float64(len(among)) {
			unheard += n
		}
	}
	if all == 0 {
		return 0
	}
	return unheard / all
}
