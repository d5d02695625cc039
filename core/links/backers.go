package links

import (
	"fmt"
	"regexp"
	"sort"
	"strings"
	"time"
	"unicode"
)

// Class is what a linking site counts as.
type Class string

// The classes, from what counts most.
const (
	Solid       Class = "solid"
	Weak        Class = "weak"
	NoStanding  Class = "no standing" // below 1: it counts for nothing
	BareAddress Class = "bare address"
	NotFollowed Class = "not followed"
)

// Backer is a site that links to a page.
type Backer struct {
	Site        string
	Standing    float64
	Class       Class
	Links       int // from how many of its pages
	From        string
	Anchor, Rel string // of its first followed link, or else its first
	First       time.Time
	Institution bool
	Doubts      []string // names of patterns that it is part of
}

// Counts reports whether a link of this site lifts a page: followed, from a site of some standing, and no part of a
// pattern.
func (b Backer) Counts() bool { return (b.Class == Solid || b.Class == Weak) && len(b.Doubts) == 0 }

// Pattern is something in who links to a page that looks made rather than earned. It is a reason to look, no proof.
type Pattern struct {
	Name    string
	Because string
	Sites   []string
}

// Backing is who links to a page.
type Backing struct {
	Backers  []Backer // by standing
	Patterns []Pattern
	Links    int // reported, without those of its own site
	Total    int // that the source says there are
}

// Bars of the patterns (ours; that such links count for little is common practice, no source).
const (
	siteWideFrom  = 10 // pages of one site
	sameAnchorsOf = 5  // weak sites with one anchor
	sameDayOf     = 5  // weak sites first seen on one day
	alikeFrom     = 3  // sites whose names are built alike
)

// The patterns' names.
const (
	PatternAddress = "bare addresses"
	PatternWide    = "on every page"
	PatternAnchor  = "one anchor again and again"
	PatternDay     = "all on one day"
	PatternNames   = "names built alike"
	PatternOwner   = "perhaps the same owner"
)

// Back reads who links to a page of a title. Links from its own site are left out. total is how many the source says
// there are.
func (p Profiler) Back(target, title string, list []Link, total int) (out Backing) {
	own := p.Suffixes.Site(Host(target))
	bySite := map[string]*Backer{}
	pages := map[string]map[string]bool{}
	followed := map[string]bool{}
	var order []string
	siteOf := p.Suffixes.sites()
	for _, l := range list {
		site := siteOf(l.From)
		if site == "" || site == own {
			continue
		}
		out.Links++
		b := bySite[site]
		if b == nil {
			b = &Backer{Site: site, Standing: p.Standing(site), From: l.From, Anchor: l.Anchor, Rel: l.Rel, First: l.FirstSeen}
			bySite[site], pages[site] = b, map[string]bool{}
			order = append(order, site)
		}
		if l.Followed() && !followed[site] {
			followed[site] = true
			b.From, b.Anchor, b.Rel = l.From, l.Anchor, l.Rel
		}
		if !l.FirstSeen.IsZero() && (b.First.IsZero() || l.FirstSeen.Before(b.First)) {
			b.First = l.FirstSeen
		}
		pages[site][l.From] = true
	}
	for _, site := range order {
		b := bySite[site]
		b.Links, b.Class, b.Institution = len(pages[site]), classOf(*b, followed[site]), Institutional(site)
		out.Backers = append(out.Backers, *b)
	}
	sort.SliceStable(out.Backers, func(i, j int) bool { return out.Backers[i].Standing > out.Backers[j].Standing })
	out.Total = max(total, out.Links)
	out.look(own, spaced(title))
	return out
}

// sites tells the sites of addresses, each host's once: of a million links most come from a few thousand.
func (s Suffixes) sites() func(address string) string {
	known := map[string]string{}
	return func(address string) string {
		_, rest, _ := strings.Cut(address, "://")
		host, _, _ := strings.Cut(rest, "/")
		site, is := known[host]
		if !is {
			site = s.Site(Host(address))
			known[host] = site
		}
		return site
	}
}

func classOf(b Backer, followed bool) Class {
	switch {
	case IsAddress(b.Site):
		return BareAddress
	case !followed:
		return NotFollowed
	case b.Standing >= SolidStanding:
		return Solid
	case b.Standing >= 1:
		return Weak
	}
	return NoStanding
}

var (
	publicRE = regexp.MustCompile(`(^|\.)(edu|gov|mil|int|museum|ac|gouv|gob|bund)(\.[a-z]{2})?$`)
	bodyRE   = regexp.MustCompile(`(^|[-.])(institute|university|college|school|observatory|library|museum|archive|` +
		`academy|council|ministry)([-.]|$)`)
)

// Institutional reports whether a site's name says that it is a public or learned body: by its ending, or by a word of
// its own in it (ours).
func Institutional(site string) bool { return publicRE.MatchString(site) || bodyRE.MatchString(site) }

