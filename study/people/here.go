package people

import (
	"slices"
	"sync"
	"time"
)

// lasts is how long somebody counts as being at a page after they were last seen there (ours): pages say so each 20 s.
const lasts = 45 * time.Second

// mostPlaces bounds what is remembered.
const mostPlaces = 10_000

// presence is who looks at what, in this program.
type presence struct {
	mu sync.Mutex
	at map[place]time.Time
}

type place struct{ path, name string }

// Here notes that somebody is at a page, and says who else is, by name.
func (k *Keeper) Here(path, name string) (others []string) {
	now := k.store.Now()
	k.here.mu.Lock()
	defer k.here.mu.Unlock()
	if k.here.at == nil {
		k.here.at = map[place]time.Time{}
	}
	for p, seen := range k.here.at {
		switch gone := now.Sub(seen) > lasts || seen.After(now); {
		case gone:
			delete(k.here.at, p)
		case p.path == path && p.name != name:
			others = append(others, p.name)
		}
	}
	if len(k.here.at) < mostPlaces {
		k.here.at[place{path, name}] = now
	}
	slices.Sort(others)
	return others
}
