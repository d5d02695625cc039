// Package files reads lists and tables of others, whatever form they have: text with any separator and encoding,
// spreadsheets, lines or arrays of JSON, archives of these, plain lists, logs of web servers. What a file is, is
// recognised, said, and can be set otherwise; its rows are streamed.
//
// Text is read as RFC 4180 says, with other separators and with quotes that are out of place; a spreadsheet as ECMA-376
// (Office Open XML) by excelize; logs in the combined log format of the Apache HTTP Server's documentation; gzip and
// ZIP by the standard library.
package files

import (
	"archive/zip"
	"bufio"
	"bytes"
	"compress/gzip"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"github.com/xuri/excelize/v2"
)

// Form is how a file writes its rows.
type Form string

// The forms.
const (
	Separated   Form = "table"       // cells with a separator between them
	Plain       Form = "list"        // one phrase a line
	Spreadsheet Form = "spreadsheet" // XLSX
	JSON        Form = "JSON"        // an array of objects, or one object a line
	Log         Form = "server log"  // combined log format
	Blocks      Form = "addresses"   // a phrase, and under it the addresses of its results, the first first
)

// Bounds of a file.
const (
	MostBytes   = 512 << 20 // as it is
	MostOpened  = 2 << 30   // what an archive may hold
	MostRatio   = 300       // to one: what grows more is no honest archive
	MostRows    = 1_000_000
	MostColumns = 300
	MostCell    = 32 << 10 // bytes
	MostLine    = 1 << 20  // bytes
	sampleBytes = 256 << 10
	sampleRows  = 200
)

// Refusals of whole files.
var (
	ErrEmpty     = errors.New("the file is empty")
	ErrBinary    = errors.New("the file is neither text nor a spreadsheet nor an archive of these")
	ErrDirectory = errors.New("this is a directory, not a file")
	ErrTooLarge  = fmt.Errorf("the file is larger than %d MB", MostBytes>>20)
	ErrBomb      = errors.New("the archive would unpack to far more than it should")
	ErrODS       = errors.New("this is an OpenDocument spreadsheet. Save it as XLSX or CSV")
	ErrXLS       = errors.New("this is an old Excel file (.xls). Save it as XLSX or CSV")
	ErrLine      = fmt.Errorf("a line is longer than %d KB: line breaks are missing in the file", MostLine>>10)
	ErrRows      = fmt.Errorf("the file has more than %d rows. Split it into several files", MostRows)
	ErrCut       = errors.New("the file ends in the middle: it was cut off, or is still being written")
)

// File is a file that was opened. It reads from disk each time; close it to free what it unpacked.
type File struct {
	path  string // of what is read: the file, or what was unpacked of it
	spool string // to be removed; "" nothing
	Name  string
	Inner []string // files of an archive, or sheets of a spreadsheet
	Took  string   // which of them is read
	form  Form     // Spreadsheet, or "" text
}

// Open opens a file, and of an archive the named part, "" the first that can be read. What it unpacks lies in dir.
func Open(path, name, part, dir string) (*File, error) {
	info, err := os.Stat(path)
	switch {
	case err != nil:
		return nil, err
	case info.IsDir():
		return nil, ErrDirectory
	case info.Size() == 0:
		return nil, ErrEmpty
	case info.Size() > MostBytes:
		return nil, ErrTooLarge
	}
	f := &File{path: path, Name: name}
	if err := f.unpack(part, dir, 0); err != nil {
		return nil, errors.Join(err, f.Close())
	}
	return f, nil
}

// Close removes what was unpacked.
func (f *File) Close() error {
	if f.spool == "" {
		return nil
	}
	return os.Remove(f.spool)
}

// unpack looks into archives: a gzip that holds a ZIP is opened twice, and no deeper.
func (f *File) unpack(part, dir string, depth int) error {
	head, err := headOf(f.path)
	if err != nil {
		return err
	}
	switch {
	case bytes.HasPrefix(head, []byte("\x1f\x8b")):
		if depth > 1 {
			return ErrBomb
		}
		return f.gunzip(part, dir, depth)
	case bytes.HasPrefix(head, []byte("PK\x03\x04")), bytes.HasPrefix(head, []byte("PK\x05\x06")):
		return f.unzip(part, dir, depth)
	case bytes.HasPrefix(head, []byte("\xd0\xcf\x11\xe0")):
		return ErrXLS
	}
	return nil
}

