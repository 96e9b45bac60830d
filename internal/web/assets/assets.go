// Package assets embeds styles, scripts, fonts and icons, and serves them under a path that changes with their content,
// so that browsers may keep them for ever.
package assets

import (
	"crypto/sha256"
	"embed"
	"encoding/hex"
	"io/fs"
	"net/http"
)

//go:embed built
var built embed.FS

// Assets are the built files with their common path.
type Assets struct {
	prefix string
	files  http.Handler
}

// New reads the embedded files.
func New() (*Assets, error) {
	files, err := fs.Sub(built, "built")
	if err != nil {
		return nil, err
	}
	sum := sha256.New()
	err = fs.WalkDir(files, ".", func(path string, entry fs.DirEntry, err error) error {
		if err != nil || entry.IsDir() {
			return err
		}
		data, err := fs.ReadFile(files, path)
		sum.Write([]byte(path))
		sum.Write(data)
		return err
	})
	if err != nil {
		return nil, err
	}
	prefix := "/assets/" + hex.EncodeToString(sum.Sum(nil)[:6]) + "/"
	return &Assets{prefix, http.StripPrefix(prefix, http.FileServerFS(files))}, nil
}

// Path is the address of a built file.
func (a *Assets) Path(name string) string { return a.prefix + name }

// ServeHTTP serves a file below "/assets/"; a path of an older build is not found.
func (a *Assets) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	w.Header().Set("Cache-Control", "public, max-age=31536000, immutable")
	a.files.ServeHTTP(w, r)
}
