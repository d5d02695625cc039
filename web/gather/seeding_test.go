package gather_test

import (
	"fmt"
	"net/http/httptest"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"cleverniche/study"
	"cleverniche/study/ask"
	"cleverniche/web/webtest"
)

// TestRootsAreGrownTogether: roots are ticked and gathered from at once, and are none afterwards.
func TestRootsAreGrownTogether(t *testing.T) {
	o := webtest.Outside{}
	s := webtest.OpenWith(t, ask.Market{Suggest: o, Demand: o, Names: map[ask.Question]string{}}, study.Options{})
	webtest.Holds(t, s.Get("/niches/1/gather/roots"), "No roots yet.")
	s.Add("moon map for kids\nmoon map on canvas\nbest moon maps\nstar wheel kit\nstar wheel\nlarge star wheel")
	body := s.Get("/niches/1/gather/roots")
	webtest.Holds(t, body, `name="seed" value="moon map"`, `value="star wheel"`, "sift?holds=moon%20map")
	_, _, said := s.Post("/niches/1/gather/estimate", url.Values{"seed": {"moon map", "star wheel"}}, true)
	webtest.Holds(t, said, "2 seeds: at most 4 lookups")
	if status, _, body := s.Post("/niches/1/gather/roots", url.Values{}, false); status != 422 ||
		!strings.Contains(body, "Tick at least one.") {
		t.Errorf("none ticked: %d", status)
	}
	ticked := url.Values{"seed": {"moon map", "star wheel"}}
	if status, h, _ := s.Post("/niches/1/gather/roots", ticked, false); status != 303 ||
		h.Get("Location") != "/niches/1/gather" {
		t.Errorf("%d to %s", status, h.Get("Location"))
	}
	s.Wait(1)
	webtest.Lacks(t, s.Get("/niches/1/gather/roots"), `value="moon map"`)
	webtest.Holds(t, s.Get("/niches/1/gather"), "2 seeds so far", "Roots of your ideas")
}

// TestThePen: what is written down stays with the niche, and each line that was no seed yet can be grown.
func TestThePen(t *testing.T) {
	o := webtest.Outside{}
	s := webtest.OpenWith(t, ask.Market{Suggest: o, Demand: o, Names: map[ask.Question]string{}}, study.Options{})
	s.Get("/niches/1/gather/pen")
	status, _, body := s.Post("/niches/1/gather/pen", url.Values{"who": {"beginners <b>\nkids"},
		"wrong": {"dew, kids, 🔭"}}, false)
	if status != 200 {
		t.Fatal(status, body)
	}
	webtest.Holds(t, body, "Saved.", "beginners &lt;b&gt;", `value="dew"`, `value="kids"`)
	if n := strings.Count(body, `name="seed"`); n != 3 {
		t.Errorf("%d lines", n)
	}
	webtest.Holds(t, s.Get("/niches/1/gather/pen"), "kids</textarea>", `value="beginners b"`)
	if status, h, _ := s.Post("/niches/1/gather/pen/grow", url.Values{"seed": {"kids"}}, false); status != 303 {
		t.Errorf("%d to %s", status, h.Get("Location"))
	}
	s.Wait(1)
	webtest.Lacks(t, s.Get("/niches/1/gather/pen"), `value="kids"`)
	long := strings.Repeat("words of a line\n", 800)
	if status, _, body := s.Post("/niches/1/gather/pen", url.Values{"who": {long}}, false); status != 422 ||
		!strings.Contains(body, "longer than") || !strings.Contains(body, "words of a line words") {
		t.Errorf("too long: %d", status)
	}
	webtest.Holds(t, s.Get("/niches/1/gather/pen"), "kids</textarea>")
	many := url.Values{}
	for i := range 60 {
		many.Add("seed", fmt.Sprintf("seed %d", i))
	}
	if status, _, body := s.Post("/niches/1/gather/pen/grow", many, false); status != 422 ||
		!strings.Contains(body, "60 seeds") {
		t.Errorf("sixty at once: %d", status)
	}
}

