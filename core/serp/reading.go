package serp

import (
	"fmt"
	"math"
	"sort"
	"strings"
	"time"

	"cleverniche/core/intent"
	"cleverniche/core/links"
	"cleverniche/core/phrase"
)

// Bars of the weak reasons (common practice, no source, unless said otherwise).
const (
	SmallSite     = 20  // site standing at most
	FewLinks      = 10  // followed referring sites fewer than
	ThinWords     = 400 // words fewer than
	StaleMonths   = 24  // not touched in
	staleDuration = 730 * 24 * time.Hour
)

// Weakness is a reason why a result could be displaced.
type Weakness string

// The weak reasons, in the order they are told.
const (
	WeakCommunity Weakness = "community"
	WeakFreeHost  Weakness = "free host"
	WeakSmall     Weakness = "small site"
	WeakLinks     Weakness = "few links"
	WeakTitle     Weakness = "title miss"
	WeakElse      Weakness = "answers something else"
	WeakThin      Weakness = "thin"
	WeakStale     Weakness = "stale"
)

// weakWords are what people read of weak reasons; what is kept has the constants.
var weakWords = map[Weakness]string{WeakCommunity: "forum or community", WeakFreeHost: "free hosting",
	WeakTitle: "phrase not in title", WeakElse: "other intent", WeakThin: "thin content", WeakStale: "out of date"}

// String is the weakness in words.
func (w Weakness) String() string {
	if says, other := weakWords[w]; other {
		return says
	}
	return string(w)
}

// Reason is a weak reason with what it was told from.
type Reason struct {
	Weakness Weakness `json:"weakness"`
	Because  string   `json:"because"`
}

// Entry is one result, judged.
type Entry struct {
	Position     int           `json:"position"`
	URL          string        `json:"url"`
	Site         string        `json:"site"`
	Title        string        `json:"title"`
	Type         PageType      `json:"type"`
	TypeBecause  string        `json:"typeBecause"`
	Kind         SiteKind      `json:"kind"`
	KindBecause  string        `json:"kindBecause"`
	Fit          Fit           `json:"fit"`
	PageStanding float64       `json:"pageStanding"`
	LinksKnown   bool          `json:"linksKnown"`
	SiteKnown    bool          `json:"siteKnown,omitempty"`
	SiteStanding float64       `json:"siteStanding"`
	Referring    *int          `json:"referring,omitempty"` // sites that link to its site; nil not known
	Profile      links.Profile `json:"profile"`
	Words        int           `json:"words"`
	Touched      time.Time     `json:"touched"`
	Weak         []Reason      `json:"weak"`
	Foothold     bool          `json:"foothold"`
	PageError    string        `json:"pageError"`
	Named        bool          `json:"named,omitempty"` // the phrase names its site
	// Reactions are its readers'; nil where that was not looked at, or nothing is said.
	Reactions *Reactions `json:"reactions,omitempty"`
}

// Has reports whether the entry is weak for that reason.
func (e Entry) Has(w Weakness) bool {
	for _, r := range e.Weak {
		if r.Weakness == w {
			return true
		}
	}
	return false
}

// FirstPage is how many results stand on the first page: the ten.
const FirstPage = 10

// Reading is a results page, judged. Entries may hold more than the ten; what is
// said of the whole is said of the ten.
type Reading struct {
	// what the phrase was taken for: itself, or what the titles say where it is misspelt; "" in readings from before
	// this was looked at
	ReadAs         string       `json:"readAs,omitempty"`
	query          Query        // with which fits were told
	Entries        []Entry      `json:"entries"`
	Serve          [4]int       `json:"serve"` // the ten by want
	Majority       intent.Class `json:"majority"`
	Settled        bool         `json:"settled"` // at least half of the ten serve Majority
	Footholds      int          `json:"footholds"`
	WeakestTopFive float64      `json:"weakestTopFive"` // lowest site standing among the first five; −1 without results
	MedianWords    int          `json:"medianWords"`    // of the pages that could be read
	Locked         string       `json:"locked"`         // why nobody else can win it; "" when it is open
}

// Query is that with which fits were told: another page is held against the same.
func (r Reading) Query() Query { return r.query }

