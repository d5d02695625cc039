package serp

import (
	"strings"
	"testing"

	"cleverniche/core/links"
)

func TestAddressOf(t *testing.T) {
	s := links.NewSuffixes("pages.example")
	for address, want := range map[string]AddressKind{
		"http://a.example": FrontPage, "https://www.a.example/": FrontPage, "http://forum.a.example/": SubSite,
		"http://a.example/~jo": SubSite, "http://jo.pages.example/": FrontPage, "http://a.example/binoculars/": Section,
		"http://a.example/best-binoculars": Section, "http://a.example/how-to-clean": DeepPage,
		"http://a.example/x.html": DeepPage, "http://a.example/?p=12": DeepPage, "http://a.example/blog/moon": DeepPage,
		"http://a.example/4711": DeepPage, "::": DeepPage} {
		if got := AddressOf(address, s); got != want {
			t.Errorf("%s: %s, want %s", address, got, want)
		}
	}
}

func TestTitled(t *testing.T) {
	q := NewQuery("star trackers for beginners", "en")
	for title, want := range map[string]string{
		"Star Trackers for Beginners: a guide": TitleExact, "A star tracker for a beginner": TitleOrder,
		"Beginners and their star tracker": TitleOther, "Star charts": TitlePart, "Telescopes": TitleNothing,
		"": TitleNothing} {
		got := q.Titled(title)
		if got.How != want {
			t.Errorf("%q: %s, want %s", title, got.How, want)
		}
		whole := ""
		for _, p := range got.Parts {
			whole += p.Text
		}
		if whole != title {
			t.Errorf("%q became %q", title, whole)
		}
	}
	got := q.Titled("Star charts <b>")
	if strings.Join(got.Missing, " ") != "trackers beginners" || !got.Parts[0].Hit || got.Parts[0].Text != "Star" {
		t.Errorf("%+v", got)
	}
}