// TestTheWayDown: seeds and what they brought stand in a tree, branch by branch, with what is under each when it is
// asked for; all under a branch is dropped but what is kept, and that is undone.
func TestTheWayDown(t *testing.T) {
	o := webtest.Outside{}
	s := webtest.OpenWith(t, ask.Market{Suggest: o, Demand: o, Names: map[ask.Question]string{}}, study.Options{})
	webtest.Holds(t, s.Get("/niches/1/gather/down"), "No ideas yet.")
	s.Post("/niches/1/gather", url.Values{"seeds": {"moon filter"}, "way-letters": {"yes"}}, false)
	s.Wait(1)
	s.Add("comet map\nmars map")
	body := s.Get("/niches/1/gather/down")
	webtest.Holds(t, body, `role="treegrid"`, `data-branch="moon filter"`, `aria-expanded="false"`, "your list",
		"Drop all", "sift?branch=moon%20filter")
	webtest.Lacks(t, body, "letters and digits")
	asked := "/niches/1/gather/down/below?level=1&at="
	webtest.Holds(t, s.Get(asked+url.QueryEscape("moon filter")), "letters and digits", `aria-level="2"`)
	webtest.Holds(t, s.Get("/niches/1/gather/down?open=moon+filter"), "letters and digits", `aria-expanded="true"`)
	way := url.QueryEscape("moon filter › letter")
	under := s.Get(asked + way)
	webtest.Holds(t, under, `data-do="dig-here"`, "14 more")
	if list := s.Get(asked + url.QueryEscape("“list”")); !strings.Contains(list, "comet map") {
		t.Errorf("the list has %s", webtest.Read(list))
	}
	for _, path := range []string{asked + "none", "/niches/1/gather/down/below?level=x&at=moon+filter"} {
		if status, _, _ := s.Do(httptest.NewRequest("GET", path, nil)); status != 422 {
			t.Errorf("%s: %d", path, status)
		}
	}
	s.Post("/niches/1/decide", url.Values{"id": {"2"}, "decision": {"keep"}, "stage": {"sift"}}, true)
	_, _, said := s.Post("/niches/1/gather/down/drop", url.Values{"branch": {"moon filter"}}, true)
	webtest.Holds(t, said, "Dropped 27 ideas. Press u to undo. 1 kept idea stays.")
	_, _, said = s.Post("/niches/1/gather/down/drop", url.Values{"branch": {"moon filter"}}, true)
	webtest.Holds(t, said, "No change needed. 1 kept idea stays.")
	if status, h, _ := s.Post("/niches/1/gather/down/drop", url.Values{"branch": {"x"}}, false); status != 303 {
		t.Errorf("without scripts: %d to %s", status, h.Get("Location"))
	}
	_, _, said = s.Post("/niches/1/undo", url.Values{}, true)
	webtest.Holds(t, said, "27")
	webtest.Holds(t, s.Get("/niches/1/gather?seed=moon+map"), ">moon map</textarea>")
}

// TestCrossWords previews what would be made, offers what the niche has, and keeps what was typed where it is wrong.
func TestCrossWords(t *testing.T) {
	o := webtest.Outside{}
	s := webtest.OpenWith(t, ask.Market{Suggest: o, Demand: o, Names: map[ask.Question]string{}}, study.Options{})
	s.Add("moon map for kids\nmoon map for schools\nstar wheel for kids\ncomet kit for kids")
	webtest.Holds(t, s.Get("/niches/1/gather/cross"), "ends found here", "for kids")
	form := url.Values{"list1": {"moon map\nstar wheel"}, "list2": {"kids\nadults"}, "glue": {"for, -"}}
	_, _, said := s.Post("/niches/1/gather/cross/preview", form, true)
	webtest.Holds(t, said, "8 phrases", "at most 1 lookup of searches", "star wheel for adults", "moon map kids")
	_, _, said = s.Post("/niches/1/gather/cross/preview", url.Values{"pattern": {"see * with *"}, "list1": {"mars"}}, true)
	webtest.Holds(t, said, "The pattern has 2 gaps, and there are 1 lists")
	status, _, body := s.Post("/niches/1/gather/cross", url.Values{"list1": {"only <one>"}}, false)
	if status != 422 {
		t.Errorf("one list alone: %d", status)
	}
	webtest.Holds(t, body, "only &lt;one&gt;</textarea>", "Fill at least two lists")
	if status, h, _ := s.Post("/niches/1/gather/cross", form, false); status != 303 {
		t.Errorf("%d to %s", status, h.Get("Location"))
	}
	s.Wait(1)
	webtest.Holds(t, s.Get("/niches/1/gather"), "moon map … × kids …")
}

