package intent

import (
	"math"
	"strings"
	"testing"
	"testing/quick"
)

// The examples marked B are after Broder 2002, those marked J after Jansen, Booth
// & Spink 2008: their kinds, from memory, with brands replaced by invented ones.
func TestFromWords(t *testing.T) {
	for phrase, want := range map[string]Class{
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

// TestCommercial: money in a phrase grows with each sign of it, and what is not known
// counts on neither side.
func TestCommercial(t *testing.T) {
	shop := Commerce{Shares: Shares{0.1, 0, 0.2, 0.7}, CPC: 2_000_000, Usual: 500_000, Looked: true, Ads: 4,
		Shopping: true, Sell: 9, Results: 10}
	moon := Commerce{Shares: Shares{0.95, 0, 0.05, 0}, CPC: 50_000, Usual: 500_000, Looked: true, Sell: 0, Results: 10}
	if s, m := shop.Score().Score, moon.Score().Score; s < 80 || m > 15 {
		t.Errorf("a shop's phrase scores %.0f, a question about the moon %.0f", s, m)
	}
	// By hand: 40·0.9 + 25·0.9 + 20·2/2.5 + 15·1 of 100.
	if got := shop.Score().Score; math.Abs(got-(36+22.5+16+15)) > 1e-9 {
		t.Errorf("score %v", got)
	}
	only := Commerce{Shares: Shares{0.5, 0, 0, 0.5}, CPC: -1, Usual: -1}.Score()
	if only.Score != 50 || only.Parts[1].Known || only.Parts[2].Known || only.Parts[2].Because != "not known" {
		t.Errorf("from the words alone: %+v", only)
	}
	if (Commerce{CPC: -1}).Score().Score != 0 {
		t.Error("nothing known scores something")
	}
	rises := func(a, b uint16, ads, sell uint8, buy float64) bool {
		buy = math.Abs(math.Mod(buy, 1))
		low := Commerce{Shares: Shares{1 - buy, 0, 0, buy}, CPC: int64(a), Usual: 1 + int64(b), Looked: true,
			Ads: int(ads % 5), Sell: int(sell % 10), Results: 10}
		more := low
		more.CPC, more.Ads, more.Sell = low.CPC+100, low.Ads+1, low.Sell+1
		s, m := low.Score(), more.Score()
		return s.Score >= 0 && m.Score <= 100 && m.Score >= s.Score
	}
	if err := quick.Check(rises, nil); err != nil {
		t.Error(err)
	}
}

func TestSays(t *testing.T) {
	clear := Join(Witness{Shares: Shares{0.9, 0, 0.1, 0}, Known: true}, Witness{})
	mixed := Join(Witness{Shares: Shares{0.1, 0, 0.45, 0.45}, Known: true}, Witness{})
	if got := clear.Says(); got != "They want to learn (90 %)." {
		t.Error(got)
	}
	if got := mixed.Says(); !strings.Contains(got, "45 % to compare, 45 % to buy") {
		t.Error(got)
	}
}
