package serp

import (
	"math"
	"slices"
	"strings"
	"testing"
	"time"

	"cleverniche/core/intent"
	"cleverniche/core/links"
	"cleverniche/core/phrase"
)

var today = time.Date(2026, 11, 23, 0, 0, 0, 0, time.UTC)

func TestTypeOf(t *testing.T) {
	for _, c := range []struct {
		name, url, title string
		page             *Page
		want             PageType
	}{
		{"root", "http://a.example/", "A shop", nil, Home},
		{"thread by address", "http://a.example/forum/1234/help", "stuck with my mount", nil, Thread},
		{"thread by markup", "http://a.example/x", "stuck", &Page{SchemaTypes: []string{"DiscussionForumPosting"},
			Replies: 6}, Thread},
		{"best of", "http://a.example/x", "The 7 Best Telescopes for Kids",
			&Page{SchemaTypes: []string{"Article", "ItemList"}, Prices: 7}, Comparison},
		{"versus", "http://a.example/x", "Refractor vs Reflector", nil, Comparison},
		{"single review", "http://a.example/reviews/scout", "Scout 70 review", &Page{SchemaTypes: []string{"Review"}},
			Review},
		{"how-to", "http://a.example/x", "How to Collimate a Telescope", &Page{SchemaTypes: []string{"HowTo"}, Steps: 6},
			HowTo},
		{"shelf", "http://a.example/category/telescopes", "Telescopes", &Page{CartButtons: 12, Prices: 12}, Shelf},
		{"product", "http://a.example/product/scout", "Scout 70", &Page{SchemaTypes: []string{"Product"}, CartButtons: 1,
			Prices: 1}, Product},
		{"entry", "http://a.example/wiki/saturn", "Saturn", nil, Encyclopedia},
		{"video", "http://a.example/watch/9", "Saturn tonight", &Page{OpenGraph: "video.other", Videos: 1, Words: 80}, Video},
		{"tool", "http://a.example/tools/moon", "Moon phase calculator", &Page{Inputs: 2}, Tool},
		{"official", "http://a.example/saturn", "Saturn", &Page{Publisher: []string{"GovernmentOrganization"},
			SchemaTypes: []string{"Report"}}, Official},
		{"plain article", "http://a.example/notes", "Notes on Saturn", &Page{Words: 900}, Article},
		{"not an address", "://", "", nil, Home},
	} {
		t.Run(c.name, func(t *testing.T) {
			got, why := TypeOf(c.url, c.title, c.page)
			if got != c.want || why == "" {
				t.Errorf("%s (%s), want %s", got, why, c.want)
			}
		})
	}
}

func TestKindOf(t *testing.T) {
	s := links.NewSuffixes("pages.example")
	for _, c := range []struct {
		url      string
		page     *Page
		standing float64
		t        PageType
		want     SiteKind
	}{
		{"http://anna.pages.example/x", nil, 80, Article, FreeHost},
		{"http://www.sky.edu/x", nil, 50, Article, Institution},
		{"http://sky.example/x", &Page{Publisher: []string{"Museum"}}, 50, Article, Institution},
		{"http://a.example/wiki/x", nil, 90, Encyclopedia, Reference},
		{"http://a.example/t/x", nil, 90, Thread, Community},
		{"http://a.example/p/x", &Page{SiteName: "Halvorn", Brands: []string{"Halvorn"}}, 40, Product, Maker},
		{"http://a.example/p/x", &Page{SiteName: "Starmart", Brands: []string{"Halvorn"}}, 40, Product, Marketplace},
		{"http://a.example/x", nil, 75, Article, Publisher},
		{"http://a.example/x", nil, 12, Article, NicheSite},
	} {
		if got, why := KindOf(c.url, c.t, c.page, c.standing, s); got != c.want || why == "" {
			t.Errorf("%s, %s: %s (%s), want %s", c.url, c.t, got, why, c.want)
		}
	}
}

