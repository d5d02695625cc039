package thecase

import (
	"fmt"

	"cleverniche/study/results"
	"cleverniche/study/thecase"
	"cleverniche/web/frame"
)

// mostSellers is how many are shown.
const mostSellers = 12

type paying struct {
	Niche             uint
	S                 results.Selling
	Sellers           []sellerRow
	More              int
	Low, Middle, High string
	Share             string // of the topics' searches that sell
	Sale              string // what an order brings
}

type sellerRow struct {
	results.Seller
	Prices string
}

// showMoney is fetched once the page is there: it reads all that was looked up.
func showMoney(r *frame.Request) error {
	c, err := now(r)
	if err != nil {
		return err
	}
	v, err := moneyOf(r, c)
	if err != nil {
		return err
	}
	return r.Render("thecase/money", v)
}

// moneyOf is who sells what beside the results, at which prices.
func moneyOf(r *frame.Request, c thecase.Case) (*paying, error) {
	s, err := r.Study.Results.Sells(r.Context(), r.Niche)
	if err != nil {
		return nil, err
	}
	in := r.Niche.Currency
	v := &paying{Niche: r.Niche.ID, S: s, Low: thecase.Money(s.Low, in), Middle: thecase.Money(s.Middle, in),
		High: thecase.Money(s.High, in), More: max(0, len(s.Sellers)-mostSellers)}
	for _, one := range s.Sellers[:min(mostSellers, len(s.Sellers))] {
		row := sellerRow{Seller: one}
		if one.Middle > 0 {
			if row.Prices = thecase.Money(one.Low, in); one.Low != one.High {
				row.Prices += " to " + thecase.Money(one.High, in)
			}
		}
		v.Sellers = append(v.Sellers, row)
	}
	if c.SellsKnown > 0 {
		v.Share = fmt.Sprintf("%.0f %% of the searches of looked-up topics come from people who compare or buy.",
			100*c.Sells/c.SellsKnown)
	}
	if c.SellsCPC > 0 {
		v.Share += fmt.Sprintf(" The median ad click there costs %s.", thecase.Money(c.SellsCPC, in))
	}
	if e, said := r.Niche.Earns(); s.Middle > 0 {
		v.Sale = fmt.Sprintf("At a commission of %.1f %% that brings %s a sale", 100*e.Commission,
			thecase.Money(s.Middle*e.Commission, in))
		if !said {
			v.Sale += " (a usual commission; set yours)"
		}
		v.Sale += "."
	}
	return v, nil
}
