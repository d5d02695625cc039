package main

import (
	"cmp"
	"encoding/json"
	"fmt"
	"io"
	"maps"
	"math"
	"math/rand/v2"
	"os"
	"slices"
	"time"

	"cleverniche/core/difficulty"
	"cleverniche/core/links"
	"cleverniche/core/niche"
	"cleverniche/core/serp"
	"cleverniche/core/watch"
	"cleverniche/core/worth"
	"cleverniche/standin"

	"github.com/spf13/cobra"
	"golang.org/x/sync/errgroup"
)

// What the case is measured with.
const (
	caseTopics  = 120 // phrases of a niche at most, taken as topics
	caseLeast   = 60  // fewer are no niche
	caseDrawn   = 40
	caseDraws   = 20 // samples of a niche
	caseWritten = 20 // topics that are published
)

// caseNiche is a hobby of a world as one engine shows it to one site, wholly looked up, and what publishing brought.
type caseNiche struct {
	World  int
	Engine string
	Hobby  string
	Topics []niche.Topic
	Pieces []niche.Piece // the best first
	Got    float64       // visits a month of the first pieces, settled
	Came   []int         // the places that they came to; 0 below where was looked

	model  difficulty.Model
	mine   difficulty.Mine
	fields map[string]difficulty.Field // by phrase
}

// caseCommand measures the case: ranges from samples, the order of candidates, the range of earnings.
func caseCommand(p *plan) *cobra.Command {
	var keep string
	c := &cobra.Command{Use: "case", Short: "Measure what the case says: sampled ranges, the order of niches, earnings",
		RunE: func(cmd *cobra.Command, _ []string) error {
			known, unseen := p.train[:min(8, len(p.train))], p.test
			all, err := keptNiches(keep, slices.Concat(known, unseen), p.day)
			if err != nil {
				return err
			}
			for i, worlds := range [][]int{known, unseen} {
				list := slices.DeleteFunc(slices.Clone(all), func(n caseNiche) bool { return !slices.Contains(worlds, n.World) })
				fmt.Fprintf(cmd.OutOrStdout(), "%s: %d niches of %d worlds\n", []string{"calibrated on", "unseen"}[i], len(list),
					len(worlds))
				if err := tellCase(cmd.OutOrStdout(), list); err != nil {
					return err
				}
			}
			return nil
		}}
	c.Flags().StringVar(&keep, "keep", "", "file to keep the niches in, and to take them from when it is there")
	return c
}

// keptNiches looks the niches of worlds up, or reads those that were kept.
func keptNiches(keep string, worlds []int, day time.Time) (all []caseNiche, err error) {
	if data, err := os.ReadFile(keep); keep != "" && err == nil {
		return all, json.Unmarshal(data, &all)
	}
	found := make([][]caseNiche, len(worlds))
	var group errgroup.Group
	group.SetLimit(2)
	for i, number := range worlds {
		group.Go(func() (err error) {
			found[i], err = caseNiches(number, day)
			return err
		})
	}
	if err := group.Wait(); err != nil {
		return nil, err
	}
	all = slices.Concat(found...)
	if keep == "" {
		return all, nil
	}
	body, err := json.Marshal(all)
	if err != nil {
		return nil, err
	}
	return all, os.WriteFile(keep, body, 0o644)
}

// caseNiches are the hobbies of a world on each engine, for a new site of it.
func caseNiches(number int, day time.Time) (out []caseNiche, err error) {
	err = eachNiche(number, day, func(l *lab, one caseNiche, site string, rng *rand.Rand) error {
		err := l.publish(&one, caseWritten, site, day, rng)
		out = append(out, one)
		return err
	})
	return out, err
}

// eachNiche looks the hobbies of a world up on each engine, for a new site of it.
func eachNiche(number int, day time.Time,
	each func(l *lab, n caseNiche, site string, rng *rand.Rand) error) error {
	l, err := newLab(number, day)
	if err != nil {
		return err
	}
	rng := rand.New(rand.NewPCG(uint64(number), 31))
	_, _, newer := l.sites()
	byHobby := map[string][]standin.QueryTruth{}
	for _, q := range l.world.Truth().Queries {
		if q.Intent != "find" && q.Searches >= 20 {
			byHobby[q.Hobby] = append(byHobby[q.Hobby], q)
		}
	}
	for _, hobby := range slices.Sorted(maps.Keys(byHobby)) {
		list := byHobby[hobby]
		rng.Shuffle(len(list), func(i, j int) { list[i], list[j] = list[j], list[i] })
		if list = list[:min(caseTopics, len(list))]; len(list) < caseLeast {
			continue
		}
		site := newer[rng.IntN(len(newer))]
		for _, engine := range standin.EngineNames {
			one, err := l.caseNiche(list, engine, site, day)
			if err != nil {
				return err
			}
			one.World, one.Hobby = number, hobby
			if err := each(l, one, site, rng); err != nil {
				return err
			}
		}
	}
	return nil
}

