package frame

import (
	"bytes"
	"io"
	"io/fs"
	"path"
	"regexp"
)

// block is a line with nothing but where a block begins, goes on or ends.
var block = regexp.MustCompile(`^\{\{-? ?(if|else|end|range|with)[^}]*\}\}\n$`)

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
	var out bytes.Buffer
	for line := range bytes.Lines(data) {
		line = bytes.TrimLeft(line, " ")
		if block.Match(line) { // white space is there already, before it
			line = bytes.TrimRight(line, "\n")
		}
		out.Write(line)
	}
	info, err := f.Stat()
	if err != nil {
		return nil, err
	}
	return &lean{info, bytes.NewReader(out.Bytes())}, nil
}

// lean is an open file of such a template.
type lean struct {
	fs.FileInfo
	*bytes.Reader
}

func (l *lean) Stat() (fs.FileInfo, error) { return l, nil }
func (l *lean) Size() int64                { return l.Reader.Size() }
func (l *lean) Close() error               { return nil }
