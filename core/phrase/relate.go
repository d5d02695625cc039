package phrase

// Relation is how another wording of a phrase differs from it.
type Relation string

// The relations.
const (
	Unrelated Relation = ""
	Rearrange Relation = "same words"         // in another order or form, or with other small words
	Longer    Relation = "one word more"      // that says something
	Shorter   Relation = "one word less"      //
	Exchanged Relation = "one word exchanged" //
)

// Related tells how other differs from a phrase, both in normal form: by the stems of the words that say something
// (ContentStems). Equal phrases are unrelated.
func Related(normal, other, lang string) Relation {
	if normal == other {
		return Unrelated
	}
	return RelatedStems(ContentStems(normal, lang), ContentStems(other, lang))
}

// RelatedStems is Related of the content stems of two phrases that differ.
func RelatedStems(a, b []string) Relation {
	less, more := missingIn(a, b), missingIn(b, a)
	switch {
	case len(a) == 0 || len(b) == 0:
		return Unrelated
	case less == 0 && more == 0:
		return Rearrange
	case less == 0 && more == 1:
		return Longer
	case less == 1 && more == 0:
		return Shorter
	case less == 1 && more == 1 && len(a) > 1:
		return Exchanged
	}
	return Unrelated
}

// missingIn is how many of a are not in b.
func missingIn(a, b []string) (n int) {
	for _, x := range a {
		there := false
		for _, y := range b {
			there = there || x == y
		}
		if !there {
			n++
		}
	}
	return n
}
