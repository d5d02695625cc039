package idea

import (
	"fmt"
	"math"
	"time"

	"cleverniche/core/demand"
	"cleverniche/study/results"
	"cleverniche/web/draw"
	"cleverniche/web/frame"
)

// season is how a demand lasts and when it peaks, in words.
type season struct {
	Words, Because, PublishBy string
	peak                      demand.Peak
}

func seasonOf(s demand.Series, now time.Time) season {
	if len(s.Counts) == 0 {
		return season{}
	}
	found, trend := demand.SeasonOf(s), demand.TrendOf(s)
	v := season{Words: frame.Capital(string(demand.LastingOf(s))), peak: found.Peak}
	if !found.Known {
		v.Because = fmt.Sprintf("A season needs %d months and %d searches a month.", demand.SeasonMonths,
			demand.SeasonAverage)
		return v
	}
	v.Because = fmt.Sprintf("%d months of data: seasonality %.2f of 1; %s.", len(s.Counts), found.Strength,
		trendWords(trend))
	day, ok := found.Peak.PublishBy(now, demand.Lead)
	if !ok {
		return v
	}
	span := found.Peak.First.String()
	if found.Peak.Months > 1 {
		span = found.Peak.First.String()[:3] + "–" + found.Peak.Last().String()[:3]
	}
	v.Words += fmt.Sprintf(": peaks %s", span)
	v.PublishBy = day.Format("2 January 2006")
	return v
}

// trendWords says what a trend comes to and how likely chance alone would show one.
func trendWords(t demand.Trend) string {
	p := fmt.Sprintf("p = %.2f", t.P)
	if t.P < 0.01 {
		p = "p < 0.01"
	}
	if t.P >= demand.TrendP {
		return fmt.Sprintf("no trend that chance would not show as well (%s)", p)
	}
	if math.Abs(t.Slope) < demand.TrendSlope {
		return fmt.Sprintf("trend %+.0f %% a year (%s), too little to call it rising or fading", 100*t.Slope, p)
	}
	return fmt.Sprintf("trend %+.0f %% a year (%s)", 100*t.Slope, p)
}

// OtherWords says what somebody else says of a phrase's searches, and how far that is from the figure that is used.
func (v View) OtherWords(o results.Other) string {
	count := countWords(demand.Count{Searches: o.Searches.Average, Under: o.Searches.Under}, v.sp)
	out := fmt.Sprintf("%s says %s a month", frame.Capital(o.Source), count)
	switch percent := math.Round(100 * (o.Apart - 1)); {
	case o.Apart == 0:
	case o.Apart >= 2:
		out += fmt.Sprintf(": %.1f times as many", o.Apart)
	case percent > 0:
		out += fmt.Sprintf(": %.0f%% more", percent)
	case percent < 0:
		out += fmt.Sprintf(": %.0f%% fewer", -percent)
	default:
		out += ": the same"
	}
	return out + "."
}

// Size of the drawn year.
const yearWidth, yearHeight = 180, 40

// yearOf draws the latest twelve months, and says which are the highest and the lowest.
func yearOf(counts []demand.Count, peak demand.Peak, sp frame.Speaker) (bars []month, words string) {
	var high, low demand.Count
	for _, b := range draw.Year(counts, yearWidth, yearHeight) {
		bars = append(bars, month{Bar: b, Letter: b.Month.Of().String()[:1],
			Text: b.Month.String() + ": " + countWords(b.Count, sp), Peak: peak.Holds(b.Month.Of())})
		if b.Under {
			continue
		}
		if b.Searches > high.Searches {
			high = b.Count
		}
		if low.Month == 0 || b.Searches < low.Searches {
			low = b.Count
		}
	}
	switch {
	case len(bars) == 0:
		return nil, ""
	case high.Month == 0:
		return bars, "Every month is under the source's floor."
	}
	return bars, fmt.Sprintf("Most in %s (%s), least in %s (%s)", high.Month.Of(), sp.Count(high.Searches),
		low.Month.Of(), sp.Count(low.Searches))
}