// Ten returns the entries of the first page.
func (r Reading) Ten() []Entry { return r.Entries[:min(FirstPage, len(r.Entries))] }

// Reader judges results pages for one language, at one moment.
type Reader struct {
	Lang     string
	Suffixes links.Suffixes
	AsOf     time.Time
}

// Read judges the results for a phrase in normal form. Where it is misspelt, the
// pages are compared with what the engine took it for as well: they answer that, and a
// slip of typing makes nobody's page weak.
func (rd Reader) Read(normal string, results []Result) Reading {
	titles := make([]string, 0, FirstPage)
	for _, r := range results[:min(FirstPage, len(results))] {
		title := r.Title
		if title == "" && r.Page != nil {
			title = r.Page.Title
		}
		titles = append(titles, title)
	}
	out := Reading{ReadAs: phrase.AsRead(normal, titles, rd.Lang), WeakestTopFive: -1}
	q := NewQuery(normal, rd.Lang).ReadAs(out.ReadAs).Weighed(titles)
	for _, r := range results {
		e := Entry{Position: r.Position, URL: r.URL, Title: r.Title, Profile: r.Profile,
			LinksKnown: r.LinksKnown, SiteKnown: r.SiteKnown, PageStanding: r.Profile.Standing, SiteStanding: r.SiteStanding,
			Referring: r.Referring,
			PageError: r.PageError}
		e.Site = rd.Suffixes.Site(links.Host(r.URL))
		e.Type, e.TypeBecause = TypeOf(r.URL, r.Title, r.Page)
		e.Kind, e.KindBecause = KindOf(r.URL, e.Type, r.Page, r.SiteStanding, rd.Suffixes)
		if r.Page != nil {
			e.Words, e.Touched, e.Reactions = r.Page.Words, r.Page.Touched(), r.Page.Reactions
			if r.Page.Title != "" {
				e.Title = r.Page.Title
			}
		}
		out.Entries = append(out.Entries, e)
	}
	joinKinds(out.Entries)
	for i := range out.Entries {
		out.Entries[i].Named = named(out.ReadAs, out.Entries[i], results[i].Page)
	}
	out.settle()
	out.Locked = rd.locked(out.ReadAs, results, out.Entries)
	out.MedianWords = medianWords(out.Ten())
	fresher := rd.mostFresh(out.Ten())
	out.query = q
	for i := range out.Entries {
		e := &out.Entries[i]
		e.Fit = q.FitOf(results[i], e.Type, out.Majority, out.Settled)
		e.Weak = rd.weaknesses(q, *e, results[i].Page != nil, out, fresher)
		if e.Position <= 5 && (out.WeakestTopFive < 0 || e.SiteStanding < out.WeakestTopFive) {
			out.WeakestTopFive = e.SiteStanding
		}
	}
	out.CountFootholds()
	return out
}

// CountFootholds tells by the present rule which entries are footholds, and how many of
// the ten.
func (r *Reading) CountFootholds() {
	r.Footholds = 0
	for i := range r.Entries {
		e := &r.Entries[i]
		if e.Foothold = foothold(*e); e.Foothold && i < FirstPage {
			r.Footholds++
		}
	}
}

func (r *Reading) settle() {
	for _, e := range r.Ten() {
		r.Serve[e.want()]++
	}
	for _, w := range intent.All {
		if r.Serve[w] > r.Serve[r.Majority] {
			r.Majority = w
		}
	}
	r.Settled = 2*r.Serve[r.Majority] >= len(r.Ten()) && len(r.Entries) > 0
}

// NamedFirst reports whether the first result is the front or an official page of what the phrase names.
func (r Reading) NamedFirst() bool {
	return len(r.Entries) > 0 && r.Entries[0].Named && r.Entries[0].want() == intent.Find
}

// want is what an entry answers: the front page of a body that the phrase names, or an official page of it, answers who
// looks for that.
func (e Entry) want() intent.Class {
	if e.Named && (e.Type == Home || e.Type == Official || lastSegment(e.URL) == "") {
		return intent.Find
	}
	return e.Type.Want()
}

