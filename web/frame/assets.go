package frame

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"io/fs"
	"maps"
	"mime"
	"path"
	"slices"
	"strings"

	"cleverniche/study/input"

	"github.com/gofiber/fiber/v3"
)

// Assets are the files that browsers load, as they are in the program: each screen's
// script modules, all stylesheets as one, and what lies in static. Their addresses hold
// a digest of all of them, so that they may be kept for ever.
type Assets struct {
	files   map[string][]byte
	modules []string
	version string
}

// joined is the name of the stylesheet that all are joined in.
const joined = "app.css"

// ReadAssets reads them from the screens' folders and static. Stylesheets of the frame
// come first, then those of the screens by name.
func ReadAssets(in fs.FS) (*Assets, error) {
	a := &Assets{files: map[string][]byte{}}
	var styles []string
	err := fs.WalkDir(in, ".", func(name string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || path.Ext(name) == ".html" {
			return err
		}
		if rest, ok := strings.CutPrefix(name, "static/"); ok {
			a.files[rest], err = fs.ReadFile(in, name)
			return err
		}
		switch path.Ext(name) {
		case ".css":
			styles = append(styles, name)
		case ".js":
			a.modules = append(a.modules, name)
			a.files[name], err = fs.ReadFile(in, name)
		}
		return err
	})
	if err != nil {
		return nil, fmt.Errorf("reading the static files: %w", err)
	}
	slices.SortStableFunc(styles, func(a, b string) int { return frameFirst(a) - frameFirst(b) })
	var all bytes.Buffer
	for _, name := range styles {
		data, err := fs.ReadFile(in, name)
		if err != nil {
			return nil, err
		}
		fmt.Fprintf(&all, "/* %s */\n%s\n", name, data)
	}
	a.files[joined] = all.Bytes()
	sum := sha256.New()
	for _, name := range slices.Sorted(maps.Keys(a.files)) {
		sum.Write([]byte(name))
		sum.Write(a.files[name])
	}
	a.version = hex.EncodeToString(sum.Sum(nil))[:12]
	return a, nil
}

func frameFirst(name string) int {
	if strings.HasPrefix(name, "frame/") {
		return 0
	}
	return 1
}

// Address is where a browser finds a file.
func (a *Assets) Address(name string) string { return "/static/" + a.version + "/" + name }

// Modules are the scripts that every page loads.
func (a *Assets) Modules() []string { return a.modules }

// Serve answers with a file. One that is asked for by an address of another version is
// answered, too, but not to be kept.
func (a *Assets) Serve(c fiber.Ctx) error {
	name := c.Params("*")
	data, ok := a.files[name]
	if !ok {
		return input.ErrNotFound
	}
	c.Set(fiber.HeaderContentType, typeOf(name))
	c.Set(fiber.HeaderCacheControl, "no-cache")
	if c.Params("version") == a.version {
		c.Set(fiber.HeaderCacheControl, "public, max-age=31536000, immutable")
	}
	return c.Send(data)
}

func typeOf(name string) string {
	switch path.Ext(name) {
	case ".js":
		return "text/javascript; charset=utf-8"
	case ".woff2":
		return "font/woff2"
	}
	return mime.TypeByExtension(path.Ext(name))
}