// caseNiche looks all of a niche up.
func (l *lab) caseNiche(list []standin.QueryTruth, engine, site string, day time.Time) (out caseNiche, err error) {
	out.Engine = engine
	fields := make([]difficulty.Field, len(list))
	var pages [][]difficulty.Signals
	for i, q := range list {
		r, err := l.read(q.Text, engine, day.Format(time.DateOnly))
		if err != nil {
			return out, err
		}
		fields[i].Locked = r.Locked
		for _, e := range r.Entries {
			fields[i].Rivals = append(fields[i].Rivals, difficulty.SignalsOf(e))
		}
		pages = append(pages, fields[i].Rivals)
	}
	m := difficulty.Calibrated.Learn(pages[:min(usualPages, len(pages))])
	out.model, out.fields = m, map[string]difficulty.Field{}
	mine := difficulty.Mine{SiteStanding: l.standing[site], LinkStanding: links.SolidStanding, Fit: difficulty.WellMade}
	out.mine = mine
	for i, q := range list {
		out.fields[q.Text] = fields[i]
		v := m.Forecast(fields[i], mine)
		clicks := worth.Searches.Share(m.Distribution(fields[i], m.Signals(mine))[:difficulty.Ranks], worth.Beside{})
		out.Topics = append(out.Topics, niche.Topic{Lead: q.Text, Ideas: 1, Searches: q.Searches, Judged: true,
			Difficulty: v.Difficulty, Reach: v.Reach, Locked: v.Locked != ""})
		if v.Locked == "" {
			out.Pieces = append(out.Pieces, niche.Piece{Lead: q.Text, Searches: q.Searches, PageOne: v.PageOne.Mean,
				TopFive: min(v.TopFive.Mean, v.PageOne.Mean), Clicks: clicks, PerVisit: worth.Range{Low: 1, Likely: 1, High: 1},
				Hours: 1})
		}
	}
	slices.SortStableFunc(out.Pieces, func(a, b niche.Piece) int {
		return cmp.Compare(b.Searches*b.Clicks, a.Searches*a.Clicks)
	})
	return out, nil
}

// publish publishes the first pieces and counts what they bring once they have settled.
func (l *lab) publish(n *caseNiche, pieces int, site string, day time.Time, rng *rand.Rand) error {
	n.Pieces = n.Pieces[:min(pieces, len(n.Pieces))]
	batch := standin.Batch{Weeks: []int{settled}, Engines: []string{n.Engine}}
	for _, p := range n.Pieces {
		batch.Trials = append(batch.Trials, standin.Experiment{Site: site, Phrase: p.Lead,
			Fit: usersFit + rng.IntN(101-usersFit), Date: day.Format(time.DateOnly)})
	}
	if err := l.world.Prepare(&batch); err != nil {
		return err
	}
	for i, o := range l.world.Try(batch) {
		if o.Error != "" {
			return fmt.Errorf("%s: %s", n.Pieces[i].Lead, o.Error)
		}
		came := 0
		for _, at := range o.Positions {
			came = at.Position
			if at.Position > 0 && at.Position <= serp.FirstPage {
				n.Got += n.Pieces[i].Searches * worth.Searches.At(at.Position)
			}
		}
		n.Came = append(n.Came, came)
	}
	return nil
}

func tellCase(out io.Writer, all []caseNiche) error {
	// Ranges of forty drawn topics against all.
	held := map[string]int{}
	samples := 0
	bars := niche.Default
	does := func(t niche.Topic) bool { return !t.Locked && math.Round(t.Difficulty) <= bars.Difficulty }
	sizes := map[string]func(niche.Topic) float64{
		"topics under the bar": func(niche.Topic) float64 { return 1 },
		"their searches":       func(t niche.Topic) float64 { return t.Searches }}
	for k, n := range all {
		for d := range caseDraws {
			list := slices.Clone(n.Topics)
			units := make([]niche.Unit, len(list))
			for i := range list {
				list[i].Judged = false
				units[i].Stratum, units[i].Weight = list[i].Stratum(), niche.WeightOf(list[i].Searches)
			}
			for _, i := range niche.Draw(units, caseDrawn, uint64(1000*k+d)) {
				list[i].Judged, list[i].Drawn = true, true
			}
			samples++
			for name, size := range sizes {
				truth := 0.0
				for _, t := range n.Topics {
					if does(t) {
						truth += size(t)
					}
				}
				if r, told := niche.Whole(list, does, size); told && r.Low <= truth+1e-9 && truth <= r.High+1e-9 {
					held[name]++
				}
			}
		}
	}
	for _, name := range slices.Sorted(maps.Keys(sizes)) {
		fmt.Fprintf(out, "  %s: the range of %d drawn ones held the whole in %.0f %% of %d samples\n", name, caseDrawn,
			100*float64(held[name])/float64(samples), samples)
	}
	tau, low, high, triples := orderOf(all)
	fmt.Fprintf(out, "  order of the hobbies of a world by visits, forecast and got: Kendall's tau %.2f (95 %%: %.2f to "+
		"%.2f) over %d orders\n", tau, low, high, triples)
	expected, got := 0.0, 0.0
	for _, n := range all {
		for _, p := range n.Pieces {
			expected += p.Searches * p.Clicks
		}
		got += n.Got
	}
	fmt.Fprintf(out, "  what was chosen for its forecast brought %.2f of it\n", got/expected)
	tellChances(out, all)
	for _, chosen := range []float64{1, niche.Promised} {
		for _, tied := range []float64{0, 0.1, niche.Together, 0.3, 0.5} {
			in := 0
			for _, n := range all {
				e, err := niche.Earn(n.Pieces, niche.Assumed{Begin: time.January, WeekHours: 40, LeadMonths: 3, Months: 12,
					Tied: tied, Chosen: chosen, VisitFactor: 1})
				if err != nil {
					return err
				}
				if r := e.Months[11].Income; r.Low <= n.Got && n.Got <= r.High {
					in++
				}
			}
			fmt.Fprintf(out, "  chosen brings %.1f, tied by %.1f: the range of earnings held what came in %.0f %%\n", chosen,
				tied, 100*float64(in)/float64(len(all)))
		}
	}
	return nil
}

