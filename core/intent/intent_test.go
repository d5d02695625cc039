package intent

import (
	"math"
	"testing"
)

// The examples marked B are after Broder 2002, those marked J after Jansen, Booth
// & Spink 2008: their kinds, from memory, with brands replaced by invented ones.
func TestFromWords(t *testing.T) {
	for phrase, want := range map[string]Want{
		"how to polar align a mount":      Learn,   // J: question words
		"what is a barlow lens":           Learn,   // J
		"saturn":                          Learn,   // B: a wide informational need
		"halvorn official site":           Find,    // B: navigational, an organisation's site
		"nightporch login":                Find,    // J: a site's function
		"buy telescope":                   Buy,     // B: transactional
		"telescope for sale":              Buy,     // J
		"best telescope for kids":         Compare, // common practice, no source
		"dusklane scout 70 review":        Compare, // common practice, no source
		"refractor vs reflector":          Compare, // common practice, no source
		"can you see saturn with glasses": Learn,
	} {
		if got := FromWords(phrase, "en"); got.Shares.Leading() != want || got.Because == "" {
			t.Errorf("%q wants %v (%s), not %v", phrase, got.Shares.Leading(), got.Because, want)
		}
	}
	if got := FromWords("dusklane", "en", "dusklane"); got.Shares.Leading() != Find {
		t.Errorf("a brand alone wants %v", got.Shares.Leading())
	}
}

func TestJoin(t *testing.T) {
	words := FromWords("telescope", "en")
	shop := FromTen(Ten{Serve: [4]int{1, 0, 2, 7}, Ads: 4, ShoppingRow: true})
	j := Join(words, shop)
	if j.Leading != Buy {
		t.Errorf("ten shops and a neutral word want %v", j.Leading)
	}
	sum := 0.0
	for _, p := range j.Shares {
		sum += p
	}
	if math.Abs(sum-1) > 1e-12 {
		t.Errorf("shares sum to %v", sum)
	}
	if alone := Join(words, FromTen(Ten{})); alone.Shares != words.Shares || alone.Ten.Known {
		t.Errorf("without the ten the words do not stand alone: %+v", alone)
	}
}

func TestEntropy(t *testing.T) {
	if h := (Shares{.25, .25, .25, .25}).Entropy(); math.Abs(h-2) > 1e-12 {
		t.Errorf("four equal wants have %v bits", h)
	}
	if h := (Shares{1, 0, 0, 0}).Entropy(); h != 0 {
		t.Errorf("one want has %v bits", h)
	}
	if !(Shares{.5, 0, .5, 0}).Mixed() || (Shares{.9, .1, 0, 0}).Mixed() {
		t.Error("mixed is not told from clear")
	}
}

func TestNames(t *testing.T) {
	for _, w := range All {
		if got, ok := Parse(w.String()); !ok || got != w || w.Standard() == "" {
			t.Errorf("%v is read back as %v", w, got)
		}
	}
	if _, ok := Parse("roam"); ok {
		t.Error("an unknown want is read")
	}
}
