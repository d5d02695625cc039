// Package faults is what a well-made page of one's own has not: simple things that are told from the page alone, by
// weight, each with how to mend it. Fit with a phrase's results is core/serp's.
package faults

import (
	"cmp"
	"fmt"
	"net/url"
	"slices"
	"strings"
	"time"

	"cleverniche/core/phrase"
)

// Page is one of my pages as far as faults are told from it.
type Page struct {
	URL, Phrase                   string // the phrase that it is for; "" none
	Title, Description, Canonical string
	Main                          []string // its headings of the first level
	Headings                      []string // the others
	Words                         int
	Trouble                       Trouble // why it could not be read; the rest is not known then
	Why                           string  // that in words
	Unlisted                      bool    // the sitemap has it not
	NoIndex                       bool    // it asks engines not to list it
	Broken                        []string
	Took                          time.Duration
	Lands                         string // where it leads; "" or its own address where it leads nowhere
}

// Trouble is why a page could not be read.
type Trouble string

// The troubles.
const (
	Gone        Trouble = "gone"
	Robots      Trouble = "robots"
	Unreachable Trouble = "unreachable"
	Unreadable  Trouble = "unreadable"
)

// Fault is one thing that is wrong.
type Fault struct {
	URL, Phrase string
	Key         string // names the kind
	Says, Mend  string
	Weight      int // the larger, the more it matters (ours)
}

// fewWords is how long a page is at least (ours).
const fewWords = 300

// longTitle is how many characters of a title results show (common practice, no source).
const longTitle = 70

// long is how long a page may take until all of it is there (ours).
const long = 1500 * time.Millisecond

// mostNamed is how many broken links are named.
const mostNamed = 3

