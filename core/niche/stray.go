package niche

import (
	"fmt"
	"math"
	"slices"
	"strings"
)

// Kin is a topic with the sites of its results, by which subjects are told apart: who writes of one thing seldom writes of
// the other.
type Kin struct {
	Lead  string
	Sites []string // each once
}

// Stray is whether a topic is about something else than most of its niche.
type Stray struct {
	Off     bool
	Group   int // of strays that hang together, from 1; 0 it is none
	Because string
}

// sameSubject is how alike the sites of two topics are for them to be of one subject, as a cosine of sites weighted by how
// few topics they stand for (Salton and Buckley, Term-weighting approaches in automatic text retrieval, 1988); found on the
// stand-in's worlds 51 to 54, see cmd/calibrate case.
const sameSubject = 0.12

// fewForSubject is of how many topics with results a subject is told.
const fewForSubject = 8

// Strays tells which topics are about something else: topics whose sites are alike hang together, and the largest such
// group is the niche. What hangs on nothing is left where it is: a topic of its own need not be another subject. Of fewer
// topics than can be told, none is a stray.
func Strays(list []Kin) []Stray {
	out := make([]Stray, len(list))
	count := map[string]int{}
	some := 0
	for _, k := range list {
		if len(k.Sites) > 0 {
			some++
		}
		for _, s := range k.Sites {
			count[s]++
		}
	}
	if some < fewForSubject {
		return out
	}
	weight := func(site string) float64 { return math.Log(float64(some+1) / float64(count[site])) }
	norm := make([]float64, len(list))
	stands := map[string][]int{}
	for i, k := range list {
		for _, s := range k.Sites {
			norm[i] += weight(s) * weight(s)
			stands[s] = append(stands[s], i)
		}
		norm[i] = math.Sqrt(norm[i])
	}
	group := make([]int, len(list))
	for i := range group {
		group[i] = i
	}
	var root func(int) int
	root = func(i int) int {
		if group[i] != i {
			group[i] = root(group[i])
		}
		return group[i]
	}
	for i, k := range list {
		shared := map[int]float64{}
		for _, s := range k.Sites {
			for _, j := range stands[s] {
				if j < i {
					shared[j] += weight(s) * weight(s)
				}
			}
		}
		for j, x := range shared {
			if norm[i] > 0 && norm[j] > 0 && x/(norm[i]*norm[j]) >= sameSubject {
				group[root(i)] = root(j)
			}
		}
	}
	size := map[int]int{}
	for i := range list {
		size[root(i)]++
	}
	home := -1
	for i := range list { // the first of several as large
		if home < 0 || size[root(i)] > size[home] {
			home = root(i)
		}
	}
	named := map[int]int{}
	for i, k := range list {
		r := root(i)
		if r == home || size[r] < 2 || len(k.Sites) == 0 {
			continue
		}
		if named[r] == 0 {
			named[r] = len(named) + 1
		}
		out[i] = Stray{Off: true, Group: named[r], Because: because(list, group, root, i, home)}
	}
	return out
}

// because names the sites that stand for a stray and for its like, and not for the niche.
func because(list []Kin, group []int, root func(int) int, at, home int) string {
	theirs, ours := map[string]int{}, map[string]int{}
	for i, k := range list {
		for _, s := range k.Sites {
			switch root(i) {
			case root(at):
				theirs[s]++
			case home:
				ours[s]++
			}
		}
	}
	var names []string
	for _, s := range list[at].Sites {
		if theirs[s] > 1 && ours[s] == 0 {
			names = append(names, s)
		}
	}
	slices.SortStableFunc(names, func(a, b string) int { return theirs[b] - theirs[a] })
	if len(names) == 0 {
		return "its results are of sites that seldom stand for the others"
	}
	return fmt.Sprintf("sites such as %s stand for it, and for none of the others",
		strings.Join(names[:min(3, len(names))], ", "))
}
