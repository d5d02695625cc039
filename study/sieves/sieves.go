package sieves

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"cleverniche/core/sieve"
	"cleverniche/store"
	"cleverniche/study/input"
	"cleverniche/study/niches"
)

// Saved is a sieve with a name: one that somebody saved, or one that is ready-made, whose
// ID is 0.
type Saved struct {
	ID uint
	sieve.Sieve
}

// Limits of saved sieves.
const (
	MostName      = 60
	MostFilters   = 40
	MostSieves    = 500
	mostSieveFile = 1 << 20
)

// All lists the ready-made sieves, and then the saved ones by name. One that cannot be
// read, since a newer program saved it, is left out.
func (s *Keeper) All(ctx context.Context) ([]Saved, error) {
	var out []Saved
	for _, r := range sieve.BuiltIn() {
		out = append(out, Saved{Sieve: r})
	}
	rows, err := s.store.Sieves(ctx)
	for _, row := range rows {
		if one, err := savedOf(row); err == nil {
			out = append(out, one)
		}
	}
	return out, err
}

// Shorten keeps a text that is too long for an address, and returns a short key for it, always the
// same one.
func (s *Keeper) Shorten(ctx context.Context, text string) (key string, err error) {
	sum := sha256.Sum256([]byte(text))
	key = hex.EncodeToString(sum[:8])
	if was, err := s.store.Long(ctx, key); err == nil && was == text {
		return key, nil
	}
	return key, s.store.KeepLong(ctx, key, text)
}

// Lengthen returns the text of a key, or ErrNotFound.
func (s *Keeper) Lengthen(ctx context.Context, key string) (string, error) {
	return s.store.Long(ctx, key)
}

// Get returns a saved sieve, or ErrNotFound.
func (s *Keeper) Get(ctx context.Context, id uint) (Saved, error) {
	row, err := s.store.Sieve(ctx, id)
	if err != nil {
		return Saved{}, err
	}
	return savedOf(row)
}

func savedOf(row store.Sieve) (out Saved, err error) {
	out.ID = row.ID
	if err = json.Unmarshal([]byte(row.Body), &out.Sieve); err == nil {
		err = checkSieve(out.Sieve)
	}
	out.Name = row.Name
	return out, err
}

// checkSieve says why a sieve cannot be saved.
func checkSieve(s sieve.Sieve) error {
	if n := len(s.Filters); n > MostFilters {
		return fmt.Errorf("%d filters are more than %d", n, MostFilters)
	}
	return s.Check()
}

// Named returns the sieve of a name, saved or ready-made, or ErrNotFound.
func (s *Keeper) Named(ctx context.Context, name string) (Saved, error) {
	if r, ok := sieve.ReadyMade(name); ok {
		return Saved{Sieve: r}, nil
	}
	row, err := s.store.SieveNamed(ctx, strings.TrimSpace(name))
	if err != nil {
		return Saved{}, err
	}
	return savedOf(row)
}

// sieveName reads the name of a sieve to be saved.
func sieveName(text string) (string, error) {
	name := strings.Join(strings.Fields(text), " ")
	switch {
	case name == "":
		return "", input.Bad("name", "Give the sieve a name.")
	case len([]rune(name)) > MostName:
		return "", input.Bad("name", "The name is longer than %d characters.", MostName)
	}
	for _, r := range sieve.BuiltIn() {
		if strings.EqualFold(r.Name, name) {
			return "", input.Bad("name", "“%s” is a ready-made sieve. Save yours under another name.", r.Name)
		}
	}
	return name, nil
}

// Save saves a sieve by name, in place of the one that has it already; replaced
// reports whether there was one.
func (s *Keeper) Save(ctx context.Context, name string, by sieve.Sieve) (saved Saved, replaced bool, err error) {
	if name, err = sieveName(name); err != nil {
		return saved, false, err
	}
	by.From = ""
	if err := checkSieve(by); err != nil {
		return saved, false, input.Bad("name", "It cannot be saved: %s.", err)
	}
	row, err := s.store.SieveNamed(ctx, name)
	if err != nil && !errors.Is(err, input.ErrNotFound) {
		return saved, false, err
	}
	replaced = err == nil
	if !replaced {
		if err := s.room(ctx, 1); err != nil {
			return saved, false, err
		}
	}
	by.Name = name
	if err := s.putSieve(ctx, &row, by); err != nil {
		return saved, false, err
	}
	return Saved{row.ID, by}, replaced, nil
}

// room reports whether so many more sieves can be saved.
func (s *Keeper) room(ctx context.Context, more int) error {
	rows, err := s.store.Sieves(ctx)
	if err == nil && len(rows)+more > MostSieves {
		err = input.Bad("name", "No more than %d sieves can be saved.", MostSieves)
	}
	return err
}

func (s *Keeper) putSieve(ctx context.Context, row *store.Sieve, by sieve.Sieve) error {
	body, err := json.Marshal(by)
	if err != nil {
		return err
	}
	row.Name, row.Body = by.Name, string(body)
	return s.store.SaveSieves(ctx, row)
}

// Rename gives a saved sieve another name, that no other one has.
func (s *Keeper) Rename(ctx context.Context, id uint, name string) (Saved, error) {
	row, err := s.store.Sieve(ctx, id)
	if err != nil {
		return Saved{}, err
	}
	if name, err = sieveName(name); err != nil {
		return Saved{}, err
	}
	if other, err := s.store.SieveNamed(ctx, name); err == nil && other.ID != id {
		return Saved{}, input.Bad("name", "There is a sieve named “%s” already.", other.Name)
	}
	one, err := savedOf(row)
	if err != nil {
		return one, err
	}
	one.Name = name
	return one, s.putSieve(ctx, &row, one.Sieve)
}

