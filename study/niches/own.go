package niches

import (
	"net/url"
	"strings"

	"cleverniche/core/links"
	"cleverniche/study/input"
)

// MostAddress is the longest address of a page, in bytes.
const MostAddress = 2000

// OwnAddress reads the address of a page on the niche's own site.
func (s *Keeper) OwnAddress(n Niche, text string) (string, error) {
	text = strings.TrimSpace(text)
	if text == "" {
		return "", nil
	}
	if !strings.Contains(text, "://") {
		text = "https://" + text
	}
	u, err := url.Parse(text)
	switch {
	case err != nil || u.Host == "" || u.Scheme != "http" && u.Scheme != "https" || len(text) > MostAddress:
		return "", input.Bad("address", "“%s” is no address of a page.", input.Clip(text, 60))
	case n.OwnSite == "":
		return "", input.Bad("address", "Set your site in Settings first.")
	case !s.IsOwn(n, text):
		return "", input.Bad("address", "“%s” is not a page of %s.", input.Clip(text, 60), n.OwnSite)
	}
	return u.String(), nil
}

// IsOwn reports whether an address is of the niche's own site.
func (s *Keeper) IsOwn(n Niche, address string) bool {
	return n.OwnSite != "" && s.suffixes.Site(links.Host(address)) == n.OwnSite
}
