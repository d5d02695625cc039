package plan

import (
	"fmt"
	"math"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"cleverniche/core/plan"
	"cleverniche/core/topic"
	"cleverniche/study/articles"
	"cleverniche/study/input"
	"cleverniche/study/money"
	"cleverniche/study/niches"
	"cleverniche/web/frame"
)

// choicePage is the choice.
type choicePage struct {
	frame.Page
	Tabs        []tab
	Rules       articles.Rules
	Taken, Left []choiceLine
	More        int // that were left out and are not shown
	Hours, Have int
	Worth, Free string
	Cost        string // what the swaps by hand cost; "" nothing
	From        string // what it was chosen from
	Floor       string // as it is typed
	Chance      int    // the same, in percent
	RuleCosts   []ruleCost
	Problem     string
	Swapped     bool
	Query       string
	Here        string // its address
	Unswapped   string // address of the same choice without what was decided by hand
}

// ruleCost is what a rule costs, and the address of the proposal without it.
type ruleCost struct{ Name, Cost, Without string }

// choiceLine is an article that is chosen, or is not.
type choiceLine struct {
	articles.ChosenArticle
	Worth, Rate, Ready string
	Hub                string
	Held               string // in words
	Swap               string // address of the choice with it, or without it
	Undo               string // address of the choice that decides on it by itself
	OnSheet            string
}

// mostLeft is how many of what was left out are shown.
const mostLeft = 40

func percentOf(x float64) int { return int(math.Round(100 * x)) }

// floorOf reads what an hour has to bring; what is no amount is none.
func floorOf(text string) int64 {
	x, err := strconv.ParseFloat(strings.ReplaceAll(strings.TrimSpace(text), ",", "."), 64)
	if err != nil || !(x > 0) || x > mostFloor {
		return 0
	}
	return int64(math.Round(x * 1e6))
}

const mostFloor = 1e6

func typedFloor(micros int64) string { return strconv.FormatFloat(float64(micros)/1e6, 'f', -1, 64) }

func rulesOf(r *frame.Request, q url.Values) articles.Rules {
	rules := r.Study.Articles.UsualRules(r.Context(), r.Niche)
	if q.Has("weeks") {
		rules.Weeks, _ = strconv.Atoi(strings.TrimSpace(q.Get("weeks"))) // what is no number is refused as 0
		rules.Floor = floorOf(q.Get("floor"))
		percent, _ := strconv.Atoi(strings.TrimSpace(q.Get("chance")))
		rules.LeastChance = float64(max(0, min(100, percent))) / 100
		rules.SpokesWithHub, rules.LearnFirst, rules.Waits = q.Has("hub"), q.Has("learn"), q.Has("season")
	}
	for name, to := range map[string]*[]uint{"in": &rules.In, "out": &rules.Out} {
		for _, text := range q[name] {
			if id, err := frame.IDOf(text); err == nil && !slices.Contains(*to, id) {
				*to = append(*to, id)
			}
		}
	}
	return rules
}

func queryOf(rules articles.Rules) string {
	q := url.Values{"weeks": {strconv.Itoa(rules.Weeks)}, "floor": {typedFloor(rules.Floor)},
		"chance": {strconv.Itoa(percentOf(rules.LeastChance))}}
	for name, on := range map[string]bool{"hub": rules.SpokesWithHub, "learn": rules.LearnFirst, "season": rules.Waits} {
		if on {
			q.Set(name, "yes")
		}
	}
	for name, ids := range map[string][]uint{"in": rules.In, "out": rules.Out} {
		for _, id := range ids {
			q.Add(name, fmt.Sprint(id))
		}
	}
	return q.Encode()
}

// with are the rules with a topic held in, held out, or neither.
func with(rules articles.Rules, id uint, held plan.Held) articles.Rules {
	without := func(list []uint) []uint {
		return slices.DeleteFunc(slices.Clone(list), func(one uint) bool { return one == id })
	}
	rules.In, rules.Out = without(rules.In), without(rules.Out)
	switch held {
	case plan.In:
		rules.In = append(rules.In, id)
	case plan.Out:
		rules.Out = append(rules.Out, id)
	}
	return rules
}

// leastCost is from what a rule's cost is told, in micro-units: a cent.
const leastCost = 10_000

// scopes say what topics are made of.
var scopes = map[niches.Scope]string{niches.ScopeKept: "of ideas you kept", niches.ScopeLooked: "of ideas looked up",
	niches.ScopeAll: "of all ideas"}

