package gather

import (
	"strings"

	"cleverniche/study/gather"
	"cleverniche/study/input"
	"cleverniche/web/frame"
)

// otherWords is the page of other words for a phrase.
type otherWords struct {
	frame.Page
	page
	gather.OtherWords
	Typed string
	Same  []frame.Row
	Seeds []string // to choose among
	Error string
}

func showWords(r *frame.Request, wrong string) (err error) {
	v := otherWords{Error: wrong, Typed: strings.TrimSpace(r.FormValue("of"))}
	v.typed = wrong != ""
	seeds, err := r.Study.Niches.Seeds(r.Context(), r.Niche.ID)
	if err != nil {
		return err
	}
	for _, s := range seeds {
		v.Seeds = append(v.Seeds, s.Phrase)
	}
	if v.Typed != "" {
		v.OtherWords, err = r.Study.Gathering.OtherWords(r.Context(), r.Niche, v.Typed)
		if err != nil {
			return frame.Again(r.Ctx, err, func(bad *input.Error) error {
				v.Error = bad.Reason
				return v.render(r)
			})
		}
	}
	sp := r.Speak()
	for _, i := range v.OtherWords.Same {
		v.Same = append(v.Same, sp.Row(i))
	}
	return v.render(r)
}

func (v otherWords) render(r *frame.Request) (err error) {
	if err := v.offer(r); err != nil {
		return err
	}
	if v.Page, err = r.Page("Other words", "gather", -1); err != nil {
		return err
	}
	return r.Render("gather/words", v)
}
