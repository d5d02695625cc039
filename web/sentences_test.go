package web_test

import (
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"testing"
)

// spoken is what an expression of texts says, with x for each value in it; "" where it is none.
func spoken(e ast.Expr) string {
	switch e := e.(type) {
	case *ast.BasicLit:
		if e.Kind == token.STRING {
			text, _ := strconv.Unquote(e.Value)
			return text
		}
	case *ast.BinaryExpr:
		if e.Op == token.ADD {
			if a, b := spoken(e.X), spoken(e.Y); a != "" || b != "" {
				return either(a) + either(b)
			}
		}
	case *ast.ParenExpr:
		return spoken(e.X)
	}
	return ""
}

func either(said string) string {
	if said == "" {
		return "x"
	}
	return said
}

// TestSentencesOfGoAreShort: what the study, the rules and the commands say to people, by their texts that begin with a
// capital letter and have a few words, can be read at once, too.
func TestSentencesOfGoAreShort(t *testing.T) {
	ends := regexp.MustCompile(`[.:;?!)(](?:\s|$)|\n|·|–`)
	code := regexp.MustCompile(`^(SELECT|UPDATE|INSERT|DELETE|CREATE|ALTER|DROP|BEGIN|PRAGMA|ATTACH|WITH|EXISTS|ORDER)\b`)
	sentences, words := 0, 0
	for _, dir := range []string{"../study", "../core", "../market", "../cmd/cleverniche", "../store", "."} {
		err := filepath.WalkDir(dir, func(path string, d fs.DirEntry, err error) error {
			if err != nil || d.IsDir() || filepath.Ext(path) != ".go" || strings.HasSuffix(path, "_test.go") {
				return err
			}
			file, err := parser.ParseFile(token.NewFileSet(), path, nil, parser.SkipObjectResolution)
			if err != nil {
				return err
			}
			ast.Inspect(file, func(n ast.Node) bool {
				e, is := n.(ast.Expr)
				if !is {
					return true
				}
				text := strings.TrimSpace(spoken(e))
				if text == "" {
					return true
				}
				if first := text[0]; first < 'A' || first > 'Z' || code.MatchString(text) {
					return false
				}
				for _, s := range ends.Split(text, -1) {
					k := len(strings.Fields(s))
					if k < 3 {
						continue
					}
					sentences, words = sentences+1, words+k
					if k > mostSentence {
						t.Errorf("%s: %d words: %s", path, k, s)
					}
				}
				return false
			})
			return nil
		})
		if err != nil {
			t.Fatal(err)
		}
	}
	mean := float64(words) / float64(max(1, sentences))
	t.Logf("%d sentences of %.1f words in the mean", sentences, mean)
	if mean > meanSentence || sentences < 300 {
		t.Errorf("%d sentences of %.1f words in the mean", sentences, mean)
	}
}
