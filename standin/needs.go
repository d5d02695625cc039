package standin

import (
	"fmt"
	"hash/fnv"
	"math"
	"math/rand/v2"
	"slices"
	"sort"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"
)

// need is what someone wants to know, do or buy: the truth that no engine and
// no tool can see.
type need struct {
	id       int
	hobby    int
	template *Template
	bind     map[string]value
	base     float64 // searches a month over all wordings, before season and trend
	growth   float64 // a year, as a factor: 1 is none
	cpc      float64 // dollars
	queries  []*query
	serves   [pageKinds]float64 // sums to 1
	subject  string             // the thing that it is about first of all
	things   []string           // all that its slots hold, sorted
	owner    *page              // whose name it is, when somebody's site is wanted
}

// query is one wording of a need.
type query struct {
	id     int
	text   string
	need   *need
	share  float64 // of the need's searches
	tokens []string
	typo   bool // typed by slip
}

// random returns a generator that depends on the world and the names only.
func (w *World) random(names ...any) *rand.Rand {
	h := fnv.New64a()
	fmt.Fprint(h, names...)
	return rand.New(rand.NewPCG(uint64(w.Number), h.Sum64()))
}

// demandScale is searches a month of a need of weight 1.
const demandScale = 4200

func (w *World) growNeeds(hobby int, s *Scenario) {
	slots := w.slotValues(s)
	for t := range s.Needs {
		template := &s.Needs[t]
		for _, bind := range w.bindings(s.Slug, template, slots) {
			w.addNeed(hobby, template, bind, slots)
		}
	}
	w.slots = append(w.slots, slots)
}

// slotValues reads the scenario's slots, and makes models of makers and series.
func (w *World) slotValues(s *Scenario) map[string][]value {
	slots := map[string][]value{}
	for name, list := range s.Slots {
		for i, text := range list {
			slots[name] = append(slots[name], readValue(text, i))
		}
	}
	rng := w.random(s.Slug, "models")
	for m, maker := range slots["maker"] {
		series := slices.Clone(slots["series"])
		rng.Shuffle(len(series), func(i, j int) { series[i], series[j] = series[j], series[i] })
		for i, one := range series[:min(4, len(series))] {
			name := strings.ToLower(maker.one + " " + one.one)
			gear := slots["gear"][rng.IntN(min(6, len(slots["gear"])))]
			slots["model"] = append(slots["model"], value{one: name, many: name, maker: strings.ToLower(maker.one),
				price: math.Round(gear.price * (0.6 + 0.8*rng.Float64())), weight: maker.weight / float64(i+1+m/3)})
		}
	}
	for i, m := range slots["maker"] {
		slots["maker"][i].one, slots["maker"][i].many = strings.ToLower(m.one), strings.ToLower(m.one)
	}
	return slots
}

// bindings lists the ways to fill the slots of a template's first wording; when
// there are too many, a sample that prefers the popular ones.
func (w *World) bindings(slug string, t *Template, slots map[string][]value) []map[string]value {
	var keys []gap
	for _, g := range parseGaps(t.Wordings[0]) {
		if g.slot != "" && !slices.ContainsFunc(keys, func(k gap) bool { return k.key() == g.key() }) {
			keys = append(keys, g)
		}
	}
	all := []map[string]value{{}}
	for _, g := range keys {
		var next []map[string]value
		for _, b := range all {
			for _, v := range slots[g.slot] {
				if g.second && b[g.slot].one == v.one {
					continue
				}
				c := map[string]value{g.key(): v}
				for k, old := range b {
					c[k] = old
				}
				next = append(next, c)
			}
		}
		all = next
	}
	most := t.Most
	if most == 0 {
		most = 180
	}
	if len(all) <= most {
		return all
	}
	rng := w.random(slug, t.Name, "sample")
	type draw struct {
		key  float64
		bind map[string]value
	}
	draws := make([]draw, len(all))
	for i, b := range all {
		draws[i] = draw{rng.ExpFloat64() / bindWeight(b), b}
	}
	sort.SliceStable(draws, func(i, j int) bool { return draws[i].key < draws[j].key })
	out := make([]map[string]value, most)
	for i := range out {
		out[i] = draws[i].bind
	}
	return out
}

