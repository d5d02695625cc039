package gather

import (
	"context"
	"encoding/json"
	"strings"

	"cleverniche/core/phrase"
	"cleverniche/study/input"
	"cleverniche/study/niches"
)

// Prompt is a question that helps somebody to seeds who has none yet.
type Prompt struct {
	Key, Asks, Like string
}

// Prompts are in the order in which people think (ours).
var Prompts = []Prompt{
	{"who", "Who does it?", "beginners, children, people over 60"},
	{"what", "With what is it done?", "telescope, star chart, red flashlight"},
	{"wrong", "What goes wrong?", "blurry telescope, dew on lens"},
	{"buy", "What is bought and compared?", "best binoculars, telescope or binoculars"},
	{"where", "Where is it done?", "balcony astronomy, dark sky camping"},
	{"when", "When is it done?", "winter stargazing, full moon"},
	{"gift", "For whom is it a present?", "gifts for stargazers"},
}

// MostPen is how long all that was written may be, in characters.
const MostPen = 8000

// Pen is what somebody wrote down for each prompt, as it was typed.
func (s *Gatherer) Pen(ctx context.Context, n niches.Niche) (map[string]string, error) {
	text, err := s.store.Pen(ctx, n.ID)
	out := map[string]string{}
	if err != nil || text == "" {
		return out, err
	}
	if json.Unmarshal([]byte(text), &out) != nil {
		return map[string]string{}, nil // another program wrote it
	}
	return out, nil
}

// KeepPen keeps what somebody wrote down.
func (s *Gatherer) KeepPen(ctx context.Context, n niches.Niche, of map[string]string) error {
	kept, length := map[string]string{}, 0
	for _, p := range Prompts {
		if text := strings.TrimSpace(strings.ReplaceAll(of[p.Key], "\r", "")); text != "" {
			kept[p.Key] = text
			length += len(text)
		}
	}
	if length > MostPen {
		return input.Bad("pen", "This is longer than %d characters in all.", MostPen)
	}
	text, err := json.Marshal(kept)
	if err != nil {
		return err
	}
	return s.store.SetPen(ctx, n.ID, string(text))
}

// PenSeeds are the lines that were written down and were no seeds yet, in the order of the prompts.
func (s *Gatherer) PenSeeds(ctx context.Context, n niches.Niche) ([]string, error) {
	of, err := s.Pen(ctx, n)
	if err != nil {
		return nil, err
	}
	rows, err := s.store.Seeds(ctx, n.ID)
	if err != nil {
		return nil, err
	}
	known := map[string]bool{}
	for _, seed := range rows {
		known[seed.Phrase] = true
	}
	var out []string
	for _, p := range Prompts {
		for _, line := range strings.FieldsFunc(of[p.Key], func(r rune) bool { return r == '\n' || r == ',' }) {
			if seed, err := phrase.Parse(line); err == nil && !known[seed] {
				known[seed] = true
				out = append(out, seed)
			}
		}
	}
	return out, nil
}