// Duplicate saves a copy of a sieve, saved or ready-made, under a name of its own.
func (s *Keeper) Duplicate(ctx context.Context, name string) (Saved, error) {
	from, err := s.Named(ctx, name)
	if err != nil {
		return from, err
	}
	if why := from.Waits(); why != "" {
		return from, input.Bad("name", "“%s” cannot be copied yet: %s.", from.Name, why)
	}
	for n := 1; ; n++ {
		copied := from.Name + " copy"
		if n > 1 {
			copied = fmt.Sprintf("%s copy %d", from.Name, n)
		}
		if r := []rune(copied); len(r) > MostName {
			copied = string(r[len(r)-MostName:])
		}
		if _, err := s.store.SieveNamed(ctx, copied); errors.Is(err, input.ErrNotFound) {
			saved, _, err := s.Save(ctx, copied, from.Sieve)
			return saved, err
		} else if err != nil {
			return from, err
		}
	}
}

// Delete deletes a saved sieve and returns it, so that it can be put back.
func (s *Keeper) Delete(ctx context.Context, id uint) (Saved, error) {
	row, err := s.store.Sieve(ctx, id)
	if err != nil {
		return Saved{}, err
	}
	one, err := savedOf(row)
	if err != nil {
		one = Saved{ID: id, Sieve: sieve.Sieve{Name: row.Name}} // it is deleted all the same
	}
	return one, s.store.DeleteSieve(ctx, id)
}

// SetDefault makes a saved sieve the usual one of a niche; 0 is none.
func (s *Keeper) SetDefault(ctx context.Context, n niches.Niche, id uint) error {
	if id != 0 {
		if _, err := s.Get(ctx, id); err != nil {
			return err
		}
	}
	return s.store.SetUsualSieve(ctx, n.ID, id)
}

// sieveFile is sieves as a file; its schema is docs/sieves.schema.json.
type sieveFile struct {
	Format  string            `json:"format"`
	Version int               `json:"version"`
	Sieves  []json.RawMessage `json:"sieves"`
}

const (
	sieveFormat  = "clever-niche-sieves"
	sieveVersion = 2 // 1 had filters under another name
)

// Export writes the saved sieves, or those of the names.
func (s *Keeper) Export(ctx context.Context, w io.Writer, names ...string) error {
	all, err := s.All(ctx)
	if err != nil {
		return err
	}
	file := sieveFile{Format: sieveFormat, Version: sieveVersion, Sieves: []json.RawMessage{}}
	for _, one := range all {
		if len(names) == 0 && one.ID == 0 || len(names) > 0 && !slices.Contains(names, one.Name) {
			continue
		}
		body, err := json.Marshal(one.Sieve)
		if err != nil {
			return err
		}
		file.Sieves = append(file.Sieves, body)
	}
	out := json.NewEncoder(w)
	out.SetIndent("", "  ")
	return out.Encode(file)
}

// Report is what an import of sieves did.
type Report struct {
	Saved    []string
	Replaced []string
	Problems []string
}

// Import saves the sieves of a file. One that cannot be used is left out and told;
// a file that is none is an *input.Error, and nothing is saved.
func (s *Keeper) Import(ctx context.Context, in io.Reader) (rep Report, err error) {
	body, err := io.ReadAll(io.LimitReader(in, mostSieveFile+1))
	if err != nil {
		return rep, input.Bad("file", "The file cannot be read: %s.", err)
	}
	if len(body) > mostSieveFile {
		return rep, input.Bad("file", "The file is larger than %d KB.", mostSieveFile>>10)
	}
	var file sieveFile
	if err := json.Unmarshal(bytes.TrimPrefix(body, []byte("\xef\xbb\xbf")), &file); err != nil {
		return rep, input.Bad("file", "This is no file of sieves: %s.", err)
	}
	switch {
	case file.Format != sieveFormat:
		return rep, input.Bad("file", "This is no file of sieves: its format is not “%s”.", sieveFormat)
	case file.Version < 1 || file.Version > sieveVersion:
		return rep, input.Bad("file", "The file is of version %d; this program reads up to version %d.", file.Version,
			sieveVersion)
	case len(file.Sieves) == 0:
		return rep, input.Bad("file", "There is no sieve in the file.")
	case len(file.Sieves) > MostSieves:
		return rep, input.Bad("file", "%d sieves are more than %d.", len(file.Sieves), MostSieves)
	}
	for i, one := range file.Sieves {
		var by sieve.Sieve
		if err := json.Unmarshal(one, &by); err != nil {
			rep.Problems = append(rep.Problems, fmt.Sprintf("Sieve %d%s: %s.", i+1, quotedName(one), err))
			continue
		}
		_, replaced, err := s.Save(ctx, by.Name, by)
		var wrong *input.Error
		switch {
		case errors.As(err, &wrong):
			rep.Problems = append(rep.Problems, fmt.Sprintf("Sieve %d%s: %s", i+1, quotedName(one), wrong.Reason))
		case err != nil:
			return rep, err
		case replaced:
			rep.Replaced = append(rep.Replaced, by.Name)
		default:
			rep.Saved = append(rep.Saved, by.Name)
		}
	}
	return rep, nil
}

// quotedName is how a sieve of a file is called, if it is.
func quotedName(body json.RawMessage) string {
	var named struct {
		Name string `json:"name"`
	}
	if json.Unmarshal(body, &named) != nil || named.Name == "" {
		return ""
	}
	return fmt.Sprintf(" (“%s”)", input.Clip(named.Name, MostName))
}
