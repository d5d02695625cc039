package frame

import (
	"html/template"
	"strings"
	"testing"
)

// TestLeanTemplatesSayTheSame: what is left out of a template is white space where there is some already.
func TestLeanTemplatesSayTheSame(t *testing.T) {
	for _, text := range []string{
		"<p>a\n  {{if .Yes}}\n    b\n  {{end}}\n  c</p>\n",
		"<p>a\n  {{if .No}}\n    b\n  {{else}}\n    d\n  {{end}}\n  c</p>\n",
		"<b>a</b>\n  {{- if .No}}\n    <i>b</i>\n  {{end}}\n  · c\n",
		"<b>a</b>\n  {{- if .Yes}}\n    <i>b</i>\n  {{- else}}\n    e\n  {{end}}\n  · c\n",
		"{{range .List}}\n  {{if .}}\n    <li>{{.}}</li>\n  {{end}}\n{{end}}\n<p>x\n  {{with $.Yes}}y{{end}}\n  z\n",
		"a {{if .Yes}}\n b\n {{end}}\n c\n",
	} {
		says := func(text string) string {
			var out strings.Builder
			err := template.Must(template.New("x").Parse(text)).Execute(&out,
				map[string]any{"Yes": true, "No": false, "List": []bool{true, false, true}})
			if err != nil {
				t.Fatal(err)
			}
			return strings.Join(strings.Fields(out.String()), " ")
		}
		if lean := string(leaned([]byte(text))); says(lean) != says(text) || strings.Contains(lean, "  ") {
			t.Errorf("%q becomes %q, and says %q for %q", text, lean, says(lean), says(text))
		}
	}
}