// perfect is a page that has everything for its phrase.
func perfect(phrase string) *Page {
	text := strings.Repeat(phrase+" and more words on that. ", 60)
	return &Page{Title: phrase, H1: []string{phrase}, Headings: []string{phrase}, Description: phrase, Text: text,
		Words: 500}
}

func TestFitChecklist(t *testing.T) {
	q := NewQuery("best telescope for kids", "en")
	r := Result{URL: "http://a.example/best-telescope-for-kids", Page: perfect("best telescope for kids")}
	f := q.FitOf(r, Comparison, intent.Compare, true)
	if math.Abs(f.Total-100) > 1e-9 || f.Partial || len(f.Items) != int(items) {
		t.Errorf("a perfect page fits %v: %+v", f.Total, f.Items)
	}
	sum := 0.0
	for _, i := range f.Items {
		sum += i.Most
		if i.Because == "" {
			t.Errorf("%s has no reason", i.Name)
		}
	}
	if sum != 100 {
		t.Errorf("the checklist sums to %v", sum)
	}
	if f := q.FitOf(r, Thread, intent.Compare, true); math.Abs(f.Total-(100-Checklist[ItemKind])) > 1e-9 {
		t.Errorf("the wrong kind of page fits %v", f.Total)
	}
	empty := q.FitOf(Result{URL: "http://a.example/", Page: &Page{}}, Article, intent.Compare, true)
	if empty.Total != 0 {
		t.Errorf("an empty page fits %v", empty.Total)
	}
	unread := q.FitOf(Result{URL: "http://a.example/x", Title: "Best telescope for kids"}, Comparison, intent.Compare,
		true)
	if !unread.Partial || unread.Total <= 0 || unread.Total >= 100 {
		t.Errorf("an unread page: %+v", unread)
	}
}

func TestTitleDegrees(t *testing.T) {
	q := NewQuery("clean a telescope mirror", "en")
	last := math.Inf(1)
	for _, title := range []string{"How to clean a telescope mirror", "Cleaning Telescope Mirrors",
		"Mirror of a telescope: cleaning it", "Telescope mirrors", "Binoculars", ""} {
		got := q.in(title)
		if got.share > last || got.why == "" {
			t.Errorf("%q gives %v, what holds more gave %v", title, got.share, last)
		}
		last = got.share
	}
	if q.in("Telescope mirrors").holds || !q.in("Cleaning Telescope Mirrors").holds {
		t.Error("a title miss is not told")
	}
}

func TestBodySaturates(t *testing.T) {
	q := NewQuery("saturn rings", "en")
	at := func(n int) float64 {
		text := strings.Repeat("saturn rings ", n) + strings.Repeat("word ", 400-2*n)
		return q.body(&Page{Text: text, Words: 400}).share
	}
	if gain, more := at(2)-at(1), at(12)-at(11); !(at(1) > 0 && gain > 0 && more <= gain) {
		t.Errorf("one more use: %v at first, %v late", gain, more)
	}
}

func ten() []Result {
	var out []Result
	for i := range 10 {
		p := perfect("telescope guide")
		p.Words, p.Modified = 1200, today.AddDate(0, -3, 0)
		out = append(out, Result{Position: i + 1, URL: "http://big.example/guide-to-telescopes", Page: p, LinksKnown: true,
			Profile: links.Profile{Followed: 40, Standing: 60}, SiteStanding: 70})
	}
	return out
}

