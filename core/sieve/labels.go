package sieve

import (
	"slices"
	"strings"
	"sync"
)

// Labels are words of the user's own on ideas. A column holds the number of a whole set
// of them: few sets are met, however many ideas have one.

// LabelMark stands between labels where they are one text.
const LabelMark = "\x1f"

var labelSets = struct {
	sync.RWMutex
	number map[string]int64
	sets   [][]string
}{number: map[string]int64{}}

// labelSet is the number of a set of labels, unknown for none.
func labelSet(text string) int64 {
	if text == "" {
		return unknown
	}
	labelSets.RLock()
	n, known := labelSets.number[text]
	labelSets.RUnlock()
	if known {
		return n
	}
	labelSets.Lock()
	defer labelSets.Unlock()
	if n, known := labelSets.number[text]; known {
		return n
	}
	n = int64(len(labelSets.sets))
	labelSets.number[text] = n
	labelSets.sets = append(labelSets.sets, strings.Split(text, LabelMark))
	return n
}

// markSet is the set of a number, as one text; "" for none.
func markSet(n int64) string {
	labelSets.RLock()
	defer labelSets.RUnlock()
	if n < 0 || n >= int64(len(labelSets.sets)) {
		return ""
	}
	return strings.Join(labelSets.sets[n], LabelMark)
}

// labelled returns which sets, by their numbers, have a label.
func labelled(label string) func(set int64) bool {
	return setsThat(func(set []string) bool { return slices.Contains(set, label) })
}

// endingIn returns which sets, by their numbers, have a label as their last.
func endingIn(label string) func(set int64) bool {
	return setsThat(func(set []string) bool { return set[len(set)-1] == label })
}

func setsThat(are func(set []string) bool) func(set int64) bool {
	labelSets.RLock()
	defer labelSets.RUnlock()
	with := make([]bool, len(labelSets.sets))
	for i, set := range labelSets.sets {
		with[i] = are(set)
	}
	return func(set int64) bool { return set >= 0 && set < int64(len(with)) && with[set] }
}
