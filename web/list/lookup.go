package list

import (
	"slices"
	"strconv"
	"strings"

	"cleverniche/study/input"
	"cleverniche/study/results"
	"cleverniche/web/filters"
	"cleverniche/web/frame"
	"cleverniche/web/jobs"
)

// chosen reads the chosen ideas of a form: those ticked, or all that the sieve leaves.
// Of more than can be looked up at once, one more comes back: study says so.
func chosen(r *frame.Request) (ids []uint, all bool, err error) {
	body := string(r.Body())
	but := map[uint]bool{}
	for _, p := range filters.Pairs(body) {
		switch p.Key {
		case "all":
			all = p.Value != ""
		case "id", "but":
			id, err := frame.IDOf(p.Value)
			if err != nil {
				return nil, false, err
			}
			if p.Key == "but" {
				but[id] = true
			} else {
				ids = append(ids, id)
			}
		}
	}
	by, stage, err := filters.Of(r, r.FormValue("stage"), body)
	if err != nil {
		return nil, true, err
	}
	if !all {
		ids, err = members(r, stage, ids)
		return ids, false, err
	}
	b, err := filters.TableAt(r, stage)
	if err != nil {
		return nil, true, err
	}
	if r.FormValue("all") == "above" {
		return lookupOf(r).Lacking(b.Pass(by.Free())).IDs(0, results.MostLookedUp+1), true, nil
	}
	ids = b.Pass(by).IDs(0, results.MostLookedUp+1+len(but))
	ids = slices.DeleteFunc(ids, func(id uint) bool { return but[id] })
	ids, err = members(r, stage, ids)
	return ids[:min(len(ids), results.MostLookedUp+1)], true, err
}

// members are the ideas that something is done with: of topics, all theirs.
func members(r *frame.Request, stage frame.Stage, ids []uint) ([]uint, error) {
	if !stage.Topics {
		return ids, nil
	}
	topics, err := r.Topics()
	if err != nil {
		return nil, err
	}
	return topics.Expand(ids), nil
}

// lookupOf is what a form asks to be looked up.
func lookupOf(r *frame.Request) results.Lookup { return results.LookupOf(r.FormValue("what")) }

func estimateLookup(r *frame.Request) error {
	ids, all, err := chosen(r)
	if err != nil {
		return err
	}
	v := jobs.Estimate{Niche: r.Niche, Ideas: len(ids), All: all, Does: lookupOf(r).For(len(ids))}
	if len(ids) == 0 {
		v.Error = "Select ideas in the list, or look up all that are left."
		return r.Render("list/lookup-estimate", v)
	}
	if digs(r) {
		return estimateDig(r, ids, v)
	}
	e, err := r.Study.Results.Estimate(r.Context(), r.Niche, lookupOf(r), ids)
	if err != nil {
		return err
	}
	if v.Spent, v.Over, err = r.Study.Ask.Purse(r.Context(), e.Micros); err != nil {
		return err
	}
	v.Hunts = lookupOf(r).Key == results.Top().Key && len(ids) > 1 && len(ids) <= results.MostHunted
	v.Estimate, v.Cost, v.Held = e, r.Study.Ask.Cost(e), lookupOf(r).Held(e.Fresh)
	return r.Render("list/lookup-estimate", v)
}

func startLookup(r *frame.Request) error {
	ids, _, err := chosen(r)
	if err != nil {
		return err
	}
	if digs(r) {
		return startDig(r, ids)
	}
	if r.FormValue("until") != "" {
		return startHunt(r, ids)
	}
	job, err := r.Study.Results.Start(r.Context(), r.Niche, lookupOf(r), ids, r.FormValue("again") == "yes")
	if err != nil {
		return err
	}
	return jobs.Show(r, job.ID)
}

// startHunt looks ideas up, the most promising first, until there is enough.
func startHunt(r *frame.Request, ids []uint) error {
	h := results.Hunt{Ideas: ids}
	var err error
	if text := strings.TrimSpace(r.FormValue("want")); text != "" {
		if h.Want, err = strconv.Atoi(text); err != nil || h.Want < 1 {
			return input.Bad("want", "“%s” is no number of ideas.", input.Clip(text, 20))
		}
	}
	if h.Difficulty, err = strconv.ParseFloat(strings.TrimSpace(r.FormValue("bar")), 64); err != nil && h.Want > 0 {
		return input.Bad("bar", "“%s” is no difficulty.", input.Clip(r.FormValue("bar"), 20))
	}
	if h.Micros, err = r.Study.Ask.ReadMoney(r.FormValue("price")); err != nil {
		return err
	}
	job, err := r.Study.Results.Hunt(r.Context(), r.Niche, h)
	if err != nil {
		return err
	}
	return jobs.Show(r, job.ID)
}
