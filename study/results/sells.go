package results

import (
	"cmp"
	"context"
	"encoding/json"
	"maps"
	"slices"
	"strconv"
	"strings"

	"cleverniche/market"
	"cleverniche/study/ideas"
	"cleverniche/study/niches"
)

// Seller is who sells beside the results of a niche's looked-up ideas.
type Seller struct {
	Name                 string
	Ideas                int // beside whose results it shows offers or ads
	Offers, Ads          int
	Low, Middle, High    float64 // prices of its offers in the niche's currency; all 0 where none is
	Example, ExampleIdea string  // an offer, and the phrase beside whose results it stands
}

// Selling is what is sold beside the results of a niche.
type Selling struct {
	Ideas   int // that are looked up and on the subject
	Rows    int // of them, those with a row of offers
	WithAds int
	Sellers []Seller // most ideas first
	// Low, Middle and High are prices of all offers in the niche's currency.
	Low, Middle, High float64
	Priced            int // offers that have such a price
	Foreign           int // offers in another currency, which count nowhere
}

// Sells is what is sold beside the results that were looked up. Nobody is asked.
func (s *Researcher) Sells(ctx context.Context, n niches.Niche) (out Selling, err error) {
	ids, err := s.store.ToReckon(ctx, n.ID, false)
	if err != nil {
		return out, err
	}
	by := map[string]*Seller{}
	prices := map[string][]float64{}
	var all []float64
	for part := range slices.Chunk(ids, reckonedAtOnce) {
		documents, err := s.store.Evidences(ctx, part)
		if err != nil {
			return out, err
		}
		rows, err := s.store.Ideas(ctx, n.ID, part)
		if err != nil {
			return out, err
		}
		for _, row := range rows {
			if ideas.OffSubject(row) {
				continue
			}
			id := row.ID
			var ev struct {
				Phrase  string         `json:"phrase"`
				Results market.Results `json:"results"`
			}
			if d := documents[id]; d.Damage != nil || json.Unmarshal(d.Body, &ev) != nil {
				continue
			}
			out.Ideas++
			r, here := ev.Results, map[string]bool{}
			seller := func(name string) *Seller {
				if by[name] == nil {
					by[name] = &Seller{Name: name}
				}
				if !here[name] {
					here[name] = true
					by[name].Ideas++
				}
				return by[name]
			}
			if r.ShoppingRow || len(r.Offers) > 0 {
				out.Rows++
			}
			if r.Ads > 0 || len(r.Copy) > 0 {
				out.WithAds++
			}
			for _, ad := range r.Copy {
				if ad.Advertiser != "" {
					seller(ad.Advertiser).Ads++
				}
			}
			for _, o := range r.Offers {
				if o.Seller == "" {
					continue
				}
				x := seller(o.Seller)
				x.Offers++
				if x.Example == "" {
					x.Example, x.ExampleIdea = o.Name, ev.Phrase
				}
				price, bad := strconv.ParseFloat(strings.ReplaceAll(o.Price, ",", ""), 64)
				switch {
				case bad != nil || !(price > 0 && price < 1e7):
				case o.Currency != n.Currency:
					out.Foreign++
				default:
					prices[o.Seller], all = append(prices[o.Seller], price), append(all, price)
				}
			}
		}
	}
	for _, name := range slices.Sorted(maps.Keys(by)) {
		x := by[name]
		x.Low, x.Middle, x.High = span(prices[name])
		out.Sellers = append(out.Sellers, *x)
	}
	slices.SortStableFunc(out.Sellers, func(a, b Seller) int { return cmp.Compare(b.Ideas, a.Ideas) })
	out.Priced = len(all)
	out.Low, out.Middle, out.High = span(all)
	return out, nil
}

// span is the lowest, the middle and the highest of some prices.
func span(list []float64) (low, middle, high float64) {
	_, middle, ok := Middle(list)
	if !ok {
		return 0, 0, 0
	}
	return slices.Min(list), middle, slices.Max(list)
}
