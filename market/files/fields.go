package files

import (
	"regexp"
	"strconv"
	"strings"
	"time"
	"unicode"

	"cleverniche/core/demand"
	"cleverniche/core/sieve"
)

// Field is what a column is taken for.
type Field string

// The fields.
const (
	None        Field = "" // not decided: it is no table of phrases without one that is
	Ignore      Field = "leave out"
	Phrase      Field = "phrase"
	Searches    Field = "searches"
	SearchRange Field = "range of searches"
	CPC         Field = "cost per click"
	Currency    Field = "currency"
	BidLow      Field = "lowest bid"
	BidHigh     Field = "highest bid"
	Competition Field = "ad competition"
	Month       Field = "searches of a month"
	Note        Field = "note"
	Label       Field = "label"
	Decision    Field = "decision"
	Season      Field = "season"
	Trend       Field = "trend"
	Floor       Field = "under floor"
	Position    Field = "position"
	URL         Field = "URL"
	Title       Field = "title"
	Clicks      Field = "clicks"
	Visits      Field = "visits"
	Impressions Field = "impressions"
	CTR         Field = "click-through rate"
	From        Field = "linking page"
	To          Field = "linked page"
	Anchor      Field = "anchor text"
	Rel         Field = "rel"
	Site        Field = "site"
	Rank        Field = "rank of a site"
)

// Offered are the fields that somebody may set a column to: all there are, since what a column is read as must be among
// them.
var Offered = []Field{Phrase, Searches, CPC, Currency, BidLow, BidHigh, Competition, Month, Note, Label, Position, URL,
	Title, Clicks, Visits, Impressions, CTR, From, To, Anchor, Rel, Site, Rank, SearchRange, Floor, Decision, Season,
	Trend,
	Ignore}

// headings are the names that columns of others have, in normal form, by what they hold; common practice of tools, of
// search engines' reports in their languages, no single source.
var headings = func() map[string]Field {
	out := map[string]Field{}
	for field, names := range map[Field]string{
		Phrase: "phrase|keyword|keywords|keyword phrase|key phrase|keyphrase|search term|search terms|search query|" +
			"search queries|query|queries|top queries|term|idea|ideas|lead|suchbegriff|suchbegriffe|suchanfrage|suchanfragen|" +
			"häufigste suchanfragen|suchwort|schlüsselwort|mot clé|mots clés|mot cle|requête|requêtes|" +
			"requêtes les plus fréquentes|palabra clave|palabras clave|consulta|consultas|consultas principales|" +
			"término de búsqueda|parola chiave|parole chiave|query di ricerca|zoekwoord|zoekterm|zoekopdracht|palavra chave|" +
			"palavras chave|termo de pesquisa|słowo kluczowe|" +
			"zapytanie|sökord|søgeord|hakusana|ключевое слово|запрос",
		Searches: "searches|search volume|volume|avg monthly searches|average monthly searches|avg searches|" +
			"monthly searches|" +
			"monthly search volume|searches a month|searches per month|searches mo|global volume|local volume|suchvolumen|" +
			"durchschn suchanfragen pro monat|durchschnittliche suchanfragen pro monat|suchanfragen pro monat|" +
			"volume de recherche|recherches mensuelles|rech mensuelles moy|volumen de búsqueda|volumen|" +
			"promedio de búsquedas mensuales|volume di ricerca|media ricerche mensili|zoekvolume|" +
			"gem aantal zoekopdrachten per maand|volume de pesquisa|média de pesquisas mensais|liczba wyszukiwań",
		SearchRange: "searches range",
		CPC: "cpc|cost per click|avg cpc|average cpc|click price|suggested bid|klickpreis|kosten pro klick|coût par clic|" +
			"coste por clic|costo per clic|kosten per klik|custo por clique",
		Currency: "currency|currency code|währung|währungscode|devise|moneda|valuta|moeda",
		BidLow: "top of page bid low range|bid low|low bid|low top of page bid|" +
			"gebot für obere positionen niedriger bereich|enchère de haut de page fourchette basse",
		BidHigh: "top of page bid high range|bid high|high bid|high top of page bid|" +
			"gebot für obere positionen oberer bereich|enchère de haut de page fourchette haute",
		Competition: "competition|competition indexed value|competition index|ad competition|competitive density|" +
			"wettbewerb|" +
			"wettbewerb indexierter wert|concurrence|competencia|concorrenza|concurrentie|concorrência",
		Decision: "decision", Label: "label|labels|tag|tags|group|ad group|anzeigengruppe", Season: "season", Trend: "trend",
		Floor: "under floor", Note: "note|notes|comment|comments|notiz|remarque|nota|difficulty|keyword difficulty|kd|" +
			"seo difficulty|schwierigkeit",
		Position: "position|avg position|average position|rank|ranking|place|durchschnittliche position|posición|" +
			"posizione|" +
			"positie|posição|pos",
		URL: "url|page|pages|top pages|address|landing page|ranking url|current url|seite|seiten|die häufigsten seiten|" +
			"adresse|página|páginas principales|pagina|adres",
		Title:       "title|page title|titel|titre|título|titolo",
		Visits:      "visits|traffic|est traffic|estimated traffic|estimated visits|organic traffic|besuche|tráfico|trafic",
		Clicks:      "clicks|klicks|clics|clic|klikken|cliques|kliknięcia",
		Impressions: "impressions|impressionen|impresiones|impressioni|vertoningen|impressões|wyświetlenia",
		CTR:         "ctr|click through rate|klickrate",
		From: "from|from url|source url|source|linking page|referring page|referring page url|link from|verlinkende seite|" +
			"external page",
		To:     "to|to url|target|target url|target page|link to|linked page|zielseite|destination",
		Anchor: "anchor|anchor text|link text|linktext|ankertext", Rel: "rel|link type|nofollow",
		Site: "host|hostname|domain|host rev|reversed host|site", Rank: "harmonic centrality|harmonicc pos|harmonicc val|" +
			"pagerank|pr pos|pr val|centrality",
	} {
		for _, name := range strings.Split(names, "|") {
			out[name] = field
		}
	}
	return out
}()

