package briefs

import (
	"context"
	"encoding/json"
	"slices"
	"strings"
	"time"

	"cleverniche/store"
	"cleverniche/study/input"
	"cleverniche/study/niches"
	"cleverniche/study/topics"
)

// drawn is a brief as it was first read once its article was planned: a new look-up does not change it, since a writer
// may have it by now. What follows my own plan is not in it.
type drawn struct {
	Lead     string              `json:"lead"`
	At       time.Time           `json:"at"`
	Sections map[string][]string `json:"sections"`
}

func readDrawn(text string) (d drawn) {
	if text == "" || json.Unmarshal([]byte(text), &d) != nil {
		return drawn{}
	}
	return d
}

func (d drawn) String() string {
	body, err := json.Marshal(d)
	if err != nil { // strings and a time always are JSON
		panic(err)
	}
	return string(body)
}

// drawNow is a brief as it is proposed now.
func drawNow(b Brief) drawn {
	d := drawn{Lead: b.Article.Lead(), At: b.Made, Sections: map[string][]string{}}
	for _, s := range b.Sections {
		if !live(s.Key) {
			d.Sections[s.Key] = s.Asked
		}
	}
	return d
}

// live reports whether a section follows my own plan.
func live(key string) bool {
	return slices.ContainsFunc(parts, func(p part) bool { return p.key == key && p.live })
}

// hold puts a planned article's brief back to what it was when it was first read, and says beside it what would be
// proposed now. A whole one that was never read is kept from now on; another lead is another brief.
func (s *Writer) hold(ctx context.Context, n niches.Niche, b *Brief) error {
	topic := b.Article.Key()
	text, err := s.store.Drawn(ctx, n.ID, topic)
	if err != nil {
		return err
	}
	was := readDrawn(text)
	if was.Lead != b.Article.Lead() {
		if b.Unread != "" {
			return nil
		}
		now := drawNow(*b)
		if s.store.Draw(ctx, n.ID, topic, text, now.String()) == nil { // a brief can be read where nothing can be written
			b.Drawn = now.At
		}
		return nil
	}
	b.Drawn, b.Unread = was.At, ""
	for i := range b.Sections {
		section := &b.Sections[i]
		if live(section.Key) {
			continue
		}
		now, then := section.Lines, was.Sections[section.Key]
		if section.Lines, section.Asked = then, then; !slices.EqualFunc(now, then, alike) {
			section.Now = now
		}
	}
	return nil
}

// alike reports whether two lines say the same but for my chance, which changes with every page that is looked up.
func alike(a, b string) bool {
	a, _, _ = strings.Cut(a, chanceInLine)
	b, _, _ = strings.Cut(b, chanceInLine)
	return a == b
}

// Changed are the sections that the results would have otherwise now.
func (b Brief) Changed() (out []Section) {
	for _, s := range b.Sections {
		if len(s.Now) > 0 {
			out = append(out, s)
		}
	}
	return out
}

// Renew takes what the results say now for one section of a planned article's brief, or with "" for all. What was
// edited by hand stays as it is.
func (s *Writer) Renew(ctx context.Context, n niches.Niche, b Brief, key string) error {
	if len(b.Changed()) == 0 {
		return input.Bad("section", "The brief says what the results say.")
	}
	return s.topics.EditOne(ctx, n, "Renewing a brief", b.Article.ID, func(_ *topics.Hands, _ topics.Topic,
		r *store.TopicEdit) error {
		now := readDrawn(r.Drawn)
		if now.Lead != b.Article.Lead() {
			return input.Bad("section", "This has changed since, perhaps in another tab. Reload the page.")
		}
		for _, section := range b.Changed() {
			if key == "" || key == section.Key {
				now.Sections[section.Key] = section.Now
			}
		}
		if key == "" {
			now.At = b.Made
		}
		r.Drawn = now.String()
		return nil
	})
}
