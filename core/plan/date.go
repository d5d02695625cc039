package plan

import (
	"fmt"
	"strings"
	"time"
)

// Date is a day as it is kept and typed, 2006-01-02 (ISO 8601); "" is none.
type Date string

// Bounds of dates: what a calendar shows.
const (
	firstYear = 2000
	lastYear  = 2100
)

// ReadDate reads a day as somebody typed it; blanks around it, or nothing at all, are no mistake.
func ReadDate(text string) (Date, error) {
	if text = strings.TrimSpace(text); text == "" {
		return "", nil
	}
	day, err := time.Parse(time.DateOnly, text)
	if err == nil && (day.Year() < firstYear || day.Year() > lastYear) {
		err = fmt.Errorf("%d is too far away", day.Year())
	}
	if err != nil {
		return "", err
	}
	return DateOf(day), nil
}

// DateOf is the date of a day; "" of the zero time.
func DateOf(day time.Time) Date {
	if day.IsZero() {
		return ""
	}
	return Date(day.Format(time.DateOnly))
}

// Time is the beginning of the day in UTC; the zero time for none, or for what is no date.
func (d Date) Time() time.Time {
	day, err := time.Parse(time.DateOnly, string(d))
	if err != nil {
		return time.Time{}
	}
	return day
}
