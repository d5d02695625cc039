package files

import (
	"archive/zip"
	"bytes"
	"compress/gzip"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"os"
	"path/filepath"
	"reflect"
	"slices"
	"strings"
	"testing"
	"unicode/utf16"
)

// written writes a file for a test.
func written(t testing.TB, name string, data []byte) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), name)
	if err := os.WriteFile(path, data, 0o600); err != nil {
		t.Fatal(err)
	}
	return path
}

// opened opens it.
func opened(t testing.TB, name string, data []byte) (*File, error) {
	t.Helper()
	f, err := Open(written(t, name, data), name, "", t.TempDir())
	if err == nil {
		t.Cleanup(func() { f.Close() })
	}
	return f, err
}

// read reads a file as it is recognised: an idea a line, "phrase searches cpc", and the lines that are not used.
func read(t testing.TB, name string, data []byte) (ideas, bad []string, s Shape, err error) {
	t.Helper()
	f, err := opened(t, name, data)
	if err != nil {
		return nil, nil, s, err
	}
	if s, err = f.Recognise(); err != nil {
		return nil, nil, s, err
	}
	err = f.Ideas(context.Background(), s, "USD", func(i Idea) error {
		ideas = append(ideas, said(i))
		return nil
	}, func(p LineProblem) error {
		bad = append(bad, fmt.Sprintf("%d: %s", p.Line, p.Reason))
		return nil
	})
	return ideas, bad, s, err
}

// said is an idea in a line.
func said(i Idea) string {
	out := i.Phrase
	if n := i.Searches; n.Known {
		switch {
		case n.Under:
			out += fmt.Sprintf(" <%.0f", n.High)
		case n.Over:
			out += fmt.Sprintf(" >%.0f", n.Low)
		case n.Low != n.High:
			out += fmt.Sprintf(" %.0f–%.0f", n.Low, n.High)
		default:
			out += fmt.Sprintf(" %.0f", n.High)
		}
	}
	if i.CPC.Known() {
		out += fmt.Sprintf(" %.2f %s", float64(i.CPC.Micros)/1e6, i.CPC.Currency)
	}
	if i.Ads != nil {
		out += fmt.Sprintf(" ads %.2f", *i.Ads)
	}
	for _, m := range i.Months {
		out += fmt.Sprintf(" %s=%d", m.Month, m.Searches)
	}
	if i.Note != "" {
		out += " (" + i.Note + ")"
	}
	return out
}

func utf16of(text string, mark bool) []byte {
	var out []byte
	if mark {
		out = []byte("\xff\xfe")
	}
	for _, u := range utf16.Encode([]rune(text)) {
		out = append(out, byte(u), byte(u>>8))
	}
	return out
}

