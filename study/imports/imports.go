// Package imports takes in lists and tables of somebody's own: it keeps a file aside until its owner has seen how it is
// understood, and then reads it as a job, slice by slice, so that decisions need not wait. A job that ends in the
// middle goes on where it was; one that is cancelled takes back what it brought.
package imports

import (
	"context"
	"crypto/rand"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"sync"
	"time"

	"cleverniche/core/links"
	"cleverniche/market/files"
	"cleverniche/store"
	"cleverniche/study/ask"
	"cleverniche/study/ideas"
	"cleverniche/study/input"
	"cleverniche/study/jobs"
	"cleverniche/study/niches"
)

// Store is what is asked of the data file.
type Store interface {
	ImportIdeas(ctx context.Context, niche uint, list []store.Arrival, batchName, name string) (store.Import, error)
	Imports(ctx context.Context, niche uint, most int) ([]store.Import, error)
	Listed(ctx context.Context, niche uint, phrases []string) (int, error)
	Mapping(ctx context.Context, key string) (string, error)
	Now() time.Time
	SaveBrought(ctx context.Context, of store.Import, list []store.Brought) error
	SaveRanks(ctx context.Context, r store.Rival, list []store.RivalPhrase) (added int, err error)
	SaveMapping(ctx context.Context, key, body string) error
	Beside(name string) string
	UndoImport(ctx context.Context, niche uint, batch string) (int, error)
}

// Importer takes in lists.
type Importer struct {
	store  Store
	asker  *ask.Asker
	ideas  *ideas.Keeper
	runner *jobs.Runner
	// suffixes tell what is one site.
	suffixes links.Suffixes
	// confirming lets one file be confirmed at a time.
	confirming sync.Mutex
	mu         sync.Mutex
	open       map[string]*reading // by token: files that a job reads
}

// New returns who takes in the lists of a data file.
func New(st Store, asker *ask.Asker, list *ideas.Keeper, runner *jobs.Runner,
	suffixes links.Suffixes) *Importer {
	return &Importer{store: st, asker: asker, ideas: list, runner: runner, suffixes: suffixes, open: map[string]*reading{}}
}

// Bounds (ours).
const (
	MostUpload   = 128 << 20      // bytes of a file that a browser sends
	keptFor      = 48 * time.Hour // a file that nobody took in
	slice        = 1000           // lines that are put in at once
	ShownRows    = 20             // of a preview
	ShownBad     = 100            // lines that are not used
	mostFiles    = 200            // kept aside at once
	sampledKinds = 200            // rows by which the kind of a file is told
)

// Upload is a file that is kept aside.
type Upload struct {
	Token string
	Name  string // of the list
	File  string // of the file, as it was called
	Niche uint
	Of    string `json:",omitempty"` // the site that a table is about
	At    time.Time
	Shape *files.Shape // as somebody wants it read; nil as it is recognised
	Lines int          // usable and not, once it was confirmed
	// What reading it through as Shape says came to, so that this need not be done twice; nil where it was not.
	Counted    *Counted
	Kind       files.Kind
	Remembered bool // its columns are read as somebody said of a file like it
}

// Counted is how many lines of a file can be used, and how many cannot.
type Counted struct{ Usable, Bad, About int }

// dir is the folder of files that are kept aside, which is made where it is not there.
func (s *Importer) dir() (string, error) {
	dir := s.store.Beside("inbox")
	return dir, os.MkdirAll(dir, 0o700)
}

// Folder is where files are kept aside.
func (s *Importer) Folder() string { return s.store.Beside("inbox") }

// tokenRE is what a token looks like: it names a file.
var tokenRE = regexp.MustCompile(`^[A-Z2-7]{26}$`)

func (s *Importer) path(token, ending string) (string, error) {
	if !tokenRE.MatchString(token) {
		return "", input.ErrNotFound
	}
	dir, err := s.dir()
	return filepath.Join(dir, token+ending), err
}