// TestOtherWords: what a thesaurus has is offered, ticked and gathered from; without one that is said.
func TestOtherWords(t *testing.T) {
	folder := t.TempDir()
	for name, text := range map[string]string{"th_en_US.idx": "UTF-8\n2\nold|6\nfield glass|44\n",
		"th_en_US.dat": "UTF-8\nold|1\n(adj)|aged|thing (generic term)\nfield glass|1\n(noun)|spyglass|glasses\n"} {
		if err := os.WriteFile(filepath.Join(folder, name), []byte(text), 0o600); err != nil {
			t.Fatal(err)
		}
	}
	o := webtest.Outside{}
	s := webtest.OpenWith(t, ask.Market{Suggest: o, Demand: o, Names: map[ask.Question]string{}},
		study.Options{Thesauri: folder})
	body := s.Get("/niches/1/gather/words?of=Old+field+glasses")
	webtest.Holds(t, body, `value="old spyglass"`, `value="aged field glasses"`, "not looked up yet")
	webtest.Lacks(t, body, "thing field", `value="old field glasses">`)
	if status, _, body := s.Do(httptest.NewRequest("GET", "/niches/1/gather/words?of=%3F%3F", nil)); status != 422 ||
		!strings.Contains(body, `role="alert"`) {
		t.Errorf("no phrase: %d", status)
	}
	webtest.Holds(t, s.Get("/niches/1/gather/words?of=nothing"), "has no other words for")
	if status, _, body := s.Post("/niches/1/gather/words", url.Values{"of": {"old"}}, false); status != 422 ||
		!strings.Contains(body, "Tick at least one.") {
		t.Errorf("none ticked: %d", status)
	}
	ticked := url.Values{"of": {"old"}, "seed": {"old spyglass"}}
	if status, h, _ := s.Post("/niches/1/gather/words", ticked, false); status != 303 {
		t.Errorf("%d to %s", status, h.Get("Location"))
	}
	none := webtest.OpenWith(t, ask.Market{Suggest: o, Names: map[ask.Question]string{}}, study.Options{})
	webtest.Holds(t, none.Get("/niches/1/gather/words?of=old"), "No thesaurus of this language is installed.")
}

// TestKeptGatherings: one is kept when it is begun, run again, set to weekly, removed and brought back.
func TestKeptGatherings(t *testing.T) {
	o := webtest.Outside{}
	s := webtest.OpenWith(t, ask.Market{Suggest: o, Demand: o, Names: map[ask.Question]string{}}, study.Options{})
	s.Get("/niches/1/gather")
	form := url.Values{"seeds": {"moon <map>"}, "keep": {"yes"}, "keep-name": {"first <kit>"}}
	if status, _, _ := s.Post("/niches/1/gather", form, false); status != 303 {
		t.Fatal(status)
	}
	s.Wait(1)
	body := s.Get("/niches/1/gather")
	webtest.Holds(t, body, "Saved gatherings", "first &lt;kit&gt;", "new idea", "Run again, at most", "Run weekly")
	webtest.Holds(t, s.Get("/niches/1/gather/kept/1"), "moon map", "new idea")
	for _, path := range []string{"weekly", "run"} {
		if status, h, _ := s.Post("/niches/1/gather/kept/1/"+path, url.Values{"weekly": {"yes"}}, false); status != 303 {
			t.Errorf("%s: %d to %s", path, status, h.Get("Location"))
		}
	}
	s.Wait(2)
	webtest.Holds(t, s.Get("/niches/1/gather"), "Stop weekly runs", "0 new ideas")
	webtest.Holds(t, s.Get("/niches/1/gather/kept/1"), "Nothing new.")
	_, _, body = s.Post("/niches/1/gather/kept/1/remove", nil, false)
	webtest.Holds(t, body, "Removed “first &lt;kit&gt;”.", "Bring the gathering back")
	webtest.Lacks(t, s.Get("/niches/1/gather"), "Saved gatherings")
	s.Post("/niches/1/gather/kept/1/remove", url.Values{"back": {"yes"}}, false)
	webtest.Holds(t, s.Get("/niches/1/gather"), "Saved gatherings")
	if status, _, _ := s.Do(httptest.NewRequest("GET", "/niches/1/gather/kept/9", nil)); status != 404 {
		t.Errorf("none such: %d", status)
	}
}

