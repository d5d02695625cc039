package briefs

import (
	"archive/zip"
	"encoding/xml"
	"fmt"
	"io"
	"regexp"
	"strings"
	"time"
)

// A brief as Office Open XML (ECMA-376, transitional): the least that word processors need, with the styles that they
// know by name, so that whoever opens it may give it their own look.

const (
	wordXML  = "http://schemas.openxmlformats.org/wordprocessingml/2006/main"
	relXML   = "http://schemas.openxmlformats.org/officeDocument/2006/relationships"
	packXML  = "http://schemas.openxmlformats.org/package/2006/"
	wordType = "application/vnd.openxmlformats-officedocument.wordprocessingml."
	xmlHead  = `<?xml version="1.0" encoding="UTF-8" standalone="yes"?>` + "\n"
)

// docxParts are those that are the same in all documents.
var docxParts = []struct{ name, text string }{
	{"[Content_Types].xml", `<Types xmlns="` + packXML + `content-types">` +
		`<Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/>` +
		`<Default Extension="xml" ContentType="application/xml"/>` +
		`<Override PartName="/word/document.xml" ContentType="` + wordType + `document.main+xml"/>` +
		`<Override PartName="/word/styles.xml" ContentType="` + wordType + `styles+xml"/>` +
		`<Override PartName="/word/numbering.xml" ContentType="` + wordType + `numbering+xml"/>` +
		`<Override PartName="/docProps/core.xml" ContentType="application/vnd.openxmlformats-package.core-properties+xml"/>` +
		`</Types>`},
	{"_rels/.rels", `<Relationships xmlns="` + packXML + `relationships">` +
		`<Relationship Id="document" Type="` + relXML + `/officeDocument" Target="word/document.xml"/>` +
		`<Relationship Id="core" Type="` + packXML + `relationships/metadata/core-properties" Target="docProps/core.xml"/>` +
		`</Relationships>`},
	{"word/numbering.xml", `<w:numbering xmlns:w="` + wordXML + `"><w:abstractNum w:abstractNumId="0">` +
		`<w:multiLevelType w:val="hybridMultilevel"/><w:lvl w:ilvl="0"><w:start w:val="1"/><w:numFmt w:val="bullet"/>` +
		`<w:pStyle w:val="ListBullet"/><w:lvlText w:val="•"/><w:lvlJc w:val="left"/>` +
		`<w:pPr><w:ind w:left="360" w:hanging="360"/></w:pPr></w:lvl></w:abstractNum>` +
		`<w:num w:numId="1"><w:abstractNumId w:val="0"/></w:num></w:numbering>`},
}

// docxStyles are the styles, in a language; names are those that word processors know (ECMA-376, 17.7.4.9).
func docxStyles(lang string) string {
	style := func(id, name, paragraph, run string) string {
		is, based := ``, `<w:basedOn w:val="Normal"/>`
		if id == "Normal" {
			is, based = ` w:default="1"`, ``
		}
		return `<w:style w:type="paragraph"` + is + ` w:styleId="` + id +
			`"><w:name w:val="` + name + `"/>` + based + `<w:qFormat/><w:pPr>` + paragraph + `</w:pPr><w:rPr>` + run +
			`</w:rPr></w:style>`
	}
	return `<w:styles xmlns:w="` + wordXML + `"><w:docDefaults><w:rPrDefault><w:rPr><w:sz w:val="22"/><w:lang w:val="` +
		escaped(lang) + `"/></w:rPr></w:rPrDefault></w:docDefaults>` +
		style("Normal", "Normal", `<w:spacing w:after="120"/>`, "") +
		style("Title", "Title", `<w:spacing w:after="200"/>`, `<w:b/><w:sz w:val="40"/>`) +
		style("Heading1", "heading 1", `<w:keepNext/><w:spacing w:before="240" w:after="80"/><w:outlineLvl w:val="0"/>`,
			`<w:b/><w:sz w:val="28"/>`) +
		style("ListBullet", "List Bullet", `<w:numPr><w:numId w:val="1"/></w:numPr><w:spacing w:after="60"/>`, "") +
		`<w:style w:type="character" w:styleId="Hyperlink"><w:name w:val="Hyperlink"/>` +
		`<w:rPr><w:color w:val="0B5C63"/><w:u w:val="single"/></w:rPr></w:style></w:styles>`
}

// escaped is a text as XML has it, without what it cannot hold.
func escaped(text string) string {
	var out strings.Builder
	xml.EscapeText(&out, []byte(PlainText(text))) // a builder fails never
	return out.String()
}

