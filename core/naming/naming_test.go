package naming

import (
	"slices"
	"strings"
	"testing"
)

// TestOf: labels are of letters, digits and hyphens in ASCII (RFC 5890 §2.3.1), at most 63
// long (RFC 1035 §2.3.4); "xn--bcher-kva" is Bücher by RFC 3492's own example.
func TestOf(t *testing.T) {
	var got []string
	for _, n := range Of("moon map", []string{"com", "example"}) {
		got = append(got, n.Domain)
		if n.Exact != strings.HasPrefix(n.Domain, "moonmap.") {
			t.Errorf("%+v", n)
		}
	}
	want := "moonmap.com moonmap.example moon-map.com moon-map.example mymoonmap.com mymoonmap.example themoonmap.com " +
		"themoonmap.example moonmapguide.com moonmapguide.example moonmaphub.com moonmaphub.example"
	if strings.Join(got, " ") != want {
		t.Errorf("%v", got)
	}
	if one := Of("bücher", []string{"de"}); len(one) == 0 || one[0].Domain != "xn--bcher-kva.de" {
		t.Errorf("%v", one)
	}
	if one := Of("moon", []string{"com"}); len(one) != 5 { // joined and hyphened are the same
		t.Errorf("%v", one)
	}
	if long := Of(strings.Repeat("moonlight ", 8), []string{"com"}); len(long) != 0 {
		t.Errorf("%v", long)
	}
	if none := Of("", []string{"com"}); slices.ContainsFunc(none, func(n Name) bool { return n.Exact }) {
		t.Errorf("%v", none)
	}
}

func TestEndings(t *testing.T) {
	good, wrong := Endings(" .com, ORG;co.uk  com x a_b http://c рф")
	if strings.Join(good, " ") != "com org co.uk xn--p1ai" || strings.Join(wrong, " ") != "x a_b http://c" {
		t.Errorf("%v, wrong %v", good, wrong)
	}
}
