package niches_test

import (
	"errors"
	"testing"

	"cleverniche/core/difficulty"
	"cleverniche/study/input"
	"cleverniche/study/niches"
	"cleverniche/study/studytest"
)

func TestCheckNiche(t *testing.T) {
	s, n := studytest.Begin(t, &studytest.Fake{}, nil)
	if n.OwnSite != "mine.example" || n.Country != "US" || n.Currency != "USD" || n.Fit != difficulty.WellMade {
		t.Errorf("niche %+v", n)
	}
	good := niches.Niche{Name: "x", Country: "DE", Language: "de"}
	for field, change := range map[string]func(*niches.Niche){
		"name": func(n *niches.Niche) { n.Name = "  " }, "country": func(n *niches.Niche) { n.Country = "Moon" },
		"language": func(n *niches.Niche) { n.Language = "xx1" },
		"site":     func(n *niches.Niche) { n.OwnSite = "not a domain" },
		"links":    func(n *niches.Niche) { n.PlannedLinks = -1 }, "fit": func(n *niches.Niche) {
			n.Fit = 101
		}, "standing": func(n *niches.Niche) { n.LinkStanding = 5 },
	} {
		bad := good
		change(&bad)
		var invalid *input.Error
		if _, err := s.Niches.Check(bad); !errors.As(err, &invalid) || invalid.Field != field {
			t.Errorf("%s: %v", field, err)
		}
	}
	if _, err := s.Niches.Create(ctx, niches.Niche{Name: "SKY", Country: "US", Language: "en"}); err == nil {
		t.Error("two niches have one name")
	}
	if de, err := s.Niches.Check(good); err != nil || de.Currency != "EUR" {
		t.Errorf("Germany pays in %s, %v", de.Currency, err)
	}
}
