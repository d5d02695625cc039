package serp

import (
	"fmt"
	"slices"
	"strings"

	"cleverniche/core/links"
	"cleverniche/core/phrase"
)

// locked tells why nobody else can win the phrase: it names a brand, and that brand's
// own site stands first. "" when that is not so. A home page counts as a brand's too,
// so that a phrase that is somebody's name is locked though their site has no markup.
func (rd Reader) locked(normal string, results []Result, entries []Entry) string {
	if len(entries) == 0 {
		return ""
	}
	first := entries[0]
	if first.Kind != Maker && first.Type != Home {
		return ""
	}
	var names []string
	if p := results[0].Page; p != nil {
		names = append([]string{p.SiteName}, p.Brands...)
	}
	label := siteLabel(first.Site)
	padded := " " + normal + " "
	joined := strings.NewReplacer(" ", "", "-", "").Replace(normal)
	for _, name := range append(names, label) {
		if name != label {
			name = phrase.Normal(name)
		}
		if name == "" {
			continue
		}
		// A domain writes a name of two words as one.
		if strings.Contains(padded, " "+name+" ") || name == label && len(name) >= 6 && strings.HasPrefix(joined, strings.ReplaceAll(name, "-", "")) {
			return fmt.Sprintf("it names %s, and %s, its own site, stands first", name, first.Site)
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
		names := []string{siteLabel(e.Site)}
		if p := results[i].Page; p != nil {
			names = append(append(names, p.SiteName), p.Brands...)
		}
		for _, name := range names {
			if name = phrase.Normal(name); name != "" && !slices.Contains(out, name) {
				out = append(out, name)
			}
		}
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
