package web

import (
	"regexp"
	"strings"

	"cleverniche/study/people"

	"github.com/gofiber/fiber/v3"
)

// rule is what requests to some addresses need. The first that fits holds; of the rest, what is read needs to see, and
// what is sent needs to work.
type rule struct {
	methods string // between blanks; "" any
	path    *regexp.Regexp
	right   people.Right
	open    bool // nobody signs in for it
}

// rules, on paths in small letters and without a slash at their end, as the router takes them.
var rules = []rule{
	{path: regexp.MustCompile(`^/(sign-in(/passkey(/ask)?)?|join/[^/]+)$`), open: true},
	{"GET HEAD", regexp.MustCompile(`^/niches/[^/]+/(feed|digest)/[^/]+$`), 0, true}, // their secret is asked for
	{path: regexp.MustCompile(`^/(people|audit|metrics)($|[/.])`), right: people.ToOwn},
	{path: regexp.MustCompile(`^/(you|sign-out|here)($|/)`), right: people.ToWrite},
	{"GET HEAD", regexp.MustCompile(`^(|/(guide|glossary|scale)(/.*)?|/briefs)$`), people.ToWrite, false},
	{"GET HEAD", regexp.MustCompile(`^/niches/[^/]+/(briefs(/.*)?|glossary)$`), people.ToWrite, false},
	{"POST", regexp.MustCompile(`^/niches/[^/]+/written$`), people.ToWrite, false},
	{"POST", regexp.MustCompile(`^/niches/[^/]+/(delete|archive)$`), people.ToOwn, false},
	{"POST", regexp.MustCompile(`^/(asked|niches/back/[^/]+)$`), people.ToOwn, false},
	{"GET HEAD", regexp.MustCompile(`^/(niches/new|start|niches/[^/]+/(whole\.zip|settings))$`), people.ToWork, false},
}

// rightOf is what a request needs; open says that nobody signs in for it.
func rightOf(method, path string) (what people.Right, open bool) {
	path = strings.TrimRight(strings.ToLower(path), "/")
	for _, r := range rules {
		if (r.methods == "" || strings.Contains(" "+r.methods+" ", " "+method+" ")) && r.path.MatchString(path) {
			return r.right, r.open
		}
	}
	if method == fiber.MethodGet || method == fiber.MethodHead {
		return people.ToSee, false
	}
	return people.ToWork, false
}
