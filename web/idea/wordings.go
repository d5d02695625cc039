package idea

import (
	"fmt"
	"math"

	"cleverniche/core/difficulty"
	"cleverniche/study/topics"
	"cleverniche/web/draw"
	"cleverniche/web/frame"
)

// wordingsView is the head of a phrase and its tail, drawn and listed.
type wordingsView struct {
	topics.Wordings
	Rows          []wordingRow
	Width, Height float64
	Ticks         []wordTick
	Drawn         int // those that are looked up
}

type wordingRow struct {
	topics.Wording
	draw.Bubble
	Drawn    bool
	Self     bool
	Searches string
	Asks     string
	Visits   string
	Says     string
}

type wordTick struct {
	X    float64
	Text string
}

// How large the field is, in pixels.
const (
	wordingsWidth  = 420
	wordingsHeight = 220
)

// wordingsOf fills in the view.
func wordingsOf(r *frame.Request, id uint) (v wordingsView, err error) {
	b, err := r.Table()
	if err != nil {
		return v, err
	}
	if v.Wordings, err = r.Study.Topics.Wordings(r.Context(), r.Niche, b, id); err != nil {
		return v, err
	}
	v.Width, v.Height = wordingsWidth, wordingsHeight
	all := append([]topics.Wording{v.Self}, v.Others...)
	fewest, most, highest := all[0].Words, all[0].Words, 0.0
	for _, w := range all {
		fewest, most, highest = min(fewest, w.Words), max(most, w.Words), math.Max(highest, w.Searches)
	}
	sp := r.Speak()
	inColumn := map[int]int{}
	for i, w := range all {
		row := wordingRow{Wording: w, Self: i == 0, Drawn: w.Difficulty >= 0, Searches: "–", Asks: "not looked up"}
		switch {
		case w.Under:
			row.Searches = "too rare to measure"
		case w.Searches >= 0:
			row.Searches = sp.Count(int(w.Searches))
		}
		if w.Visits >= 0 {
			row.Visits = sp.Count(int(math.Round(w.Visits)))
		}
		if row.Drawn {
			v.Drawn++
			n := inColumn[w.Words]
			inColumn[w.Words]++
			shift := []float64{0, -0.5, 0.5, -1, 1, -0.25, 0.25, -0.75, 0.75}[n%9]
			row.Bubble = draw.Spot(w.Words, fewest, most, w.Difficulty, w.Searches, highest, v.Width, v.Height, shift)
			row.Asks = difficulty.Shown(w.Difficulty)
		}
		row.Says = fmt.Sprintf("%s: %s searches, difficulty %s", w.Phrase, row.Searches, row.Asks)
		v.Rows = append(v.Rows, row)
	}
	for n := fewest; n <= most; n++ {
		v.Ticks = append(v.Ticks, wordTick{draw.Spot(n, fewest, most, 0, 0, 0, v.Width, v.Height, 0).X,
			fmt.Sprintf("%d %s", n, frame.Plural(n, "word", "words"))})
	}
	return v, nil
}

// Below is the height of the picture with its words below.
func (v wordingsView) Below() float64 { return v.Height + 20 }
