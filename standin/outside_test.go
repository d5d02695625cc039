package standin

import (
	"bytes"
	"encoding/json"
	"encoding/xml"
	"fmt"
	"net/url"
	"strings"
	"testing"
	"time"

	"github.com/temoto/robotstxt"
)

// TestBesideTheResults: the OpenSearch elements and ours are extensions of the Atom feed (which gofeed reads in
// readers); both namespaces are declared where they are used.
func TestBesideTheResults(t *testing.T) {
	w := grown()
	var shop *query
	for _, q := range w.queryList {
		if q.need.template.Name == "buy" && q.need.cpc > 2 {
			shop = q
			break
		}
	}
	var beside struct {
		Total int `xml:"http://a9.com/-/spec/opensearch/1.1/ totalResults"`
		Ads   []struct {
			Advertiser string `xml:"urn:cleverniche:results advertiser"`
			Title      string `xml:"urn:cleverniche:results title"`
			Text       string `xml:"urn:cleverniche:results text"`
			URL        string `xml:"urn:cleverniche:results url"`
		} `xml:"urn:cleverniche:results ad"`
		Offers []struct {
			Price    string `xml:"urn:cleverniche:results price"`
			Currency string `xml:"urn:cleverniche:results currency"`
		} `xml:"urn:cleverniche:results shoppingRow>offer"`
	}
	if err := xml.Unmarshal([]byte(body(t, w, "127.0.0.1", "/search?country=GB&q="+url.QueryEscape(shop.text))),
		&beside); err != nil {
		t.Fatal(err)
	}
	if beside.Total < 20 || len(beside.Ads) == 0 || beside.Ads[0].Advertiser == "" || beside.Ads[0].Text == "" ||
		w.sites[hostOf(beside.Ads[0].URL)] == nil {
		t.Errorf("beside the results: %+v", beside)
	}
	if len(beside.Offers) == 0 || beside.Offers[0].Currency != "GBP" {
		t.Errorf("the shopping row in Britain: %+v", beside.Offers)
	}
}

func hostOf(address string) string {
	u, err := url.Parse(address)
	if err != nil {
		return ""
	}
	return u.Host
}

// TestDescription: the OpenSearch 1.1 description document has what the
// specification requires, and its templates lead to answers.
func TestDescription(t *testing.T) {
	w := grown()
	var d struct {
		XMLName   xml.Name `xml:"http://a9.com/-/spec/opensearch/1.1/ OpenSearchDescription"`
		ShortName string   `xml:"ShortName"`
		About     string   `xml:"Description"`
		URLs      []struct {
			Type     string `xml:"type,attr"`
			Template string `xml:"template,attr"`
		} `xml:"Url"`
	}
	if err := xml.Unmarshal([]byte(body(t, w, "127.0.0.1:8571", "/opensearch.xml")), &d); err != nil {
		t.Fatal(err)
	}
	if d.ShortName == "" || len(d.ShortName) > 16 || d.About == "" || len(d.About) > 1024 || len(d.URLs) != 2 {
		t.Errorf("%+v", d)
	}
	fill := strings.NewReplacer("{searchTerms}", "telescope", "{count?}", "5", "{startIndex?}", "1", "{language?}", "en")
	for _, u := range d.URLs {
		at, err := url.Parse(fill.Replace(u.Template))
		if err != nil || strings.ContainsAny(at.String(), "{}") {
			t.Fatalf("%s: %v", u.Template, err)
		}
		r := get(t, w, at.Host, at.RequestURI())
		if r.StatusCode != 200 || !strings.HasPrefix(r.Header.Get("Content-Type"), u.Type) {
			t.Errorf("%s answers %s, %s", at, r.Status, r.Header.Get("Content-Type"))
		}
	}
}