func TestWeakReasonsAndFootholds(t *testing.T) {
	for _, c := range []struct {
		name     string
		change   func(*Result)
		weak     []Weakness
		foothold bool
	}{
		{"strong", func(*Result) {}, nil, false},
		{"small with few links", func(r *Result) { r.SiteStanding, r.Profile.Followed = 12, 3 },
			[]Weakness{WeakSmall, WeakLinks}, true},
		{"small, linked", func(r *Result) { r.SiteStanding = 20 }, []Weakness{WeakSmall}, false},
		{"community", func(r *Result) { r.URL = "http://big.example/forum/1/guide-to-telescopes" },
			[]Weakness{WeakCommunity}, true},
		{"free host", func(r *Result) { r.URL = "http://anna.pages.example/guide" }, []Weakness{WeakFreeHost}, true},
		{"title miss alone", func(r *Result) { r.Page.Title = "Optics" }, []Weakness{WeakTitle}, false},
		{"title miss, few links", func(r *Result) { r.Page.Title, r.Profile.Followed = "Optics", 9 },
			[]Weakness{WeakLinks, WeakTitle}, true},
		{"something else", func(r *Result) { r.Page.CartButtons = 9 }, []Weakness{WeakElse}, false},
		{"something else, few links", func(r *Result) { r.Page.CartButtons, r.Profile.Followed = 9, 2 },
			[]Weakness{WeakLinks, WeakElse}, false},
		{"thin", func(r *Result) { r.Page.Words = 399 }, []Weakness{WeakThin}, false},
		{"stale", func(r *Result) { r.Page.Modified = today.AddDate(-3, 0, 0) }, []Weakness{WeakStale}, false},
		{"links not known", func(r *Result) { r.LinksKnown, r.Profile.Followed = false, 0 }, nil, false},
	} {
		t.Run(c.name, func(t *testing.T) {
			results := ten()
			c.change(&results[3])
			rd := Reader{Lang: "en", Suffixes: links.NewSuffixes("pages.example"), AsOf: today}.Read("telescope guide", results)
			e := rd.Entries[3]
			for _, w := range c.weak {
				if !e.Has(w) {
					t.Errorf("%q is missing among %v", w, e.Weak)
				}
			}
			if len(e.Weak) != len(c.weak) || e.Foothold != c.foothold {
				t.Errorf("weak %v, foothold %v", e.Weak, e.Foothold)
			}
			if want := map[bool]int{true: 1}[c.foothold]; rd.Footholds != want {
				t.Errorf("%d footholds, want %d", rd.Footholds, want)
			}
		})
	}
}

// TestWhatStandsBehindTheTen is judged, and changes nothing that is said of the ten.
func TestWhatStandsBehindTheTen(t *testing.T) {
	results := ten()
	rd := Reader{Lang: "en", AsOf: today}
	before := rd.Read("telescope guide", results)
	for i := range 10 {
		shop := Result{Position: 11 + i, URL: "http://shop.example/category/guide", LinksKnown: true, SiteStanding: 3,
			Page: &Page{Title: "Shop", CartButtons: 9, Words: 20}}
		results = append(results, shop)
	}
	after := rd.Read("telescope guide", results)
	if len(after.Entries) != 20 || len(after.Ten()) != 10 || !after.Entries[15].Foothold {
		t.Errorf("%d entries, the sixteenth a foothold: %v", len(after.Entries), after.Entries[15].Foothold)
	}
	if before.Footholds != after.Footholds || before.Serve != after.Serve || before.MedianWords != after.MedianWords ||
		before.WeakestTopFive != after.WeakestTopFive {
		t.Errorf("the ten are %+v, and %+v with more behind them", before, after)
	}
}

func TestReadingOfTheWhole(t *testing.T) {
	results := ten()
	results[4].SiteStanding, results[7].SiteStanding = 15, 2
	results[9].Page, results[9].PageError = nil, "broken"
	rd := Reader{Lang: "en", AsOf: today}.Read("telescope guide", results)
	if rd.WeakestTopFive != 15 {
		t.Errorf("the weakest of the top five stands at %v: the eighth does not count", rd.WeakestTopFive)
	}
	if !rd.Settled || rd.Majority != intent.Learn || rd.MedianWords != 1200 {
		t.Errorf("%+v", rd)
	}
	if e := rd.Entries[9]; !e.Fit.Partial || e.Has(WeakThin) || e.PageError == "" {
		t.Errorf("the unread page: %+v", e)
	}
	if none := (Reader{Lang: "en"}).Read("x", nil); none.WeakestTopFive != -1 || none.Settled {
		t.Errorf("no results: %+v", none)
	}
}

