package blob

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"github.com/gabriel-vasile/mimetype"
	"github.com/gosimple/slug"

	"vineladder/internal/core/count"
	"vineladder/internal/core/site"
)

// Limit is the size of the largest file, in bytes.
const Limit = 64 << 20

// A Refusal is why a file is not taken, for whom brought it.
type Refusal struct{ Sentence string }

func (r *Refusal) Error() string { return r.Sentence }

func refuse(format string, args ...any) error { return &Refusal{fmt.Sprintf(format, args...)} }

// allowed are the types that are taken, by the extension of the name: what bytes of it are found to be. Several look
// the same from inside, so the name decides among those.
var allowed = map[string][]string{
	".pdf":  {"application/pdf"},
	".png":  {"image/png"},
	".jpg":  {"image/jpeg"},
	".jpeg": {"image/jpeg"},
	".gif":  {"image/gif"},
	".webp": {"image/webp"},
	".txt":  {"text/plain"},
	".csv":  {"text/csv", "text/plain"},
	".ics":  {"text/calendar"},
	".docx": {"application/vnd.openxmlformats-officedocument.wordprocessingml.document"},
	".xlsx": {"application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"},
	".pptx": {"application/vnd.openxmlformats-officedocument.presentationml.presentation"},
	".odt":  {"application/vnd.oasis.opendocument.text"},
	".ods":  {"application/vnd.oasis.opendocument.spreadsheet"},
	".odp":  {"application/vnd.oasis.opendocument.presentation"},
	".epub": {"application/epub+zip"},
	".zip":  {"application/zip"},
	".gpx":  {"application/gpx+xml"},
	".mp3":  {"audio/mpeg"},
	".mp4":  {"video/mp4"},
}

// types are what files are served as, by extension, where the list says another word for what they look like.
var types = map[string]string{".csv": "text/csv"}

// Keep takes a file that somebody brings, gives what it holds, and keeps it. A Refusal says why it is not taken.
// Nothing of it is kept unless all is.
func (s *Store) Keep(ctx context.Context, name string, from io.Reader) (site.Bytes, error) {
	dir, err := os.MkdirTemp("", "vineladder-file-")
	if err != nil {
		return site.Bytes{}, wrap(err)
	}
	defer os.RemoveAll(dir)
	brought := filepath.Join(dir, "brought")
	if err := spool(brought, from); err != nil {
		return site.Bytes{}, err
	}
	extension := strings.ToLower(filepath.Ext(name))
	holds, err := looked(brought, name, extension)
	if err != nil {
		return holds, err
	}
	made := []version{{0, brought}}
	if strings.HasPrefix(holds.Type, "image/") {
		if made, err = drawn(dir, brought, &holds); err != nil {
			return holds, err
		}
	}
	if holds.Hash, holds.Size, err = hashed(made[0].path); err != nil {
		return holds, err
	}
	for i := len(made) - 1; i >= 0; i-- { // the whole one comes last, so that where it is, all are
		if err := s.put(ctx, key(holds.Hash, made[i].width), made[i].path); err != nil {
			return holds, err
		}
	}
	return holds, nil
}

// spool writes what is brought to a file, up to the limit.
func spool(to string, from io.Reader) error {
	file, err := os.Create(to)
	if err != nil {
		return wrap(err)
	}
	defer file.Close()
	n, err := io.Copy(file, io.LimitReader(from, Limit+1))
	switch {
	case errors.Is(err, io.ErrUnexpectedEOF):
		return refuse("The upload was cut off; nothing of it was kept. Choose the file again.")
	case err != nil:
		return wrap(err)
	case n == 0:
		return refuse("The file is empty.")
	case n > Limit:
		return refuse("A file can have %s at most.", count.Bytes(Limit))
	}
	return wrap(file.Sync())
}

// looked says what the bytes are, if the list has it and the name says the same.
func looked(path, name, extension string) (site.Bytes, error) {
	wanted, known := allowed[extension]
	if !known {
		if extension == ".svg" {
			return site.Bytes{}, refuse(
				"“%s” is a drawing that can run scripts; save it as PNG and upload that.",
				name,
			)
		}
		return site.Bytes{}, refuse("Files like “%s” are not taken. These are: %s.", name,
			strings.ReplaceAll(strings.Join(slices.Sorted(maps.Keys(allowed)), ", "), ".", ""))
	}
	found, err := mimetype.DetectFile(path)
	if err != nil {
		return site.Bytes{}, wrap(err)
	}
	for _, is := range wanted {
		if found.Is(is) {
			kind := is
			if named := types[extension]; named != "" {
				kind = named
			}
			return site.Bytes{Type: kind}, nil
		}
	}
	plain, _, _ := strings.Cut(found.String(), ";")
	return site.Bytes{}, refuse("“%s” is not what its name says: it looks like %s.", name, plain)
}

// hashed gives the hash and the size of a file.
func hashed(path string) (string, int64, error) {
	file, err := os.Open(path)
	if err != nil {
		return "", 0, wrap(err)
	}
	defer file.Close()
	sum := sha256.New()
	n, err := io.Copy(sum, file)
	return hex.EncodeToString(sum.Sum(nil)), n, wrap(err)
}

// Name gives the name under which a file stands in its address: small letters, digits and hyphens, and the extension of
// what is kept.
func Name(brought string, kept site.Bytes) string {
	brought = brought[strings.LastIndexAny(brought, `/\`)+1:]
	extension := strings.ToLower(filepath.Ext(brought))
	if kept.Type == "image/png" {
		extension = ".png"
	}
	stem := slug.Make(strings.ReplaceAll(strings.TrimSuffix(brought, filepath.Ext(brought)), "_", " "))
	if len(stem) > stemLimit {
		stem = stem[:stemLimit]
	}
	if stem = strings.Trim(stem, "-"); stem == "" {
		stem = "file"
	}
	return stem + extension
}

// stemLimit is the length of the longest name without its extension.
const stemLimit = 100