// TestRegistry says since when a name is somebody's, and what is no name. (openrdap's client asks it in readers.)
func TestRegistry(t *testing.T) {
	w := grown()
	var d struct {
		Events []struct {
			Action string `json:"eventAction"`
			Date   string `json:"eventDate"`
		} `json:"events"`
	}
	if err := json.Unmarshal([]byte(body(t, w, "127.0.0.1", "/rdap/domain/nightporch.example")), &d); err != nil {
		t.Fatal(err)
	}
	since := ""
	for _, e := range d.Events {
		if e.Action == "registration" {
			since = e.Date
		}
	}
	if got, err := time.Parse(time.RFC3339, since); err != nil || !got.Equal(w.sites["nightporch.example"].born) {
		t.Errorf("registered %q", since)
	}
	for path, status := range map[string]int{"/rdap/domain/-bad-.example": 400, "/rdap/domain/a.b.example": 404,
		"/rdap/domain/free-name-of-mine.invalid": 404,
		"/rdap/autnum/64500":                     501, "/rdap/help": 200, "/rdap/domain/NightPorch.EXAMPLE.": 200,
		"/rdap/domain/inkwellpages.example": 200} {
		r := get(t, w, "127.0.0.1", path)
		var e rdapError
		if err := json.NewDecoder(r.Body).Decode(&e); err != nil || r.StatusCode != status ||
			r.Header.Get("Content-Type") != "application/rdap+json" {
			t.Errorf("%s answers %s, %s, %v", path, r.Status, r.Header.Get("Content-Type"), err)
		}
		if status >= 400 && (e.Code != status || e.Title == "" || len(e.Description) == 0) {
			t.Errorf("%s: %+v", path, e)
		}
	}
	catchy, free := 0, 0
	for _, first := range w.scenarios[0].Sites.First {
		for _, second := range w.scenarios[0].Sites.Second {
			if _, taken := w.registered(first + second + ".example"); taken {
				catchy++
			} else {
				free++
			}
		}
	}
	if catchy < free/2 || free == 0 {
		t.Errorf("of names made of two words %d are taken and %d free", catchy, free)
	}
}

// TestRobotsFiles: temoto/robotstxt reads them. Sitemaps and HTML are read by
// packages of the other registry, in e2e/world.spec.mjs.
func TestRobotsFiles(t *testing.T) {
	w := grown()
	for i, st := range w.siteList {
		if i%19 != 0 {
			continue
		}
		robots, err := robotstxt.FromBytes([]byte(body(t, w, st.domain, "/robots.txt")))
		if err != nil {
			t.Fatal(err)
		}
		if g := robots.FindGroup("anyone"); !g.Test("/") || g.Test("/basket") || len(robots.Sitemaps) != 1 {
			t.Errorf("%s: robots.txt is read as %+v", st.domain, robots)
		}
	}
}

// TestOperators: each narrows the results to pages that satisfy it, and the totals
// with them.
func TestOperators(t *testing.T) {
	w := grown()
	find := func(text string) (hits []hit, total int) {
		return w.Engine("").Search(Ask{Text: text, At: clock})
	}
	says := func(p *page, words string) bool { return w.index.says(p, strings.Fields(words)) }
	_, all := find("star chart telescope")
	for text, want := range map[string]func(p *page) bool{
		`"read a star chart"`: func(p *page) bool { return says(p, "read a star chart") },
		`"read a star chart`:  func(p *page) bool { return says(p, "read a star chart") },
		`intitle:saturn rings`: func(p *page) bool {
			return strings.Contains(" "+strings.ToLower(p.title)+" ", "saturn")
		},
		`intitle:"saturn rings"`: func(p *page) bool {
			return strings.Contains(strings.ToLower(p.title),
				"saturn rings")
		},
		`telescope site:nightporch.example`: func(p *page) bool { return p.site.domain == "nightporch.example" },
		`site:nightporch.example`:           func(p *page) bool { return p.site.domain == "nightporch.example" },
		`site:plainpost.example telescope`: func(p *page) bool {
			return strings.HasSuffix(p.site.domain,
				".plainpost.example")
		},
		`star chart telescope -planisphere`:  func(p *page) bool { return !says(p, "planisphere") },
		`star chart telescope -"star party"`: func(p *page) bool { return !says(p, "star party") },
	} {
		hits, total := find(text)
		if len(hits) == 0 || total < len(hits) {
			t.Errorf("%s finds %d of %d", text, len(hits), total)
		}
		for _, h := range hits {
			if !want(h.page) {
				t.Errorf("%s finds %s", text, h.page.url())
				break
			}
		}
	}
	if hits, total := find("star chart telescope -planisphere"); total >= all || len(hits) == 0 {
		t.Errorf("%d without a word, %d with it", total, all)
	}
	for _, nothing := range []string{`"the cow flew over saturn"`, "site:nosuch.example", `intitle:"no such title"`,
		"-", `""`, "zzzz"} {
		if hits, total := find(nothing); len(hits) != 0 || total != 0 {
			t.Errorf("%s finds %d", nothing, total)
		}
	}
	if p := parseQuery(`Find "the moon" intitle:guide site:A.example -cheap now`); fmt.Sprintf("%v %v %v %v %v",
		p.words, p.phrases, p.titled, p.without,
		p.site) != "[find the moon guide now] [[the moon]] [[guide]] [[cheap]] a.example" {
		t.Errorf("%+v", p)
	}
}

