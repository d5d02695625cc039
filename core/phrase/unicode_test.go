package phrase

import (
	"bufio"
	"compress/bzip2"
	"errors"
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"

	"golang.org/x/text/unicode/norm"
)

// TestNormalizationOfUnicode runs over Unicode's NormalizationTest.txt 15.0, from
// Debian's unicode-data: all spellings in a row are one character sequence under
// NFKC, so they are one idea.
func TestNormalizationOfUnicode(t *testing.T) {
	f, err := os.Open("/usr/share/unicode/NormalizationTest.txt.bz2")
	if errors.Is(err, fs.ErrNotExist) {
		if os.Getenv("CLEVERNICHE_REFERENCES") == "required" {
			t.Fatal("unicode-data is required here: ", err)
		}
		t.Skip("unicode-data is not here")
	}
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	rows := 0
	lines := bufio.NewScanner(bzip2.NewReader(f))
	for lines.Scan() {
		row, _, _ := strings.Cut(lines.Text(), "#")
		columns := strings.Split(row, ";")
		if len(columns) < 5 {
			continue
		}
		rows++
		nfkc := fromHex(t, columns[3])
		for _, c := range columns[:5] {
			s := fromHex(t, c)
			if norm.NFKC.String(s) != nfkc {
				t.Errorf("NFKC of %q is not %q", s, nfkc)
			}
			if got, want := Normal(s), Normal(nfkc); got != want {
				t.Errorf("%q is normal %q, and its NFKC %q", s, got, want)
			}
			if n := Normal(s); Normal(n) != n {
				t.Errorf("%q is normal %q, and that again %q", s, n, Normal(n))
			}
		}
	}
	if err := lines.Err(); err != nil || rows < 19_000 {
		t.Errorf("%d rows, %v", rows, err)
	}
}

func fromHex(t *testing.T, codes string) string {
	var b strings.Builder
	for _, code := range strings.Fields(codes) {
		n, err := strconv.ParseUint(code, 16, 32)
		if err != nil {
			t.Fatal(err)
		}
		b.WriteRune(rune(n))
	}
	return b.String()
}

// TestWordBreaksOfUnicode runs over Unicode's WordBreakTest, whose vectors the module
// uniseg carries as Go: our words are its segments that hold a letter or a digit.
func TestWordBreaksOfUnicode(t *testing.T) {
	dir, err := exec.Command("go", "list", "-m", "-f", "{{.Dir}}", "github.com/rivo/uniseg").Output()
	if err != nil {
		t.Fatal(err)
	}
	file, err := parser.ParseFile(token.NewFileSet(), filepath.Join(strings.TrimSpace(string(dir)),
		"wordbreak_test.go"), nil, 0)
	if err != nil {
		t.Fatal(err)
	}
	cases := 0
	ast.Inspect(file, func(n ast.Node) bool {
		lit, ok := n.(*ast.CompositeLit)
		if !ok || len(lit.Elts) != 2 {
			return true
		}
		original, ok1 := lit.Elts[0].(*ast.KeyValueExpr)
		expected, ok2 := lit.Elts[1].(*ast.KeyValueExpr)
		if !ok1 || !ok2 {
			return true
		}
		text, err := strconv.Unquote(original.Value.(*ast.BasicLit).Value)
		if err != nil {
			t.Fatal(err)
		}
		cases++
		var want []string
		for _, segment := range expected.Value.(*ast.CompositeLit).Elts {
			var b strings.Builder
			for _, r := range segment.(*ast.CompositeLit).Elts {
				n, err := strconv.ParseInt(r.(*ast.BasicLit).Value, 0, 32)
				if err != nil {
					t.Fatal(err)
				}
				b.WriteRune(rune(n))
			}
			if strings.ContainsFunc(b.String(), wordRune) {
				want = append(want, b.String())
			}
		}
		if got := Words(text); !slices.Equal(got, want) {
			t.Errorf("words of %q: %q, want %q", text, got, want)
		}
		return false
	})
	if cases < 1800 {
		t.Errorf("only %d cases were read", cases)
	}
}
