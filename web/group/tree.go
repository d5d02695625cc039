package group

import (
	"cleverniche/core/topic"
	"cleverniche/study/topics"
)

// Tree is hubs with their spokes, and what hangs on none.
type Tree struct {
	Hubs  []Hub
	Alone []topics.Topic
	More  int // that hang on none and are not shown
}

// Hub is an overview and the narrower articles.
type Hub struct {
	topics.Topic
	Spokes []Spoke
}

// Spoke is a narrower article.
type Spoke struct {
	topics.Topic
	Beside []topics.Topic
}

// mostAlone is how many topics without a hub the tree shows.
const mostAlone = 60

// TreeOf is the tree of the topics that a sieve leaves.
func TreeOf(grouped *topics.Topics, left map[uint]bool) (out Tree) {
	for _, t := range grouped.List {
		switch {
		case len(t.Spokes) > 0:
			h := Hub{Topic: t}
			some := left[t.ID]
			for _, i := range t.Spokes {
				s := grouped.List[i]
				some = some || left[s.ID]
				h.Spokes = append(h.Spokes, Spoke{s, grouped.Beside(s)})
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
