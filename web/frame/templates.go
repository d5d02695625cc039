package frame

import (
	"bytes"
	"io"
	"io/fs"
	"path"
)

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
	lines := bytes.Split(data, []byte("\n"))
	for i, line := range lines {
		lines[i] = bytes.TrimLeft(line, " ")
	}
	info, err := f.Stat()
	if err != nil {
		return nil, err
	}
	return &lean{info, bytes.NewReader(bytes.Join(lines, []byte("\n")))}, nil
}

// lean is an open file of such a template.
type lean struct {
	fs.FileInfo
	*bytes.Reader
}

func (l *lean) Stat() (fs.FileInfo, error) { return l, nil }
func (l *lean) Size() int64                { return l.Reader.Size() }
func (l *lean) Close() error               { return nil }
