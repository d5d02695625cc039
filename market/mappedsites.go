package market

import (
	"context"
	"errors"
	"fmt"
	"math"
	"net/url"
	"strings"

	"cleverniche/core/demand"
	"cleverniche/market/files"
)

// mostDescribedRanks is how many phrases of a site are taken of a described source.
const mostDescribedRanks = 20_000

// Knows implements SiteRanker: such a service knows the one part that its file describes.
func (c *Described) Knows(p Part) bool {
	return c.d.Part == p || c.d.Part == "" && p == PhrasesPart
}

// number reads a number of a row; nil where it is not known.
func (a *AnswerShape) number(r row, field string) (*float64, error) {
	said := r.text(a.Fields[field])
	if said == "" || a.unknown(said) {
		return nil, nil
	}
	n, err := files.ReadNumber(said, a.Decimal)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", field, err)
	}
	if !n.Known || n.Middle() > files.MostSearches {
		return nil, nil
	}
	x := n.Middle()
	return &x, nil
}

// whole is a count of a number that may be unknown.
func whole(x *float64) *int {
	if x == nil {
		return nil
	}
	n := int(math.Round(*x))
	return &n
}

func orZero[T int | float64](x *T) T {
	if x == nil {
		return 0
	}
	return *x
}

// host is the site that a question is about, as it is filled in.
func (t Target) host() string {
	if u, err := url.Parse(t.Name); err == nil && u.Host != "" {
		return u.Hostname()
	}
	return t.Name
}

// mapped reads the rows of an answer about a site; what reads one tells what is wrong with it.
func mapped[T any](ctx context.Context, c *Described, of Target, in Locale, most int,
	read func(text func(field string) string, number func(field string) *float64) (T, error)) (out []T, err error) {
	rows, _, err := c.pages(ctx, of.host(), in, most)
	if err != nil {
		return nil, err
	}
	a := &c.d.Answer
	for i, r := range rows {
		var bad error
		text := func(field string) string {
			if v := r.text(a.Fields[field]); !a.unknown(v) {
				return v
			}
			return ""
		}
		number := func(field string) *float64 {
			x, err := a.number(r, field)
			bad = errors.Join(bad, err)
			return x
		}
		one, err := read(text, number)
		if err = errors.Join(bad, err); err != nil {
			return nil, c.fail(Malformed, fmt.Errorf("row %d: %w", i+1, err))
		}
		out = append(out, one)
	}
	return out, nil
}

// Ranks implements PhraseRanker: what a site ranks for. Such a service is not asked to sift or to page, so what it
// answers is sifted here, and all of it comes at once, also more than the limit.
func (c *Described) Ranks(ctx context.Context, q RanksAsked, in Locale) (out Ranks, err error) {
	all, err := mapped(ctx, c, q.Target, in, mostDescribedRanks,
		func(text func(string) string, number func(string) *float64) (Rank, error) {
			one := Rank{Phrase: text("phrase"), URL: text("url"), Place: orZero(whole(number("place"))),
				Searches: whole(number("searches")), Visits: number("visits")}
			if one.URL == "" { // a service of sites need not say which page
				one.URL = "http://" + q.host() + "/"
			}
			return one, one.check()
		})
	for _, one := range all {
		if q.Passes(one) {
			out.List = append(out.List, one)
		}
	}
	q.sort(out.List)
	out.Total = len(out.List)
	out.List = out.List[min(q.Offset, len(out.List)):]
	return out, err
}

// Sharers implements SiteRanker.
func (c *Described) Sharers(ctx context.Context, of Target, in Locale, most int) (out Sharers, err error) {
	out.List, err = mapped(ctx, c, of, in, most,
		func(text func(string) string, number func(string) *float64) (Sharer, error) {
			one := Sharer{text("site"), orZero(whole(number("shared"))), whole(number("phrases")), number("visits")}
			return one, one.check()
		})
	out.Total = len(out.List)
	return out, err
}

// TopPages implements SiteRanker.
func (c *Described) TopPages(ctx context.Context, of Target, in Locale, most int) (out TopPages, err error) {
	out.List, err = mapped(ctx, c, of, in, most,
		func(text func(string) string, number func(string) *float64) (TopPage, error) {
			one := TopPage{text("url"), orZero(whole(number("phrases"))), number("visits"), text("phrase")}
			return one, one.check()
		})
	out.Total = len(out.List)
	return out, err
}

// mostMonths is how many months are taken.
const mostMonths = 240

// Months implements SiteRanker.
func (c *Described) Months(ctx context.Context, of Target, in Locale) (out SiteMonths, err error) {
	out.List, err = mapped(ctx, c, of, in, mostMonths,
		func(text func(string) string, number func(string) *float64) (SiteMonth, error) {
			one := SiteMonth{text("month"), whole(number("phrases")), number("visits")}
			return one, one.check()
		})
	SortMonths(out.List)
	return out, err
}

// Countries implements SiteRanker.
func (c *Described) Countries(ctx context.Context, of Target, in Locale) (out SiteCountries, err error) {
	out.List, err = mapped(ctx, c, of, in, 300,
		func(text func(string) string, number func(string) *float64) (SiteCountry, error) {
			one := SiteCountry{strings.ToUpper(text("country")), whole(number("phrases")), number("visits")}
			return one, one.check()
		})
	return out, err
}

// Advertised implements SiteRanker.
func (c *Described) Advertised(ctx context.Context, of Target, in Locale, most int) (out Advertised, err error) {
	a := &c.d.Answer
	out.List, err = mapped(ctx, c, of, in, most,
		func(text func(string) string, number func(string) *float64) (one Paid, err error) {
			one = Paid{Phrase: text("phrase"), Title: text("title"), Text: text("text"), URL: text("url")}
			if said := text("cost"); said != "" {
				var cost demand.Cost
				cost, err = files.ReadMoney(said, a.Decimal, strings.ToUpper(orElse(text("currency"), a.Currency)))
				one.Cost = &cost
			}
			if one.Share = number("share"); one.Share != nil && *one.Share > 1 { // per cent
				*one.Share /= 100
			}
			return one, errors.Join(err, one.check())
		})
	out.Total = len(out.List)
	return out, err
}