// ours are columns of this application's own exports, of ideas and of topics.
var ours = func() map[string]bool {
	out := map[string]bool{}
	for _, name := range strings.Split("topic|phrases|other phrases|worth least|worth most|publish by|hub|my pages|"+
		"by hand|state|hours|begin|ready|kind of article", "|") {
		out[name] = true
	}
	for _, f := range sieve.Figures() {
		if f.Export {
			out[normalHeading(f.Name)] = true
		}
	}
	return out
}()

// inBrackets is what a heading says of units: "CPC (USD)".
var inBrackets = regexp.MustCompile(`[(\[]([^)\]]*)[)\]]`)

// normalHeading is a heading without signs, capitals and brackets.
func normalHeading(s string) string {
	s = inBrackets.ReplaceAllString(strings.ToLower(s), " ")
	sign := func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) }
	return strings.Join(strings.FieldsFunc(s, sign), " ")
}

// monthNames are the beginnings of names of months in the languages of search engines' reports.
var monthNames = func() map[string]time.Month {
	out := map[string]time.Month{}
	for _, names := range []string{
		"jan feb mar apr may jun jul aug sep oct nov dec",
		"januar februar märz april mai juni juli august september oktober november dezember",
		"january february march april may june july august september october november december",
		"janv févr mars avr mai juin juil août sept oct nov déc",
		"janvier février mars avril mai juin juillet août septembre octobre novembre décembre",
		"ene feb mar abr may jun jul ago sep oct nov dic",
		"enero febrero marzo abril mayo junio julio agosto septiembre octubre noviembre diciembre",
		"gen feb mar apr mag giu lug ago set ott nov dic",
		"gennaio febbraio marzo aprile maggio giugno luglio agosto settembre ottobre novembre dicembre",
		"jan feb mrt apr mei jun jul aug sep okt nov dec",
		"januari februari maart april mei juni juli augustus september oktober november december",
		"jan fev mar abr mai jun jul ago set out nov dez",
		"janeiro fevereiro março abril maio junho julho agosto setembro outubro novembro dezembro",
		"jan feb mär apr mai jun jul aug sep okt nov dez", "jan feb mrz apr mai jun jul aug sept okt nov dez",
	} {
		for i, name := range strings.Fields(names) {
			out[name] = time.Month(i + 1)
		}
	}
	return out
}()