// TestASlipOfTypingWeakensNobody: the pages answer what the engine took the phrase for.
func TestASlipOfTypingWeakensNobody(t *testing.T) {
	rd := Reader{Lang: "en", AsOf: today}
	right, slip := rd.Read("telescope guide", ten()), rd.Read("telsecope guide", ten())
	if slip.ReadAs != "telescope guide" || right.ReadAs != "telescope guide" {
		t.Errorf("read as %q and %q", right.ReadAs, slip.ReadAs)
	}
	if a, b := right.Entries[0].Fit.Total, slip.Entries[0].Fit.Total; a != b || slip.Footholds != right.Footholds {
		t.Errorf("fit %v and misspelt %v, %d and %d footholds", a, b, right.Footholds, slip.Footholds)
	}
	typed := ten()
	for i := range typed {
		typed[i].Title = "Telescope guide" // as the results show it
	}
	typed[9].Page = perfect("telsecope guide")
	if r := rd.Read("telsecope guide", typed); r.Entries[0].Fit.Total != r.Entries[9].Fit.Total {
		t.Errorf("a page that says it right has fit %v, one that says it as it was typed %v", r.Entries[0].Fit.Total,
			r.Entries[9].Fit.Total)
	}
	if other := rd.Read("microscope guide", ten()); other.ReadAs != "microscope guide" ||
		other.Entries[0].Fit.Total >= right.Entries[0].Fit.Total {
		t.Errorf("another word is read as %q, its fit %v", other.ReadAs, other.Entries[0].Fit.Total)
	}
}

func BenchmarkRead(b *testing.B) {
	results := ten()
	rd := Reader{Lang: "en", AsOf: today}
	for b.Loop() {
		rd.Read("telescope guide", results)
	}
}

func TestArticle(t *testing.T) {
	ten := func(types ...PageType) Reading {
		var r Reading
		for _, t := range types {
			r.Entries = append(r.Entries, Entry{Type: t})
		}
		return r
	}
	for name, c := range map[string]struct {
		r          Reading
		kind, also PageType
	}{
		"nothing":              {Reading{}, Article, ""},
		"shops":                {ten(Shelf, Shelf, Product, Shelf, Comparison), Comparison, ""},
		"a shop cannot be":     {ten(Product, Product, Product, Video), Review, ""},
		"how-to and its films": {ten(HowTo, Video, HowTo, Article), HowTo, ""},
		"two meanings":         {ten(HowTo, HowTo, HowTo, Shelf, Shelf, Comparison, HowTo), HowTo, Comparison},
		"only the first page": {ten(slices.Concat(slices.Repeat([]PageType{Tool}, 10),
			slices.Repeat([]PageType{HowTo}, 10))...), Tool, ""},
	} {
		if got := c.r.Article(); got.Kind != c.kind || got.Also != c.also || got.Because == "" {
			t.Errorf("%s: %+v", name, got)
		}
	}
}

// TestNamedSite: the front page of the site that a phrase names, and official pages of it, speak for those who look for
// it; its articles do not, nor does a site that is not named.
func TestNamedSite(t *testing.T) {
	page := func(site string) *Page { return &Page{SiteName: site, Text: "words", Words: 1} }
	for phrase, want := range map[string]bool{"halvorn": true, "halvorn website": true, "dusk lane warranty": true,
		"telescope": false, "lane": false} {
		e := Entry{Site: "halvorn.example", Type: Official, URL: "http://halvorn.example/x"}
		e.Named = named(phrase, e, page("Dusk Lane"))
		if e.Named != want || (e.want() == intent.Find) != want {
			t.Errorf("%s: named %v, for %v", phrase, e.Named, e.want())
		}
	}
	e := Entry{Named: true, Type: Article, URL: "http://halvorn.example/blog/x"}
	if front := (Entry{Named: true, Type: Shelf, URL: "http://halvorn.example/"}); e.want() != intent.Learn ||
		front.want() != intent.Find {
		t.Errorf("an article is for %v, a front page for %v", e.want(), front.want())
	}
	if r := (Reading{Entries: []Entry{e}}); r.NamedFirst() {
		t.Error("an article of the named site is what was looked for")
	}
}

