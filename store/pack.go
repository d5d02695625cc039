package store

import (
	"bytes"
	"compress/gzip"
	"io"
	"sync"
)

// packers are used again: to make one takes longer than to compress a short answer.
var packers = sync.Pool{New: func() any {
	z, err := gzip.NewWriterLevel(nil, gzip.BestSpeed)
	if err != nil {
		panic(err) // there is that level
	}
	return z
}}

// packed compresses a body, quickly; unpacked gives it back.
func packed(body []byte) ([]byte, error) {
	var b bytes.Buffer
	z := packers.Get().(*gzip.Writer)
	defer packers.Put(z)
	z.Reset(&b)
	if _, err := z.Write(body); err != nil {
		return nil, err
	}
	if err := z.Close(); err != nil {
		return nil, err
	}
	return b.Bytes(), nil
}

func unpacked(body []byte) ([]byte, error) {
	z, err := gzip.NewReader(bytes.NewReader(body))
	if err != nil {
		return nil, err
	}
	return io.ReadAll(z)
}
