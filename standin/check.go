package standin

import "time"

// Sampled is a phrase that a scenario gives, and how often it is searched in a month.
type Sampled struct {
	Phrase   string
	Searches float64
}

// Sample draws phrases of a scenario, each as likely as any other, to be read by whoever
// wrote it; total is how many there are. Nothing but the phrases is grown.
func Sample(s *Scenario, n, seed int, day time.Time) (drawn []Sampled, total int) {
	w := newWorld(1, []*Scenario{s}, day)
	rng := w.random("sample", seed)
	var list []*query
	for _, q := range w.queryList {
		if !q.typo {
			list = append(list, q)
		}
	}
	rng.Shuffle(len(list), func(i, j int) { list[i], list[j] = list[j], list[i] })
	for _, q := range list[:max(0, min(n, len(list)))] {
		drawn = append(drawn, Sampled{q.text, q.steady()})
	}
	return drawn, len(list)
}
