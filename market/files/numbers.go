package files

import (
	"fmt"
	"math"
	"strconv"
	"strings"
	"unicode"

	"cleverniche/core/demand"
)

// Number is what a cell says of a quantity: a number, or a range of which only the ends are known.
type Number struct {
	Low, High float64 // equal where it is one number
	Under     bool    // less than High
	Over      bool    // more than Low
	Known     bool    // false where the cell says that nobody knows
}

// Middle is the geometric mean of a range's ends: quantities of searches spread over orders of magnitude.
func (n Number) Middle() float64 {
	if n.Low <= 0 || n.Low == n.High {
		return n.High
	}
	return math.Sqrt(n.Low * n.High)
}

// Range is a range as it is kept, "1000-10000", or what is only known from one side, "1000000-"; "" for one number.
func (n Number) Range() string {
	switch {
	case !n.Known || n.Under:
		return ""
	case n.Over:
		return fmt.Sprintf("%.0f-", n.Low)
	case n.Low != n.High:
		return fmt.Sprintf("%.0f-%.0f", n.Low, n.High)
	}
	return ""
}

// unknowns are how files say that nobody knows (common practice, no source).
var unknowns = map[string]bool{"": true, "-": true, "–": true, "—": true, "n/a": true, "na": true, "null": true,
	"none": true, "nan": true, "unknown": true, "k.a.": true, "n.d.": true, "s.o.": true, "..": true}

// marks gathers what a column's cells tell of how numbers are written in it: which mark stands before decimals.
type marks struct {
	dot, comma   int // cells in which it can only be before decimals
	groups       [2]int
	dotAny, some int // cells in which one of them stands once before three digits: nobody knows
}

// Where a mark stands.
const (
	byDot = iota
	byComma
)

// add looks at a cell.
func (m *marks) add(cell string) {
	if _, plain := digits(cell); plain {
		return
	}
	digits := func(s string) int { return len(strings.TrimLeft(s, "0123456789")) }
	for _, part := range strings.FieldsFunc(cell, func(r rune) bool {
		return !unicode.IsDigit(r) && r != '.' && r != ','
	}) {
		part = strings.Trim(part, ".,")
		dots, commas := strings.Count(part, "."), strings.Count(part, ",")
		switch {
		case dots == 0 && commas == 0 || digits(part) == len(part):
		case dots > 0 && commas > 0:
			if strings.LastIndexByte(part, '.') > strings.LastIndexByte(part, ',') {
				m.dot++
			} else {
				m.comma++
			}
		case dots > 1:
			m.groups[byDot]++
		case commas > 1:
			m.groups[byComma]++
		case dots == 1:
			if lone(part, ".") {
				m.dot++
			} else {
				m.dotAny++
			}
		default:
			if lone(part, ",") {
				m.comma++
			} else {
				m.some++
			}
		}
	}
}

// lone reports whether a mark that stands once can only be before decimals: other than three digits follow it, or
// nothing or a zero or more than three digits lead to it.
func lone(part, mark string) bool {
	before, after, _ := strings.Cut(part, mark)
	return len(after) != 3 || len(before) == 0 || len(before) > 3 || before == "0"
}

// decimal is the mark before decimals; doubtful where no cell tells it and one would need to. Counts are taken to have
// no decimals then, money to have them.
func (m *marks) decimal(counts bool) (mark string, doubtful bool) {
	switch {
	case m.dot > m.comma:
		return ".", false
	case m.comma > m.dot:
		return ",", false
	case m.groups[byDot] > 0 && m.groups[byComma] == 0:
		return ",", false
	case m.groups[byComma] > 0:
		return ".", false
	case m.dotAny == 0 && m.some == 0:
		return ".", false
	case counts == (m.dotAny > m.some): // 1.900 is nineteen hundred, or 1.300 is 1.3
		return ",", true
	}
	return ".", true
}

// ReadNumber reads a cell: "1,900", "1.900", "1 900", "1.9K", "1K – 10K", "<10", ">1000000", "—", "12 %". decimal
// is the mark before decimals, "." or ",".
func ReadNumber(cell, decimal string) (n Number, err error) {
	if x, plain := digits(cell); plain {
		return Number{Low: x, High: x, Known: true}, nil
	}
	text := strings.TrimSpace(strings.Map(func(r rune) rune {
		switch r {
		case '\u00a0', '\u2009', '\u202f', '\'', '’', '\t':
			return ' '
		}
		return r
	}, cell))
	if unknowns[strings.ToLower(text)] {
		return Number{}, nil
	}
	bad := fmt.Errorf("“%s” is not a number", shorten(printable(cell), 30))
	for _, sign := range []string{"<", "under ", "less than ", "unter ", "moins de "} {
		if rest, is := strings.CutPrefix(strings.ToLower(text), sign); is {
			x, err := one(rest, decimal)
			if err != nil {
				return n, bad
			}
			return Number{High: x, Low: 0, Under: true, Known: true}, nil
		}
	}
	for _, sign := range []string{">", "over ", "more than "} {
		if rest, is := strings.CutPrefix(strings.ToLower(text), sign); is {
			x, err := one(rest, decimal)
			if err != nil {
				return n, bad
			}
			return Number{High: x, Low: x, Over: true, Known: true}, nil
		}
	}
	if rest, is := strings.CutSuffix(text, "+"); is {
		if x, err := one(rest, decimal); err == nil {
			return Number{High: x, Low: x, Over: true, Known: true}, nil
		}
	}
	for _, dash := range []string{" – ", " — ", " - ", "–", "—", " to ", " bis ", "-"} {
		if low, high, is := strings.Cut(text, dash); is && low != "" {
			a, errA := one(low, decimal)
			b, errB := one(high, decimal)
			if errA != nil || errB != nil || b < a {
				return n, bad
			}
			return Number{Low: a, High: b, Known: true}, nil
		}
	}
	x, err := one(text, decimal)
	if err != nil {
		return n, bad
	}
	return Number{Low: x, High: x, Known: true}, nil
}

