package phrase

import (
	"bufio"
	"errors"
	"os"
	"os/exec"
	"slices"
	"strings"
	"testing"
	"testing/quick"
	"unicode/utf8"
)

func TestNormal(t *testing.T) {
	for _, c := range []struct{ name, in, want string }{
		{"case and space", "  Best\tTelescope  for KIDS ", "best telescope for kids"},
		{"small letters", "Große STRASSE", "große strasse"},
		{"the last sigma", "ΟΔΟΣ ΣΑΣ", "οδος σας"},
		{"compatibility forms", "ｆｕｌｌ ﬁeld № ５", "full field no 5"},
		{"composed and decomposed", "cafe\u0301", "café"},
		{"outer punctuation", "“Is it worth it?!”", "is it worth it"},
		{"inner punctuation stays", "don't f/5.6 wi-fi r&d c++", "don't f/5.6 wi-fi r&d c++"},
		{"typographic apostrophe", "child’s telescope", "child's telescope"},
		{"dashes", "10–20 mm — cheap", "10-20 mm cheap"},
		{"excluding dash is no minus", "telescope -cheap", "telescope cheap"},
		{"emoji", "🔭 telescope 🌙", "telescope"},
		{"right to left", "\u202eתלסקופ לילדים\u202c", "תלסקופ לילדים"},
		{"markup is text", "<b>telescope</b>", "b telescope b"},
		{"currency sign", "telescope under $100", "telescope under 100"},
		{"zero width", "tele\u200bscope", "telescope"},
		{"nothing", " ?! ", ""},
	} {
		t.Run(c.name, func(t *testing.T) {
			if got := Normal(c.in); got != c.want {
				t.Errorf("Normal(%q) = %q, want %q", c.in, got, c.want)
			}
		})
	}
}

func TestNormalIsIdempotent(t *testing.T) {
	if err := quick.Check(func(s string) bool { n := Normal(s); return Normal(n) == n }, nil); err != nil {
		t.Error(err)
	}
}

func FuzzNormal(f *testing.F) {
	for _, s := range []string{"Telescope", "🔭", "\xff\xfe", "c++ +", "a\u0301\u0327 '", "'' -- ..", "ʼn", "ͅ"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		n := Normal(s)
		if !utf8.ValidString(n) || Normal(n) != n || strings.Contains(n, "  ") {
			t.Errorf("Normal(%q) = %q is no normal form: again it is %q", s, n, Normal(n))
		}
	})
}

func TestParseRefuses(t *testing.T) {
	var tooLong *LengthError
	if _, err := Parse(strings.Repeat("telescope ", 1000)); !errors.As(err, &tooLong) || tooLong.Runes != 10000 {
		t.Errorf("a phrase of 10,000 characters: %v", err)
	}
	for in, want := range map[string]error{"": ErrEmpty, " \n": ErrEmpty, "🔭🌙": ErrEmpty, "\xff\xfe": ErrEncoding} {
		if _, err := Parse(in); !errors.Is(err, want) {
			t.Errorf("Parse(%q): %v, want %v", in, err, want)
		}
	}
	if s, err := Parse(strings.Repeat("a", MaxRunes)); err != nil || len(s) != MaxRunes {
		t.Errorf("a phrase of exactly %d: %v", MaxRunes, err)
	}
}

// The expected words are those of Unicode's own examples in UAX #29 §4, without
// the segments that hold no letter or digit.
func TestWords(t *testing.T) {
	for in, want := range map[string][]string{
		`The quick ("brown") fox can't jump 32.3 feet, right?`: {"The", "quick", "brown", "fox", "can't", "jump", "32.3",
			"feet", "right"},
		"10x50 f/5.6":        {"10x50", "f", "5.6"},
		"can you see saturn": {"can", "you", "see", "saturn"},
		"":                   nil,
	} {
		if got := Words(in); !slices.Equal(got, want) {
			t.Errorf("Words(%q) = %q, want %q", in, got, want)
		}
	}
}

// TestStemsOfPublishedVocabulary reads samples of the vocabularies that
// snowballstem.org publishes with its algorithms.
func TestStemsOfPublishedVocabulary(t *testing.T) {
	for _, lang := range []string{"en", "es", "fr", "no", "ru", "sv"} {
		f, err := os.Open("testdata/snowball-" + lang + ".txt")
		if err != nil {
			t.Fatal(err)
		}
		defer f.Close()
		n, wrong := 0, 0
		for lines := bufio.NewScanner(f); lines.Scan(); {
			word, stem, ok := strings.Cut(lines.Text(), "\t")
			if !ok || strings.HasPrefix(word, "#") {
				continue
			}
			if n++; Stem(word, lang) != stem {
				if wrong++; wrong <= 3 {
					t.Logf("%s: %s: %s, published %s", lang, word, Stem(word, lang), stem)
				}
			}
		}
		if wrong > 0 || n < 500 {
			t.Errorf("%s: %d of %d stems are not the published ones", lang, wrong, n)
		}
	}
}

