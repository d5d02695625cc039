package niches

import (
	"encoding/json"
	"slices"
	"strings"
	"time"

	"cleverniche/core/plan"
	"cleverniche/core/serp"
	"cleverniche/core/topic"
	"cleverniche/study/input"
)

// usualWeek is how many hours a new niche has a week until its owner says otherwise (ours).
const usualWeek = 8

// usualHours are what an article takes, by kind (common practice, no source, and very different from
// writer to writer).
var usualHours = map[serp.PageType]int{serp.Article: 4, serp.HowTo: 5, serp.Comparison: 8, serp.Review: 6,
	serp.Tool: 12}

// usualLead is the days from publishing to the place (common practice, no source: one to three months).
const usualLead = 90

// HoursOf is what an article of a kind takes.
func (n Niche) HoursOf(kind serp.PageType) int {
	if h := n.KindHours[string(kind)]; h > 0 {
		return h
	}
	if h := usualHours[kind]; h > 0 {
		return h
	}
	return usualHours[serp.Article]
}

// HoursField is the name of the field for the hours of a kind.
func HoursField(kind string) string { return "hours-" + strings.ReplaceAll(kind, " ", "-") }

func readHours(text string) map[string]int {
	out := map[string]int{}
	if text == "" || json.Unmarshal([]byte(text), &out) != nil {
		return nil
	}
	return out
}

func writeHours(hours map[string]int) string {
	if len(hours) == 0 {
		return ""
	}
	text, _ := json.Marshal(hours) // of words and numbers
	return string(text)
}

// CheckPlan checks what a niche says of planning, and fills in what is usual.
func (n *Niche) CheckPlan() error {
	if n.LeadDays == 0 {
		n.LeadDays = usualLead
	}
	if n.Scope == "" {
		n.Scope = ScopeKept
	}
	if n.Shared == 0 {
		n.Shared = topic.Shared
	}
	switch {
	case n.WeekHours < 0 || n.WeekHours > plan.MostWeekHours:
		return input.Bad("week-hours", "Hours a week are 0 to %d: a week has no more.", plan.MostWeekHours)
	case n.LeadDays < plan.FewestLead || n.LeadDays > plan.MostLead:
		return input.Bad("lead", "The days from publishing to the place are %d to %d.", plan.FewestLead, plan.MostLead)
	case n.WeekStart < time.Sunday || n.WeekStart > time.Saturday:
		return input.Bad("week-start", "There is no such weekday.")
	case !slices.Contains(Scopes, n.Scope):
		return input.Bad("scope", "There is no such choice of ideas.")
	case n.Shared < topic.FewestShared || n.Shared > topic.MostShared:
		return input.Bad("shared", "Shared pages are %d to %d.", topic.FewestShared, topic.MostShared)
	}
	for kind, h := range n.KindHours {
		if h == 0 {
			delete(n.KindHours, kind)
			continue
		}
		if !slices.Contains(serp.Articles, serp.PageType(kind)) || h < 1 || h > plan.MostArticleHours {
			return input.Bad(HoursField(kind), "An article takes 1 to %d hours.", plan.MostArticleHours)
		}
	}
	return nil
}
