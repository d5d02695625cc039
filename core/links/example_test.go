package links_test

import (
	"fmt"

	"cleverniche/core/links"
)

// Sites are registrable domains by the Public Suffix List, and those under a host where
// anyone can have one.
func ExampleSuffixes_Site() {
	s := links.NewSuffixes("plainpost.example")
	for _, host := range []string{"www.blog.nightporch.co.uk", "anna.plainpost.example", "192.0.2.7"} {
		fmt.Println(s.Site(host), links.IsAddress(host))
	}
	// Output:
	// nightporch.co.uk false
	// anna.plainpost.example false
	// 192.0.2.7 true
}

// A link counts unless its rel says otherwise (HTML Living Standard).
func ExampleLink_Followed() {
	for _, rel := range []string{"", "noopener", "nofollow noopener", "UGC", "sponsored"} {
		fmt.Printf("%q: %v\n", rel, links.Link{Rel: rel}.Followed())
	}
	// Output:
	// "": true
	// "noopener": true
	// "nofollow noopener": false
	// "UGC": false
	// "sponsored": false
}
