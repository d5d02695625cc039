package results

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"cleverniche/core/serp"
	"cleverniche/core/sieve"
	"cleverniche/market"
	"cleverniche/store"
	"cleverniche/study/ask"
	"cleverniche/study/input"
	"cleverniche/study/niches"
)

const elsewhereKey = "elsewhere"

// elsewhere is the lookup of the results of other engines, countries and languages that the niche names.
var elsewhere = Lookup{Key: elsewhereKey, From: sieve.FromElsewhere, Tells: sieve.Alike, Name: "looked up elsewhere",
	Act: "look up elsewhere", job: "elsewhere", brings: "looked up", title: "Look up elsewhere %d %s",
	one: "Look up elsewhere “%s”", has: "%d results", fails: "ElsewhereError",
	estimate: estimateElsewhere, most: mostElsewhere, do: (*Researcher).askElsewhere}

func estimateElsewhere(s *Researcher, ctx context.Context, n niches.Niche, list []store.Idea, e *ask.Estimate) error {
	var keys []string
	for _, idea := range list {
		for _, scene := range n.Scenes() {
			keys = append(keys, s.asker.EngineKey(scene.Engine, idea.Phrase, scene.Locale))
		}
	}
	return s.asker.Estimate(ctx, e, ask.Results, keys, lookupWorkers)
}

func mostElsewhere(s *Researcher, ctx context.Context, n niches.Niche, ideas int, e *ask.Estimate) error {
	return s.asker.EstimateOpen(ctx, e, ask.Results, ideas*len(n.Scenes()), 0, lookupWorkers)
}

// errNowhere is why nothing is looked up elsewhere.
var errNowhere = errors.New("no other engine, country or language is named in the settings")

func (s *Researcher) askElsewhere(ctx context.Context, n niches.Niche, idea store.Idea) error {
	scenes := n.Scenes()
	if len(scenes) == 0 {
		return errNowhere
	}
	tens, err := s.store.FoundPages(ctx, []uint{idea.ID})
	if err != nil {
		return err
	}
	if len(tens[idea.ID]) == 0 {
		return errNotLooked
	}
	var failed []error
	for _, scene := range scenes {
		_, err := s.asker.ResultsOf(ctx, scene.Engine, idea.Phrase, scene.Locale)
		if err != nil && ask.StopsWork(err) {
			return err
		}
		if err != nil {
			failed = append(failed, fmt.Errorf("%s: %w", scene.Name, err))
		}
	}
	if len(failed) < len(scenes) {
		if err := s.noteElsewhere(ctx, n, idea, tens[idea.ID]); err != nil {
			return err
		}
	}
	return errors.Join(failed...)
}

// noteElsewhere keeps how much of the ten is the same in those scenes that are known.
func (s *Researcher) noteElsewhere(ctx context.Context, n niches.Niche, idea store.Idea, ten []string) error {
	sum, known := 0.0, 0
	for _, scene := range n.Scenes() {
		got, ok, err := s.asker.ResultsOfAtHand(ctx, scene.Engine, idea.Phrase, scene.Locale)
		if err != nil {
			return err
		}
		if ok {
			known++
			sum += float64(len(sameOf(ten, first(got.Value)))) / float64(len(ten))
		}
	}
	now := s.store.Now().UTC()
	idea.ElsewhereAt, idea.ElsewhereError, idea.Alike = &now, "", nil
	if known > 0 {
		mean := sum / float64(known)
		idea.Alike = &mean
	}
	return s.store.SaveLookup(ctx, n.ID, idea, elsewhereKey)
}

// first are the addresses of the first page of results.
func first(r market.Results) (out []string) {
	for _, o := range r.Organic[:min(serp.FirstPage, len(r.Organic))] {
		out = append(out, o.URL)
	}
	return out
}

// samePage holds addresses together that differ in what makes no other page.
func samePage(address string) string {
	_, rest, _ := strings.Cut(address, "://")
	return strings.TrimSuffix(strings.TrimPrefix(strings.ToLower(rest), "www."), "/")
}

// sameOf are those of a list that stand in another, too.
func sameOf(list, other []string) (out []string) {
	for _, a := range list {
		if slices.ContainsFunc(other, func(b string) bool { return samePage(a) == samePage(b) }) {
			out = append(out, a)
		}
	}
	return out
}

// SceneResults are the results of an idea in another scene, beside those of the niche.
type SceneResults struct {
	niches.Scene
	Known   bool
	Asked   ask.Asked[market.Results]
	Same    []string // of the ten that stand there, too
	Overlap float64  // rank-biased overlap, 0 to 1
	Only    []market.Organic
	Mine    int // my own best place there; 0 none
	Ads     int
}

// Scenes are an idea's results elsewhere, as far as they are known; nobody is asked.
func (s *Researcher) Scenes(ctx context.Context, n niches.Niche, ev *Evidence) (out []SceneResults, err error) {
	ten := first(ev.Results)
	for _, scene := range n.Scenes() {
		one := SceneResults{Scene: scene}
		one.Asked, one.Known, err = s.asker.ResultsOfAtHand(ctx, scene.Engine, ev.Phrase, scene.Locale)
		if err != nil {
			return nil, err
		}
		if one.Known {
			there := first(one.Asked.Value)
			one.Same, one.Ads = sameOf(ten, there), one.Asked.Value.Ads
			one.Overlap = serp.RBO(pagesIn(ten), pagesIn(there), serp.Persistence)
			for _, o := range one.Asked.Value.Organic[:len(there)] {
				if len(sameOf([]string{o.URL}, ten)) == 0 {
					one.Only = append(one.Only, o)
				}
			}
			for _, o := range one.Asked.Value.Organic {
				if n.OwnSite != "" && s.SiteOf(o.URL) == n.OwnSite && one.Mine == 0 {
					one.Mine = o.Position
				}
			}
		}
		out = append(out, one)
	}
	return out, nil
}

// Alike is the overlap, of 100.
func (s SceneResults) Alike() float64 { return 100 * s.Overlap }

func pagesIn(list []string) (out []string) {
	for _, page := range list {
		out = append(out, samePage(page))
	}
	return out
}

// AskScene looks one idea up in one other scene.
func (s *Researcher) AskScene(ctx context.Context, n niches.Niche, id uint, key string) error {
	scenes := n.Scenes()
	at := slices.IndexFunc(scenes, func(sc niches.Scene) bool { return sc.Key() == key })
	if at < 0 {
		return input.Bad("scene", "That is no longer in the settings. Reload the page.")
	}
	list, err := s.these(ctx, n, []uint{id})
	if err != nil {
		return err
	}
	if _, err := s.asker.ResultsOf(ctx, scenes[at].Engine, list[0].Phrase, scenes[at].Locale); err != nil {
		return err
	}
	tens, err := s.store.FoundPages(ctx, []uint{id})
	if err != nil || len(tens[id]) == 0 {
		return err
	}
	return s.noteElsewhere(ctx, n, list[0], tens[id])
}

// SceneCost is what one look-up elsewhere costs.
func (s *Researcher) SceneCost() string { return s.ScenesCost(1) }

// ScenesCost is what so many cost.
func (s *Researcher) ScenesCost(n int) string {
	return s.asker.Money(int64(n) * s.asker.Price(ask.Results))
}
