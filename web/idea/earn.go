package idea

import (
	"fmt"
	"math"

	"cleverniche/core/intent"
	"cleverniche/core/worth"
	"cleverniche/study/money"
	"cleverniche/study/niches"
	"cleverniche/web/frame"
)

// earnView is what clicks on an idea's page come to in money.
type earnView struct {
	Usual    bool   // how visits become money was never said
	Visit    string // what a visit to an article of its kind brings
	Made     string // of what
	Places   []earnPlace
	Low      string
	Likely   string
	High     string
	Sale     string // how many clicks one sale takes, against what advertisers pay
	Ceiling  string
	Cautious string
	Average  string // what a visit counts in lists and the plan
}

// earnPlace is what one place would bring.
type earnPlace struct {
	Place  int
	Visits string
	Money  string
}

// earnPlaces are those that are shown.
var earnPlaces = []int{1, 2, 3, 5, 10}

// earnOf fills in the view; nil while searches are not known.
func earnOf(v *View, sp frame.Speaker) *earnView {
	row := v.Idea.Row
	if row.Searches == nil || row.Under {
		return nil
	}
	n := v.Niche
	e, said := n.Earns()
	want := intent.FromWords(v.Idea.Phrase, n.Language).Shares.Leading()
	var beside worth.Beside
	curve := worth.Searches
	if v.Evidence != nil {
		curve = v.Evidence.Curve()
		want = v.Evidence.Intent.Leading
		beside = worth.Beside{Ads: v.Evidence.Results.Ads, AnswerBox: v.Evidence.Results.AnswerBox,
			ShoppingRow: v.Evidence.Results.ShoppingRow}
	}
	searches := float64(*row.Searches)
	each := e.For(want).PerVisit().Likely
	amount := func(x float64) string { return money.Text(int64(math.Round(x*1e6)), n.Currency) }
	monthly := func(x float64) string {
		if x < 1 {
			return money.Range(0, 0, n.Currency)
		}
		return amount(x)
	}
	out := &earnView{Usual: !said, Visit: amount(each)}
	if n.VisitMicros > 0 {
		out.Average = money.Text(n.VisitMicros, n.Currency)
	}
	out.Made = fmt.Sprintf("ads %s", amount(e.PerThousand/1000))
	if want == intent.Compare || want == intent.Buy {
		out.Made += fmt.Sprintf(", sales %s (%.3g%% go on to a shop, %.3g%% of these buy for %s, %.3g%% are yours)",
			amount(each-e.PerThousand/1000), 100*e.ClickOn, 100*e.Conversion, amount(e.Order), 100*e.Commission)
	} else {
		out.Made += "; who wants to " + want.String() + " buys nothing there"
	}
	for _, place := range earnPlaces {
		visits := searches * curve.At(place) * beside.Left()
		out.Places = append(out.Places, earnPlace{place, sp.Count(int(math.Round(visits))), monthly(visits * each)})
	}
	if v.Evidence != nil {
		mean, low, high := v.Evidence.Clicks()
		out.Low, out.Likely, out.High = monthly(low*searches*each),
			monthly(mean*searches*each), monthly(high*searches*each)
	}
	if cpc, ok := v.Idea.CPCMicros(); ok && v.Idea.Currency() == n.Currency {
		out.Ceiling = money.Text(int64(worth.Ceiling(searches, worth.Micros(cpc))), n.Currency)
		out.Cautious = money.Text(int64(worth.Cautious(searches, worth.Micros(cpc))), n.Currency)
		out.Sale = saleWords(e, said, float64(cpc)/1e6, amount)
	}
	return out
}

// saleWords sets what a click on to a shop brings against what advertisers pay for one. Advice is given only by values
// that somebody has set.
func saleWords(e niches.Earning, said bool, cpc float64, amount func(float64) string) string {
	clicks := worth.ClicksUntilSale(e.Conversion)
	if math.IsInf(clicks, 0) || clicks > 1e6 {
		return ""
	}
	says := fmt.Sprintf("By these values one sale takes about %.0f clicks on to a shop, and such a click brings you %s. "+
		"Advertisers pay %s for one here", clicks, amount(e.PerClick()), amount(cpc))
	switch {
	case said && cpc > 2*e.PerClick():
		return says + ": a buyer is worth more to them than your commission says. Look for a better programme."
	case said && cpc < e.PerClick()/2:
		return says + ": they expect fewer buyers than you do. Check your shares."
	}
	return says + "."
}