// named reports whether a phrase holds the name of the site that an entry stands on: as its page gives it, or as its
// domain joins it.
func named(normal string, e Entry, p *Page) bool {
	if p != nil {
		name := phrase.Normal(p.SiteName)
		if len(name) >= leastName && strings.Contains(" "+normal+" ", " "+name+" ") {
			return true
		}
	}
	label := strings.ReplaceAll(siteLabel(e.Site), "-", "")
	all := phrase.Words(normal)
	for i := range all {
		joined := ""
		for _, w := range all[i:] {
			if joined += w; joined == label {
				return len(label) >= leastName
			}
		}
	}
	return false
}

// leastName is the shortest name of a site that counts where it stands in a phrase (ours).
const leastName = 4

func medianWords(entries []Entry) int {
	var n []int
	for _, e := range entries {
		if e.Words > 0 {
			n = append(n, e.Words)
		}
	}
	if len(n) == 0 {
		return 0
	}
	sort.Ints(n)
	return (n[(len(n)-1)/2] + n[len(n)/2]) / 2
}

// mostFresh reports whether most of the pages that give a date are fresher than
// StaleMonths.
func (rd Reader) mostFresh(entries []Entry) bool {
	dated, fresh := 0, 0
	for _, e := range entries {
		if e.Touched.IsZero() {
			continue
		}
		dated++
		if rd.AsOf.Sub(e.Touched) < staleDuration {
			fresh++
		}
	}
	return 2*fresh > dated
}

func (rd Reader) weaknesses(q Query, e Entry, read bool, all Reading, fresher bool) []Reason {
	var out []Reason
	add := func(when bool, w Weakness, format string, args ...any) {
		if when {
			out = append(out, Reason{w, fmt.Sprintf(format, args...)})
		}
	}
	add(e.Kind == Community, WeakCommunity, "%s", e.KindBecause)
	add(e.Kind == FreeHost, WeakFreeHost, "%s", e.KindBecause)
	add((e.SiteKnown || e.LinksKnown) && e.SiteStanding <= SmallSite, WeakSmall, "site standing %.0f", e.SiteStanding)
	add(e.LinksKnown && e.Profile.Followed < FewLinks, WeakLinks,
		"%d sites link to it with followed links", e.Profile.Followed)
	title := q.in(e.Title)
	add(!title.holds, WeakTitle, "%s", title.why)
	add(all.Settled && e.Type.Want() != all.Majority, WeakElse,
		"%s, where %d of %d serve %s", e.Type, all.Serve[all.Majority], len(all.Ten()), all.Majority)
	thin := math.Max(ThinWords, float64(all.MedianWords)/2)
	add(read && textual(e.Type) && float64(e.Words) < thin, WeakThin,
		"%d words; median of the top ten: %d", e.Words, all.MedianWords)
	add(fresher && !e.Touched.IsZero() && rd.AsOf.Sub(e.Touched) >= staleDuration, WeakStale,
		"last touched %s", e.Touched.Format("January 2006"))
	return out
}

// textual holds for pages whose text is what they serve: a short shop shelf, a
// video or a tool is not thin.
func textual(t PageType) bool {
	switch t {
	case Comparison, Review, HowTo, Article, Encyclopedia, Official:
		return true
	}
	return false
}

// foothold is the rule by which a small site could displace a result: a small
// site with few links; a community or free host; a title miss with either of
// small site or few links (common practice, no source). Something else answered, with few
// links, is said to be one, too: trials stood in front of fewer of those than of others,
// see docs/footholds.md.
func foothold(e Entry) bool {
	small, few := e.Has(WeakSmall), e.Has(WeakLinks)
	return small && few ||
		e.Has(WeakCommunity) || e.Has(WeakFreeHost) ||
		e.Has(WeakTitle) && (small || few)
}

// WentStale are the sites of the ten whose pages were last touched so long ago that they count as out of date now, and
// did not yet at an earlier day.
func WentStale(ten []Entry, was, is time.Time) (out []string) {
	for _, e := range ten {
		if !e.Touched.IsZero() && was.Sub(e.Touched) < staleDuration && is.Sub(e.Touched) >= staleDuration {
			out = append(out, e.Site)
		}
	}
	return out
}
