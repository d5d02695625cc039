package serp

import (
	"fmt"
	"slices"
	"strings"

	"cleverniche/core/links"
	"cleverniche/core/phrase"
)

// locked tells why a site of articles cannot win the phrase: it asks for something near a place, or it names a brand,
// and that brand's own site stands first. "" when that is not so. A home page counts as a brand's too,
// so that a phrase that is somebody's name is locked though their site has no markup.
func (rd Reader) locked(normal string, results []Result, entries []Entry) string {
	if place := phrase.PlaceIn(normal, rd.Lang); place != "" {
		return fmt.Sprintf("it asks for something local (“%s”), which a site of articles does not have", place)
	}
	if len(entries) == 0 {
		return ""
	}
	first := entries[0]
	if first.Kind != Maker && first.Type != Home {
		return ""
	}
	label := siteLabel(first.Site)
	padded := " " + normal + " "
	joined := strings.NewReplacer(" ", "", "-", "").Replace(normal)
	for _, name := range namesOf(first, results[0].Page) {
		// A domain writes a name of two words as one.
		if strings.Contains(padded, " "+name+" ") || name == label && len(name) >= 6 &&
			strings.HasPrefix(joined, strings.ReplaceAll(name, "-", "")) {
			return fmt.Sprintf("it names %s, and %s, its own site, stands first: nobody else can win it", name, first.Site)
		}
	}
	return ""
}

// BrandsOf are the names that the results' makers go by, in normal form, each once: of
// their sites, and of the products on their pages.
func BrandsOf(results []Result, entries []Entry) []string {
	var out []string
	for i, e := range entries {
		if e.Kind != Maker {
			continue
		}
		for _, name := range namesOf(e, results[i].Page) {
			if !slices.Contains(out, name) {
				out = append(out, name)
			}
		}
	}
	return out
}

// namesOf are the names that a result goes by: of its site as the page gives it, of the
// products on the page, each in normal form, and that in its domain as it stands there.
func namesOf(e Entry, p *Page) []string {
	var out []string
	if p != nil {
		for _, name := range append([]string{p.SiteName}, p.Brands...) {
			if name = phrase.Normal(name); name != "" {
				out = append(out, name)
			}
		}
	}
	if label := siteLabel(e.Site); label != "" {
		out = append(out, label)
	}
	return out
}

// siteLabel is the name in a registrable domain: what stands before the first dot.
func siteLabel(site string) string {
	if links.IsAddress(site) {
		return ""
	}
	label, _, _ := strings.Cut(site, ".")
	return label
}
