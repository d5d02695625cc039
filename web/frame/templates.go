package frame

import (
	"bytes"
	"io"
	"io/fs"
	"path"
	"regexp"
)

// Where a block begins or ends, and a line with nothing but that, or with where one goes on.
var (
	begins = regexp.MustCompile(`\{\{-? ?(if|range|with|block|define)\b`)
	ends   = regexp.MustCompile(`\{\{-? ?end\b`)
	block  = regexp.MustCompile(`^\{\{ ?(if|else|end|range|with)\b[^}]*[^-]\}\}\n$`)
)

// leaned is a template without the white space that its lines begin with, and without the ends of lines that have only
// a block's beginning or end on them: there is an end of a line before it. Blocks that trim theirs are left as they
// are.
func leaned(data []byte) []byte {
	var out bytes.Buffer
	var plain []bool // of the blocks that are open, whether they stand on lines of their own
	for line := range bytes.Lines(data) {
		line = bytes.TrimLeft(line, " ")
		alone := block.Match(line) && (bytes.HasSuffix(out.Bytes(), []byte("\n")) ||
			bytes.HasSuffix(out.Bytes(), []byte("}}")))
		n := len(begins.FindAll(line, -1)) - len(ends.FindAll(line, -1))
		if alone && n <= 0 { // it goes on, or ends
			alone = len(plain) > 0 && plain[len(plain)-1]
		}
		for ; n > 0; n-- {
			plain = append(plain, alone)
		}
		if n < 0 {
			plain = plain[:max(0, len(plain)+n)]
		}
		if alone {
			line = bytes.TrimRight(line, "\n")
		}
		out.Write(line)
	}
	return out.Bytes()
}

// Templates are files of which templates come without the white space that their lines begin with: it is for who reads
// them, and would be sent with every row of a list.
type Templates struct{ fs.FS }

// Open opens a file.
func (t Templates) Open(name string) (fs.File, error) {
	f, err := t.FS.Open(name)
	if err != nil || path.Ext(name) != ".html" {
		return f, err
	}
	defer f.Close()
	data, err := io.ReadAll(f)
	if err != nil {
		return nil, err
	}
	data = leaned(data)
	info, err := f.Stat()
	if err != nil {
		return nil, err
	}
	return &lean{info, bytes.NewReader(data)}, nil
}

// lean is an open file of such a template.
type lean struct {
	fs.FileInfo
	*bytes.Reader
}

func (l *lean) Stat() (fs.FileInfo, error) { return l, nil }
func (l *lean) Size() int64                { return l.Reader.Size() }
func (l *lean) Close() error               { return nil }
