package serp

import (
	"strings"
	"testing"
)

func TestLocked(t *testing.T) {
	maker := &Page{SiteName: "Tarnova Optics", Publisher: []string{"Corporation"}}
	seller := &Page{SiteName: "Tall Mart", Publisher: []string{"OnlineStore"}}
	for name, c := range map[string]struct {
		phrase, url string
		page        *Page
		locked      bool
	}{
		"its own site leads":          {"tarnova optics customer service", "http://tarnovaoptics.example/help", maker, true},
		"by its domain, in one word":  {"tarnovaoptics login", "http://tarnovaoptics.example/", &Page{}, true},
		"by its domain, in two words": {"tarnova optics login", "http://tarnovaoptics.example/", &Page{}, true},
		"a brand is not named":        {"best telescope for kids", "http://tarnovaoptics.example/kids", maker, false},
		"a shop leads":                {"tall mart telescope", "http://tallmart.example/telescopes", seller, false},
		"part of another word":        {"tarnova opticsworld", "http://maker.example/x", maker, false},
		"an address":                  {"192 telescope", "http://192.0.2.1/", &Page{}, false},
	} {
		got := Reader{Lang: "en", AsOf: today}.Read(c.phrase, []Result{{Position: 1, URL: c.url, Page: c.page},
			{Position: 2, URL: "http://other.example/"}}).Locked
		if (got != "") != c.locked || c.locked && !strings.Contains(got, "tarnovaoptics.example") {
			t.Errorf("%s: %q", name, got)
		}
	}
	for phrase, place := range map[string]string{"star parties in maine": "in maine", "telescope shops near me": "near me",
		"maine coon cats": ""} {
		got := Reader{Lang: "en"}.Read(phrase, []Result{{Position: 1, URL: "http://other.example/guide"}}).Locked
		if (got != "") != (place != "") || !strings.Contains(got, place) {
			t.Errorf("%s: %q", phrase, got)
		}
	}
	if got := (Reader{Lang: "en"}).Read("x", nil).Locked; got != "" {
		t.Errorf("no results are locked: %q", got)
	}
}
