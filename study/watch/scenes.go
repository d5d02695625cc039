package watch

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"cleverniche/core/watch"
	"cleverniche/store"
	"cleverniche/study/input"
	"cleverniche/study/niches"
)

// Where places are looked for beside the niche's own engine, and for which of my sites.

// MostOwnSites is how many sites of mine a niche keeps beside its own.
const MostOwnSites = 12

// OwnSite is a site of mine by name.
type OwnSite struct{ Site, Name string }

// OwnSites are those that are kept beside the niche's own.
func (s *Watcher) OwnSites(ctx context.Context, n niches.Niche) (out []OwnSite, err error) {
	list, err := s.store.OwnSites(ctx, n.ID)
	for _, one := range list {
		out = append(out, OwnSite{one.Site, one.Name})
	}
	return out, err
}

// SaveOwnSite keeps a site of mine by name, and returns its domain. Without a name it keeps the one it has, or is
// called by its domain.
func (s *Watcher) SaveOwnSite(ctx context.Context, n niches.Niche, domain, name string) (site string, err error) {
	site = s.niches.Site(strings.TrimSpace(domain))
	list, err := s.store.OwnSites(ctx, n.ID)
	if err != nil {
		return "", err
	}
	at := slices.IndexFunc(list, func(o store.OwnSite) bool { return o.Site == site })
	name = strings.Join(strings.Fields(name), " ")
	switch {
	case name == "" && at >= 0:
		name = list[at].Name
	case name == "":
		name = site
	}
	switch {
	case site == "" || len(site) > niches.MostDomain:
		return "", input.Bad("own-site", "“%s” is not a site’s domain. Try nightporch.example.", input.Clip(domain, 60))
	case site == n.OwnSite:
		return "", input.Bad("own-site", "“%s” is already the site of this niche.", site)
	case len([]rune(name)) > niches.MostName:
		return "", input.Bad("own-name", "The name is longer than %d characters.", niches.MostName)
	case at < 0 && len(list) >= MostOwnSites:
		return "", input.Bad("own-site", "At most %d more sites.", MostOwnSites)
	}
	return site, s.store.SaveOwnSite(ctx, store.OwnSite{NicheID: n.ID, Site: site, Name: name})
}

// RemoveOwnSite keeps one no more, and watches its phrases no more.
func (s *Watcher) RemoveOwnSite(ctx context.Context, n niches.Niche, site string) error {
	return s.store.DeleteOwnSite(ctx, n.ID, site)
}

// isMine returns an error where a site is none that is kept; "" is the niche's own.
func (s *Watcher) isMine(ctx context.Context, n niches.Niche, site string) error {
	list, err := s.store.OwnSites(ctx, n.ID)
	if err != nil {
		return err
	}
	if site != "" && !slices.ContainsFunc(list, func(o store.OwnSite) bool { return o.Site == site }) {
		return input.Bad("own-site", "“%s” is not among your sites. Add it first.", input.Clip(site, 60))
	}
	return nil
}

// on is a niche as if its own site were that one.
func on(n niches.Niche, site string) niches.Niche {
	if site != "" {
		n.OwnSite = site
	}
	return n
}

// checkable are the watched phrases whose site is known.
func (s *Watcher) checkable(ctx context.Context, n niches.Niche) ([]store.Watched, error) {
	list, err := s.store.Watched(ctx, n.ID)
	return slices.DeleteFunc(list, func(w store.Watched) bool { return on(n, w.Site).OwnSite == "" }), err
}

// sceneOf is the scene of a key; "" is where the niche searches.
func sceneOf(n niches.Niche, key string) (niches.Scene, bool) {
	if key == "" {
		return niches.Scene{Locale: n.Locale()}, true
	}
	list := n.Scenes()
	at := slices.IndexFunc(list, func(s niches.Scene) bool { return s.Key() == key })
	if at < 0 {
		return niches.Scene{}, false
	}
	return list[at], true
}

// SceneName is what a scene is called, also one that is in the settings no more; "" where the niche searches.
func SceneName(n niches.Niche, key string) string {
	if scene, is := sceneOf(n, key); is {
		return scene.Name
	}
	return strings.Trim(strings.ReplaceAll(key, "|", " "), " ")
}

// Chosen are the keys of the other engines, countries and languages in which places are checked, too.
func (s *Watcher) Chosen(ctx context.Context, n niches.Niche) (out []string, err error) {
	w, err := s.store.Watch(ctx, n.ID)
	for _, key := range split(w.Scenes) {
		if _, is := sceneOf(n, key); is {
			out = append(out, key)
		}
	}
	return out, err
}

// Choose says where places are checked, too, of what the niche's settings have.
func (s *Watcher) Choose(ctx context.Context, n niches.Niche, keys []string) error {
	var list []string
	for _, one := range n.Scenes() {
		if slices.Contains(keys, one.Key()) {
			list = append(list, one.Key())
		}
	}
	if len(list) < len(slices.Compact(slices.Sorted(slices.Values(keys)))) {
		return input.Bad("scenes", "One of these is no longer in your settings. Reload the page.")
	}
	w, err := s.store.Watch(ctx, n.ID)
	if err != nil {
		return err
	}
	w.Scenes = strings.Join(list, "\n")
	return s.store.SetWatch(ctx, w)
}

// There is where my page stands in another engine, country or language.
type There struct {
	Scene  string // as it is shown
	Engine string
	At     time.Time
	Place  int
	Page   string
	By     Change // since the check before
}

// Says is that in words.
func (t There) Says() string {
	if t.By.OK && t.By.By != 0 {
		return fmt.Sprintf("%s (%+d)", rank(t.Place), t.By.By)
	}
	return rank(t.Place)
}

// elsewhere fills in where pages stand in the other places that were chosen.
func (s *Watcher) elsewhere(ctx context.Context, n niches.Niche, list []Page) error {
	chosen, err := s.Chosen(ctx, n)
	if err != nil {
		return err
	}
	for _, key := range chosen {
		scene, _ := sceneOf(n, key)
		last, err := s.store.LatestPositions(ctx, n.ID, key, 0)
		if err != nil {
			return err
		}
		before, err := s.store.LatestPositions(ctx, n.ID, key, 1)
		if err != nil {
			return err
		}
		for i := range list {
			p, is := last[list[i].ID]
			if !is {
				continue
			}
			there := There{Scene: scene.Name, Engine: p.Engine, At: p.At, Place: p.Place, Page: p.Page}
			if was, is := before[list[i].ID]; is {
				there.By = Change{watch.Moved(was.Place, p.Place), true}
			}
			list[i].There = append(list[i].There, there)
		}
	}
	return nil
}

// ofOneEngine are the positions of a line: of the engine that was asked last, and what I typed or my report told. What
// another engine said before is no part of it.
func ofOneEngine(points []store.Position) (out []store.Position) {
	engine := ""
	for _, p := range points {
		if asked(p) {
			engine = p.Engine
		}
	}
	for _, p := range points {
		if !asked(p) || p.Engine == engine {
			out = append(out, p)
		}
	}
	return out
}

// asked reports whether an engine told a position.
func asked(p store.Position) bool {
	return p.Engine != reported && p.Engine != typed && p.Engine != brought
}

func counted(n int, word string) string {
	if n != 1 {
		word += "s"
	}
	return fmt.Sprintf("%d %s", n, word)
}
