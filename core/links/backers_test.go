package links

import (
	"fmt"
	"slices"
	"testing"
	"time"
)

func profiler(standing map[string]float64) Profiler {
	return Profiler{Standing: func(site string) float64 { return standing[site] }}
}

// TestBack tells linking sites apart, counts sites and not links, and finds each pattern.
func TestBack(t *testing.T) {
	p := profiler(map[string]float64{"big.test": 80, "mid.test": 25, "small.test": 5, "a-college.test": 30})
	day := time.Date(2026, 3, 4, 0, 0, 0, 0, time.UTC)
	list := []Link{{From: "http://owned.test/a", Anchor: "mine"}, {From: "not an address"},
		{From: "http://big.test/x", Rel: "nofollow", FirstSeen: day.AddDate(0, 0, 9)},
		{From: "http://big.test/y", Anchor: "good", FirstSeen: day}, {From: "http://mid.test/", Rel: "ugc"},
		{From: "http://small.test/", Anchor: "here"}, {From: "http://a-college.test/"},
		{From: "http://192.0.2.7/list"}, {From: "http://owned.example/about"}}
	for i := range 12 {
		list = append(list, Link{From: fmt.Sprintf("http://wide.test/%d", i)})
	}
	for i := range 5 {
		list = append(list, Link{From: fmt.Sprintf("http://x%d-links%d.test/", i, 100+i), Anchor: "Cheap  Telescopes",
			FirstSeen: day})
	}
	got := p.Back("http://owned.test/page", "A title", list, 0)
	if got.Links != len(list)-2 || got.Total != got.Links {
		t.Errorf("%d links of %d", got.Links, len(list))
	}
	by := map[string]Backer{}
	for _, b := range got.Backers {
		by[b.Site] = b
	}
	for site, class := range map[string]Class{"big.test": Solid, "mid.test": NotFollowed, "small.test": Weak,
		"a-college.test": Solid, "192.0.2.7": BareAddress, "wide.test": NoStanding, "owned.example": NoStanding} {
		if by[site].Class != class {
			t.Errorf("%s counts as %s, not %s", site, by[site].Class, class)
		}
	}
	if b := by["big.test"]; b.From != "http://big.test/y" || b.Anchor != "good" || !b.First.Equal(day) || b.Links != 2 {
		t.Errorf("%+v", b)
	}
	if !by["a-college.test"].Institution || by["big.test"].Institution || by["wide.test"].Links != 12 {
		t.Error("institutions, or pages of a site")
	}
	var names []string
	for _, pattern := range got.Patterns {
		names = append(names, pattern.Name)
	}
	want := []string{PatternAddress, PatternWide, PatternOwner, PatternNames, PatternAnchor, PatternDay}
	if !slices.Equal(names, want) {
		t.Errorf("%v, want %v", names, want)
	}
	tally := got.Tally()
	if tally.Sites != 12 || tally.Solid != 2 || tally.Takes != 2 || tally.NotFollowed != 1 || tally.Doubtful != 7 ||
		tally.Institutions != 1 || tally.Followed != 11 {
		t.Errorf("%+v", tally)
	}
	cited := p.Back("http://owned.test/page", "Cheap telescopes", list, 0)
	if slices.ContainsFunc(cited.Patterns, func(p Pattern) bool { return p.Name == PatternAnchor }) {
		t.Error("citing a page by its title looks made")
	}
}

func TestWorthAskingAndCompare(t *testing.T) {
	p := profiler(map[string]float64{"a.test": 40, "b.test": 60, "c.test": 10, "rival.test": 50})
	back := func(target string, from ...string) Backing {
		var list []Link
		for _, site := range from {
			list = append(list, Link{From: "http://" + site + "/"})
		}
		return p.Back(target, "", list, 0)
	}
	one, two := back("http://one.test/", "a.test", "b.test", "rival.test", "none.test"), back("http://two.test/", "a.test",
		"c.test")
	got := WorthAsking(map[int]Backing{1: one, 4: two}, map[string]bool{"rival.test": true},
		map[string]bool{"c.test": true})
	if len(got) != 2 || got[0].Site != "a.test" || !slices.Equal(got[0].Places, []int{1, 4}) || got[1].Site != "b.test" {
		t.Errorf("%+v", got)
	}
	first, both, second := Compare(one, two)
	if len(first) != 3 || len(both) != 1 || both[0].Site != "a.test" || len(second) != 1 || second[0].Site != "c.test" {
		t.Errorf("%v, %v, %v", first, both, second)
	}
}

func TestInstitutional(t *testing.T) {
	for site, want := range map[string]bool{"mit.edu": true, "ox.ac.uk": true, "x.gov.au": true,
		"dim-library.example": true,
		"libraryfan.example":  false, "a.com": false, "acme.ac": true, "collegehumour.test": false} {
		if Institutional(site) != want {
			t.Errorf("%s: %v", site, !want)
		}
	}
}

// BenchmarkBack reads a list of a million links.
func BenchmarkBack(b *testing.B) {
	p := profiler(map[string]float64{"s7.test": 30})
	list := make([]Link, 1_000_000)
	for i := range list {
		list[i] = Link{From: fmt.Sprintf("http://s%d.test/%d", i%50_000, i), Anchor: "a b"}
	}
	for b.Loop() {
		p.Back("http://owned.test/", "", list, 0)
	}
}
