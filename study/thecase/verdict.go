package thecase

import (
	"context"
	"encoding/json"
	"fmt"
	"math"
	"strings"
	"time"

	"cleverniche/store"
	"cleverniche/study/briefs"
	"cleverniche/study/input"
	"cleverniche/study/money"
	"cleverniche/study/niches"
)

// Figures are those of the day on which a verdict was signed.
type Figures struct {
	Decision Decision          `json:"decision"` // what the case came to
	Why      string            `json:"why"`
	Topics   int               `json:"topics"`
	LookedUp int               `json:"lookedUp"`
	Hour     [3]float64        `json:"hour"` // low, likely, high
	Income   [3]float64        `json:"income"`
	Hours    float64           `json:"hours"`
	Bar      float64           `json:"bar"`
	Currency string            `json:"currency"`
	Answers  map[string]string `json:"answers"`
}

// Signed is a verdict as it was signed.
type Signed struct {
	ID      uint
	Said    Decision
	Words   string
	Figures Figures
	Person  string
	At      time.Time
}

// MostWords is how long one's own words may be.
const MostWords = 4000

// Sign keeps a verdict with the case's figures.
func (s *Examiner) Sign(ctx context.Context, c Case, said Decision, words string) error {
	words = strings.TrimSpace(strings.ReplaceAll(words, "\r\n", "\n"))
	switch {
	case said != Start && said != Stop && said != NotYet:
		return input.Bad("said", "Say yes, no or not yet.")
	case len([]rune(words)) > MostWords:
		return input.Bad("words", "At most %d characters.", MostWords)
	}
	f := Figures{Decision: c.Decision, Why: c.Why, Topics: c.Topics, LookedUp: c.LookedUp, Hours: c.Earn.Hours,
		Bar: c.Settings.Assumed.Bar, Currency: c.Niche.Currency, Answers: map[string]string{}}
	if n := len(c.Earn.Months); n > 0 {
		last, hour := c.Earn.Months[n-1].Income, c.Earn.Hour
		f.Hour, f.Income = [3]float64{hour.Low, hour.Likely, hour.High}, [3]float64{last.Low, last.Likely, last.High}
	}
	for _, a := range c.Answers.Answers {
		f.Answers[string(a.Question)] = string(a.Verdict)
	}
	body, err := json.Marshal(f)
	if err != nil {
		return err
	}
	return s.store.SaveVerdict(ctx, store.Verdict{NicheID: c.Niche.ID, Said: string(said), Words: words,
		Figures: string(body)})
}

// Signed are the verdicts on a niche, the latest first.
func (s *Examiner) Signed(ctx context.Context, n niches.Niche) (out []Signed, err error) {
	rows, err := s.store.Verdicts(ctx, n.ID)
	for _, r := range rows {
		one := Signed{ID: r.ID, Said: Decision(r.Said), Words: r.Words, Person: r.Person, At: r.At}
		if json.Unmarshal([]byte(r.Figures), &one.Figures) != nil {
			one.Figures = Figures{}
		}
		out = append(out, one)
	}
	return out, err
}

// Withdraw takes a verdict out.
func (s *Examiner) Withdraw(ctx context.Context, n niches.Niche, id uint) error {
	return s.store.DeleteVerdict(ctx, n.ID, id)
}

// Marks are the months that are told.
var Marks = []int{6, 12, 24}

// Money writes an amount of money for reading.
func Money(x float64, currency string) string { return money.Text(int64(math.Round(x*1e6)), currency) }

// Report is the case for somebody who must agree, with the small sites and the latest verdict.
func (s *Examiner) Report(ctx context.Context, n niches.Niche, c Case) (briefs.Brief, error) {
	small, _, err := s.Small(ctx, n, c.Settings.Bars, MostSmall)
	if err != nil {
		return briefs.Brief{}, err
	}
	signed, err := s.Signed(ctx, n)
	return c.report(small, signed, s.store.Now()), err
}

// MostSmall is how many small sites are shown.
const MostSmall = 30

// report is the case for somebody who must agree, to be written as briefs are.
func (c Case) report(small []Small, signed []Signed, made time.Time) briefs.Brief {
	amount := func(x float64) string { return Money(x, c.Niche.Currency) }
	out := briefs.Brief{Title: "The case: " + c.Niche.Name, Lang: "en", Made: made}
	add := func(name string, lines ...string) {
		if len(lines) > 0 {
			out.Sections = append(out.Sections, briefs.Section{Key: name, Name: name, Lines: lines})
		}
	}
	add("Start it?", input.Sentence(string(c.Decision))+" "+c.Why)
	var earn []string
	if c.EarnWhy == "" {
		for _, m := range Marks {
			one := c.Earn.Months[m-1]
			earn = append(earn, fmt.Sprintf("Month %d: %s a month (%s to %s), after %.0f hours", m, amount(one.Income.Likely),
				amount(one.Income.Low), amount(one.Income.High), one.Hours))
		}
		earn = append(earn, fmt.Sprintf("An hour brings %s within two years (%s to %s). The bar is %s.",
			amount(c.Earn.Hour.Likely), amount(c.Earn.Hour.Low), amount(c.Earn.Hour.High), amount(c.Settings.Assumed.Bar)),
			fmt.Sprintf("Chance that the hours are never earned back within two years: %.0f %%", 100*c.Earn.Never))
	} else {
		earn = append(earn, c.EarnWhy)
	}
	add("What it would earn", earn...)
	var answers []string
	for _, a := range c.Answers.Answers {
		said := fmt.Sprintf("%s %s %s", a.Question, input.Sentence(string(a.Verdict)), input.Sentence(a.Because))
		if a.Sampled {
			said += fmt.Sprintf(" In all likely %.0f (%.0f to %.0f).", a.Figure, a.Range.Low, a.Range.High)
		}
		answers = append(answers, said)
	}
	add("Seven questions", answers...)
	var sites []string
	for _, one := range small[:min(5, len(small))] {
		sites = append(sites, one.Says(c.Niche.Currency))
	}
	add("Small sites that live from it", sites...)
	a := c.Settings.Assumed
	add("What this rests on", fmt.Sprintf("%d of %d topics are looked up, %d of them drawn at random", c.LookedUp,
		c.Topics, c.Drawn), fmt.Sprintf("%.1f hours a week; %.1f months from publishing to the place; outcomes tied by %.2f",
		a.WeekHours, a.LeadMonths, a.Tied), fmt.Sprintf("A visit brings %s, %s", amount(c.Visit.Likely), c.Visit.Said))
	for _, q := range HandQuestions {
		if text := c.Settings.Hand[q.Key]; text != "" {
			add(q.Says, text)
		}
	}
	if len(signed) > 0 {
		add("Verdict", fmt.Sprintf("%s: %s %s", signed[0].At.Format("2 January 2006"),
			input.Sentence(string(signed[0].Said)), signed[0].Words))
	}
	return out
}

func many(n int, one, more string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%d %s", n, more)
}

// Says tells of a site what is known.
func (s Small) Says(currency string) string {
	said := []string{fmt.Sprintf("%s: standing %.0f", s.Name, s.Standing)}
	if s.Months >= 0 {
		said = append(said, many(s.Months, "month", "months")+" old")
	}
	if s.Pages >= 0 {
		said = append(said, many(s.Pages, "page", "pages"))
	}
	said = append(said, many(s.Phrases, "phrase", "phrases"), fmt.Sprintf("about %s a month worth %s",
		many(int(math.Round(s.Visits)), "visit", "visits"), Money(s.Worth, currency)))
	return strings.Join(said, ", ")
}
