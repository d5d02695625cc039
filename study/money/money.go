package money

import (
	"strconv"

	"golang.org/x/text/currency"
	"golang.org/x/text/language"
	"golang.org/x/text/message"
)

// Text writes micro-units of a currency for people: with the currency's number
// of decimals, or more when the amount is small and not zero.
func Text(micros int64, code string) string {
	unit, err := currency.ParseISO(code)
	if err != nil {
		return strconv.FormatFloat(float64(micros)/1e6, 'f', 2, 64) + " " + code
	}
	digits, _ := currency.Standard.Rounding(unit)
	for small := int64(1_000_000); digits < 4 && micros != 0 && micros%(small/pow10(digits)) != 0 &&
		micros < 100_000; digits++ {
	}
	p := message.NewPrinter(language.English)
	return p.Sprintf("%v%.*f", currency.NarrowSymbol(unit), digits, float64(micros)/1e6)
}

func pow10(n int) int64 {
	p := int64(1)
	for range n {
		p *= 10
	}
	return p
}

// wholeFrom is the amount from which a range is written in whole units.
const wholeFrom = 10_000_000

// Range writes a range of money for people: "$4–12"; one amount where both are the same.
func Range(low, high int64, code string) string {
	digits := 2
	if high >= wholeFrom {
		digits = 0
	}
	symbol := code + " "
	if unit, err := currency.ParseISO(code); err == nil {
		symbol = message.NewPrinter(language.English).Sprint(currency.NarrowSymbol(unit))
	}
	p := message.NewPrinter(language.English)
	a, b := p.Sprintf("%.*f", digits, float64(low)/1e6), p.Sprintf("%.*f", digits, float64(high)/1e6)
	if a == b {
		return symbol + a
	}
	return symbol + a + "–" + b
}