// Of tells the faults of some pages of one site, most weight first.
func Of(pages []Page, lang string) (out []Fault) {
	titles, descriptions := map[string]int{}, map[string]int{}
	for _, p := range pages {
		titles[strings.TrimSpace(p.Title)]++
		descriptions[strings.TrimSpace(p.Description)]++
	}
	open, at := 0, -1 // pages that are not on https, told once, and where
	for _, p := range pages {
		add := func(key string, weight int, says, mend string) {
			out = append(out, Fault{p.URL, p.Phrase, key, says, mend, weight})
		}
		switch p.Trouble {
		case Gone:
			add("gone", 10, "It is gone: "+p.Why+".", "Bring it back, or redirect it to the page that replaces it.")
			continue
		case Robots:
			add("robots", 10, "robots.txt keeps engines from reading it.", "Allow its path in robots.txt.")
			continue
		case Unreachable:
			add("unreachable", 9, "It could not be reached: "+p.Why+".", "Check your server.")
			continue
		case Unreadable:
			add("unreadable", 8, "It is not a page that can be read: "+p.Why+".", "Serve it as HTML.")
			continue
		}
		if p.Lands != "" && !same(p.Lands, p.URL) {
			add("redirect", 10, "It redirects to "+p.Lands+".", "Remove the redirect, or watch that page instead.")
			continue // the rest is told of that one
		}
		if at, ok := elsewhere(p); ok {
			add("canonical", 10, "It names "+at+" as its canonical address, so that page ranks instead.",
				"Point the canonical link to the page itself.")
		}
		if p.NoIndex {
			add("noindex", 10, "It asks engines not to list it.", "Remove “noindex” from its robots tag.")
		}
		if n := len(p.Broken); n > 0 {
			says := fmt.Sprintf("%d of its links lead nowhere: ", n)
			if n == 1 {
				says = "One of its links leads nowhere: "
			}
			says += strings.Join(p.Broken[:min(mostNamed, n)], ", ")
			if n > mostNamed {
				says += " and more"
			}
			add("broken links", 5, says+".", "Correct them, or remove them.")
		}
		if p.Unlisted {
			add("unlisted", 3, "The sitemap does not list it.", "Add it to the sitemap.")
		}
		if p.Took >= long {
			add("slow", 3, fmt.Sprintf("It took %.1f seconds to arrive.", p.Took.Seconds()), "Make it smaller, or cache it.")
		}
		if strings.HasPrefix(p.URL, "http://") {
			if open++; open == 1 {
				add("https", 5, "", "Serve your site on https and redirect http to it.")
				at = len(out) - 1
			}
		}
		title := strings.TrimSpace(p.Title)
		switch {
		case title == "":
			add("title", 9, "It has no title.", "Write one that contains the phrase.")
		case titles[title] > 1:
			add("title doubled", 6, fmt.Sprintf("%d of your pages have this title.", titles[title]),
				"Write a different title for each.")
		case p.Phrase != "" && !phrase.Says(title, p.Phrase, lang):
			add("title misses", 8, "The title does not contain the phrase.",
				fmt.Sprintf("Use “%s” in it.", p.Phrase))
		case len([]rune(title)) > longTitle:
			add("title long", 2, fmt.Sprintf("The title has %d characters; results cut it.", len([]rune(title))),
				fmt.Sprintf("Keep it within %d.", longTitle))
		}
		switch all := slices.Concat(p.Main, p.Headings); {
		case len(p.Main) == 0:
			add("heading", 4, "It has no main heading.", "Add one.")
		case p.Phrase != "" && !slices.ContainsFunc(all, func(h string) bool { return phrase.Says(h, p.Phrase, lang) }):
			add("heading misses", 5, "No heading contains the phrase.", fmt.Sprintf("Use “%s” in one.", p.Phrase))
		case len(p.Main) > 1:
			add("headings", 1, fmt.Sprintf("It has %d main headings.", len(p.Main)), "Keep only one.")
		}
		switch text := strings.TrimSpace(p.Description); {
		case text == "":
			add("description", 3, "It has no description.", "Write one sentence on what readers get.")
		case descriptions[text] > 1:
			add("description doubled", 3, fmt.Sprintf("%d of your pages have this description.", descriptions[text]),
				"Write a different one for each.")
		case p.Phrase != "" && !phrase.Says(text, p.Phrase, lang):
			add("description misses", 2, "The description does not contain the phrase.",
				fmt.Sprintf("Use “%s” in it.", p.Phrase))
		}
		if p.Words > 0 && p.Words < fewWords && !first(p.URL) {
			add("thin", 4, fmt.Sprintf("It has %d words.", p.Words), "Answer more of what searchers want to know, or "+
				"merge it with another page.")
		}
	}
	switch {
	case open == 1:
		out[at].Says = "The page is not on https."
	case open > 1:
		out[at].Says = fmt.Sprintf("%d of your pages are not on https.", open)
	}
	slices.SortStableFunc(out, func(a, b Fault) int { return cmp.Compare(b.Weight, a.Weight) })
	return out
}

// first reports whether an address is of a site's first page, which need not say much.
func first(address string) bool {
	u, err := url.Parse(address)
	return err == nil && strings.Trim(u.Path, "/") == "" && u.RawQuery == ""
}

// same reports whether two addresses are of one page, with or without a secure connection and a closing slash.
func same(a, b string) bool {
	plain := func(u string) string {
		return strings.TrimSuffix(strings.TrimPrefix(strings.TrimPrefix(u, "https://"), "http://"), "/")
	}
	return plain(a) == plain(b)
}

// elsewhere is the address that a page names as its main one, where that is another.
func elsewhere(p Page) (string, bool) {
	if p.Canonical == "" {
		return "", false
	}
	own, err := url.Parse(p.URL)
	if err != nil {
		return "", false
	}
	named, err := own.Parse(p.Canonical)
	if err != nil || named.Host == own.Host && strings.TrimSuffix(named.Path, "/") == strings.TrimSuffix(own.Path, "/") &&
		named.RawQuery == own.RawQuery {
		return "", false
	}
	return named.String(), true
}