// digits reads a number that is written in digits alone, as most are.
func digits(cell string) (x float64, plain bool) {
	if len(cell) == 0 || len(cell) > 15 {
		return 0, false
	}
	for i := range len(cell) {
		if cell[i] < '0' || cell[i] > '9' {
			return 0, false
		}
		x = 10*x + float64(cell[i]-'0')
	}
	return x, true
}

// scales are what stands behind a number for thousands, millions and thousands of millions.
var scales = map[string]float64{"k": 1e3, "tsd": 1e3, "tsd.": 1e3, "m": 1e6, "mio": 1e6, "mio.": 1e6, "mn": 1e6,
	"b": 1e9, "bn": 1e9, "mrd": 1e9}

// isUnit holds for what words of scale are made of.
func isUnit(r rune) bool { return unicode.IsLetter(r) || r == '.' }

func one(text, decimal string) (float64, error) {
	if decimal == "" {
		decimal = "."
	}
	text = strings.TrimSpace(text)
	by := 1.0
	if rest, is := strings.CutSuffix(text, "%"); is {
		text, by = strings.TrimSpace(rest), 0.01
	} else if cut := strings.TrimRightFunc(text, isUnit); cut != text {
		scale, known := scales[strings.ToLower(strings.TrimSpace(text[len(cut):]))]
		if !known {
			return 0, strconv.ErrSyntax
		}
		text, by = strings.TrimSpace(cut), scale
	}
	other := ","
	if decimal == "," {
		other = "."
	}
	if strings.Count(text, other) == 1 && !strings.Contains(text, decimal) && lone(text, other) {
		decimal, other = other, decimal // it can be nothing else, however the column writes its numbers
	}
	whole, part, has := text, "", false
	if whole, part, has = strings.Cut(text, decimal); has && strings.ContainsAny(part, ".,") {
		return 0, strconv.ErrSyntax
	}
	groups := strings.FieldsFunc(whole, func(r rune) bool { return r == ' ' || string(r) == other })
	for i, g := range groups {
		if i > 0 && len(g) != 3 && len(g) != 2 { // lakhs are of two
			return 0, strconv.ErrSyntax
		}
	}
	whole = strings.Join(groups, "")
	if whole == "" && part == "" {
		return 0, strconv.ErrSyntax
	}
	for _, r := range whole + part {
		if r < '0' || r > '9' {
			return 0, strconv.ErrSyntax
		}
	}
	x, err := strconv.ParseFloat(whole+"."+part, 64)
	return x * by, err
}

var currencySigns = map[string]string{"US$": "USD", "$": "USD", "€": "EUR", "£": "GBP", "¥": "JPY", "₹": "INR",
	"zł": "PLN",
	"kr": "SEK", "Fr.": "CHF"}

// signOrder tries longer signs first.
var signOrder = []string{"US$", "Fr.", "zł", "kr", "$", "€", "£", "¥", "₹"}

// ReadMoney reads "0.85", "0,85", "$0.85", "1,20 €", "EUR 1.20", to a millionth. Of a range it takes the
// mean.
func ReadMoney(cell, decimal, currency string) (c demand.Cost, err error) {
	bad := fmt.Errorf("“%s” is not an amount of money", shorten(printable(cell), 30))
	amount := strings.TrimSpace(strings.ReplaceAll(cell, "\u00a0", " "))
	if unknowns[strings.ToLower(amount)] {
		return demand.Cost{}, nil
	}
	for _, sign := range signOrder {
		if strings.Contains(amount, sign) {
			amount, currency = strings.ReplaceAll(amount, sign, " "), currencySigns[sign]
			break
		}
	}
	if f := strings.Fields(amount); len(f) > 1 {
		for _, at := range []int{0, len(f) - 1} {
			if isCode(f[at]) {
				currency = strings.ToUpper(f[at])
				f = append(f[:at:at], f[at+1:]...)
				break
			}
		}
		amount = strings.Join(f, " ")
	}
	n, err := ReadNumber(amount, decimal)
	if err != nil || !n.Known || n.High >= 1e7 {
		return demand.Cost{}, bad
	}
	return demand.Cost{Micros: int64(math.Round((n.Low + n.High) / 2 * 1e6)), Currency: currency}, nil
}

// ReadAmount reads an amount of money that stands alone, whichever mark stands before its decimals.
func ReadAmount(text, currency string) (demand.Cost, error) {
	var m marks
	m.add(text)
	mark, _ := m.decimal(false)
	c, err := ReadMoney(text, mark, currency)
	if err == nil && (!c.Known() || strings.ContainsAny(text, "<>-–%")) {
		err = fmt.Errorf("“%s” is not an amount of money", shorten(printable(text), 30))
	}
	return c, err
}

// isCode holds for three letters, as ISO 4217 writes currencies.
func isCode(s string) bool {
	foreign := func(r rune) bool { return r > unicode.MaxASCII || !unicode.IsLetter(r) }
	return len(s) == 3 && !strings.ContainsFunc(s, foreign)
}
