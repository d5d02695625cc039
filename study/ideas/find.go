package ideas

import (
	"cleverniche/core/phrase"
	"cleverniche/core/sieve"
	"cleverniche/store"
	"cleverniche/study/niches"
)

// Kinds of origin: the names of sieve.FoundIn.
const (
	FromSeed       = "seed"
	FromCompletion = "completion"
	FromLetter     = "letter"
	FromQuestion   = "question"
	FromList       = "list"
)

// Find is an idea as it is found, in normal form, with where it came from.
func (s *Keeper) Find(n niches.Niche, normal string, o store.Origin) store.Find {
	o.CreatedAt = s.store.Now().UTC()
	return store.Find{Idea: store.Idea{Phrase: normal, Words: len(phrase.Words(normal)),
		FoundIn: 1 << int(sieve.FoundIn.Named(o.Kind).Number), VariantKey: phrase.VariantKey(normal, n.Language)}, Origin: o}
}
