package filters

import (
	"fmt"

	"cleverniche/core/phrase"
	"cleverniche/core/sieve"
	"cleverniche/web/frame"
)

// Limits of the chips: how many there are, and of how many ideas they are made, the most
// searched ones.
const (
	mostChips  = 24
	chipsRead  = 5000
	leastIdeas = 2
)

// chip is a shape, or a word that phrases say beside others.
type chip struct{ Key, Value, Text, Count, Title string }

// chips lists the shapes and the modifiers of what is left.
func chips(r *frame.Request) error {
	by, _, b, err := Sifting(r)
	if err != nil {
		return err
	}
	left := b.Pass(by)
	sp := r.Speak()
	var shapes, words []chip
	for _, s := range phrase.AllShapes {
		n := b.Pass(by.With(sieve.Choosing(sieve.ByShape, string(s)))).Count
		if n >= leastIdeas && n < left.Count {
			shapes = append(shapes, chip{sieve.ByShape.Key, string(s), string(s), sp.Count(n), ""})
		}
	}
	for _, m := range phrase.Modifiers("", left.Searched(chipsRead), r.Niche.Language) {
		if m.Ideas < leastIdeas || m.Ideas == left.Count {
			continue
		}
		if len(words) == mostChips {
			break
		}
		words = append(words, chip{sieve.ByHolding.Key, m.Word, m.Word, sp.Count(m.Ideas),
			fmt.Sprintf("%s, %s searches a month together. With shift: those without it.",
				sp.Counted(m.Ideas, "idea", "ideas"), sp.Count(int(m.Searches)))})
	}
	return r.Render("filters/chips", map[string]any{"Shapes": shapes, "Words": words})
}
