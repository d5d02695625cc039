package sieve

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"reflect"
	"slices"
	"strings"
	"testing"
)

// written is a filter as reading gives it back: lists that are empty are nil.
func written(by *Criterion, rng *rand.Rand) Filter {
	m := anyFilter(by, rng)
	if by.Control == Bar && by.Places > 0 {
		m.Number += float64(rng.IntN(100)) / 100
	}
	if by.Control == Edges {
		if k := rng.IntN(3); k == 0 {
			m.Terms = nil
		} else if k == 1 {
			m.Ends = nil
		}
	}
	return m
}

// TestWhatWaitsIsRefused, with its reason, until something feeds it.
func TestWhatWaitsIsRefused(t *testing.T) {
	rng := rand.New(rand.NewPCG(3, 4))
	Worth.Waits = "nothing says yet what a visit is worth"
	defer func() { Worth.Waits = "" }()
	for _, by := range Criteria() {
		if by.Waits() == "" {
			continue
		}
		s, problems := Read(Sieve{Filters: []Filter{written(by, rng)}}.Pairs(Sieve{}), Sieve{})
		if len(s.Filters) > 0 || len(problems) != 1 || !strings.Contains(problems[0].Reason, by.Waits()) {
			t.Errorf("%s: %v, %v", by, s.Filters, problems)
		}
	}
}

// TestWhatIsWrittenIsReadBack: every criterion that can be used alone, and sieves of many, against bases
// that they hold, change and take out.
func TestWhatIsWrittenIsReadBack(t *testing.T) {
	rng := rand.New(rand.NewPCG(3, 3))
	check := func(s, base Sieve) {
		t.Helper()
		pairs := s.Pairs(base)
		got, problems := Read(pairs, base)
		problems = slices.DeleteFunc(problems, func(p Problem) bool { return strings.HasPrefix(p.Reason, "Nothing can") })
		if !reflect.DeepEqual(got, s) || len(problems) > 0 {
			t.Fatalf("%v\nis written %v on %v\nand read %v, %v", s.Filters, pairs, base.Filters, got.Filters, problems)
		}
		data, err := json.Marshal(s)
		var back Sieve
		if err == nil {
			err = json.Unmarshal(data, &back)
		}
		if err != nil || fmt.Sprint(back) != fmt.Sprint(s) {
			t.Fatalf("%v\nis %s as JSON, and read %v, %v", s.Filters, data, back.Filters, err)
		}
	}
	bases := []Sieve{{}, {Filters: []Filter{NotDropped()}}, {Filters: []Filter{NotDropped(), On(ByLookedUp)},
		Sort: "difficulty"},
		{Filters: []Filter{OnlyDecided(Kept), At(ByLength, 4), Holding(ByHolding, "moon")}, Sort: "words", Down: true}}
	usable := slices.DeleteFunc(Criteria(), func(c *Criterion) bool { return c.Waits() != "" })
	for _, by := range usable {
		for range 20 {
			for _, base := range bases {
				check(Sieve{Filters: []Filter{written(by, rng)}, Sort: base.Sort, Down: base.Down}, base)
				check(base.With(written(by, rng)), base)
			}
		}
	}
	for range 400 {
		s := Sieve{Sort: Sorted()[rng.IntN(len(Sorted()))].Key, Down: rng.IntN(2) == 0}
		if rng.IntN(3) == 0 {
			s.From = "Long tail"
		}
		if rng.IntN(3) == 0 {
			s.Then, s.Up = Sorted()[rng.IntN(len(Sorted()))].Key, rng.IntN(2) == 0
		}
		for range 1 + rng.IntN(6) {
			s.Filters = append(s.Filters, written(usable[rng.IntN(len(usable))], rng))
			s.Filters[len(s.Filters)-1].Off = rng.IntN(4) == 0
		}
		for _, base := range bases {
			base.Sort, base.Down = FigureNamed(s.Sort).Key, s.Down
			check(s, base)
		}
	}
}

func pairs(text string) (out []Pair) {
	for _, one := range strings.Split(text, "&") {
		key, value, _ := strings.Cut(one, "=")
		out = append(out, Pair{key, value})
	}
	return out
}

