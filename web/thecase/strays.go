package thecase

import (
	"fmt"
	"net/url"
	"strconv"
	"strings"

	"cleverniche/core/subject"
	"cleverniche/study/input"
	"cleverniche/study/subjects"
	"cleverniche/web/frame"
)

// strays are the ideas that are off the subject.
type strays struct {
	Count int
	Parts []part
	Said  []subjects.Stray
	None  string // why there are none
}

// part is a part of them, of which some are shown.
type part struct {
	subjects.Part
	// Called is by what they are called, the words that they have in common.
	Called string
	IDs    string // of all, with commas between them
	Shown  []subjects.Stray
	More   int
	New    string // the form of a new niche, filled in
}

// mostStrays is how many of a part the page shows.
const mostStrays = 20

func (v *page) strays(r *frame.Request) error {
	found, err := r.Study.Subjects.OnHand(r.Context(), r.Niche)
	if err != nil {
		return err
	}
	v.Strays = strays{Said: found.Said, None: "None found. Ideas about something else, such as a " +
		"film or a firm, are found by the sites that rank for them."}
	if least := subject.LeastLookedUp; found.LookedUp < least {
		v.Strays.None = fmt.Sprintf("Look up %d ideas first. Then ideas that only share its words (another meaning, a "+
			"film, a "+
			"firm) are found by the sites that rank for them.", least)
	}
	for _, p := range found.Parts {
		one := part{Part: p, Called: strings.Join(p.Words, ", "), Shown: p.Strays[:min(mostStrays, len(p.Strays))]}
		one.More = len(p.Strays) - len(one.Shown)
		ids, seeds := make([]string, len(p.Strays)), []string{}
		for i, s := range p.Strays {
			ids[i] = strconv.Itoa(int(s.ID))
			if i < 3 {
				seeds = append(seeds, s.Phrase)
			}
		}
		one.IDs = strings.Join(ids, ",")
		one.New = "/niches/new?" + url.Values{"name": {frame.Capital(strings.Join(p.Words, " "))},
			"seed": {strings.Join(seeds, "\n")}, "country": {r.Niche.Country}, "language": {r.Niche.Language}}.Encode()
		v.Strays.Parts = append(v.Strays.Parts, one)
		v.Strays.Count += len(p.Strays)
	}
	return nil
}

// saySubject takes down what somebody says of ideas, and leads back to where it was said.
func saySubject(r *frame.Request) error {
	side, ok := frame.Sides[r.FormValue("side")]
	if !ok {
		return input.Bad("side", "That option is not available. Reload the page.")
	}
	var ids []uint
	for _, text := range strings.Split(r.FormValue("ids"), ",") {
		id, err := frame.IDOf(text)
		if err != nil {
			return input.ErrNotFound
		}
		ids = append(ids, id)
	}
	if _, err := r.Study.Subjects.Say(r.Context(), r.Niche, ids, side.Is); err != nil {
		return err
	}
	if r.FormValue("story") != "" && len(ids) == 1 {
		return r.To(r.Path(fmt.Sprintf("ideas/%d", ids[0])))
	}
	return back(r, "#strays")
}
