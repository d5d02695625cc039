package results_test

import (
	"context"
	"testing"

	"cleverniche/market"
	"cleverniche/study/studytest"
)

// bazaar shows offers and ads beside its results.
type bazaar struct{ studytest.Fake }

func (f *bazaar) Search(ctx context.Context, q string, in market.Locale, depth int) (market.Results, error) {
	r, err := f.Fake.Search(ctx, q, in, depth)
	r.ShoppingRow, r.Ads = true, 1
	r.Copy = []market.Ad{{Advertiser: "Shop A", Title: "A", URL: "http://a.example/"}, {Title: "nobody"}}
	r.Offers = []market.Offer{{Name: "A globe", Seller: "Shop A", Price: "10.00", Currency: "USD"},
		{Name: "A large globe", Seller: "Shop A", Price: "1,030.00", Currency: "USD"},
		{Name: "A map", Seller: "Shop B", Price: "50", Currency: "USD"},
		{Name: "Eine Karte", Seller: "Shop B", Price: "9", Currency: "EUR"},
		{Name: "A gift", Seller: "Shop C", Price: "free", Currency: "USD"}, {Name: "Nobody's", Price: "1", Currency: "USD"}}
	return r, err
}

// TestSells: sellers, prices in the niche's currency, and what cannot be read as a price counts as an offer alone.
func TestSells(t *testing.T) {
	f := &bazaar{}
	s, n := studytest.Begin(t, &f.Fake, func(o *studytest.Setup) { o.Market.Search = f })
	if got, err := s.Results.Sells(ctx, n); err != nil || got.Ideas != 0 || len(got.Sellers) != 0 {
		t.Fatalf("%+v, %v", got, err)
	}
	studytest.Gather(t, s, n, "moon map")
	b, err := s.Ideas.Table(ctx, n)
	if err != nil {
		t.Fatal(err)
	}
	j, err := s.Results.LookUp(ctx, n, []uint{b.Table.ID(0), b.Table.ID(1)}, false)
	studytest.Finish(t, s, j, err)
	got, err := s.Results.Sells(ctx, n)
	if err != nil || got.Ideas != 2 || got.Rows != 2 || got.WithAds != 2 || got.Priced != 6 || got.Foreign != 2 ||
		got.Low != 10 || got.Middle != 50 || got.High != 1030 || len(got.Sellers) != 3 {
		t.Fatalf("%+v, %v", got, err)
	}
	if a := got.Sellers[0]; a.Name != "Shop A" || a.Ideas != 2 || a.Offers != 4 || a.Ads != 2 || a.Low != 10 ||
		a.High != 1030 || a.Example != "A globe" || a.ExampleIdea == "" {
		t.Errorf("%+v", a)
	}
	if c := got.Sellers[2]; c.Name != "Shop C" || c.Offers != 2 || c.Middle != 0 {
		t.Errorf("%+v", c)
	}
}
