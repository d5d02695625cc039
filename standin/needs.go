package standin

import (
	"fmt"
	"hash/fnv"
	"maps"
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
	bind     map[string]*value
	base     float64 // searches a month over all wordings, before season and trend
	growth   float64 // a year, as a factor: 1 is none
	cpc      float64 // dollars
	queries  []*query
	serves   [pageKinds]float64 // sums to 1
	subject  string             // the thing that it is about first of all
	things   []string           // all that its slots hold, sorted
	owner    *page              // whose name it is, when somebody's site is wanted
	lines    *saying            // what pages on it can say
	missed   bool               // the known sites have not noticed that it is searched
}

// query is one wording of a need.
type query struct {
	id     int
	text   string
	need   *need
	share  float64 // of the need's searches
	tokens []string
	typo   bool   // typed by slip
	said   *value // as a value that fills a gap
}

// random returns a generator that depends on the world and the names only.
func (w *World) random(names ...any) *rand.Rand {
	h := fnv.New64a()
	fmt.Fprint(h, names...)
	return rand.New(rand.NewPCG(uint64(w.Number), h.Sum64()))
}

// A need whose weight times that of its values is commonness is searched typical times a
// month; steepness is how much faster searches rise than that product.
const (
	typical    = 450
	commonness = 0.26
	steepness  = 1.3
)

// fewestSearches is how often a need is searched in a month at least, and a wording of
// it: what nobody types is none.
const (
	fewestSearches = 4
	fewestTyped    = 0.03
)

func (w *World) growNeeds(hobby int, s *Scenario) {
	slots := w.slotValues(s)
	w.slots = append(w.slots, slots)
	for t := range s.Needs {
		template := &s.Needs[t]
		for _, bind := range w.bindings(s.Slug, template, slots) {
			w.addNeed(hobby, template, bind, slots)
		}
	}
}

// slotValues reads the scenario's slots, and makes models of makers and series.
func (w *World) slotValues(s *Scenario) map[string][]*value {
	slots := map[string][]*value{}
	for _, name := range sortedKeys(s.Slots) {
		for i, text := range s.Slots[name] {
			v := readValue(text, i)
			v.setProper(s.Proper)
			slots[name] = append(slots[name], v)
		}
	}
	rng := w.random(s.Slug, "models")
	series := slices.Clone(slots["series"])
	rng.Shuffle(len(series), func(i, j int) { series[i], series[j] = series[j], series[i] })
	if len(slots["maker"]) == 0 {
		series = nil
	}
	for i, one := range series { // dealt out to the makers in turn
		maker := slots["maker"][i%len(slots["maker"])]
		name := strings.ToLower(maker.one + " " + one.one)
		slots["model"] = append(slots["model"], &value{one: name, many: name, maker: strings.ToLower(maker.one),
			price: math.Round(max(one.price, 10) * (0.8 + 0.4*rng.Float64())), families: one.families,
			weight: maker.weight / float64(1+i/len(slots["maker"]))})
	}
	for _, m := range slots["maker"] {
		m.one, m.many = strings.ToLower(m.one), strings.ToLower(m.one)
	}
	for _, v := range append(slices.Clone(slots["maker"]), slots["model"]...) {
		careful := *v
		careful.one, careful.many = titleCase(v.one), titleCase(v.one)
		v.proper = &careful
	}
	slots[thisYear] = []*value{readValue(fmt.Sprint(w.Founded.Year()), 0)}
	for _, name := range sortedKeys(slots) {
		for _, v := range slots[name] {
			v.tokens = [2][]int32{w.lexicon.all(v.one), w.lexicon.all(v.many)}
		}
	}
	return slots
}

// takes reports whether a template lets a gap hold a value, beside those that are held.
func (t *Template) takes(key string, v *value, bind map[string]*value) bool {
	slot := strings.TrimSuffix(key, "2")
	if tags, some := t.Only[slot]; some && !share(v.tags, tags) {
		return false
	}
	if first := bind[slot]; key != slot && first != nil && first.one == v.one {
		return false
	}
	for _, m := range t.Match {
		a, b, _ := strings.Cut(m, "~")
		if b == key {
			a, b = b, a
		}
		other := bind[b]
		if a != key || other == nil {
			continue
		}
		same := strings.TrimSuffix(a, "2") == strings.TrimSuffix(b, "2")
		if !v.suits(other, same) || !other.suits(v, same) {
			return false
		}
	}
	return true
}