// TestAPage is read, told about, and its ticked phrases become ideas or seeds.
func TestAPage(t *testing.T) {
	o := webtest.Outside{}
	s := webtest.OpenWith(t, ask.Market{Suggest: o, Demand: o, Pages: o, Names: map[ask.Question]string{}},
		study.Options{})
	webtest.Holds(t, s.Get("/niches/1/gather/page"), "What a page is about", "A page costs at most")
	status, h, _ := s.Post("/niches/1/gather/page", url.Values{"at": {"s0.example/a"}}, false)
	at := h.Get("Location")
	if status != 303 || at != "/niches/1/gather/page?at=https%3A%2F%2Fs0.example%2Fa" {
		t.Fatal(status, at)
	}
	s.Wait(1)
	body := s.Get(at)
	webtest.Holds(t, body, `name="seed"`, "Stands in", "Read https://s0.example/a")
	ticked := url.Values{"at": {"https://s0.example/a"}, "seed": {"moon map"}, "do": {"add"}}
	if status, _, _ := s.Post("/niches/1/gather/page/ticked", ticked, false); status != 303 {
		t.Errorf("adding: %d", status)
	}
	webtest.Holds(t, s.Get("/niches/1/sift?source=page"), "moon map")
	ticked.Set("do", "gather")
	if status, _, _ := s.Post("/niches/1/gather/page/ticked", ticked, false); status != 303 {
		t.Errorf("gathering: %d", status)
	}
	for field, value := range map[string]string{"at": "<nothing>", "most": "many"} {
		form := url.Values{"at": {"s0.example"}, "site": {"yes"}}
		form.Set(field, value)
		if status, _, body := s.Post("/niches/1/gather/page", form, false); status != 422 ||
			!strings.Contains(body, "at-wrong") {
			t.Errorf("%s: %d", value, status)
		}
	}
	if status, _, _ := s.Post("/niches/1/gather/page/ticked", url.Values{"at": {"s0.example"}, "do": {"add"}},
		false); status != 422 {
		t.Errorf("none ticked: %d", status)
	}
}

// TestYourSearchReport: what stands near page one, what nobody thought of and what has no page are told apart.
func TestYourSearchReport(t *testing.T) {
	o := webtest.Outside{}
	s := webtest.OpenWith(t, ask.Market{Suggest: o, Names: map[ask.Question]string{}}, study.Options{})
	webtest.Holds(t, s.Get("/niches/1/gather/report"), "No report yet.")
	s.Post("/niches/1/gather", url.Values{"seeds": {"moon map"}}, false)
	s.Wait(1)
	s.Add("Query,Clicks,Impressions,Position\nmoon map for kids,4,900,14.2\nsextant polish,9,300,3\nstar wheel,0,50,40\n")
	body := s.Get("/niches/1/gather/report")
	webtest.Holds(t, body, "For 3 phrases a page of yours was shown.", "14.2", "not known yet")
	near, rest, _ := strings.Cut(body, "Unexpected phrases")
	webtest.Holds(t, near, "moon map for kids")
	webtest.Lacks(t, near, "sextant polish")
	webtest.Holds(t, rest, "sextant polish", "star wheel")
	webtest.Lacks(t, rest, "moon map for kids")
	webtest.Holds(t, s.Get("/niches/1/gather"), "Your search report")
	webtest.Holds(t, s.Get("/niches/1/sift?your-place=20"), "sextant polish", "Your place at most")
	s.Add("Query,Clicks,Impressions,Position\nmoon map for kids,40,1900,8\n") // the latest counts
	near, _, _ = strings.Cut(s.Get("/niches/1/gather/report"), "Unexpected phrases")
	webtest.Lacks(t, near, "moon map for kids")
}
