package frame

import (
	"fmt"
	"html/template"

	"cleverniche/core/difficulty"
	"cleverniche/core/links"
	"cleverniche/core/phrase"
	"cleverniche/core/plan"
	"cleverniche/market/files"
	"cleverniche/study/articles"
	"cleverniche/study/ask"
	"cleverniche/study/briefs"
	"cleverniche/study/gather"
	"cleverniche/study/ideas"
	"cleverniche/study/niches"
	"cleverniche/study/sieves"
	"cleverniche/study/thecase"
	"cleverniche/study/topics"
	"cleverniche/study/watch"
)

// bounds are what a field may hold, as the rules that read it say: the attributes that tell a browser.
var bounds = map[string]template.HTMLAttr{
	"unwanted":      characters(niches.MostUnwantedBytes),
	"rounds":        between(1, gather.MostRounds),
	"address":       characters(gather.MostAddress),
	"pages":         between(1, gather.MostPages),
	"kept name":     characters(gather.MostKeptName),
	"words between": characters(gather.MostBetween),
	"phrase":        characters(phrase.MaxRunes),
	"lookups":       between(1, gather.MostLookups),
	"trial":         characters(ask.MostTried),
	"niche name":    characters(niches.MostName),
	"sieve name":    characters(sieves.MostName),
	"label":         characters(ideas.MostLabelRunes),
	"note":          characters(ideas.MostNoteRunes),
	"topic name":    characters(topics.MostNamed),
	"sheet note":    characters(topics.MostSheetNote),
	"section":       characters(briefs.MostSection),
	"list-name":     characters(ideas.MostListName),
	"skipped rows":  between(0, files.MostSkipped),
	"column width":  between(niches.LeastWidth, niches.MostWidth),
	"planned links": between(0, difficulty.MostLinks),
	"link standing": between(links.SolidStanding, 100),
	"fit":           between(1, 100),
	"standing":      between(0, 100),
	"tilt":          between(-difficulty.MostTilt, difficulty.MostTilt),
	"week hours":    between(0, plan.MostWeekHours),
	"article hours": between(1, plan.MostArticleHours),
	"lead days":     between(plan.FewestLead, plan.MostLead),
	"percent":       between(0, 100),
	"number":        characters(20),
	"hand":          characters(thecase.MostHand),
	"words":         characters(thecase.MostWords),
	"weeks":         between(1, articles.MostWeeks),
	"remark":        characters(watch.MostRemark),
	"domain":        characters(niches.MostDomain),
}

// boundsOf are the attributes of a field; a template that names an unknown one does not run.
func boundsOf(field string) (template.HTMLAttr, error) {
	b, ok := bounds[field]
	if !ok {
		return "", fmt.Errorf("no bounds of %q", field)
	}
	return b, nil
}

func characters(most int) template.HTMLAttr {
	return template.HTMLAttr(fmt.Sprintf(`maxlength="%d"`, most)) //nolint:gosec // numbers of ours
}

func between(least, most int) template.HTMLAttr {
	return template.HTMLAttr(fmt.Sprintf(`min="%d" max="%d"`, least, most)) //nolint:gosec // numbers of ours
}