func FuzzParseQuery(f *testing.F) {
	for _, s := range []string{`"a b" -c intitle:"d`, "site:", `-"`, "intitle:-x", "-site:x.example y"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		for _, words := range append(parseQuery(s).phrases, parseQuery(s).without...) {
			if len(words) == 0 {
				t.Errorf("%q has an empty phrase", s)
			}
		}
	})
}

// TestCountries: another country searches less, at other times, and pays in its own
// money; another language hardly asks in these words.
func TestCountries(t *testing.T) {
	w := grown()
	var gift *query
	for _, n := range w.needs {
		if n.template.Name == "gift" && n.base > 2000 {
			gift = n.queries[0]
			break
		}
	}
	year := func(country, language string) (sum, peak int) {
		r := w.demandOf(gift.text, 12, placeOf(country, language))
		most := 0
		for i, m := range r.Monthly {
			if m.Count != nil {
				if sum += *m.Count; *m.Count > most {
					most, peak = *m.Count, i
				}
			}
		}
		return sum, peak
	}
	home, homePeak := year("", "")
	britain, _ := year("GB", "en")
	_, south := year("AU", "en")
	if britain == 0 || britain >= home {
		t.Errorf("%d searches at home, %d in Britain", home, britain)
	}
	if gap := (south - homePeak + 12) % 12; gap < 4 || gap > 8 {
		t.Errorf("the peak is in month %d at home and %d in the south", homePeak, south)
	}
	if german, _ := year("US", "de"); german != 0 {
		t.Errorf("%d searches in German for an English phrase", german)
	}
	if got := w.demandOf(gift.text, 12, placeOf("gb", "en-GB")).CPC; got == nil || got.Currency != "GBP" {
		t.Errorf("a click in Britain costs %+v", got)
	}
	local := func(country string) (n int) {
		for i := 0; i < len(w.queryList); i += 499 {
			hits, _ := w.Engine("").Search(Ask{Text: w.queryList[i].text, Country: country, At: clock})
			for _, h := range hits[:min(10, len(hits))] {
				if h.page.site.country == "GB" {
					n++
				}
			}
		}
		return n
	}
	if atHome, there := local(""), local("GB"); there <= atHome {
		t.Errorf("British sites stand %d times in the ten at home, %d times in Britain", atHome, there)
	}
}

// TestAnotherHobbyIsAFile: a scenario by itself, in another language, makes a world.
func TestAnotherHobbyIsAFile(t *testing.T) {
	scenarios, err := ReadScenarios(hobby, "testdata/hobby")
	if err != nil {
		t.Fatal(err)
	}
	w := Grow(1, scenarios, clock)
	if c := w.Count(); c.Queries < 50 || c.Sites < 100 || c.Pages < 500 {
		t.Errorf("it holds %+v", c)
	}
	r := w.demandOf("bester lenkdrachen für kinder", 12, placeOf("DE", "de"))
	if r.CPC == nil || r.CPC.Currency != "EUR" {
		t.Errorf("in Germany: %+v", r)
	}
	hits, _ := w.Engine("").Search(Ask{Text: "bester lenkdrachen für kinder", Country: "DE", Language: "de", At: clock})
	if len(hits) < 10 || !bytes.Contains(w.html(hits[0].page), []byte(`lang="de"`)) {
		t.Errorf("%d results", len(hits))
	}
}