func zipped(t testing.TB, files map[string]string) []byte {
	t.Helper()
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for name, text := range files {
		w, err := z.Create(name)
		if err == nil {
			_, err = w.Write([]byte(text))
		}
		if err != nil {
			t.Fatal(err)
		}
	}
	if err := z.Close(); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

func gzipped(text string) []byte {
	var b bytes.Buffer
	z := gzip.NewWriter(&b)
	z.Write([]byte(text))
	z.Close()
	return b.Bytes()
}

// TestForms: the forms, encodings, headings and numbers that files of the trade have (common practice, no source).
func TestForms(t *testing.T) {
	for name, c := range map[string]struct {
		data string
		want string
	}{
		"a plain list":       {"moon map\n\nStar Chart\n", "moon map | star chart"},
		"a list with a head": {"Keyword\nmoon map\nstar chart\n", "moon map | star chart"},
		"phrases with commas": {"moon map, large\nstar chart\nbest, cheap telescope\n",
			"moon map large | star chart | best cheap telescope"},
		"other headings": {"Keyword,Avg. monthly searches,CPC (EUR)\nmoon filter,1900,0.85\n",
			"moon filter 1900 0.85 EUR"},
		"a quoted heading shifts nothing": {"\"a, b\",phrase,searches\nx,moon,1900\ny,mars,20\n",
			"moon 1900 (a, b: x) | mars 20 (a, b: y)"},
		"sep= and semicolons": {"sep=;\nSuchbegriff;Suchvolumen;CPC\nmond;1.900;0,85 €\nmars;90;1,20 €\n",
			"mond 1900 0.85 EUR | mars 90 1.20 EUR"},
		"preface":     {"Report of sites\nMay 2026\n\nKeyword\tVolume\nmoon\t1,900\nmars\t90\n", "moon 1900 | mars 90"},
		"pipes":       {"query|volume\nmoon|1K – 10K\nmars|<10\nvenus|n/a\n", "moon 1000–10000 | mars <10 | venus"},
		"thin spaces": {"keyword;searches\nmoon;1\u202f900\nmars;12\u00a0345\n", "moon 1900 | mars 12345"},
		"months": {"keyword,Searches: Jan 2025,Searches: Feb 2025\nmoon,100,\"1,200\"\n",
			"moon 2025-01=100 2025-02=1200"},
		"competition and difficulty": {"keyword,volume,competition,difficulty\nmoon,10,LOW,34\nmars,20,0.5,n/a\n",
			"moon 10 ads 0.17 (difficulty: 34) | mars 20 ads 0.50 (difficulty: n/a)"},
		"totals": {"keyword,volume\nmoon,10\nTotal,10\n", "moon 10"},
		"currencies": {"keyword,volume,cpc\na one,1K,EUR 1.20\nb two,1.9K,CHF 2\n" +
			"c three,>1000000,$1.20\nd four,—,\"1,300.00\"\n",
			"a one 1000 1.20 EUR | b two 1900 2.00 CHF | c three >1000000 1.20 USD | d four 1300.00 USD"},
		"a search report": {"Top queries,Clicks,Impressions,CTR,Position\nmoon map,3,40,7.5%,12.3\n",
			"moon map (Clicks: 3; Impressions: 40; CTR: 7.5%; Position: 12.3)"},
		"an array of JSON": {`[{"phrase":"moon","volume":10,"x":{"a":1}},{"phrase":"mars","volume":null}]`,
			"moon 10 (x: {\"a\":1}) | mars"},
		"lines of JSON": {"{\"query\":\"moon\",\"searches\":1900}\n{\"query\":\"mars\",\"searches\":2}\n",
			"moon 1900 | mars 2"},
		"an object of JSON":  {`{"total":2,"items":[{"keyword":"moon","cpc":0.5}]}`, "moon 0.50 USD"},
		"quoted line breaks": {"keyword,note\n\"moon map\",\"two\nlines\"\n", "moon map (two\nlines)"},
		"a log": {`1.2.3.4 - - [10/Oct/2025:13:55:36 -0700] "GET /moon HTTP/1.1" 200 23 ` +
			`"http://seek.example/?q=moon+map" "b"` + "\n" +
			`1.2.3.4 - - [10/Oct/2025:13:55:37 -0700] "GET / HTTP/1.1" 200 23 "-" "b"` + "\n",
			"moon map (requested page: /moon)"},
		"windows-1252":          {"keyword;volume\nm\xfcnchen karte;90\n", "münchen karte 90"},
		"UTF-16":                {string(utf16of("keyword\tvolume\nmond münchen\t90\n", true)), "mond münchen 90"},
		"UTF-16 without a mark": {string(utf16of("keyword\tvolume\nmond\t90\n", false)), "mond 90"},
		"gzip":                  {string(gzipped("keyword,volume\nmoon,5\n")), "moon 5"},
		"zip":                   {string(zipped(t, map[string]string{"b.csv": "keyword,volume\nmoon,5\n"})), "moon 5"},
		"our own export": {"phrase,searches,under floor,cpc,currency,difficulty,page-one chance,labels\n" +
			"moon,10,yes,0.5,EUR,34,0.5,a;b\n",
			"moon <10 0.50 EUR"},
		"topics of our own": {"topic,lead,phrases,searches,page-one chance\nmoon maps,moon map,3,900,0.5\n", "moon map 900"},
		"french": {"Requêtes;Clics;Impressions;Position\ncarte lune;3;40;12,3\n",
			"carte lune (Clics: 3; Impressions: 40; Position: 12,3)"},
		"empty searches": {"keyword,volume\nmoon,\nmars,0\n", "moon | mars 0"},
	} {
		t.Run(name, func(t *testing.T) {
			ideas, bad, s, err := read(t, "list", []byte(c.data))
			if got := strings.Join(ideas, " | "); got != c.want || err != nil {
				t.Errorf("got  %s\nwant %s\nbad %q, %v, %+v", got, c.want, bad, err, s)
			}
		})
	}
}

// TestBadLines: lines that cannot be used are told with their numbers, and the others are.
func TestBadLines(t *testing.T) {
	for _, c := range []struct{ data, ideas, bad string }{
		{"\ufeffBest Telescope\r\n\r\n🔭\n<b>html</b>\n" + strings.Repeat("x ", 9000) + "\nm\u00fcnchen a\u00df \u00fc\n" +
			"\xff\xfe\xff\n", "best telescope | b html b | münchen aß ü", "3 5 7"},
		{"CPC;Note;Phrase;Searches\r\n0,85;x;\"star; chart\";1 900\r\n$1.2;;moon;<10\r\n;;mars;\r\n3;;;5\r\n" +
			"free;;venus;7\r\n;;sun;lots\r\n;;a\"b;4\r\n",
			"star chart 1900 0.85 USD (x) | moon <10 1.20 USD | mars", "5 6 7 8"},
		{"phrase,searches\nmoon,400000000000\nmars,1\n", "mars 1", "2"},
	} {
		ideas, bad, s, err := read(t, "f", []byte(c.data))
		var lines []string
		for _, b := range bad {
			n, _, _ := strings.Cut(b, ":")
			lines = append(lines, n)
		}
		if strings.Join(ideas, " | ") != c.ideas || strings.Join(lines, " ") != c.bad || err != nil {
			t.Errorf("%q\n%q, %v, %+v", ideas, bad, err, s)
		}
	}
}

// TestKinds: what a file is about is told by its columns.
func TestKinds(t *testing.T) {
	for want, text := range map[Kind]string{
		IdeaList:     "keyword,volume\nmoon,5\n",
		SearchReport: "Query,Clicks,Impressions,Position\nmoon,1,2,3\n",
		ResultsFile:  "keyword,position,url,title\nmoon,1,http://a.example/,A\nmoon,2,http://b.example/,B\n",
		RankingsFile: "keyword,position,url\nmoon,1,http://a.example/x\nmars,2,http://a.example/y\n",
		LinksFile:    "source url,target url,anchor\nhttp://a.example/,http://b.example/,b\n",
		RanksFile:    "#harmonicc_pos\t#harmonicc_val\t#host_rev\n1\t1e7\texample.a\n2\t1e6\texample.b\n",
		"results ":   "moon map\nhttp://a.example/\nhttps://b.example/x\n\nstar chart\nhttp://c.example/\n",
		Unknown:      "x1,x2,x3\n1,2,moon\n3,4,mars\n",
	} {
		f, err := opened(t, "f", []byte(text))
		if err != nil {
			t.Fatal(err)
		}
		s, err := f.Recognise()
		if err != nil {
			t.Fatal(err)
		}
		var rows [][]string
		f.Each(context.Background(), s, func(_ int, cells []string) error {
			rows = append(rows, append([]string{}, cells...))
			return nil
		}, func(LineProblem) error { return nil })
		if got := s.Kind(rows); string(got) != strings.TrimSpace(string(want)) {
			t.Errorf("%q is %s, want %s: %+v", text, got, want, s)
		}
	}
}

// TestResults: places of phrases, from a table and from addresses under phrases.
func TestResults(t *testing.T) {
	for data, want := range map[string]string{
		"moon map\nhttp://a.example/\nhttps://b.example/x\nMars\nhttp://c.example/\n": "moon map 1 http://a.example/ | " +
			"moon map 2 https://b.example/x | mars 1 http://c.example/",
		"keyword;position;url;title\nmoon;2;http://b.example/;B\nmoon;1;http://a.example/;A\nmoon;x;http://a.example/;\n" +
			"moon;3;javascript:x;\n": "moon 2 http://b.example/ | moon 1 http://a.example/",
	} {
		f, err := opened(t, "f", []byte(data))
		if err != nil {
			t.Fatal(err)
		}
		s, err := f.Recognise()
		if err != nil {
			t.Fatal(err)
		}
		var got []string
		err = f.Results(context.Background(), s, func(r Result) error {
			got = append(got, fmt.Sprint(r.Phrase, " ", r.Position, " ", r.URL))
			return nil
		}, func(LineProblem) error { return nil })
		if strings.Join(got, " | ") != want || err != nil {
			t.Errorf("%q, %v", got, err)
		}
	}
}

// TestNoPhraseColumn: a table that nobody knows is no list of phrases, until somebody says which column holds them.
func TestNoPhraseColumn(t *testing.T) {
	f, err := opened(t, "f", []byte("x1,x2,x3\n1,2,moon map\n3,4,mars\n"))
	if err != nil {
		t.Fatal(err)
	}
	s, _ := f.Recognise()
	none := func(Idea) error { return nil }
	if err := f.Ideas(context.Background(), s, "USD", none, nil); !errors.Is(err, ErrNoPhrase) {
		t.Errorf("%v, %+v", err, s)
	}
	s.Columns[2].Field, s.Columns[0].Field = Phrase, Searches
	s.Columns[1].Field = Ignore
	var got []string
	err = f.Ideas(context.Background(), s, "USD", func(i Idea) error { got = append(got, said(i)); return nil }, nil)
	if strings.Join(got, "|") != "moon map 1|mars 3" || err != nil {
		t.Errorf("%q, %v", got, err)
	}
}

// TestHostileFiles: each is refused with a word of its own.
func TestHostileFiles(t *testing.T) {
	bomb := gzipped(strings.Repeat("0", 100<<20))
	for name, c := range map[string]struct {
		data []byte
		want error
	}{
		"empty":                {nil, ErrEmpty},
		"blanks":               {[]byte(" \n\n"), ErrEmpty},
		"binary":               {bytes.Repeat([]byte{0, 1, 2, 3, 4, 5, 6}, 900), ErrBinary},
		"a bomb":               {bomb, ErrBomb},
		"a bomb in a zip":      {zipped(t, map[string]string{"a.csv": strings.Repeat("0", 100<<20)}), ErrBomb},
		"OpenDocument":         {zipped(t, map[string]string{"content.xml": "<x/>", "mimetype": "x"}), ErrODS},
		"an old spreadsheet":   {[]byte("\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1 and more"), ErrXLS},
		"one line":             {bytes.Repeat([]byte("moon "), 3<<20/5), ErrLine},
		"cut in a gzip":        {gzipped(strings.Repeat("moon map\nmars\n", 5000))[:40], ErrCut},
		"cut in JSON":          {[]byte(`[{"phrase":"moon"},{"phrase":"ma`), ErrCut},
		"an archive in itself": {gzipped(string(gzipped(string(gzipped("moon"))))), ErrBomb},
	} {
		t.Run(name, func(t *testing.T) {
			if _, _, s, err := read(t, "f", c.data); !errors.Is(err, c.want) {
				t.Errorf("%v, want %v: %+v", err, c.want, s)
			}
		})
	}
	if _, err := Open(t.TempDir(), "dir", "", t.TempDir()); !errors.Is(err, ErrDirectory) {
		t.Errorf("a directory: %v", err)
	}
	ideas, bad, _, err := read(t, "f", []byte("phrase,searches\nmoon,5\n\"never closed,7\nmars,8\n"))
	if len(ideas) != 1 || len(bad) != 1 || !strings.Contains(bad[0], "lines 3 to") || err != nil {
		t.Errorf("an unclosed quote: %q, %q, %v", ideas, bad, err)
	}
}

// TestNumbers are what cells hold; the mark before decimals is told by the whole column.
func TestNumbers(t *testing.T) {
	for cell, want := range map[string]Number{
		"1,900": {1900, 1900, false, false, true}, "1 900": {1900, 1900, false, false, true},
		"1.9K": {1900, 1900, false, false, true}, "1K – 10K": {1000, 10000, false, false, true},
		"10-100": {10, 100, false, false, true}, "<10": {0, 10, true, false, true}, ">1000000": {1e6, 1e6, false, true, true},
		"—": {}, "12 %": {0.12, 0.12, false, false, true}, "1 Mio.": {1e6, 1e6, false, false, true},
		"12,34,567": {1234567, 1234567, false, false, true}, "100+": {100, 100, false, true, true},
	} {
		got, err := ReadNumber(cell, ".")
		if err != nil || math.Abs(got.Low-want.Low)+math.Abs(got.High-want.High) > 1e-9 || got.Known != want.Known ||
			got.Under != want.Under || got.Over != want.Over {
			t.Errorf("%q is %+v, %v", cell, got, err)
		}
	}
	for _, cell := range []string{"x", "1..2", "10–5", "1,2,3", "ten", "0x10", "1e5", "-5", "."} {
		if n, err := ReadNumber(cell, "."); err == nil && n.Known {
			t.Errorf("%q is taken for %+v", cell, n)
		}
	}
	for _, c := range []struct {
		counts   bool
		cells    string
		mark     string
		doubtful bool
	}{
		{true, "1.900 90", ",", true}, {true, "1,900 90", ".", true}, {false, "1.300 0.85", ".", false},
		{false, "1,3 0,85", ",", false}, {true, "1.900 1.234.567", ",", false}, {true, "1900 12", ".", false},
		{true, "1,234.50", ".", false}, {true, "1.234,50", ",", false},
	} {
		m := marks{}
		for _, cell := range strings.Fields(c.cells) {
			m.add(cell)
		}
		if mark, doubtful := m.decimal(c.counts); mark != c.mark || doubtful != c.doubtful {
			t.Errorf("%s: %q, doubtful %v", c.cells, mark, doubtful)
		}
	}
}

func FuzzRecognise(f *testing.F) {
	for _, seed := range []string{"moon\n", "a,phrase\n1,2\n", "{\"q\":1}", "[{", "sep=;\nphrase;x\n", "\xff\xfea\x00"} {
		f.Add([]byte(seed))
	}
	f.Fuzz(func(t *testing.T, data []byte) {
		_, _, _, _ = read(t, "f", data) // it may be refused; nothing panics
	})
}

// TestTablesAsOthersReadThem: random tables that Python's csv wrote hold the cells that it and Papa Parse (npm) read in
// them, with all separators, quotes, line breaks and scripts (RFC 4180; scripts/second-csv.py makes them). But for one
// thing: a line break within a cell is "\n", however it was written.
func TestTablesAsOthersReadThem(t *testing.T) {
	text, err := os.ReadFile("testdata/csv/tables.json")
	if err != nil {
		t.Fatal(err)
	}
	var made struct {
		Tables []struct {
			Comma, Text string
			Cells       [][]string
		}
	}
	if err := json.Unmarshal(text, &made); err != nil || len(made.Tables) < 80 {
		t.Fatalf("%d tables, %v", len(made.Tables), err)
	}
	for i, c := range made.Tables {
		for _, row := range c.Cells {
			for k := range row {
				row[k] = strings.ReplaceAll(row[k], "\r\n", "\n")
			}
		}
		path := filepath.Join(t.TempDir(), "t.csv")
		if err := os.WriteFile(path, []byte(c.Text), 0o600); err != nil {
			t.Fatal(err)
		}
		f, err := Open(path, "t.csv", "", t.TempDir())
		if err != nil {
			t.Fatal(err)
		}
		var got [][]string
		shape := Shape{Form: Separated, Comma: c.Comma, Encoding: UTF8}
		err = f.Each(context.Background(), shape, func(_ int, cells []string) error {
			got = append(got, slices.Clone(cells))
			return nil
		}, func(p LineProblem) error { t.Errorf("table %d: %+v", i, p); return nil })
		if f.Close(); err != nil || !reflect.DeepEqual(got, c.Cells) {
			t.Errorf("table %d, %v: %q\nis read as %q\nand not   %q", i, err, c.Text, got, c.Cells)
		}
	}
}

// TestSpreadsheetsOfOthers: what LibreOffice 25.2 and exceljs (npm) write is read; the files were written by them for
// this test. OpenDocument is refused with what to do.
func TestSpreadsheetsOfOthers(t *testing.T) {
	for name, want := range map[string]string{
		"libreoffice.xlsx": "moon map for walls 1900 0.35 EUR | münchen sternwarte 90 1.20 EUR",
		"exceljs.xlsx":     "moon map for walls 1900 0.35 USD | star wheel 2 1.20 USD",
	} {
		sheet := ""
		if name == "exceljs.xlsx" {
			sheet = "Keywords"
		}
		f, err := Open(filepath.Join("testdata", name), name, sheet, t.TempDir())
		if err != nil {
			t.Fatal(err)
		}
		s, err := f.Recognise()
		var got []string
		if err == nil {
			err = f.Ideas(context.Background(), s, "USD", func(i Idea) error { got = append(got, said(i)); return nil },
				func(p LineProblem) error { t.Errorf("%s: %+v", name, p); return nil })
		}
		if strings.Join(got, " | ") != want || err != nil {
			t.Errorf("%s: %q, %v, %+v", name, got, err, s)
		}
		f.Close()
	}
	if _, err := Open("testdata/libreoffice.ods", "libreoffice.ods", "", t.TempDir()); !errors.Is(err, ErrODS) {
		t.Errorf("OpenDocument: %v", err)
	}
}
