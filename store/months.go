package store

import (
	"fmt"
	"strconv"
	"strings"

	"cleverniche/core/demand"
)

// EncodeMonths writes monthly counts as text: the first month, then a value for
// each month up to the last; empty is missing, "<10" is under ten.
func EncodeMonths(s demand.Series) string {
	counts := s.Latest(120)
	if len(counts) == 0 {
		return ""
	}
	var b strings.Builder
	b.WriteString(counts[0].Month.String())
	next := counts[0].Month
	for _, c := range counts {
		for ; next <= c.Month; next++ {
			b.WriteByte(',')
		}
		if c.Under {
			b.WriteByte('<')
		}
		b.WriteString(strconv.Itoa(c.Searches))
	}
	return b.String()
}

// DecodeMonths reads what EncodeMonths wrote.
func DecodeMonths(text string) ([]demand.Count, error) {
	if text == "" {
		return nil, nil
	}
	parts := strings.Split(text, ",")
	month, err := demand.ParseMonth(parts[0])
	if err != nil {
		return nil, err
	}
	out := make([]demand.Count, 0, len(parts)-1)
	for i, p := range parts[1:] {
		if p == "" {
			continue
		}
		digits, under := strings.CutPrefix(p, "<")
		n, err := strconv.Atoi(digits)
		if err != nil {
			return nil, fmt.Errorf("month %d: %w", i+1, err)
		}
		out = append(out, demand.Count{Month: month + demand.Month(i), Searches: n, Under: under})
	}
	return out, nil
}
