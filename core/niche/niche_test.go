package niche

import (
	"fmt"
	"strings"
	"testing"
	"testing/quick"

	"cleverniche/core/demand"
	"cleverniche/core/serp"
	"cleverniche/core/worth"
)

// inviting is a niche that passes all seven questions on the default bars.
func inviting() Niche {
	n := Niche{Name: "kites", Ideas: 240}
	for i := range 60 {
		t := Topic{Lead: fmt.Sprintf("kite %02d", i), Ideas: 3, Searches: 600, Judged: true, Difficulty: 12, Reach: 8,
			Footholds: 5, Sells: true, CPC: 800_000, Lasting: demand.Evergreen}
		for k := range 10 {
			t.Results = append(t.Results, Result{fmt.Sprintf("s%d.example", (7*i+k)%40), k < 5})
		}
		n.Topics = append(n.Topics, t)
	}
	n.Sites = []Site{{"little.example", 6, 7, 35, 22, false, 900}, {"tiny.example", 4, 12, 60, 12, false, 300},
		{"large.example", 70, 200, 5000, 50, false, 9e4}}
	return n
}

func answers(t *testing.T, n Niche, b Bars) map[Question]Answer {
	t.Helper()
	list, err := Compare([]Niche{n}, b)
	if err != nil {
		t.Fatal(err)
	}
	out := map[Question]Answer{}
	for i, a := range list[0].Answers {
		if a.Question != Questions[i] || a.Because == "" {
			t.Errorf("answer %d: %+v", i, a)
		}
		out[a.Question] = a
	}
	return out
}

// TestEachQuestionCanFail changes one thing at a time in a niche that passes.
func TestEachQuestionCanFail(t *testing.T) {
	if got := answers(t, inviting(), Default); len(got) != 7 {
		t.Fatal(got)
	}
	each := func(do func(*Topic)) func(*Niche) {
		return func(n *Niche) {
			for i := range n.Topics {
				do(&n.Topics[i])
			}
		}
	}
	for name, c := range map[string]struct {
		change func(*Niche)
		want   map[Question]Verdict // the others stay yes
		says   string
	}{
		"as it is": {func(*Niche) {}, nil, ""},
		"hard": {each(func(t *Topic) { t.Difficulty = 60 }),
			map[Question]Verdict{GetIn: No, Searched: No, Pay: No}, "0 topics"},
		"just beyond": {each(func(t *Topic) { t.Difficulty = 20.6 }),
			map[Question]Verdict{GetIn: No, Searched: No, Pay: No}, ""},
		"just within": {each(func(t *Topic) { t.Difficulty = 20.4 }), nil, "60 topics (180 ideas) are of difficulty 20"},
		"locked": {each(func(t *Topic) { t.Locked = true }),
			map[Question]Verdict{GetIn: No, Searched: No, Pay: No}, ""},
		"twenty of them": {func(n *Niche) { n.Topics = n.Topics[:20] },
			map[Question]Verdict{GetIn: Partly, Searched: Partly, Write: Partly}, ""},
		"quiet": {each(func(t *Topic) { t.Searches = 40 }),
			map[Question]Verdict{Searched: No, Write: No, Pay: Partly}, ""},
		"old sites": {func(n *Niche) { n.Sites[0].Months, n.Sites[1].Months = 90, 90 },
			map[Question]Verdict{Small: No}, ""},
		"one small site": {func(n *Niche) { n.Sites[0].Pages = 900 }, map[Question]Verdict{Small: Partly}, ""},
		"ages not known": {func(n *Niche) { n.Sites[0].Months, n.Sites[1].Pages = -1, -1 },
			map[Question]Verdict{Small: Cannot}, "2 more may"},
		"phrases not asked for": {func(n *Niche) {
			n.Sites[0].Phrases, n.Sites[1].Phrases, n.Sites[0].AtLeast, n.Sites[1].AtLeast = 3, 3, true, true
		}, map[Question]Verdict{Small: Cannot}, "2 more may"},
		"a cent a click": {each(func(t *Topic) { t.CPC = 10_000 }), map[Question]Verdict{Pay: No}, "below the bar of 0.50"},
		"no cost known":  {each(func(t *Topic) { t.CPC = -1 }), map[Question]Verdict{Pay: Cannot}, ""},
		"fading":         {each(func(t *Topic) { t.Lasting = demand.Fade }), map[Question]Verdict{Last: No}, ""},
		"course unknown": {each(func(t *Topic) { t.Lasting = demand.TooFew }), map[Question]Verdict{Last: Cannot}, ""},
		"no footholds": {each(func(t *Topic) { t.Results = []Result{{"a.example", false}, {"b.example", false}} }),
			map[Question]Verdict{Hold: No}, ""},
		"one site has it": {each(func(t *Topic) { t.Results = []Result{{"a.example", true}, {"a.example", true}} }),
			map[Question]Verdict{Hold: Partly}, "few hold much"},
		"not looked up": {each(func(t *Topic) { t.Judged = false }),
			map[Question]Verdict{GetIn: Cannot, Searched: Cannot, Pay: Cannot, Hold: Cannot}, "0 of 60 topics are looked up"},
		"nothing": {func(n *Niche) { *n = Niche{} }, map[Question]Verdict{GetIn: Cannot, Searched: Cannot,
			Write: Cannot, Small: Cannot, Pay: Cannot, Last: Cannot, Hold: Cannot}, ""},
	} {
		n := inviting()
		c.change(&n)
		var said strings.Builder
		for q, a := range answers(t, n, Default) {
			want := Yes
			if w, ok := c.want[q]; ok {
				want = w
			}
			if a.Verdict != want {
				t.Errorf("%s: %s %s (%g: %s), not %s", name, q, a.Verdict, a.Figure, a.Because, want)
			}
			said.WriteString(a.Because + "\n")
			if len(a.Evidence) > mostEvidence {
				t.Errorf("%s: %d facts", name, len(a.Evidence))
			}
		}
		if !strings.Contains(said.String(), c.says) {
			t.Errorf("%s: %q is not said in\n%s", name, c.says, said.String())
		}
	}
}