func headOf(path string) ([]byte, error) {
	file, err := os.Open(path)
	if err != nil {
		return nil, err
	}
	defer file.Close()
	head := make([]byte, 8)
	n, err := io.ReadFull(file, head)
	if err != nil && !errors.Is(err, io.ErrUnexpectedEOF) {
		return nil, err
	}
	return head[:n], nil
}

func (f *File) gunzip(part, dir string, depth int) error {
	file, err := os.Open(f.path)
	if err != nil {
		return err
	}
	defer file.Close()
	info, err := file.Stat()
	if err != nil {
		return err
	}
	z, err := gzip.NewReader(bufio.NewReader(file))
	if err != nil {
		return fmt.Errorf("the archive cannot be read: %w", err)
	}
	defer z.Close()
	if err := f.keep(z, dir, info.Size()); err != nil {
		return err
	}
	return f.unpack(part, dir, depth+1)
}

// keep writes what an archive holds beside, and reads that from then on. packed is how large it is in the archive.
func (f *File) keep(r io.Reader, dir string, packed int64) error {
	out, err := os.CreateTemp(dir, "unpacked-*")
	if err != nil {
		return err
	}
	was := f.spool
	f.spool, f.path = out.Name(), out.Name()
	most := min(MostOpened, max(1<<20, packed*MostRatio))
	n, err := io.Copy(out, io.LimitReader(r, most+1))
	err = errors.Join(err, out.Close())
	if was != "" {
		err = errors.Join(err, os.Remove(was))
	}
	switch {
	case errors.Is(err, io.ErrUnexpectedEOF):
		return ErrCut
	case err != nil:
		return fmt.Errorf("the archive cannot be read: %w", err)
	case n > most:
		return ErrBomb
	case n == 0:
		return ErrEmpty
	}
	return nil
}

func (f *File) unzip(part, dir string, depth int) error {
	z, err := zip.OpenReader(f.path)
	if err != nil {
		return fmt.Errorf("the archive cannot be read: %w", err)
	}
	defer z.Close()
	var total uint64
	var names []string
	for _, one := range z.File {
		total += one.UncompressedSize64
		switch {
		case one.Name == "mimetype" || strings.HasSuffix(one.Name, "content.xml"):
			if one.Name == "content.xml" {
				return ErrODS
			}
		case one.Name == "xl/workbook.xml":
			return f.openSheet(z, part)
		case !one.FileInfo().IsDir() && !strings.HasPrefix(filepath.Base(one.Name), ".") &&
			!strings.HasPrefix(one.Name, "__MACOSX/"):
			names = append(names, one.Name)
		}
	}
	info, err := os.Stat(f.path)
	if err != nil {
		return err
	}
	if total > MostOpened || total > uint64(max(1<<20, info.Size()*MostRatio)) {
		return ErrBomb
	}
	if len(names) == 0 {
		return ErrEmpty
	}
	if depth > 1 {
		return ErrBomb
	}
	slices.Sort(names)
	f.Inner = names
	if f.Took = part; !slices.Contains(names, part) {
		f.Took = names[0]
	}
	for _, one := range z.File {
		if one.Name != f.Took {
			continue
		}
		r, err := one.Open()
		if err != nil {
			return fmt.Errorf("the archive cannot be read: %w", err)
		}
		defer r.Close()
		if err := f.keep(r, dir, int64(one.CompressedSize64)); err != nil {
			return err
		}
		return f.unpack("", dir, depth+1)
	}
	return ErrEmpty
}

// openSheet lists the sheets of a spreadsheet.
func (f *File) openSheet(z *zip.ReadCloser, part string) error {
	var total uint64
	for _, one := range z.File {
		if total += one.UncompressedSize64; one.UncompressedSize64 > max(1<<22, one.CompressedSize64*MostRatio) {
			return ErrBomb
		}
	}
	if total > MostOpened {
		return ErrBomb
	}
	book, err := openBook(f.path)
	if err != nil {
		return err
	}
	defer book.Close()
	f.form, f.Inner = Spreadsheet, book.GetSheetList()
	if len(f.Inner) == 0 {
		return ErrEmpty
	}
	if f.Took = part; !slices.Contains(f.Inner, part) {
		f.Took = f.Inner[0]
	}
	return nil
}

func openBook(path string) (*excelize.File, error) {
	book, err := excelize.OpenFile(path, excelize.Options{UnzipSizeLimit: MostOpened, UnzipXMLSizeLimit: 16 << 20})
	if err != nil {
		return nil, fmt.Errorf("the spreadsheet cannot be read: %w", err)
	}
	return book, nil
}
