// Package files serves what people uploaded before files were pages: plain files of one directory, by name. Nothing is
// added to it any more.
package files

import (
	"errors"
	"fmt"
	"io/fs"
	"mime"
	"net/http"
	"os"
	"path/filepath"
	"slices"
	"strings"
)

// A Dir is the directory of the files. The zero Dir has none.
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