func TestKindOfSite(t *testing.T) {
	for name, c := range map[string]struct {
		pages []SiteKind
		kind  SiteKind
	}{
		"a shop with articles":        {[]SiteKind{NicheSite, Marketplace, Marketplace, NicheSite, Marketplace}, Marketplace},
		"a maker's shop":              {[]SiteKind{Marketplace, Maker}, Maker},
		"a magazine that asks":        {[]SiteKind{NicheSite, NicheSite, NicheSite, Community}, NicheSite},
		"a free host is told by name": {[]SiteKind{FreeHost, NicheSite, NicheSite}, FreeHost},
		"nothing known":               {nil, ""},
	} {
		if got, why := KindOfSite(c.pages); got != c.kind || why == "" {
			t.Errorf("%s is %q", name, got)
		}
	}
	entries := []Entry{{Site: "a", Kind: NicheSite}, {Site: "b", Kind: NicheSite}, {Site: "a", Kind: Marketplace},
		{Site: "a", Kind: Marketplace}, {Site: "b", Kind: Community}}
	joinKinds(entries)
	if entries[0].Kind != Marketplace || entries[1].Kind != Community || entries[4].Kind != Community {
		t.Errorf("joined: %+v", entries)
	}
}

// FuzzFit: a page may say anything; its fit stays between 0 and 100, and its type and
// kind are among those that there are.
func FuzzFit(f *testing.F) {
	f.Add("moon map", "http://a.example/best-moon-map", "Best Moon Map", "moon <b> map \xff")
	f.Add("", "%zz://", "", "")
	f.Fuzz(func(t *testing.T, q, address, title, text string) {
		p := &Page{Title: title, H1: []string{text}, Text: text, Words: len(strings.Fields(text)), Description: address,
			SiteName: q, Brands: []string{title}}
		r := Reader{Lang: "en"}.Read(phrase.Normal(q), []Result{{Position: 1, URL: address, Title: title, Page: p},
			{Position: 2, URL: address}})
		for _, e := range r.Entries {
			if !(e.Fit.Total >= 0 && e.Fit.Total <= 100+1e-9) || e.Type == "" || e.Kind == "" {
				t.Errorf("fit %v, type %q, kind %q", e.Fit.Total, e.Type, e.Kind)
			}
		}
		if again := r.Entries[0].Fit.Renewed(true); !(again.Total >= 0 && again.Total <= 100+1e-9) {
			t.Errorf("renewed fit %v", again.Total)
		}
	})
}

func TestTitleAlone(t *testing.T) {
	q := NewQuery("best telescopes for kids", "en")
	for _, c := range []struct {
		title, site string
		share       float64
		why         string
	}{
		{"Best Telescope for Kids", "", 1, "says nothing else"},
		{"The 7 best telescopes for kids | Night Porch", "", 1, "says nothing else"},
		{"Night Porch: telescopes for kids", "", 1, "says nothing else"},
		{"Best telescopes for kids and seniors", "", 0.75, "also says “seniors”"},
		{"Best cheap travel binoculars and telescopes under a starry sky", "", 0.25,
			"also says “cheap”, “travel”, “binoculars”"},
		{"Nightporch best telescopes", "Nightporch", 1, "says nothing else"},
		{"Binoculars", "", 0, "holds none of its words"},
		{"", "", 0, "holds none of its words"},
	} {
		if got := q.alone(c.title, c.site); math.Abs(got.share-c.share) > 1e-9 || got.why != c.why {
			t.Errorf("%q: %v because it %s", c.title, got.share, got.why)
		}
	}
}