func TestRead(t *testing.T) {
	base := Sieve{Filters: []Filter{NotDropped(), On(ByLookedUp)}}
	for text, want := range map[string]string{
		"":                              "ideas not dropped; looked up",
		"words=3":                       "ideas not dropped; looked up; words at least 3",
		"from=1,900&unmeasured=yes":     "ideas not dropped; looked up; searches at least 1900, or not measured",
		"searches-from=10&judged=no":    "ideas not dropped; searches at least 10",
		"show=kept&lacks=Jobs, login":   "looked up; ideas kept; contains none of jobs, login",
		"show=all&judged=&words=&cpc=0": "",
		"ends=review":                   "ideas not dropped; looked up; ends with review",
		"starts=&ends=":                 "ideas not dropped; looked up",
		"difficulty=0":                  "ideas not dropped; looked up; difficulty at most 0",
		"cost=3&words=2&sort=luck":      "ideas not dropped; looked up; words at least 2",
		"wants=buy&trend=not fading":    "ideas not dropped; looked up; intent Buy; trend not fading",
		"searches-from=1.9k&searches-to= 2M ": "ideas not dropped; looked up; searches at least 1900; " +
			"searches at most 2000000",
		"words=3&words-off=yes&words-off=no&cpc=1&cpc-off=yes": "ideas not dropped; looked up; words at least 3; " +
			"cost per click at least 1 (off)",
		"words=2&ready=Long and quiet": "ideas not dropped; looked up; words at least 5; searches at least 100; " +
			"words at least 2",
	} {
		s, problems := Read(pairs(text), base)
		var got []string
		for _, m := range s.Filters {
			got = append(got, m.String())
		}
		if strings.Join(got, "; ") != want || len(problems) > 0 {
			t.Errorf("%s: %q, want %q, %v", text, got, want, problems)
		}
	}
}

func TestWhatCannotBeReadIsTold(t *testing.T) {
	for text, says := range map[string]string{
		"words=abc":           "Words at least: “abc” is not a whole number.",
		"words=-3":            "“-3” is below 0",
		"cpc=−5":              "“−5” is below 0",
		"words=k":             "“k” is not a whole number",
		"cpc=dear":            "“dear” is not a number",
		"searches-from=1e999": "too large",
		"searches-to=2e15":    "too large",
		"wants=sell":          "there is no “sell”; there are learn, find, compare, buy",
		"ready=Luck":          "There is no sieve “Luck”; there are New site: easy and searched",
		"searches-from=50&searches-to=40": "Nothing can pass “searches at least 50” and “searches at most 40” " +
			"as well",
		"holds=" + strings.Repeat("a b,c", 4000): "",
	} {
		s, problems := Read(pairs(text), Sieve{})
		if says == "" {
			continue
		}
		if len(problems) != 1 || !strings.Contains(problems[0].Reason, says) {
			t.Errorf("%s: %v, %v", text, s.Filters, problems)
		}
	}
}

// TestEntriesAreWhole: no two criteria or figures share a name, each says what it is,
// and what is sorted, listed or exported can be.
func TestEntriesAreWhole(t *testing.T) {
	keys := map[string]bool{"ends": true, "ready": true, "sieve": true, "sort": true, "order": true, "then": true,
		"then-order": true}
	for _, c := range Criteria() {
		for _, key := range []string{c.Key, c.Was} {
			if key != "" && (keys[key] || CriterionNamed(key) != c) {
				t.Errorf("%s is the key of two", key)
			}
			keys[key] = key != ""
		}
		if ways := c.within != nil; c.Name == "" || ways && (c.passes != nil || c.text != nil) ||
			!ways && c.passes == nil && c.text == nil && !c.ranked || (c.Control == OneOf) != (len(c.Choices) > 0) {
			t.Errorf("%s is not a whole entry", c.Key)
		}
	}
	keys = map[string]bool{}
	for _, f := range Figures() {
		if keys[f.Key] || keys["/"+f.Name] || FigureNamed(f.Key) != f {
			t.Errorf("%s is the key or name of two", f.Key)
		}
		keys[f.Key], keys["/"+f.Name] = true, true
		if f.Means == "" && f.From != FromPhrase && f.From != FromUser && f.Waits == "" {
			t.Errorf("%s does not explain itself", f.Key)
		}
		if f.Waits != "" && (f.Heading != "" || f.Export) {
			t.Errorf("%s is shown, and nothing feeds it", f.Key)
		}
	}
	if CriterionNamed("") != nil || FigureNamed("luck") != nil {
		t.Error("what is not there is found")
	}
	if got := FoundIn.NameOf(Of(5)); got != "seed, letter" {
		t.Errorf("two names of several: %q", got)
	}
}

// FuzzRead: whatever stands in an address, what is read of it is written so that it is
// read back, and passes ideas without harm.
func FuzzRead(f *testing.F) {
	f.Add("words=3&searches-from=1,900&searches-from-unmeasured=yes&starts=best&ends=review&show=all")
	f.Add("ready=Long and quiet&words-off=yes&sieve=mine&sort=idea&order=down&holds=a;b,c&ends=x&" +
		"ends=y&unmeasured=no&judged=no")
	f.Add("cpc=0x1p-2&visits=1e15&difficulty=&wants=Buy&trend=not fading&ends=\xff")
	table := NewTable("en", ideas(sample(60)))
	base := Sieve{Filters: []Filter{NotDropped(), On(ByLookedUp)}}
	f.Fuzz(func(t *testing.T, text string) {
		s, _ := Read(pairs(text), base)
		again, _ := Read(s.Pairs(base), base)
		if !reflect.DeepEqual(s, again) {
			t.Errorf("%q is read %+v, written %v, and read %+v", text, s, s.Pairs(base), again)
		}
		if res := table.Pass(s.Filters); res.Count > table.Len() || res.Count != res.Left.Count() {
			t.Errorf("%q leaves %d", text, res.Count)
		}
	})
}