// tellChances holds the chances of what was chosen for its forecast against what came: the winner's curse of chances.
func tellChances(out io.Writer, all []caseNiche) {
	var one, five []watch.Outcome
	var sums [4]float64 // page one expected and come, top five expected and come
	for _, n := range all {
		for i, at := range n.Came {
			p := n.Pieces[i]
			is1, is5 := at > 0 && at <= serp.FirstPage, at > 0 && at <= 5
			one, five = append(one, watch.Outcome{Chance: p.PageOne, Came: is1}),
				append(five, watch.Outcome{Chance: p.TopFive, Came: is5})
			sums[0], sums[2] = sums[0]+p.PageOne, sums[2]+p.TopFive
			if is1 {
				sums[1]++
			}
			if is5 {
				sums[3]++
			}
		}
	}
	_, brier1, miss1 := watch.Right(one)
	_, brier5, miss5 := watch.Right(five)
	for i := range one { // as a planned article has them
		x := one[i].Chance - five[i].Chance
		f := watch.Forecast{Chances: watch.Chosen([]float64{0, 0, 0, 0, five[i].Chance, 0, 0, 0, 0, x})}
		one[i].Chance, five[i].Chance = f.PageOne(), f.TopFive()
	}
	_, _, then1 := watch.Right(one)
	_, _, then5 := watch.Right(five)
	fmt.Fprintf(out, "  chances of %d articles chosen for their forecast: page one %.0f expected, %.0f came, calibration "+
		"error %.3f, Brier %.3f; top five %.0f expected, %.0f came, %.3f, %.3f; corrected for being chosen %.3f and %.3f\n",
		len(one), sums[0], sums[1], miss1, brier1, sums[2], sums[3], miss5, brier5, then1, then5)
}

// orderOf is Kendall's tau between forecast and outcome, over all pairs of hobbies of a world and an engine, with the
// interval of a bootstrap over these.
func orderOf(all []caseNiche) (tau, low, high float64, groups int) {
	by := map[string][]caseNiche{}
	for _, n := range all {
		key := fmt.Sprint(n.World, n.Engine)
		by[key] = append(by[key], n)
	}
	expected := func(n caseNiche) (sum float64) {
		for _, p := range n.Pieces {
			sum += p.Searches * p.Clicks
		}
		return sum
	}
	var each [][2]float64 // agreeing less disagreeing pairs, and pairs
	for _, key := range slices.Sorted(maps.Keys(by)) {
		list := by[key]
		if len(list) < 2 {
			continue
		}
		var one [2]float64
		for i := range list {
			for j := range i {
				x, y := expected(list[i])-expected(list[j]), list[i].Got-list[j].Got
				switch {
				case x*y > 0:
					one[0]++
				case x*y < 0:
					one[0]--
				}
				one[1]++
			}
		}
		each = append(each, one)
	}
	mean := func(pick func(i int) int) float64 {
		a, b := 0.0, 0.0
		for i := range each {
			a, b = a+each[pick(i)][0], b+each[pick(i)][1]
		}
		return a / math.Max(1, b)
	}
	rng := rand.New(rand.NewPCG(7, 7))
	var drawn []float64
	for range 2000 {
		drawn = append(drawn, mean(func(int) int { return rng.IntN(len(each)) }))
	}
	slices.Sort(drawn)
	return mean(func(i int) int { return i }), drawn[50], drawn[1949], len(each)
}