func readChoice(r *frame.Request) (v choicePage, err error) {
	q, err := url.ParseQuery(string(r.Request().URI().QueryString()))
	if err != nil {
		q = url.Values{}
	}
	v.Tabs, v.Rules = tabsOf(r, "plan/choice"), rulesOf(r, q)
	v.Niche, v.Query = r.Niche, queryOf(v.Rules)
	topics, err := r.Topics()
	if err != nil {
		return v, err
	}
	c, err := r.Study.Articles.Choose(r.Context(), r.Niche, v.Rules)
	var wrong *input.Error
	if err != nil {
		if asInput(err, &wrong) {
			v.Problem = wrong.Reason
			return v, nil
		}
		return v, err
	}
	v.Hours, v.Have, v.Floor = c.Hours, c.Have, typedFloor(v.Rules.Floor)
	v.Chance = percentOf(v.Rules.LeastChance)
	v.From = fmt.Sprintf("Chosen from %s of %s (%s): those looked up and not published.",
		r.Speak().Count(c.Asked), r.Speak().Counted(len(topics.List), "topic", "topics"), scopes[r.Niche.Scope])
	v.Worth, v.Free = money.Text(c.Worth, r.Niche.Currency), money.Text(c.Free, r.Niche.Currency)
	v.Swapped = len(v.Rules.In)+len(v.Rules.Out) > 0
	if v.Swapped && c.Free > c.Worth {
		v.Cost = money.Text(c.Free-c.Worth, r.Niche.Currency)
	}
	address := func(rules articles.Rules) string { return r.Path("plan/choice?" + queryOf(rules)) }
	plain := v.Rules
	plain.In, plain.Out = nil, nil
	v.Here, v.Unswapped = address(v.Rules), address(plain)
	hub, learn, late, chance, floor := v.Rules, v.Rules, v.Rules, v.Rules, v.Rules
	hub.SpokesWithHub, learn.LearnFirst, late.Waits, chance.LeastChance, floor.Floor = false, false, false, 0, 0
	for _, one := range []struct {
		name    string
		cost    int64
		without articles.Rules
	}{{"New site: start with Learn articles", c.Costs.LearnFirst, learn},
		{"Write a spoke only with its hub", c.Costs.SpokesWithHub, hub},
		{"Leave out what would miss its season", c.Costs.LateWaits, late},
		{fmt.Sprintf("Nothing with a page-one chance under %d%%", v.Chance), c.Costs.LeastChance, chance},
		{"Nothing under " + v.Floor + " for an hour", c.Costs.Floor, floor}} {
		if one.cost >= leastCost {
			v.RuleCosts = append(v.RuleCosts, ruleCost{one.name, money.Text(one.cost, r.Niche.Currency), address(one.without)})
		}
	}
	lineOf := func(a articles.ChosenArticle, taken bool) choiceLine {
		l := choiceLine{ChosenArticle: a, Ready: said(a.Ready), OnSheet: string(a.State())}
		if low, likely, high, known := a.Article.Worth(); known {
			l.Worth = money.Range(low, high, r.Niche.Currency)
			l.Rate = money.Text(likely/int64(a.Hours)/10_000*10_000, r.Niche.Currency)
		}
		if a.Hub != topic.NoHub && a.HubHand {
			l.Hub = topics.List[a.Hub].Name
		}
		swapped := plan.In
		if taken {
			swapped = plan.Out
		}
		l.Swap = address(with(v.Rules, a.ID, swapped))
		if a.Held != plan.Free {
			l.Held = map[plan.Held]string{plan.In: "you included it", plan.Out: "you left it out"}[a.Held]
			l.Undo = address(with(v.Rules, a.ID, plan.Free))
		}
		return l
	}
	for _, a := range c.Taken {
		v.Taken = append(v.Taken, lineOf(a, true))
	}
	for _, a := range c.Left {
		if len(v.Left) == mostLeft {
			v.More++
			continue
		}
		v.Left = append(v.Left, lineOf(a, false))
	}
	return v, nil
}

func showChoice(r *frame.Request) error {
	v, err := readChoice(r)
	if err != nil {
		return err
	}
	if r.Partial() {
		r.Set("HX-Push-Url", r.Path("plan/choice?"+v.Query))
		return r.Render("plan/chosen", v)
	}
	if v.Page, err = r.Page("Proposal", stage.Path, -1); err != nil {
		return err
	}
	return r.Render("plan/choice", v)
}

// takeChoice puts what is chosen on the sheet.
func takeChoice(r *frame.Request) error {
	v, err := readChoice(r)
	if err != nil {
		return err
	}
	var ids []uint
	for _, l := range v.Taken {
		if l.OnSheet == "" {
			ids = append(ids, l.ID)
		}
	}
	if len(ids) == 0 {
		return &input.Error{Field: "ideas", Reason: "All of the proposal is in your plan already."}
	}
	if _, err := r.Study.Articles.Add(r.Context(), r.Niche, ids); err != nil {
		return err
	}
	r.Set("HX-Redirect", r.Path("plan"))
	return r.SendString("")
}
