// Package links reads who links to whom: which site a host belongs to, how much
// the link graph trusts each site, and what a list of links is worth to a page.
package links

import (
	"net/netip"
	"net/url"
	"regexp"
	"strings"

	"golang.org/x/net/idna"
	"golang.org/x/net/publicsuffix"
)

// Suffixes names sites: registrable domains by the Public Suffix List, with
// additions of the operator (a free host that the list does not know yet).
// The zero value is the list as it is.
type Suffixes struct{ extra map[string]bool }

// NewSuffixes returns the list with more suffixes, such as "pages.example":
// under it, every name is a site of its own.
func NewSuffixes(extra ...string) Suffixes {
	m := map[string]bool{}
	for _, s := range extra {
		if s = cleanHost(s); s != "" {
			m[s] = true
		}
	}
	return Suffixes{m}
}

// Site returns the registrable domain of a host: the site it belongs to. An
// address is its own site. A public suffix itself, or text that is no host name,
// gives "".
func (s Suffixes) Site(host string) string {
	host = cleanHost(host)
	if host == "" || strings.HasPrefix(host, ".") {
		return ""
	}
	if IsAddress(host) {
		return host
	}
	for at := 0; ; {
		dot := strings.IndexByte(host[at:], '.')
		if dot < 0 {
			break
		}
		rest := host[at+dot+1:]
		if s.extra[rest] {
			return host[at:]
		}
		at += dot + 1
	}
	if s.extra[host] {
		return ""
	}
	site, err := publicsuffix.EffectiveTLDPlusOne(host)
	if err != nil {
		return ""
	}
	return site
}

// FreeHost reports whether the host lives under a suffix where anyone can have
// a name: the private part of the Public Suffix List, or an addition.
func (s Suffixes) FreeHost(host string) bool {
	host = cleanHost(host)
	for rest := host; ; {
		dot := strings.IndexByte(rest, '.')
		if dot < 0 {
			break
		}
		rest = rest[dot+1:]
		if s.extra[rest] {
			return true
		}
	}
	suffix, icann := publicsuffix.PublicSuffix(host)
	return !icann && strings.Contains(suffix, ".") && suffix != host
}

// IsAddress reports whether the host is a bare IP address.
func IsAddress(host string) bool {
	_, err := netip.ParseAddr(strings.Trim(host, "[]"))
	return err == nil
}

// Host returns the host name of a URL in ASCII lower case, without port, or "".
func Host(rawURL string) string {
	u, err := url.Parse(rawURL)
	if err != nil {
		return ""
	}
	return cleanHost(u.Hostname())
}

func cleanHost(host string) string {
	host = strings.TrimSuffix(strings.TrimSpace(host), ".")
	if ascii, err := idna.Lookup.ToASCII(host); err == nil {
		return ascii
	}
	return strings.ToLower(host)
}

// nameRE is what a site's name is made of: letters of any script, digits, hyphens and dots.
var nameRE = regexp.MustCompile(`^[\pL\pM\pN._-]+$`)

// Named is the site that somebody typed, as a domain or as an address of one of its pages, or "" where that is none.
func (s Suffixes) Named(text string) string {
	text = strings.TrimSpace(text)
	host := text
	if strings.Contains(text, "://") {
		host = Host(text)
	} else if i := strings.IndexAny(host, "/?#"); i >= 0 {
		host = host[:i]
	}
	site := s.Site(strings.TrimPrefix(strings.ToLower(host), "www."))
	if IsAddress(site) || !strings.Contains(site, ".") || !nameRE.MatchString(site) {
		return ""
	}
	return site
}
