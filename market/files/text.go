package files

import (
	"bufio"
	"bytes"
	"errors"
	"io"
	"os"
	"slices"
	"strings"
	"unicode/utf8"

	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"
	"golang.org/x/text/transform"
)

// Encoding is how a text is written in bytes.
type Encoding string

// The encodings. Windows-1252 is taken for what is no UTF-8, as the WHATWG's encoding standard takes it for Latin text.
const (
	UTF8    Encoding = "UTF-8"
	UTF16LE Encoding = "UTF-16, little-endian"
	UTF16BE Encoding = "UTF-16, big-endian"
	Western Encoding = "Windows-1252"
)

// Encodings lists them.
var Encodings = []Encoding{UTF8, Western, UTF16LE, UTF16BE}

func (e Encoding) decoder() *encoding.Decoder {
	switch e {
	case UTF16LE:
		return unicode.UTF16(unicode.LittleEndian, unicode.UseBOM).NewDecoder()
	case UTF16BE:
		return unicode.UTF16(unicode.BigEndian, unicode.UseBOM).NewDecoder()
	case Western:
		return charmap.Windows1252.NewDecoder()
	}
	return unicode.UTF8BOM.NewDecoder()
}

// encodingOf tells a text's encoding: by its mark, by zero bytes in every other place, and else by whether all of it is
// UTF-8. A text in which most of what is no ASCII is UTF-8 is that, with faults.
func encodingOf(path string) (Encoding, error) {
	file, err := os.Open(path)
	if err != nil {
		return "", err
	}
	defer file.Close()
	r := bufio.NewReaderSize(file, 1<<20)
	head, err := r.Peek(4096)
	if len(head) == 0 {
		return "", errors.Join(ErrEmpty, ignoreEOF(err))
	}
	switch {
	case bytes.HasPrefix(head, []byte("\xff\xfe")):
		return UTF16LE, nil
	case bytes.HasPrefix(head, []byte("\xfe\xff")):
		return UTF16BE, nil
	case bytes.HasPrefix(head, []byte("\xef\xbb\xbf")):
		return UTF8, nil
	}
	var zeros [2]int
	control := 0
	for i, b := range head {
		switch {
		case b == 0:
			zeros[i%2]++
		case b < ' ' && b != '\n' && b != '\r' && b != '\t' && b != '\f' && b != 0x1b:
			control++
		}
	}
	switch half := len(head) / 2; {
	case zeros[1] > half/2 && zeros[0] == 0:
		return UTF16LE, nil
	case zeros[0] > half/2 && zeros[1] == 0:
		return UTF16BE, nil
	case zeros[0]+zeros[1] > 0 && zeros[0]+zeros[1] > len(head)/100+2, control > len(head)/20:
		return "", ErrBinary
	}
	good, bad := 0, 0
	var rest []byte
	buffer := make([]byte, 1<<20)
	for {
		n, err := r.Read(buffer)
		chunk := append(rest, buffer[:n]...)
		rest = nil
		for len(chunk) > 0 {
			if chunk[0] < utf8.RuneSelf {
				chunk = chunk[1:]
				continue
			}
			if !utf8.FullRune(chunk) && err == nil {
				rest = slices.Clone(chunk)
				break
			}
			c, size := utf8.DecodeRune(chunk)
			if c == utf8.RuneError && size <= 1 {
				bad++
			} else {
				good++
			}
			chunk = chunk[size:]
		}
		if err != nil {
			if err := ignoreEOF(err); err != nil {
				return "", err
			}
			break
		}
	}
	if bad > 0 && bad*4 >= good {
		return Western, nil
	}
	return UTF8, nil
}

func ignoreEOF(err error) error {
	if errors.Is(err, io.EOF) {
		return nil
	}
	return err
}

// textReader reads a file as UTF-8.
type textReader struct {
	io.Reader
	file *os.File
}

func (r textReader) Close() error { return r.file.Close() }

func openText(path string, e Encoding) (textReader, error) {
	file, err := os.Open(path)
	if err != nil {
		return textReader{}, err
	}
	in := io.Reader(bufio.NewReaderSize(file, 1<<18))
	if e == UTF8 || e == "" {
		b := in.(*bufio.Reader)
		if head, err := b.Peek(3); err == nil && string(head) == "\xef\xbb\xbf" {
			if _, err := b.Discard(3); err != nil {
				return textReader{}, errors.Join(err, file.Close())
			}
		}
	} else {
		in = transform.NewReader(in, e.decoder())
	}
	return textReader{&shortLines{r: in}, file}, nil
}

// shortLines ends with ErrLine at a line that is longer than it may be.
type shortLines struct {
	r   io.Reader
	now int // bytes of the line so far
}

// Read implements io.Reader.
func (s *shortLines) Read(p []byte) (int, error) {
	n, err := s.r.Read(p)
	for _, part := range bytes.SplitAfter(p[:n], []byte("\n")) {
		if s.now += len(part); s.now > MostLine {
			return 0, ErrLine
		}
		if bytes.HasSuffix(part, []byte("\n")) {
			s.now = 0
		}
	}
	return n, err
}

// sampleOf is the beginning of a text, whole lines of it.
func sampleOf(path string, e Encoding) (string, error) {
	r, err := openText(path, e)
	if err != nil {
		return "", err
	}
	defer r.Close()
	data, err := io.ReadAll(io.LimitReader(r, sampleBytes))
	if err != nil {
		return "", err
	}
	text := strings.ToValidUTF8(string(data), "\ufffd")
	if len(data) == sampleBytes {
		if end := strings.LastIndexByte(text, '\n'); end > 0 {
			text = text[:end+1]
		}
	}
	return strings.NewReplacer("\r\n", "\n", "\r", "\n").Replace(text), nil
}