func bindWeight(b map[string]value) float64 {
	weight := 1.0
	for _, k := range sortedKeys(b) {
		weight *= b[k].weight
	}
	return weight
}

func sortedKeys[V any](m map[string]V) []string {
	keys := make([]string, 0, len(m))
	for k := range m {
		keys = append(keys, k)
	}
	sort.Strings(keys)
	return keys
}

func (w *World) addNeed(hobby int, t *Template, bind map[string]value, slots map[string][]value) {
	n := &need{id: len(w.needs), hobby: hobby, template: t, bind: bind, growth: 1}
	rng := w.random(w.scenarios[hobby].Slug, t.Name, fill(parseGaps(t.Wordings[0]), bind, nil))
	n.base = demandScale * t.Weight * bindWeight(bind) * math.Exp(0.7*rng.NormFloat64())
	switch u := rng.Float64(); {
	case u < 0.08:
		n.growth = 1.15 + 0.5*rng.Float64()
	case u < 0.16:
		n.growth = 0.55 + 0.3*rng.Float64()
	default:
		n.growth = 1 + 0.04*rng.NormFloat64()
	}
	n.subject, n.things = subjectOf(bind)
	price := 60.0
	for _, k := range sortedKeys(bind) {
		if bind[k].price > 0 {
			price = bind[k].price
		}
	}
	n.cpc = math.Max(0.03, t.Worth*price*math.Exp(0.35*rng.NormFloat64()))
	total := 0.0
	for kind, weight := range t.Serves {
		n.serves[pageKindNamed(kind)] = weight
		total += weight
	}
	for k := range n.serves {
		n.serves[k] /= total
	}
	w.wordNeed(n, rng, slots)
	if len(n.queries) > 0 {
		w.needs = append(w.needs, n)
	}
}

// subjectOf tells what a need with those values is about.
func subjectOf(bind map[string]value) (subject string, things []string) {
	for _, k := range sortedKeys(bind) {
		things = append(things, bind[k].one)
	}
	sort.Strings(things)
	for _, slot := range mainSlots {
		if v, ok := bind[slot]; ok {
			return v.one, things
		}
	}
	return "", things
}

// answers is how far a page about one need answers another, 0 to 1: what is about
// the same thing helps, and more so when it has the same purpose.
func (n *need) answers(other *need) float64 {
	if n == other {
		return 1
	}
	if n.hobby != other.hobby || n.subject == "" || n.subject != other.subject {
		return 0
	}
	shared := 0
	for _, t := range n.things {
		if contains(other.things, t) {
			shared++
		}
	}
	a := 0.4 + 0.25*float64(shared)/float64(len(n.things)+len(other.things)-shared)
	if n.template.Intent == other.template.Intent {
		a += 0.2
	}
	return a
}

// wordNeed writes the need's queries; a text that another need has already is
// left to it.
func (w *World) wordNeed(n *need, rng *rand.Rand, slots map[string][]value) {
	sum := 0.0
	for rank, wording := range n.template.Wordings {
		text := fill(parseGaps(wording), n.bind, func(g gap) value {
			return slots[g.slot][rng.IntN(len(slots[g.slot]))]
		})
		text = agree(text, n.bind)
		share := math.Exp(0.5*rng.NormFloat64()) / math.Pow(float64(rank+1), 1.15)
		sum += share
		w.addQuery(n, text, share)
	}
	if len(n.queries) > 0 && n.base > 900 {
		if typo := misspell(n.queries[0].text, rng); typo != n.queries[0].text {
			if q := w.addQuery(n, typo, n.queries[0].share*0.06); q != nil {
				q.typo = true
			}
		}
	}
	for _, q := range n.queries {
		q.share /= sum
	}
}

