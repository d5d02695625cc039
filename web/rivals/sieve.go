package rivals

import (
	"fmt"
	"net/url"
	"strconv"
	"strings"

	"cleverniche/study/rivals"
	"cleverniche/web/frame"

	"github.com/gofiber/fiber/v3"
)

// Sieve sifts phrases of rivals, as it is typed.
type Sieve struct {
	Contains, Lacks, Starts, Ends     string
	PlaceTo, SearchesFrom, SearchesTo string
	DifficultyTo                      string // of those that were looked up
	Page                              string // the part of a site
	New                               bool
	Order                             string
	Of                                int // rivals that rank for it at least; 0 is of no matter
	From                              int
}

// phraseOrders are how phrases may be sorted.
var phraseOrders = []struct{ Key, Name string }{{"", "most visits"}, {"searches", "most searches"},
	{"place", "best place"},
	{"easy", "easiest of those looked up"}, {"phrase", "A to Z"}}

// ReadSieve reads one from an address.
func ReadSieve(r *frame.Request) Sieve {
	text := func(name string) string { return strings.TrimSpace(r.Query(name)) }
	return Sieve{Contains: text("with"), Lacks: text("without"), Starts: text("starts"), Ends: text("ends"),
		PlaceTo: text("place-to"), SearchesFrom: text("searches-from"), SearchesTo: text("searches-to"),
		DifficultyTo: text("difficulty-to"), Page: text("page"),
		New: text("new") != "", Order: text("order"),
		Of: max(0, fiber.Query(r.Ctx, "of", 0)), From: max(0, fiber.Query(r.Ctx, "from", 0))}
}

// whole is a number that was typed; 0 none.
func whole(text string) int {
	n, err := strconv.Atoi(strings.ReplaceAll(text, ",", ""))
	if err != nil {
		return 0
	}
	return max(0, n)
}

// Ranked is what is asked of the data file.
func (s Sieve) Ranked(most int) rivals.Filter {
	return rivals.Filter{Contains: strings.Fields(s.Contains), Lacks: strings.Fields(s.Lacks), Starts: s.Starts,
		Ends:    s.Ends,
		PlaceTo: whole(s.PlaceTo), SearchesFrom: whole(s.SearchesFrom), SearchesTo: whole(s.SearchesTo), Page: s.Page,
		DifficultyTo: whole(s.DifficultyTo), New: s.New, Order: s.Order, Offset: s.From, Limit: most}
}

// Values are the sieve in an address.
func (s Sieve) Values() url.Values {
	q := url.Values{}
	for name, value := range map[string]string{"with": s.Contains, "without": s.Lacks, "starts": s.Starts,
		"ends":     s.Ends,
		"place-to": s.PlaceTo, "searches-from": s.SearchesFrom, "searches-to": s.SearchesTo, "page": s.Page,
		"order": s.Order, "difficulty-to": s.DifficultyTo} {
		if value != "" {
			q.Set(name, value)
		}
	}
	if s.New {
		q.Set("new", "yes")
	}
	if s.Of > 0 {
		q.Set("of", fmt.Sprint(s.Of))
	}
	return q
}

// Any reports whether something is sifted.
func (s Sieve) Any() bool {
	q := s.Values()
	q.Del("order")
	q.Del("of")
	return len(q) > 0
}

// At is the address of a page of what it lets through, the one that is shown.
func (s Sieve) At(path string) string {
	q := s.Values()
	if s.From > 0 {
		q.Set("from", fmt.Sprint(s.From))
	}
	return path + "?" + q.Encode()
}

// Along are the addresses of the pages before and after.
func (s Sieve) Along(path string, total, step int) (before, next string) {
	at := func(from int) string {
		s.From = from
		return s.At(path)
	}
	from := s.From
	if from > 0 {
		before = at(max(0, from-step))
	}
	if from+step < total {
		next = at(from + step)
	}
	return before, next
}

// Orders are the choices.
func (s Sieve) Orders() any { return phraseOrders }
