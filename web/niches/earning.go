package niches

import (
	"fmt"
	"strconv"
	"strings"

	"cleverniche/study/input"
	"cleverniche/study/niches"

	"github.com/gofiber/fiber/v3"
)

// earned is a field of how visits become money.
type earned struct {
	Field, Label, Value, Usual string
	percent                    bool
	of                         func(*niches.Earning) *float64
}

// earnedFields are all of them.
func earnedFields(n niches.Niche) []earned {
	list := []earned{
		{Field: "per-thousand", Label: "Ad income per 1,000 visits, in " + n.Currency,
			of: func(e *niches.Earning) *float64 { return &e.PerThousand }},
		{Field: "click-on", Label: "Visitors of buying articles who go on to a shop, in percent", percent: true,
			of: func(e *niches.Earning) *float64 { return &e.ClickOn }},
		{Field: "conversion", Label: "Of these, who buy, in percent", percent: true,
			of: func(e *niches.Earning) *float64 { return &e.Conversion }},
		{Field: "order", Label: "Order value, in " + n.Currency, of: func(e *niches.Earning) *float64 { return &e.Order }},
		{Field: "commission", Label: "Your commission, in percent", percent: true,
			of: func(e *niches.Earning) *float64 { return &e.Commission }},
	}
	usual := niches.UsualEarning
	for i := range list {
		f := &list[i]
		f.Usual = f.write(*f.of(&usual))
		if f.percent {
			f.Usual += " %"
		}
		if n.Earning != nil && *f.of(n.Earning) != *f.of(&usual) { // what is as usual stays empty: nobody said it
			f.Value = f.write(*f.of(n.Earning))
		}
	}
	return list
}

func (f earned) write(x float64) string {
	if f.percent {
		x *= 100
	}
	return strconv.FormatFloat(x, 'g', 8, 64)
}

// Earned are the fields of how visits become money.
func (f form) Earned() []earned { return earnedFields(f.Values) }

// readEarning reads them; none of them filled in is as usual. What a form does not name stays.
func readEarning(c fiber.Ctx, n *niches.Niche) error {
	e, any := niches.UsualEarning, false
	named := false
	for _, f := range earnedFields(*n) {
		if c.Request().PostArgs().Has(f.Field) {
			named = true
		}
		text := strings.TrimSpace(c.FormValue(f.Field))
		if text == "" {
			continue
		}
		x, err := strconv.ParseFloat(strings.ReplaceAll(strings.TrimSuffix(text, "%"), ",", "."), 64)
		if err != nil {
			return &input.Error{Field: f.Field, Reason: fmt.Sprintf("“%s” is not a number.", input.Clip(text, 20))}
		}
		if f.percent {
			x /= 100
		}
		*f.of(&e), any = x, true
	}
	if named {
		if n.Earning = nil; any {
			n.Earning = &e
		}
	}
	return nil
}