// agree puts the verb in the plural with things that have no singular.
func agree(text string, bind map[string]value) string {
	if v, ok := bind["gear"]; ok && v.one == v.many && strings.HasSuffix(v.one, "s") {
		return pluralVerbs.Replace(text)
	}
	return text
}

var pluralVerbs = strings.NewReplacer("why is my ", "why are my ", "how does ", "how do ", "what does ", "what do ",
	"what is ", "what are ", " is best ", " are best ", "is stargazing ", "are stargazing ")

// addQuery adds a wording to a need, and returns it; nil when another need has it.
func (w *World) addQuery(n *need, text string, share float64) *query {
	text = strings.Join(tokens(text), " ")
	if _, taken := w.queries[text]; taken {
		return nil
	}
	q := &query{id: len(w.queryList), text: text, need: n, share: share, tokens: strings.Fields(text)}
	w.queries[text] = q
	w.queryList = append(w.queryList, q)
	n.queries = append(n.queries, q)
	return q
}

// misspell drops one of a doubled letter, or swaps two letters of a long word.
func misspell(s string, rng *rand.Rand) string {
	for i := 1; i < len(s); i++ {
		if s[i] == s[i-1] && s[i] != ' ' {
			return s[:i] + s[i+1:]
		}
	}
	words := strings.Fields(s)
	w := rng.IntN(len(words))
	if len(words[w]) > 5 {
		b := []byte(words[w])
		i := 2 + rng.IntN(len(b)-4)
		b[i], b[i+1] = b[i+1], b[i]
		words[w] = string(b)
	}
	return strings.Join(words, " ")
}

// searches is how often the query is typed in a month in a country: Poisson around
// the need's base, season and trend.
func (w *World) searches(q *query, month time.Time, in place) int {
	n := q.need
	years := month.Sub(w.Founded).Hours() / (24 * 365.25)
	mean := n.base * q.share * n.template.Season.Factor(in.month(int(month.Month()))) * math.Pow(n.growth,
		years) * w.appetite(n, in)
	if in.country == home.country {
		return poisson(w.random(q.text, month.Format("2006-01")), mean)
	}
	return poisson(w.random(q.text, in.country, month.Format("2006-01")), mean)
}

// steady is the query's mean searches a month now, without season or noise.
func (q *query) steady() float64 { return q.need.base * q.share }

func poisson(rng *rand.Rand, mean float64) int {
	if mean > 60 {
		return max(0, int(math.Round(mean+math.Sqrt(mean)*rng.NormFloat64())))
	}
	limit, k, p := math.Exp(-mean), 0, rng.Float64()
	for p > limit {
		k++
		p *= rng.Float64()
	}
	return k
}

// tokens splits text into lower-case words of letters and digits; an apostrophe
// or a hyphen inside a word stays.
func tokens(s string) []string {
	var out []string
	eachToken(s, func(tok string) { out = append(out, tok) })
	return out
}

// inWord tells the ASCII bytes of lower-case words.
var inWord = func() (in [256]bool) {
	for _, c := range []byte("abcdefghijklmnopqrstuvwxyz0123456789'-") {
		in[c] = true
	}
	return in
}()

func eachToken(s string, do func(tok string)) {
	s = strings.ToLower(s)
	start := -1
	for i := 0; i < len(s); {
		in, size := inWord[s[i]], 1
		if s[i] >= utf8.RuneSelf {
			var r rune
			r, size = utf8.DecodeRuneInString(s[i:])
			in = unicode.IsLetter(r)
		}
		if in && start < 0 {
			start = i
		} else if !in && start >= 0 {
			do(s[start:i])
			start = -1
		}
		i += size
	}
	if start >= 0 {
		do(s[start:])
	}
}
