package briefs

import (
	"archive/zip"
	"fmt"
	"html/template"
	"io"
	"strings"
	"unicode"
)

// Paper is a way to write a brief for somebody else.
type Paper struct {
	Name  string // in addresses; also the file's ending
	Media string
	Write func(w io.Writer, b Brief) error
}

// Papers are the ways there are.
func Papers() []Paper {
	return []Paper{
		{"md", "text/markdown; charset=utf-8", writeMarkdown},
		{"html", "text/html; charset=utf-8", writeHTML},
		{"docx", "application/vnd.openxmlformats-officedocument.wordprocessingml.document", writeDocx},
	}
}

// full are the sections that say something, the title apart.
func (b Brief) full() (out []Section) {
	for _, s := range b.Sections {
		if len(s.Lines) > 0 && s.Key != sectionTitle {
			out = append(out, s)
		}
	}
	return out
}

// others are further proposals for the title.
func (b Brief) others() []string {
	for _, s := range b.Sections {
		if s.Key == sectionTitle && len(s.Lines) > 1 {
			return s.Lines[1:]
		}
	}
	return nil
}

// FileName is a name for the brief's file, without its ending.
func (b Brief) FileName() string { return FileName(b.Article.Name) }

// FileName makes a name of letters, digits and hyphens of any text.
func FileName(text string) string {
	var out strings.Builder
	for _, r := range strings.ToLower(text) {
		switch {
		case unicode.IsLetter(r) || unicode.IsDigit(r):
			out.WriteRune(r)
		case out.Len() > 0 && !strings.HasSuffix(out.String(), "-"):
			out.WriteByte('-')
		}
	}
	name := []rune(strings.Trim(out.String(), "-"))
	if len(name) == 0 {
		return "article"
	}
	return strings.TrimRight(string(name[:min(len(name), 60)]), "-")
}

// escapeMarkdown keeps a line a line: what CommonMark would take for markup is told apart by a backslash.
func escapeMarkdown(line string) string {
	var out strings.Builder
	for i, r := range line {
		switch {
		case strings.ContainsRune("\\`*_[]<>|&", r), i == 0 && strings.ContainsRune("#+-=~!", r):
			out.WriteByte('\\')
		case r == '.' || r == ')': // a number that begins a line begins a list
			if strings.Trim(line[:i], "0123456789") == "" && i > 0 {
				out.WriteByte('\\')
			}
		}
		out.WriteRune(r)
	}
	return out.String()
}

func writeMarkdown(w io.Writer, b Brief) error {
	var out strings.Builder
	fmt.Fprintf(&out, "# %s\n", escapeMarkdown(b.Title))
	if others := b.others(); len(others) > 0 {
		out.WriteString("\nOr:\n\n")
		for _, o := range others {
			fmt.Fprintf(&out, "- %s\n", escapeMarkdown(o))
		}
	}
	for _, s := range b.full() {
		fmt.Fprintf(&out, "\n## %s\n\n", escapeMarkdown(s.Name))
		for _, l := range s.Lines {
			fmt.Fprintf(&out, "- %s\n", escapeMarkdown(l))
		}
	}
	_, err := io.WriteString(w, out.String())
	return err
}

var briefPage = template.Must(template.New("brief").Parse(`<!doctype html>
<html lang="{{.Lang}}">
<meta charset="utf-8">
<title>{{.Title}}</title>
<h1>{{.Title}}</h1>
{{with .Others}}<p>Or:</p>
<ul>{{range .}}
<li>{{.}}</li>{{end}}
</ul>
{{end}}{{range .Sections}}<h2>{{.Name}}</h2>
<ul>{{range .Lines}}
<li>{{.}}</li>{{end}}
</ul>
{{end}}</html>
`))

func writeHTML(w io.Writer, b Brief) error {
	return briefPage.Execute(w, map[string]any{"Lang": b.Lang, "Title": b.Title, "Others": b.others(),
		"Sections": b.full()})
}

// PlainText leaves out what XML 1.0 does not allow; lines end with LF.
func PlainText(s string) string {
	s = strings.NewReplacer("\r\n", "\n", "\r", "\n").Replace(s)
	return strings.Map(func(r rune) rune {
		if r < 0x20 && r != '\t' && r != '\n' || r == 0xFFFE || r == 0xFFFF || unicode.Is(unicode.Cs, r) {
			return -1
		}
		return r
	}, s)
}

// WriteBriefs writes all briefs as Markdown in a ZIP file.
func WriteBriefs(w io.Writer, list []Brief) error {
	z := zip.NewWriter(w)
	used := map[string]int{}
	for _, b := range list {
		name := b.FileName()
		if used[name]++; used[name] > 1 {
			name = fmt.Sprint(name, "-", used[name])
		}
		var text strings.Builder
		err := writeMarkdown(&text, b)
		if err == nil {
			err = entry(z, name+".md", b.Made, text.String())
		}
		if err != nil {
			return err
		}
	}
	return z.Close()
}
