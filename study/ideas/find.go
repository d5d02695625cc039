package ideas

import (
	"strings"

	"cleverniche/core/phrase"
	"cleverniche/core/sieve"
	"cleverniche/store"
	"cleverniche/study/input"
	"cleverniche/study/niches"
)

// Kinds of origin: the names of sieve.FoundIn.
const (
	FromSeed        = "seed"
	FromCompletion  = "completion"
	FromLetter      = "letter"
	FromQuestion    = "question"
	FromList        = "list"
	FromPreposition = "preposition"
	FromComparison  = "comparison"
	FromBetween     = "between"
	FromRelated     = "related"
	FromPattern     = "pattern"
	FromCrossing    = "combination"
	FromPage        = "page"
	FromRanking     = "ranking"
)

// Find is an idea as it is found, in normal form, with where it came from.
func (s *Keeper) Find(n niches.Niche, normal string, o store.Origin) store.Find {
	o.CreatedAt = s.store.Now().UTC()
	lists := ""
	if o.Kind == FromList {
		lists = ListName(o.Query)
	}
	return store.Find{Idea: store.Idea{Lists: lists, Phrase: normal, Words: len(phrase.Words(normal)),
		FoundIn: 1 << int(sieve.FoundIn.Named(o.Kind).Number), VariantKey: phrase.VariantKey(normal, n.Language)}, Origin: o}
}

// MostListName is how long a list's name may be, in characters.
const MostListName = 120

// ListName is a name for somebody's own list: one line, no longer than it may be.
func ListName(name string) string {
	return input.Clip(strings.Join(strings.Fields(strings.ReplaceAll(name, sieve.LabelMark, " ")), " "), MostListName)
}
