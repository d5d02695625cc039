package standin

// lexicon numbers the words that the scenarios hold, so that pages can be weighed
// without being written.
type lexicon struct {
	words   []string
	numbers map[string]int32
}

func newLexicon() *lexicon { return &lexicon{numbers: map[string]int32{}} }

// all are the numbers of the words of a text.
func (v *lexicon) all(text string) []int32 {
	var out []int32
	eachToken(text, func(tok string) {
		n, known := v.numbers[tok]
		if !known {
			n = int32(len(v.words))
			v.words = append(v.words, tok)
			v.numbers[tok] = n
		}
		out = append(out, n)
	})
	return out
}