// bindings lists the ways to fill the slots of a template's first wording; when
// there are too many, a sample that prefers the popular ones.
func (w *World) bindings(slug string, t *Template, slots map[string][]*value) []map[string]*value {
	var keys []gap
	for _, g := range parseGaps(wordings(t.Wordings[:1])[0]) {
		if g.slot != "" && !slices.ContainsFunc(keys, func(k gap) bool { return k.key() == g.key() }) {
			keys = append(keys, g)
		}
	}
	all := []map[string]*value{{}}
	for _, g := range keys {
		var next []map[string]*value
		for _, b := range all {
			for _, v := range slots[g.slot] {
				if !t.takes(g.key(), v, b) || g.second && mirrored(all, b[g.slot], v, g) {
					continue
				}
				c := map[string]*value{g.key(): v}
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
		bind map[string]*value
	}
	draws := make([]draw, len(all))
	for i, b := range all {
		draws[i] = draw{rng.ExpFloat64() / bindWeight(b), b}
	}
	sort.SliceStable(draws, func(i, j int) bool { return draws[i].key < draws[j].key })
	out := make([]map[string]*value, most)
	for i := range out {
		out[i] = draws[i].bind
	}
	return out
}

// mirrored reports whether a pair of one slot stands the other way round already: who
// asks for a against b asks for b against a.
func mirrored(all []map[string]*value, first, second *value, g gap) bool {
	for _, b := range all {
		if b[g.slot] == first {
			return false
		}
		if b[g.slot] == second {
			return true
		}
	}
	return false
}

func bindWeight(b map[string]*value) float64 {
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

func (w *World) addNeed(hobby int, t *Template, bind map[string]*value, slots map[string][]*value) {
	n := &need{id: len(w.needs), hobby: hobby, template: t, bind: bind, growth: 1}
	rng := w.random(w.scenarios[hobby].Slug, t.Name, fill(parseGaps(wordings(t.Wordings[:1])[0]), bind, nil))
	n.base = typical * math.Pow(t.Weight*bindWeight(bind)*math.Exp(0.6*rng.NormFloat64())/commonness, steepness)
	if n.base < fewestSearches {
		return
	}
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
		n.missed = w.random("missed", n.queries[0].text).Float64() < missedShare(n)
		n.lines = w.sayingOf(n)
		w.needs = append(w.needs, n)
	}
}

// missedShare is how many of such needs the known sites have missed: finds exist, are rare,
// and are more often said in many words (common practice, no source). On what hardly
// anybody searches the known sites do not write anyhow.
func missedShare(n *need) float64 {
	if n.base < 150 {
		return 0
	}
	return math.Max(0.06, math.Min(0.7, 0.155*float64(len(n.queries[0].tokens)-1)))
}

// subjectOf tells what a need with those values is about.
func subjectOf(bind map[string]*value) (subject string, things []string) {
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
	a := 0.75 + 0.09*float64(shared)/float64(len(n.things)+len(other.things)-shared)
	if n.template.Intent == other.template.Intent {
		a += 0.15
	}
	return a
}

// wordNeed writes the need's queries; a text that another need has already is left to
// it. The lines of wordings fall off by their rank, and so do the choices within one.
func (w *World) wordNeed(n *need, rng *rand.Rand, slots map[string][]*value) {
	sum := 0.0
	for rank, line := range n.template.Wordings {
		for choice, wording := range wordings([]string{line}) {
			bind := maps.Clone(n.bind)
			text := fill(parseGaps(wording), bind, func(g gap) *value { return w.fitting(n, g, bind, slots, rng) })
			share := math.Exp(0.45*rng.NormFloat64()) / math.Pow(float64(rank+1), 1.35) /
				math.Pow(float64(choice+1), 0.8)
			sum += share
			w.addQuery(n, text, share)
		}
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
	if i := slices.IndexFunc(n.queries, func(q *query) bool { return n.base*q.share < fewestTyped }); i > 0 {
		w.forget(n, fewestTyped)
	}
}

// fitting draws a value for a gap that the need does not hold, one that suits what it holds.
func (w *World) fitting(n *need, g gap, bind map[string]*value, slots map[string][]*value, rng *rand.Rand) *value {
	var able []*value
	for _, v := range slots[g.slot] {
		if n.template.takes(g.key(), v, bind) {
			able = append(able, v)
		}
	}
	if len(able) == 0 {
		able = slots[g.slot]
	}
	v := able[rng.IntN(len(able))]
	bind[g.key()] = v
	return v
}

// forget drops the wordings of a need that hardly anybody types, but for the first.
func (w *World) forget(n *need, fewest float64) {
	kept := n.queries[:0:0]
	for i, q := range n.queries {
		if i == 0 || n.base*q.share >= fewest {
			kept = append(kept, q)
			continue
		}
		delete(w.queries, q.text)
	}
	n.queries = kept
}

// addQuery adds a wording to a need, and returns it; nil when another need has it.
func (w *World) addQuery(n *need, text string, share float64) *query {
	text = strings.Join(tokens(text), " ")
	if _, taken := w.queries[text]; taken {
		return nil
	}
	q := &query{text: text, need: n, share: share, tokens: strings.Fields(text)}
	w.queries[text] = q
	n.queries = append(n.queries, q)
	return q
}

// numberQueries lists the queries of all needs, now that none is added any more.
func (w *World) numberQueries() {
	for _, n := range w.needs {
		for _, q := range n.queries {
			q.id = len(w.queryList)
			said := w.lexicon.all(q.text)
			q.said = &value{one: q.text, many: q.text, tokens: [2][]int32{said, said}}
			w.queryList = append(w.queryList, q)
		}
	}
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
