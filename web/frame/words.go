package frame

import (
	"fmt"
	"html/template"
	"math"
	"net/url"
	"regexp"
	"slices"
	"strings"
	"time"

	"cleverniche/core/difficulty"
	"cleverniche/core/sieve"
	"cleverniche/study/ask"
	"cleverniche/study/money"
	"cleverniche/study/niches"

	"golang.org/x/text/language"
	"golang.org/x/text/message"
	"golang.org/x/text/number"
)

// Speaker writes figures the niche's way.
type Speaker struct {
	p     *message.Printer
	niche niches.Niche
	now   time.Time
	shows []*sieve.Figure // in lists
}

// Speak returns the niche's speaker.
func (r *Request) Speak() Speaker {
	sp := speak(r.Niche, r.Now())
	sp.shows = r.Listed()
	return sp
}

func speak(n niches.Niche, now time.Time) Speaker {
	tag, err := language.Parse(n.Language + "-" + n.Country)
	if err != nil {
		tag = language.English
	}
	return Speaker{message.NewPrinter(tag), n, now, n.Figures()}
}

// Count writes a whole number.
func (s Speaker) Count(n int) string { return s.p.Sprint(number.Decimal(n)) }

// Counted writes how many of something there are.
func (s Speaker) Counted(n int, one, many string) string {
	return s.Count(n) + " " + Plural(n, one, many)
}

// Ago says how long ago something was, in the largest whole unit.
func (s Speaker) Ago(t time.Time) string { return ago(s.now.Sub(t)) }

func ago(d time.Duration) string {
	for _, u := range []struct {
		size time.Duration
		name string
	}{{365 * ask.Day, "year"}, {30 * ask.Day, "month"}, {ask.Day, "day"}, {time.Hour, "hour"},
		{time.Minute, "minute"}} {
		if n := int(d / u.size); n > 0 {
			return fmt.Sprintf("%d %s ago", n, Plural(n, u.name, u.name+"s"))
		}
	}
	return "just now"
}

// Age is how old something is that began at a moment: whole months up to two years, then whole years; "" where that is
// not known.
func Age(since, now time.Time) string {
	if since.IsZero() || since.After(now) {
		return ""
	}
	return MonthsOld(int(now.Sub(since).Hours() / 24 / (365.2425 / 12)))
}

// MonthsOld writes an age of so many months.
func MonthsOld(months int) string {
	if months < 24 {
		return fmt.Sprintf("%d %s", months, Plural(months, "month", "months"))
	}
	return fmt.Sprintf("%d years", months/12)
}

// Plural picks the word for so many.
func Plural(n int, one, many string) string {
	if n == 1 {
		return one
	}
	return many
}

// Capital begins a sentence.
func Capital(s string) string {
	if s == "" {
		return s
	}
	return strings.ToUpper(s[:1]) + s[1:]
}

// Functions are what templates may call.
func (s *Server) Functions() map[string]any {
	return map[string]any{
		"asset":   s.Assets.Address,
		"modules": s.Assets.Modules,
		"ago":     func(t time.Time) string { return ago(s.Study.Now().Sub(t)) },
		"pick":    func(a, b any) bool { return fmt.Sprint(a) == fmt.Sprint(b) },
		"dict":    dict,
		"at":      addressIn,
		"bounds":  boundsOf,
		"add":     func(a, b int) int { return a + b },
		"rounded": func(x float64) string { return fmt.Sprintf("%.0f", x) },
		"one":     func(x float64) string { return fmt.Sprintf("%.1f", x) },
		"percent": func(x float64) string { return fmt.Sprintf("%.0f %%", 100*x) },
		"scale":   difficulty.Shown,
		"host":    func(u string) string { return strings.TrimPrefix(strings.TrimPrefix(u, "https://"), "http://") },
		"about": func(x float64) string {
			return message.NewPrinter(language.English).Sprint(number.Decimal(math.Round(x)))
		},
		"grouped": func(n int) string { return message.NewPrinter(language.English).Sprint(number.Decimal(n)) },
		"safeURL": func(u string) string { return s.openURL(u) },
		"asRead":  readURL,
		"linked":  s.linked,
		"plural":  Plural,
		"capital": Capital,
		"money":   money.Text,
		"icon":    func(name string) template.HTML { return icons[name] },
	}
}

// addressIn is the address of something in a niche: its parts one after the other.
func addressIn(niche uint, parts ...any) string {
	var out strings.Builder
	fmt.Fprintf(&out, "/niches/%d/", niche)
	for _, part := range parts {
		fmt.Fprint(&out, part)
	}
	return out.String()
}

// IsWeb holds for web addresses.
func IsWeb(u string) bool { return strings.HasPrefix(u, "http://") || strings.HasPrefix(u, "https://") }

// safeURL lets web addresses through only: results are strangers'.
func safeURL(u string) string {
	if IsWeb(u) {
		return u
	}
	return "#"
}

// addressRE is a web address within a text.
var addressRE = regexp.MustCompile(`https?://[^\s<>"“”]+[^\s<>"“”.,;:!?)\]]`)

// linked is a text whose web addresses are links.
func (s *Server) linked(text string) template.HTML {
	var out strings.Builder
	from := 0
	for _, at := range addressRE.FindAllStringIndex(text, -1) {
		address := text[at[0]:at[1]]
		fmt.Fprintf(&out, `%s<a href="%s" rel="noopener noreferrer nofollow" target="_blank">%s</a>`,
			template.HTMLEscapeString(text[from:at[0]]), template.HTMLEscapeString(s.openURL(address)),
			template.HTMLEscapeString(address))
		from = at[1]
	}
	return template.HTML(out.String() + template.HTMLEscapeString(text[from:]))
}

// ReadPath is where a page is shown as it was read.
const ReadPath = "/read"

func readURL(u string) string { return ReadPath + "?url=" + url.QueryEscape(u) }

// openURL is where a link to a page leads: to the page, or where a browser cannot go there to what was read of it.
func (s *Server) openURL(u string) string {
	if s.Elsewhere(u) {
		return readURL(u)
	}
	return safeURL(u)
}

// Elsewhere reports whether a web address is of a host that only the application reaches, as those of a simulated web
// are.
func (s *Server) Elsewhere(address string) bool {
	u, err := url.Parse(address)
	return err == nil && slices.ContainsFunc(s.Reached, func(suffix string) bool {
		return strings.HasSuffix("."+u.Hostname(), suffix)
	})
}

func dict(pairs ...any) map[string]any {
	m := make(map[string]any, len(pairs)/2)
	for i := 0; i+1 < len(pairs); i += 2 {
		m[fmt.Sprint(pairs[i])] = pairs[i+1]
	}
	return m
}

// icons are from Bootstrap Icons, MIT; drawn in the text's colour.
var icons = map[string]template.HTML{
	"keep": `<svg class="icon" viewBox="0 0 16 16" aria-hidden="true"><path d="M8 1 15 8 8 15 1 8z"/></svg>`,
	"undo": `<svg class="icon" viewBox="0 0 16 16" aria-hidden="true"><path d="M6 2 1 7l5 5V9h5v5h3V5H6z"/></svg>`,
	"redo": `<svg class="icon" viewBox="0 0 16 16" aria-hidden="true"><path d="m10 2 5 5-5 5V9H5v5H2V5h8z"/></svg>`,
}

// YesNo is a yes or no in words.
func YesNo(is bool) string {
	if is {
		return "yes"
	}
	return "no"
}
