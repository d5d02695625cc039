package niches

import (
	"encoding/json"
	"math"

	"cleverniche/core/intent"
	"cleverniche/core/worth"
	"cleverniche/study/input"
)

// Earning is how visits become money: shares are of 1, amounts in units of the niche's currency.
type Earning struct {
	PerThousand float64 `json:"perThousand"` // from ads, a thousand visits
	ClickOn     float64 `json:"clickOn"`     // visitors of a buying article that go on to a shop
	Conversion  float64 `json:"conversion"`  // of these, who buy
	Order       float64 `json:"order"`
	Commission  float64 `json:"commission"` // of the order
}

// UsualEarning is taken until one says otherwise (common practice, no source; it differs widely between subjects).
var UsualEarning = Earning{PerThousand: 10, ClickOn: 0.2, Conversion: 0.03, Order: 60, Commission: 0.04}

// Earns is how visits become money in a niche; said is false where some of it is as usual, which nobody has confirmed.
func (n Niche) Earns() (e Earning, said bool) {
	if n.Earning == nil {
		return UsualEarning, false
	}
	e, u := *n.Earning, UsualEarning
	return e, e.PerThousand != u.PerThousand && e.ClickOn != u.ClickOn && e.Conversion != u.Conversion &&
		e.Order != u.Order && e.Commission != u.Commission
}

// For is how visits of an article become money that serves a want: only who compares or buys goes on to a shop.
func (e Earning) For(want intent.Class) worth.Earning {
	one := func(x float64) worth.Range { return worth.Range{Low: x, Likely: x, High: x} }
	out := worth.Earning{PerThousand: one(e.PerThousand)}
	if want == intent.Compare || want == intent.Buy {
		out.ClickOn, out.Conversion = one(e.ClickOn), one(e.Conversion)
		out.Order, out.Commission = one(e.Order), one(e.Commission)
	}
	return out
}

// PerClick is what a click on to a shop brings.
func (e Earning) PerClick() float64 { return e.Conversion * e.Order * e.Commission }

func (e *Earning) check() error {
	if e == nil {
		return nil
	}
	for _, c := range []struct {
		field, says string
		x, most     float64
	}{{"per-thousand", "Income per 1,000 visits", e.PerThousand, 1e4},
		{"click-on", "The share who go on to a shop", e.ClickOn, 1},
		{"conversion", "The share who buy", e.Conversion, 1}, {"order", "The order value", e.Order, 1e6},
		{"commission", "The commission", e.Commission, 1}} {
		if !(c.x >= 0 && c.x <= c.most) || math.IsNaN(c.x) {
			if c.most == 1 {
				return input.Bad(c.field, "%s is 0 to 100 percent.", c.says)
			}
			return input.Bad(c.field, "%s is 0 to %.0f.", c.says, c.most)
		}
	}
	return nil
}

func readEarning(text string) *Earning {
	var e Earning
	if text == "" || json.Unmarshal([]byte(text), &e) != nil || e.check() != nil {
		return nil
	}
	return &e
}

func (e *Earning) write() string {
	if e == nil {
		return ""
	}
	text, err := json.Marshal(e)
	if err != nil {
		return ""
	}
	return string(text)
}
