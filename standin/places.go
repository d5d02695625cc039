package standin

import (
	"math"
	"math/rand/v2"
	"strings"
)

// place is a country: how many searches it makes beside the home one, what it pays
// in, and whether its seasons are the other way round. Ours, of the right order.
type place struct {
	country, language string
	size              float64
	currency          string
	rate              float64 // of its currency for a dollar
	southern          bool
}

// home is where the scenarios are at home.
var home = places[0]

var places = []place{
	{"US", "en", 1, "USD", 1, false},
	{"GB", "en", 0.22, "GBP", 0.8, false},
	{"CA", "en", 0.13, "CAD", 1.35, false},
	{"AU", "en", 0.09, "AUD", 1.5, true},
	{"IE", "en", 0.02, "EUR", 0.92, false},
	{"NZ", "en", 0.02, "NZD", 1.65, true},
	{"ZA", "en", 0.03, "ZAR", 18, true},
	{"DE", "de", 0.25, "EUR", 0.92, false},
	{"AT", "de", 0.03, "EUR", 0.92, false},
	{"FR", "fr", 0.2, "EUR", 0.92, false},
	{"ES", "es", 0.15, "EUR", 0.92, false},
	{"IT", "it", 0.18, "EUR", 0.92, false},
	{"NL", "nl", 0.06, "EUR", 0.92, false},
}

// elsewhere is any country that the list does not hold.
var elsewhere = place{"", "", 0.02, "USD", 1, false}

// placeOf finds a country and the language asked in it; empty means home.
func placeOf(country, language string) place {
	p := elsewhere
	if country == "" {
		country = home.country
	}
	for _, one := range places {
		if strings.EqualFold(one.country, country) {
			p = one
		}
	}
	p.country = strings.ToUpper(country)
	if language != "" {
		p.language = strings.ToLower(strings.SplitN(language, "-", 2)[0])
	}
	return p
}

// foreign is the share of searches made in a language that is not the country's.
const foreign = 0.03

// appetite is how much a country searches for a need, beside the home one.
func (w *World) appetite(n *need, in place) float64 {
	spoken := w.scenarios[n.hobby].Language
	share := in.size
	if in.language != spoken {
		return 0 // asked for in another language than the phrase is in
	}
	if in.country == home.country && spoken == home.language {
		return share
	}
	native := elsewhere
	for _, one := range places {
		if one.country == in.country {
			native = one
		}
	}
	if native.language != spoken {
		share *= foreign
	}
	return share * math.Exp(0.45*w.random("appetite", in.country, n.id).NormFloat64())
}

// month is the month, 1 to 12, whose season a country has in a month of the home one.
func (p place) month(month int) int {
	if p.southern {
		return (month+5)%12 + 1
	}
	return month
}

func countryOf(rng *rand.Rand) string {
	return [...]string{"US", "US", "US", "US", "US", "US", "US", "GB", "CA", "AU"}[rng.IntN(10)]
}