// look finds patterns, and notes them at their sites.
func (b *Backing) look(own, title string) {
	groups := map[string]map[string][]int{}
	add := func(pattern, key string, i int) {
		if groups[pattern] == nil {
			groups[pattern] = map[string][]int{}
		}
		groups[pattern][key] = append(groups[pattern][key], i)
	}
	brand := brandOf(own)
	for i, s := range b.Backers {
		if s.Class == BareAddress {
			add(PatternAddress, "", i)
			continue
		}
		if s.Links >= siteWideFrom {
			add(PatternWide, s.Site, i)
		}
		if len(brand) >= 4 && brandOf(s.Site) == brand {
			add(PatternOwner, "", i)
		}
		if key := builtLike(s.Site); key != "" {
			add(PatternNames, key, i)
		}
		if s.Standing >= SolidStanding {
			continue
		}
		if a := spaced(s.Anchor); a != title && telling(a, own) {
			add(PatternAnchor, a, i)
		}
		if !s.First.IsZero() {
			add(PatternDay, s.First.Format(time.DateOnly), i)
		}
	}
	for _, p := range []struct {
		name  string
		least int
		says  func(key string, n int) string
	}{
		{PatternAddress, 1, func(_ string, n int) string { return fmt.Sprintf("%d hosts have no name, only a number", n) }},
		{PatternWide, 1, func(key string, _ int) string { return key + " links from many of its pages: one link counts" }},
		{PatternOwner, 1, func(string, int) string { return "the same name under another ending" }},
		{PatternNames, alikeFrom, func(key string, n int) string {
			return fmt.Sprintf("%d sites are named like “%s”", n, key)
		}},
		{PatternAnchor, sameAnchorsOf, func(key string, n int) string {
			return fmt.Sprintf("%d weak sites use the words “%s”", n, key)
		}},
		{PatternDay, sameDayOf, func(key string, n int) string {
			return fmt.Sprintf("%d weak sites were first seen on %s", n, key)
		}},
	} {
		var keys []string
		for key, at := range groups[p.name] {
			if len(at) >= p.least {
				keys = append(keys, key)
			}
		}
		sort.Strings(keys)
		for _, key := range keys {
			at := groups[p.name][key]
			found := Pattern{Name: p.name, Because: p.says(key, len(at))}
			for _, i := range at {
				found.Sites = append(found.Sites, b.Backers[i].Site)
				if s := &b.Backers[i]; p.name != PatternWide && len(s.Doubts) < 3 { // one link of those counts
					s.Doubts = append(s.Doubts, p.name)
				}
			}
			b.Patterns = append(b.Patterns, found)
		}
	}
}

// brandOf is what a site calls itself in its address, without what tells hosts apart.
func brandOf(site string) string {
	label, _, _ := strings.Cut(site, ".")
	return strings.ReplaceAll(label, "-", "")
}

var numberedRE = regexp.MustCompile(`([a-z]{4,})-?\d{2,}$`)

// builtLike is how a name is built that ends in a word and a number, as machines name sites; "" for others.
func builtLike(site string) string {
	label, _, _ := strings.Cut(site, ".")
	if m := numberedRE.FindStringSubmatch(label); m != nil {
		return "…" + m[1] + "123"
	}
	return ""
}

func spaced(s string) string { return strings.Join(strings.Fields(strings.ToLower(s)), " ") }

// telling reports whether an anchor says something that not everybody would write: neither “here” nor the site's
// name.
// A page's title is what people write who cite it.
func telling(anchor, own string) bool {
	letters := strings.IndexFunc(anchor, unicode.IsLetter) >= 0
	joined := strings.NewReplacer(" ", "", "-", "", ".", "").Replace(anchor)
	name := brandOf(own)
	return letters && len(strings.Fields(anchor)) > 1 && !strings.Contains(joined, name)
}

// Tally is how many linking sites there are of each sort.
type Tally struct {
	Sites, Followed, Solid, Weak, NoStanding, NotFollowed, Doubtful, Institutions int
	// Takes is how many solid links would match it: those that are followed, of standing, and part of no pattern.
	Takes int
}

// Tally counts.
func (b Backing) Tally() (t Tally) {
	for _, s := range b.Backers {
		t.Sites++
		switch s.Class {
		case Solid:
			t.Solid++
		case Weak:
			t.Weak++
		case NoStanding, BareAddress:
			t.NoStanding++
		case NotFollowed:
			t.NotFollowed++
		}
		if s.Class != NotFollowed {
			t.Followed++
		}
		if len(s.Doubts) > 0 {
			t.Doubtful++
		}
		if s.Institution {
			t.Institutions++
		}
		if s.Class == Solid && len(s.Doubts) == 0 {
			t.Takes++
		}
	}
	return t
}

// Compare tells the sites that link to one page apart from those that link to another.
func Compare(a, b Backing) (onlyA, both, onlyB []Backer) {
	inB := map[string]bool{}
	for _, s := range b.Backers {
		inB[s.Site] = true
	}
	inA := map[string]bool{}
	for _, s := range a.Backers {
		if inA[s.Site] = true; inB[s.Site] {
			both = append(both, s)
		} else {
			onlyA = append(onlyA, s)
		}
	}
	for _, s := range b.Backers {
		if !inA[s.Site] {
			onlyB = append(onlyB, s)
		}
	}
	return onlyA, both, onlyB
}

// Asking is a site worth asking for a link: it links to some of the pages, and not to mine.
type Asking struct {
	Backer
	Places []int // of the pages that it links to
}

// WorthAsking are the sites that link to pages, by place, and not to mine: followed, of some standing, part of no
// pattern, and none of those that stand there themselves. Those that link to most come first.
func WorthAsking(by map[int]Backing, rivals, mine map[string]bool) (out []Asking) {
	at := map[string]int{}
	var places []int
	for place := range by {
		places = append(places, place)
	}
	sort.Ints(places)
	for _, place := range places {
		for _, s := range by[place].Backers {
			if !s.Counts() || rivals[s.Site] || mine[s.Site] {
				continue
			}
			i, known := at[s.Site]
			if !known {
				i = len(out)
				at[s.Site] = i
				out = append(out, Asking{Backer: s})
			}
			out[i].Places = append(out[i].Places, place)
		}
	}
	sort.SliceStable(out, func(i, j int) bool {
		if len(out[i].Places) != len(out[j].Places) {
			return len(out[i].Places) > len(out[j].Places)
		}
		return out[i].Standing > out[j].Standing
	})
	return out
}
