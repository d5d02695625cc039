package study

import (
	"strconv"

	"golang.org/x/text/currency"
	"golang.org/x/text/language"
	"golang.org/x/text/message"
)

// Money writes micro-units of a currency for people: with the currency's number
// of decimals, or more when the amount is small and not zero.
func Money(micros int64, code string) string {
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