// TestRenewedFit writes a fit as the first checklist had it, without its last item, and
// renews it.
func TestRenewedFit(t *testing.T) {
	first := Points{28, 12, 8, 8, 6, 10, 18, 10}
	q := NewQuery("best moon map for kids", "en")
	p := &Page{Title: "Moon maps for everybody", H1: []string{"The best moon map for kids"},
		Headings: []string{"Kids and maps"},
		Text:     "A moon map, and another map of the moon.", Words: 9, Description: "moon"}
	for name, page := range map[string]*Page{"read": p, "unread": nil} {
		now := q.FitOf(Result{URL: "http://a.example/moon-map-guide", Title: "Moon maps", Page: page}, Article,
			intent.Compare, true)
		then, want := now, Checklist.Of(now.Shares()[:ItemAlone])
		then.Items = slices.Clone(now.Items[:ItemAlone])
		for i, share := range then.Shares() {
			if i != ItemBody && i != ItemKind && share < allShare {
				share *= firstSomeShare / someShare
			}
			then.Items[i].Most, then.Items[i].Points = first[i], first[i]*max(0, share)
		}
		then.Total = first.Of(then.Shares())
		if got := then.Renewed(true); math.Abs(got.Total-want) > 1e-9 || math.Abs(then.Total-want) < 1 ||
			got.Items[ItemAlone].Known {
			t.Errorf("%s: renewed %v, today %v, then %v", name, got.Total, want, then.Total)
		}
		if got := now.Renewed(false); math.Abs(got.Total-now.Total) > 1e-9 || got.Partial != now.Partial {
			t.Errorf("%s: renewed today %v, it was %v", name, got.Total, now.Total)
		}
	}
}

// TestWordsCountByWhatTitlesSay: a word that hardly any of the titles shown says counts little, so that a page which
// lacks it is no title miss; one that nearly all of them say has to be there.
func TestWordsCountByWhatTitlesSay(t *testing.T) {
	titles := []string{"How to Collimate a Telescope", "Collimating a Newtonian Telescope", "Collimate a Telescope",
		"Collimate Your Telescope in Five Minutes", "Collimating a Telescope for Beginners", "Collimating Telescopes",
		"How to Collimate a Dobsonian Telescope", "Telescopes: Collimating", "Collimate a Reflector Telescope", "Collimate"}
	plain := NewQuery("collimating a telescope for beginners", "en")
	q := plain.Weighed(titles)
	title := "How to Collimate a Telescope (with pictures)"
	for text, want := range map[string]bool{title: true, "Telescopes for Beginners": false,
		"Collimating a telescope for beginners": true, "Collimating for beginners": false} {
		if got := q.in(text); got.holds != want {
			t.Errorf("%q holds the phrase: %v (%s)", text, got.holds, got.why)
		}
	}
	if a, b := plain.in(title), q.in(title); a.holds || b.share <= a.share ||
		b.why != "holds 2 of 3 words, not “beginners”, which 1 of 10 titles say" {
		t.Errorf("without titles %+v, with them %+v", a, b)
	}
	page := &Page{Title: title, H1: []string{title}, Text: title, Words: 9}
	a, b := plain.FitOf(Result{Page: page}, Article, 0, false), q.FitOf(Result{Page: page}, Article, 0, false)
	for i := range a.Items {
		if same := a.Items[i].Points == b.Items[i].Points; same == (i == ItemTitle) {
			t.Errorf("%s: %v points, by what titles say %v", a.Items[i].Name, a.Items[i].Points, b.Items[i].Points)
		}
	}
	if a, b := plain.in(title), plain.Weighed(nil).in(title); math.Abs(a.share-b.share) > 1e-12 {
		t.Errorf("no titles change it from %v to %v", a.share, b.share)
	}
}