// Receive keeps a file aside.
func (s *Importer) Receive(_ context.Context, n niches.Niche, name, file string, r io.Reader) (Upload, error) {
	u := Upload{Token: rand.Text(), Name: ideas.ListName(name), File: file, Niche: n.ID, At: s.store.Now().UTC()}
	if u.Name == "" {
		u.Name = ideas.ListName(filepath.Base(file))
	}
	if err := s.tidy(); err != nil {
		return u, err
	}
	path, err := s.path(u.Token, ".list")
	if err != nil {
		return u, err
	}
	out, err := os.OpenFile(path, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
	if err != nil {
		return u, err
	}
	size, err := io.Copy(out, io.LimitReader(r, files.MostBytes+1))
	if err = errors.Join(err, out.Close()); err != nil {
		return u, errors.Join(err, os.Remove(path))
	}
	switch {
	case size > files.MostBytes:
		return u, errors.Join(input.Bad("list", "%s.", sentence(files.ErrTooLarge)), os.Remove(path))
	case size == 0:
		return u, errors.Join(input.Bad("list", "The list is empty. Paste phrases, or choose a file."), os.Remove(path))
	}
	return u, s.note(u)
}

// note keeps what is known of a file beside it, whole or not at all.
func (s *Importer) note(u Upload) error {
	path, err := s.path(u.Token, ".json")
	if err != nil {
		return err
	}
	body, err := json.Marshal(u)
	if err != nil {
		return err
	}
	if err := os.WriteFile(path+".new", body, 0o600); err != nil {
		return err
	}
	return os.Rename(path+".new", path)
}

// Upload is a file that is kept aside for a niche.
func (s *Importer) Upload(n uint, token string) (u Upload, err error) {
	path, err := s.path(token, ".json")
	if err != nil {
		return u, err
	}
	body, err := os.ReadFile(path)
	if errors.Is(err, fs.ErrNotExist) {
		return u, input.ErrNotFound
	}
	if err == nil {
		err = json.Unmarshal(body, &u)
	}
	if err == nil && u.Niche != n {
		err = input.ErrNotFound
	}
	return u, err
}

// Discard removes a file that is kept aside.
func (s *Importer) Discard(token string) error {
	s.mu.Lock()
	if r := s.open[token]; r != nil {
		delete(s.open, token)
		defer r.close()
	}
	s.mu.Unlock()
	dir, err := s.dir()
	if err != nil || !tokenRE.MatchString(token) {
		return err
	}
	all, err := filepath.Glob(filepath.Join(dir, token+".*"))
	for _, path := range all {
		err = errors.Join(err, os.Remove(path))
	}
	return err
}

// tidy removes what nobody took in for long, and what was unpacked of it.
func (s *Importer) tidy() error {
	dir, err := s.dir()
	if err != nil {
		return err
	}
	entries, err := os.ReadDir(dir)
	if err != nil {
		return err
	}
	var infos []fs.FileInfo
	var newest time.Time // by the clock of the disk, which is not ours
	for _, e := range entries {
		if info, err := e.Info(); err == nil {
			infos = append(infos, info)
			if info.ModTime().After(newest) {
				newest = info.ModTime()
			}
		}
	}
	held := 0
	for _, info := range infos {
		if newest.Sub(info.ModTime()) > keptFor {
			_ = os.Remove(filepath.Join(dir, info.Name())) // somebody may read it still: the next time
			continue
		}
		held++
	}
	if held > 4*mostFiles {
		return input.Bad("list", "There are %d files that wait to be imported. Import or discard them first.", held/2)
	}
	return nil
}

// sentence is an error as a sentence that begins with a capital letter, without its stop.
func sentence(err error) string {
	text := err.Error()
	return strings.ToUpper(text[:1]) + text[1:]
}

// wrong is an error of a file, for who sent it.
func wrong(err error) error {
	if err == nil || errors.Is(err, context.Canceled) || errors.Is(err, fs.ErrNotExist) {
		return err
	}
	var said *input.Error
	if errors.As(err, &said) {
		return err
	}
	return input.Bad("list", "%s.", sentence(err))
}

// openFile opens a file that is kept aside.
func (s *Importer) openFile(u Upload, part string) (*files.File, error) {
	path, err := s.path(u.Token, ".list")
	if err != nil {
		return nil, err
	}
	dir, err := s.dir()
	if err != nil {
		return nil, err
	}
	f, err := files.Open(path, u.File, part, dir)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, input.ErrNotFound
	}
	return f, err
}

// imported is the source of figures that a list brought.
func imported(name string) string { return fmt.Sprintf("%s “%s”", store.ImportSource, name) }
