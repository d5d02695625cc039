package group

import (
	"cleverniche/core/topic"
	"cleverniche/study"
)

// Tree is hubs with their spokes, and what hangs on none.
type Tree struct {
	Hubs  []Hub
	Alone []study.Topic
	More  int // that hang on none and are not shown
}

// Hub is an overview and the narrower articles.
type Hub struct {
	study.Topic
	Spokes []Spoke
}

// Spoke is a narrower article.
type Spoke struct {
	study.Topic
	Beside []study.Topic
}

// mostAlone is how many topics without a hub the tree shows.
const mostAlone = 60

// TreeOf is the tree of the topics that a sieve leaves.
func TreeOf(topics *study.Topics, left map[uint]bool) (out Tree) {
	for _, t := range topics.List {
		switch {
		case len(t.Spokes) > 0:
			h := Hub{Topic: t}
			some := left[t.ID]
			for _, i := range t.Spokes {
				s := topics.List[i]
				some = some || left[s.ID]
				h.Spokes = append(h.Spokes, Spoke{s, topics.Beside(s)})
			}
			if some {
				out.Hubs = append(out.Hubs, h)
			}
		case t.Hub == topic.NoHub && left[t.ID]:
			if len(out.Alone) == mostAlone {
				out.More++
				continue
			}
			out.Alone = append(out.Alone, t)
		}
	}
	return out
}