var (
	yearRE      = regexp.MustCompile(`\b(19|20)\d\d\b`)
	yearMonthRE = regexp.MustCompile(`\b((?:19|20)\d\d)[-/. ](0?[1-9]|1[0-2])\b`)
	monthYearRE = regexp.MustCompile(`\b(0?[1-9]|1[0-2])[-/. ]((?:19|20)\d\d)\b`)
)

// MonthIn reads a heading that names a month: "Jan 2025", "2025-01", "Searches: Jan 2025".
func MonthIn(heading string) (demand.Month, bool) {
	text := strings.ToLower(heading)
	of := func(year, month string) (demand.Month, bool) {
		y, _ := strconv.Atoi(year)
		m, _ := strconv.Atoi(month)
		return demand.MonthOf(time.Date(y, time.Month(m), 1, 0, 0, 0, 0, time.UTC)), true
	}
	if m := yearMonthRE.FindStringSubmatch(text); m != nil {
		return of(m[1], m[2])
	}
	if m := monthYearRE.FindStringSubmatch(text); m != nil {
		return of(m[2], m[1])
	}
	year := yearRE.FindString(text)
	if year == "" {
		return 0, false
	}
	for _, word := range strings.FieldsFunc(text, func(r rune) bool { return !unicode.IsLetter(r) }) {
		if m, is := monthNames[word]; is {
			return of(year, strconv.Itoa(int(m)))
		}
	}
	return 0, false
}

// Column is how a column is read.
type Column struct {
	Heading  string
	Field    Field
	Month    demand.Month `json:",omitzero"` // of Month
	Currency string       `json:",omitempty"`
	Decimal  string       `json:",omitempty"` // the mark before decimals, "." or ","
	Doubtful bool         `json:",omitempty"` // no cell tells which
	Ours     bool         `json:",omitempty"` // computed anew
}

// Named reports whether its heading names a month.
func (c Column) Named() bool { return c.Month != 0 }

// columnOf tells what a heading names.
func columnOf(heading string) Column {
	c := Column{Heading: strings.TrimSpace(heading)}
	name := normalHeading(heading)
	if month, is := MonthIn(heading); is {
		c.Field, c.Month = Month, month
		return c
	}
	c.Field = headings[name]
	for _, m := range inBrackets.FindAllStringSubmatch(heading, -1) {
		if unit := strings.TrimSpace(m[1]); isCode(unit) && c.Field == CPC || isCode(unit) && (c.Field == BidLow ||
			c.Field == BidHigh) {
			c.Currency = strings.ToUpper(unit)
		}
	}
	return c
}

// columnsOf tells what headings name: of several that name the same the first does, the others are notes.
func columnsOf(cells []string) []Column {
	out := make([]Column, len(cells))
	seen := map[Field]bool{}
	own := false
	for i, cell := range cells {
		out[i] = columnOf(cell)
		own = own || normalHeading(cell) == "page one chance"
		if f := out[i].Field; f != None && f != Month && f != Note && f != Ignore && f != Label {
			if seen[f] {
				out[i].Field = None
			}
			seen[f] = true
		}
	}
	for i := range out {
		name := normalHeading(out[i].Heading)
		if own && ours[name] && (out[i].Field == None || name == "difficulty" || out[i].Field == URL) {
			out[i].Field, out[i].Ours = Ignore, true // it is computed anew
		}
		if out[i].Field == None {
			out[i].Field = Note
			if out[i].Heading == "" {
				out[i].Field = Ignore
			}
		}
	}
	return out
}

// known is how many of the cells of a row name something, and whether one names what a file is about.
func known(cells []string) (n int, main bool) {
	from, to := false, false
	for _, cell := range cells {
		c := columnOf(cell)
		if c.Field != None {
			n++
		}
		switch c.Field {
		case Phrase, Clicks, Rank:
			main = true
		case From:
			from = true
		case To:
			to = true
		}
	}
	return n, main || from && to
}
