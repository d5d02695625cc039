package sieve

// Verdict is what became of a phrase of a list that is checked.
type Verdict string

// The verdicts.
const (
	Passes      Verdict = "passes"
	NotSearched Verdict = "not searched"     // no source knows of searches, or only that they are under its floor
	OutOfReach  Verdict = "out of reach"     // looked up, and harder than what the own site reaches
	EasySmall   Verdict = "easy but small"   // looked up and within reach, and searched too little
	TooSmall    Verdict = "too few searches" // not looked up
	Otherwise   Verdict = "stopped by another filter"
	Unasked     Verdict = "searches not looked up"
)

// Verdicts lists them in the order in which they are told.
func Verdicts() []Verdict {
	return []Verdict{Passes, NotSearched, OutOfReach, EasySmall, TooSmall, Otherwise, Unasked}
}

// Verdict says what became of the idea at a position under some filters, and which of them stop it, by their places.
// asked says that a source was asked for its searches.
func (t *Table) Verdict(at int, filters []Filter, asked bool) (v Verdict, stops []int) {
	stops = t.Stops(at, filters)
	searches := t.columns[Searches.column].at(at)
	beyond, judged := t.Number(at, Beyond)
	small := false
	for _, k := range stops {
		if f := filters[k].By.Figure; f == Searches || f == FirstVisits {
			small = true
		}
	}
	switch {
	case len(stops) == 0:
		return Passes, nil
	case searches == unknown && !asked:
		return Unasked, stops
	case searches <= 0:
		return NotSearched, stops
	case judged && beyond > 0:
		return OutOfReach, stops
	case small && judged:
		return EasySmall, stops
	case small:
		return TooSmall, stops
	}
	return Otherwise, stops
}