// TestStemsOfStemwords compares with the program stemwords of Debian's
// libstemmer-tools, in languages that the samples leave out.
func TestStemsOfStemwords(t *testing.T) {
	if _, err := exec.LookPath("stemwords"); err != nil {
		if os.Getenv("CLEVERNICHE_REFERENCES") == "required" {
			t.Fatal("stemwords is required here: ", err)
		}
		t.Skip("stemwords is not here")
	}
	words := map[string]string{
		"german": "teleskope fernrohre häuser laufenden freundlichkeit aufgeregt katzen sternwarten " +
			"beobachtungen kleinster",
		"italian":    "telescopi osservazioni stellare abbandonata ragionamento cercando cieli velocemente",
		"dutch":      "telescopen sterren waarnemingen lichamelijk opgave kijkers mogelijkheden",
		"portuguese": "telescópios observações estrelas rapidamente quilométricas chegando",
		"danish":     "teleskoper stjernerne observationer undersøgelse huset",
		"finnish":    "kaukoputket tähtien havainnot edeltäjien",
		"hungarian":  "távcsövek csillagok megfigyelések",
		"romanian":   "telescoape stelelor observații",
		"turkish":    "teleskoplar yıldızların gözlemevinden evlerimizde",
		"arabic":     "الكتب والنجوم المراصد يكتبون",
		"irish":      "teileascóip réaltaí breathnóireacht scríobhann",
		"tamil": "நட்சத்திரங்கள் தொலைநோக்கிகள் " +
			"பார்க்கிறேன்",
	}
	codes := map[string]string{"german": "de", "italian": "it", "dutch": "nl", "portuguese": "pt", "danish": "da",
		"finnish": "fi", "hungarian": "hu", "romanian": "ro",
		"turkish": "tr", "arabic": "ar", "irish": "ga", "tamil": "ta"}
	for lang, text := range words {
		cmd := exec.Command("stemwords", "-l", lang)
		cmd.Stdin = strings.NewReader(strings.Join(strings.Fields(text), "\n") + "\n")
		out, err := cmd.Output()
		if err != nil {
			t.Fatalf("stemwords -l %s: %v", lang, err)
		}
		for i, want := range strings.Fields(string(out)) {
			if word := strings.Fields(text)[i]; Stem(word, codes[lang]) != want {
				t.Errorf("%s: %s: %s, stemwords says %s", lang, word, Stem(word, codes[lang]), want)
			}
		}
	}
}

func TestVariantKey(t *testing.T) {
	same := [][]string{
		{"telescope for beginners", "beginner telescopes", "the beginners telescope"},
		{"how to clean a mirror", "clean mirrors"},
	}
	for _, list := range same {
		for _, s := range list[1:] {
			if VariantKey(s, "en") != VariantKey(list[0], "en") {
				t.Errorf("%q and %q are no suspected variants: %q, %q", s, list[0], VariantKey(s, "en"), VariantKey(list[0], "en"))
			}
		}
	}
	for _, pair := range [][2]string{{"polar align without polaris", "polar align with polaris"},
		{"telescope under 100", "telescope under 200"}, {"not worth it", "worth it"}} {
		if VariantKey(pair[0], "en") == VariantKey(pair[1], "en") {
			t.Errorf("%q and %q share the key %q", pair[0], pair[1], VariantKey(pair[0], "en"))
		}
	}
	if VariantKey("how to do it", "en") == "" {
		t.Error("a phrase of function words has no key")
	}
}

func TestShapes(t *testing.T) {
	for in, want := range map[string][]Shape{
		"how to collimate a telescope":       {HowTo, Question},
		"best telescope under 100":           {List, Price, Preposition},
		"refractor vs reflector":             {Comparison},
		"is a dobsonian worth it":            {Question, Verdict},
		"telescope shop near me":             {Local, Place, Buying, Preposition},
		"dusklane scout review":              {Verdict},
		"halvorn customer service phone":     {Site},
		"saturn":                             nil,
		"can you see mars with binoculars":   {Question, Preposition},
		"what is the best eyepiece for mars": {Question, List, Preposition},
		"used telescopes for sale":           {Buying, Preposition},
	} {
		if got := Shapes(in, "en"); !slices.Equal(got, want) {
			t.Errorf("Shapes(%q) = %v, want %v", in, got, want)
		}
	}
	if got := Shapes("wie reinigt man ein teleskop", "de"); got != nil {
		t.Errorf("a language without a lexicon has shapes %v", got)
	}
}

func BenchmarkNormal(b *testing.B) {
	for b.Loop() {
		Normal("Best Telescope for Viewing Saturn’s Rings?")
	}
}

func BenchmarkVariantKey(b *testing.B) {
	for b.Loop() {
		VariantKey("best telescope for viewing the rings of saturn", "en")
	}
}

func TestIsLight(t *testing.T) {
	for word, want := range map[string]bool{"get": true, "versus": true, "telescope": false, "": false} {
		if IsLight(word, "en") != want {
			t.Errorf("%q is light: %v", word, !want)
		}
	}
	if IsLight("get", "xx") {
		t.Error("light in a language nobody knows")
	}
}

func TestAhead(t *testing.T) {
	for normal, want := range map[string]string{"best telescope for beginners": "best telescope", "saturn": "saturn",
		"with binoculars": "", "": ""} {
		if got := Ahead(normal, "en"); got != want {
			t.Errorf("ahead of %q: %q", normal, got)
		}
	}
	if got := Ahead("telescope for kids", "xx"); got != "telescope for kids" {
		t.Errorf("in no language we know: %q", got)
	}
}

func TestSlipped(t *testing.T) {
	for _, c := range []struct {
		a, b string
		want bool
	}{
		{"can you se saturn", "can you see saturn", true},
		{"can you see satrun", "can you see saturn", true},
		{"can you see saturn", "can you see saturn", false},
		{"10x50 binoculars", "15x50 binoculars", false},
		{"old map", "cold map", false}, // the first letter is rarely wrong
		{"se satrun", "see saturn", false},
		{"see saturn", "see saturn now", false},
		{"", "", false},
	} {
		if Slipped(c.a, c.b) != c.want || Slipped(c.b, c.a) != c.want {
			t.Errorf("%q and %q: %v", c.a, c.b, !c.want)
		}
	}
}