// docxBody is a document's text as it grows, with the addresses it links to.
type docxBody struct {
	text  strings.Builder
	links []string
}

var address = regexp.MustCompile(`https?://[^\s<>"“”]+[^\s<>"“”.,;:!?)]`)

// paragraph adds a paragraph of a style. Addresses in it become links.
func (d *docxBody) paragraph(style, text string) {
	run := func(text, look string) {
		if text != "" {
			fmt.Fprintf(&d.text, `<w:r>%s<w:t xml:space="preserve">%s</w:t></w:r>`, look, escaped(text))
		}
	}
	fmt.Fprintf(&d.text, `<w:p><w:pPr><w:pStyle w:val="%s"/></w:pPr>`, style)
	from := 0
	for _, at := range address.FindAllStringIndex(text, -1) {
		run(text[from:at[0]], "")
		d.links = append(d.links, text[at[0]:at[1]])
		fmt.Fprintf(&d.text, `<w:hyperlink r:id="link%d">`, len(d.links))
		run(text[at[0]:at[1]], `<w:rPr><w:rStyle w:val="Hyperlink"/></w:rPr>`)
		d.text.WriteString(`</w:hyperlink>`)
		from = at[1]
	}
	run(text[from:], "")
	d.text.WriteString(`</w:p>`)
}

func (d *docxBody) list(lines []string) {
	for _, l := range lines {
		d.paragraph("ListBullet", l)
	}
}

// document is the part with the text, relations the one with what it names.
func (d *docxBody) document() string {
	return `<w:document xmlns:w="` + wordXML + `" xmlns:r="` + relXML + `"><w:body>` + d.text.String() +
		`<w:sectPr/></w:body></w:document>`
}

func (d *docxBody) relations() string {
	out := `<Relationships xmlns="` + packXML + `relationships">` +
		`<Relationship Id="styles" Type="` + relXML + `/styles" Target="styles.xml"/>` +
		`<Relationship Id="numbering" Type="` + relXML + `/numbering" Target="numbering.xml"/>`
	for i, link := range d.links {
		out += fmt.Sprintf(`<Relationship Id="link%d" Type="%s/hyperlink" Target="%s" TargetMode="External"/>`, i+1, relXML,
			escaped(link))
	}
	return out + `</Relationships>`
}

// docxCore says what the document is (ECMA-376 part 2, 8.3; Dublin Core).
func docxCore(b Brief) string {
	made := b.Made.UTC().Format("2006-01-02T15:04:05Z")
	return `<cp:coreProperties xmlns:cp="` + packXML + `metadata/core-properties" ` +
		`xmlns:dc="http://purl.org/dc/elements/1.1/" xmlns:dcterms="http://purl.org/dc/terms/" ` +
		`xmlns:xsi="http://www.w3.org/2001/XMLSchema-instance"><dc:title>` + escaped(b.Title) + `</dc:title>` +
		`<dc:creator>Clever Niche</dc:creator><dc:language>` + escaped(b.Lang) + `</dc:language>` +
		`<dcterms:created xsi:type="dcterms:W3CDTF">` + made + `</dcterms:created>` +
		`<dcterms:modified xsi:type="dcterms:W3CDTF">` + made + `</dcterms:modified></cp:coreProperties>`
}

// writeDocx writes Office Open XML.
func writeDocx(w io.Writer, b Brief) error {
	var body docxBody
	body.paragraph("Title", b.Title)
	if others := b.others(); len(others) > 0 {
		body.paragraph("Normal", "Or:")
		body.list(others)
	}
	for _, s := range b.full() {
		body.paragraph("Heading1", s.Name)
		body.list(s.Lines)
	}
	z := zip.NewWriter(w)
	parts := append(docxParts[:len(docxParts):len(docxParts)], []struct{ name, text string }{
		{"docProps/core.xml", docxCore(b)}, {"word/styles.xml", docxStyles(b.Lang)},
		{"word/document.xml", body.document()}, {"word/_rels/document.xml.rels", body.relations()}}...)
	for _, part := range parts {
		if err := entry(z, part.name, b.Made, xmlHead+part.text); err != nil {
			return err
		}
	}
	return z.Close()
}

// entry writes a file of an archive.
func entry(z *zip.Writer, name string, made time.Time, text string) error {
	f, err := z.CreateHeader(&zip.FileHeader{Name: name, Method: zip.Deflate, Modified: made})
	if err != nil {
		return err
	}
	_, err = io.WriteString(f, text)
	return err
}