func TestSideBySide(t *testing.T) {
	hard := inviting()
	hard.Name = "drones"
	for i := range hard.Topics {
		hard.Topics[i].Difficulty = 70
	}
	list, err := Compare([]Niche{inviting(), hard}, Default)
	if err != nil || list[0].Passed() != 7 || len(list[0].Fails()) != 0 || list[1].Passed() != 4 ||
		len(list[1].Fails()) != 3 || list[1].Fails()[0] != GetIn {
		t.Errorf("%v %+v", err, list)
	}
	if list[0].Answers[0].Evidence[0].What != "kite 00" ||
		!strings.Contains(list[0].Answers[3].Evidence[0].Says, "22 phrases") {
		t.Errorf("evidence %+v", list[0].Answers[0].Evidence)
	}
	for _, spoil := range []func(*Bars){func(b *Bars) { b.Difficulty = 101 },
		func(b *Bars) { b.Open = Bar{Yes: 1, Partly: 2} }, func(b *Bars) { b.Held.Yes = -1 }} {
		b := Default
		spoil(&b)
		if _, err := Compare(nil, b); err == nil {
			t.Errorf("%+v is taken", b)
		}
	}
	mine := Default
	mine.Relative = true
	for beyond, want := range map[float64]Verdict{62: Yes, 61: No} {
		mine.Difficulty = beyond
		if a := answers(t, hard, mine)[GetIn]; a.Verdict != want || !strings.Contains(a.Because, "beyond it") {
			t.Errorf("with %g beyond my reach: %+v", beyond, a)
		}
	}
	mine.Difficulty = 0
	if a := answers(t, inviting(), mine)[GetIn]; a.Verdict != No || !strings.Contains(a.Because, "are within my reach;") {
		t.Errorf("within my reach: %+v", a)
	}
	watched := inviting()
	watched.Topics[0].Steadiness = &serp.Steadiness{Known: true, Steady: true, Overlap: 0.9}
	if a := answers(t, watched, Default)[Last]; !strings.Contains(a.Because, "1 of 1 watched topics are steady") {
		t.Error(a.Because)
	}
}

// TestLooserBarsNeverFailMore: whatever the niche, an easier bar of difficulty or of
// searches leaves as many topics at least.
func TestLooserBarsNeverFailMore(t *testing.T) {
	f := func(difficulties []uint8, tight, more uint8) bool {
		n := Niche{Ideas: len(difficulties)}
		for _, d := range difficulties {
			n.Topics = append(n.Topics, Topic{Judged: true, Ideas: 1, Difficulty: float64(d) / 2.55,
				Searches: float64(d) * 9, CPC: worth.Micros(d)})
		}
		a, b := Default, Default
		a.Difficulty, a.Relative = float64(tight)/2.56, tight%2 == 0
		b.Difficulty, b.Relative = min(100, a.Difficulty+float64(more)), a.Relative
		b.Searches = a.Searches / 2
		x, _ := Compare([]Niche{n}, a)
		y, _ := Compare([]Niche{n}, b)
		for i, q := range Questions {
			if (q == GetIn || q == Searched || q == Write || q == Pay) && y[0].Answers[i].Figure < x[0].Answers[i].Figure {
				return false
			}
		}
		return true
	}
	if err := quick.Check(f, nil); err != nil {
		t.Error(err)
	}
}
