package draw

import "math"

// Bubble is a wording in a field of words by difficulty.
type Bubble struct{ X, Y, R float64 }

// Spot places a wording of so many words and so difficult in a field of so many words across: wider to the right with
// each word, higher with difficulty; its area is by its searches. shift keeps those of one length apart.
func Spot(words, fewest, most int, difficulty, searches, mostSearches, width, height, shift float64) Bubble {
	const inset, least, biggest = 16, 3.5, 13
	columns := float64(max(1, most-fewest+1))
	column := (width - 2*inset) / columns
	x := inset + column*(float64(words-fewest)+0.5) + shift*column*0.35
	y := height - inset - (height-2*inset)*math.Max(0, math.Min(100, difficulty))/100
	r := least
	if searches > 0 && mostSearches > 0 {
		r = math.Max(least, biggest*math.Sqrt(searches/mostSearches))
	}
	round := func(v float64) float64 { return math.Round(10*v) / 10 }
	return Bubble{round(x), round(y), round(r)}
}
