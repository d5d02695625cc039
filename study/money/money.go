package money

import (
	"strconv"

	"golang.org/x/text/currency"
	"golang.org/x/text/language"
	"golang.org/x/text/message"
)

// Text writes micro-units of a currency for people: with the currency's decimals, and never finer; what is less than
// the smallest coin is "under" it.
func Text(micros int64, code string) string {
	unit, err := currency.ParseISO(code)
	if err != nil {
		return strconv.FormatFloat(float64(micros)/1e6, 'f', 2, 64) + " " + code
	}
	digits, _ := currency.Standard.Rounding(unit)
	p := message.NewPrinter(language.English)
	write := func(micros int64) string {
		return p.Sprintf("%v%.*f", currency.NarrowSymbol(unit), digits, float64(micros)/1e6)
	}
	if coin := 1_000_000 / pow10(digits); micros > 0 && micros < coin {
		return "under " + write(coin)
	}
	return write(micros)
}

// Most writes the most that something costs, rounded up to the currency's smallest coin.
func Most(micros int64, code string) string {
	unit, err := currency.ParseISO(code)
	if err != nil {
		return Text(micros, code)
	}
	digits, _ := currency.Standard.Rounding(unit)
	coin := 1_000_000 / pow10(digits)
	return Text((micros+coin-1)/coin*coin, code)
}

func pow10(n int) int64 {
	p := int64(1)
	for range n {
		p *= 10
	}
	return p
}

// Range writes a range of money for people, in whole units: "$4–12"; "up to $9" from less than one, and "under $1"
// where all of it is.
func Range(low, high int64, code string) string {
	symbol := code + " "
	if unit, err := currency.ParseISO(code); err == nil {
		symbol = message.NewPrinter(language.English).Sprint(currency.NarrowSymbol(unit))
	}
	p := message.NewPrinter(language.English)
	whole := func(micros int64) string { return p.Sprintf("%.0f", float64(micros)/1e6) }
	switch {
	case high < 1_000_000:
		return "under " + symbol + "1"
	case low < 1_000_000:
		return "up to " + symbol + whole(high)
	case whole(low) == whole(high):
		return symbol + whole(low)
	}
	return symbol + whole(low) + "–" + whole(high)
}
