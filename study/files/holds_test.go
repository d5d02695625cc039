package files_test

import (
	"fmt"
	"reflect"
	"strings"
	"testing"

	"cleverniche/core/difficulty"
	"cleverniche/core/phrase"
	"cleverniche/core/plan"
	"cleverniche/store"
	"cleverniche/study/briefs"
	"cleverniche/study/ideas"
	"cleverniche/study/niches"
	"cleverniche/study/topics"
)

// TestTheFileHoldsWhatTheFormsTake: what the columns of a niche's file may hold is no less than what the rules let in,
// or a niche that was written could not be read again; and every column of texts or numbers says what it holds.
func TestTheFileHoldsWhatTheFormsTake(t *testing.T) {
	most := map[string]int{
		"Niche.Name": niches.MostName, "Niche.PlannedLinks": difficulty.MostLinks, "Niche.VisitMicros": niches.MostVisit,
		"Niche.WeekHours": plan.MostWeekHours, "Niche.LeadDays": plan.MostLead,
		"Idea.Phrase": phrase.MaxRunes, "Idea.Note": ideas.MostNoteRunes, "Idea.MyLinks": difficulty.MostLinks,
		"Seed.Phrase": phrase.MaxRunes, "TopicEdit.Name": topics.MostNamed, "TopicEdit.Note": topics.MostSheetNote,
		"TopicEdit.Phrase": phrase.MaxRunes, "TopicEdit.Hours": plan.MostArticleHours,
		"TopicEdit.Address": niches.MostAddress, "TopicEdit.Brief": 16 * briefs.MostSection,
		"OwnPage.URL": niches.MostAddress,
	}
	for _, row := range []any{store.Niche{}, store.Idea{}, store.Origin{}, store.Seed{}, store.TopicEdit{},
		store.OwnPage{}, store.Action{}} {
		for _, f := range reflect.VisibleFields(reflect.TypeOf(row)) {
			name := reflect.TypeOf(row).Name() + "." + f.Name
			kind := f.Type
			if kind.Kind() == reflect.Pointer {
				kind = kind.Elem()
			}
			tag := f.Tag.Get("holds")
			switch {
			case kind.Kind() == reflect.Uint || kind.Kind() == reflect.Struct || kind.Kind() == reflect.Bool ||
				strings.Contains(f.Name, "Revision") || f.Name == "Removals": // rows' numbers and moments
				continue
			case tag == "":
				t.Errorf("%s does not say what it holds", name)
				continue
			}
			want, ruled := most[name]
			delete(most, name)
			var holds float64
			if _, err := fmt.Sscanf(tag[strings.LastIndex(tag, ".")+1:], "%g", &holds); err != nil {
				if _, err := fmt.Sscanf(tag, "t%g", &holds); err != nil {
					t.Errorf("%s holds %q", name, tag)
				}
			}
			if ruled && holds < float64(want) {
				t.Errorf("%s holds %v, and %v are let in", name, holds, want)
			}
		}
	}
	for name := range most {
		t.Errorf("there is no %s", name)
	}
}
