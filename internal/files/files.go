// Package files keeps what people upload, as plain files in one directory. A name that was given once stays: what is
// uploaded under a name that is taken gets a number.
package files

import (
	"errors"
	"fmt"
	"io"
	"io/fs"
	"mime"
	"net/http"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"github.com/gosimple/slug"
)

// Limit is the size of the largest file, in bytes.
const Limit = 32 << 20

// ErrTooLarge is a file of more than Limit bytes; ErrEmpty one of none.
var (
	ErrTooLarge = fmt.Errorf("a file can have %d MiB at most", Limit>>20)
	ErrEmpty    = errors.New("the file is empty")
)

// A Dir is the directory of the files. The zero Dir has none, and takes none.
type Dir string

// Names gives the names of all files, in order.
func (d Dir) Names() ([]string, error) {
	entries, err := os.ReadDir(string(d))
	if errors.Is(err, fs.ErrNotExist) || d == "" {
		return nil, nil
	}
	if err != nil {
		return nil, fmt.Errorf("read the files directory: %w", err)
	}
	var names []string
	for _, e := range entries {
		if e.Type().IsRegular() && !strings.HasPrefix(e.Name(), ".") {
			names = append(names, e.Name())
		}
	}
	return names, nil
}

// IsName says whether a file could be kept under a name as it is.
func IsName(name string) bool {
	return name != "" && name == filepath.Base(name) && !strings.HasPrefix(name, ".") &&
		!strings.ContainsAny(name, "/\\\x00")
}

// Path is where a file of a name is, or would be.
func (d Dir) Path(name string) string { return filepath.Join(string(d), name) }

// Has says whether there is a file of a name.
func (d Dir) Has(name string) bool {
	if d == "" || name != filepath.Base(name) || strings.HasPrefix(name, ".") {
		return false
	}
	info, err := os.Stat(filepath.Join(string(d), name))
	return err == nil && info.Mode().IsRegular()
}

// Save keeps a file under a name that is safe in addresses, and gives that name. It is whole or not there.
func (d Dir) Save(name string, from io.Reader) (string, error) {
	if d == "" {
		return "", errors.New("no directory for files is set")
	}
	if err := os.MkdirAll(string(d), 0o755); err != nil {
		return "", fmt.Errorf("make the files directory: %w", err)
	}
	part, err := os.CreateTemp(string(d), ".part-*")
	if err != nil {
		return "", fmt.Errorf("keep a file: %w", err)
	}
	defer os.Remove(part.Name())
	defer part.Close()
	n, err := io.Copy(part, io.LimitReader(from, Limit+1))
	switch {
	case err != nil:
		return "", fmt.Errorf("keep a file: %w", err)
	case n == 0:
		return "", ErrEmpty
	case n > Limit:
		return "", ErrTooLarge
	}
	if err := errors.Join(part.Chmod(0o644), part.Sync()); err != nil {
		return "", fmt.Errorf("keep a file: %w", err)
	}
	return d.link(part.Name(), name)
}

// link gives a file its name; a link fails where there is one of that name, so that two uploads at once never share
// one.
func (d Dir) link(part, name string) (string, error) {
	stem, extension := safe(name)
	for n := 1; ; n++ {
		made := stem + extension
		if n > 1 {
			made = fmt.Sprintf("%s-%d%s", stem, n, extension)
		}
		err := os.Link(part, filepath.Join(string(d), made))
		if err == nil {
			return made, nil
		}
		if !errors.Is(err, fs.ErrExist) {
			return "", fmt.Errorf("keep a file: %w", err)
		}
	}
}

// safe gives the stem and the extension under which a file is kept.
func safe(name string) (stem, extension string) {
	name = name[strings.LastIndexAny(name, `/\`)+1:]
	extension = strings.ToLower(filepath.Ext(name))
	stem = slug.Make(strings.TrimSuffix(name, filepath.Ext(name)))
	if rest := slug.Make(strings.TrimPrefix(extension, ".")); rest != "" {
		extension = "." + rest
	} else {
		extension = ""
	}
	if stem == "" {
		stem = "file"
	}
	return stem, extension
}

// shown are the types of files that browsers show inside a page's origin without running anything; all others are
// downloads.
var shown = []string{
	"application/pdf",
	"image/png",
	"image/jpeg",
	"image/gif",
	"image/webp",
	"image/avif",
	"text/plain",
}

// Serve answers with a file by name.
func (d Dir) Serve(w http.ResponseWriter, r *http.Request, name string) {
	if !d.Has(name) {
		http.NotFound(w, r)
		return
	}
	file, err := os.Open(filepath.Join(string(d), name))
	if err != nil {
		http.NotFound(w, r)
		return
	}
	defer file.Close()
	info, err := file.Stat()
	if err != nil {
		http.NotFound(w, r)
		return
	}
	kind := mime.TypeByExtension(filepath.Ext(name))
	if kind == "" {
		kind = "application/octet-stream"
	}
	w.Header().Set("Content-Type", kind)
	w.Header().Set("X-Content-Type-Options", "nosniff")
	w.Header().Set("Content-Security-Policy", "default-src 'none'; style-src 'unsafe-inline'; sandbox")
	if plain, _, _ := mime.ParseMediaType(kind); !slices.Contains(shown, plain) {
		w.Header().Set("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": name}))
	}
	http.ServeContent(w, r, name, info.ModTime(), file)
}
